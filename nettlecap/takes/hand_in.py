"""Handing in a take: check the file, keep it, record it, and have it looked at."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes import store
from nettlecap.takes.file_check import called, check, listen, reading_of, refuse_too_much
from nettlecap.takes.forget import forget_unless_used
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.store import Uploaded
from nettlecap.takes.terms import Terms


def hand_in(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in one file, or several pictures that make one clip.

    Raises NotAllowed, or Refusal with a sentence about what is wrong with the files or why no further take is taken;
    then nothing is left behind.
    """
    policy.require(policy.may_hand_in(student, brief), "hand in to this brief")
    Terms.of(student, brief).require_take()
    return take_in(student, brief, files, _number_take)


def try_out(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in a clip for its student to run the checks on; it is not handed in. Raises as ``hand_in``."""
    policy.require(policy.may_hand_in(student, brief), "run the checks of this brief")
    Terms.of(student, brief).require_check()
    return take_in(student, brief, files, _number_trial)


def make_final(student: Person, trial: Take) -> Take:
    """Hand in a clip on which the checks were tried. Raises NotAllowed, Conflict, or Refusal; nothing changes then."""
    own = trial.student_id == student.pk and policy.may_hand_in(student, trial.brief)
    policy.require(own, "hand in this clip")
    with transaction.atomic():
        take = Take.everything.get(pk=trial.pk)
        if not take.trial:
            raise Conflict("This clip is handed in already.")
        Terms.of(student, take.brief).require_take()
        take.trial, take.handed_in_at = False, timezone.now()
        _number_take(take)
        take.save(update_fields=["trial", "handed_in_at", "number"])
    return take


def take_in(
    student: Person,
    brief: Brief,
    files: list[Uploaded],
    numbered: Callable[[Take], None],
    *,
    may_be_sheet: bool = False,
) -> Take:
    """Keep a clip and record it as ``numbered`` says; ``may_be_sheet``: one picture is taken for a sheet of frames."""
    refuse_too_much(files)
    sounds, files = store.told_apart(files)
    if not files:
        raise Refusal("No clip was picked. Pick one clip, or all the pictures together.")
    if len(sounds) > 1:
        raise Refusal("There is more than one sound. Pick the one that belongs to the clip. Nothing was handed in.")
    name = called(files)
    with store.incoming(files) as path, store.incoming(sounds) as sound_path:
        asked = reading_of(path, name, brief, may_be_sheet=may_be_sheet)
        receipt = check(path, name, brief, asked)
        sound = listen(sound_path, sounds[0].name or "sound") if sounds else None
        take = Take(
            brief=brief,
            student=student,
            file_name=name,
            frames=receipt.frames,
            pictures=receipt.pictures,
            width=receipt.width,
            height=receipt.height,
            prepared=asked.to_json(),
        )
        try:
            take.file_path = store.keep(path)
            if sound:
                take.sound_name, take.sound_kind = Path(sounds[0].name or "sound").name[:150], sound.kind
                take.sound_path = store.keep(sound_path)
            return _record(take, numbered)
        except BaseException:
            for kept in (take.file_path, take.sound_path):
                forget_unless_used(kept)
            raise


def _record(take: Take, numbered: Callable[[Take], None]) -> Take:
    from nettlecap.takes.tasks import analyse_take

    with transaction.atomic():
        numbered(take)
        take.file_bytes = take.file.stat().st_size
        take.save()
        analysis = Analysis.objects.create(take=take)
        # In the same transaction: either both the take and its job are there, or neither.
        analyse_take.enqueue(take.pk, analysis.run)
    return take


def _number_take(take: Take) -> None:
    """The next number; asked again here, where nobody comes between, whether a further one is taken."""
    Terms.of(take.student, take.brief).require_take()
    own = Take.objects.filter(brief=take.brief, student=take.student)
    take.number = (own.aggregate(last=Max("number"))["last"] or 0) + 1


def _number_trial(take: Take) -> None:
    terms = Terms.of(take.student, take.brief)
    terms.require_check()
    take.trial, take.number, take.trial_number = True, 0, terms.checks_used + 1
