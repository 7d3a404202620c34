#!/usr/bin/env python3
"""Runs the project's commands, in the project's own environment if the current one lacks what they need."""

import importlib.util
import os
import sys
from pathlib import Path

ENVIRONMENT = Path(__file__).resolve().parent / ".venv" / "bin" / "python"


def main() -> None:
    if importlib.util.find_spec("django") is None:
        if not ENVIRONMENT.exists() or Path(sys.prefix) == ENVIRONMENT.parent.parent:
            sys.exit("The packages are not installed yet. Run “make setup” first.")
        os.execv(ENVIRONMENT, [str(ENVIRONMENT), *sys.argv])
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nettlecap.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
