"""Proposing another timing: the take itself is never changed."""

from __future__ import annotations

import itertools
from typing import Any

from django.db import transaction

from motion import retiming
from motion.errors import BadChange
from motion.export import mended
from motion.retiming import Held, Timing
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.guard import told_json
from nettlecap.marking.decisions import undo
from nettlecap.marking.models import MarkSheet, Proposal
from nettlecap.marking.sheets import open_sheet
from nettlecap.takes.models import Take

LONGEST_NOTE = 300
SLOWEST, FASTEST = 1.0, 120.0


def own_timing(take: Take) -> Timing:
    """The take's own timing. Raises Conflict while it has none."""
    if not take.analysis.findings:
        raise Conflict("This take has not been looked at yet; it has no timing.")
    return retiming.of_exposures(take.analysis.findings["clip"]["exposures"])


def read(take: Take, text: str) -> Timing:
    """A timing of a take's drawings as a page sends it. Raises Refusal where it is none."""
    try:
        return retiming.read(
            told_json.read(text, list, words="This is no timing."), {h.drawing for h in own_timing(take)}
        )
    except BadChange as error:
        raise Refusal(str(error)) from None


def change(take: Take, text: str, kind: str, first: int, last: int, count: int) -> Timing:
    """A timing with one change made. Raises Refusal where it cannot be."""
    try:
        return retiming.change(read(take, text), kind, first, last, count)
    except BadChange as error:
        raise Refusal(str(error)) from None


def as_mended(take: Take, findings: list[dict[str, Any]]) -> Timing:
    """The take's timing once these of its findings are mended. Raises Conflict while it has none."""
    own_timing(take)
    shown = mended.plan(take.analysis.findings or {}, findings)
    runs = itertools.groupby(shown, key=lambda part: part.drawing)
    return tuple(Held(drawing, sum(part.frames for part in run)) for drawing, run in runs)


def propose(marker: Person, take: Take, text: str, fps: float, note: str) -> None:
    """Keep a timing as a proposal, with a word about it; it goes back with the marks."""
    timing, note = read(take, text), note.strip()
    if not SLOWEST <= fps <= FASTEST:
        raise Refusal(f"Give a rate from {SLOWEST:g} to {FASTEST:g} frames a second.")
    if len(note) > LONGEST_NOTE:
        raise Refusal(f"A word about a timing has at most {LONGEST_NOTE} characters; this one has {len(note)}.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        undo.keep(sheet, "proposal", {"proposal": _kept(sheet)})
        sheet.save()
        kept = {"timing": retiming.kept(timing), "fps": fps, "note": note}
        Proposal.objects.update_or_create(sheet=sheet, defaults=kept)


def withdraw(marker: Person, take: Take) -> None:
    """Propose no other timing."""
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        undo.keep(sheet, "proposal", {"proposal": _kept(sheet)})
        Proposal.objects.filter(sheet=sheet).delete()
        sheet.save()


def _kept(sheet: MarkSheet) -> dict[str, Any] | None:
    """The proposal as it stands, to be put back; None for none."""
    kept = Proposal.objects.filter(sheet=sheet).values("timing", "fps", "note").first()
    return dict(kept) if kept else None
