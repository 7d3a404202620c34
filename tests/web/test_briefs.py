"""Setting a brief through its form."""

from __future__ import annotations

from django.urls import reverse

import motion.brief
from motion.exercises.bounce import presets
from motion.findings import PRINCIPLES
from nettlecap.classroom import brief_keys
from nettlecap.classroom.models import Brief
from nettlecap.takes.models import Analysis
from tests.web.school import SchoolTest, look_at_all

BEARING = presets.PRESETS[0]


def values(**changes: object) -> dict[str, object]:
    """A brief form filled in well: what the browser sends for a ball bearing on a small frame."""
    start = presets.apply(BEARING, motion.brief.Brief(canvas=(640, 360), frames=(20, 80), fps=25.0, exposure="twos"))
    filled = {k: v for k, v in brief_keys.from_core(start).items() if v is not None and v is not False}
    return {
        **filled,
        "ticks": "{}",
        "title": "A lead sinker",
        "words": "It hardly bounces.",
        "due_at": "2027-01-15T18:00",
        "hops": "3",
        "strictness": "strict",
        "restitution_low": "0.3",
        "restitution_high": "0.5",
        **{f"points_{p}": "8" for p in PRINCIPLES},
        **changes,
    }


class SettingBriefs(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)
        self.url = reverse("new-brief", args=[self.school.course.pk])

    def test_what_is_filled_in_is_what_the_core_gets(self) -> None:
        answer = self.client.post(self.url, values())
        brief = Brief.objects.get(title="A lead sinker")
        self.assertRedirects(answer, reverse("brief", args=[brief.pk]))
        core = brief.core
        self.assertEqual((core.fps, core.exposure, core.frames, core.canvas), (25.0, "twos", (20, 80), (640, 360)))
        self.assertEqual((core.bounce.material, core.bounce.hops, core.bounce.restitution), ("hard", 3, (0.3, 0.5)))
        self.assertEqual((core.strictness, core.loop, brief.points["contact"]), ("strict", False, 8.0))

    def test_empty_means_any(self) -> None:
        open_values = dict.fromkeys(
            (
                "hops",
                "frames_min",
                "frames_max",
                "canvas_width",
                "canvas_height",
                "restitution_low",
                "restitution_high",
            ),
            "",
        )
        self.client.post(self.url, values(**open_values))
        core = Brief.objects.get(title="A lead sinker").core
        self.assertEqual((core.bounce.hops, core.frames, core.canvas, core.bounce.restitution), (None,) * 4)

    def test_every_error_stands_beside_its_field(self) -> None:
        for field, bad in {
            "title": "",
            "due_at": "soon",
            "fps": "0",
            "hops": "-1",
            "frames_min": "200",
            "frames_max": "0",
            "canvas_height": "",
            "restitution_low": "0.9",
            "diameter_m": "-2",
            "ground": "-5",
            "height": "400",
            "hop_s": "",
            "keeps": "1.5",
            "late_cost": "120",
            "points_arcs": "-1",
            "material": "jelly",
        }.items():
            with self.subTest(field):
                answer = self.client.post(self.url, values(**{field: bad}))
                self.assertEqual(answer.status_code, 422)
                self.assertIn(field, answer.context["form"].errors)
                self.assertContains(answer, f'id="error_{field}"', status_code=422)
        self.assertFalse(Brief.objects.filter(title="A lead sinker").exists())

    def test_a_change_of_what_is_asked_has_takes_looked_at_again(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        url = reverse("edit-brief", args=[self.school.brief.pk])
        self.assertContains(self.client.get(url), "1 take is handed in")
        changed = values(title="Renamed", fps="12")
        said = self.client.post(url, changed)
        self.assertContains(said, "What is looked for changes, so this take will be looked at again")
        take.analysis.refresh_from_db()
        self.assertEqual(take.analysis.run, 1)
        self.client.post(url, changed | {"act": "confirmed"})
        take.analysis.refresh_from_db()
        self.assertEqual((take.analysis.run, take.analysis.state), (2, Analysis.State.WAITING))
        # Until it has been, what was found before is still there to be looked at, drawings included.
        self.assertContains(self.client.get(reverse("desk", args=[take.pk])), "is being looked at again")
        self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, 1, 1])).status_code, 200)
        look_at_all()
        self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, 1, 1])).status_code, 404)
        self.assertEqual(self.client.get(reverse("drawing", args=[take.pk, 2, 1])).status_code, 200)
        take.analysis.refresh_from_db()
        self.assertEqual(take.analysis.state, Analysis.State.DONE)
        self.assertEqual(take.analysis.findings["clip"]["fps"], 12.0)

    def test_a_change_of_words_leaves_takes_alone(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        form = self.client.get(reverse("edit-brief", args=[self.school.brief.pk])).context["form"]
        kept = {name: value for name, value in form.initial.items() if value is not None and value is not False}
        kept |= {"title": "Only renamed", "due_at": kept["due_at"].strftime("%Y-%m-%dT%H:%M"), "ticks": "{}"}
        self.client.post(reverse("edit-brief", args=[self.school.brief.pk]), kept)
        self.school.brief.refresh_from_db()
        take.analysis.refresh_from_db()
        self.assertEqual((self.school.brief.title, take.analysis.run), ("Only renamed", 1))
