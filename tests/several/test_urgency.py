"""Who waits in front of a page comes before a class that hands in, and that before what nobody waits for."""

from __future__ import annotations

from datetime import timedelta
from itertools import pairwise

from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom.models import Brief, Course, Person
from nettlecap.takes.drafts import look_through
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.look_again import look_again
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.place import find_again
from nettlecap.takes.tasks import analyse_later, read_later
from nettlecap.takes.urgency import WIDTH, Urgency, priority
from nettlecap.training.tasks import WHENEVER, draw_question
from tests.web.school import SchoolTest, clean_clip, upload


class InWhichOrder(SchoolTest):
    def order(self) -> list[str]:
        """What waits as a worker would do it: a kind, and whose."""
        return [
            job.task_path.rpartition(".")[2] + ":" + ",".join(map(str, job.args_kwargs["args"]))
            for job in DBTaskResult.objects.ready()
        ]

    def test_kinds_of_jobs(self) -> None:
        old = self.school.take()
        look_again(self.school.brief)
        draw_question.using(priority=WHENEVER).enqueue(1)
        taken = hand_in(self.school.classmate, self.school.brief, [upload(clean_clip())])
        own = look_through(self.school.student, self.school.brief, [upload(clean_clip())])
        came = Arrival.objects.create(
            brief=self.school.brief, student=self.school.classmate, wanted_as="take", file_bytes=1
        )
        read_later(came)
        self.assertEqual(
            [job.partition(":")[0] for job in self.order()],
            ["read_arrival", "analyse_take", "analyse_take", "analyse_take", "draw_question"],
        )
        own_first = [f"analyse_take:{own.pk},1", f"analyse_take:{taken.pk},1", f"analyse_take:{old.pk},2"]
        self.assertEqual(self.order()[1:4], own_first)

    def test_what_was_placed_by_hand_is_waited_for(self) -> None:
        placed = self.school.take()
        hand_in(self.school.classmate, self.school.brief, [upload(clean_clip())])
        find_again(placed)
        self.assertEqual(self.order()[0], f"analyse_take:{placed.pk},2")


class BetweenCourses(SchoolTest):
    """Many takes of a course, made as rows: only what waits counts."""

    def class_of(self, students: int, name: str) -> tuple[Brief, list[Person]]:
        course = Course.objects.create(name=name)
        people = [self.school.person(f"{name}{n}", "student", course) for n in range(students)]
        brief = Brief.objects.create(
            course=course,
            title=name,
            parameters=self.school.brief.parameters,
            created_by=self.school.instructor,
            due_at=timezone.now() + timedelta(days=1),
            published_at=timezone.now(),
        )
        return brief, people

    def waits(self, brief: Brief, student: Person) -> Take:
        take = Take.objects.create(
            brief=brief,
            student=student,
            number=Take.objects.filter(brief=brief, student=student).count() + 1,
            file_name="a.zip",
            file_path="",
            file_bytes=1,
            frames=1,
            pictures=1,
            width=1,
            height=1,
        )
        analysis = Analysis.objects.create(take=take)
        analyse_later(take, analysis.run)
        return take

    def in_order(self) -> list[Take]:
        takes = {take.pk: take for take in Take.objects.select_related("brief")}
        return [takes[job.args_kwargs["args"][0]] for job in DBTaskResult.objects.ready()]

    def test_a_large_class_does_not_hold_up_a_small_one(self) -> None:
        many, crowd = self.class_of(40, "many")
        few, two = self.class_of(2, "few")
        for student in crowd:
            self.waits(many, student)
        mine = [self.waits(few, student) for student in two]
        self.assertLess(max(self.in_order().index(take) for take in mine), 6)

    def test_two_large_ones_take_turns(self) -> None:
        one, ones = self.class_of(24, "one")
        other, others = self.class_of(24, "other")
        for student in ones:
            self.waits(one, student)
        for student in others:
            self.waits(other, student)
        first = [take.brief_id for take in self.in_order()][:24]
        self.assertGreaterEqual(first.count(other.pk), 9)
        self.assertGreaterEqual(first.count(one.pk), 9)

    def test_who_has_more_waiting_comes_after_their_classmate(self) -> None:
        brief, (one, other) = self.class_of(2, "pair")
        for _ in range(3):
            self.waits(brief, one)
        late = self.waits(brief, other)
        self.assertLess(self.in_order().index(late), 3)

    def test_every_band_ends_before_the_next(self) -> None:
        self.assertGreater(Urgency.SHOWN, Urgency.HANDED_IN)
        bands = (Urgency.READ, Urgency.WAITED_FOR, Urgency.SHOWN, Urgency.AGAIN, Urgency.WHENEVER)
        for upper, lower in pairwise(bands):
            self.assertGreaterEqual(upper - WIDTH, lower)
        self.assertGreaterEqual(Urgency.HANDED_IN - WIDTH, Urgency.AGAIN)
        person = self.school.student
        self.assertGreaterEqual(priority(Urgency.WHENEVER, person, self.school.course.pk), -100)
