"""JSON that a page sends, read at one place: how long, how deep, and what it may be."""

from __future__ import annotations

import json
import math
from typing import Any, TypeVar

from nettlecap.errors import Refusal
from nettlecap.guard.texts import is_written

Kind = TypeVar("Kind", dict[str, Any], list[Any])
LONGEST, DEEPEST, MOST_DIGITS = 400_000, 12, 24
UNREAD = "What was sent could not be understood; nothing was changed."


def read(text: str | bytes, kind: type[Kind], *, words: str = UNREAD, longest: int = LONGEST) -> Kind:
    """An object or a list as JSON. Raises Refusal with ``words`` for anything else.

    Too long, nested too deep, with numbers of too many digits or none (NaN, infinity), with texts that cannot be kept,
    or the same key twice: none of it is read.
    """
    if len(text) > longest or _depth(text) > DEEPEST:
        raise Refusal(words)
    try:
        told = json.loads(text, parse_int=_whole, parse_float=_finite, parse_constant=_nothing, object_pairs_hook=_once)
    except (ValueError, RecursionError) as error:
        raise Refusal(words) from error
    if not isinstance(told, kind) or not _is_kept(told):
        raise Refusal(words)
    return told


def _depth(text: str | bytes) -> int:
    """How deep brackets stand in brackets, at most; those within texts count as well, which only makes it strict."""
    if isinstance(text, bytes):
        text = text.decode("utf-8", "replace")
    depth = deepest = 0
    for c in text:
        if c in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif c in "]}":
            depth -= 1
    return deepest


def _whole(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise ValueError("too many digits")
    return int(digits)


def _finite(digits: str) -> float:
    number = float(digits)
    if not math.isfinite(number):
        raise ValueError("no number")
    return number


def _nothing(name: str) -> float:
    raise ValueError(f"{name} is no number")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    told = dict(pairs)
    if len(told) != len(pairs):
        raise ValueError("the same key twice")
    return told


def _is_kept(value: Any) -> bool:
    if isinstance(value, str):
        return is_written(value)
    if isinstance(value, list):
        return all(map(_is_kept, value))
    if isinstance(value, dict):
        return all(is_written(k) and _is_kept(v) for k, v in value.items())
    return True
