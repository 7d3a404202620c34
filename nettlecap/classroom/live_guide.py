"""What the brief editor shows while values change: the guide as it is now, and what it means."""

from __future__ import annotations

from typing import Any

from motion import analysis
from motion.brief import Brief
from motion.guide import chart, ink, sheet, strip, words
from motion.guide.guide import Guide, guide_of
from nettlecap.classroom.brief_keys import COMPLAINTS
from nettlecap.classroom.forms import BriefForm


def of_form(form: BriefForm, *, with_chart: bool, judged: bool) -> dict[str, Any]:
    """The answer to a changed form: what is wrong by field, and the guide where nothing is.

    With ``with_chart`` the timing chart as well; with ``judged`` also what the checks would say to a clip drawn
    exactly over the guide, which takes longer.
    """
    brief = form.core()
    wrong = {name: [str(e) for e in errors] for name, errors in form.errors.items() if name not in ("title", "due_at")}
    if brief is None or brief.guide is None:
        return {"errors": wrong, "guide": None}
    return {"errors": wrong, "guide": _told(brief, with_chart=with_chart), "minded": _minded(brief) if judged else None}


def _told(brief: Brief, *, with_chart: bool) -> dict[str, Any]:
    guide = guide_of(brief)
    return {
        "sheet": ink.text_of(sheet.draw(guide)),
        "chart": ink.text_of(chart.draw(guide)) if with_chart else None,
        "strip": ink.text_of(strip.draw(guide)),
        "words": words.sentences(guide),
        "hops": [_hop(hop) for hop in words.hops_of(guide)],
        "notes": {COMPLAINTS.get(key, key): said for key, said in words.disagreements(guide).items()},
        "fps": brief.fps,
        "frames": guide.plan.frames,
        "width": brief.frame_size[0],
        "height": brief.frame_size[1],
        "poses": _poses(guide),
        "handles": _handles(guide),
    }


def _hop(hop: words.Hop) -> dict[str, Any]:
    return {"number": hop.number, "frames": round(hop.frames, 1), "height": round(hop.height), "whole": hop.whole}


def _poses(guide: Guide) -> list[list[float]]:
    """For each drawing its first frame, centre, half axes in px, and turn in degrees as SVG has it."""
    return [
        [d.first_frame, *(round(v, 2) for v in (d.pose.x, d.pose.y, d.pose.major / 2, d.pose.minor / 2, -d.pose.angle))]
        for d in guide.drawings
    ]


def _handles(guide: Guide) -> dict[str, Any]:
    """What can be taken hold of in the picture, and how it bears on the values.

    A contact's ``share`` is the part of the whole distance at which it lies.
    """
    recipe, feel = guide.plan.recipe, guide.brief.guide
    first = guide.plan.flights[0]
    top_x = recipe.start_x + recipe.speed_x * recipe.lead
    landings = guide.plan.flights if recipe.end == "rest" else guide.plan.flights[:-1]
    reach = guide.plan.poses[-1].x - recipe.start_x
    return {
        "ground": round(recipe.ground_y, 2),
        "diameter": round(recipe.diameter, 2),
        "start_x": round(recipe.start_x, 2),
        "top": [round(top_x, 2), round(recipe.ground_y - recipe.diameter / 2 - first.top, 2)],
        "contacts": [
            {
                "x": round(recipe.start_x + recipe.speed_x * (f.lands - 1), 2),
                "share": round(recipe.speed_x * (f.lands - 1) / reach, 5) if reach else 0.0,
            }
            for f in landings
        ],
        "spreads": bool(feel and feel.end not in ("leaving", "cycle") and reach),
    }


def _minded(brief: Brief) -> list[str]:
    """What the checks would say to a clip drawn exactly over the guide."""
    return [finding.message for finding in analysis.of_guide(brief).findings]
