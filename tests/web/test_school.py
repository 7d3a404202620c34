"""Marks sent to a school's system over the open services, against the simulated one that ships with us."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from unittest import mock

import httpx
import jwt
from django.test import SimpleTestCase
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Person
from nettlecap.school import keys
from nettlecap.school.models import CourseLink, SchoolSystem, Sending, Sent
from nettlecap.school.services import LINE_ITEM, SCORE, Member, SchoolTrouble, Score, Services, host_of
from nettlecap.school.state import who_is_who
from nettlecap.standins import school_system
from tests.web.school import SchoolTest, hanging_clip, look_at_all


class _Keys(BaseHTTPRequestHandler):
    """What the application serves as its public keys."""

    def do_GET(self) -> None:
        data = json.dumps(keys.key_set()).encode()
        self.send_response(200)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, *args: Any) -> None:
        """Nothing is logged."""


@contextmanager
def running_school() -> Iterator[school_system.SchoolSystem]:
    """The simulated system on a free port; it fetches our keys from another."""
    own = ThreadingHTTPServer(("127.0.0.1", 0), _Keys)
    school = school_system.SchoolSystem(0, f"http://127.0.0.1:{own.server_address[1]}/keys.json")
    for server in (own, school):
        threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield school
    finally:
        for server in (own, school):
            server.shutdown()
            server.server_close()


class WithSchool:
    """Mixes in the running school system as ``self.there``."""

    def set_up_school(self) -> None:
        context = running_school()
        self.there = context.__enter__()
        self.addCleanup(context.__exit__, None, None, None)  # type: ignore[attr-defined]

    def services(self) -> Services:
        services = Services(self.there.token_url, school_system.CLIENT)
        self.addCleanup(services.__exit__)  # type: ignore[attr-defined]
        return services

    def scores(self, number: str = "1") -> dict[str, float]:
        return {member: score["scoreGiven"] for member, score in self.there.book.scores.get(number, {}).items()}


def score(member: str = "s-101", given: float = 41.5, at: datetime | None = None) -> Score:
    return Score(member=member, given=given, most=50.0, comment="Spacing 8", at=at or datetime.now(UTC))


class OverTheWire(WithSchool, SimpleTestCase):
    def setUp(self) -> None:
        self.set_up_school()
        self.members_url, self.items_url = f"{self.there.course_url}/members", f"{self.there.course_url}/lineitems"

    def item(self, services: Services) -> str:
        return services.line_item(self.items_url, resource="brief-7", label="A cork float", most=50.0)

    def test_members_come_from_every_page(self) -> None:
        members = self.services().members(self.members_url)
        self.assertEqual([m.number for m in members], [m[0] for m in school_system.MADE_UP])
        self.assertEqual(members[0].email, "ayumi@saltmarsh.example")

    def test_a_line_item_is_made_once(self) -> None:
        first, again = self.item(self.services()), self.item(self.services())
        self.assertEqual((first, again), (f"{self.items_url}/1", f"{self.items_url}/1"))
        self.assertEqual(self.there.book.items["1"]["label"], "A cork float")

    def test_a_score_arrives_and_a_later_one_takes_its_place(self) -> None:
        services = self.services()
        item = self.item(services)
        services.send(item, score())
        services.send(item, score(given=44.0, at=datetime.now(UTC) + timedelta(seconds=1)))
        self.assertEqual(self.scores(), {"s-101": 44.0})
        with self.assertRaisesRegex(SchoolTrouble, "409"):
            services.send(item, score(at=datetime.now(UTC) - timedelta(days=1)))

    def test_an_address_with_a_question_keeps_it(self) -> None:
        services = self.services()
        self.item(services)
        with mock.patch.object(services, "_ask") as asked:
            services.send("http://school.example/items/3?group=a", score())
        self.assertEqual(asked.call_args.args[1], "http://school.example/items/3/scores?group=a")

    def test_addresses_elsewhere_are_never_asked(self) -> None:
        for url in (
            "http://127.0.0.1:1/members",
            "file:///etc/hostname",
            "http://[",
            self.members_url.replace(":", ""),
        ):
            with self.subTest(url), self.assertRaisesRegex(SchoolTrouble, "not at the school"):
                self.services().members(url)

    def test_a_system_that_is_not_there_or_does_not_know_us_is_told(self) -> None:
        with self.assertRaisesRegex(SchoolTrouble, "could not be reached"):
            Services("http://127.0.0.1:1/token", "x").members("http://127.0.0.1:1/members")
        with self.assertRaisesRegex(SchoolTrouble, "does not let us in"):
            Services(self.there.token_url, "somebody-else").members(self.members_url)

    def test_answers_that_make_no_sense_are_told_and_not_believed(self) -> None:
        services = self.services()
        services._token = "t"
        for told in (b"<html>", b"[]", b'"members"', b"null"):
            with (
                self.subTest(told),
                mock.patch.object(services._client, "request", return_value=self.answer(told)),
                self.assertRaisesRegex(SchoolTrouble, "not understood"),
            ):
                services.members(self.members_url)
        with mock.patch.object(services._client, "request", return_value=self.answer(b'{"members": [1, {"a": 2}]}')):
            self.assertEqual(services.members(self.members_url), [])
        answers = [self.answer(b"[]"), self.answer(b'{"label": "x"}')]
        with (
            mock.patch.object(services._client, "request", side_effect=answers),
            self.assertRaisesRegex(SchoolTrouble, "does not say where"),
        ):
            self.item(services)

    def answer(self, told: bytes) -> httpx.Response:
        return httpx.Response(200, content=told, request=httpx.Request("GET", self.members_url))

    def test_a_key_that_is_not_ours_opens_nothing(self) -> None:
        from cryptography.hazmat.primitives.asymmetric import rsa

        with mock.patch.object(keys, "private_key", lambda: rsa.generate_private_key(65537, 2048)):
            identity = keys.key_id()
        other = rsa.generate_private_key(65537, 2048)
        now = int(time.time())
        claims = {"iss": school_system.CLIENT, "sub": school_system.CLIENT, "aud": self.there.token_url}
        for key, kid in ((other, keys.key_id()), (other, identity)):
            signed = jwt.encode(
                {**claims, "iat": now, "exp": now + 60, "jti": "a"}, key, algorithm="RS256", headers={"kid": kid}
            )
            self.assertEqual(self.grant(signed).status_code, 401)

    def test_the_same_assertion_does_not_work_twice_nor_one_for_somebody_else(self) -> None:
        now = int(time.time())
        claims = {"iss": school_system.CLIENT, "sub": school_system.CLIENT, "iat": now, "exp": now + 60, "jti": "b"}

        def signed(**more: Any) -> str:
            told = {**claims, "aud": self.there.token_url, **more}
            return jwt.encode(told, keys.private_key(), algorithm="RS256", headers={"kid": keys.key_id()})

        self.assertEqual(self.grant(signed()).status_code, 200)
        self.assertEqual(self.grant(signed()).status_code, 401)
        self.assertEqual(self.grant(signed(jti="c", aud="http://elsewhere.example/token")).status_code, 401)
        self.assertEqual(self.grant(signed(jti="d", exp=now - 60)).status_code, 401)

    def grant(self, assertion: str) -> httpx.Response:
        form = {
            "grant_type": "client_credentials",
            "client_assertion_type": school_system.ASSERTION,
            "client_assertion": assertion,
            "scope": f"{school_system.AGS}score",
        }
        return httpx.post(self.there.token_url, data=form)

    def test_the_stand_in_keeps_to_the_standard(self) -> None:
        services = self.services()
        item = self.item(services)
        headers = {"Authorization": f"Bearer {services._bearer()}"}
        good = {
            "userId": "s-101",
            "scoreGiven": 1.0,
            "scoreMaximum": 2.0,
            "timestamp": datetime.now(UTC).isoformat(),
            "activityProgress": "Completed",
            "gradingProgress": "FullyGraded",
        }
        cases: tuple[tuple[str, str, dict[str, Any], dict[str, str], int], ...] = (
            (f"{item}/scores", SCORE, good, {}, 401),
            (f"{item}/scores", "application/json", good, headers, 415),
            (f"{item}/scores", SCORE, {**good, "timestamp": None}, headers, 422),
            (f"{item}/scores", SCORE, {**good, "timestamp": "2026-01-01T00:00:00"}, headers, 422),
            (f"{item}/scores", SCORE, {**good, "scoreMaximum": 0}, headers, 422),
            (f"{item}/scores", SCORE, {**good, "userId": "s-999"}, headers, 404),
            (f"{self.items_url}/77/scores", SCORE, good, headers, 404),
            (self.items_url, LINE_ITEM, {"label": "No maximum"}, headers, 422),
            (self.items_url, LINE_ITEM, {"label": "Nought", "scoreMaximum": 0}, headers, 422),
            (f"{item}/scores", SCORE, good, headers, 204),
        )
        for url, kind, told, given, status in cases:
            with self.subTest(url=url, told=told, status=status):
                answer = httpx.post(url, json=told, headers={**given, "Content-Type": kind})
                self.assertEqual(answer.status_code, status)
        page = httpx.get(f"{self.there.address}/")
        self.assertIn("A cork float", page.text)


class WhoIsWho(SimpleTestCase):
    def member(self, number: str, name: str = "", email: str = "", login: str = "") -> Member:
        return Member(number=number, name=name, email=email, login=login)

    def test_by_address_then_login_then_a_name_that_is_alone(self) -> None:
        students = [
            Person(pk=1, username="ada", name="Ada Bekele", email="ADA@sea.example"),
            Person(pk=2, username="bo", name="Bo Bekele"),
            Person(pk=3, username="cy", name="cy Quist"),
            Person(pk=4, username="di", name="Same Name"),
            Person(pk=5, username="el", name="Nobody There"),
        ]
        members = [
            self.member("m1", "Someone Else", "ada@sea.example"),
            self.member("m2", "Other", login="bo"),
            self.member("m3", "Cy Quist"),
            self.member("m4", "Same Name"),
            self.member("m5", "Same Name"),
            self.member("m6", "Ada Bekele"),
        ]
        found = {pk: m.number for pk, m in who_is_who(students, members).items()}
        self.assertEqual(found, {1: "m1", 2: "m2", 3: "m3"})

    def test_no_member_is_two_students(self) -> None:
        students = [
            Person(pk=1, username="a", name="A", email="x@sea.example"),
            Person(pk=2, username="b", name="B", email="x@sea.example"),
        ]
        self.assertEqual(set(who_is_who(students, [self.member("m", "A", "x@sea.example")])), {1})

    def test_hosts(self) -> None:
        self.assertEqual(host_of("https://school.example:8443/a?b"), "https://school.example:8443")
        for url in ("", "school.example/a", "ftp://school.example/a", "javascript:alert(1)", "http://"):
            self.assertEqual(host_of(url), "")


class SendingMarks(WithSchool, SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.set_up_school()
        Person.objects.filter(username="ayumi").update(email="ayumi@saltmarsh.example")
        self.take, self.other = self.school.take(data=hanging_clip()[0]), self.school.take(self.school.classmate)
        self.as_person(self.school.instructor)
        self.system = SchoolSystem.objects.create(
            name="The office", client_id=school_system.CLIENT, token_url=self.there.token_url
        )
        self.link()
        for take in (self.take, self.other):
            self.client.post(reverse("return-marks", args=[take.pk]))

    def link(self, members: str = "", **more: object):  # type: ignore[no-untyped-def]
        values = {
            "system": self.system.pk,
            "members_url": members or f"{self.there.course_url}/members",
            "lineitems_url": f"{self.there.course_url}/lineitems",
            **more,
        }
        return self.client.post(reverse("link-course", args=[self.school.course.pk]), values)

    def send(self):  # type: ignore[no-untyped-def]
        answer = self.client.post(reverse("send-marks", args=[self.school.brief.pk]))
        look_at_all()
        return answer

    def page(self) -> str:
        return self.client.get(reverse("school", args=[self.school.course.pk])).content.decode()

    def test_returned_marks_arrive_and_who_is_not_known_there_is_named(self) -> None:
        self.assertEqual(self.send().status_code, 302)
        self.assertEqual(self.scores(), {"s-101": 50.0})
        told = self.there.book.scores["1"]["s-101"]
        self.assertEqual((told["scoreMaximum"], told["gradingProgress"]), (50.0, "FullyGraded"))
        self.assertIn(reverse("returned", args=[self.take.pk]), told["comment"])
        self.assertIn("Spacing 10", told["comment"])
        self.assertIn("Kofi is not known there.", self.page())

    def test_only_what_is_new_is_sent_again(self) -> None:
        self.send()
        Person.objects.filter(username="kofi").update(email="kofi@saltmarsh.example")
        self.send()
        self.assertEqual(Sending.objects.latest("pk").total, 1)
        self.assertEqual(set(self.scores()), {"s-101", "s-102"})
        self.assertContains(self.send(), "has all marks", status_code=422)
        self.client.post(reverse("reopen", args=[self.take.pk]), {"reason": "Once more."})
        self.client.post(reverse("points", args=[self.take.pk]), {"principle": "contact", "points": "4"})
        self.assertEqual(self.send().status_code, 422)
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        self.send()
        self.assertEqual(self.scores()["s-101"], 44.0)
        self.assertEqual(Sent.objects.get(student=self.school.student).total, 44.0)

    def test_a_system_that_does_not_answer_is_told_and_nothing_counts_as_sent(self) -> None:
        SchoolSystem.objects.update(token_url="http://127.0.0.1:1/token")
        CourseLink.objects.update(members_url="http://127.0.0.1:1/m", lineitems_url="http://127.0.0.1:1/l")
        self.send()
        self.assertIn("could not be reached", self.page())
        self.assertFalse(Sent.objects.exists())
        self.assertIn("Send 2", self.page())

    def test_one_score_that_is_refused_does_not_stop_the_others(self) -> None:
        Person.objects.filter(username="kofi").update(email="kofi@saltmarsh.example")
        refuse = mock.Mock(side_effect=[SchoolTrouble("Not this one."), None])
        with mock.patch.object(Services, "send", refuse):
            self.send()
        sending = Sending.objects.get()
        self.assertEqual((sending.sent, sending.left_out), (1, ["Ayumi: Not this one."]))
        self.assertEqual(Sent.objects.get().student.username, "kofi")

    def test_it_is_not_begun_twice_but_one_that_broke_off_does_not_stand_in_the_way(self) -> None:
        url = reverse("send-marks", args=[self.school.brief.pk])
        self.assertEqual(self.client.post(url).status_code, 302)
        self.assertIn("hx-get", self.page())
        self.assertEqual(self.client.post(url).status_code, 409)
        Sending.objects.update(asked_at=timezone.now() - timedelta(hours=1))
        self.assertEqual(self.client.post(url).status_code, 302)

    def test_who_is_who_is_shown_before_anything_is_sent(self) -> None:
        page = self.client.post(reverse("who-is-who", args=[self.school.course.pk]))
        self.assertContains(page, "Ayumi Torrance")
        self.assertContains(page, "nobody there has this")
        self.assertEqual(self.there.book.scores, {})

    def test_a_link_leads_only_to_the_systems_own_host(self) -> None:
        answer = self.link(members="http://169.254.0.1/members")
        self.assertContains(answer, "is not an address of The office", status_code=422)
        self.assertEqual(CourseLink.objects.get().members_url, f"{self.there.course_url}/members")
        self.link(system="")
        self.assertFalse(CourseLink.objects.exists())

    def test_only_who_keeps_the_house_makes_systems_known(self) -> None:
        url = reverse("add-system", args=[self.school.course.pk])
        values = {"name": "Another", "client_id": "n", "token_url": "https://office.example/token"}
        self.assertEqual(self.client.post(url, values).status_code, 403)
        Person.objects.filter(username="orla").update(is_staff=True)
        self.assertEqual(self.client.post(url, {**values, "token_url": "office"}).status_code, 422)
        self.assertEqual(self.client.post(url, values).status_code, 302)
        self.assertTrue(SchoolSystem.objects.filter(name="Another").exists())

    def test_our_keys_are_public_and_hold_no_secret(self) -> None:
        self.client.logout()
        told = self.client.get(reverse("school-keys")).json()["keys"][0]
        self.assertEqual(set(told), {"kty", "n", "e", "kid", "alg", "use"})
