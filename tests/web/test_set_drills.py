"""A class's drills: set for a course, of takes whose students agreed, and what is learned by them."""

from __future__ import annotations

import csv
import io
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import connection
from django.http import HttpResponse
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Person
from nettlecap.marking.keys import finding_key
from nettlecap.pages import keeping
from nettlecap.takes.models import Take
from nettlecap.training import answering, drills, earlier, learned
from nettlecap.training.models import PICTURES, Consent, Drill, Question, SetDrill, Sight
from nettlecap.training.tasks import draw_question
from tests.web.school import hanging_clip, look_at_all
from tests.web.test_training import Drilling

MOST_QUERIES = 12


class OfACourse(Drilling):
    def set_it(self, **more: object) -> HttpResponse:
        sent = {"title": "Contacts on the quay", "exercise": "bounce", "kinds": ["rate"], "clips": "6",
                "due_at": (timezone.localtime() + timedelta(days=3)).strftime("%Y-%m-%dT%H:%M"),
                "counts": "done", "points": "4", **more}  # fmt: skip
        self.as_person(self.school.instructor)
        return self.client.post(reverse("course-drills", args=[self.school.course.pk]), sent)

    def go_through(self, person: Person, asked: SetDrill, rightly: int) -> Drill:
        drill = drills.begin_set(person, asked)
        for number in range(drill.clips):
            question = drill.questions.filter(answered_at=None).select_related("drill")[0]
            draw_question.call(question.pk)
            question.refresh_from_db()
            rate = question.known["truth"]["rate"]
            answering.answer(question, {"choice": str(rate if number < rightly else (6 if rate != 6 else 24))})
        return Drill.objects.get(pk=drill.pk)

    def test_it_is_laid_out_for_the_class_and_shown_to_it(self) -> None:
        self.assertEqual(self.set_it().status_code, 302)
        look_at_all()
        ready = Drill.objects.filter(set_drill__title="Contacts on the quay")
        self.assertEqual({d.person for d in ready}, {self.school.student, self.school.classmate})
        self.assertTrue(all(q.drawn for d in ready for q in d.questions.all()))
        self.as_person(self.school.student)
        self.assertContains(self.client.get(reverse("training")), "Contacts on the quay")
        self.assertContains(self.client.get(reverse("start")), "Contacts on the quay")

    def test_what_makes_no_sense_is_told_beside_the_form_with_what_was_typed(self) -> None:
        for wrong, words in (
            ({"title": "  "}, "Give the drill a name"),
            ({"due_at": "2020-01-01T10:00"}, "still to come"),
            ({"due_at": "soon"}, "day and time"),
            ({"points": "0"}, "more than none"),
            ({"points": "many"}, "points as a number"),
            ({"counts": "double"}, "what the drill counts for"),
            ({"clips": "9999"}, "6 to 12 clips"),
            ({"kinds": []}, "at least one kind"),
        ):
            with self.subTest(wrong):
                answer = self.set_it(**wrong)
                self.assertContains(answer, words, status_code=422)
        self.assertFalse(SetDrill.objects.exists())

    def test_only_who_leads_the_course_sets_one(self) -> None:
        url = reverse("course-drills", args=[self.school.course.pk])
        self.set_it(title="")
        for person, status in ((self.school.assistant, 403), (self.school.student, 404), (self.school.stranger, 404)):
            self.as_person(person)
            with self.subTest(str(person)):
                due = (timezone.localtime() + timedelta(days=3)).strftime("%Y-%m-%dT%H:%M")
                sent = {"title": "Mine", "exercise": "bounce", "kinds": ["rate"], "clips": "6", "due_at": due}
                self.assertEqual(self.client.post(url, {**sent, "counts": "not"}).status_code, status)
        self.assertFalse(SetDrill.objects.exists())

    def test_points_stand_in_the_grades_file_where_it_counts_and_on_the_wall(self) -> None:
        for title, counts in (("Done", "done"), ("Right", "right"), ("Free", "not")):
            self.set_it(title=title, counts=counts)
            self.go_through(self.school.student, SetDrill.objects.get(title=title), 3)
        wall = reverse("class-wall", args=[self.school.course.pk])
        self.assertContains(self.client.get(wall), "3 of 6 seen", count=3)
        grades = self.client.get(reverse("grades-file", args=[self.school.course.pk, "csv"])).content.decode(
            "utf-8-sig"
        )
        rows = {(r["login"], r["brief"]): r["total"] for r in csv.DictReader(io.StringIO(grades))}
        self.assertEqual(rows["ayumi", "Drill: Done"], "4.0")
        self.assertEqual(rows["ayumi", "Drill: Right"], "2.0")
        self.assertEqual(rows["kofi", "Drill: Right"], "")
        self.assertNotIn(("ayumi", "Drill: Free"), rows)

    def test_it_is_taken_back_until_somebody_begins(self) -> None:
        self.set_it()
        asked = SetDrill.objects.get()
        drills.begin_set(self.school.student, asked)
        url = reverse("take-back-drill", args=[asked.pk])
        self.assertContains(self.client.post(url), "has begun", status_code=409)
        Drill.objects.all().delete()
        self.client.post(url)
        self.assertFalse(SetDrill.objects.exists())

    def test_pages_ask_the_database_as_often_for_many_drills_as_for_few(self) -> None:
        for number in range(5):
            self.set_it(title=f"Drill {number}")
            for person in (self.school.student, self.school.classmate):
                drills.begin_set(person, SetDrill.objects.get(title=f"Drill {number}"))
        for person, url in (
            (self.school.instructor, reverse("class-wall", args=[self.school.course.pk])),
            (self.school.instructor, reverse("course-drills", args=[self.school.course.pk])),
            (self.school.student, reverse("training")),
        ):
            self.as_person(person)
            self.client.get(url)
            with self.subTest(url), CaptureQueriesContext(connection) as asked:
                self.client.get(url)
                self.assertLessEqual(len(asked), MOST_QUERIES, [q["sql"] for q in asked])


class OfTakes(Drilling):
    """A drill of takes whose students agreed to that."""

    def agreed(self, student: Person) -> Take:
        """A returned take with an agreed fault, from which others may learn."""
        take = self.school.take(student, hanging_clip()[0])
        self.as_person(self.school.instructor)
        key = finding_key(take.analysis.findings["findings"][0])
        self.client.post(reverse("say", args=[take.pk]), {"key": key, "verdict": "agreed"})
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.as_person(student)
        self.client.post(reverse("consent", args=[take.pk]), {"agree": "1"})
        return take

    def asked(self, takes: list[Take]) -> Question:
        asked = SetDrill.objects.create(
            course=self.school.course, title="From last year", exercise="bounce", kinds=["spot"], clips=len(takes),
            due_at=timezone.now() + timedelta(days=1), created_by=self.school.instructor, of_takes=True,
        )  # fmt: skip
        drill = drills.begin_set(self.school.student, asked)
        draw_question.call(drill.questions.all()[0].pk)
        return drill.questions.select_related("drill").all()[0]

    def test_it_asks_about_what_was_agreed_and_tells_nobodys_name(self) -> None:
        take = self.agreed(self.school.classmate)
        question = self.asked([take])
        self.as_person(self.school.student)
        page = self.client.get(reverse("drill", args=[question.drill_id])).content.decode()
        for told in ("Kofi", "kofi", "take.zip", question.known["finding"]["message"]):
            self.assertNotIn(told, page)
        picture = self.client.get(reverse("question-picture", args=[question.pk, "shown", 1]))
        self.assertEqual(picture.status_code, 200)
        answer = self.answer(question, off="1", code=question.known["finding"]["code"])
        self.assertContains(answer, "You saw it.")
        self.assertNotContains(answer, "Show this clip to somebody")
        self.assertFalse(Sight.objects.exists())
        self.assertIsNotNone(Drill.objects.get(pk=question.drill_id).ended_at)

    def test_nobody_is_asked_about_their_own(self) -> None:
        own = self.agreed(self.school.student)
        self.assertIsNone(earlier.next_for(self.school.instructor, self.school.student, "bounce"))
        self.assertEqual(earlier.next_for(self.school.instructor, self.school.classmate, "bounce"), own)
        self.assertIsNone(earlier.next_for(self.school.stranger, self.school.classmate, "bounce"))

    def test_taken_back_it_is_shown_to_nobody_any_more(self) -> None:
        take = self.agreed(self.school.classmate)
        question = self.asked([take])
        self.as_person(self.school.classmate)
        self.client.post(reverse("consent", args=[take.pk]), {"agree": "0"})
        self.assertFalse(Question.objects.filter(pk=question.pk).exists())
        self.assertFalse(question.folder.exists())
        self.assertIsNone(earlier.next_for(self.school.instructor, self.school.student, "bounce"))

    def test_only_whose_take_it_is_may_say_so_and_only_once_it_is_returned(self) -> None:
        take = self.school.take(self.school.student)
        url = reverse("consent", args=[take.pk])
        self.as_person(self.school.student)
        self.assertEqual(self.client.post(url, {"agree": "1"}).status_code, 409)
        for person in (self.school.classmate, self.school.instructor):
            self.as_person(person)
            self.assertEqual(self.client.post(url, {"agree": "1"}).status_code, 404)
        self.assertFalse(Consent.objects.exists())

    def test_with_too_few_takes_none_is_set(self) -> None:
        self.agreed(self.school.classmate)
        self.as_person(self.school.instructor)
        sent = {"title": "Last year", "exercise": "bounce", "kinds": ["spot"], "clips": "6", "counts": "not",
                "due_at": (timezone.localtime() + timedelta(days=3)).strftime("%Y-%m-%dT%H:%M"),
                "of_takes": "1"}  # fmt: skip
        answer = self.client.post(reverse("course-drills", args=[self.school.course.pk]), sent)
        self.assertContains(answer, "Students of 1 take of this exercise", status_code=422)
        self.assertFalse(SetDrill.objects.exists())


class Learned(Drilling):
    def test_how_small_and_how_soon_is_told_fault_by_fault_and_to_nobody_else(self) -> None:
        for seed in range(4):
            drill = drills.begin(self.school.student, "bounce", ["spot"], ["contact.gap"], 6)
            question = self.question(drill, code="contact.gap", times=3.0, seed=60 + seed)
            self.answer(question, off="1", code="contact.gap", after_s=str(2 + seed))
            Drill.objects.filter(pk=drill.pk).update(ended_at=timezone.now())
        (part,) = learned.of(self.school.student)
        (fault,) = part.faults
        self.assertEqual((fault.shown, fault.seen, fault.soon_s), (4, 4, 3.5))
        self.assertEqual(len(fault.line.split()), 4)
        heights = [float(point.split(",")[1]) for point in fault.line.split()]
        self.assertEqual(heights, sorted(heights))
        self.assertContains(self.client.get(reverse("training")), "4 of 4")
        self.as_person(self.school.classmate)
        self.assertNotContains(self.client.get(reverse("training")), "4 of 4")
        # Of a class nothing is told that tells of one person.
        self.assertEqual(learned.of_course(self.school.course), {})
        for login in ("lind", "moss"):
            other = self.school.person(login, "student")
            drill = Drill.objects.create(person=other, exercise="bounce", kinds=["spot"], begun_at=timezone.now())
            for row in Question.objects.filter(drill__person=self.school.student, code="contact.gap"):
                row.pk, row.drill, row.number = None, drill, row.pk
                row.save()
        of_class = learned.of_course(self.school.course)["bouncing ball"]
        self.assertEqual([(c.name, c.people) for c in of_class], [(fault.name, 3)])
        ((own, other),) = learned.of_two(self.school.student, self.school.classmate, "bounce")
        self.assertEqual((own and own.seen, other), (4, None))

    def test_it_is_among_what_one_gets_of_oneself_and_goes_with_who_is_deleted(self) -> None:
        question = self.question(self.begin("count"))
        self.answer(question, frames="9")
        own = learned.told(self.school.student)
        self.assertEqual([(row["kind"], row["said"]) for row in own], [("count", {"frames": 9})])
        keeping.delete(self.school.instructor, self.school.student.pk, "ayumi")
        self.assertFalse(Question.objects.exists())
        self.assertEqual(list((Path(settings.MEDIA_ROOT) / PICTURES).glob("*")), [])
