"""A sitting at the desk: the first look, what drawings are called, and taking back what was decided."""

from __future__ import annotations

from django.test import SimpleTestCase
from django.urls import reverse

from nettlecap.marking.desk.first_look import compare
from nettlecap.marking.desk.laid_out import Found, lay_out
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Note
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, hanging_clip


class Sitting(SchoolTest):
    take: Take
    frame: int

    def setUp(self) -> None:
        super().setUp()
        data, self.frame = hanging_clip()
        self.take = self.school.take(data=data)
        self.key = finding_key(self.take.analysis.findings["findings"][0])
        self.as_person(self.school.instructor)

    def do(self, action: str, *args: int, **values: object):  # type: ignore[no-untyped-def]
        return self.client.post(reverse(action, args=[self.take.pk, *args]), values, headers={"hx-request": "true"})

    def page(self):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("desk", args=[self.take.pk]))


class FirstLook(Sitting):
    def test_a_clip_nobody_has_looked_at_begins_with_it_and_does_so_once(self) -> None:
        self.assertContains(self.page(), "data-first-look")
        answer = self.do("first-look", taps=f"{self.frame + 1},3")
        self.assertContains(answer, "Your first look")
        self.assertNotContains(self.page(), "data-first-look")

    def test_taps_and_findings_are_put_together(self) -> None:
        self.do("first-look", taps=f"3,{self.frame + 1}")
        looked = lay_out(self.take).looked
        assert looked is not None
        self.assertEqual([(tap, f.key) for tap, f in looked.both], [(self.frame + 1, self.key)])
        self.assertEqual((looked.only_tapped, looked.only_found), ((3,), ()))

    def test_once_something_is_decided_there_is_none(self) -> None:
        self.do("say", key=self.key, verdict="agreed")
        self.assertNotContains(self.page(), "data-first-look")

    def test_taps_that_cannot_be_are_refused(self) -> None:
        for taps in ("0", "9999", "one", ",".join(["1"] * 300)):
            with self.subTest(taps[:9]):
                self.assertEqual(self.do("first-look", taps=taps).status_code, 422)
        self.assertFalse(MarkSheet.objects.filter(taps__isnull=False).exists())


class Compared(SimpleTestCase):
    def found(self, first: int, last: int) -> Found:
        return Found(
            key=f"x:{first}", code="x", principle="arcs", first_frame=first, last_frame=last, severity="clear",
            confidence=1.0, message="", advice="", measure="", verdict="", weight=1.0, name="",
        )  # fmt: skip

    def test_near_is_a_quarter_of_a_second(self) -> None:
        told = compare([4, 31], [self.found(10, 14), self.found(38, 38)], 24.0)
        self.assertEqual([t for t, _ in told.both], [4])
        self.assertEqual(told.only_tapped, (31,))
        self.assertEqual([f.first_frame for f in told.only_found], [38])


class Called(Sitting):
    def mark(self, drawing: int) -> str:
        return next(r.mark for r in lay_out(self.take).rows if r.drawing == drawing)

    def test_the_marker_calls_a_drawing_otherwise_than_proposed(self) -> None:
        self.assertEqual(self.mark(2), "plain")
        self.do("call", drawing=2, role="key")
        self.assertEqual(self.mark(2), "key")
        self.do("call", drawing=2, role="")
        self.assertEqual(self.mark(2), "plain")

    def test_what_cannot_be_called_is_refused(self) -> None:
        for drawing, role in ((2, "lead"), (999, "key")):
            self.assertEqual(self.do("call", drawing=drawing, role=role).status_code, 422)


class TakingBack(Sitting):
    def test_every_decision_the_latest_first(self) -> None:
        self.do("say", key=self.key, verdict="agreed")
        self.do("say", key=self.key, verdict="dismissed")
        self.do("points", principle="arcs", points="4")
        self.do("call", drawing=2, role="key")
        self.do("note", first_frame="3", last_frame="4", text="Look at this gap.")
        self.do("take-back-note", Note.objects.get().pk)

        self.assertContains(self.do("take-back"), "Taken back: the removal of a note.")
        self.assertEqual(Note.objects.get().text, "Look at this gap.")
        self.do("take-back")
        self.assertFalse(Note.objects.exists())
        sheet = MarkSheet.objects.get()
        self.assertEqual((sheet.roles, sheet.by_hand), ({"2": "key"}, {"arcs": 4.0}))
        self.do("take-back")
        self.do("take-back")
        sheet.refresh_from_db()
        self.assertEqual((sheet.roles, sheet.by_hand), ({}, {}))
        self.do("take-back")
        self.assertEqual(Decision.objects.get().verdict, "agreed")
        self.do("take-back")
        self.assertFalse(Decision.objects.exists())
        self.assertEqual(self.do("take-back").status_code, 409)

    def test_returned_marks_stay_as_they_are(self) -> None:
        self.do("say", key=self.key, verdict="agreed")
        self.do("return-marks")
        self.assertEqual(self.do("take-back").status_code, 409)
        self.assertTrue(Decision.objects.exists())


class Ghosts(Sitting):
    def test_each_drawing_in_the_air_has_a_place_on_its_own_arc(self) -> None:
        player = lay_out(self.take).player
        shapes = {s["drawing"]: s for s in player["track"]["shapes"]}
        drawings = {e["first_frame"]: e["drawing"] for e in player["clip"]["exposures"]}
        self.assertGreater(len(player["ideal"]), 12)
        for place in player["ideal"]:
            shape = shapes[drawings[place["frame"]]]
            self.assertLess(abs(place["x"] - shape["x"]) + abs(place["y"] - shape["y"]), 6)

    def test_the_brief_s_own_bounce_lies_over_clips_of_its_size_only(self) -> None:
        self.assertEqual(lay_out(self.take).player["guide"], [])
        small = {"diameter": 30, "height": 150, "distance": 300, "ground_y": 225}
        self.school.brief.parameters |= {"canvas": {"width": 480, "height": 270}, "guide": small}
        self.school.brief.save()
        guide = lay_out(Take.objects.select_related("analysis", "brief").get(pk=self.take.pk)).player["guide"]
        self.assertGreater(len(guide), 10)
        self.assertEqual(guide[0]["frame"], 1)
        self.assertEqual(guide[0]["lines"], [], "a ball has none")


class TwoMarkers(Sitting):
    def say(self, seen: str, verdict: str = "agreed"):  # type: ignore[no-untyped-def]
        values = {"key": self.key, "verdict": verdict}
        return self.client.post(reverse("say", args=[self.take.pk]), values, headers={"x-marks-seen": seen})

    def test_anothers_marks_are_not_written_over_unseen(self) -> None:
        self.assertContains(self.page(), 'data-seen=""')
        self.as_person(self.school.assistant)
        self.assertEqual(self.say("").status_code, 200)
        self.as_person(self.school.instructor)
        refused = self.say("", "dismissed")
        self.assertContains(refused, "Bram has changed these marks", status_code=409)
        self.assertEqual(Decision.objects.get().verdict, "agreed")

    def test_once_they_are_seen_they_can_be_changed_and_ones_own_always(self) -> None:
        self.as_person(self.school.assistant)
        self.say("")
        self.as_person(self.school.instructor)
        seen = MarkSheet.objects.get().seen_as
        self.assertContains(self.page(), f'data-seen="{seen}"')
        self.assertEqual(self.say(seen, "dismissed").status_code, 200)
        self.assertEqual(self.say(seen, "agreed").status_code, 200)
