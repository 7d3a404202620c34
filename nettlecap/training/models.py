"""Drills: those that are set for a course, those that somebody is at, what they were asked, and what they can see."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar

from django.db import models
from django.utils import timezone

from motion.exercises import EXERCISES
from motion.exercises.exercise import Exercise
from motion.training.returns import Returns
from motion.training.rule import Eye
from motion.training.threshold import Threshold
from nettlecap.classroom.models import Course, Membership, Person
from nettlecap.errors import Conflict
from nettlecap.files import shelf
from nettlecap.takes.models import Take

PICTURES = "training"
"""The folder of the clips' pictures, below the media folder; all of them can be drawn again."""


class SetDrillQuerySet(models.QuerySet["SetDrill"]):
    """Drills that are set, by who asks."""

    def for_student(self, person: Any) -> SetDrillQuerySet:
        learns = Membership.objects.of(person).learning().values("course")
        return self.filter(course__in=learns)

    def to_do_for(self, person: Any) -> SetDrillQuerySet:
        """Those that somebody has not ended yet."""
        ended = Drill.objects.filter(person_id=person.pk).exclude(ended_at=None).exclude(set_drill=None)
        return self.for_student(person).exclude(pk__in=ended.values("set_drill"))

    def taught_by(self, person: Any) -> SetDrillQuerySet:
        return self.filter(course__in=Course.objects.taught_by(person))


class SetDrill(models.Model):
    """A drill as an instructor sets it for a course: what it asks about, how many clips, until when, and what for.

    No ``codes`` are all faults of the exercise. ``of_takes`` asks about takes whose students agreed to that, in
    place of clips that are made for it.
    """

    class Counts(models.TextChoices):
        NOT = "not", "nothing: it is there to learn from"
        DONE = "done", "points for going through it"
        RIGHT = "right", "points for what was seen"

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="drills")
    title = models.CharField(max_length=120)
    exercise = models.CharField(max_length=20)
    kinds = models.JSONField(default=list)
    codes = models.JSONField(default=list)
    clips = models.PositiveSmallIntegerField(default=8)
    of_takes = models.BooleanField(default=False)
    due_at = models.DateTimeField()
    counts = models.CharField(max_length=5, choices=Counts.choices, default=Counts.NOT)
    points = models.FloatField(default=0.0)
    created_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    objects = SetDrillQuerySet.as_manager()

    class Meta:
        ordering = ("due_at", "pk")

    def __str__(self) -> str:
        return self.title

    @property
    def is_due(self) -> bool:
        return timezone.now() > self.due_at

    @property
    def of_exercise(self) -> Exercise[Any, Any]:
        return EXERCISES[self.exercise]


class DrillQuerySet(models.QuerySet["Drill"]):
    """Drills by whose they are and how far they are."""

    def own(self, person: Any) -> DrillQuerySet:
        return self.filter(person_id=person.pk)

    def begun(self) -> DrillQuerySet:
        return self.exclude(begun_at=None)

    def open(self) -> DrillQuerySet:
        return self.begun().filter(ended_at=None)


class Drill(models.Model):
    """A row of clips that somebody is at; one that was not begun is laid out ahead for them."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="drills")
    set_drill = models.ForeignKey(SetDrill, on_delete=models.CASCADE, related_name="drills", null=True)
    exercise = models.CharField(max_length=20)
    kinds = models.JSONField(default=list)
    codes = models.JSONField(default=list)
    clips = models.PositiveSmallIntegerField(default=8)
    made_at = models.DateTimeField(auto_now_add=True)
    begun_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    objects = DrillQuerySet.as_manager()

    class Meta:
        ordering = ("-pk",)
        constraints: ClassVar = [models.UniqueConstraint(fields=["person", "set_drill"], name="a_set_drill_once_each")]

    def __str__(self) -> str:
        return f"drill of {self.person}"

    @property
    def of_exercise(self) -> Exercise[Any, Any]:
        return EXERCISES[self.exercise]


class Question(models.Model):
    """One clip of a drill: what it was made from, what is true of it, what was said to it.

    ``told`` holds the clips as findings files by name, the planted finding, and what is true; it is there once the
    worker has drawn it. ``judged`` says whether the answer is right, and what is known of the person's eye after it.
    ``given`` is a clip that somebody else was shown, which is taken as it is; ``take`` the one that it shows, if any.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "being drawn"
        DRAWN = "drawn", "drawn"

    drill = models.ForeignKey(Drill, on_delete=models.CASCADE, related_name="questions")
    number = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=6)
    exercise = models.CharField(max_length=20)
    code = models.CharField(max_length=40, blank=True)
    times = models.FloatField(default=0.0)
    busy = models.BooleanField(default=False)
    seed = models.PositiveIntegerField()
    given = models.BooleanField(default=False)
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="+", null=True)
    state = models.CharField(max_length=7, choices=State.choices, default=State.WAITING)
    told = models.JSONField(null=True)
    answer = models.JSONField(null=True)
    judged = models.JSONField(null=True)
    right = models.BooleanField(null=True)
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("number",)
        constraints: ClassVar = [models.UniqueConstraint(fields=["drill", "number"], name="one_clip_a_number")]

    def __str__(self) -> str:
        return f"clip {self.number} of {self.drill}"

    @property
    def known(self) -> dict[str, Any]:
        """What is true of it. Raises Conflict while it is being drawn."""
        if self.told is None:
            raise Conflict("This clip is still being drawn.")
        told: dict[str, Any] = self.told
        return told

    @property
    def said(self) -> dict[str, Any]:
        """What was answered; nothing before."""
        return self.answer or {}

    @property
    def result(self) -> dict[str, Any]:
        """How that was judged; nothing before."""
        return self.judged or {}

    @property
    def drawn(self) -> bool:
        return self.state == self.State.DRAWN

    @property
    def folder(self) -> Path:
        """Where this machine has the pictures of its clips, a packed file a clip."""
        return shelf.folder_here(self.place)

    @property
    def place(self) -> str:
        """Where these are kept, below the media folder."""
        return f"{PICTURES}/{self.pk}"

    @property
    def of_exercise(self) -> Exercise[Any, Any]:
        return EXERCISES[self.exercise]


class Consent(models.Model):
    """A student lets others learn from a take of theirs, in drills and without their name."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="consent")
    given_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"others may learn from {self.take}"


class Sight(models.Model):
    """What is known of how somebody sees the faults of an exercise: thresholds by code, and what is due when."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="sights")
    exercise = models.CharField(max_length=20)
    thresholds = models.JSONField(default=dict)
    returns = models.JSONField(null=True)

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["person", "exercise"], name="one_sight_an_exercise")]

    def __str__(self) -> str:
        return f"how {self.person} sees a {self.exercise}"

    @property
    def eye(self) -> Eye:
        """As the core knows it; what makes no sense is nothing known."""
        try:
            returns = Returns.from_json(self.returns or {})
        except (KeyError, TypeError, ValueError):
            returns = Returns()
        return Eye(sights={c: Threshold.from_json(t) for c, t in self.thresholds.items()}, returns=returns)

    def keep(self, eye: Eye) -> None:
        self.thresholds = {code: sight.to_json() for code, sight in eye.sights.items()}
        self.returns = eye.returns.to_json()
        self.save()
