"""A whole class: thirty students, four briefs, three takes of each, from clips of the generator."""

from __future__ import annotations

import itertools
import shutil
from collections.abc import Sequence
from datetime import timedelta

from django.utils import timezone

from motion.exercises.bounce.plan import Recipe, bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from nettlecap.classroom.models import Brief, Course, Membership, Person, Role
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Note
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Analysis, Take
from tests.core.drawn import with_fault
from tests.web.school import SMALL, look_at_all, upload

STUDENTS, BRIEFS, TAKES = 30, 4, 3
FAULTS = ("contact.gap", "spacing.even", "arc.off_path", "timing.hold", "squash.missing", "volume.changes")
GIVEN = ("Ada", "Björn", "Chidi", "Dáithí", "Esra", "Fumiko", "Gwen", "Hồng", "Isidora", "Jamal")
FAMILY = ("Abernathy-Quist", "Bekele", "Castellanos")


def sample_clips(recipe: Recipe = SMALL, looks: Sequence[str] = ("clean", "pencil", "cel")) -> list[bytes]:
    """A clean clip and one with each of some faults, as they are handed in."""
    plans = [bounce(recipe), *(with_fault(code, 3.0, recipe)[0] for code in FAULTS)]
    return [
        write.to_zip(draw.frames(plan, LOOKS[look])) for plan, look in zip(plans, itertools.cycle(looks), strict=False)
    ]


def students_of(course: Course) -> list[Person]:
    """Thirty students, with names of many origins; one password is as good as another."""
    people = [
        Person(username=f"pupil{i + 1}", name=f"{GIVEN[i % 10]} {FAMILY[i // 10]}", password="!")
        for i in range(STUDENTS)
    ]
    people = Person.objects.bulk_create(people)
    Membership.objects.bulk_create(Membership(course=course, person=p, role=Role.STUDENT) for p in people)
    return people


def briefs_of(course: Course, instructor: Person) -> list[Brief]:
    """Four briefs that are published, two of them due."""
    told = {"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 24, "guide": {}}
    now = timezone.now()
    return [
        Brief.objects.create(
            course=course,
            title=f"{title} on the quay",
            parameters=told,
            due_at=now + timedelta(days=7 * number - 10),
            published_at=now,
            created_by=instructor,
        )
        for number, title in enumerate(("A cork float", "A lead sinker", "A wet rope's end", "A buoy"))
    ]


def fill(course: Course, instructor: Person, clips: list[bytes]) -> None:
    """The class at the end of its term: takes become better, all but the last are marked, some of the last as well."""
    students, briefs = students_of(course), briefs_of(course, instructor)
    seen = [_looked_at(student, briefs[0], data) for student, data in zip(students, clips, strict=False)]
    for b, brief in enumerate(briefs):
        for s, student in enumerate(students):
            if (s + b) % 11 == 10:
                continue  # Somebody is always behind.
            for number in range(1, TAKES + 1):
                clean_by_now = number == TAKES and s % 2 == 0
                pattern = seen[0] if clean_by_now else seen[1 + (s + b + number) % (len(seen) - 1)]
                take = _like(pattern, brief, student, number)
                if number < TAKES or s % 3 == 0:
                    _mark(take, instructor, returned=True)
                elif s % 3 == 1:
                    _mark(take, instructor, returned=False)
    for pattern in seen:
        shutil.rmtree(pattern.analysis.drawings_of(0).parent, ignore_errors=True)
        pattern.delete()


def _looked_at(student: Person, brief: Brief, data: bytes) -> Take:
    take = hand_in(student, brief, [upload(data)])
    look_at_all()
    found = Take.objects.select_related("analysis").get(pk=take.pk)
    found.number = 900  # Out of the way of the takes that are made like it.
    found.save()
    return found


def _like(pattern: Take, brief: Brief, student: Person, number: int) -> Take:
    days = timedelta(days=3 * (TAKES - number))
    take = Take.objects.get(pk=pattern.pk)
    take.pk, take.brief, take.student, take.number = None, brief, student, number
    take.handed_in_at = min(brief.due_at, timezone.now()) - days + timedelta(hours=student.pk % 9 - 1)
    take.save(force_insert=True)
    analysis = Analysis.objects.get(pk=pattern.analysis.pk)
    kept = analysis.drawings_of(analysis.shown_run)
    analysis.pk, analysis.take = None, take
    analysis.save(force_insert=True)
    shutil.copytree(kept, analysis.drawings_of(analysis.shown_run), copy_function=_link)
    return take


def _link(source: str, target: str) -> None:
    """The same picture once more, without the room it takes."""
    from pathlib import Path

    Path(target).hardlink_to(source)


def _mark(take: Take, instructor: Person, *, returned: bool) -> None:
    when = timezone.now() - timedelta(hours=2) if returned else None
    sheet = MarkSheet.objects.create(take=take, marked_by=instructor, returned_at=when, remark="On its way.")
    for fault in take.analysis.faults:
        Decision.objects.create(sheet=sheet, key=finding_key(fault), verdict=Decision.Verdict.AGREED)
    Note.objects.create(sheet=sheet, first_frame=2, last_frame=4, principle="arcs", text="Follow the arc here.")
