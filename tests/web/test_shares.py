"""An assistant changes the marks of their own share only; and what was measured waits for the marks."""

from __future__ import annotations

import json

from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Membership
from nettlecap.marking.models import MarkSheet
from tests.web.school import SchoolTest, clean_clip, hanging_clip


class Shares(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=hanging_clip()[0])
        self.second = self.school.person("second", "assistant")
        Membership.objects.filter(person=self.school.student).update(marker=self.school.assistant)

    def attempts(self) -> dict[str, int]:
        values = {
            "points": {"principle": "arcs", "points": "5"},
            "note": {"first_frame": "1", "text": "Good."},
            "remark": {"remark": "Well."},
            "first-look": {"taps": "3"},
            "draw-over": {"first_frame": "1", "tool": "line", "points": "[[9, 9], [90, 90]]"},
            "place": {"place": json.dumps({"ground": [230, 230]})},
            "return-marks": {},
        }
        return {
            name: self.client.post(reverse(name, args=[self.take.pk]), given).status_code
            for name, given in values.items()
        }

    def test_another_assistant_looks_and_changes_nothing(self) -> None:
        self.as_person(self.second)
        page = self.client.get(reverse("desk", args=[self.take.pk]))
        self.assertContains(page, "somebody else’s share")
        self.assertNotContains(page, 'data-act="return"')
        self.assertEqual(set(self.attempts().values()), {403})
        self.assertFalse(MarkSheet.objects.exists())
        MarkSheet.objects.create(take=self.take, returned_at=timezone.now())
        self.assertEqual(self.client.post(reverse("reopen", args=[self.take.pk]), {"reason": "So."}).status_code, 403)

    def test_whose_share_it_is_and_who_leads_do(self) -> None:
        for person in (self.school.assistant, self.school.instructor):
            self.as_person(person)
            self.assertTrue(set(self.attempts().values()) <= {200, 204})
            self.client.post(reverse("reopen", args=[self.take.pk]), {"reason": "Once more."})

    def test_what_is_in_nobodys_share_is_everybodys(self) -> None:
        Membership.objects.filter(person=self.school.student).update(marker=None)
        self.as_person(self.second)
        self.assertTrue(set(self.attempts().values()) <= {200, 204})

    def test_the_brief_may_say_that_all_mark_all(self) -> None:
        brief = self.take.brief
        brief.parameters = {**brief.parameters, "terms": {"marked_by": "all"}}
        brief.save()
        self.as_person(self.second)
        self.assertNotContains(self.client.get(reverse("desk", args=[self.take.pk])), "somebody else’s share")
        self.assertTrue(set(self.attempts().values()) <= {200, 204})


class MeasuredOnlyAfter(SchoolTest):
    def clip_data(self, take) -> dict:  # type: ignore[no-untyped-def, type-arg]
        page = self.client.get(reverse("take", args=[take.pk])).content.decode()
        return dict(json.loads(page.split('id="clip-data" type="application/json">')[1].split("</script>")[0]))

    def test_before_the_return_no_page_or_file_tells_a_student_what_was_measured(self) -> None:
        first, take = self.school.take(data=clean_clip()), self.school.take(data=hanging_clip()[0])
        self.as_person(self.school.student)
        data = self.clip_data(take)
        self.assertEqual((data["track"]["shapes"], data["track"]["ground"], data["arcs"]), ([], None, []))
        self.assertEqual((data["ideal"], data["moments"], data["size"], data["findings"]), ([], [], None, []))
        self.assertTrue(data["clip"]["exposures"])
        page = self.client.get(reverse("take", args=[take.pk]))
        self.assertNotContains(page, "overlays=1")
        plain = reverse("export-take", args=[take.pk, "clip.gif"])
        self.assertEqual(self.client.get(plain).status_code, 200)
        refused = (f"{plain}?overlays=1", reverse("beside-take", args=[take.pk, first.pk]))
        for url in (*refused, reverse("beside-guide", args=[take.pk]), reverse("track-table", args=[take.pk])):
            with self.subTest(url):
                self.assertEqual(self.client.get(url).status_code, 403)
        for one in (first, take):
            MarkSheet.objects.create(take=one, returned_at=timezone.now())
        for url in refused:
            with self.subTest(url):
                self.assertEqual(self.client.get(url).status_code, 200)

    def test_markers_see_it_at_once(self) -> None:
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.assistant)
        url = reverse("export-take", args=[take.pk, "clip.gif"])
        self.assertEqual(self.client.get(url, {"overlays": "1"}).status_code, 200)
