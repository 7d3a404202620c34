"""What became of what was to fix: an earlier take's agreed findings beside a later take's."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from motion import comparison
from motion.catalogue import PRINCIPLE_NAMES, name_of
from nettlecap.marking.keys import finding_key, span_words
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True)
class Told:
    """A fault in a few words, where it is, and how it has changed since, if both takes have it."""

    name: str
    message: str
    first_frame: int
    last_frame: int
    trend: str = ""

    @property
    def frames(self) -> str:
        return span_words(self.first_frame, self.last_frame)


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One principle: what is gone (frames of the earlier take), what is left, and what is new (frames of this one)."""

    principle: str
    name: str
    gone: tuple[Told, ...]
    left: tuple[Told, ...]
    new: tuple[Told, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Since:
    """A take beside the last one whose marks were returned. ``new`` is empty where it is not to be told yet."""

    before: Take
    parts: tuple[Part, ...]
    tells_new: bool

    @property
    def gone(self) -> int:
        return sum(len(p.gone) for p in self.parts)

    @property
    def left(self) -> int:
        return sum(len(p.left) for p in self.parts)

    @property
    def new(self) -> int:
        return sum(len(p.new) for p in self.parts)


def last_returned(take: Take) -> MarkSheet | None:
    """The marks of the latest earlier take of the same student and brief that were returned."""
    sheets = MarkSheet.objects.filter(
        take__brief=take.brief_id, take__student=take.student_id, take__number__lt=take.number, take__trial=False
    ).exclude(returned_at=None)
    return sheets.select_related("take__analysis").order_by("-take__number").first()


def since(take: Take, *, tell_new: bool, dismissed: frozenset[str] = frozenset()) -> Since | None:
    """What became of the marks returned last; None where there are none, or this take was not looked at yet.

    ``dismissed`` are keys of this take's findings that its marker does not share.
    """
    now = take.analysis.findings
    sheet = last_returned(take) if take.number > 1 and now else None
    then = sheet.take if sheet else None
    before = then.analysis.findings if then else None
    if sheet is None or then is None or not before or not now:
        return None
    agreed = set(sheet.decisions.filter(verdict=Decision.Verdict.AGREED).values_list("key", flat=True))
    found = comparison.compare(
        before,
        [f for f in before["findings"] if finding_key(f) in agreed],
        {**now, "findings": [f for f in now["findings"] if finding_key(f) not in dismissed]},
    )
    exercise = take.brief.core.exercise
    parts = [
        Part(
            principle=principle,
            name=name,
            gone=tuple(_told(exercise, f) for f in found.gone if f["principle"] == principle),
            left=tuple(_told(exercise, b.now, b.trend) for b in found.left if b.now["principle"] == principle),
            new=tuple(_told(exercise, f) for f in found.new if f["principle"] == principle) if tell_new else (),
        )
        for principle, name in PRINCIPLE_NAMES.items()
    ]
    kept = tuple(p for p in parts if p.gone or p.left or p.new)
    return Since(before=then, parts=kept, tells_new=tell_new)


def _told(exercise: str, finding: dict[str, Any], trend: str = "") -> Told:
    name = name_of(exercise, finding["code"]).lower()
    return Told(name, finding["message"], finding["first_frame"], finding["last_frame"], trend)
