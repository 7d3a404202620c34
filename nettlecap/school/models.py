"""School systems, the courses that are linked to them, and what was sent."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import models
from django.utils import timezone

from nettlecap.classroom.models import Brief, Course, Person

LONGEST = timedelta(minutes=15)


class SchoolSystem(models.Model):
    """A school's system that knows this application under a client number."""

    name = models.CharField(max_length=120)
    client_id = models.CharField(max_length=200)
    token_url = models.URLField(max_length=400)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class CourseLink(models.Model):
    """A course of ours and the same course in a school's system: where its members and its line items are."""

    course = models.OneToOneField(Course, on_delete=models.CASCADE, related_name="school_link")
    system = models.ForeignKey(SchoolSystem, on_delete=models.PROTECT, related_name="links")
    members_url = models.URLField(max_length=400)
    lineitems_url = models.URLField(max_length=400)

    def __str__(self) -> str:
        return f"{self.course} at {self.system}"


class Sending(models.Model):
    """One sending of a brief's marks: how far it is, and in words whose marks could not be sent and why."""

    brief = models.ForeignKey(Brief, on_delete=models.CASCADE, related_name="sendings")
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    sent = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    left_out: Any = models.JSONField(default=list)
    trouble = models.CharField(max_length=300, blank=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"marks of {self.brief}"

    @property
    def under_way(self) -> bool:
        """Whether it goes on; one that did not end in time was broken off."""
        return self.ended_at is None and timezone.now() - self.asked_at < LONGEST


class Sent(models.Model):
    """What a school's system was told last of a student's marks for a brief."""

    brief = models.ForeignKey(Brief, on_delete=models.CASCADE, related_name="sent")
    student = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    total = models.FloatField()
    most = models.FloatField()
    sent_at = models.DateTimeField()

    class Meta:
        constraints = (models.UniqueConstraint(fields=["brief", "student"], name="last_sent_of_a_student"),)

    def __str__(self) -> str:
        return f"{self.student}: {self.total:g} of {self.most:g}"
