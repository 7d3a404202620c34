"""Taking back what was decided about a take, the latest first.

Before a change, what it changes is kept with the sheet as it was; taking back puts that in its place again.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from nettlecap.errors import Conflict
from nettlecap.marking.models import Decision, DrawnStroke, MarkSheet, Note, Proposal

NOTE = ("first_frame", "last_frame", "principle", "text", "answer")
"""What a removed note is put back with."""
MOST = 100
"""So many changes can be taken back."""


def keep(sheet: MarkSheet, kind: str, was: dict[str, Any]) -> None:
    """Keep how something was before a change; the caller saves the sheet."""
    sheet.undoable = [*sheet.undoable, {"kind": kind, **was}][-MOST:]


def take_back(sheet: MarkSheet) -> str:
    """Put back what the latest change changed, and say what that was; the caller saves the sheet.

    Raises Conflict where there is nothing to take back.
    """
    if not sheet.undoable:
        raise Conflict("There is nothing left to take back.")
    *sheet.undoable, latest = sheet.undoable
    return _BACK[latest["kind"]](sheet, latest)


def _verdict(sheet: MarkSheet, was: dict[str, Any]) -> str:
    if was["verdict"]:
        Decision.objects.update_or_create(sheet=sheet, key=was["key"], defaults={"verdict": was["verdict"]})
    else:
        Decision.objects.filter(sheet=sheet, key=was["key"]).delete()
    return "what was said to a finding"


def _points(sheet: MarkSheet, was: dict[str, Any]) -> str:
    sheet.by_hand = {k: v for k, v in sheet.by_hand.items() if k != was["principle"]}
    if was["points"] is not None:
        sheet.by_hand[was["principle"]] = was["points"]
    return "points set by hand"


def _role(sheet: MarkSheet, was: dict[str, Any]) -> str:
    sheet.roles = {k: v for k, v in sheet.roles.items() if k != was["drawing"]}
    if was["role"]:
        sheet.roles[was["drawing"]] = was["role"]
    return f"what drawing {was['drawing']} was called"


def _note_written(sheet: MarkSheet, was: dict[str, Any]) -> str:
    Note.objects.filter(sheet=sheet, pk=was["note"]).delete()
    return "a note"


def _note_removed(sheet: MarkSheet, was: dict[str, Any]) -> str:
    # Under its own number, so that its writing can be taken back after this.
    Note.objects.create(sheet=sheet, pk=was["note"], **{k: was[k] for k in NOTE if k in was})
    return "the removal of a note"


def _stroke_drawn(sheet: MarkSheet, was: dict[str, Any]) -> str:
    DrawnStroke.objects.filter(sheet=sheet, pk=was["stroke"]).delete()
    return "a stroke"


def _stroke_wiped(sheet: MarkSheet, was: dict[str, Any]) -> str:
    told = {k: was[k] for k in ("first_frame", "last_frame", "tool", "points")}
    DrawnStroke.objects.create(sheet=sheet, pk=was["stroke"], **told)
    return "the wiping of a stroke"


def _proposal(sheet: MarkSheet, was: dict[str, Any]) -> str:
    if was["proposal"]:
        Proposal.objects.update_or_create(sheet=sheet, defaults=was["proposal"])
    else:
        Proposal.objects.filter(sheet=sheet).delete()
    return "what was proposed as another timing"


_BACK: dict[str, Callable[[MarkSheet, dict[str, Any]], str]] = {
    "verdict": _verdict,
    "points": _points,
    "role": _role,
    "note": _note_written,
    "note-removed": _note_removed,
    "proposal": _proposal,
    "stroke": _stroke_drawn,
    "stroke-wiped": _stroke_wiped,
}
