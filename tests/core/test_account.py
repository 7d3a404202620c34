"""The account of the checks: complete, true to the constants, and as it is committed."""

from __future__ import annotations

import inspect
import re
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path

from motion.account.entries import entries, modules_of
from motion.account.pages import EXAMPLES, write
from motion.catalogue import faults
from motion.exercises import EXERCISES
from motion.exercises.bounce import arc, contacts, hang, keeping, patterns, sliding, smooth
from motion.exercises.pendulum import reading as swing_reading
from motion.exercises.pendulum import scene as swing_scene
from motion.exercises.pendulum import smooth as swing_smooth
from motion.exercises.walk import scene as walk_scene
from motion.exercises.walk import smooth as walk_smooth

ROOT = Path(__file__).parents[2]
PICTURES = ROOT / "nettlecap/static/img/checks"
RESTS_ON = {
    "bounce": (arc, contacts, hang, keeping, patterns, sliding, smooth),
    "pendulum": (swing_smooth, swing_reading, swing_scene),
    "walk": (walk_smooth, walk_scene),
}
# Numbers of the account that are counts in words, not constants.
WORDS = {"24"}


def constants(exercise: str) -> set[float]:
    """Every number that a check or what it rests on keeps as a constant, as itself, off one, and as a percentage."""
    found = set(_numbers([*modules_of(exercise), *RESTS_ON[exercise]]))
    return {round(v, 4) for n in found for v in (n, 1 + n, 1 - n, 100 * n)}


def _numbers(modules: list[object]) -> Iterator[float]:
    for module in modules:
        for name, value in inspect.getmembers(module):
            values = value.values() if isinstance(value, dict) else value if isinstance(value, tuple) else (value,)
            if name.isupper():
                yield from (float(v) for v in values if isinstance(v, int | float) and not isinstance(v, bool))


def _pictures(folder: Path) -> dict[str, str]:
    return {str(p.relative_to(folder)): p.read_text(encoding="utf-8") for p in folder.rglob("*.svg")}


class Account(unittest.TestCase):
    def test_every_fault_says_what_is_measured_and_how_far_off_is_too_far(self) -> None:
        for exercise in EXERCISES:
            self.assertEqual({e.code for e in entries(exercise)}, set(faults(exercise)))
            for entry in entries(exercise):
                with self.subTest(exercise, code=entry.code):
                    self.assertTrue(entry.fault and entry.measured and entry.allowed)

    def test_every_fault_says_in_one_sentence_why_it_is_one(self) -> None:
        for exercise in EXERCISES:
            for fault in faults(exercise).values():
                with self.subTest(exercise, code=fault.code):
                    self.assertRegex(fault.why, r"^[A-Z][^.]+\.$")

    def test_its_tolerances_are_those_of_the_code(self) -> None:
        for exercise in EXERCISES:
            known = constants(exercise)
            for entry in entries(exercise):
                for number in re.findall(r"\d+(?:\.\d+)?", entry.allowed):
                    with self.subTest(exercise, code=entry.code, number=number):
                        self.assertTrue(number in WORDS or float(number) in known, entry.allowed)

    def test_each_example_is_told_as_its_fault_and_as_nothing_else(self) -> None:
        for exercise, examples in EXAMPLES.items():
            for code in faults(exercise):
                with self.subTest(exercise, code=code):
                    self.assertEqual(examples.example(code).finding.code, code)

    def test_what_is_committed_is_what_the_checks_say_now(self) -> None:
        with tempfile.TemporaryDirectory(dir=ROOT / "docs") as folder:
            write(Path(folder, "checks.md"), Path(folder, "pictures"))
            written = _pictures(Path(folder, "pictures"))
            said = (
                Path(folder, "checks.md")
                .read_text(encoding="utf-8")
                .replace("(pictures/", "(../nettlecap/static/img/checks/")
            )
        self.assertEqual(written, _pictures(PICTURES), "make account")
        self.assertEqual(said, (ROOT / "docs/checks.md").read_text(encoding="utf-8"), "make account")


if __name__ == "__main__":
    unittest.main()
