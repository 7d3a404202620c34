"""Parameters of a brief, declared once: what a value may be, and how a person is asked for it.

A dataclass whose fields are made by the functions here is read from a brief file, written to one, put into a form,
scaled with the frame and listed in the documents, all from the one declaration. A field whose default is None, or which
is ``open``, may be left open (null).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import Field, dataclass, field, fields
from typing import Any, Literal, TypeVar

from motion.brief.fields import Fields, is_number

Kind = Literal["number", "whole", "choice", "several", "flag", "span", "shares"]
MOST_SHARES = 400
T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Declared:
    """One parameter.

    ``low`` and ``high`` are the least and the most; ``choices`` are (value, words). ``label``, ``help`` and ``group``
    are what a form says of it and where it stands there, no group: nowhere. ``px`` tells that it is a length in the
    frame and grows with it: as what is drawn there does (``fit``), or with its width or height. ``when`` are the
    parameters and their values, in a form's words, with any one of which it means something; none: always.
    ``meaning`` is what the documents say of it.
    """

    kind: Kind
    low: float = 0.0
    high: float = 1.0
    choices: tuple[tuple[str, str], ...] = ()
    open: bool = False
    label: str = ""
    help: str = ""
    group: str = ""
    px: Literal["", "fit", "x", "y"] = ""
    when: tuple[tuple[str, str], ...] = ()
    meaning: str = ""


def number(default: float | None, low: float, high: float, *, open: bool = False, **told: Any) -> Any:  # noqa: A002
    """A number from ``low`` to ``high``."""
    return _declare(default, Declared(kind="number", low=low, high=high, open=open or default is None, **told))


def whole(default: int | None, low: int, high: int, *, open: bool = False, **told: Any) -> Any:  # noqa: A002
    """A whole number from ``low`` to ``high``."""
    return _declare(default, Declared(kind="whole", low=low, high=high, open=open or default is None, **told))


def choice(default: str | None, *choices: tuple[str, str], **told: Any) -> Any:
    """One of some values, each with its words."""
    return _declare(default, Declared(kind="choice", choices=choices, **{"open": default is None, **told}))


def several(*choices: tuple[str, str], **told: Any) -> Any:
    """Any of some values, each with its words; none where nothing else is said."""
    return _declare((), Declared(kind="several", choices=choices, **told))


def flag(default: bool | None, **told: Any) -> Any:
    """Yes or no."""
    return _declare(default, Declared(kind="flag", open=default is None, **told))


def span(low: float = 0.0, high: float = 1.0, **told: Any) -> Any:
    """A range within ``low`` and ``high``, of shares where nothing else is said, or None."""
    return _declare(None, Declared(kind="span", low=low, high=high, open=True, **told))


def shares(**told: Any) -> Any:
    """Drawings by number at a share of a way, as pairs in order."""
    return _declare((), Declared(kind="shares", **told))


def _declare(default: Any, declared: Declared) -> Any:
    return field(default=default, metadata={"declared": declared})


def declared_of(cls: Any) -> Iterator[tuple[str, Declared, Any]]:
    """Name, declaration and default of every parameter of a dataclass, in order."""
    for one in fields(cls):
        declared = _of(one)
        if declared is not None:
            yield one.name, declared, one.default


def _of(one: Field[Any]) -> Declared | None:
    declared = one.metadata.get("declared")
    return declared if isinstance(declared, Declared) else None


def read(cls: type[T], given: Fields) -> T:
    """A dataclass of parameters from an object of a brief file; what is wrong is told to ``given``."""
    values = {name: _READERS[d.kind](given, name, d, default) for name, d, default in declared_of(cls)}
    given.refuse_unknown(values)
    return cls(**values)


def to_json(values: Any) -> dict[str, Any]:
    """A dataclass of parameters as an object of a brief file, every key present."""
    return {name: _told(getattr(values, name), d) for name, d, _ in declared_of(type(values))}


def _told(value: Any, declared: Declared) -> Any:
    if declared.kind == "shares":
        return {str(number): share for number, share in value}
    return list(value) if isinstance(value, tuple) else value


def rescaled(values: Any, old: tuple[int, int], new: tuple[int, int]) -> dict[str, float]:
    """The lengths in px of a dataclass of parameters, made for a frame of one size (width, height), in another.

    To a tenth, by name; what is left open is not among them.
    """
    by = {"fit": _room(new) / _room(old), "x": new[0] / old[0], "y": new[1] / old[1]}
    told = ((name, d, getattr(values, name)) for name, d, _ in declared_of(type(values)) if d.px)
    return {name: round(value * by[d.px], 1) for name, d, value in told if value is not None}


def _room(size: tuple[int, int]) -> float:
    # Bound by the narrower side, so that a width and then a height that go together scale only once.
    return min(size[0] / 16, size[1] / 9)


def _number(given: Fields, name: str, d: Declared, default: Any) -> Any:
    if d.open and name not in given.data:
        return default
    return given.number(name, d.low, d.high, None if d.open else default)


def _whole(given: Fields, name: str, d: Declared, default: Any) -> Any:
    if name not in given.data:
        return default
    found = given.whole(name, int(d.low), int(d.high))
    return found if d.open or found is not None else default


def _choice(given: Fields, name: str, d: Declared, default: Any) -> Any:
    if d.open and given.data.get(name) is None:
        return None
    return given.choice(name, tuple(value for value, _ in d.choices), default)


def _several(given: Fields, name: str, d: Declared, default: Any) -> tuple[str, ...]:
    return given.some_of(name, tuple(value for value, _ in d.choices))


def _flag(given: Fields, name: str, d: Declared, default: Any) -> Any:
    if d.open and given.data.get(name) is None:
        return None
    return given.flag(name) if name in given.data else default


def _span(given: Fields, name: str, d: Declared, default: Any) -> Any:
    return given.span(name, d.low, d.high)


def _shares(given: Fields, name: str, d: Declared, default: Any) -> tuple[tuple[int, float], ...]:
    data = given.data.get(name) or {}
    sound = isinstance(data, dict) and all(
        str(k).isascii() and str(k).isdecimal() and len(str(k)) < 6 and is_number(v) and 0 < v < 1
        for k, v in data.items()
    )
    if not sound or len(data) > MOST_SHARES:
        given.wrong(name, "Give drawing numbers with their places between 0 and 1.")
        return ()
    return tuple(sorted((int(k), float(v)) for k, v in data.items()))


_READERS: Mapping[str, Any] = {
    "number": _number,
    "whole": _whole,
    "choice": _choice,
    "several": _several,
    "flag": _flag,
    "span": _span,
    "shares": _shares,
}
