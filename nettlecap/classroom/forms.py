"""The brief's form. What a value may be is the core's own rule; here it only gets its place beside the field."""

from __future__ import annotations

from typing import Any, ClassVar

from django import forms
from django.utils import timezone

import motion.brief
from motion.findings import PRINCIPLES
from nettlecap.classroom.models import Brief
from nettlecap.classroom.set_brief import Wanted, problems_with
from nettlecap.words import PRINCIPLE_NAMES

MOST_POINTS = 100

# Where the core's complaints about a key of the brief file stand in the form.
FIELD_OF = {
    "frames": "frames_min",
    "frames.min": "frames_min",
    "frames.max": "frames_max",
    "canvas": "canvas_width",
    "canvas.width": "canvas_width",
    "canvas.height": "canvas_height",
    "bounce.material": "material",
    "bounce.hops": "hops",
    "bounce.restitution": "restitution_low",
    "bounce.diameter_m": "diameter_m",
}


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
    material = forms.ChoiceField(
        label="Material",
        choices=[
            ("hard", "Hard: keeps its shape"),
            ("firm", "Firm: may change a little"),
            ("soft", "Soft: stretches and squashes"),
        ],
        initial="soft",
    )
    hops = forms.IntegerField(label="Contacts", required=False, help_text="How many; empty for any number.")
    restitution_low = forms.FloatField(label="Keeps at least", required=False)
    restitution_high = forms.FloatField(
        label="and at most", required=False, help_text="Share of its speed kept at each contact, 0 to 1."
    )
    diameter_m = forms.FloatField(
        label="Real size (m)", required=False, help_text="Across, in metres. Given, its weight is judged too."
    )
    fps = forms.FloatField(label="Frames a second", initial=24)
    exposure = forms.ChoiceField(
        label="Exposure",
        choices=[("free", "Free"), ("ones", "On ones"), ("twos", "On twos")],
        initial="free",
    )
    frames_min = forms.IntegerField(label="At least (frames)", required=False, initial=24)
    frames_max = forms.IntegerField(label="At most (frames)", required=False, initial=96)
    loop = forms.BooleanField(label="The clip must cycle", required=False)
    canvas_width = forms.IntegerField(label="Frame width (px)", required=False, initial=960)
    canvas_height = forms.IntegerField(label="Frame height (px)", required=False, initial=540)
    ground_y = forms.FloatField(
        label="Ground line (px from the top)", required=False, help_text="Empty: it is found in each clip."
    )
    strictness = forms.ChoiceField(
        label="Strictness",
        choices=[("gentle", "Gentle"), ("standard", "Standard"), ("strict", "Strict")],
        initial="standard",
    )
    exercise_fields: ClassVar = ("material", "hops", "restitution_low", "restitution_high", "diameter_m")
    clip_fields: ClassVar = (
        "fps",
        "exposure",
        "frames_min",
        "frames_max",
        "canvas_width",
        "canvas_height",
        "ground_y",
        "loop",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for principle in PRINCIPLES:
            self.fields[f"points_{principle}"] = forms.FloatField(
                label=PRINCIPLE_NAMES[principle], min_value=0, max_value=MOST_POINTS, initial=10
            )

    def clean(self) -> dict[str, Any]:
        """Let the core judge the parameters; its complaints stand beside their fields."""
        values: dict[str, Any] = super().clean() or {}
        for key, sentence in problems_with(_parameters(values)).items():
            field = FIELD_OF.get(key, key if key in self.fields else None)
            if field is None or field not in self.errors:
                self.add_error(field, sentence)
        return values

    def wanted(self) -> Wanted:
        """What was asked for, once the form is valid."""
        values = self.cleaned_data
        return Wanted(
            title=values["title"],
            words=values["words"],
            parameters=_parameters(values),
            points={p: values[f"points_{p}"] for p in PRINCIPLES},
            due_at=values["due_at"],
        )

    def bound_fields(self, names: tuple[str, ...]) -> list[forms.BoundField]:
        return [self[name] for name in names]

    @property
    def exercise_part(self) -> list[forms.BoundField]:
        return self.bound_fields(self.exercise_fields)

    @property
    def clip_part(self) -> list[forms.BoundField]:
        return self.bound_fields(self.clip_fields)

    @property
    def points_part(self) -> list[forms.BoundField]:
        return self.bound_fields(tuple(f"points_{p}" for p in PRINCIPLES))


def initial_of(brief: Brief) -> dict[str, Any]:
    """The form's values for a brief that is there."""
    core = brief.core
    low, high = core.bounce.restitution or (None, None)
    least, most = core.frames or (None, None)
    width, height = core.canvas or (None, None)
    return {
        "title": brief.title,
        "words": brief.words,
        "due_at": timezone.localtime(brief.due_at),
        "material": core.bounce.material,
        "hops": core.bounce.hops,
        "restitution_low": low,
        "restitution_high": high,
        "diameter_m": core.bounce.diameter_m,
        "fps": core.fps,
        "exposure": core.exposure,
        "frames_min": least,
        "frames_max": most,
        "loop": core.loop,
        "canvas_width": width,
        "canvas_height": height,
        "ground_y": core.ground_y,
        "strictness": core.strictness,
        **{f"points_{p}": brief.points.get(p, 0.0) for p in PRINCIPLES},
    }


def _parameters(values: dict[str, Any]) -> dict[str, Any]:
    """The brief file's object of the form's values; what could not be read as a value is left out."""
    low, high = values.get("restitution_low"), values.get("restitution_high")
    parameters: dict[str, Any] = {
        "schema": motion.brief.SCHEMA,
        "exercise": "bounce",
        "loop": bool(values.get("loop")),
        "frames": _pair(values, "frames", "min", "max"),
        "canvas": _pair(values, "canvas", "width", "height"),
        "ground_y": values.get("ground_y"),
        "bounce": {
            "hops": values.get("hops"),
            "restitution": None if low is None and high is None else [low, high],
            "diameter_m": values.get("diameter_m"),
        },
    }
    for key in ("fps", "exposure", "strictness"):
        if values.get(key) is not None:
            parameters[key] = values[key]
    if values.get("material"):
        parameters["bounce"]["material"] = values["material"]
    return parameters


def _pair(values: dict[str, Any], name: str, first: str, second: str) -> dict[str, Any] | None:
    pair = {part: values.get(f"{name}_{part}") for part in (first, second)}
    return None if all(v is None for v in pair.values()) else pair
