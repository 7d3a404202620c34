"""The guide of a brief as files to give out, as much of it as whoever asks may have."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from django.template.loader import render_to_string
from django.utils.text import slugify

from motion import ink
from motion.guide import chart, sheet, stills
from motion.guide.guide import Guide, guide_of
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief

Layers = tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideFile:
    """A file: its content in parts, what it is, and what to call it."""

    parts: Iterable[bytes]
    content_type: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What a person is given of a brief's guide: the drawing with those layers, and the files there are of it."""

    drawing: str
    kinds: tuple[str, ...]


KINDS: dict[str, tuple[str, str, str]] = {
    "sheet.svg": ("image/svg+xml", "Sheet, SVG", "layers to switch on and off"),
    "sheet.png": ("image/png", "Sheet, PNG", "one picture, transparent"),
    "frames.zip": ("application/zip", "A picture a frame, PNG", "numbered, transparent, in a zip"),
    "sheet.pdf": ("application/pdf", "To print, PDF", "path, timing chart, facts, room for notes"),
    "chart.svg": ("image/svg+xml", "Timing chart, SVG", "keys, breakdowns, in-betweens"),
    "figure.svg": ("image/svg+xml", "The figure to draw, SVG", "proportions, tones, the drawings by name"),
    "figure.png": ("image/png", "The figure to draw, PNG", "the same as a picture"),
}
OF_FIGURE = ("figure.svg", "figure.png")
NEEDS_ALL = ("frames.zip", "sheet.pdf", "chart.svg", *OF_FIGURE)


def layers_for(*, marks: bool, brief: Brief) -> Layers:
    """The layers of the guide that may be seen: all by who marks, by students what the brief gives away."""
    terms = brief.core.terms
    if marks:
        return sheet.GIVEN["all"]
    return tuple(sheet.GIVEN[terms.guide_after if brief.is_due else terms.guide])


def given(brief: Brief, *, marks: bool) -> Given | None:
    """What who marks, or a student, is given of the guide; None where there is none, or none for them."""
    layers = layers_for(marks=marks, brief=brief)
    if brief.core.guide is None or not layers:
        return None
    return Given(drawing=ink.text_of(sheet.draw(guide_of(brief.core), layers)), kinds=kinds_for(brief, layers))


def kinds_for(brief: Brief, layers: Layers) -> tuple[str, ...]:
    """The files that come with those layers."""
    told = brief.exercise.guided.figure_sheet is not None
    kinds = [k for k in KINDS if told or k not in OF_FIGURE]
    return tuple(k for k in kinds if layers == sheet.LAYERS or k not in NEEDS_ALL)


def file_for(person: Any, brief: Brief, kind: str) -> GuideFile | None:
    """A file of the guide; None where there is none such for that person."""
    layers = layers_for(marks=policy.may_mark(person, brief.course_id), brief=brief)
    if brief.core.guide is None or not layers or kind not in kinds_for(brief, layers):
        return None
    made = MAKERS[kind](brief, guide_of(brief.core), layers)
    return GuideFile(parts=made, content_type=KINDS[kind][0], name=f"{stem_of(brief)}-guide-{kind}")


def stem_of(brief: Brief) -> str:
    """What a brief's files are called: its title in plain letters."""
    return slugify(brief.title) or "brief"


def _svg(_: Brief, guide: Guide, layers: Layers) -> Iterable[bytes]:
    return [ink.file_of(sheet.draw(guide, layers))]


def _png(_: Brief, guide: Guide, layers: Layers) -> Iterable[bytes]:
    return [stills.png(sheet.draw(guide, layers))]


def _frames(_: Brief, guide: Guide, layers: Layers) -> Iterator[bytes]:
    return stills.archive(guide, layers)


def _chart(_: Brief, guide: Guide, __: Layers) -> Iterable[bytes]:
    return [ink.file_of(chart.draw(guide))]


def _figure(guide: Guide) -> ink.Element:
    draws = guide.exercise.guided.figure_sheet
    if draws is None:
        raise LookupError("this exercise has no figure to draw")
    return draws(guide.brief, guide.plan)


def _figure_svg(_: Brief, guide: Guide, __: Layers) -> Iterable[bytes]:
    return [ink.file_of(_figure(guide))]


def _figure_png(_: Brief, guide: Guide, __: Layers) -> Iterable[bytes]:
    return [stills.png(_figure(guide))]


def _pdf(brief: Brief, guide: Guide, layers: Layers) -> Iterable[bytes]:
    from nettlecap.classroom import printing

    context = {
        "brief": brief,
        "sheet": ink.text_of(sheet.draw(guide, layers)),
        "chart": ink.text_of(chart.draw(guide)),
        "figure": ink.text_of(_figure(guide)) if guide.exercise.guided.figure_sheet else "",
        "words": guide.exercise.guided.sentences(guide.brief, guide.plan),
        "facts": guide.exercise.facts(guide.brief),
        "lines": range(4),
    }
    return [printing.pdf(render_to_string("classroom/guide_print.html", context))]


MAKERS: dict[str, Callable[[Brief, Guide, Layers], Iterable[bytes]]] = {
    "sheet.svg": _svg,
    "sheet.png": _png,
    "frames.zip": _frames,
    "sheet.pdf": _pdf,
    "chart.svg": _chart,
    "figure.svg": _figure_svg,
    "figure.png": _figure_png,
}
