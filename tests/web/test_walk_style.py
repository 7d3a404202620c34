"""The style of a walk through the form: asked for, excused, kept, and read back."""

from __future__ import annotations

from django.urls import reverse

from motion.brief import Brief, Stride, WalkBrief
from nettlecap.classroom.models import Brief as Stored
from tests.web.forms import filled
from tests.web.school import SchoolTest

ASKED = Brief(
    asked=WalkBrief(direction="right", lean_degrees=(4.0, 12.0), excused=("rise", "arms")),
    guide=Stride(lean=6.0, rise=10.0),
)


class Style(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)
        self.new = reverse("new-brief", args=[self.school.course.pk])

    def test_it_is_kept_shown_and_read_back_as_it_was(self) -> None:
        page = self.client.get(self.new, {"exercise": "walk"})
        for words in ("Rise and fall (share of the leg)", "it limps: uneven steps", "Home on a blister"):
            self.assertContains(page, words)
        answer = self.client.post(f"{self.new}?exercise=walk", filled(ASKED, title="Tired", act="publish"))
        self.assertEqual(answer.status_code, 302)
        stored = Stored.objects.get(title="Tired")
        self.assertEqual((stored.core.asked, stored.core.guide), (ASKED.asked, ASKED.guide))
        self.assertContains(self.client.get(reverse("brief", args=[stored.pk])), "it may glide")
        form = self.client.get(reverse("edit-brief", args=[stored.pk])).context["form"]
        ticked = [one for one in ("rise", "knees", "limp", "arms") if form[f"excused_{one}"].value()]
        self.assertEqual(ticked, ["rise", "arms"])

    def test_what_is_no_longer_ticked_is_no_longer_excused(self) -> None:
        told = filled(ASKED, title="Tired", act="publish")
        del told["excused_rise"]
        self.client.post(f"{self.new}?exercise=walk", told)
        asked = Stored.objects.get(title="Tired").core.asked
        assert isinstance(asked, WalkBrief)
        self.assertEqual(asked.excused, ("arms",))

    def test_what_is_asked_for_cannot_be_excused_and_is_said_beside_it(self) -> None:
        told = filled(ASKED, title="Tired", act="publish", rise_share_low="0.02", rise_share_high="0.06")
        page = self.client.post(f"{self.new}?exercise=walk", told)
        self.assertContains(page, "cannot be asked for and excused", status_code=422)
        self.assertIn("excused_rise", page.context["form"].errors)
        self.assertFalse(Stored.objects.filter(title="Tired").exists())
