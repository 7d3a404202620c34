"""Every address that takes a post, with values that no page would send: refused in words, never an error of ours."""

from __future__ import annotations

import json
import random
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom.invitations import invite
from nettlecap.classroom.models import Person
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Comparison, MarkSheet
from nettlecap.takes.models import Arrival
from nettlecap.urls import urlpatterns
from tests.web.school import SchoolTest, hanging_clip

SEED, ROUNDS = 7, 5
NEST = "[" * 1500 + "]" * 1500
HOSTILE = (
    "",
    " ",
    "0",
    "-1",
    "1",
    "2",
    "7",
    "999999999",
    "9" * 400,
    "9" * 5000,
    "1e999",
    "NaN",
    "-Infinity",
    "0x10",
    "1_0",
    "٣",
    "²",
    "true",
    "null",
    "[]",
    "{}",
    "[[]]",
    NEST,
    f'{{"a": {NEST}}}',
    '{"drawing": [1], "ellipse": null}',
    '{"drawing": {"a": 1}, "ellipse": {}}',
    f'{{"drawing": 1, "ellipse": {{"x": {"9" * 400}, "y": 1}}}}',
    '{"drawing": 1, "ellipse": {"x": 1, "y": 1, "major": 1e308, "minor": 1e308, "angle": 1e308}}',
    '{"drawing": 1, "ellipse": [1, 2, 3]}',
    '{"drawing": 1, "ellipse": "round"}',
    '{"drawing": true}',
    '{"ground": {}}',
    '{"ground": [null, null]}',
    '{"ground": "up"}',
    '{"ground": [1]}',
    '{"again": []}',
    "[[1, 1], [1, 1], [1, 1]]",
    "[[1, 1e308], [2, 2]]",
    "[[1], [2]]",
    '[["1", 2]]',
    "[[1, 2, 3, 4]]",
    "[[1, 1e400]]",
    '[[{"a": 1}, 2]]',
    "[1, 2, 3]",
    '{"1": {"2": 0.5}}',
    '"\\ud800"',
    "a\\u0000b",
    "\ufffe",
    "\u202e",
    "<script>alert(1)</script>",
    "';--",
    "../../etc/passwd",
    "%00",
    "x" * 5000,
    "x" * 70_000,
    "agreed",
    "pen",
    "arc",
    "line",
    "hold",
    "repeat",
    "leave",
    "correct",
    "arcs",
    "student",
    "2026-13-45T99:99",
    "contact.gap:1-1",
    "note:1",
    "note:" + "9" * 40,
)
FIELDS = (
    "again", "answer", "canvas", "cells", "code", "columns", "count", "course", "deed", "done", "drawing", "due_at",
    "each", "email", "evenly", "first", "first_frame", "fps", "from", "key", "kind", "last", "last_frame", "like",
    "login", "marker", "name", "names", "no", "note", "one", "order", "other", "page", "place", "points",
    "principle", "reason", "remark", "role", "rows", "say", "show", "take", "taps", "text", "ticks", "timing",
    "title", "times", "tool", "verdict", "who", "withdraw", "words", "judged", "chart", "new_password1",
    "old_password", "username", "password", "notices", "days", "begins_on", "ends_on", "system", "members_url",
    "lineitems_url", "token_url", "client_id", "frames_min", "takes",
)  # fmt: skip
FILES = ("files", "roster", "file")
CONTENTS = (
    b"",
    b"\0",
    b"[" * 3000,
    b"PK\x03\x04",
    b'{"schema": "nettlecap.brief/1", "exercise": "bounce", "title": "\\ud800"}',
    b'{"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 1e400}',
    b"name\n\x00",
    "name\nπ\n".encode("utf-16"),
    b"\xff\xd8\xff",
    b"GIF89a",
)
LEFT_OUT = {"sign-out"}


class Fuzz(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        school = self.school
        self.take = school.take(data=hanging_clip()[0])
        self.comparison = Comparison.objects.create(
            brief=school.brief, one=school.instructor, other=school.assistant, opened_by=school.instructor
        )
        self.invitation = invite(school.instructor, school.course, role="student", days=1)
        self.arrival = Arrival.objects.create(brief=school.brief, student=school.student, file_bytes=1, state="refused")
        self.client.raise_request_exception = False
        self.rng = random.Random(SEED)

    def url_of(self, pattern: Any) -> str:
        """An address of this pattern, with what is there where it names something."""
        there: dict[str, Any] = {
            "take_id": self.take.pk,
            "other_id": self.take.pk,
            "brief_id": self.school.brief.pk,
            "course_id": self.school.course.pk,
            "comparison_id": self.comparison.pk,
            "arrival_id": self.arrival.pk,
            "person_id": self.school.student.pk,
            "member_id": self.school.student.memberships.get().pk,
            "invitation_id": self.invitation.pk,
            "run": self.take.analysis.shown_run,
            "job_id": DBTaskResult.objects.latest("enqueued_at").pk,
            "kind": "csv",
            "code": self.invitation.code if pattern.name == "join" else "contact.gap",
            "uidb64": "MQ",
            "token": "set-password",
            "name": "mended",
        }
        return reverse(pattern.name, kwargs={k: there.get(k, 1) for k in pattern.pattern.converters})

    def values(self) -> dict[str, Any]:
        """Some fields with hostile values, a few of them twice, and sometimes a file."""
        chosen = self.rng.sample(FIELDS, self.rng.randint(6, 26))
        told: dict[str, Any] = {name: self.rng.choice(HOSTILE) for name in chosen}
        told[f"marker-{self.rng.choice(HOSTILE)[:30]}"] = self.rng.choice(HOSTILE)
        if self.rng.random() < 0.4:
            told[self.rng.choice(FILES)] = SimpleUploadedFile(
                self.rng.choice(("a.csv", "…/x.json", "9" * 200 + ".gif")), self.rng.choice(CONTENTS)
            )
        return told

    def people(self) -> tuple[Person | None, ...]:
        return (self.school.instructor, self.school.student, None)

    def send(self, person: Person | None, url: str, values: dict[str, Any]) -> None:
        self.client.logout()
        if person is not None:
            self.as_person(person)
        scripted = {"hx-request": "true", "x-seconds": self.rng.choice(HOSTILE[:12]), "x-marks-seen": "then"}
        answer = self.client.post(url, values, headers=scripted if self.rng.random() < 0.5 else {})
        told = {k: str(v)[:80] for k, v in values.items()}
        self.assertLess(answer.status_code, 500, f"{person} {url} {json.dumps(told, ensure_ascii=True)}")

    def test_no_post_is_an_error_of_ours(self) -> None:
        for pattern in urlpatterns:
            if pattern.name in LEFT_OUT:
                continue
            url = self.url_of(pattern)
            for _ in range(ROUNDS):
                for person in self.people():
                    with self.subTest(pattern.name):
                        self.send(person, url, self.values())

    def test_nor_is_a_value_in_the_one_field_that_an_address_asks_for(self) -> None:
        key = finding_key(self.take.analysis.findings["findings"][0])
        sound: dict[str, dict[str, Any]] = {
            "say": {"key": key, "verdict": "agreed"},
            "place": {"place": '{"drawing": 1, "ellipse": null}'},
            "note": {
                "first_frame": "1",
                "last_frame": "2",
                "principle": "arcs",
                "text": "Good.",
                "code": "contact.gap",
            },
            "draw-over": {
                "first_frame": "1",
                "last_frame": "2",
                "tool": "arc",
                "points": "[[9, 9], [50, 20], [90, 90]]",
            },
            "points": {"principle": "arcs", "points": "5"},
            "call": {"drawing": "1", "role": "key"},
            "first-look": {"taps": "1,2"},
            "retime": {"timing": "[[1, 1], [2, 1]]", "kind": "hold", "first": "0", "last": "0", "count": "2"},
            "propose-timing": {"timing": "[[1, 1]]", "fps": "24", "note": "So."},
            "forgotten": {"who": "ayumi"},
            "sign-in": {"username": "orla", "password": "x"},
            "live-guide": {"title": "x", "ticks": "{}", "judged": "1", "fps": "24"},
            "add-member": {"name": "X", "login": "x", "email": "x@sea.example", "role": "student"},
        }
        patterns = {p.name: p for p in urlpatterns}
        for name, values in sound.items():
            url = self.url_of(patterns[name])
            for field in values:
                for hostile in HOSTILE:
                    with self.subTest(name, field=field):
                        self.send(self.school.instructor, url, {**values, field: hostile})
        self.assertLessEqual(MarkSheet.objects.filter(take=self.take).count(), 1)

    def test_nor_is_a_hostile_question(self) -> None:
        asked = ("from", "canvas", "page", "brief", "student", "state", "by", "key", "first_frame", "last_frame")
        for pattern in urlpatterns:
            url = self.url_of(pattern)
            for person in (self.school.instructor, None):
                self.client.logout()
                if person is not None:
                    self.as_person(person)
                query = {name: self.rng.choice(HOSTILE)[:3000] for name in asked}
                with self.subTest(pattern.name):
                    answer = self.client.get(url, query)
                    self.assertNotIn(answer.status_code, (500, 502), url)
