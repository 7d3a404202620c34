"""Takes: what students hand in, and what was found in it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.db import models
from django.utils import timezone

from motion import preparation
from motion.preparation import Preparation
from motion.tracking import placing
from motion.tracking.placing import Placement
from nettlecap.classroom.models import Brief, Membership, Person
from nettlecap.errors import Conflict
from nettlecap.files import shelf
from nettlecap.takes.small_path import BETWEEN


class TakeQuerySet(models.QuerySet["Take"]):
    """Takes by who asks and by what is to be done with them."""

    def visible_to(self, person: Any) -> TakeQuerySet:
        """One's own, and those handed in to courses in which one marks."""
        marks = models.Q(brief__course__in=Membership.objects.marking(person), trial=False)
        return self.filter(models.Q(student=person) | marks)

    def own(self, person: Any) -> TakeQuerySet:
        return self.filter(student=person)

    def markable_by(self, person: Any) -> TakeQuerySet:
        return self.filter(brief__course__in=Membership.objects.marking(person))

    def in_share_of(self, person: Any) -> TakeQuerySet:
        """Without those of students who are in somebody else's share of the marking."""
        elsewhere = Membership.objects.filter(
            course=models.OuterRef("brief__course"), person=models.OuterRef("student")
        )
        return self.filter(~models.Exists(elsewhere.exclude(marker=None).exclude(marker=person.pk)))

    def drafts(self, person: Any) -> TakeQuerySet:
        """A person's clips that were looked through and not handed in."""
        return self.filter(student=person, trial=True, trial_number=None)

    def newest(self) -> TakeQuerySet:
        """Each student's last take of each brief."""
        later = Take.objects.filter(
            brief=models.OuterRef("brief"), student=models.OuterRef("student"), number__gt=models.OuterRef("number")
        )
        return self.filter(~models.Exists(later))

    def waiting_for_marks(self, first: int | None = None) -> TakeQuerySet:
        """Looked at, or given up, and not returned yet; last takes only, the one that waits longest first.

        Those of the brief ``first`` come before the others, so that one exercise is marked in one go.
        """
        turn = models.Case(models.When(brief=first, then=0), default=1)
        return (
            self.newest()
            .filter(analysis__state__in=Analysis.MARKABLE, sheet__returned_at=None)
            .order_by(turn, "handed_in_at", "pk")
        )


class HandedInManager(models.Manager.from_queryset(TakeQuerySet)):  # type: ignore[misc]
    """Takes that are handed in: not those that a student only tries the checks on."""

    def get_queryset(self) -> TakeQuerySet:
        return super().get_queryset().filter(trial=False)


class Take(models.Model):
    """One handed-in version of a student's exercise. The file lies in the media folder under its content's hash.

    A ``trial`` is not handed in (yet): its student runs the checks on it first. ``trial_number`` counts these, and
    stays when the trial is handed in. A trial's ``number`` is 0. A trial without a number is a draft, which its student
    looks through and puts right before it is handed in; the checks' findings are not shown on it.

    ``prepared`` is what the student put right (motion.preparation), ``to_try`` what they asked to put right last, until
    the worker has read the clip so; ``placed`` where a person placed the subject or the
    ground (motion.tracking.placing); the file itself stays as it came.
    """

    brief = models.ForeignKey(Brief, on_delete=models.PROTECT, related_name="takes")
    student = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="takes")
    number = models.PositiveIntegerField()
    handed_in_at = models.DateTimeField(default=timezone.now)
    file_name = models.CharField(max_length=200)
    file_path = models.CharField(max_length=120)
    file_bytes = models.PositiveBigIntegerField()
    frames = models.PositiveIntegerField()
    pictures = models.PositiveIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    trial = models.BooleanField(default=False)
    trial_number = models.PositiveIntegerField(null=True)
    prepared = models.JSONField(default=dict)
    to_try = models.JSONField(null=True)
    placed = models.JSONField(default=dict)
    sound_name = models.CharField(max_length=200, blank=True)
    sound_path = models.CharField(max_length=120, blank=True)
    sound_kind = models.CharField(max_length=4, blank=True)

    objects = HandedInManager()
    everything = TakeQuerySet.as_manager()

    class Meta:
        ordering = ("brief", "student", "number")
        constraints = (
            models.UniqueConstraint(
                fields=["brief", "student", "number"], condition=models.Q(trial=False), name="one_take_of_each_number"
            ),
            models.UniqueConstraint(fields=["brief", "student", "trial_number"], name="one_trial_of_each_number"),
        )

    def __str__(self) -> str:
        return f"{self.student}, {self.called} of {self.brief}"

    @property
    def noun(self) -> str:
        return "clip" if self.trial else "take"

    @property
    def called(self) -> str:
        if self.draft:
            return "clip not handed in yet"
        return f"own check {self.trial_number}" if self.trial else f"take {self.number}"

    @property
    def draft(self) -> bool:
        return self.trial and self.trial_number is None

    @property
    def preparation(self) -> Preparation:
        return preparation.from_json(self.prepared)

    @property
    def placement(self) -> Placement:
        return placing.from_json(self.placed)

    @property
    def sound(self) -> Path:
        """Where the sound track lies, if there is one."""
        return shelf.here(self.sound_path)

    @property
    def file(self) -> Path:
        """Where the hand-in lies."""
        return shelf.here(self.file_path)

    @property
    def late(self) -> bool:
        return not self.trial and self.handed_in_at > self.brief.due_at


UNREAD = ("waiting", "reading")
UNFINISHED = ("waiting", "running")


class ArrivalQuerySet(models.QuerySet["Arrival"]):
    """Arrivals by whose they are and how far."""

    def own(self, person: Any) -> ArrivalQuerySet:
        return self.filter(student=person)

    def unread(self) -> ArrivalQuerySet:
        return self.filter(state__in=UNREAD)

    def untold(self) -> ArrivalQuerySet:
        """Those that a student may still have to be told of: not read yet, or refused."""
        return self.exclude(state=Arrival.State.TAKEN_IN)


class Arrival(models.Model):
    """Files that came in for a brief, kept as they came, until the worker has read them.

    Then they are a take (or a trial, as ``wanted_as`` says), or they are refused with a sentence and forgotten; why in
    general is kept in ``reason``, to be counted.
    """

    class As(models.TextChoices):
        TAKE = "take", "Take"
        CHECK = "check", "Own check"
        DRAFT = "draft", "Draft"

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        READING = "reading", "Being read"
        TAKEN_IN = "taken in", "Taken in"
        REFUSED = "refused", "Refused"

    brief = models.ForeignKey(Brief, on_delete=models.CASCADE, related_name="arrivals")
    student = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="arrivals")
    wanted_as = models.CharField(max_length=8, choices=As.choices)
    came_at = models.DateTimeField(default=timezone.now)
    file_name = models.CharField(max_length=200)
    file_path = models.CharField(max_length=120)
    file_bytes = models.PositiveBigIntegerField()
    sound_name = models.CharField(max_length=200, blank=True)
    sound_path = models.CharField(max_length=120, blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    message = models.CharField(max_length=600, blank=True)
    reason = models.CharField(max_length=40, blank=True)
    take = models.OneToOneField(Take, on_delete=models.SET_NULL, related_name="arrival", null=True)

    objects = ArrivalQuerySet.as_manager()

    class Meta:
        ordering = ("came_at", "pk")
        # What waits is asked for at each hand-in, and is little of what there is.
        indexes = (models.Index(fields=["state"], condition=models.Q(state__in=UNREAD), name="arrivals_unread"),)

    def __str__(self) -> str:
        return f"{self.file_name} of {self.student}, {self.get_state_display().lower()}"

    @property
    def unread(self) -> bool:
        return self.state in (self.State.WAITING, self.State.READING)

    @property
    def refused(self) -> bool:
        return self.state == self.State.REFUSED

    @property
    def file(self) -> Path:
        return shelf.here(self.file_path)

    @property
    def sound(self) -> Path:
        return shelf.here(self.sound_path)


class Beat(models.Model):
    """A sign of life of a process that works or serves: its lease on what it does, renewed every few seconds."""

    name = models.CharField(max_length=120, unique=True)
    beat_at = models.DateTimeField()

    def __str__(self) -> str:
        return self.name


class AnalysisQuerySet(models.QuerySet["Analysis"]):
    """Analyses by state."""

    def unfinished(self) -> AnalysisQuerySet:
        return self.filter(state__in=UNFINISHED)


class Analysis(models.Model):
    """What the worker found in a take, and how far it is.

    ``findings`` is a findings file (nettlecap.findings/1), ``faults`` the little of it by which a class is compared
    (see ``faults``), ``track_csv`` its track table, ``path_line`` and
    ``ground_line`` the points of a small picture of it. ``run`` counts the analyses of this take: a run that was
    overtaken by a later one writes nothing. ``shown_run`` is the run that these results and the kept drawings are of;
    they stay until a later run is through.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting"
        RUNNING = "running", "Being looked at"
        DONE = "done", "Looked at"
        FAILED = "failed", "Could not be looked at"

    MARKABLE = (State.DONE, State.FAILED)
    """What could not be looked at is marked by eye."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="analysis")
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    run = models.PositiveIntegerField(default=1)
    shown_run = models.PositiveIntegerField(default=0)
    progress = models.FloatField(default=0.0)
    step = models.CharField(max_length=120, blank=True)
    message = models.CharField(max_length=400, blank=True)
    findings = models.JSONField(null=True)
    faults = models.JSONField(default=list)
    track_csv = models.TextField(blank=True)
    path_line = models.TextField(blank=True)
    ground_line = models.CharField(max_length=60, blank=True)
    finished_at = models.DateTimeField(null=True)

    objects = AnalysisQuerySet.as_manager()

    class Meta:
        indexes = (
            models.Index(fields=["state"], condition=models.Q(state__in=UNFINISHED), name="analyses_unfinished"),
        )

    def __str__(self) -> str:
        return f"{self.take}: {self.get_state_display().lower()}"

    @property
    def measured(self) -> dict[str, Any]:
        """What was found. Raises Conflict where the take was not looked at yet."""
        if self.findings is None:
            raise Conflict("This take has not been looked at yet.")
        found: dict[str, Any] = self.findings
        return found

    def drawings_of(self, run: int) -> Path:
        """Where a run has each drawing as ``<number>.png`` on this machine."""
        return shelf.local(self.run_folder(run))

    def run_folder(self, run: int) -> str:
        """Where the drawings of a run are kept, below the media folder."""
        return f"{self.drawings_folder}/{run}"

    @property
    def drawings_folder(self) -> str:
        """Where the drawings of all its runs are kept, below the media folder."""
        return f"drawings/{self.take_id}"

    @property
    def paths(self) -> list[str]:
        """The paths of its small picture, each as points."""
        return self.path_line.split(BETWEEN)

    @property
    def percent(self) -> int:
        return round(100 * self.progress)

    @property
    def unfinished(self) -> bool:
        return self.state in (self.State.WAITING, self.State.RUNNING)
