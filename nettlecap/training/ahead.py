"""The first clips of drills, laid out before anybody asks for them."""

from __future__ import annotations

from django_tasks import task

from motion.exercises import EXERCISES
from nettlecap.classroom.models import Membership, Person
from nettlecap.training.drills import LENGTHS, checked, codes_of, kinds_of, lay_out
from nettlecap.training.models import Drill, SetDrill
from nettlecap.training.tasks import WHENEVER


def for_person(person: Person, exercise: str = "") -> None:
    """A drill of one's own, about an exercise or the one that they were at last, like the last one or like most."""
    own = Drill.objects.own(person).begun().filter(set_drill=None, clips__in=LENGTHS)
    last = (own.filter(exercise=exercise) if exercise else own).first()
    exercise = last.exercise if last else exercise or next(iter(EXERCISES))
    kinds, codes, clips = (last.kinds, last.codes, last.clips) if last else (kinds_of(exercise), [], LENGTHS[1])
    # What an earlier version asked about may be gone.
    kinds, codes = [k for k in kinds if k in kinds_of(exercise)], [c for c in codes if c in codes_of(exercise)]
    told = checked(exercise, kinds or kinds_of(exercise), codes, clips)
    if not Drill.objects.own(person).filter(begun_at=None, set_drill=None, **told).exists():
        lay_out(Drill.objects.create(person=person, **told))


@task(priority=WHENEVER)
def for_class(set_id: int) -> str:
    """The worker's job: one that is set, for everybody who learns in its course; what became of it."""
    asked = SetDrill.objects.filter(pk=set_id).first()
    if asked is None:
        return "taken back"
    told = {"exercise": asked.exercise, "kinds": asked.kinds, "codes": asked.codes, "clips": asked.clips}
    learning = Membership.objects.learning().filter(course=asked.course_id)
    for person in Person.objects.filter(memberships__in=learning):
        drill, new = Drill.objects.get_or_create(person=person, set_drill=asked, defaults=told)
        if new:
            lay_out(drill, priority=WHENEVER)
    return "laid out"
