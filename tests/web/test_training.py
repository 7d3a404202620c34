"""Drills: begun, drawn by the worker ahead of need and answered."""

from __future__ import annotations

import shutil
import time
from typing import Any
from unittest import mock

from django.http import HttpResponse
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from motion.catalogue import faults
from motion.training import verified
from nettlecap.pages import sweep
from nettlecap.training import drawing, drills, pack
from nettlecap.training.models import Drill, Question, Sight
from nettlecap.training.tasks import draw_question
from tests.web.school import SchoolTest, look_at_all


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
