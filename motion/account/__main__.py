"""Write the account of the checks and its pictures: python -m motion.account docs/checks.md PICTURES."""

import sys
from pathlib import Path

from motion.account.pages import write

write(Path(sys.argv[1]), Path(sys.argv[2]))
