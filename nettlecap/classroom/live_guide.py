"""What the brief editor shows while values change: the guide as it is now, and what it means."""

from __future__ import annotations

import math
from typing import Any

from motion import analysis, ink
from motion.brief import Brief, declare
from motion.exercises.exercise import Handle
from motion.guide import chart, sheet, strip
from motion.guide.guide import Guide, guide_of
from nettlecap.classroom import brief_keys
from nettlecap.classroom.forms import BriefForm
from nettlecap.errors import Refusal


def of_form(form: BriefForm, *, with_chart: bool, judged: bool, change: dict[str, Any] | None = None) -> dict[str, Any]:
    """The answer to a changed form: what is wrong by field, and the guide where nothing is.

    With ``with_chart`` the timing chart as well; with ``judged`` also what the checks would say to a clip drawn
    exactly over the guide, which takes longer. ``change`` is a handle's name and the place (px) to which it was
    dragged, or the sizes (px) ``from`` and ``to`` which the frame goes: then ``values`` tells what that changes in the
    form. Raises Refusal for a change that is none.
    """
    brief = form.core()
    changed: dict[str, Any] = {}
    if change is not None:
        changed = _changed(form, brief, change)
        form = BriefForm(form.exercise.key, {**dict(form.data.items()), **changed})
        brief = form.core()
    wrong = {name: [str(e) for e in errors] for name, errors in form.errors.items() if name not in ("title", "due_at")}
    told: dict[str, Any] = {"errors": wrong, "guide": None, "values": changed}
    if brief is None or brief.guide is None:
        return told
    told["guide"] = _told(brief, with_chart=with_chart)
    told["minded"] = _minded(brief) if judged else None
    return told


def _changed(form: BriefForm, brief: Brief | None, change: dict[str, Any]) -> dict[str, Any]:
    """What a change of the guide changes in the form, by field."""
    if "from" in change:
        unfitted = form.unfitted()
        return _resized(unfitted, change) if unfitted is not None and unfitted.guide is not None else {}
    return _dragged(brief, change) if brief is not None and brief.guide is not None else {}


def _dragged(brief: Brief, change: dict[str, Any]) -> dict[str, Any]:
    """What dragging a handle changes, by form field."""
    name, x, y = change.get("name"), _number(change.get("x")), _number(change.get("y"))
    if not isinstance(name, str) or x is None or y is None:
        raise Refusal("That handle could not be moved; nothing was changed.")
    guide = guide_of(brief)
    return guide.exercise.guided.drag(brief, guide.plan, name, (x, y))


def _resized(brief: Brief, change: dict[str, Any]) -> dict[str, Any]:
    """What another size of the frame changes, by form field: what was drawn for the old one goes with it."""
    return declare.rescaled(brief.guide, _size(change.get("from")), _size(change.get("to")))


def _size(told: Any) -> tuple[int, int]:
    width, height = (_number(told.get(side)) if isinstance(told, dict) else None for side in ("width", "height"))
    if width is None or height is None or min(width, height) <= 0:
        raise Refusal("That frame could not be understood; nothing was changed.")
    return int(width), int(height)


def _number(told: Any) -> float | None:
    """A number of a page's, None where it is none."""
    return told if isinstance(told, int | float) and math.isfinite(told) else None


def _told(brief: Brief, *, with_chart: bool) -> dict[str, Any]:
    guide = guide_of(brief)
    guided, beside = guide.exercise.guided, brief_keys.complaints(brief.exercise)
    return {
        "sheet": ink.text_of(sheet.draw(guide)),
        "chart": ink.text_of(chart.draw(guide)) if with_chart else None,
        "strip": ink.text_of(strip.draw(guide)),
        "words": guided.sentences(brief, guide.plan),
        "lengths": guided.lengths(brief, guide.plan),
        "notes": {beside.get(key, key): said for key, said in guided.disagreements(brief, guide.plan).items()},
        "fps": brief.fps,
        "frames": guide.plan.frames,
        "width": brief.frame_size[0],
        "height": brief.frame_size[1],
        "figures": _figures(guide),
        "handles": [_handle(handle) for handle in guided.handles(brief, guide.plan)],
    }


def _figures(guide: Guide) -> list[dict[str, Any]]:
    """For each drawing its first frame, and what moves as SVG."""
    return [
        {"frame": drawing.first_frame, "svg": ink.text_of(sheet.figure(guide, drawing))} for drawing in guide.drawings
    ]


def _handle(handle: Handle) -> dict[str, Any]:
    return {
        "name": handle.name,
        "line": handle.line,
        "ways": handle.ways,
        "at": [round(handle.x, 2), round(handle.y, 2)],
        "label": handle.label,
        "value": handle.value,
    }


def _minded(brief: Brief) -> list[str]:
    """What the checks would say to a clip drawn exactly over the guide."""
    return [finding.message for finding in analysis.of_guide(brief).findings]
