"""A real browser on a live server, and what people do with it."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import ClassVar

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.web.school import School, look_at_all, read_all
from tests.web.test_worker import start_worker

QUIET = [
    "--disable-background-networking",
    "--disable-quic",
    "--no-first-run",
    "--disable-component-update",
    "--disable-sync",
]
PASSWORD = "a-long-secret"
# A busy machine may stall for a while; what comes in the end is right.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)


class Journey(StaticLiveServerTestCase):
    """One browser a class; a page, a school and a folder for files a test. Errors in the page fail the test."""

    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        play = sync_playwright().start()
        cls.addClassCleanup(play.stop)
        path = shutil.which("chromium") or "/usr/bin/chromium"
        cls.browser = play.chromium.launch(executable_path=path, args=QUIET)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.school = School()
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.errors: list[str] = []

    def visit(self, login: str, path: str = "/", first_looks: bool = False) -> Page:
        """A fresh browser session of a person, signed in, at a path; clips begin with a first look only if wanted."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        if not first_looks:
            page.add_init_script("localStorage.setItem('nettlecap-first-look', 'off')")
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", lambda m: self.errors.append(m.text) if "Content Security Policy" in m.text else None)
        page.goto(f"{self.live_server_url}/sign-in?next={path}")
        page.get_by_label("Username").fill(login)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        # Until the page has run its scripts, it listens to nothing.
        page.wait_for_url(lambda url: "/sign-in" not in url)
        return page

    def work(self, *, apart: bool = False) -> None:
        """The worker looks at what waits; ``apart`` as another process, as it does in a house."""
        if apart:
            self.assertEqual(start_worker("--batch").wait(120), 0)
        else:
            look_at_all()

    def received(self, page: Page) -> None:
        """The page says that the clip is there, and the worker reads it."""
        expect(page.locator("[data-picked]")).to_contain_text("Your clip is here")
        read_all()

    def file(self, data: bytes, name: str) -> str:
        path = self.folder / name
        path.write_bytes(data)
        return str(path)

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [])

    def drag(self, page: Page, label: str, dx: float, dy: float) -> None:
        """In the brief's editor: take hold of a handle by its name, and move it by px of the screen."""
        box = page.get_by_role("slider", name=label, exact=True).bounding_box()
        assert box is not None
        x, y = box["x"] + min(20.0, box["width"] / 2), box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx / 2, y + dy / 2)
        page.mouse.move(x + dx, y + dy)
        page.mouse.up()
        self.settled(page)

    def settled(self, page: Page) -> None:
        """In the brief's editor: the guide is that of the values as they are now, and judged."""
        page.wait_for_timeout(400)
        expect(page.locator("[data-brief-editor]")).to_have_attribute("aria-busy", "false")
