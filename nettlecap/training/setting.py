"""Drills that an instructor sets: how they come about, how far a class is, and what they give in points."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.training import ahead, earlier
from nettlecap.training.drills import checked
from nettlecap.training.models import Drill, Question, SetDrill

MOST_POINTS = 100.0
LONGEST_TITLE = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a drill is to be, as an instructor says it."""

    title: str
    exercise: str
    kinds: Sequence[str]
    codes: Sequence[str]
    clips: int
    due_at: datetime
    counts: str = SetDrill.Counts.NOT
    points: float = 0.0
    of_takes: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Went:
    """How far a student is with a drill that is set: clips answered, those answered rightly, points where it counts."""

    student: Person
    drill: Drill | None
    answered: int
    right: int
    points: float | None

    @property
    def done(self) -> bool:
        return self.drill is not None and self.drill.ended_at is not None

    @property
    def late(self) -> bool:
        """Whether it was ended after it was due."""
        own = self.drill
        return bool(own and own.ended_at and own.set_drill and own.ended_at > own.set_drill.due_at)


def set_drill(person: Person, course: Course, wanted: Wanted) -> SetDrill:
    """Set a drill for a course. Raises NotAllowed or Refusal."""
    policy.require(policy.may_set_briefs(person, course), "set drills in this course")
    title = wanted.title.strip()
    if not title or len(title) > LONGEST_TITLE:
        raise Refusal(f"Give the drill a name of up to {LONGEST_TITLE} letters.")
    if wanted.due_at <= timezone.now():
        raise Refusal("Choose a day that is still to come; until then it is to be done.")
    if wanted.counts not in SetDrill.Counts.values:
        raise Refusal("Choose what the drill counts for.")
    points = 0.0 if wanted.counts == SetDrill.Counts.NOT else wanted.points
    if wanted.counts != SetDrill.Counts.NOT and not 0 < points <= MOST_POINTS:
        raise Refusal(f"A drill that counts gives up to {MOST_POINTS:g} points, and more than none.")
    told = checked(wanted.exercise, wanted.kinds, wanted.codes, wanted.clips)
    if wanted.of_takes:
        told |= {"kinds": ["spot"], "codes": [], "clips": _takes(person, wanted)}
    made = SetDrill.objects.create(
        course=course,
        title=title,
        due_at=wanted.due_at,
        counts=wanted.counts,
        points=points,
        created_by=person,
        of_takes=wanted.of_takes,
        **told,
    )
    ahead.for_class.enqueue(made.pk)
    return made


def _takes(person: Person, wanted: Wanted) -> int:
    """How many takes a drill about takes asks about. Raises Refusal where too few may be used."""
    there = earlier.takes_for(person, wanted.exercise).count()
    if there < earlier.FEWEST:
        raise Refusal(
            f"Students of {there} take{'' if there == 1 else 's'} of this exercise have agreed that others learn from "
            f"them; a drill needs {earlier.FEWEST}. They can say so beside their returned marks."
        )
    return min(there, wanted.clips)


def take_back(person: Person, asked: SetDrill) -> None:
    """Take a drill back that nobody has begun. Raises NotAllowed, or Conflict where somebody has."""
    policy.require(policy.may_set_briefs(person, asked.course_id), "take this drill back")
    if asked.drills.begun().exists():
        raise Conflict("Somebody has begun this drill already, so it stays. Nothing was changed.")
    asked.delete()


def of_course(course: Course, students: Sequence[Person]) -> list[tuple[SetDrill, list[Went]]]:
    """Every drill of a course, and how far its students are; in a fixed number of questions."""
    begun = Drill.objects.begun().filter(set_drill__course=course).select_related("set_drill")
    drills = {(d.set_drill_id, d.person_id): d for d in begun}
    answers: dict[tuple[int | None, int], list[bool]] = defaultdict(list)
    answered = Question.objects.filter(drill__set_drill__course=course).exclude(answered_at=None)
    for set_id, person_id, right in answered.values_list("drill__set_drill", "drill__person", "right"):
        answers[set_id, person_id].append(bool(right))
    return [
        (asked, [_went(asked, s, drills.get((asked.pk, s.pk)), answers[asked.pk, s.pk]) for s in students])
        for asked in course.drills.all()
    ]


def _went(asked: SetDrill, student: Person, drill: Drill | None, answers: Sequence[bool]) -> Went:
    points = None
    if asked.counts != SetDrill.Counts.NOT and drill is not None and drill.ended_at is not None:
        share = 1.0 if asked.counts == SetDrill.Counts.DONE else sum(answers) / max(1, len(answers))
        points = round(asked.points * share, 2)
    return Went(student=student, drill=drill, answered=len(answers), right=sum(answers), points=points)
