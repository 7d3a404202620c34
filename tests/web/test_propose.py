"""Another timing, tried at the desk, kept as a proposal, and given to the student with the marks."""

from __future__ import annotations

import json

from django.urls import reverse

from nettlecap.marking.models import Proposal
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest


class Proposing(SchoolTest):
    take: Take

    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take()
        self.own = [[e["drawing"], e["frames"]] for e in self.take.analysis.findings["clip"]["exposures"]]
        self.as_person(self.school.instructor)

    def post(self, action: str, **values: object):  # type: ignore[no-untyped-def]
        return self.client.post(reverse(action, args=[self.take.pk]), values)

    def propose(self, timing: list[list[int]], **values: object):  # type: ignore[no-untyped-def]
        return self.post("propose-timing", timing=json.dumps(timing), **{"fps": "24", "note": "Hold it.", **values})

    def sheet(self, kind: str = "csv"):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("proposed-sheet", args=[self.take.pk, kind]))

    def test_a_change_is_worked_out_and_nothing_is_kept(self) -> None:
        answer = self.post("retime", timing=json.dumps(self.own), kind="hold", first=0, last=2, count=2)
        self.assertEqual(answer.json()["timing"][:4], [[1, 2], [2, 2], [3, 2], [4, 1]])
        self.assertFalse(Proposal.objects.exists())

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        own = json.dumps(self.own)
        for values in (
            {"timing": "[[999, 1]]", "kind": "hold", "first": 0, "last": 0},
            {"timing": "nonsense", "kind": "hold", "first": 0, "last": 0},
            {"timing": own, "kind": "out", "first": 0, "last": len(self.own) - 1},
            {"timing": own, "kind": "hold", "first": 0, "last": 0, "count": "many"},
        ):
            self.assertEqual(self.post("retime", **values).status_code, 422)
        self.assertEqual(self.propose(self.own, fps="0").status_code, 422)
        self.assertEqual(self.propose(self.own, note="x" * 301).status_code, 422)
        self.assertFalse(Proposal.objects.exists())

    def test_the_student_gets_it_with_the_marks_and_the_take_stays_as_it_is(self) -> None:
        slower = [[drawing, 2 * frames] for drawing, frames in self.own]
        self.assertEqual(self.propose(slower).status_code, 200)
        self.as_person(self.school.student)
        self.assertEqual(self.sheet().status_code, 404)
        self.as_person(self.school.instructor)
        self.post("return-marks")
        self.as_person(self.school.student)
        page = self.client.get(reverse("returned", args=[self.take.pk]))
        self.assertContains(page, "Hold it.")
        self.assertNotContains(page, "Propose it")
        self.assertEqual(self.sheet().content.decode().splitlines()[1:3], ["1,2,1", "3,4,2"])
        self.assertEqual(json.loads(self.sheet("json").content)["fps"], 24)
        self.assertEqual(self.sheet("ods").status_code, 404)
        self.take.analysis.refresh_from_db()
        self.assertEqual(
            [[e["drawing"], e["frames"]] for e in self.take.analysis.findings["clip"]["exposures"]], self.own
        )

    def test_it_is_withdrawn(self) -> None:
        self.propose(self.own)
        self.post("propose-timing", withdraw="1")
        self.assertFalse(Proposal.objects.exists())
        self.assertEqual(self.sheet().status_code, 404)

    def test_proposing_and_withdrawing_are_taken_back_in_turn(self) -> None:
        self.propose(self.own, note="First.")
        self.propose(self.own[:3], note="Second.")
        self.post("propose-timing", withdraw="1")
        for note in ("Second.", "First."):
            self.post("take-back")
            self.assertEqual(Proposal.objects.get().note, note)
        self.post("take-back")
        self.assertFalse(Proposal.objects.exists())
