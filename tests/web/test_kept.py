"""An installation as an older version left it, with marks in it, goes on with this one: every page, every decision."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tarfile
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent


class Kept(unittest.TestCase):
    def run_on(self, folder: Path, *words: str) -> str:
        env = {
            **{k: v for k, v in os.environ.items() if k != "DATABASE_URL"},
            "NETTLECAP_DATA": str(folder),
            "DJANGO_SETTINGS_MODULE": "tests.settings",
        }
        done = subprocess.run([sys.executable, *words], cwd=ROOT, env=env, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def test_all_that_was_kept_opens_and_is_as_it_was(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            with tarfile.open(ROOT / "tests/kept/november.tar.xz") as kept:
                kept.extractall(folder, filter="data")
            self.run_on(folder, "manage.py", "migrate", "--verbosity", "0")
            told = json.loads(self.run_on(folder, "-m", "tests.kept.opened", str(folder)).splitlines()[-1])
        self.assertEqual({path: status for path, status in told["pages"].items() if status != 200}, {})
        self.assertGreater(len(told["pages"]), 30)
        gap, jump = "contact.gap:20-20", "spacing.jump:17-17"
        expected = {
            "decisions": [[gap, "agreed"], [jump, "dismissed"]],
            "notes": [["Watch the landing.", "I will."], ["Look at the top.", ""]],
            "strokes": 1,
            "proposals": ["Hold it."],
            "ticked": [[gap]],
            "remarks": ["Lovely arcs."],
            "undo": 8,
            "placed": 1,
            "takes": 7,
        }
        self.assertEqual(told["stored"], expected)
