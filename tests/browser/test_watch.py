"""Who keeps the installation sees how it is doing, has a failed job done again, and gives a course its measure."""

from __future__ import annotations

from django_tasks_db.models import DBTaskResult
from playwright.sync_api import expect

from nettlecap.classroom.models import Course, Person
from nettlecap.takes.models import Analysis
from nettlecap.takes.tasks import analyse_take
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import clean_clip


class Keeping(Journey):
    def test_from_a_failed_job_to_a_clip_that_is_looked_at(self) -> None:
        looked_at(self, ("ayumi", clean_clip()))
        Person.objects.filter(username="orla").update(is_staff=True)
        Analysis.objects.update(state=Analysis.State.FAILED, findings=None)
        DBTaskResult.objects.get(task_path=analyse_take.module_path).set_failed(RuntimeError("The lamp went out."))
        page = self.visit("orla", "/you")
        page.get_by_role("link", name="How it is doing").click()
        expect(page.get_by_text("The lamp went out.")).to_be_visible()
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_text("Nothing has failed lately.")).to_be_visible()
        self.work()
        self.assertEqual(Analysis.objects.get().state, Analysis.State.DONE)
        course = Course.objects.get(name="First Motion")
        row = page.get_by_role("row", name="First Motion")
        row.get_by_label("GB").fill("7.5")
        row.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("row", name="First Motion").get_by_label("GB")).to_have_value("7.5")
        course.refresh_from_db()
        self.assertEqual(course.most_bytes, 7_500_000_000)
