"""Many at once: a class that hands in together, and two who mark the same clip."""

from __future__ import annotations

import shutil
from concurrent.futures import ThreadPoolExecutor

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase

from nettlecap.errors import Conflict
from nettlecap.marking import decide
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Analysis, Take
from tests.web.school import School, clean_clip, hanging_clip, upload
from tests.web.test_worker import start_worker


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
