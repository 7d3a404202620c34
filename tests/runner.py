"""Runs the tests, and says at the end which took longest: what keeps everybody waiting is to be seen."""

from __future__ import annotations

import time
import unittest
from typing import Any

from django.test.runner import DiscoverRunner

SLOWEST = 12


class Timed(unittest.TextTestResult):
    """A result that keeps how long each test took, s."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}
        self._began = 0.0

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().startTest(test)
        self._began = time.perf_counter()

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.took[test.id()] = time.perf_counter() - self._began
        super().stopTest(test)


class Runner(DiscoverRunner):
    """Django's, with the slowest tests and modules told after the others' results."""

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or Timed

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> Any:
        if isinstance(result, Timed) and len(result.took) > SLOWEST:
            modules: dict[str, float] = {}
            for name, seconds in result.took.items():
                module = name.rsplit(".", 2)[0]
                modules[module] = modules.get(module, 0.0) + seconds
            for words, took in (("tests", result.took), ("modules", modules)):
                print(f"The slowest {words}:")
                for name, seconds in sorted(took.items(), key=lambda one: -one[1])[:SLOWEST]:
                    print(f"  {seconds:6.1f} s  {name}")
        return super().suite_result(suite, result, **kwargs)
