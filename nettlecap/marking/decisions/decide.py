"""The marker's actions on a take. Each checks permission, changes, and is saved at once."""

from __future__ import annotations

from django.db import transaction
from django.db.models import F
from django.urls import reverse
from django.utils import timezone

from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES, faults
from nettlecap.classroom import letters, policy
from nettlecap.classroom.models import Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.marking.comparing import comparisons
from nettlecap.marking.decisions import phrases, undo
from nettlecap.marking.decisions.history import record
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Note
from nettlecap.marking.sheets import in_open_comparison, open_sheet, require_share, sheet_for
from nettlecap.takes.models import Take

LONGEST_NOTE = 600
LONGEST_REMARK = 4000
LONGEST_REASON = 300
OPEN, PROPOSED = "open", "as proposed"
ROLES = ("key", "breakdown", "plain")
MOST_TAPS = 200
MOST_SECONDS = 900
"""More than this passes between two decisions only where somebody went away."""


def say(marker: Person, take: Take, key: str, verdict: str) -> None:
    """Agree a finding, dismiss it, or (with an empty verdict) leave it open again."""
    if verdict and verdict not in Decision.Verdict.values:
        raise Refusal("A finding can be agreed, dismissed or left open.")
    if key not in {finding_key(f) for f in (take.analysis.findings or {}).get("findings", ())}:
        raise Conflict("This finding is not there any more; the clip has been looked at again. Reload the desk.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        before = Decision.objects.filter(sheet=sheet, key=key).first()
        undo.keep(sheet, "verdict", {"key": key, "verdict": before.verdict if before else ""})
        record(sheet, marker, f"finding {key}", before.verdict if before else OPEN, verdict or OPEN)
        if verdict:
            Decision.objects.update_or_create(sheet=sheet, key=key, defaults={"verdict": verdict})
        else:
            Decision.objects.filter(sheet=sheet, key=key).delete()
        sheet.save()


def note(marker: Person, take: Take, *, first: int, last: int, principle: str, text: str, code: str = "") -> Note:
    """Write a note on a range of frames; ``code`` is the fault at hand, for which its words are remembered."""
    text = text.strip()
    if not text:
        raise Refusal("Write something first; nothing was saved.")
    if len(text) > LONGEST_NOTE:
        raise Refusal(f"A note has at most {LONGEST_NOTE} characters; this one has {len(text)}.")
    if principle and principle not in PRINCIPLES:
        raise Refusal("Choose one of the five principles, or none.")
    if not 1 <= first <= last <= take.frames:
        raise Refusal(f"Give frames from 1 to {take.frames}, the first one first.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        written = Note.objects.create(sheet=sheet, first_frame=first, last_frame=last, principle=principle, text=text)
        undo.keep(sheet, "note", {"note": written.pk})
        record(sheet, marker, f"note on frames {first} to {last}", "", text)
        sheet.save()
        known = code if code in faults(take.brief.core.exercise) else ""
        phrases.learn(marker, principle=principle, code=known, first=first, last=last, text=text)
    return written


def take_back_note(marker: Person, take: Take, note_id: int) -> None:
    """Remove a note."""
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        removed = Note.objects.filter(sheet=sheet, pk=note_id).first()
        if removed is not None:
            was = {k: getattr(removed, k) for k in undo.NOTE}
            undo.keep(sheet, "note-removed", {"note": removed.pk, **was})
            record(sheet, marker, f"note on frames {removed.first_frame} to {removed.last_frame}", removed.text, "")
            removed.delete()
        sheet.save()


def set_points(marker: Person, take: Take, principle: str, points: float | None) -> None:
    """Set a principle's points by hand; None goes back to what follows from the agreed findings."""
    if principle not in PRINCIPLES:
        raise Refusal("Choose one of the five principles.")
    most = float(take.brief.points.get(principle, 0.0))
    if points is not None and not 0 <= points <= most:
        raise Refusal(f"Give points from 0 to {most:g}.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        was = sheet.by_hand.get(principle)
        undo.keep(sheet, "points", {"principle": principle, "points": was})
        now = PROPOSED if points is None else round(points * 2) / 2
        record(sheet, marker, f"points for {PRINCIPLE_NAMES[principle]}", PROPOSED if was is None else was, now)
        sheet.by_hand = {k: v for k, v in sheet.by_hand.items() if k != principle}
        if points is not None:
            sheet.by_hand[principle] = round(points * 2) / 2
        sheet.save()


def call(marker: Person, take: Take, drawing: int, role: str) -> None:
    """Call a drawing a key, a breakdown or an in-between (plain); with an empty role as it was proposed."""
    if role and role not in ROLES:
        raise Refusal("A drawing is a key, a breakdown or an in-between.")
    if drawing not in {e["drawing"] for e in (take.analysis.findings or {}).get("clip", {}).get("exposures", ())}:
        raise Refusal("This clip has no such drawing.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        name = str(drawing)
        undo.keep(sheet, "role", {"drawing": name, "role": sheet.roles.get(name, "")})
        sheet.roles = {k: v for k, v in sheet.roles.items() if k != name} | ({name: role} if role else {})
        sheet.save()


def first_look(marker: Person, take: Take, taps: list[int]) -> None:
    """Keep the frames at which something felt off at the first look; what was found is shown from then on."""
    if len(taps) > MOST_TAPS or any(not 1 <= t <= take.frames for t in taps):
        raise Refusal(f"Taps are frames from 1 to {take.frames}, at most {MOST_TAPS} of them.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        sheet.taps = sorted(set(taps))
        sheet.save()


def take_back(marker: Person, take: Take) -> str:
    """Take back the latest decision about a take; what that was, in words."""
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        told = undo.take_back(sheet)
        record(sheet, marker, f"took back {told}")
        sheet.save()
    return told


def set_remark(marker: Person, take: Take, remark: str) -> None:
    """Write the closing remark."""
    if len(remark) > LONGEST_REMARK:
        raise Refusal(f"A remark has at most {LONGEST_REMARK} characters; this one has {len(remark)}.")
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        sheet.remark = remark
        sheet.save()


def spend(marker: Person, take: Take, seconds: int) -> None:
    """Add to the time that was spent on a take; nobody's marks are changed by that."""
    seconds = min(max(0, seconds), MOST_SECONDS)
    sheet = sheet_for(marker, take)
    if sheet is not None:
        MarkSheet.objects.filter(pk=sheet.pk).update(seconds=F("seconds") + seconds)


def refuse_unseen(marker: Person, take: Take, seen: str) -> None:
    """Raise Conflict where somebody else changed the marks since this marker saw them as they were then (``seen``)."""
    sheet = sheet_for(marker, take)
    if sheet is None or sheet.marked_by is None or sheet.marked_by == marker or sheet.seen_as == seen:
        return
    raise Conflict(
        f"{sheet.marked_by.name} has changed these marks while you had them open. Nothing of yours was written over "
        "theirs; load the page again to see how they stand."
    )


def return_marks(marker: Person, take: Take) -> None:
    """Return the marks: from now on the student sees them. Marks that are given blind are laid down instead."""
    with transaction.atomic():
        sheet = open_sheet(marker, take)
        if take.analysis.unfinished:
            raise Conflict("This take is still being looked at. Return the marks when that is done.")
        if sheet.blind is not None:
            comparisons.lay_down(marker, sheet)
            return
        if in_open_comparison(take):
            raise Conflict(
                "Two markers mark this clip blind at the moment, and could read what is returned. Return it when both "
                "are done."
            )
        sheet.returned_at = timezone.now()
        sheet.reopened_because = ""
        sheet.save()
        record(sheet, marker, "returned the marks")
        letters.write([take.student], "returned", {"take": take, "link": reverse("returned", args=[take.pk])})


def reopen(marker: Person, take: Take, reason: str) -> None:
    """Take returned marks back to go on marking; the student is told why, and sees them once they come again."""
    policy.require(policy.may_mark(marker, take.brief.course_id), "mark in this course")
    require_share(marker, take)
    reason = " ".join(reason.split())
    if not reason:
        raise Refusal("Say why the marks are taken back; the student is told.")
    if len(reason) > LONGEST_REASON:
        raise Refusal(f"A reason has at most {LONGEST_REASON} characters; this one has {len(reason)}.")
    with transaction.atomic():
        sheet = MarkSheet.objects.select_for_update().filter(take=take).first()
        if sheet is None or not sheet.returned:
            raise Conflict("These marks are not returned; you can go on marking.")
        sheet.returned_at, sheet.reopened_because, sheet.marked_by = None, reason, marker
        sheet.save()
        record(sheet, marker, "reopened the marks", "", reason)
        letters.write([take.student], "reopened", {"take": take, "reason": reason})
