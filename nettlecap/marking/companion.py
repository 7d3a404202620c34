"""What a take can be looked at beside: an earlier take of the same brief, or the brief's own bounce."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from motion.alignment import aligned, contacts_of
from motion.brief import Brief
from motion.errors import BriefError
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.plan import Plan
from motion.guide.sheet import LAYERS
from nettlecap.classroom import policy
from nettlecap.classroom.guide_files import layers_for
from nettlecap.errors import Conflict
from nettlecap.takes.models import Take

RATES = (12, 24, 25, 30)
"""Frames a second at which a clip can be played beside itself."""


def guide_of(brief: Brief) -> Plan | None:
    """The brief's own bounce; None where it has none, or none that can be drawn."""
    try:
        return plan_of(brief) if brief.guide else None
    except BriefError:
        return None


def earlier(take: Take) -> list[Take]:
    """The student's earlier takes of the same brief that were looked at, the latest first."""
    takes = Take.objects.filter(brief=take.brief_id, student=take.student_id, number__lt=take.number)
    return list(takes.exclude(analysis__findings=None).order_by("-number"))


def may_see_guide(person: Any, take: Take) -> bool:
    """Whether the brief's bounce may be set beside a take for this person: it tells all that the guide does."""
    marks = policy.may_mark(person, take.brief.course_id)
    return guide_of(take.brief.core) is not None and layers_for(marks=marks, brief=take.brief) == LAYERS


def options(person: Any, take: Take) -> list[tuple[str, str]]:
    """What to choose from: where it is fetched from (or ``rate:`` and a rate), and its name."""
    found = [(reverse("beside-take", args=[take.pk, t.pk]), f"take {t.number}") for t in earlier(take)]
    if may_see_guide(person, take):
        found.append((reverse("beside-guide", args=[take.pk]), "the brief’s bounce"))
    own = take.brief.core.fps
    return [*found, *((f"rate:{rate}", f"{rate} frames a second") for rate in RATES if rate != own)]


def beside_take(take: Take, other: Take) -> dict[str, Any]:
    """An earlier take as a page draws it, with its frame for each frame of this one."""
    one, two = take.analysis.findings, other.analysis.findings
    if not one or not two:
        raise Conflict("This take has not been looked at yet; it can be set beside another after that.")
    clip = two["clip"]
    return {
        "drawings": f"{reverse('start')}takes/{other.pk}/drawings/{other.analysis.shown_run}/",
        "width": clip["width"],
        "height": clip["height"],
        "exposures": clip["exposures"],
        "shapes": two["track"]["shapes"],
        "shifts": two["track"].get("shifts"),
        "frames": aligned(contacts_of(one), contacts_of(two), one["clip"]["frames"], clip["frames"]),
    }


def beside_guide(person: Any, take: Take) -> dict[str, Any]:
    """The brief's own bounce as ellipses on its ground, with its frame for each frame of this take.

    Raises NotAllowed where the brief does not give its guide to this person.
    """
    plan, one = guide_of(take.brief.core), take.analysis.findings
    if plan is None or not one:
        raise Conflict("This brief has no bounce of its own to set beside the take.")
    policy.require(may_see_guide(person, take), "see the guide of this brief")
    recipe = plan.recipe
    poses = [(plan.first_frame(i), pose) for i, pose in enumerate(plan.poses)]
    contacts = [float(first) for first, pose in poses if pose.role == "contact"]
    return {
        "width": recipe.width,
        "height": recipe.height,
        "exposures": [
            {"drawing": n, "first_frame": first, "frames": p.frames} for n, (first, p) in enumerate(poses, start=1)
        ],
        "shapes": [
            {"drawing": n, "x": p.x, "y": p.y, "major": p.major, "minor": p.minor, "angle": p.angle}
            for n, (_, p) in enumerate(poses, start=1)
        ],
        "ground": [plan.ground_at(0.0), plan.ground_at(recipe.width - 1.0)],
        "frames": aligned(contacts_of(one), contacts, one["clip"]["frames"], plan.frames),
    }
