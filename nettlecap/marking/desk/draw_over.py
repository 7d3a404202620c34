"""Drawing over a take: strokes on a frame or a range of frames, kept as they are drawn."""

from __future__ import annotations

from django.db import transaction

from motion import strokes
from motion.errors import BadStroke
from motion.strokes import Over
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.guard import told_json
from nettlecap.marking.decisions import undo
from nettlecap.marking.desk.ink import overs
from nettlecap.marking.models import DrawnStroke
from nettlecap.marking.sheets import open_sheet, sheet_shown_to
from nettlecap.takes.models import Take

MOST = 400
"""So many strokes a take."""


def draw(marker: Person, take: Take, *, first: int, last: int, tool: str, points: str) -> DrawnStroke:
    """Draw a stroke (its points as JSON) over frames. Raises Refusal where it is none."""
    if not 1 <= first <= last <= take.frames:
        raise Refusal(f"Draw on frames from 1 to {take.frames}, the first one first.")
    try:
        told = told_json.read(points, list, words="This stroke could not be read.")
        stroke = strokes.read(tool, told, take.width, take.height)
    except BadStroke as error:
        raise Refusal(str(error)) from None
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        if sheet.strokes.count() >= MOST:
            raise Conflict(f"There are {MOST} strokes on this clip; wipe some before you draw more.")
        drawn = DrawnStroke.objects.create(
            sheet=sheet, first_frame=first, last_frame=last, tool=stroke.tool, points=stroke.kept()
        )
        undo.keep(sheet, "stroke", {"stroke": drawn.pk})
        sheet.save()
    return drawn


def wipe(marker: Person, take: Take, stroke_id: int) -> None:
    """Wipe a stroke away; one that is gone already stays gone."""
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        wiped = DrawnStroke.objects.filter(sheet=sheet, pk=stroke_id).first()
        if wiped is None:
            return
        undo.keep(sheet, "stroke-wiped", {"stroke": wiped.pk, **wiped.told})
        wiped.delete()
        sheet.save()


def over(person: Person, take: Take) -> tuple[Over, ...]:
    """What was drawn over a take, as far as this person may see it: its markers, and its student once returned."""
    sheet = sheet_shown_to(person, take)
    return overs(sheet) if sheet is not None else ()
