"""Many at once: a class that hands in together, and two who mark the same clip."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.conf import settings
from django.db import IntegrityError, connection
from django.test import TransactionTestCase

from nettlecap.classroom import invitations, sign_in
from nettlecap.classroom.models import Letter, Membership, SignInTries
from nettlecap.errors import Conflict, Refusal
from nettlecap.marking.decisions import decide
from nettlecap.marking.desk import draw_over
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes import arrivals, look_again
from nettlecap.takes.drafts import look_through
from nettlecap.takes.hand_in import hand_in, make_final, try_out
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.tasks import read_arrival
from nettlecap.takes.work import look
from tests.web.school import School, clean_clip, hanging_clip, upload
from tests.web.test_worker import start_worker

EIGHT = 8


class AllAtOnce(TransactionTestCase):
    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def hand_in(self, who: int) -> int:
        student = (self.school.student, self.school.classmate)[who % 2]
        try:
            return hand_in(student, self.school.brief, [upload(self.data, f"{who}.zip")]).number
        finally:
            connection.close()

    def test_hand_ins_at_the_same_moment_get_numbers_of_their_own_and_are_all_looked_at(self) -> None:
        self.data = clean_clip()
        with ThreadPoolExecutor(6) as crowd:
            numbers = list(crowd.map(self.hand_in, range(6)))
        self.assertEqual(sorted(numbers), [1, 1, 2, 2, 3, 3])
        self.assertEqual(start_worker("--batch").wait(120), 0)
        self.assertEqual(Analysis.objects.filter(state="done").count(), 6)

    def test_two_markers_on_one_clip_keep_one_decision_and_none_after_the_return(self) -> None:
        take = hand_in(self.school.student, self.school.brief, [upload(hanging_clip()[0])])
        self.assertEqual(start_worker("--batch").wait(120), 0)
        take = Take.objects.select_related("analysis", "brief").get(pk=take.pk)
        key = finding_key(take.analysis.findings["findings"][0])
        decide.say(self.school.instructor, take, key, "agreed")
        decide.say(self.school.assistant, take, key, "dismissed")
        self.assertEqual(Decision.objects.get().verdict, "dismissed")
        decide.return_marks(self.school.instructor, take)
        with self.assertRaisesRegex(Conflict, "returned"):
            decide.say(self.school.assistant, take, key, "agreed")
        self.assertEqual(Decision.objects.get().verdict, "dismissed")


class EachEightTimes(TransactionTestCase):
    """Eight of the same at once: each has a number of its own, each is kept, and none is counted twice."""

    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        self.data = clean_clip()

    def at_once(self, deed: Callable[[int], Any]) -> list[Any]:
        """What each of eight gives; a refusal in words, or what is gone by then, is an answer as well."""
        together = threading.Barrier(EIGHT)

        def one(number: int) -> Any:
            try:
                together.wait(60)
                return deed(number)
            except (Refusal, IntegrityError) as refusal:
                self.assertIsInstance(refusal, Refusal)
                return refusal
            finally:
                connection.close()

        with ThreadPoolExecutor(EIGHT) as crowd:
            return list(crowd.map(one, range(EIGHT)))

    def looked_at(self) -> Take:
        take = hand_in(self.school.student, self.school.brief, [upload(hanging_clip()[0])])
        look.look_at(take.pk, 1)
        return Take.objects.select_related("analysis", "brief").get(pk=take.pk)

    def refused(self, answers: list[Any]) -> int:
        return sum(isinstance(a, Refusal) for a in answers)

    def test_takes_are_numbered_without_a_gap(self) -> None:
        takes = self.at_once(lambda n: hand_in(self.school.student, self.school.brief, [upload(self.data)]).number)
        self.assertEqual(sorted(takes), list(range(1, EIGHT + 1)))

    def test_no_more_takes_and_own_checks_than_the_brief_allows(self) -> None:
        brief = self.school.set_brief(terms={"takes": 3, "own_checks": 2})
        checks = self.at_once(lambda n: try_out(self.school.student, brief, [upload(self.data)]).trial_number)
        self.assertEqual(sorted(c for c in checks if isinstance(c, int)), [1, 2])
        takes = self.at_once(lambda n: hand_in(self.school.student, brief, [upload(self.data)]).number)
        self.assertEqual(sorted(t for t in takes if isinstance(t, int)), [1, 2, 3])

    def test_a_clip_is_handed_in_once(self) -> None:
        trial = look_through(self.school.student, self.school.brief, [upload(self.data)])
        answers = self.at_once(lambda n: make_final(self.school.student, trial).number)
        self.assertEqual(self.refused(answers), EIGHT - 1)
        self.assertEqual(Take.objects.get().number, 1)

    def test_what_comes_in_is_read_once(self) -> None:
        arrival = arrivals.arrive(self.school.student, self.school.brief, [upload(self.data)], Arrival.As.TAKE)
        self.at_once(lambda n: read_arrival.call(arrival.pk))
        self.assertEqual(Take.objects.count(), 1)
        self.assertEqual(Arrival.objects.get().state, Arrival.State.TAKEN_IN)

    def test_no_more_of_one_person_wait_than_may(self) -> None:
        def arrive(number: int) -> int:
            return arrivals.arrive(self.school.student, self.school.brief, [upload(self.data)], Arrival.As.TAKE).pk

        answers = self.at_once(arrive)
        self.assertEqual(self.refused(answers), EIGHT - arrivals.MOST_UNREAD)
        self.assertEqual(Arrival.objects.unread().count(), arrivals.MOST_UNREAD)

    def test_notes_points_and_strokes_of_eight_can_all_be_taken_back(self) -> None:
        take, orla = self.looked_at(), self.school.instructor
        self.at_once(lambda n: decide.note(orla, take, first=1, last=2, principle="arcs", text=f"Note {n}."))
        self.at_once(lambda n: decide.set_points(orla, take, "arcs", float(n)))
        self.at_once(lambda n: draw_over.draw(orla, take, first=1, last=2, tool="line", points="[[9, 9], [90, 90]]"))
        sheet = MarkSheet.objects.get(take=take)
        self.assertEqual((sheet.notes.count(), sheet.strokes.count()), (EIGHT, EIGHT))
        self.assertEqual(len(sheet.undoable), 3 * EIGHT)
        answers = self.at_once(lambda n: decide.take_back(orla, take))
        self.assertEqual(self.refused(answers), 0)
        self.assertEqual(len(MarkSheet.objects.get(take=take).undoable), 2 * EIGHT)
        self.assertEqual(sheet.strokes.count(), 0)

    def test_marks_are_returned_once_with_one_letter(self) -> None:
        take, orla = self.looked_at(), self.school.instructor
        answers = self.at_once(lambda n: decide.return_marks(orla, take))
        self.assertEqual(self.refused(answers), EIGHT - 1)
        self.assertEqual(Letter.objects.filter(to=self.school.student).count(), 1)

    def test_one_finding_has_one_decision(self) -> None:
        take, orla = self.looked_at(), self.school.instructor
        key = finding_key(take.analysis.findings["findings"][0])
        self.at_once(lambda n: decide.say(orla, take, key, ("agreed", "dismissed")[n % 2]))
        self.assertEqual(Decision.objects.count(), 1)
        self.assertEqual(len(MarkSheet.objects.get(take=take).undoable), EIGHT)

    def test_somebody_comes_into_a_course_once(self) -> None:
        outsider = self.school.person("lind", "student", self.school.other_course)
        invitation = invitations.invite(self.school.instructor, self.school.course, role="student", days=1)
        self.at_once(lambda n: invitations.join(outsider, invitation))
        self.assertEqual(Membership.objects.filter(person=outsider, course=self.school.course).count(), 1)
        invitation.refresh_from_db()
        self.assertEqual(invitation.joined, 1)

    def test_a_new_look_is_asked_for_by_each_and_done_once(self) -> None:
        take = self.looked_at()
        self.at_once(lambda n: look_again.start_again(take))
        take.analysis.refresh_from_db()
        self.assertEqual(take.analysis.run, 1 + EIGHT)
        self.assertEqual(start_worker("--batch").wait(120), 0)
        take.analysis.refresh_from_db()
        self.assertEqual((take.analysis.state, take.analysis.shown_run), ("done", 1 + EIGHT))

    def test_failed_sign_ins_all_count(self) -> None:
        count = [sign_in.Count("place:here", 6, 900)]
        self.at_once(lambda n: sign_in.failed(count))
        self.assertEqual(SignInTries.objects.get().failures, EIGHT)
