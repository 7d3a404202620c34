"""Drills: begun, drawn by the worker ahead of need, answered, set for a course, and what is learned by them."""

from __future__ import annotations

import csv
import io
import shutil
import time
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.db import connection
from django.http import HttpResponse
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion.catalogue import faults
from motion.training import verified
from nettlecap.classroom.models import Person
from nettlecap.marking.keys import finding_key
from nettlecap.pages import keeping, sweep
from nettlecap.takes.models import Take
from nettlecap.training import answering, drawing, drills, earlier, learned, pack
from nettlecap.training.models import PICTURES, Consent, Drill, Question, SetDrill, Sight
from nettlecap.training.tasks import draw_question
from tests.web.school import SchoolTest, hanging_clip, look_at_all

MOST_QUERIES = 12


class Drilling(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.student)

    def begin(self, *kinds: str, exercise: str = "bounce", codes: tuple[str, ...] = (), clips: int = 6) -> Drill:
        sent = {"exercise": exercise, "kinds": kinds, "codes": codes, "clips": clips}
        answer = self.client.post(reverse("begin-drill"), sent)
        self.assertEqual(answer.status_code, 302, answer.content)
        return Drill.objects.own(self.school.student).begun().get()

    def question(self, drill: Drill, **wanted: Any) -> Question:
        """The drill's first clip, drawn as is wanted of it."""
        question = drill.questions.all()[0]
        Question.objects.filter(pk=question.pk).update(**wanted)
        draw_question.call(question.pk)
        return Question.objects.select_related("drill").get(pk=question.pk)

    def answer(self, question: Question, **said: object) -> HttpResponse:
        return self.client.post(reverse("answer-question", args=[question.pk]), said)


class Begun(Drilling):
    def test_the_first_clips_are_laid_out_and_drawn_and_no_more(self) -> None:
        drill = self.begin("spot")
        self.assertEqual(drill.questions.count(), drills.AHEAD)
        self.assertFalse(any(q.drawn for q in drill.questions.all()))
        page = self.client.get(reverse("drill", args=[drill.pk]))
        self.assertContains(page, "being drawn")
        look_at_all()
        for question in drill.questions.all():
            self.assertTrue(question.drawn)
            for name, data in question.known["clips"].items():
                last = max(e["drawing"] for e in data["clip"]["exposures"])
                self.assertIsNotNone(pack.one(question.folder / name, last))
                self.assertIsNone(pack.one(question.folder / name, last + 1))

    def test_one_is_laid_out_before_it_is_asked_for_and_then_begun(self) -> None:
        self.client.get(reverse("training"))
        ahead = Drill.objects.own(self.school.student).get()
        self.assertIsNone(ahead.begun_at)
        look_at_all()
        page = self.client.post(
            reverse("begin-drill"), {"exercise": "bounce", "kinds": drills.kinds_of("bounce"), "clips": 8}, follow=True
        )
        self.assertContains(page, "data-drill")
        self.assertIsNotNone(Drill.objects.get(pk=ahead.pk).begun_at)

    def test_one_of_other_kinds_begins_with_what_is_drawn_already_and_fits(self) -> None:
        self.client.get(reverse("training"))
        ahead = Drill.objects.own(self.school.student).get()
        ahead.questions.update(kind="rate", code="")
        ahead.questions.filter(number=2).update(kind="count")
        look_at_all()
        counting = ahead.questions.get(kind="count")
        drill = self.begin("count")
        self.assertEqual([(q.pk, q.number) for q in drill.questions.all()][:1], [(counting.pk, 1)])
        self.assertEqual([q.number for q in drill.questions.all()], [1, 2, 3])
        self.assertEqual({q.kind for q in drill.questions.all()}, {"count"})

    def test_what_makes_no_sense_is_refused_in_words_and_nothing_begins(self) -> None:
        for sent in (
            {"exercise": "juggling", "kinds": ["spot"]},
            {"exercise": "walk", "kinds": ["place"]},
            {"exercise": "bounce", "kinds": ["spot"], "codes": ["timing.loop"]},
            {"exercise": "bounce", "kinds": ["spot"], "clips": "500"},
        ):
            with self.subTest(sent):
                answer = self.client.post(reverse("begin-drill"), sent)
                self.assertEqual(answer.status_code, 422)
                self.assertRegex(answer.content.decode(), "There is no such|Choose|A drill has")
        self.assertFalse(Drill.objects.exists())

    def test_a_clip_whose_job_failed_is_drawn_by_another_seed_when_somebody_waits_for_it(self) -> None:
        drill = self.begin("count")
        question = drill.questions.all()[0]
        url, seed = reverse("question", args=[question.pk]), question.seed
        self.client.get(url)
        self.assertEqual(drill.questions.all()[0].seed, seed)
        DBTaskResult.objects.update(status="FAILED")
        self.assertContains(self.client.get(url), "being drawn")
        self.assertNotEqual(drill.questions.all()[0].seed, seed)
        look_at_all()
        self.assertContains(self.client.get(url), "data-drill")

    def test_who_has_many_open_goes_on_with_one_of_them_first(self) -> None:
        for _ in range(drills.MOST_OPEN):
            drills.begin(self.school.student, "bounce", ["count"], [], 6)
        answer = self.client.post(reverse("begin-drill"), {"exercise": "bounce", "kinds": ["count"], "clips": 6})
        self.assertContains(answer, "Go on with one of them", status_code=409)
        Drill.objects.filter(pk=Drill.objects.own(self.school.student)[0].pk).update(ended_at=timezone.now())
        answer = self.client.post(reverse("begin-drill"), {"exercise": "bounce", "kinds": ["count"], "clips": 6})
        self.assertEqual(answer.status_code, 302)

    def test_nobody_is_shown_a_seed_twice(self) -> None:
        seeds = [
            q.seed
            for _ in range(4)
            for q in drills.begin(self.school.student, "walk", ["count"], [], 6).questions.all()
        ]
        self.assertEqual(len(seeds), len(set(seeds)))

    def test_a_fault_that_has_no_room_at_that_size_is_shown_smaller(self) -> None:
        with mock.patch.object(drawing, "SEEDS", 1), mock.patch.object(verified, "shows_it", return_value=True):
            question = self.question(self.begin("spot"), kind="spot", code="arc.leaning", times=6.0, seed=1)
        self.assertEqual(question.code, "arc.leaning")
        self.assertLess(question.times, 6.0)
        self.assertEqual(question.known["finding"]["code"], "arc.leaning")


class Answered(Drilling):
    def test_what_was_seen_is_told_with_its_measure_and_what_comes_next_follows_from_it(self) -> None:
        question = self.question(self.begin("spot"), code="contact.gap", times=3.0, seed=5)
        found = question.known["finding"]
        answer = self.answer(question, off="1", taps="3", code="contact.gap", principle="contact", after_s="2.5")
        self.assertContains(answer, "You saw it.")
        self.assertContains(answer, found["message"])
        # And one sentence why that is a fault at all.
        self.assertContains(answer, faults("bounce")["contact.gap"].why)
        self.assertContains(answer, "as it belongs")
        told = Question.objects.get(pk=question.pk)
        self.assertTrue(told.right)
        self.assertEqual(told.answer["after_s"], 2.5)
        eye = Sight.objects.get(person=self.school.student).eye
        self.assertLess(eye.of("contact.gap").times, 3.0)
        self.assertEqual(eye.returns.shown, 1)
        self.assertEqual(question.drill.questions.count(), drills.AHEAD + 1)

    def test_before_the_answer_the_page_tells_nothing_of_what_is_planted(self) -> None:
        question = self.question(self.begin("spot"), code="contact.gap", times=3.0, seed=5)
        page = self.client.get(reverse("question", args=[question.pk])).content.decode()
        self.assertNotIn(question.known["finding"]["message"], page)
        self.assertNotIn("beside-data", page)
        self.assertIn('"findings": []', page)

    def test_what_was_missed_plays_once_more_slowly_and_a_clean_clip_is_let_be(self) -> None:
        missed = self.question(self.begin("spot"), code="spacing.even", times=2.0, seed=5)
        answer = self.answer(missed, off="0")
        self.assertContains(answer, "There was something to see.")
        self.assertContains(answer, "data-slowly")
        clean = missed.drill.questions.all()[1]
        Question.objects.filter(pk=clean.pk).update(kind="spot", code="", times=0.0)
        draw_question.call(clean.pk)
        self.assertContains(self.answer(clean, off="0"), "Nothing is off in it, as you said.")
        self.assertTrue(Question.objects.get(pk=clean.pk).right)

    def test_every_kind_is_asked_and_answered_rightly_and_wrongly(self) -> None:
        person = self.school.student
        for kind in drills.kinds_of("bounce"):
            for rightly in (True, False):
                Drill.objects.update(ended_at=timezone.now())
                drill = drills.begin(person, "bounce", [kind], [], 6)
                question = self.question(
                    drill, seed=40 + rightly, code="arc.straight" if kind == "which" else "", times=3.0
                )
                said = _said(question, rightly=rightly)
                with self.subTest(kind, rightly=rightly):
                    self.assertContains(self.client.get(reverse("drill", args=[drill.pk])), "data-answer")
                    self.assertContains(self.answer(question, **said), "verdict")
                    self.assertEqual(Question.objects.get(pk=question.pk).right, rightly)

    def test_an_answer_that_makes_no_sense_is_refused_and_a_second_one_is_a_conflict(self) -> None:
        for kind, said in (
            ("spot", {}),
            ("rate", {"choice": "25"}),
            ("order", {"row": "1,2"}),
            ("place", {"x": "nan", "y": "3"}),
            ("place", {"x": "-40", "y": "3"}),
            ("count", {"frames": "many"}),
        ):
            question = self.question(drills.begin(self.school.student, "bounce", [kind], [], 6))
            with self.subTest(kind, said=said):
                self.assertEqual(self.answer(question, **said).status_code, 422)
                self.assertIsNone(Question.objects.get(pk=question.pk).answered_at)
        Drill.objects.update(ended_at=timezone.now())
        question = self.question(drills.begin(self.school.student, "bounce", ["count"], [], 8))
        self.assertEqual(self.answer(question, frames="12").status_code, 200)
        self.assertEqual(self.answer(question, frames="13").status_code, 409)
        self.assertEqual(Question.objects.get(pk=question.pk).answer, {"frames": 12})

    def test_after_the_last_clip_it_says_how_it_went_and_lays_out_another(self) -> None:
        drill = self.begin("rate")
        for _ in range(drill.clips):
            question = drill.questions.filter(answered_at=None)[0]
            draw_question.call(question.pk)
            self.answer(question, choice="24")
        page = self.client.get(reverse("drill", args=[drill.pk]))
        self.assertContains(page, "Which rate", count=drill.clips)
        self.assertIsNotNone(Drill.objects.get(pk=drill.pk).ended_at)
        self.assertTrue(Drill.objects.own(self.school.student).filter(begun_at=None).exists())


class Pictures(Drilling):
    def test_they_are_its_own_persons_alone_and_drawn_again_where_they_are_gone(self) -> None:
        question = self.question(self.begin("spot"))
        url = reverse("question-picture", args=[question.pk, "shown", 1])
        answer = self.client.get(url)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/webp"))
        before, whole = answer.content, reverse("question-pictures", args=[question.pk, "shown"])
        self.assertIn(before, b"".join(self.client.get(whole)))  # type: ignore[arg-type]
        shutil.rmtree(question.folder)
        self.assertEqual([self.client.get(u).status_code for u in (url, whole, url)], [503] * 3)
        self.assertEqual(DBTaskResult.objects.filter(status="READY", args_kwargs__args=[question.pk]).count(), 2)
        look_at_all()
        self.assertEqual(self.client.get(url).content, before)
        for name, number in (("shown", 0), ("shown", 9999), ("other", 1)):
            missing = reverse("question-picture", args=[question.pk, name, number])
            self.assertEqual(self.client.get(missing).status_code, 404)
        self.assertEqual(self.client.get(reverse("question-pictures", args=[question.pk, "other"])).status_code, 404)
        self.as_person(self.school.classmate)
        self.assertEqual(self.client.get(url).status_code, 404)

    def test_what_was_answered_long_ago_is_swept_and_what_waits_is_not(self) -> None:
        question = self.question(self.begin("count"))
        later = time.time() + 30 * 24 * 3600
        sweep.sweep(later)
        self.assertTrue(question.folder.exists())
        half = question.folder.parent / ".part-of-a-stopped-worker"
        half.mkdir()
        sweep.sweep(time.time() + 2 * 3600)
        self.assertFalse(half.exists())
        self.answer(question, frames="9")
        sweep.sweep(later)
        self.assertFalse(question.folder.exists())


class Shown(Drilling):
    def test_a_colleague_is_shown_the_same_clip_by_its_link(self) -> None:
        question = self.question(self.begin("which"), kind="which", code="arc.straight", times=3.0, seed=8)
        page = self.answer(question, choice="first").content.decode()
        url = page.split('href="/training/clips/')[1].split('"')[0]
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(f"/training/clips/{url}"), "Which is right")
        self.client.post(f"/training/clips/{url}")
        other = Question.objects.get(drill__person=self.school.instructor)
        draw_question.call(other.pk)
        other.refresh_from_db()
        self.assertEqual(other.known["clips"], question.known["clips"])
        self.assertEqual(self.client.get("/training/clips/forged:token").status_code, 404)


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


def _said(question: Question, *, rightly: bool) -> dict[str, object]:
    """An answer to a question of any kind, right or wrong."""
    truth = question.known["truth"]
    if question.kind == "spot":
        return {"off": "0" if rightly else "1"}
    if question.kind == "which":
        return {"choice": truth["side"] if rightly else next(s for s in ("first", "second") if s != truth["side"])}
    if question.kind == "rate":
        return {"choice": truth["rate"] if rightly else next(r for r in (24, 12) if r != truth["rate"])}
    if question.kind == "order":
        return {"row": ",".join(map(str, truth["order"][1:] if rightly else truth["shuffled"]))}
    if question.kind == "count":
        return {"frames": truth["frames"] + (0 if rightly else 9)}
    number = truth["drawing"] + 1
    there = "right" if rightly else "shown"
    shape = next(s for s in question.known["clips"][there]["track"]["shapes"] if s["drawing"] == number)
    return {"x": shape["x"], "y": shape["y"]}
