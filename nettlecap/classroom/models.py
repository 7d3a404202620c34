"""People, courses, who is what in which course, and the briefs that are set."""

from __future__ import annotations

from typing import Any, ClassVar

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

import motion.brief


class Person(AbstractUser):
    """Anyone who signs in. ``name`` is written as they write it."""

    first_name = None
    last_name = None
    name = models.CharField("name", max_length=120)

    REQUIRED_FIELDS: ClassVar[list[str]] = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_full_name(self) -> str:
        return self.name

    def get_short_name(self) -> str:
        return self.name


class Role(models.TextChoices):
    INSTRUCTOR = "instructor", "Instructor"
    ASSISTANT = "assistant", "Assistant"
    STUDENT = "student", "Student"


MARKERS = (Role.INSTRUCTOR, Role.ASSISTANT)


class CourseQuerySet(models.QuerySet["Course"]):
    """Courses by who asks."""

    def visible_to(self, person: Any) -> CourseQuerySet:
        return self.filter(memberships__person=person).distinct()

    def taught_by(self, person: Any) -> CourseQuerySet:
        return self.filter(memberships__person=person, memberships__role__in=MARKERS).distinct()

    def led_by(self, person: Any) -> CourseQuerySet:
        """Those in which the person sets briefs."""
        return self.filter(memberships__person=person, memberships__role=Role.INSTRUCTOR).order_by("name")


class Course(models.Model):
    """One class of one term."""

    name = models.CharField(max_length=120)
    school = models.CharField(max_length=120, blank=True)
    term = models.CharField(max_length=60, blank=True)

    objects = CourseQuerySet.as_manager()

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """What a person is in a course."""

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices)

    class Meta:
        constraints = (models.UniqueConstraint(fields=["course", "person"], name="one_role_a_course"),)

    def __str__(self) -> str:
        return f"{self.person}, {self.get_role_display().lower()} of {self.course}"


class BriefQuerySet(models.QuerySet["Brief"]):
    """Briefs by who asks. Students see only what is published."""

    def visible_to(self, person: Any) -> BriefQuerySet:
        memberships = Membership.objects.filter(person_id=person.pk)
        marks = memberships.filter(role__in=MARKERS).values("course")
        learns = memberships.filter(role=Role.STUDENT).values("course")
        return self.filter(models.Q(course__in=marks) | models.Q(course__in=learns, published_at__isnull=False))

    def markable_by(self, person: Any) -> BriefQuerySet:
        return self.filter(course__memberships__person=person, course__memberships__role__in=MARKERS).distinct()

    def for_student(self, person: Any) -> BriefQuerySet:
        learns = Membership.objects.filter(person_id=person.pk, role=Role.STUDENT).values("course")
        return self.filter(course__in=learns, published_at__isnull=False)


class Brief(models.Model):
    """One exercise as set. ``parameters`` is a brief file (nettlecap.brief/1) without its title and words.

    Until it is published only those who mark in the course see it.
    """

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="briefs")
    title = models.CharField(max_length=120)
    words = models.TextField("words to the students", blank=True, max_length=4000)
    parameters = models.JSONField()
    due_at = models.DateTimeField()
    created_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    published_at = models.DateTimeField(null=True, blank=True)

    objects = BriefQuerySet.as_manager()

    class Meta:
        ordering = ("due_at", "pk")

    def __str__(self) -> str:
        return self.title

    @property
    def core(self) -> motion.brief.Brief:
        """The brief as the core knows it."""
        return motion.brief.from_json({**self.parameters, "title": self.title, "words": self.words})

    @property
    def points(self) -> dict[str, float]:
        """The most that each principle can earn."""
        return dict(self.core.marking.points)

    @property
    def published(self) -> bool:
        return self.published_at is not None

    @property
    def is_due(self) -> bool:
        return timezone.now() > self.due_at
