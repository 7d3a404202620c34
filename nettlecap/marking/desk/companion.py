"""What a take can be looked at beside: an earlier take of the same brief, or the brief's own ideal."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from motion import ink
from motion.alignment import aligned, beside
from motion.brief import Brief
from motion.errors import BriefError
from motion.guide import sheet
from motion.guide.guide import Guide
from motion.guide.guide import guide_of as drawn_guide
from motion.guide.sheet import LAYERS
from motion.report.report import Report
from nettlecap.classroom import policy
from nettlecap.classroom.guide_files import layers_for
from nettlecap.errors import Conflict
from nettlecap.takes.models import Take

RATES = (12, 24, 25, 30)
"""Frames a second at which a clip can be played beside itself."""


def guide_of(brief: Brief) -> Guide | None:
    """The brief's guide; None where it has none, or none that can be drawn."""
    try:
        return drawn_guide(brief) if brief.guide else None
    except BriefError:
        return None


def earlier(take: Take) -> list[Take]:
    """The student's earlier takes of the same brief that were looked at, the latest first."""
    takes = Take.objects.filter(brief=take.brief_id, student=take.student_id, number__lt=take.number)
    return list(takes.exclude(analysis__findings=None).order_by("-number"))


def may_see_guide(person: Any, take: Take) -> bool:
    """Whether the brief's guide may be set beside a take for this person: it tells all that the guide does."""
    marks = policy.may_mark(person, take.brief.course_id)
    return guide_of(take.brief.core) is not None and layers_for(marks=marks, brief=take.brief) == LAYERS


def options(person: Any, take: Take) -> list[tuple[str, str]]:
    """What to choose from: where it is fetched from (or ``rate:`` and a rate), and its name."""
    found = [(reverse("beside-take", args=[take.pk, t.pk]), f"take {t.number}") for t in earlier(take)]
    if may_see_guide(person, take):
        found.append((reverse("beside-guide", args=[take.pk]), f"the brief’s {take.brief.exercise.nouns.run}"))
    own = take.brief.core.fps
    return [*found, *((f"rate:{rate}", f"{rate} frames a second") for rate in RATES if rate != own)]


def beside_take(take: Take, other: Take) -> dict[str, Any]:
    """An earlier take as a page draws it, with its frame for each frame of this one."""
    if not take.analysis.findings or not other.analysis.findings:
        raise Conflict("This take has not been looked at yet; it can be set beside another after that.")
    one, two = Report(take.analysis.findings), Report(other.analysis.findings)
    return {
        "drawings": f"{reverse('start')}takes/{other.pk}/drawings/{other.analysis.shown_run}/",
        "width": two.width,
        "height": two.height,
        "exposures": two.clip["exposures"],
        "shapes": two.track["shapes"],
        "shifts": two.shifts or None,
        "frames": beside(one, two),
    }


def beside_guide(person: Any, take: Take) -> dict[str, Any]:
    """The brief's guide, a picture a drawing, with its frame for each frame of this take.

    Raises NotAllowed where the brief does not give its guide to this person.
    """
    guide = guide_of(take.brief.core)
    if guide is None or not take.analysis.findings:
        raise Conflict("This brief has no guide of its own to set beside the take.")
    policy.require(may_see_guide(person, take), "see the guide of this brief")
    plan, own = guide.plan, Report(take.analysis.findings)
    moments = guide.exercise.guided.moments(plan)
    return {
        "width": plan.width,
        "height": plan.height,
        "exposures": [
            {"drawing": d.number, "first_frame": d.first_frame, "frames": d.pose.frames} for d in guide.drawings
        ],
        "shapes": [
            {"drawing": d.number, **{k: getattr(d.pose, k) for k in ("x", "y", "major", "minor", "angle")}}
            for d in guide.drawings
        ],
        "svgs": [ink.text_of(sheet.beside(guide, drawing)) for drawing in guide.drawings],
        "frames": aligned([m.time for m in own.moments], moments, own.frames, plan.frames),
    }
