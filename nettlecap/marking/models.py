"""Mark sheets: what a marker decided about a take, saved as it is decided."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar

from django.db import models

from motion import retiming
from motion.catalogue import PRINCIPLES
from motion.strokes import TOOLS
from nettlecap.classroom.models import Brief, Person
from nettlecap.files import shelf
from nettlecap.takes.models import Take

PARCELS = "parcels"
"""Their folder, below the media folder."""


class Comparison(models.Model):
    """The same clips of a brief handed to two markers, neither of whom sees what the other says until both are done."""

    brief = models.ForeignKey(Brief, on_delete=models.CASCADE, related_name="comparisons")
    one = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    other = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    opened_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    opened_at = models.DateTimeField(auto_now_add=True)
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.one} and {self.other} on {self.brief}"


class Blind(models.Model):
    """One marker's part in a comparison: a clip that they mark unseen by the other.

    ``findings`` is the clip's findings file as it was when it was handed out, and as they alone changed it since by
    what they ``placed``: what anybody else places does not reach them, nor theirs anybody else.
    """

    comparison = models.ForeignKey(Comparison, on_delete=models.CASCADE, related_name="parts")
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="blind")
    marker = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    findings = models.JSONField(null=True)
    placed = models.JSONField(default=dict)

    class Meta:
        ordering = ("pk",)
        constraints = (models.UniqueConstraint(fields=["comparison", "take", "marker"], name="one_part_a_marker"),)

    def __str__(self) -> str:
        return f"{self.marker}: {self.take}"


class MarkSheet(models.Model):
    """The marks of one take, or (``blind``) those of one marker in a comparison, which no student sees.

    ``by_hand`` holds points per principle where the marker set them.

    ``roles`` says which drawings (by number) the marker calls keys, breakdowns or in-betweens otherwise than proposed;
    ``taps`` are the frames tapped at the first look, null before it; ``undoable`` is what can be taken back, oldest
    first: see ``undo``. ``seconds`` is how long somebody was at it.
    ``reopened_because`` is why returned marks were taken back, until they are returned again.
    """

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="sheet", null=True)
    blind = models.OneToOneField(Blind, on_delete=models.CASCADE, related_name="sheet", null=True)
    by_hand = models.JSONField(default=dict)
    roles = models.JSONField(default=dict)
    taps = models.JSONField(null=True)
    undoable = models.JSONField(default=list)
    remark = models.TextField(blank=True, max_length=4000)
    seconds = models.PositiveIntegerField(default=0)
    marked_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+", null=True)
    returned_at = models.DateTimeField(null=True)
    reopened_because = models.CharField(max_length=300, blank=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = (
            models.CheckConstraint(
                condition=models.Q(take__isnull=False, blind__isnull=True)
                | models.Q(take__isnull=True, blind__isnull=False),
                name="marks_of_a_take_or_of_a_comparison",
            ),
        )

    def __str__(self) -> str:
        return f"marks for {self.take or self.blind}"

    @property
    def returned(self) -> bool:
        return self.returned_at is not None

    @property
    def seen_as(self) -> str:
        """By what a page that shows these marks can tell whether they were changed since."""
        return self.changed_at.isoformat()


class Decision(models.Model):
    """What the marker says to one finding. ``key`` is the finding's own, stable over analyses of the same file."""

    class Verdict(models.TextChoices):
        AGREED = "agreed", "Agreed"
        DISMISSED = "dismissed", "Dismissed"

    sheet = models.ForeignKey(MarkSheet, on_delete=models.CASCADE, related_name="decisions")
    key = models.CharField(max_length=80)
    verdict = models.CharField(max_length=9, choices=Verdict.choices)

    class Meta:
        constraints = (models.UniqueConstraint(fields=["sheet", "key"], name="one_decision_a_finding"),)

    def __str__(self) -> str:
        return f"{self.key}: {self.verdict}"


class Note(models.Model):
    """The marker's own words on a range of frames, and the student's one answer to them.

    ``principle`` is empty where it is about the whole.
    """

    PRINCIPLES: ClassVar = [(p, p) for p in PRINCIPLES]

    sheet = models.ForeignKey(MarkSheet, on_delete=models.CASCADE, related_name="notes")
    first_frame = models.PositiveIntegerField()
    last_frame = models.PositiveIntegerField()
    principle = models.CharField(max_length=16, choices=PRINCIPLES, blank=True)
    text = models.CharField(max_length=600)
    answer = models.CharField(max_length=300, blank=True)
    answered_at = models.DateTimeField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("first_frame", "pk")

    def __str__(self) -> str:
        return self.text

    @property
    def tick_key(self) -> str:
        """How it is named among what a student ticks off."""
        return f"note:{self.pk}"


class DrawnStroke(models.Model):
    """A stroke of the marker's pen over a range of frames; its points are as motion.strokes keeps them."""

    sheet = models.ForeignKey(MarkSheet, on_delete=models.CASCADE, related_name="strokes")
    first_frame = models.PositiveIntegerField()
    last_frame = models.PositiveIntegerField()
    tool = models.CharField(max_length=8, choices=[(t, t) for t in TOOLS])
    points = models.JSONField()

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.tool} over frames {self.first_frame} to {self.last_frame}"

    @property
    def told(self) -> dict[str, Any]:
        """All that it is, but for its number."""
        return {k: getattr(self, k) for k in ("first_frame", "last_frame", "tool", "points")}


class Proposal(models.Model):
    """Another timing for a take's own drawings (as motion.retiming keeps it), its rate, and a word about it."""

    sheet = models.OneToOneField(MarkSheet, on_delete=models.CASCADE, related_name="proposal")
    timing = models.JSONField()
    fps = models.FloatField()
    note = models.CharField(max_length=300, blank=True)

    def __str__(self) -> str:
        return f"timing for {self.sheet.take}"

    @property
    def pairs(self) -> list[list[int]]:
        """Drawing and frames of each exposure."""
        return retiming.pairs_of(self.timing)


class Parcel(models.Model):
    """A file of many takes that the worker makes for somebody: a class's feedback, or a reel.

    ``job`` is the worker's task; how far it is stands in ``done`` of ``total``, why it failed in ``message``. The file
    lies in the media folder for a day or so: it can be made again.
    """

    class Kind(models.TextChoices):
        FEEDBACK = "feedback.zip", "feedback sheets"
        REEL_MP4 = "reel.mp4", "reel, MP4"
        REEL_WEBM = "reel.webm", "reel, WebM"

    brief = models.ForeignKey(Brief, on_delete=models.CASCADE, related_name="parcels")
    made_for = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=12, choices=Kind.choices)
    asked = models.JSONField(default=dict)
    job = models.CharField(max_length=40, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    ready_at = models.DateTimeField(null=True)
    message = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.brief}"

    @property
    def file(self) -> Path:
        """Where this machine has it, or makes it."""
        return shelf.local(self.place)

    @property
    def place(self) -> str:
        """Where it is kept once it is ready, below the media folder."""
        return f"{PARCELS}/{self.pk}/{self.kind}"


class Change(models.Model):
    """One change of a take's marks: who made it, when, and from what to what, in words."""

    sheet = models.ForeignKey(MarkSheet, on_delete=models.CASCADE, related_name="changes")
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    what = models.CharField(max_length=200)
    was = models.CharField(max_length=200, blank=True)
    now = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.who}: {self.what}"


class Reading(models.Model):
    """What the student ticked off in returned marks: keys of findings, and ``note:`` with a note's number."""

    sheet = models.OneToOneField(MarkSheet, on_delete=models.CASCADE, related_name="reading")
    ticked = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"ticks on {self.sheet}"


class Phrase(models.Model):
    """A marker's own words, to be used again: what was once written in a note, with its numbers left open.

    ``{frames}`` stands for the frames at hand, ``{measure}`` for what the finding at hand measured. ``code`` is the
    fault at which it was written, ``principle`` empty where it was about the whole.
    """

    owner = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="phrases")
    principle = models.CharField(max_length=16, choices=Note.PRINCIPLES, blank=True)
    code = models.CharField(max_length=40, blank=True)
    text = models.CharField(max_length=600)
    times = models.PositiveIntegerField(default=1)
    used_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-times", "-used_at", "pk")
        constraints = (models.UniqueConstraint(fields=["owner", "principle", "text"], name="one_phrase_a_principle"),)

    def __str__(self) -> str:
        return self.text
