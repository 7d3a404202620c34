"""Eight processes do the same at once, on whichever database the tests run; with PostgreSQL each is a machine apart."""

from __future__ import annotations

import shutil

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom import invitations
from nettlecap.classroom.models import Letter, Membership
from nettlecap.files import shelf
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.arrivals import MOST_UNREAD
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.tasks import analyse_take
from nettlecap.takes.work import look
from tests.several import deeds
from tests.several.processes import Crowd, crowd
from tests.several.shared_storage import shared_storage
from tests.web.school import School, clean_clip, hanging_clip, upload

EIGHT, JOBS = 8, 60


class Processes(TransactionTestCase):
    """One crowd for all: a process takes a second or two to begin."""

    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def test_each_deed_by_eight_at_once(self) -> None:
        if connection.vendor == "postgresql":
            with shared_storage() as environment, crowd(EIGHT, environment) as eight:
                self.all_of_them(eight)
        else:
            with crowd(EIGHT) as eight:
                self.all_of_them(eight)

    def all_of_them(self, eight: Crowd) -> None:
        for part in (
            self.takes_are_numbered_without_a_gap,
            self.no_more_takes_than_the_brief_allows,
            self.no_more_of_one_person_wait_than_may,
            self.a_file_that_somebody_has_is_never_removed,
            self.every_note_and_point_can_be_taken_back,
            self.one_finding_has_one_decision_and_marks_go_back_once,
            self.a_job_is_claimed_by_one,
            self.somebody_comes_into_a_course_once,
        ):
            with self.subTest(part.__name__):
                part(eight)

    def takes_are_numbered_without_a_gap(self, eight: Crowd) -> None:
        ayumi, brief = self.school.student, self.school.set_brief()
        numbers = eight.do(deeds.hands_in, ayumi.pk, brief.pk, clean_clip())
        self.assertEqual(sorted(numbers), list(range(1, EIGHT + 1)))
        self.assertEqual(Take.objects.filter(brief=brief).count(), EIGHT)

    def no_more_takes_than_the_brief_allows(self, eight: Crowd) -> None:
        kofi, brief = self.school.classmate, self.school.set_brief(terms={"takes": 3})
        answers = eight.do(deeds.hands_in, kofi.pk, brief.pk, clean_clip())
        self.assertEqual(sorted(a for a in answers if isinstance(a, int)), [1, 2, 3])
        self.assertEqual(answers.count("Refusal"), EIGHT - 3)

    def no_more_of_one_person_wait_than_may(self, eight: Crowd) -> None:
        wren, brief = self.school.person("niamh", "student"), self.school.set_brief()
        answers = eight.do(deeds.arrives, wren.pk, brief.pk, clean_clip())
        self.assertEqual(answers.count("Conflict"), EIGHT - MOST_UNREAD)
        self.assertEqual(Arrival.objects.own(wren).unread().count(), MOST_UNREAD)

    def a_file_that_somebody_has_is_never_removed(self, eight: Crowd) -> None:
        ravi, brief = self.school.person("ravi", "student"), self.school.set_brief()
        clip = hanging_clip()[0]
        self.assertEqual(set(eight.do(deeds.hands_in_or_forgets, ravi.pk, brief.pk, clip)), {"done"})
        for take in Take.objects.filter(brief=brief):
            self.assertTrue(shelf.is_kept(take.file_path))
        hand_in(ravi, brief, [upload(clip)])
        self.assertTrue(shelf.is_kept(Take.objects.filter(brief=brief).latest("pk").file_path))

    def every_note_and_point_can_be_taken_back(self, eight: Crowd) -> None:
        take, orla = self.marked(), self.school.instructor
        for what in ("note", "points"):
            self.assertEqual(eight.do(deeds.marks, take.pk, orla.pk, what), ["done"] * EIGHT)
        sheet = MarkSheet.objects.get(take=take)
        self.assertEqual((sheet.notes.count(), len(sheet.undoable)), (EIGHT, 2 * EIGHT))
        self.assertEqual(eight.do(deeds.marks, take.pk, orla.pk, "back"), ["points set by hand"] * EIGHT)
        sheet.refresh_from_db()
        self.assertEqual((len(sheet.undoable), sheet.by_hand), (EIGHT, {}))

    def one_finding_has_one_decision_and_marks_go_back_once(self, eight: Crowd) -> None:
        take, orla = self.marked(), self.school.instructor
        key = finding_key(take.analysis.findings["findings"][0])
        eight.do(deeds.marks, take.pk, orla.pk, "say", key)
        self.assertEqual(Decision.objects.filter(sheet__take=take).count(), 1)
        letters = Letter.objects.filter(to=take.student).count()
        answers = eight.do(deeds.marks, take.pk, orla.pk, "return")
        self.assertEqual((answers.count("done"), answers.count("Conflict")), (1, EIGHT - 1))
        self.assertEqual(Letter.objects.filter(to=take.student).count(), letters + 1)

    def a_job_is_claimed_by_one(self, eight: Crowd) -> None:
        DBTaskResult.objects.all().delete()
        for number in range(JOBS):
            analyse_take.enqueue(10_000_000 + number, 1)
        claimed = [pk for own in eight.do(deeds.claims, JOBS) for pk in own]
        self.assertEqual(len(claimed), JOBS)
        self.assertEqual(len(set(claimed)), JOBS)

    def somebody_comes_into_a_course_once(self, eight: Crowd) -> None:
        lind = self.school.person("lind", "student", self.school.other_course)
        invitation = invitations.invite(self.school.instructor, self.school.course, role="student", days=1)
        eight.do(deeds.joins, lind.pk, invitation.pk)
        self.assertEqual(Membership.objects.filter(person=lind, course=self.school.course).count(), 1)
        invitation.refresh_from_db()
        self.assertEqual(invitation.joined, 1)

    def marked(self) -> Take:
        """A take that was looked at."""
        take = hand_in(self.school.student, self.school.set_brief(), [upload(hanging_clip()[0])])
        look.look_at(take.pk, 1)
        return Take.objects.select_related("analysis", "brief", "student").get(pk=take.pk)
