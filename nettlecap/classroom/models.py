"""People, courses, who is what in which course, and the briefs that are set."""

from __future__ import annotations

from typing import Any, ClassVar

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

import motion.brief
from motion.exercises import exercise_of
from motion.exercises.exercise import Exercise


class Person(AbstractUser):
    """Anyone who signs in. ``name`` is written as they write it."""

    first_name = None  # type: ignore[assignment]  # a name is one line, as they write it
    last_name = None  # type: ignore[assignment]
    name = models.CharField("name", max_length=120)
    notices = models.BooleanField("letters when something happens", default=True)

    REQUIRED_FIELDS: ClassVar[list[str]] = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_full_name(self) -> str:
        return self.name

    def get_short_name(self) -> str:
        return self.name

    @property
    def never_here(self) -> bool:
        """Whether somebody was brought in and has not set a password yet."""
        return self.last_login is None and not self.has_usable_password()


class Role(models.TextChoices):
    INSTRUCTOR = "instructor", "Instructor"
    ASSISTANT = "assistant", "Assistant"
    STUDENT = "student", "Student"


MARKERS = (Role.INSTRUCTOR, Role.ASSISTANT)


class CourseQuerySet(models.QuerySet["Course"]):
    """Courses by who asks."""

    def visible_to(self, person: Any) -> CourseQuerySet:
        return self.filter(pk__in=Membership.objects.of(person).current().values("course"))

    def taught_by(self, person: Any) -> CourseQuerySet:
        return self.filter(pk__in=Membership.objects.marking(person))

    def led_by(self, person: Any) -> CourseQuerySet:
        """Those in which the person sets briefs."""
        leads = Membership.objects.of(person).current().filter(role=Role.INSTRUCTOR)
        return self.filter(pk__in=leads.values("course")).order_by("name", "pk")


class Course(models.Model):
    """One class of one term. Without days it goes on.

    ``most_bytes`` and ``most_waiting`` are what it may take up, where the school gives it a measure of its own.
    """

    name = models.CharField(max_length=120)
    school = models.CharField(max_length=120, blank=True)
    term = models.CharField(max_length=60, blank=True)
    begins_on = models.DateField(null=True, blank=True)
    ends_on = models.DateField(null=True, blank=True)
    most_bytes = models.PositiveBigIntegerField(null=True, blank=True)
    most_waiting = models.PositiveIntegerField(null=True, blank=True)

    objects = CourseQuerySet.as_manager()

    def __str__(self) -> str:
        return self.name

    @property
    def over(self) -> bool:
        """Whether its term has ended."""
        return self.ends_on is not None and timezone.localdate() > self.ends_on


class MembershipQuerySet(models.QuerySet["Membership"]):
    """Who is what in which course."""

    def of(self, person: Any) -> MembershipQuerySet:
        return self.filter(person_id=person.pk)

    def current(self) -> MembershipQuerySet:
        """Those that did not leave."""
        return self.filter(left_at=None)

    def learning(self) -> MembershipQuerySet:
        """Students that are there now."""
        return self.current().filter(role=Role.STUDENT)

    def marking(self, person: Any) -> Any:
        """The courses in which this person marks now."""
        return self.of(person).current().filter(role__in=MARKERS).values("course")


class Membership(models.Model):
    """What a person is in a course. Whoever leaves stays a member with the day on which they left: the work is kept.

    ``marker`` is who has this student in their share of the marking, None where anybody may take the clip.
    """

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role.choices)
    left_at = models.DateTimeField(null=True)
    marker = models.ForeignKey(Person, on_delete=models.SET_NULL, related_name="+", null=True)

    objects = MembershipQuerySet.as_manager()

    class Meta:
        constraints = (models.UniqueConstraint(fields=["course", "person"], name="one_role_a_course"),)

    def __str__(self) -> str:
        return f"{self.person}, {self.get_role_display().lower()} of {self.course}"


class InvitationQuerySet(models.QuerySet["Invitation"]):
    """Invitations that are open, by for whom."""

    def open(self) -> InvitationQuerySet:
        return self.filter(closed_at=None, expires_at__gt=timezone.now())

    def for_all(self) -> InvitationQuerySet:
        return self.filter(person=None)

    def personal(self) -> InvitationQuerySet:
        return self.exclude(person=None)


class Invitation(models.Model):
    """A link by which people come into a course by themselves, until a day.

    One for a ``person`` who has an account already is for nobody else; ``told`` is how whoever invited them named them,
    which is all that the course is told before they come.
    """

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="invitations")
    code = models.CharField(max_length=40, unique=True)
    role = models.CharField(max_length=12, choices=Role.choices, default=Role.STUDENT)
    expires_at = models.DateTimeField()
    closed_at = models.DateTimeField(null=True)
    joined = models.PositiveIntegerField(default=0)
    created_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="invitations", null=True)
    told = models.CharField(max_length=260, blank=True)

    objects = InvitationQuerySet.as_manager()

    class Meta:
        ordering = ("-expires_at",)

    def __str__(self) -> str:
        return f"invitation to {self.course}"

    @property
    def open(self) -> bool:
        return self.closed_at is None and timezone.now() < self.expires_at


class SignInTries(models.Model):
    """How often signing in failed of late, by what it is counted of: see ``sign_in``."""

    key = models.CharField(max_length=60, unique=True)
    failures = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.key}: {self.failures}"


class Often(models.Model):
    """How often somebody did what has a pace, since when: see ``pace``."""

    key = models.CharField(max_length=60, unique=True)
    began_at = models.DateTimeField()
    times = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.key}: {self.times}"


class Letter(models.Model):
    """An e-mail to somebody, kept until it is sent, and afterwards. Without a mail server it stays in the outbox."""

    to = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="letters")
    address = models.EmailField(blank=True)
    subject = models.CharField(max_length=200)
    body = models.TextField()
    written_at = models.DateTimeField(auto_now_add=True)
    sent_at = models.DateTimeField(null=True)
    trouble = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return self.subject


class BriefQuerySet(models.QuerySet["Brief"]):
    """Briefs by who asks. Students see only what is published."""

    def visible_to(self, person: Any) -> BriefQuerySet:
        marks = Membership.objects.marking(person)
        # Also those who left: their work is in it.
        learns = Membership.objects.of(person).filter(role=Role.STUDENT).values("course")
        return self.filter(models.Q(course__in=marks) | models.Q(course__in=learns, published_at__isnull=False))

    def markable_by(self, person: Any) -> BriefQuerySet:
        return self.filter(course__in=Membership.objects.marking(person))

    def for_student(self, person: Any) -> BriefQuerySet:
        """What is set for somebody; of courses that they left only what they handed in to."""
        memberships = Membership.objects.of(person).filter(role=Role.STUDENT)
        learns, learned = memberships.current().values("course"), memberships.exclude(left_at=None).values("course")
        own = models.Q(course__in=learned, takes__student_id=person.pk)
        return self.filter(models.Q(course__in=learns) | own, published_at__isnull=False).distinct()


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
        return motion.brief.from_stored({**self.parameters, "title": self.title, "words": self.words})

    @property
    def exercise(self) -> Exercise[Any, Any]:
        """The exercise that is set."""
        return exercise_of(self.core)

    @property
    def facts(self) -> list[tuple[str, str]]:
        """What the exercise's own part asks for, as (term, words)."""
        return self.exercise.facts(self.core)

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
