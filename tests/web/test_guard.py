"""What stands between the network and the pages: bodies, addresses, texts, caches, storage, JSON."""

from __future__ import annotations

import errno
import io
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.db.utils import OperationalError
from django.test import SimpleTestCase, override_settings
from django.urls import reverse

from nettlecap.errors import Conflict, Refusal
from nettlecap.guard import at_once, bodies, told_json
from nettlecap.guard.address import client_of
from nettlecap.guard.storage import FULL, READ_ONLY
from tests.web.school import SchoolTest, clean_clip, upload


class Unread(io.BytesIO):
    """A body that must not be read."""

    def read(self, size: int | None = -1) -> bytes:
        raise AssertionError("the body was read")


class Bodies(SchoolTest):
    def post(self, url: str, length: int):  # type: ignore[no-untyped-def]
        environment = {"CONTENT_LENGTH": str(length), "wsgi.input": Unread()}
        return self.client.post(url, b"", content_type="multipart/form-data; boundary=x", **environment)

    def test_who_has_not_signed_in_sends_next_to_nothing(self) -> None:
        for name, args in (("sign-in", []), ("hand-in", [self.school.brief.pk]), ("start", [])):
            with self.subTest(name):
                answer = self.post(reverse(name, args=args), bodies.SMALL + 1)
                self.assertContains(answer, "Sign in first", status_code=413)

    def test_each_address_has_a_limit_of_its_own(self) -> None:
        self.as_person(self.school.student)
        clip = bodies.most_of(reverse("hand-in", args=[self.school.brief.pk]), signed_in=True)
        self.assertEqual(self.post(reverse("hand-in", args=[self.school.brief.pk]), clip + 1).status_code, 413)
        self.assertEqual(self.post(reverse("you"), bodies.USUAL + 1).status_code, 413)
        for name in ("hand-in", "check-clip", "look-through"):
            self.assertGreater(bodies.most_of(reverse(name, args=[7]), signed_in=True), 300_000_000)
        answer = self.client.post(
            reverse("you"),
            b"x",
            content_type="text/plain",
            CONTENT_LENGTH="many",
            headers={"accept": "application/json"},
        )
        self.assertEqual((answer.status_code, "at most" in answer.json()["message"]), (413, True))

    def test_the_session_is_known_by_its_cookie(self) -> None:
        self.assertFalse(bodies.is_signed_in(""))
        self.assertFalse(bodies.is_signed_in("a" * 32))
        self.as_person(self.school.student)
        cookie = self.client.cookies[settings.SESSION_COOKIE_NAME].value
        self.assertEqual(bodies.session_of(f"x=1; {settings.SESSION_COOKIE_NAME}={cookie}"), cookie)
        self.assertTrue(bodies.is_signed_in(cookie))
        self.client.logout()
        self.assertFalse(bodies.is_signed_in(cookie))


class Addresses(SimpleTestCase):
    def test_only_what_our_own_proxies_say_counts(self) -> None:
        ours = ("10.0.0.0/8", "::1")
        for peer, forwarded, client in (
            ("203.0.113.9", "198.51.100.1", "203.0.113.9"),
            ("10.1.2.3", "198.51.100.1", "198.51.100.1"),
            ("10.1.2.3", "made.up, 1.2.3.4, 198.51.100.1", "198.51.100.1"),
            ("10.1.2.3", "1.2.3.4, 198.51.100.1, 10.9.9.9", "198.51.100.1"),
            ("10.1.2.3", "nonsense", "10.1.2.3"),
            ("10.1.2.3", "", "10.1.2.3"),
            ("::1", "2001:db8::7", "2001:db8::7"),
            ("", "198.51.100.1", ""),
        ):
            with self.subTest(peer=peer, forwarded=forwarded):
                self.assertEqual(client_of(peer, forwarded, ours), client)

    @override_settings(SECURE_SSL_REDIRECT=True, SECURE_PROXY_SSL_HEADER=("HTTP_X_FORWARDED_PROTO", "https"))
    def test_what_anybody_else_says_of_the_scheme_is_not_believed(self) -> None:
        told = {"HTTP_X_FORWARDED_PROTO": "https", "REMOTE_ADDR": "203.0.113.9"}
        self.assertEqual(self.client.get(reverse("sign-in"), **told).status_code, 301)
        with override_settings(TRUSTED_PROXIES=["203.0.113.9"]):
            self.assertEqual(self.client.get(reverse("sign-in"), **told).status_code, 200)


class Caches(SchoolTest):
    def test_what_is_somebodys_own_is_kept_nowhere(self) -> None:
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.instructor)
        never = (
            reverse("start"),
            reverse("desk", args=[take.pk]),
            reverse("export-take", args=[take.pk, "clip.gif"]),
            reverse("findings-file", args=[take.pk]),
            reverse("grades-file", args=[self.school.course.pk, "csv"]),
            reverse("guide-file", args=[self.school.brief.pk, "chart.svg"]),
            reverse("all-of-one", args=[self.school.student.pk]),
            reverse("handed-in-file", args=[take.pk]),
        )
        for url in never:
            with self.subTest(url):
                self.assertEqual(self.client.get(url)["Cache-Control"], "private, no-store")
        self.assertEqual(self.client.get(reverse("take", args=[9999]))["Cache-Control"], "private, no-store")

    def test_a_drawing_is_asked_for_each_time_and_not_sent_twice(self) -> None:
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.student)
        url = reverse("drawing", args=[take.pk, take.analysis.shown_run, 1])
        first = self.client.get(url)
        self.assertEqual(first["Cache-Control"], "private, no-cache")
        again = self.client.get(url, headers={"if-none-match": first["ETag"]})
        self.assertEqual((again.status_code, again.content), (304, b""))
        self.as_person(self.school.classmate)
        self.assertEqual(self.client.get(url, headers={"if-none-match": first["ETag"]}).status_code, 404)

    def test_the_data_are_their_owners_alone(self) -> None:
        self.assertEqual(Path(settings.DATA).stat().st_mode & 0o077, 0)


class Texts(SchoolTest):
    def test_what_nobody_can_write_is_refused_before_any_page_sees_it(self) -> None:
        self.as_person(self.school.instructor)
        for values, status in (({"name": "a\0b"}, 400), ({"name\0": "a"}, 400), ({"name": "half \ud800"}, 302)):
            with self.subTest(str(values)):
                answer = self.client.post(reverse("you"), self.encoded(values), content_type=FORM)
                self.assertEqual(answer.status_code, status)
        self.school.instructor.refresh_from_db()
        self.assertNotIn("\ud800", self.school.instructor.name)
        self.assertEqual(self.client.get(reverse("clips"), {"brief": "1\0"}).status_code, 400)

    def encoded(self, values: dict[str, str]) -> bytes:
        from urllib.parse import urlencode

        return urlencode({k: v.encode("utf-8", "surrogatepass") for k, v in values.items()}).encode()


FORM = "application/x-www-form-urlencoded"


class Storage(SchoolTest):
    def test_a_full_disk_is_told_in_words_and_reading_goes_on(self) -> None:
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.student)
        hand_in = reverse("hand-in", args=[self.school.brief.pk])
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("nettlecap.takes.uploading.tempfile.mkstemp", side_effect=full):
            answer = self.client.post(
                hand_in, {"files": [upload(clean_clip())]}, headers={"accept": "application/json"}
            )
        self.assertEqual((answer.status_code, answer.json()["message"]), (507, FULL))
        self.as_person(self.school.instructor)
        desk, points = reverse("desk", args=[take.pk]), reverse("points", args=[take.pk])
        for words, status, told in (
            ("database or disk is full", 507, FULL),
            ("attempt to write a readonly database", 503, READ_ONLY),
        ):
            with mock.patch("nettlecap.marking.decisions.decide.open_sheet", side_effect=OperationalError(words)):
                answer = self.client.post(points, {"principle": "arcs", "points": "5"}, headers={"hx-request": "true"})
                self.assertEqual((answer.status_code, answer.content.decode()), (status, told))
                self.assertEqual(self.client.get(desk).status_code, 200)

    def test_another_error_stays_one(self) -> None:
        self.as_person(self.school.student)
        with (
            mock.patch("nettlecap.pages.views.start_of", side_effect=OperationalError("no such column")),
            self.assertRaises(OperationalError),
        ):
            self.client.get("/")


class ToldJson(SimpleTestCase):
    def test_what_is_sound_is_read(self) -> None:
        self.assertEqual(told_json.read('{"a": [1, -2.5, null, "ä"]}', dict), {"a": [1, -2.5, None, "ä"]})
        self.assertEqual(told_json.read(b"[]", list), [])

    def test_nothing_else_is(self) -> None:
        for text in (
            "",
            "null",
            "[1]",
            '{"a": NaN}',
            '{"a": Infinity}',
            '{"a": 1e999}',
            '{"a": ' + "9" * 400 + "}",
            '{"a": "\\ud800"}',
            '{"a": "\\u0000"}',
            '{"\\u0000": 1}',
            '{"a": 1, "a": 2}',
            '{"a": ' + "[" * 1500 + "]" * 1500 + "}",
            '{"a": "' + "x" * told_json.LONGEST + '"}',
            b"\xff\xfe",
        ):
            with self.subTest(text[:30]), self.assertRaises(Refusal):
                told_json.read(text, dict)


class AtOnce(SimpleTestCase):
    def test_so_much_is_made_at_once_a_little_waits_and_the_rest_is_told_at_once(self) -> None:
        go, inside = threading.Event(), threading.Semaphore(0)

        def make(_: int) -> str:
            try:
                with at_once.a_place():
                    inside.release()
                    go.wait(30)
                    return "made"
            except Conflict:
                return "told"

        with ThreadPoolExecutor(8) as crowd:
            answers = [crowd.submit(make, n) for n in range(8)]
            for _ in range(at_once.MOST):
                inside.acquire(timeout=30)
            until = time.monotonic() + 10
            while sum(a.done() for a in answers) < 4 and time.monotonic() < until:
                time.sleep(0.02)
            self.assertEqual(sum(a.done() for a in answers), 8 - at_once.MOST - at_once.MOST_WAITING)
            go.set()
        self.assertEqual(sorted(a.result() for a in answers), ["made"] * 4 + ["told"] * 4)
