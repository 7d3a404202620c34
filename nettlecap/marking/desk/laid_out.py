"""What the marking desk shows of a take, put together for templates: sheet rows, findings by principle, points."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from django.db.models import prefetch_related_objects

from motion import marks
from motion.brief import Brief, Marking
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES, name_of
from motion.report.report import Report
from nettlecap.classroom.models import Person
from nettlecap.marking.desk import chart, ink
from nettlecap.marking.desk.chart import Chart
from nettlecap.marking.desk.first_look import Felt, compare
from nettlecap.marking.desk.measure_words import measure_of
from nettlecap.marking.desk.played import played
from nettlecap.marking.desk.rows import Row, rows_of
from nettlecap.marking.keys import finding_key, span_words
from nettlecap.marking.models import Blind, Decision, MarkSheet, Note, Proposal
from nettlecap.marking.sheets import sheet_for, sheet_of
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """One finding with what the marker said to it."""

    key: str
    code: str
    principle: str
    first_frame: int
    last_frame: int
    severity: str
    confidence: float
    message: str
    advice: str
    measure: str
    verdict: str
    weight: float
    name: str
    """The fault in a few words."""

    @property
    def frames(self) -> str:
        return span_words(self.first_frame, self.last_frame)


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """One principle's part of the mark column."""

    principle: str
    name: str
    findings: tuple[Found, ...]
    notes: tuple[Note, ...]
    most: float
    proposed: float
    by_hand: float | None
    key: int

    @property
    def marked(self) -> bool:
        return self.most > 0

    @property
    def points(self) -> float:
        return self.proposed if self.by_hand is None else self.by_hand

    @property
    def reasons(self) -> tuple[str, ...]:
        """What was taken off for what, in words; nothing where points were set by hand."""
        if self.by_hand is not None or not self.marked:
            return ()
        return tuple(
            f"{marks.lost(self.most, f.severity, f.weight):g} for a {f.severity} fault at {f.frames}: {f.name}"
            for f in self.findings
            if f.verdict == Decision.Verdict.AGREED and f.weight
        )

    @property
    def rule(self) -> str:
        """How its points follow from what is agreed, as a sentence."""
        return marks.rule(self.name, self.most)

    @property
    def open(self) -> int:
        """How many findings are not decided yet."""
        return sum(not f.verdict for f in self.findings)


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """A range of frames that the marker drew on, with so many strokes."""

    first_frame: int
    last_frame: int
    strokes: int

    @property
    def frames(self) -> str:
        return span_words(self.first_frame, self.last_frame)


@dataclass(frozen=True, slots=True, kw_only=True)
class Desk:
    """Everything about a take that is looked at while it is marked, or after it was."""

    take: Take
    sheet: MarkSheet | None
    sections: tuple[Section, ...]
    unmarked: tuple[Found, ...]
    general_notes: tuple[Note, ...]
    late_cost: float
    rows: tuple[Row, ...]
    preflight: tuple[dict[str, Any], ...]
    looked: Felt[Found] | None
    decided: bool
    lacking: str
    timing: dict[str, Any] | None
    player: dict[str, Any]
    charts: tuple[Chart, ...]
    proposal: Proposal | None
    strokes: tuple[dict[str, Any], ...]

    @property
    def gap_unit(self) -> str:
        """In what the sheet's gaps are told."""
        report = report_of(self.take)
        unit = report.gap_unit if report else "px"
        return unit if unit == "°" else f" {unit}"

    @property
    def timing_page(self) -> str:
        """The exercise's own table of how its moves are timed."""
        return f"exercises/{self.take.brief.core.exercise}/_timing.html"

    @property
    def drawn_over(self) -> tuple[Drawn, ...]:
        """The frames that were drawn on, one entry a range."""
        counted = Counter((s["first"], s["last"]) for s in self.strokes)
        return tuple(
            Drawn(first_frame=first, last_frame=last, strokes=n) for (first, last), n in sorted(counted.items())
        )

    @property
    def first_look(self) -> bool:
        """Whether the clip is still to be looked at without what was found: nothing is decided about it yet."""
        sheet = self.sheet
        return sheet is None or not (sheet.taps is not None or sheet.undoable or sheet.returned or self.decided)

    @property
    def total(self) -> float:
        return marks.after_late(sum(s.points for s in self.sections), self.late_cost)

    @property
    def late_percent(self) -> float:
        return round(100 * self.late_cost, 2)

    @property
    def most(self) -> float:
        return sum(s.most for s in self.sections)

    @property
    def found_count(self) -> int:
        return sum(len(s.findings) for s in self.sections)

    @property
    def undecided(self) -> int:
        return sum(s.open for s in self.sections)

    def keys_said(self, verdict: str) -> frozenset[str]:
        """Keys of the findings to which the marker said that."""
        return frozenset(
            f.key for f in (*(f for s in self.sections for f in s.findings), *self.unmarked) if f.verdict == verdict
        )

    @property
    def agreed(self) -> tuple[Found, ...]:
        return tuple(f for s in self.sections for f in s.findings if f.verdict == Decision.Verdict.AGREED)


def lay_out(take: Take, *, agreed_only: bool = False) -> Desk:
    """The desk of an analysed take; with ``agreed_only`` only what the marker agreed, as the student sees it."""
    return _lay_out(take, sheet_of(take), "agreed" if agreed_only else "all")


def lay_out_for(marker: Person, take: Take, part: Blind | None) -> Desk:
    """The desk as this marker works at it: over the take's marks, or over their own ``part`` of a comparison."""
    return _lay_out(take, sheet_for(marker, take, part) if part else sheet_of(take), "all")


def sections_of(take: Take, sheet: MarkSheet) -> tuple[Section, ...]:
    """A take under these marks, principle by principle, without all else that a desk shows."""
    findings, _ = _judged(take, sheet, "all")
    return tuple(_sections(take.brief.core.marking, sheet, findings, list(sheet.notes.all())))


def lay_out_clip(take: Take) -> Desk:
    """A take without anything that was found, measured or decided: what its student sees before the marks are returned.

    Of a draft what can be placed is there: the shapes and the ground.
    """
    shown = _lay_out(take, None, "agreed")
    rows = tuple(replace(row, called="", lanes=()) for row in shown.rows)
    return replace(shown, rows=rows, player=_unmeasured(shown.player, placeable=take.draft), charts=(), timing=None)


def _unmeasured(player: dict[str, Any], *, placeable: bool) -> dict[str, Any]:
    """What plays a clip, without what was measured in it; how its paper lies is no measure."""
    track = player["track"] or {}
    kept = track if placeable else {"kind": track.get("kind"), "shapes": []}
    told = {"shifts": track.get("shifts", []), **{k: kept.get(k) for k in ("kind", "ground", "pivot", "shapes")}}
    nothing: dict[str, Any] = {"arcs": [], "size": None, "ideal": [], "guide": [], "moments": [], "still": None}
    nothing |= {"marks": [], **({} if placeable else {"parts": {}, "landmarks": [], "unsure": []})}
    return {**player, **nothing, "track": told}


def lay_out_trial(take: Take) -> Desk:
    """A clip on which its student runs the checks: what was found, as far as the brief marks it."""
    return _lay_out(take, None, "marked")


Wanted = Literal["all", "agreed", "marked"]


def _judged(take: Take, sheet: MarkSheet | None, wanted: Wanted) -> tuple[list[Found], list[Found]]:
    """The findings that are wanted with what was said to them; and, of all, those that this brief does not mark."""
    verdicts = {d.key: d.verdict for d in sheet.decisions.all()} if sheet else {}
    findings = [_found(f, verdicts, take.brief.core) for f in (take.analysis.findings or {}).get("findings", [])]
    if wanted == "agreed":
        findings = [f for f in findings if f.verdict == Decision.Verdict.AGREED]
    unmarked = [f for f in findings if not f.weight and not f.verdict]
    return [f for f in findings if f not in unmarked], unmarked if wanted == "all" else []


def report_of(take: Take) -> Report | None:
    """What was found in a take; None before it was looked at."""
    return Report(take.analysis.findings) if take.analysis.findings else None


def _lay_out(take: Take, sheet: MarkSheet | None, wanted: Wanted) -> Desk:
    report, marking = report_of(take), take.brief.core.marking
    data = report.data if report else {}
    if sheet:
        prefetch_related_objects([sheet], "decisions", "notes", "strokes")
    notes = list(sheet.notes.all()) if sheet else []
    strokes = list(sheet.strokes.all()) if sheet else []
    findings, unmarked = _judged(take, sheet, wanted)
    kept = {f.key for f in (*findings, *unmarked)}
    return Desk(
        take=take,
        sheet=sheet,
        sections=tuple(_sections(marking, sheet, findings, notes)),
        unmarked=tuple(unmarked),
        general_notes=tuple(n for n in notes if not n.principle),
        late_cost=take.brief.core.terms.late_cost if take.late else 0.0,
        rows=tuple(rows_of(report, findings, notes, strokes, sheet.roles if sheet else {})),
        decided=bool(sheet and sheet.decisions.all()),
        looked=_looked(take, sheet, findings) if wanted == "all" else None,
        preflight=tuple(data.get("preflight", ())),
        lacking=_lacking(take, data),
        timing=report.motion.get("timing") if report else None,
        player=played(report, kept, take.brief.core, with_guide=wanted == "all"),
        proposal=getattr(sheet, "proposal", None),
        strokes=tuple(ink.shown(strokes, take.width)),
        charts=chart.draw(data, kept, finding_key, take.brief.core) if data else (),
    )


def _found(finding: dict[str, Any], verdicts: dict[str, str], brief: Brief) -> Found:
    key, marking = finding_key(finding), brief.marking
    has_points = bool(dict(marking.points).get(finding["principle"]))
    return Found(
        key=key,
        code=finding["code"],
        principle=finding["principle"],
        first_frame=finding["first_frame"],
        last_frame=finding["last_frame"],
        severity=finding["severity"],
        confidence=finding["confidence"],
        message=finding["message"],
        advice=finding["advice"],
        measure=measure_of(finding),
        verdict=verdicts.get(key, ""),
        weight=marking.weight(finding["code"]) if has_points else 0.0,
        name=name_of(brief.exercise, finding["code"]).lower(),
    )


def _sections(
    marking: Marking, sheet: MarkSheet | None, findings: Sequence[Found], notes: Sequence[Note]
) -> list[Section]:
    given = dict(marking.points)
    most: dict[str, float] = {p: float(given.get(p, 0.0)) for p in PRINCIPLES}
    agreed = [(f.principle, f.severity, f.weight) for f in findings if f.verdict == Decision.Verdict.AGREED]
    proposed = marks.propose(most, agreed)
    by_hand = sheet.by_hand if sheet else {}
    return [
        Section(
            principle=p,
            name=PRINCIPLE_NAMES[p],
            findings=tuple(f for f in findings if f.principle == p),
            notes=tuple(n for n in notes if n.principle == p),
            most=most[p],
            proposed=proposed[p],
            by_hand=by_hand.get(p),
            key=number,
        )
        for number, p in enumerate(PRINCIPLES, start=1)
    ]


def _lacking(take: Take, data: dict[str, Any]) -> str:
    """Why not all of a clip could be judged; empty where all could."""
    code = take.brief.exercise.lacking
    return next((note["message"] for note in data.get("preflight", ()) if code and note["code"] == code), "")


def _looked(take: Take, sheet: MarkSheet | None, findings: Sequence[Found]) -> Felt[Found] | None:
    """What was tapped at the first look beside what was found; None before the first look."""
    if sheet is None or sheet.taps is None:
        return None
    return compare(sheet.taps, findings, take.brief.core.fps)
