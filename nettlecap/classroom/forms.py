"""The brief's form. What a value may be is the core's own rule; here it only gets its place beside the field."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django import forms
from django.utils import timezone

import motion.brief
from motion.brief.declare import Declared, Kind
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES, Fault, faults
from motion.errors import BriefError
from motion.exercises import EXERCISES
from nettlecap.classroom import brief_keys
from nettlecap.classroom.brief_keys import SPAN, choice_field, weight_field
from nettlecap.classroom.models import Brief
from nettlecap.classroom.set_brief import Wanted, next_due, problems_with
from nettlecap.errors import Refusal
from nettlecap.guard import told_json

MOST_POINTS = 100
YES_OR_NO = [("", "left open"), ("true", "yes"), ("false", "no")]
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


class YesOrNoField(forms.TypedChoiceField):
    """Yes, no, or left open, in the words that JSON has for them."""

    def __init__(self, **more: Any) -> None:
        super().__init__(**more, choices=YES_OR_NO, coerce=lambda told: told == "true", empty_value=None)

    def prepare_value(self, value: Any) -> Any:
        return {True: "true", False: "false"}.get(value, value)


class TicksField(forms.JSONField):
    """Ticks that were set by hand, as the page sends them."""

    def to_python(self, value: Any) -> Any:
        if not isinstance(value, str) or not value.strip():
            return super().to_python(value)
        try:
            return told_json.read(value, dict)
        except Refusal as refusal:
            raise forms.ValidationError(str(refusal)) from refusal


def fields_of(name: str, declared: Declared, default: Any) -> Iterator[tuple[str, forms.Field]]:
    """The form's fields for a declared parameter, by name; a range has two, several values one each, and one without a
    group is not asked for.
    """
    for field_name, field in _fields_of(name, declared, default):
        # The page shows it only while one of these fields has that value.
        field.when = " ".join(f"{other}={value}" for other, value in declared.when)  # type: ignore[attr-defined]
        yield field_name, field


def _fields_of(name: str, declared: Declared, default: Any) -> Iterator[tuple[str, forms.Field]]:
    said: dict[str, Any] = {"label": declared.label, "help_text": declared.help, "required": False}
    if declared.kind == "shares":
        yield name, TicksField(widget=forms.HiddenInput, required=False, initial=dict)
    elif not declared.group:
        return
    elif declared.kind == "span":
        for end, words in zip(SPAN, ("at least", "at most"), strict=True):
            yield f"{name}_{end}", forms.FloatField(label=f"{declared.label}, {words}", required=False)
    elif declared.kind == "several":
        for value, words in declared.choices:
            yield choice_field(name, value), forms.BooleanField(**{**said, "label": words})
    elif declared.kind == "flag" and declared.open:
        yield name, YesOrNoField(**said, initial=default)
    elif declared.kind == "flag":
        yield name, forms.BooleanField(**said, initial=default)
    elif declared.kind == "choice" and declared.open:
        choices = [("", "left open"), *declared.choices]
        yield name, forms.TypedChoiceField(**said, choices=choices, coerce=str, empty_value=None)
    elif declared.kind == "choice":
        yield name, forms.ChoiceField(**{**said, "required": True}, choices=declared.choices, initial=default)
    elif declared.kind == "whole":
        yield name, forms.IntegerField(**said, initial=default)
    elif declared.kind == "number":
        whole = isinstance(default, float) and default.is_integer()
        yield name, forms.FloatField(**said, initial=int(default) if whole else default)


class BriefForm(forms.Form):
    """A brief as an instructor sets it; what its exercise adds is declared in the core."""

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

    def __init__(self, exercise: str, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.exercise = EXERCISES[exercise]
        # While the frame changes the guide need not fit in it yet.
        self.guide_fits = True
        self._groups: dict[str, list[tuple[Declared, list[str]]]] = {}
        for name, _, declared, default in brief_keys.parameters(exercise):
            made = dict(fields_of(name, declared, default))
            self.fields.update(made)
            self._groups.setdefault(declared.group, []).append((declared, list(made)))
        if "ground_y" in self.fields:
            self.fields["ground_fixed"] = forms.BooleanField(
                label="Judge contacts by this line, not by the ground that is drawn", required=False
            )
        for principle in PRINCIPLES:
            self.fields[f"points_{principle}"] = forms.FloatField(
                label=PRINCIPLE_NAMES[principle], min_value=0, max_value=MOST_POINTS, initial=10
            )
        for code, fault in faults(exercise).items():
            field = forms.ChoiceField(label=fault.name, choices=WEIGHTS, initial="1", required=False)
            given = self.initial.get(weight_field(code))
            if given not in (None, *dict(WEIGHTS)):
                # A weight from a file that the list does not offer is kept.
                field.choices = [*WEIGHTS, (given, f"counts {given} times")]
            self.fields[weight_field(code)] = field
        self.fields["due_at"].initial = next_due
        for name, count in zip(("frames_min", "frames_max"), self.exercise.guided.frames, strict=True):
            self.fields[name].initial = count

    def clean(self) -> dict[str, Any]:
        """Let the core judge the parameters; its complaints stand beside their fields."""
        values: dict[str, Any] = super().clean() or {}
        if not self.guide_fits:
            return values
        beside = brief_keys.complaints(self.exercise.key)
        for key, sentence in problems_with(self._file(values)).items():
            field = beside.get(key) or beside.get(key.rpartition(".")[0])
            if field not in self.fields or self.fields[field].widget.is_hidden:
                self.add_error(None, sentence)
            elif field not in self.errors:
                self.add_error(field, sentence)
        return values

    def core(self) -> motion.brief.Brief | None:
        """The brief as far as it is sound; None while any value of it is not. Title and due date may be missing."""
        wrong = set(self.errors) - {"title", "due_at"}
        return None if wrong else motion.brief.from_json(self._file(self.cleaned_data))

    def unfitted(self) -> motion.brief.Brief | None:
        """Its motion and its frame as they are filled in, whether they fit or not; None where they make no sense."""
        plain = type(self)(self.exercise.key, self.data)
        plain.guide_fits = False
        plain.full_clean()
        file = self._file(plain.cleaned_data)
        own = {key: file.get(key) for key in ("schema", "exercise", self.exercise.key, "guide", "canvas")}
        try:
            return motion.brief.from_json(own)
        except BriefError:
            return None

    def _file(self, values: dict[str, Any]) -> dict[str, Any]:
        return brief_keys.to_file(self.exercise.key, values)

    def wanted(self) -> Wanted:
        """What was asked for, once the form is valid."""
        return Wanted(core=motion.brief.from_json(self._file(self.cleaned_data)), due_at=self.cleaned_data["due_at"])

    def _part(self, *names: str) -> list[forms.BoundField]:
        return [self[name] for name in names]

    def _group(self, group: str) -> list[Asking]:
        told = self._groups.get(group, ())
        return [
            Asking(kind=d.kind, label=d.label, help=d.help, fields=self._part(*names)) for d, names in told if names
        ]

    @property
    def thing_part(self) -> list[Asking]:
        """What moves."""
        return self._group("thing")

    @property
    def way_part(self) -> list[Asking]:
        """How it goes."""
        return self._group("way")

    @property
    def ground_part(self) -> list[forms.BoundField]:
        """The ground, where the exercise has one."""
        return self._part("ground_y", "ground_fixed") if "ground_y" in self.fields else []

    @property
    def motion_fields(self) -> str:
        """The names of the fields that say what moves and how, with a space between."""
        own = [name for group in self._groups.values() for _, names in group for name in names]
        still = [name for name in ("ground_fixed", "with_guide", "loop") if name in self.fields]
        return " ".join([*own, *still])

    @property
    def hidden_part(self) -> list[forms.BoundField]:
        return [field for field in self if field.is_hidden]

    @property
    def clip_part(self) -> list[forms.BoundField]:
        return self._part("fps", "exposure", "frames_min", "frames_max", "canvas_width", "canvas_height")

    @property
    def asked_part(self) -> list[Asking]:
        """What is asked for."""
        return self._group("asked")

    @property
    def terms_part(self) -> list[forms.BoundField]:
        return self._part("takes", "own_checks", "late", "late_cost", "guide", "guide_after", "marked_by")

    @property
    def _faults(self) -> list[Fault]:
        return list(faults(self.exercise.key).values())

    @property
    def counting_part(self) -> list[Counting]:
        return [
            Counting(
                principle=p,
                name=PRINCIPLE_NAMES[p],
                points=self[f"points_{p}"],
                weights=self._part(*(weight_field(f.code) for f in self._faults if f.principle == p)),
            )
            for p in PRINCIPLES
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class Asking:
    """A parameter in the form: one field, both ends of a range (``kind`` span), or a tick for each of ``several``."""

    kind: Kind
    label: str
    help: str
    fields: list[forms.BoundField]

    @property
    def when(self) -> str:
        """With which values of other fields it means something; empty: always."""
        return str(getattr(self.fields[0].field, "when", ""))


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
