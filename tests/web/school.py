"""A small school for the web tests, and what its people do, in their own words."""

from __future__ import annotations

import io
import shutil
from datetime import timedelta
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import TestCase
from django.utils import timezone

from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from nettlecap.classroom.models import Brief, Course, Membership, Person, Role
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.tasks import read_arrival
from tests.core.drawn import with_fault

SMALL = Recipe(width=480, height=270, diameter=34, ground_y=225, drop_px=150, start_x=50, speed_x=9, kept=(0.8, 0.8))


@cache
def zip_of(plan: Plan) -> bytes:
    """A drawn clip as a student hands it in."""
    return write.to_zip(draw.frames(plan, LOOKS["clean"]))


@cache
def clean_clip() -> bytes:
    return zip_of(bounce(SMALL))


@cache
def hanging_clip() -> tuple[bytes, int]:
    """A clip with a ball that hangs above the ground, and the frame on which it does."""
    plan, planted = with_fault("contact.gap", 3.0, SMALL)
    return zip_of(plan), planted.first_frame


def upload(data: bytes, name: str = "take.zip") -> SimpleUploadedFile:
    return SimpleUploadedFile(name, data)


class School:
    """Two courses: one of an instructor, an assistant and two students; one of strangers."""

    def __init__(self) -> None:
        self.course = Course.objects.create(name="First Motion")
        self.other_course = Course.objects.create(name="Second Motion")
        self.instructor = self.person("orla", Role.INSTRUCTOR)
        self.assistant = self.person("bram", Role.ASSISTANT)
        self.student = self.person("ayumi", Role.STUDENT)
        self.classmate = self.person("kofi", Role.STUDENT)
        self.stranger = self.person("wren", Role.INSTRUCTOR, self.other_course)
        self.brief = self.set_brief()

    def person(self, login: str, role: str, course: Course | None = None) -> Person:
        person = Person.objects.create_user(username=login, name=login.title(), password="a-long-secret")
        Membership.objects.create(course=course or self.course, person=person, role=role)
        return person

    def set_brief(self, **parameters: Any) -> Brief:
        return Brief.objects.create(
            course=self.course,
            title="A cork float",
            parameters={"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 24, "guide": {}, **parameters},
            due_at=timezone.now() + timedelta(days=2),
            published_at=timezone.now(),
            created_by=self.instructor,
        )

    def take(self, student: Person | None = None, data: bytes | None = None) -> Take:
        """A take handed in and looked at."""
        take = hand_in(student or self.student, self.brief, [upload(data or clean_clip())])
        look_at_all()
        return Take.objects.select_related("analysis", "brief").get(pk=take.pk)


def look_at_all(**queues: str) -> None:
    """Let the worker do what waits, in this process; it must leave the test's own connection open."""
    with mock.patch("nettlecap.takes.worker.close_old_connections"):
        call_command("run_worker", batch=True, name="test-worker", interval=0.05, **queues)


def read_all() -> None:
    """Let what came in be read, and not looked at yet."""
    for arrival in Arrival.objects.unread():
        read_arrival.call(arrival.pk)


class SchoolTest(TestCase):
    """Each test starts with the school and an empty media folder."""

    school: School

    @classmethod
    def setUpTestData(cls) -> None:
        cls.school = School()

    def setUp(self) -> None:
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def as_person(self, person: Person) -> None:
        self.client.force_login(person)


def files_below(folder: Path) -> list[str]:
    return sorted(str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file()) if folder.exists() else []


def broken_zip() -> bytes:
    return b"PK\x03\x04" + io.BytesIO(b"nothing of use").getvalue()
