"""A marker's own phrases: learned from the notes they write, offered where they fit."""

from __future__ import annotations

import re
from dataclasses import dataclass

from django.db.models import Case, F, IntegerField, Value, When

from nettlecap.classroom.models import Person
from nettlecap.marking.models import Phrase

OFFERED = 4
FEWEST_WORDS = 2
_SPAN = re.compile(r"\b[Ff]rames? (\d+)(?:\s*(?:to|and|-|\N{EN DASH})\s*(\d+))?\b")
_MEASURE = re.compile(r"\b\d+(?:\.\d+)? ?(?:px|°|%)")


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A phrase with the frames and measures at hand filled in."""

    pk: int
    text: str


def learn(owner: Person, *, principle: str, code: str, first: int, last: int, text: str) -> None:
    """Remember a note's words; where they name its own frames or a measure, these are left open."""
    if len(text.split()) < FEWEST_WORDS:
        return
    opened = _SPAN.sub(lambda m: _open_span(m, first, last), text)
    opened = _MEASURE.sub("{measure}", opened, count=1)
    phrase, fresh = Phrase.objects.get_or_create(owner=owner, principle=principle, text=opened, defaults={"code": code})
    if not fresh:
        phrase.times, phrase.code = F("times") + 1, code or phrase.code
        phrase.save()


def _open_span(found: re.Match[str], first: int, last: int) -> str:
    named = int(found[1]), int(found[2] or found[1])
    return "{frames}" if named == (first, last) else found[0]


def offer(owner: Person, *, principle: str, code: str, first: int, last: int, measure: str) -> list[Offer]:
    """Phrases that fit, the likeliest first: of the same fault, then of the same principle, then the most used."""
    near = Case(
        When(code=code or "-", then=Value(0)),
        When(principle=principle, then=Value(1)),
        default=Value(2),
        output_field=IntegerField(),
    )
    found = Phrase.objects.filter(owner=owner).annotate(near=near).order_by("near", "-times", "-used_at", "pk")
    if principle:
        found = found.filter(principle__in=(principle, ""))
    return [Offer(pk=p.pk, text=_filled(p.text, first, last, measure)) for p in found[:OFFERED]]


def _filled(text: str, first: int, last: int, measure: str) -> str:
    frames = f"frame {first}" if first == last else f"frames {first} to {last}"
    told = text.replace("{frames}", frames).replace("{measure}", measure or "…")
    return told[:1].upper() + told[1:]


def forget(owner: Person, phrase_id: int) -> None:
    """Offer a phrase no more."""
    Phrase.objects.filter(owner=owner, pk=phrase_id).delete()
