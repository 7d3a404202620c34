"""Two markers, one measure: the same clips marked blind by two, and where they differ."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from motion.agreement import Agreement, agreement
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES
from nettlecap.classroom import policy
from nettlecap.classroom.models import MARKERS, Brief, Membership, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.marking.decisions.history import record
from nettlecap.marking.desk.laid_out import Section, sections_of
from nettlecap.marking.models import Blind, Comparison, Decision, DrawnStroke, MarkSheet, Note, Proposal
from nettlecap.marking.sheets import blind_of, seen_in, sheet_of
from nettlecap.takes import results
from nettlecap.takes.models import Analysis, Take

MOST_CLIPS = 40
TELLS = 0.05
"""From so many points a clip on somebody is said to be the stricter one."""
PROPOSED = 6
"""So many clips are proposed to begin with."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """How far one of the two is."""

    marker: Person
    done: int
    clips: int

    @property
    def finished(self) -> bool:
        return self.done == self.clips


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """How the two compare on one principle, or (``principle`` empty) on the whole."""

    principle: str
    name: str
    agreement: Agreement
    stricter: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """A finding to which the two said different things."""

    name: str
    frames: str
    principle: str
    one: str
    other: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Clip:
    """One clip as both marked it: points (principle, the one's, the other's), and what they saw otherwise."""

    take: Take
    points: tuple[tuple[str, float, float], ...]
    totals: tuple[float, float]
    differences: tuple[Difference, ...]
    own: MarkSheet | None

    @property
    def apart(self) -> float:
        """By how many points they differ, whichever way, over all principles."""
        return sum(abs(one - other) for _, one, other in self.points)


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """A comparison as far as it may be told: who is how far, and once both are done, how they agree."""

    comparison: Comparison
    parts: tuple[Part, Part]
    measures: tuple[Measure, ...]
    clips: tuple[Clip, ...]

    @property
    def finished(self) -> bool:
        return all(p.finished for p in self.parts)


def candidates(person: Person, brief: Brief) -> tuple[list[Take], set[int]]:
    """The last takes that can be compared, and the numbers of those proposed: spread from few faults to many."""
    policy.require(policy.may_lead(person, brief.course_id), "hand clips to two markers")
    takes = Take.objects.filter(brief=brief).newest().filter(analysis__state=Analysis.State.DONE)
    # Marks that are returned could be read by both.
    takes = takes.filter(sheet__returned_at=None)
    found = list(takes.select_related("student", "analysis").order_by("student__name"))
    by_faults = sorted(found, key=lambda t: len(t.analysis.faults))
    count = min(PROPOSED, len(by_faults))
    steps = [round(i * (len(by_faults) - 1) / max(1, count - 1)) for i in range(count)]
    return found, {by_faults[i].pk for i in steps}


def markers_of(brief: Brief) -> list[Person]:
    """Who marks in the course of a brief."""
    current = Membership.objects.current().filter(course=brief.course_id, role__in=MARKERS)
    return [m.person for m in current.select_related("person").order_by("person__name")]


def hand_to_two(person: Person, brief: Brief, *, one: int | None, other: int | None, takes: list[int]) -> Comparison:
    """Hand clips to two markers, blind."""
    there = {t.pk: t for t in candidates(person, brief)[0]}
    chosen = there.keys() & set(takes)
    able = {p.pk: p for p in markers_of(brief)}
    if one not in able or other not in able or one == other:
        raise Refusal("Choose two different people who mark in this course.")
    if Take.objects.filter(brief=brief, pk__in=takes, sheet__returned_at__isnull=False).exists():
        raise Conflict("The marks of some of these clips are returned, and could be read. Choose others.")
    if not 2 <= len(chosen) <= MOST_CLIPS:
        raise Refusal(f"Choose from 2 to {MOST_CLIPS} clips.")
    busy = Blind.objects.filter(take__in=chosen, marker__in=(one, other), comparison__closed_at=None)
    if busy.exists():
        raise Conflict("One of the two has some of these clips in a comparison that is still open. End that one first.")
    with transaction.atomic():
        comparison = Comparison.objects.create(brief=brief, one=able[one], other=able[other], opened_by=person)
        Blind.objects.bulk_create(
            Blind(
                comparison=comparison,
                take_id=take,
                marker_id=marker,
                findings=there[take].analysis.findings,
                placed=there[take].placed,
            )
            for marker in (one, other)
            for take in sorted(chosen)
        )
    return comparison


def visible(person: Person, number: int) -> Comparison | None:
    """A comparison that this person may look at: who leads the course, and its two markers."""
    found = Comparison.objects.select_related("brief__course", "one", "other").filter(pk=number).first()
    if found is None or not policy.may_mark(person, found.brief.course_id):
        return None
    led = policy.may_lead(person, found.brief.course_id)
    return found if led or person.pk in (found.one_id, found.other_id) else None


def waiting(person: Person) -> list[tuple[Comparison, int, int]]:
    """The open comparisons in which this person still has clips: with how many are left, and how many there are."""
    parts = Blind.objects.filter(marker_id=person.pk, comparison__closed_at=None, comparison__brief__in=_marked(person))
    told: dict[int, list[Blind]] = {}
    for part in parts.select_related("comparison__brief", "comparison__one", "comparison__other", "sheet"):
        told.setdefault(part.comparison_id, []).append(part)
    counted = [(own[0].comparison, sum(not _done(p) for p in own), len(own)) for own in told.values()]
    return [entry for entry in counted if entry[1]]


def _marked(person: Person) -> QuerySet[Brief]:
    return Brief.objects.markable_by(person).only("pk")


def left_for(person: Person, comparison: Comparison, after: Take | None = None) -> list[Take]:
    """The clips that this person still marks in a comparison, in order."""
    left = comparison.parts.filter(marker_id=person.pk).filter(Q(sheet=None) | Q(sheet__returned_at=None))
    return [p.take for p in left.select_related("take") if p.take != after]


def lay_down(marker: Person, sheet: MarkSheet) -> None:
    """A marker's blind marks are done; call it inside a transaction. Once all are, the comparison ends by itself."""
    sheet.returned_at = timezone.now()
    sheet.save()
    record(sheet, marker, "laid down the marks")
    if sheet.blind is None:
        raise Conflict("These marks are not given blind.")
    comparison = sheet.blind.comparison
    if not comparison.parts.filter(Q(sheet=None) | Q(sheet__returned_at=None)).exists():
        Comparison.objects.filter(pk=comparison.pk).update(closed_at=timezone.now())


def take_up(marker: Person, take: Take) -> None:
    """Take one's own blind marks up again, as long as the comparison is open."""
    part = blind_of(marker, take)
    sheet = getattr(part, "sheet", None)
    if sheet is None or not sheet.returned:
        raise Conflict("These marks are not laid down; you can go on marking.")
    with transaction.atomic():
        sheet.returned_at = None
        sheet.save()
        record(sheet, marker, "took the marks up again")


def end(person: Person, comparison: Comparison) -> None:
    """End a comparison; what is not marked by both is left out of it."""
    policy.require(policy.may_lead(person, comparison.brief.course_id), "end this comparison")
    Comparison.objects.filter(pk=comparison.pk, closed_at=None).update(closed_at=timezone.now())


def outcome(comparison: Comparison) -> Outcome:
    """Where a comparison stands. What the two said is told to nobody before it has ended."""
    parts = list(comparison.parts.select_related("sheet", "marker"))
    told = tuple(
        Part(
            marker=marker,
            done=sum(_done(p) for p in parts if p.marker_id == marker.pk),
            clips=sum(p.marker_id == marker.pk for p in parts),
        )
        for marker in (comparison.one, comparison.other)
    )
    clips = _clips(comparison) if comparison.closed_at else []
    return Outcome(
        comparison=comparison,
        parts=(told[0], told[1]),
        measures=tuple(_measures(comparison, clips)),
        clips=tuple(sorted(clips, key=lambda c: -c.apart)),
    )


def adopt(person: Person, comparison: Comparison, take: Take, marker_id: int | None) -> None:
    """Make what one of the two said the marks of a take, where nobody has marked it yet."""
    policy.require(policy.may_lead(person, comparison.brief.course_id), "choose the marks of this clip")
    part = comparison.parts.filter(take=take, marker=marker_id).select_related("sheet", "marker").first()
    source = getattr(part, "sheet", None)
    if part is None or comparison.closed_at is None or source is None or not source.returned:
        raise Conflict("These marks are not laid down yet.")
    with transaction.atomic():
        own = sheet_of(take)
        if own is not None and _is_begun(own):
            raise Conflict("This clip is being marked, or is marked, already; open it at the desk.")
        MarkSheet.objects.filter(take=take).delete()
        if part.findings is not None and part.placed != take.placed:
            # What was said stands for what was seen then.
            take.placed = part.placed
            take.save(update_fields=["placed"])
            results.judge_again(take)
        own = _copy(source, take, person)
        record(own, person, f"took over the marks that {part.marker.name} gave blind")


def _is_begun(sheet: MarkSheet) -> bool:
    """Whether anything in these marks would be lost with them."""
    told = sheet.returned or sheet.undoable or sheet.remark or sheet.by_hand
    return bool(told or sheet.decisions.exists() or sheet.notes.exists())


def _copy(source: MarkSheet, take: Take, person: Person) -> MarkSheet:
    own = MarkSheet.objects.create(
        take=take,
        by_hand=source.by_hand,
        roles=source.roles,
        taps=source.taps,
        remark=source.remark,
        seconds=source.seconds,
        marked_by=person,
    )
    Decision.objects.bulk_create(Decision(sheet=own, key=d.key, verdict=d.verdict) for d in source.decisions.all())
    Note.objects.bulk_create(
        Note(sheet=own, first_frame=n.first_frame, last_frame=n.last_frame, principle=n.principle, text=n.text)
        for n in source.notes.all()
    )
    DrawnStroke.objects.bulk_create(DrawnStroke(sheet=own, **s.told) for s in source.strokes.all())
    proposal = Proposal.objects.filter(sheet=source).values("timing", "fps", "note").first()
    if proposal:
        Proposal.objects.create(sheet=own, **proposal)
    return own


def _done(part: Blind) -> bool:
    sheet = getattr(part, "sheet", None)
    return sheet is not None and sheet.returned


def _clips(comparison: Comparison) -> list[Clip]:
    by_take: dict[int, dict[int, Blind]] = {}
    found = comparison.parts.select_related("take__student", "take__analysis", "take__brief", "take__sheet", "sheet")
    for part in found.prefetch_related("sheet__decisions", "sheet__notes"):
        if _done(part):
            by_take.setdefault(part.take_id, {})[part.marker_id] = part
    both = [p for p in by_take.values() if len(p) == 2]
    return [_clip(parts[comparison.one_id], parts[comparison.other_id]) for parts in both]


def _clip(one: Blind, other: Blind) -> Clip:
    take = one.take
    sides = tuple(sections_of(seen_in(part, part.take), part.sheet) for part in (one, other))
    points = tuple((a.principle, a.points, b.points) for a, b in zip(*sides, strict=True) if a.marked)
    return Clip(
        take=take,
        points=points,
        totals=(sum(p[1] for p in points), sum(p[2] for p in points)),
        differences=tuple(_differences(*sides)),
        own=getattr(take, "sheet", None),
    )


def _differences(one: Sequence[Section], other: Sequence[Section]) -> Iterator[Difference]:
    """The findings that one of the two agreed and the other did not."""
    said = [{f.key: f for section in side for f in section.findings} for side in (one, other)]
    for key, found in (said[0] | said[1]).items():
        verdicts = [side[key].verdict if key in side else "" for side in said]
        if Decision.Verdict.AGREED in verdicts and verdicts[0] != verdicts[1]:
            yield Difference(
                name=found.name,
                frames=found.frames,
                principle=found.principle,
                one=_said(verdicts[0]),
                other=_said(verdicts[1]),
            )


def _said(verdict: str) -> str:
    return verdict or "left open"


def _measures(comparison: Comparison, clips: list[Clip]) -> list[Measure]:
    told: list[tuple[str, str, list[tuple[float, float]]]] = []
    for principle in PRINCIPLES:
        pairs = [(one, other) for c in clips for p, one, other in c.points if p == principle]
        if pairs:
            told.append((principle, PRINCIPLE_NAMES[principle], pairs))
    if clips:
        told.append(("", "All in all", [c.totals for c in clips]))
    return [_measure(p, name, agreement(pairs), comparison) for p, name, pairs in told]


def _measure(principle: str, name: str, found: Agreement, comparison: Comparison) -> Measure:
    by = found.stricter
    who = comparison.one if by > 0 else comparison.other
    stricter = "" if abs(by) < TELLS else f"{who.name}, by {abs(by):.1f} a clip"
    return Measure(principle=principle, name=name, agreement=found, stricter=stricter)
