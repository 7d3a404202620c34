"""What a student does with returned marks: tick off what is put right, and answer a note once."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, NotAllowed, Refusal
from nettlecap.marking.desk.laid_out import Desk, lay_out
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Note, Reading
from nettlecap.takes.models import Take

LONGEST_ANSWER = 300


def tick(student: Person, take: Take, key: str, done: bool) -> None:
    """Tick something off, or take the tick away: an agreed finding by its key, a note as ``note:`` and its number."""
    sheet = _own_sheet(student, take)
    if key not in keys_of(lay_out(take, agreed_only=True)):
        raise Conflict("This is not in your marks any more. Load the page again.")
    with transaction.atomic():
        reading, _ = Reading.objects.select_for_update().get_or_create(sheet=sheet)
        reading.ticked = sorted({*reading.ticked, key} if done else {*reading.ticked} - {key})
        reading.save()


def answer(student: Person, take: Take, note_id: int, text: str) -> None:
    """Answer a note, once and in a sentence."""
    sheet, text = _own_sheet(student, take), " ".join(text.split())
    if not text:
        raise Refusal("Write your answer first; nothing was saved.")
    if len(text) > LONGEST_ANSWER:
        raise Refusal(f"An answer has at most {LONGEST_ANSWER} characters; this one has {len(text)}.")
    with transaction.atomic():
        written = Note.objects.filter(sheet=sheet, pk=note_id, answer="").update(
            answer=text, answered_at=timezone.now()
        )
    if not written:
        raise Conflict("This note was answered already, or is not there any more.")


def keys_of(marks: Desk) -> set[str]:
    """Everything in returned marks that can be ticked off."""
    notes = [*marks.general_notes, *(n for s in marks.sections for n in s.notes)]
    return {f.key for f in marks.agreed} | {n.tick_key for n in notes}


def things_of(take: Take, sheet: MarkSheet) -> tuple[set[str], set[str]]:
    """The same of a returned sheet that is not laid out, for a list of several; and of it what was ticked off."""
    agreed = {d.key for d in sheet.decisions.all() if d.verdict == Decision.Verdict.AGREED}
    things = agreed & {finding_key(f) for f in take.analysis.faults} | {n.tick_key for n in sheet.notes.all()}
    reading = getattr(sheet, "reading", None)
    return things, things & set(reading.ticked) if reading else set()


def ticked(marks: Desk) -> set[str]:
    """What the student ticked off in these marks."""
    reading = getattr(marks.sheet, "reading", None)
    return set(reading.ticked) & keys_of(marks) if reading else set()


def to_fix(student: Person, brief: Brief) -> dict[str, Any] | None:
    """What the marks returned last for a brief say is to be fixed, and what is ticked off; None without any."""
    takes = Take.objects.own(student).filter(brief=brief, sheet__returned_at__isnull=False)
    take = takes.select_related("brief", "analysis").order_by("-number").first()
    if take is None:
        return None
    marks = lay_out(take, agreed_only=True)
    return {"take": take, "desk": marks, "ticked": ticked(marks)} if keys_of(marks) else None


def answers(person: Person) -> list[Note]:
    """The latest answers to one's own notes, of the last month."""
    month = timezone.now() - timedelta(days=30)
    notes = Note.objects.filter(sheet__marked_by=person, answered_at__gte=month).exclude(answer="")
    return list(notes.select_related("sheet__take__student", "sheet__take__brief").order_by("-answered_at")[:6])


def _own_sheet(student: Person, take: Take) -> MarkSheet:
    if take.student_id != student.pk:
        raise NotAllowed("You may not tick off or answer somebody else's marks.")
    sheet = MarkSheet.objects.filter(take=take).first()
    if sheet is None or not sheet.returned:
        raise Conflict("These marks are not returned at the moment.")
    return sheet
