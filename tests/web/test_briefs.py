"""Setting a brief through its form."""

from __future__ import annotations

from django.urls import reverse

import motion.brief
from motion.catalogue import PRINCIPLES
from motion.exercises.bounce import presets
from motion.exercises.exercise import start_from
from nettlecap.classroom import brief_keys
from nettlecap.classroom.models import Brief, Membership, Role
from nettlecap.takes.models import Analysis
from tests.web.school import SchoolTest, look_at_all, upload

BEARING = presets.PRESETS[0]


def values(**changes: object) -> dict[str, object]:
    """A brief form filled in well: what the browser sends for a ball bearing on a small frame."""
    start = start_from(BEARING, motion.brief.Brief(canvas=(640, 360), frames=(20, 80), fps=25.0, exposure="twos"))
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
        self.assertEqual((core.asked.material, core.asked.hops, core.asked.restitution), ("hard", 3, (0.3, 0.5)))
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
        self.assertEqual((core.asked.hops, core.frames, core.canvas, core.asked.restitution), (None,) * 4)

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
            "ground_y": "-5",
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

    def test_a_stored_brief_with_a_key_that_is_no_longer_known_still_opens_everywhere(self) -> None:
        take, brief = self.school.take(), self.school.brief
        brief.parameters = {**brief.parameters, "colour": "ochre", "bounce": {"material": "soft", "springs": 2}}
        brief.save(update_fields=["parameters"])
        course = self.school.course.pk
        own = [reverse("brief", args=[brief.pk]), reverse("take", args=[take.pk])]
        theirs = [*own, reverse("desk", args=[take.pk]), reverse("class-wall", args=[course])]
        theirs += [reverse("edit-brief", args=[brief.pk]), reverse("export-brief", args=[brief.pk])]
        for person, paths in ((self.school.instructor, theirs), (self.school.student, own)):
            self.as_person(person)
            for path in ("/", *paths):
                with self.subTest(path, person=person.username):
                    self.assertEqual(self.client.get(path).status_code, 200)

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

    def test_a_change_of_what_counts_says_so_and_leaves_analyses_alone(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        self.client.post(reverse("return-marks", args=[take.pk]))
        url = reverse("edit-brief", args=[self.school.brief.pk])
        kept = self.as_sent(url) | {"points_arcs": "4"}
        said = self.client.post(url, kept)
        self.assertContains(said, "What counts changes")
        self.assertContains(said, "1 mark sheet is returned")
        self.assertNotContains(said, "What is looked for changes")
        self.client.post(url, kept | {"act": "confirmed"})
        self.school.brief.refresh_from_db()
        take.analysis.refresh_from_db()
        self.assertEqual((self.school.brief.points["arcs"], take.analysis.run), (4.0, 1))

    def as_sent(self, url: str) -> dict[str, object]:
        """The edit form as a browser sends it when nothing was changed."""
        initial = self.client.get(url).context["form"].initial
        kept = {name: value for name, value in initial.items() if value is not None and value is not False}
        return kept | {"due_at": kept["due_at"].strftime("%Y-%m-%dT%H:%M"), "ticks": "{}"}

    def test_a_brief_goes_through_its_form_unchanged(self) -> None:
        for preset in presets.PRESETS:
            start = start_from(preset, motion.brief.Brief(title=preset.name, canvas=(960, 540)))
            brief = Brief.objects.create(
                course=self.school.course,
                title=preset.name,
                parameters=start.to_json(),
                due_at=self.school.brief.due_at,
                created_by=self.school.instructor,
            )
            url = reverse("edit-brief", args=[brief.pk])
            self.client.post(url, self.as_sent(url))
            brief.refresh_from_db()
            self.assertEqual(brief.core, start)


class LiveGuide(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def ask(self, **changes: object) -> dict:  # type: ignore[type-arg]
        answer = self.client.post(reverse("live-guide", args=[self.school.course.pk]), values(**changes))
        self.assertEqual(answer.status_code, 200)
        return answer.json()

    def test_it_follows_the_values_before_anything_is_saved(self) -> None:
        briefs = Brief.objects.count()
        low, high = self.ask(height="120"), self.ask(height="200")
        tops = [next(h for h in told["guide"]["handles"] if h["name"] == "top")["at"][1] for told in (low, high)]
        self.assertLess(tops[1], tops[0])
        self.assertGreater(len(self.ask(fps="50")["guide"]["figures"]), len(low["guide"]["figures"]))
        self.assertEqual(Brief.objects.count(), briefs)

    def test_what_a_drag_changes_is_told_with_the_guide_that_follows(self) -> None:
        told = self.ask(change='{"name": "top", "x": 120, "y": 100}')
        self.assertEqual(set(told["values"]), {"height", "start_x"})
        (top,) = [h for h in told["guide"]["handles"] if h["name"] == "top"]
        self.assertEqual([round(v) for v in top["at"]], [120, 100])
        self.assertEqual(self.ask(change='{"name": "nobody", "x": 1, "y": 1}')["values"], {})

    def test_another_frame_takes_the_guide_with_it(self) -> None:
        told = self.ask(
            canvas_width="1280",
            canvas_height="720",
            change='{"from": {"width": 640, "height": 360}, "to": {"width": 1280, "height": 720}}',
        )
        plain = self.ask()["guide"]["handles"]
        wide = {h["name"]: h["at"] for h in told["guide"]["handles"]}
        for handle in plain:
            with self.subTest(handle["name"]):
                self.assertAlmostEqual(wide[handle["name"]][1], 2 * handle["at"][1], delta=1.5)

    def test_a_change_that_is_none_is_refused(self) -> None:
        for change in (
            "[]",
            "{",
            '{"name": 3}',
            '{"name": "top", "x": "a", "y": 1}',
            '{"from": {"width": -1, "height": 2}, "to": {"width": 3, "height": 2}}',
        ):
            with self.subTest(change):
                url = reverse("live-guide", args=[self.school.course.pk])
                self.assertEqual(self.client.post(url, values(change=change)).status_code, 422)

    def test_title_and_date_may_be_missing_yet(self) -> None:
        told = self.ask(title="", due_at="")
        self.assertEqual(told["errors"], {})
        self.assertIsNotNone(told["guide"])

    def test_a_value_that_cannot_be_is_told_by_field(self) -> None:
        told = self.ask(height="9000", fps="")
        self.assertIsNone(told["guide"])
        self.assertEqual(set(told["errors"]), {"height", "fps"})
        self.assertEqual(set(self.ask(height="350")["errors"]), {"height"})

    def test_what_the_checks_would_mind_comes_only_when_asked_for(self) -> None:
        self.assertIsNone(self.ask()["minded"])
        self.assertEqual(self.ask(judged="1")["minded"], [])

    def test_the_guide_at_odds_with_what_is_asked_is_told_beside_the_field(self) -> None:
        self.assertIn("frames_min", self.ask(frames_max="21")["guide"]["notes"])
        self.assertIn("hops", self.ask(hops="9")["guide"]["notes"])

    def test_starts_give_values_for_the_frame_that_is_there(self) -> None:
        url = reverse("start-values", args=[self.school.course.pk])
        small = self.client.get(url, {"from": "own:tennis", "canvas": '{"width": 480, "height": 270}'}).json()
        self.assertEqual((small["diameter"], small["material"], small["ground_y"]), (20.0, "firm", 225.0))
        self.assertEqual(self.client.get(url, {"from": "blank:"}).json()["canvas_width"], 960)
        earlier = self.client.get(url, {"from": f"brief:{self.school.brief.pk}"}).json()
        self.assertEqual(earlier["title"], "A cork float")
        for nonsense in ("own:anvil", "brief:99999", "brief:x", "moon:", ""):
            self.assertEqual(self.client.get(url, {"from": nonsense}).status_code, 404)
        broken = self.client.get(url, {"from": "own:tennis", "canvas": '{"width": "wide"'}).json()
        self.assertEqual(broken["diameter"], 40.0)


class WholeBriefs(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def test_a_draft_is_the_instructors_own_until_it_is_published(self) -> None:
        self.client.post(reverse("new-brief", args=[self.school.course.pk]), values(title="Not yet") | {"act": "draft"})
        brief = Brief.objects.get(title="Not yet")
        self.as_person(self.school.student)
        self.assertNotContains(self.client.get("/"), "Not yet")
        self.assertEqual(self.client.get(reverse("brief", args=[brief.pk])).status_code, 404)
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get("/"), "Not yet")
        self.client.post(reverse("publish-brief", args=[brief.pk]), {"show": "1"})
        self.as_person(self.school.student)
        self.assertContains(self.client.get("/"), "Not yet")

    def test_unpublishing_keeps_what_is_handed_in(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        self.client.post(reverse("publish-brief", args=[self.school.brief.pk]), {"show": "0"})
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 200)
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(reverse("take", args=[take.pk])).status_code, 200)
        self.assertNotContains(self.client.get("/"), "A cork float")

    def test_a_copy_is_a_draft_of_its_own(self) -> None:
        Membership.objects.create(course=self.school.other_course, person=self.school.instructor, role=Role.INSTRUCTOR)
        url = reverse("copy-brief", args=[self.school.brief.pk])
        answer = self.client.post(url, {"course": self.school.other_course.pk})
        copied = Brief.objects.get(course=self.school.other_course)
        self.assertRedirects(answer, reverse("edit-brief", args=[copied.pk]))
        self.assertEqual((copied.core, copied.published), (self.school.brief.core, False))

    def test_nobody_copies_into_a_course_that_is_not_theirs(self) -> None:
        url = reverse("copy-brief", args=[self.school.brief.pk])
        self.assertEqual(self.client.post(url, {"course": self.school.other_course.pk}).status_code, 404)
        self.assertEqual(self.client.post(url, {"course": "x"}).status_code, 404)

    def test_a_brief_goes_out_as_a_file_and_comes_in_the_same(self) -> None:
        self.client.post(reverse("new-brief", args=[self.school.course.pk]), values(weight_contact__gap="0.5"))
        brief = Brief.objects.get(title="A lead sinker")
        file = self.client.get(reverse("export-brief", args=[brief.pk])).content
        self.assertEqual(motion.brief.parse(file), brief.core)
        answer = self.client.post(
            reverse("import-brief", args=[self.school.course.pk]), {"file": upload(file, "sinker.brief.json")}
        )
        again = Brief.objects.exclude(pk=brief.pk).get(title="A lead sinker")
        self.assertRedirects(answer, reverse("edit-brief", args=[again.pk]))
        self.assertEqual((again.core, again.published), (brief.core, False))

    def test_a_file_that_is_no_brief_is_refused_in_words_and_sets_nothing(self) -> None:
        before = Brief.objects.count()
        plain = '{"schema": "nettlecap.brief/1", "exercise": "bounce"'
        for content, words in (
            (b"", "could not be read"),
            (b"[1, 2]", "could not be read"),
            (b"\xff\xfe\x00", "could not be read"),
            (b'{"schema": ' + b"[" * 1500 + b"]" * 1500 + b"}", "could not be read"),
            (plain.encode() + rb', "title": "\ud800"}', "could not be read"),
            (plain.encode() + b', "gravity": 3}', "knows no “gravity”"),
            (plain.encode() + b', "guide": {"height": 900}}', "leaves the frame"),
            (plain.encode() + b', "marking": {"weights": {"luck": 1}}}', "knows no “marking.weights.luck”"),
            (b" " * 300_000, "more than 200 KB"),
        ):
            with self.subTest(words):
                answer = self.client.post(
                    reverse("import-brief", args=[self.school.course.pk]), {"file": upload(content, "x.json")}
                )
                self.assertContains(answer, words, status_code=422)
        self.assertEqual(Brief.objects.count(), before)
