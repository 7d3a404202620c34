"""The class wall: students by principles and faults, the commonest faults, and the clips that show them best."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404

import motion.brief
from motion import catalogue
from motion.catalogue import PRINCIPLE_NAMES
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Course, Membership, Person
from nettlecap.marking.returning.grades import Fault, Grade, faults, fetched_sheet, grade
from nettlecap.takes.models import Take

SHOWN = 4
"""So many glyphs stand in a cell; of more, the number is told."""
COMMONEST, BEST = 6, 4
HEAVINESS = ("strong", "clear", "slight")


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """One principle's faults of a student, the gravest first."""

    principle: str
    name: str
    severities: tuple[str, ...]

    @property
    def shown(self) -> tuple[str, ...]:
        return self.severities[:SHOWN]

    @property
    def more(self) -> int:
        return max(0, len(self.severities) - SHOWN)


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A student's last takes (one a brief), their faults, and by how many there are fewer than in their first takes.

    ``slots`` has an entry for each brief that was asked for, with None where nothing is handed in.
    """

    student: Person
    slots: tuple[tuple[Brief, Take | None], ...]
    every_take: tuple[Take, ...]
    missing: int
    late: int
    cells: tuple[Cell, ...]
    fewer: int | None
    grade: Grade | None

    @property
    def takes(self) -> tuple[Take, ...]:
        return tuple(take for _, take in self.slots if take is not None)

    @property
    def faults(self) -> int:
        return sum(len(c.severities) for c in self.cells)


@dataclass(frozen=True, slots=True, kw_only=True)
class Common:
    """A fault of the class: how many have it, and the clips that show it best, as (take, first frame)."""

    exercise: str
    code: str
    name: str
    principle: str
    principle_name: str
    students: int
    clips: tuple[tuple[Take, int], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Wall:
    """A class, by one brief or over the term."""

    course: Course
    brief: Brief | None
    briefs: tuple[Brief, ...]
    lines: tuple[Line, ...]
    common: tuple[Common, ...]
    by: str
    orders: tuple[tuple[str, str], ...]
    principles: tuple[tuple[str, str], ...]

    @property
    def students(self) -> list[Person]:
        """Everybody in the class, by name."""
        return sorted((line.student for line in self.lines), key=lambda s: s.name)


ORDERS: dict[str, tuple[str, Callable[[Line], Any]]] = {
    "name": ("name", lambda line: 0),
    "faults": ("most faults", lambda line: -line.faults),
    "missing": ("not handed in", lambda line: (-line.missing, -line.faults)),
    "late": ("late", lambda line: (-line.late, -line.faults)),
    "improved": ("most improved", lambda line: -(line.fewer if line.fewer is not None else -999)),
}


def wall(person: Person, course_id: int, brief_id: int | None = None, by: str = "name") -> Wall:
    """The wall of a course that this person marks in; Http404 for others, and for a brief of another course."""
    course = get_object_or_404(Course.objects.taught_by(person), pk=course_id)
    briefs = tuple(Brief.objects.filter(course=course).exclude(published_at=None))
    brief = next((b for b in briefs if b.pk == brief_id), None)
    if brief_id is not None and brief is None:
        get_object_or_404(Brief.objects.none(), pk=brief_id)
    asked = (brief,) if brief else briefs
    takes = _takes(asked)
    cores = {b.pk: b.core for b in asked}
    learning = Membership.objects.learning().filter(course=course)
    students = Person.objects.filter(memberships__in=learning).order_by("name")
    lines = [_line(s, asked, takes[s.pk], cores) for s in students]
    by = by if by in ORDERS else "name"
    return Wall(
        course=course,
        brief=brief,
        briefs=briefs,
        lines=tuple(sorted(lines, key=ORDERS[by][1])),
        common=tuple(_common(lines, cores)),
        by=by,
        orders=tuple((key, words) for key, (words, _) in ORDERS.items()),
        principles=tuple(PRINCIPLE_NAMES.items()),
    )


def grades_of(shown: Wall) -> Iterator[tuple[Brief, Line]]:
    """Each student's line for each brief of a course, from one look at all of its takes."""
    cores = {b.pk: b.core for b in shown.briefs}
    for brief in shown.briefs:
        for line in shown.lines:
            own = [t for t in line.every_take if t.brief_id == brief.pk]
            yield brief, _line(line.student, (brief,), own, cores)


def clips_of(person: Person, brief_id: int, code: str) -> tuple[Brief, Common | None]:
    """The clips of a brief that show a fault best; Http404 where this person does not mark."""
    brief = get_object_or_404(Brief.objects.markable_by(person).select_related("course"), pk=brief_id)
    policy.require(policy.may_mark(person, brief.course_id), "show the clips of this class")
    found = wall(person, brief.course_id, brief.pk).common
    return brief, next((c for c in found if c.code == code), None)


def _takes(briefs: tuple[Brief, ...]) -> dict[int, list[Take]]:
    """Takes by student, in order; of each what a wall needs and no more."""
    found = (
        Take.objects.filter(brief__in=briefs)
        .select_related("analysis", "sheet", "brief", "student")
        .defer("analysis__findings", "analysis__track_csv")
        .prefetch_related("sheet__decisions")
        .order_by("brief", "number")
    )
    by_student: dict[int, list[Take]] = defaultdict(list)
    for take in found:
        by_student[take.student_id].append(take)
    return by_student


def _line(student: Person, briefs: tuple[Brief, ...], takes: list[Take], cores: dict[int, motion.brief.Brief]) -> Line:
    by_brief = {b.pk: [t for t in takes if t.brief_id == b.pk] for b in briefs}
    slots = tuple((b, by_brief[b.pk][-1] if by_brief[b.pk] else None) for b in briefs)
    last = [take for _, take in slots if take is not None]
    counted = [f for t in last for f in faults(t, cores[t.brief_id])]
    again = [own for own in by_brief.values() if len(own) > 1]
    fewer = sum(len(faults(own[0], cores[pk])) - len(faults(own[-1], cores[pk])) for pk, own in by_brief.items() if own)
    return Line(
        student=student,
        slots=slots,
        every_take=tuple(takes),
        missing=sum(b.is_due and not by_brief[b.pk] for b in briefs) if len(briefs) > 1 else len(briefs) - len(last),
        late=sum(t.late for t in last),
        cells=tuple(_cell(p, name, counted) for p, name in PRINCIPLE_NAMES.items()),
        fewer=fewer if again else None,
        grade=_grade(last[0], cores) if len(briefs) == 1 and last else None,
    )


def _grade(take: Take, cores: dict[int, motion.brief.Brief]) -> Grade | None:
    sheet = fetched_sheet(take)
    if sheet is None or not sheet.returned:
        return None
    core = cores[take.brief_id]
    return grade(take, core, faults(take, core))


def _cell(principle: str, name: str, found: list[Fault]) -> Cell:
    own = sorted((f["severity"] for f in found if f["principle"] == principle), key=HEAVINESS.index)
    return Cell(principle=principle, name=name, severities=tuple(own))


def _common(lines: list[Line], cores: dict[int, motion.brief.Brief]) -> list[Common]:
    seen: dict[tuple[str, str], list[tuple[float, Take, int]]] = defaultdict(list)
    for line in lines:
        for take in line.takes:
            for fault in faults(take, cores[take.brief_id]):
                exercise = cores[take.brief_id].exercise
                seen[exercise, fault["code"]].append((fault["times"], take, fault["first_frame"]))
    known = {(e, code): fault for e in catalogue.BY_EXERCISE for code, fault in catalogue.faults(e).items()}
    told = [_told(which[0], known[which], cases) for which, cases in seen.items() if which in known]
    return sorted(told, key=lambda c: (-c.students, c.code))[:COMMONEST]


def _told(exercise: str, fault: catalogue.Fault, cases: list[tuple[float, Take, int]]) -> Common:
    best: dict[int, tuple[float, Take, int]] = {}
    for case in sorted(cases, key=lambda c: c[0], reverse=True):
        best.setdefault(case[1].student_id, case)
    return Common(
        exercise=exercise,
        code=fault.code,
        name=fault.name,
        principle=fault.principle,
        principle_name=PRINCIPLE_NAMES[fault.principle],
        students=len(best),
        clips=tuple((take, frame) for _, take, frame in list(best.values())[:BEST]),
    )
