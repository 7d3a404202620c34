"""The class as a whole, in the browser: bringing people in, marking blind beside somebody, and a reel to take along."""

from __future__ import annotations

import threading
from pathlib import Path

from django.urls import reverse
from playwright.sync_api import Page, expect

from nettlecap.classroom.models import Letter, Membership, Person
from nettlecap.marking.models import Comparison
from nettlecap.standins import school_system
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import clean_clip, hanging_clip


class WholeClass(Journey):
    def test_people_come_by_roster_and_by_link(self) -> None:
        page = self.visit("orla", reverse("people", args=[self.school.course.pk]))
        self.roster(page, "Name;E-mail\nInês Faria;ines@sea.example\nOwen Holm;nowhere@\n")
        expect(page.get_by_role("alert")).to_contain_text("1 row cannot be taken in, so nobody is")
        page.get_by_role("link", name="Back to the people").click()
        self.roster(page, "Name;E-mail\nInês Faria;ines@sea.example\nOwen Holm;owen@sea.example\nAyumi;\n")
        page.get_by_role("button", name="Bring 3 people in").click()
        expect(page.locator(".told")).to_contain_text("3 people of the roster are in First Motion now")
        self.assertEqual(Letter.objects.count(), 3)

        page.get_by_role("button", name="Make a link").click()
        link = page.locator(".invitation .link").input_value()
        newcomer = self.browser.new_context().new_page()
        newcomer.goto(f"{self.live_server_url}/join/{link.rsplit('/', 1)[1]}")
        newcomer.get_by_label("Your name, as you write it").fill("Nuala Quince")
        newcomer.get_by_label("A login of your own").fill("nuala")
        newcomer.get_by_label("A password of your own").fill("salt-and-tide")
        newcomer.get_by_role("button", name="Come in").click()
        expect(newcomer.get_by_role("heading", name="Your exercises")).to_be_visible()
        expect(newcomer.locator("#main")).to_contain_text("A cork float")

        page.reload()
        row = page.locator("tr", has_text="Nuala Quince")
        row.get_by_label("Who marks Nuala Quince").select_option(label="Bram")
        page.get_by_role("button", name="Keep the shares").click()
        expect(row.get_by_label("Who marks Nuala Quince").locator("option:checked")).to_have_text("Bram")
        row.get_by_role("button", name="Leaves").click()
        expect(page.locator("tr", has_text="Nuala Quince")).to_contain_text("left")
        self.assertIsNotNone(Membership.objects.get(person=Person.objects.get(username="nuala")).left_at)

    def roster(self, page: Page, text: str) -> None:
        page.get_by_label("A whole roster").set_input_files(self.file(text.encode(), "class.csv"))
        page.get_by_role("button", name="Look at the roster").click()

    def test_two_mark_the_same_clips_blind_and_then_see_where_they_differ(self) -> None:
        looked_at(self, ("ayumi", hanging_clip()[0]), ("kofi", clean_clip()))
        orla = self.visit("orla", reverse("two-markers", args=[self.school.brief.pk]))
        orla.locator("[name=one]").select_option(label="Orla")
        orla.locator("[name=other]").select_option(label="Bram")
        orla.get_by_role("button", name="Hand them these clips").click()
        orla.get_by_role("link", name="Mark your next clip").click()
        self.mark(orla, agree=True)
        self.mark(orla, agree=False)
        orla.get_by_role("link", name="All marked: to the comparison").click()
        expect(orla.locator("#main")).to_contain_text("Orla: 2 of 2 clips")
        expect(orla.locator("#main")).to_contain_text("Bram: 0 of 2 clips")

        bram = self.visit("bram")
        bram.get_by_role("link", name="Mark blind").click()
        expect(bram.locator(".finding.agreed")).to_have_count(0)
        self.mark(bram, agree=False)
        self.mark(bram, agree=False)
        expect(bram.get_by_role("heading", name="Clips to talk about")).to_be_visible()
        expect(bram.locator(".talk li").first).to_contain_text("Orla agreed, Bram left open")
        expect(bram.locator(".agreement")).to_contain_text("1 of 2")
        self.assertIsNotNone(Comparison.objects.get().closed_at)

        orla.reload()
        orla.locator(".talk li").first.get_by_role("button", name="Go on from Orla’s marks").click()
        self.ready(orla)
        expect(orla.locator(".finding.agreed")).to_have_count(1)
        expect(orla.get_by_role("button", name="Return marks")).to_be_visible()

    def ready(self, page: Page) -> None:
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")

    def mark(self, page: Page, *, agree: bool) -> None:
        self.ready(page)
        if agree:
            page.keyboard.press("f")
            page.keyboard.press("y")
            expect(page.locator(".finding.agreed")).to_have_count(1)
        page.get_by_role("button", name="Lay the marks down").click()
        # The last one of both leads to what came of it by itself.
        expect(page.locator(".closing .saved:has-text('Laid down'), .talk").first).to_be_visible()
        following = page.get_by_role("link", name="Next clip")
        if following.count():
            following.click()

    def test_marks_go_to_the_schools_system(self) -> None:
        take, _ = looked_at(self, ("ayumi", hanging_clip()[0]), ("kofi", clean_clip()))
        there = school_system.SchoolSystem(0, f"{self.live_server_url}{reverse('school-keys')}")
        threading.Thread(target=there.serve_forever, daemon=True).start()
        self.addCleanup(there.server_close)
        self.addCleanup(there.shutdown)
        Person.objects.filter(username="orla").update(is_staff=True)
        Person.objects.filter(username="ayumi").update(email="ayumi@saltmarsh.example")
        page = self.visit("orla", reverse("school", args=[self.school.course.pk]))
        expect(page.locator("#main")).to_contain_text("not linked yet")
        page.get_by_label("Its name").fill("The office")
        page.get_by_label("The client number under which it knows us").fill(school_system.CLIENT)
        page.get_by_label("Where tokens are asked for").fill(there.token_url)
        page.get_by_role("button", name="Make it known").click()
        page.get_by_label("School’s system").select_option(label="The office")
        page.get_by_label("Where its members are").fill(f"{there.course_url}/members")
        page.get_by_label("Where its line items are").fill(f"{there.course_url}/lineitems")
        page.get_by_role("button", name="Keep the link").click()
        page.get_by_role("button", name="Who is who there").click()
        expect(page.locator("tr", has_text="Kofi")).to_contain_text("nobody there has this")

        page.goto(f"{self.live_server_url}{reverse('desk', args=[take])}")
        self.ready(page)
        page.keyboard.press("Control+Enter")
        expect(page.locator(".closing")).to_contain_text("Returned")
        page.goto(f"{self.live_server_url}{reverse('school', args=[self.school.course.pk])}")
        page.get_by_role("button", name="Send 1").click()
        expect(page.locator("progress")).to_be_visible()
        self.work()
        expect(page.locator("#sendings")).to_contain_text("1 of 1")
        self.assertEqual(there.book.scores["1"]["s-101"]["scoreGiven"], 50.0)

    def test_one_keeps_ones_own_name_and_reads_ones_letters_link(self) -> None:
        page = self.visit("ayumi", reverse("you"))
        page.get_by_label("Your name, as you write it").fill("Ayumi Tōrance")
        page.get_by_role("button", name="Keep").click()
        expect(page.locator(".told")).to_have_text("Kept.")
        expect(page.locator(".who")).to_have_text("Ayumi Tōrance")
        with page.expect_download() as told:
            page.get_by_role("link", name="Everything of yours as one file").click()
        self.assertEqual(told.value.suggested_filename, "ayumi-everything.zip")

    def test_a_reel_is_made_while_one_looks_and_saved(self) -> None:
        looked_at(self, ("ayumi", hanging_clip()[0]))
        page = self.visit("orla", reverse("files-of-class", args=[self.school.brief.pk]))
        page.get_by_label("Ayumi").check()
        page.get_by_label("each clip").select_option(label="once")
        page.get_by_role("button", name="Make the reel").click()
        expect(page.locator("#parcels")).to_contain_text("waiting for the worker")
        self.work()
        save = page.get_by_role("link", name="Save it")
        expect(save).to_be_visible()
        with page.expect_download() as told:
            save.click()
        path = Path(told.value.path())
        self.assertEqual((told.value.suggested_filename, path.read_bytes()[4:8]), ("reel.mp4", b"ftyp"))
