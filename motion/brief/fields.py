"""Takes values out of a JSON object one by one and collects what is wrong with them, by dotted key."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any


class Fields:
    """One object of a brief file. ``problems`` is shared with the objects inside it.

    ``lenient`` objects pass over keys that they do not know.
    """

    def __init__(
        self, data: object, prefix: str = "", problems: dict[str, str] | None = None, *, lenient: bool = False
    ) -> None:
        self.prefix = prefix
        self.lenient = lenient
        self.problems: dict[str, str] = {} if problems is None else problems
        self.data: dict[str, Any] = data if isinstance(data, dict) else {}
        if not isinstance(data, dict):
            self.problems[prefix.rstrip(".")] = "This must be an object."

    def inside(self, key: str) -> Fields:
        """The object under a key; an empty one where it is left out."""
        return Fields(self.data.get(key, {}), f"{self.prefix}{key}.", self.problems, lenient=self.lenient)

    def wrong(self, key: str, message: str) -> None:
        """Say what is wrong with a key; the first complaint about it stays."""
        self.problems.setdefault(self.prefix + key, message)

    def refuse_unknown(self, known: Collection[str]) -> None:
        for key in () if self.lenient else sorted(set(self.data) - set(known)):
            self.wrong(key, f"The brief knows no “{self.prefix}{key}”.")

    def text(self, key: str, most: int) -> str:
        value = self.data.get(key, "")
        if not isinstance(value, str) or len(value) > most:
            self.wrong(key, f"Give a text of at most {most} letters.")
            return ""
        return value

    def choice(self, key: str, options: Collection[str], default: str | None) -> Any:
        value = self.data.get(key, default)
        if not isinstance(value, str) or value not in options:
            self.wrong(key, "Choose one of: " + ", ".join(options) + ".")
            return default
        return value

    def some_of(self, key: str, options: Collection[str]) -> tuple[str, ...]:
        """Any of some values, in their own order; none where the key is left out."""
        value = self.data.get(key, [])
        if not isinstance(value, list) or not all(isinstance(v, str) and v in options for v in value):
            self.wrong(key, "Give a list of any of: " + ", ".join(options) + ".")
            return ()
        return tuple(option for option in options if option in value)

    def flag(self, key: str) -> bool:
        value = self.data.get(key, False)
        if not isinstance(value, bool):
            self.wrong(key, "This is either true or false.")
        return bool(value)

    def number(self, key: str, low: float, high: float, default: float | None) -> Any:
        value = self.data.get(key, default)
        if value is None and default is None:
            return None
        number = float(value) if is_number(value) else math.nan  # type: ignore[arg-type]
        if not low <= number <= high:
            self.wrong(key, f"Give a number from {low:g} to {high:g}.")
            return default
        return number

    def whole(self, key: str, low: int, high: int) -> int | None:
        value = self.data.get(key)
        if value is None:
            return None
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            self.wrong(key, f"Give a whole number from {low} to {high}, or leave it open.")
            return None
        return value

    def pair(self, key: str, names: tuple[str, str], low: int, high: int, *, ordered: bool) -> Any:
        value = self.data.get(key)
        if value is None:
            return None
        inner = Fields(value, f"{self.prefix}{key}.", self.problems)
        first, second = (inner.whole(name, low, high) for name in names)
        inner.refuse_unknown(names)
        for name, part in zip(names, (first, second), strict=True):
            if part is None:
                inner.wrong(name, f"Give a whole number from {low} to {high}.")
        if first is None or second is None:
            return None
        if ordered and first > second:
            self.wrong(key, f"The least ({first}) is more than the most ({second}).")
        return (first, second)

    def span(self, key: str, low: float = 0.0, high: float = 1.0) -> tuple[float, float] | None:
        value = self.data.get(key)
        if value is None:
            return None
        if (
            not isinstance(value, list)
            or len(value) != 2
            or not all(is_number(v) and low <= v <= high for v in value)
            or value[0] > value[1]
        ):
            self.wrong(key, f"Give two numbers from {low:g} to {high:g}, the lower first.")
            return None
        return (float(value[0]), float(value[1]))

    def numbers(self, key: str, names: Collection[str], low: float, high: float) -> dict[str, float]:
        """An object of numbers under known names, in the order of ``names``; those left out are not in it."""
        inner = self.inside(key)
        inner.refuse_unknown(names)
        return {name: inner.number(name, low, high, low) for name in names if name in inner.data}


def is_number(value: object) -> bool:
    """Whether a JSON value is a finite number (true and false are none)."""
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
