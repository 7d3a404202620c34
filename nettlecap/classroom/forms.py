"""The brief's form. What a value may be is the core's own rule; here it only gets its place beside the field."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django import forms
from django.utils import timezone

import motion.brief
from motion.findings import CODES, PRINCIPLES
from nettlecap.classroom import brief_keys
from nettlecap.classroom.brief_keys import COMPLAINTS, weight_field
from nettlecap.classroom.models import Brief
from nettlecap.classroom.set_brief import Wanted, next_due, problems_with
from nettlecap.errors import Refusal
from nettlecap.guard import told_json
from nettlecap.words import PRINCIPLE_NAMES

MOST_POINTS = 100
WEIGHTS = [("1", "counts"), ("2", "counts double"), ("0.5", "counts half"), ("0", "not marked yet")]
SHOWN = [
    ("all", "All of it"),
    ("path", "Path and ground"),
    ("ground", "The ground only"),
    ("nothing", "Nothing"),
]


def number(label: str, initial: float | None = None, *, required: bool = False, **more: Any) -> forms.FloatField:
    """A number; what it may be is the core's to say."""
    return forms.FloatField(label=label, initial=initial, required=required, **more)


def whole(label: str, initial: int | None = None, **more: Any) -> forms.IntegerField:
    return forms.IntegerField(label=label, initial=initial, required=False, **more)


class TicksField(forms.JSONField):
    """Ticks that were set by hand, as the page sends them."""

    def to_python(self, value: Any) -> Any:
        if not isinstance(value, str) or not value.strip():
            return super().to_python(value)
        try:
            return told_json.read(value, dict)
        except Refusal as refusal:
            raise forms.ValidationError(str(refusal)) from refusal


class BriefForm(forms.Form):
    """A bouncing-ball brief as an instructor sets it."""

    title = forms.CharField(label="Title", max_length=120, error_messages={"required": "Give it a title."})
    words = forms.CharField(
        label="Words to the students",
        widget=forms.Textarea(attrs={"rows": 4}),
        required=False,
        max_length=4000,
        help_text="What moves, how it should feel, what to look out for.",
    )
    due_at = forms.DateTimeField(
        label="Due",
        widget=forms.DateTimeInput(attrs={"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
        input_formats=["%Y-%m-%dT%H:%M", "%Y-%m-%dT%H:%M:%S"],
        error_messages={"required": "Say when it is due.", "invalid": "Give a day and a time."},
    )

    with_guide = forms.BooleanField(label="This brief has a guide", required=False, initial=True)
    material = forms.ChoiceField(
        label="Material",
        choices=[("hard", "Hard"), ("firm", "Firm"), ("soft", "Soft")],
        initial="soft",
        help_text="Hard keeps its shape, firm nearly, soft must show it.",
    )
    diameter = number("Ball across (px)", 60)
    height = number("First top (px)", 320, help_text="Under the ball, above the ground.")
    keeps = number("Keeps of its speed", 0.8, help_text="Share kept at each contact, 0 to 1.")
    contacts = whole("Contacts at most", 3, help_text="Empty: as many as it has in it.")
    hop_s = number("A full hop takes (s)", 0.7, help_text="Empty: it follows from the real size.")
    diameter_m = number("Real size (m)", help_text="Across. Given, its weight is judged too.")
    start = forms.ChoiceField(label="It begins", choices=[("dropped", "let go at the top"), ("thrown", "thrown in")])
    end = forms.ChoiceField(
        label="It ends",
        choices=[
            ("top", "at a top"),
            ("settling", "settling"),
            ("rolling", "rolling on"),
            ("leaving", "leaving the frame"),
            ("cycle", "where it began, in a cycle"),
        ],
    )
    distance = number("Goes across (px)", 600, help_text="0: in place. Below 0: to the left.")
    start_x = number("Begins at (px)", help_text="From the left. Empty: so that all stands in the middle.")
    ground = number("Ground (px from the top)", 450)
    ground_fixed = forms.BooleanField(
        label="Judge contacts by this line, not by the ground that is drawn", required=False
    )
    stretch = number("Most stretch", 1.3, help_text="Long over short, in the air.")
    squash = number("Most squash", 1.35, help_text="Long over short, on the ground.")
    hang = whole("Hold the tops (frames)", 0)
    ticks = TicksField(widget=forms.HiddenInput, required=False, initial=dict)

    fps = number("Frames a second", 24, required=True)
    exposure = forms.ChoiceField(
        label="Exposure", choices=[("free", "Free"), ("ones", "On ones"), ("twos", "On twos")], initial="free"
    )
    frames_min = whole("At least (frames)", 24)
    frames_max = whole("At most (frames)", 96)
    canvas_width = whole("Frame width (px)", 960)
    canvas_height = whole("Frame height (px)", 540)
    loop = forms.BooleanField(label="The clip must cycle", required=False)

    strictness = forms.ChoiceField(
        label="Strictness",
        choices=[("gentle", "Gentle"), ("standard", "Standard"), ("strict", "Strict")],
        initial="standard",
    )
    hops = whole("Contacts asked for", help_text="Empty: any number.")
    restitution_low = number("Keeps at least")
    restitution_high = number("and at most", help_text="Share of speed, 0 to 1. Empty: any.")

    takes = whole("Takes at most", help_text="Empty: any number.")
    late = forms.ChoiceField(label="Late takes", choices=[("taken", "are taken"), ("refused", "are refused")])
    late_cost = number("and cost (% of the points)", 0)
    own_checks = whole(
        "Own checks",
        0,
        help_text="How often students may run the checks before handing in. Empty: any number.",
    )
    guide = forms.ChoiceField(label="Students see of the guide", choices=SHOWN)
    guide_after = forms.ChoiceField(label="and once it was due", choices=SHOWN)
    marked_by = forms.ChoiceField(
        label="An assistant marks",
        choices=[("share", "their own share, and what is in nobody’s"), ("all", "every clip")],
        required=False,
        initial="share",
    )

    def clean_marked_by(self) -> str:
        return str(self.cleaned_data["marked_by"] or "share")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for principle in PRINCIPLES:
            self.fields[f"points_{principle}"] = forms.FloatField(
                label=PRINCIPLE_NAMES[principle], min_value=0, max_value=MOST_POINTS, initial=10
            )
        for code, (_, name) in CODES.items():
            field = forms.ChoiceField(label=name, choices=WEIGHTS, initial="1", required=False)
            given = self.initial.get(weight_field(code))
            if given not in (None, *dict(WEIGHTS)):
                # A weight from a file that the list does not offer is kept.
                field.choices = [*WEIGHTS, (given, f"counts {given} times")]
            self.fields[weight_field(code)] = field
        self.fields["due_at"].initial = next_due

    def clean(self) -> dict[str, Any]:
        """Let the core judge the parameters; its complaints stand beside their fields."""
        values: dict[str, Any] = super().clean() or {}
        for key, sentence in problems_with(brief_keys.to_file(values)).items():
            field = COMPLAINTS.get(key) or COMPLAINTS.get(key.rpartition(".")[0])
            if field not in self.fields or self.fields[field].widget.is_hidden:
                self.add_error(None, sentence)
            elif field not in self.errors:
                self.add_error(field, sentence)
        return values

    def core(self) -> motion.brief.Brief | None:
        """The brief as far as it is sound; None while any value of it is not. Title and due date may be missing."""
        wrong = set(self.errors) - {"title", "due_at"}
        return None if wrong else motion.brief.from_json(brief_keys.to_file(self.cleaned_data))

    def wanted(self) -> Wanted:
        """What was asked for, once the form is valid."""
        return Wanted(
            core=motion.brief.from_json(brief_keys.to_file(self.cleaned_data)), due_at=self.cleaned_data["due_at"]
        )

    def _part(self, *names: str) -> list[forms.BoundField]:
        return [self[name] for name in names]

    @property
    def ball_part(self) -> list[forms.BoundField]:
        return self._part("material", "keeps", "height", "diameter", "hop_s", "diameter_m", "contacts", "hang")

    @property
    def way_part(self) -> list[forms.BoundField]:
        return self._part("start", "end", "distance", "start_x", "stretch", "squash")

    @property
    def clip_part(self) -> list[forms.BoundField]:
        return self._part("fps", "exposure", "frames_min", "frames_max", "canvas_width", "canvas_height")

    @property
    def asked_part(self) -> list[forms.BoundField]:
        return self._part("strictness", "hops", "restitution_low", "restitution_high")

    @property
    def terms_part(self) -> list[forms.BoundField]:
        return self._part("takes", "own_checks", "late", "late_cost", "guide", "guide_after", "marked_by")

    @property
    def counting_part(self) -> list[Counting]:
        return [
            Counting(
                principle=p,
                name=PRINCIPLE_NAMES[p],
                points=self[f"points_{p}"],
                weights=self._part(*(weight_field(code) for code, (own, _) in CODES.items() if own == p)),
            )
            for p in PRINCIPLES
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class Counting:
    """A principle's points in the form, with the weights of its faults."""

    principle: str
    name: str
    points: forms.BoundField
    weights: list[forms.BoundField]


def initial_of(brief: Brief) -> dict[str, Any]:
    """The form's values for a brief that is there."""
    return {**brief_keys.from_core(brief.core), "due_at": timezone.localtime(brief.due_at)}
