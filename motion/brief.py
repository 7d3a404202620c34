"""The brief of an exercise: what moves, how it should feel, and how strictly it is looked at.

The file format is ``nettlecap.brief/1``: UTF-8 JSON, every key optional but ``schema`` and ``exercise``,
unknown keys refused by name.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, field
from typing import Any, Literal

from motion.errors import BriefError

SCHEMA = "nettlecap.brief/1"
EXPOSURES = ("ones", "twos", "free")
MATERIALS = ("hard", "firm", "soft")
STRICTNESS_SCALE = {"gentle": 1.6, "standard": 1.0, "strict": 0.6}
MAX_FPS = 120
MAX_FRAMES = 2000
MAX_SIDE = 8192

Exposure = Literal["ones", "twos", "free"]
Material = Literal["hard", "firm", "soft"]
Strictness = Literal["gentle", "standard", "strict"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BounceBrief:
    """What a bouncing-ball brief asks for beyond the common part.

    ``restitution`` is the allowed range of speed after a contact over speed before it, 0 to 1.
    """

    material: Material = "soft"
    hops: int | None = None
    restitution: tuple[float, float] | None = None
    diameter_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Brief:
    """One exercise as set. ``frames`` is (least, most), ``canvas`` (width, height) in px."""

    exercise: Literal["bounce"] = "bounce"
    fps: float = 24.0
    exposure: Exposure = "free"
    frames: tuple[int, int] | None = None
    loop: bool = False
    canvas: tuple[int, int] | None = None
    strictness: Strictness = "standard"
    ground_y: float | None = None
    bounce: BounceBrief = field(default_factory=BounceBrief)

    @property
    def leniency(self) -> float:
        """The factor on every tolerance that the strictness stands for."""
        return STRICTNESS_SCALE[self.strictness]

    def to_json(self) -> dict[str, Any]:
        """The brief as the JSON object of the file format, every key present."""
        b = self.bounce
        return {
            "schema": SCHEMA,
            "exercise": self.exercise,
            "fps": self.fps,
            "exposure": self.exposure,
            "frames": {"min": self.frames[0], "max": self.frames[1]} if self.frames else None,
            "loop": self.loop,
            "canvas": {"width": self.canvas[0], "height": self.canvas[1]} if self.canvas else None,
            "strictness": self.strictness,
            "ground_y": self.ground_y,
            "bounce": {
                "material": b.material,
                "hops": b.hops,
                "restitution": list(b.restitution) if b.restitution else None,
                "diameter_m": b.diameter_m,
            },
        }


def parse(text: str | bytes) -> Brief:
    """Read a brief file. Raises BriefError for anything that is not a sound brief."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BriefError({"": f"The brief is not valid JSON ({error})."}) from error
    return from_json(data)


def from_json(data: object) -> Brief:
    """Validate the JSON object of a brief. Raises BriefError with every problem, by field."""
    if not isinstance(data, dict):
        raise BriefError({"": "A brief is a JSON object with the key “schema”."})
    reader = _Reader(data)
    if data.get("schema") != SCHEMA:
        reader.problems["schema"] = f"This must be “{SCHEMA}”."
    exercise = reader.choice("exercise", ("bounce",), None)
    inner = _Reader(data.get("bounce", {}), "bounce.", reader.problems)
    bounce = {
        "material": inner.choice("material", MATERIALS, "soft"),
        "hops": inner.whole("hops", 1, 200),
        "restitution": inner.span("restitution"),
        "diameter_m": inner.number("diameter_m", 0.001, 100.0, None),
    }
    inner.refuse_unknown(set(bounce))
    values = {
        "fps": reader.number("fps", 1.0, MAX_FPS, 24.0),
        "exposure": reader.choice("exposure", EXPOSURES, "free"),
        "frames": reader.pair("frames", ("min", "max"), 1, MAX_FRAMES, ordered=True),
        "loop": reader.flag("loop"),
        "canvas": reader.pair("canvas", ("width", "height"), 16, MAX_SIDE, ordered=False),
        "strictness": reader.choice("strictness", tuple(STRICTNESS_SCALE), "standard"),
        "ground_y": reader.number("ground_y", 0.0, MAX_SIDE, None),
    }
    reader.refuse_unknown({"schema", "exercise", "bounce", *values})
    if reader.problems:
        raise BriefError(reader.problems)
    return Brief(exercise=exercise, bounce=BounceBrief(**bounce), **values)


class _Reader:
    """Takes values out of a JSON object one by one and collects what is wrong with them."""

    def __init__(self, data: object, prefix: str = "", problems: dict[str, str] | None = None) -> None:
        self.prefix = prefix
        self.problems: dict[str, str] = {} if problems is None else problems
        self.data: dict[str, Any] = data if isinstance(data, dict) else {}
        if not isinstance(data, dict):
            self.problems[prefix.rstrip(".")] = "This must be an object."

    def _wrong(self, key: str, message: str) -> None:
        self.problems[self.prefix + key] = message

    def refuse_unknown(self, known: set[str]) -> None:
        for key in sorted(set(self.data) - known):
            self._wrong(key, f"The brief knows no “{self.prefix}{key}”.")

    def choice(self, key: str, options: tuple[str, ...], default: str | None) -> Any:
        value = self.data.get(key, default)
        if value not in options:
            self._wrong(key, "Choose one of: " + ", ".join(options) + ".")
        return value

    def flag(self, key: str) -> bool:
        value = self.data.get(key, False)
        if not isinstance(value, bool):
            self._wrong(key, "This is either true or false.")
        return bool(value)

    def number(self, key: str, low: float, high: float, default: float | None) -> Any:
        value = self.data.get(key, default)
        if value is None and default is None:
            return None
        number = float(value) if _is_number(value) else math.nan  # type: ignore[arg-type]
        if not low <= number <= high:
            self._wrong(key, f"Give a number from {low:g} to {high:g}.")
            return default
        return number

    def whole(self, key: str, low: int, high: int) -> int | None:
        value = self.data.get(key)
        if value is None:
            return None
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            self._wrong(key, f"Give a whole number from {low} to {high}, or leave it open.")
            return None
        return value

    def pair(self, key: str, names: tuple[str, str], low: int, high: int, *, ordered: bool) -> Any:
        value = self.data.get(key)
        if value is None:
            return None
        inner = _Reader(value, f"{self.prefix}{key}.", self.problems)
        first, second = (inner.whole(name, low, high) for name in names)
        inner.refuse_unknown(set(names))
        for name, part in zip(names, (first, second), strict=True):
            if part is None and f"{self.prefix}{key}.{name}" not in self.problems:
                inner._wrong(name, f"Give a whole number from {low} to {high}.")
        if first is None or second is None:
            return None
        if ordered and first > second:
            self._wrong(key, f"The least ({first}) is more than the most ({second}).")
        return (first, second)

    def span(self, key: str) -> tuple[float, float] | None:
        value = self.data.get(key)
        if value is None:
            return None
        if (
            not isinstance(value, list)
            or len(value) != 2
            or not all(_is_number(v) and 0 <= v <= 1 for v in value)
            or value[0] > value[1]
        ):
            self._wrong(key, "Give two numbers from 0 to 1, the lower first.")
            return None
        return (float(value[0]), float(value[1]))


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
