"""Handing in a take: check the file, keep it, record it, and have it looked at."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import Max, Q
from django.utils import timezone

from motion import jobs, preparation, sandbox
from motion.errors import MotionError, OnePicture
from motion.formats.limits import DEFAULT, MEGABYTE
from motion.formats.sound import Sound
from motion.preparation import Preparation
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes import look_at, store
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.store import Uploaded
from nettlecap.takes.terms import Terms

CHECK_SECONDS = 120.0


def hand_in(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in one file, or several pictures that make one clip.

    Raises NotAllowed, or Refusal with a sentence about what is wrong with the files or why no further take is taken;
    then nothing is left behind.
    """
    policy.require(policy.may_hand_in(student, brief), "hand in to this brief")
    Terms.of(student, brief).require_take()
    return _take_in(student, brief, files, _number_take)


def try_out(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in a clip for its student to run the checks on; it is not handed in. Raises as ``hand_in``."""
    policy.require(policy.may_hand_in(student, brief), "run the checks of this brief")
    Terms.of(student, brief).require_check()
    return _take_in(student, brief, files, _number_trial)


def look_through(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in a clip that its student looks through and puts right first; it is not handed in. Raises as ``hand_in``.

    A single picture is taken for a sheet of frames, with a guess at its grid. An earlier draft is replaced.
    """
    policy.require(policy.may_hand_in(student, brief), "hand in to this brief")
    Terms.of(student, brief).require_take()
    draft = _take_in(student, brief, files, _number_draft, may_be_sheet=True)
    for earlier in Take.everything.drafts(student).filter(brief=brief).exclude(pk=draft.pk):
        forget(earlier)
    return draft


def put_right(student: Person, draft: Take, change: dict[str, Any]) -> None:
    """Change how a draft is read: keys of a preparation, None to take one back. Raises NotAllowed, Conflict, Refusal.

    What no longer fits (an end that was trimmed, after the order was changed) is refused with a sentence.
    """
    policy.require(draft.student_id == student.pk, "change this clip")
    if not draft.draft:
        raise Conflict(
            "Only a clip that is looked through before it is handed in can be changed; hand in another take."
        )
    if change.get("order"):
        change = {**change, "order": _reordered(draft, change["order"])}
    prepared = {k: v for k, v in {**draft.prepared, **change}.items() if v is not None}
    try:
        asked = preparation.from_json(prepared)
    except MotionError as error:
        raise Refusal(str(error)) from error
    receipt = _check(draft.file, draft.file_name, draft.brief, asked)
    with transaction.atomic():
        draft.prepared, draft.placed = asked.to_json(), {}
        draft.frames, draft.pictures, draft.width, draft.height = (
            receipt.frames,
            receipt.pictures,
            receipt.width,
            receipt.height,
        )
        draft.save(update_fields=["prepared", "placed", "frames", "pictures", "width", "height"])
        look_at.start_again(draft)


def _reordered(draft: Take, order: list[int]) -> list[int]:
    """An order of the pictures as they are played now, told as one of the pictures in the file."""
    if "first" in draft.prepared or "last" in draft.prepared:
        raise Refusal("Take the trimming back first: the order is that of all pictures.")
    now = draft.prepared.get("order") or list(range(1, draft.pictures + 1))
    if sorted(order) != list(range(1, len(now) + 1)):
        raise Refusal("The order must name every picture once. Load the page again.")
    return [now[n - 1] for n in order]


def forget(draft: Take) -> None:
    """Remove a draft, and its files where no other row points at them."""
    drawings = draft.analysis.drawings_of(0).parent
    paths = [p for p in (draft.file_path, draft.sound_path) if p]
    draft.delete()
    shutil.rmtree(drawings, ignore_errors=True)
    for path in paths:
        _forget_unless_used(path)


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


def _take_in(
    student: Person,
    brief: Brief,
    files: list[Uploaded],
    numbered: Callable[[Take], None],
    *,
    may_be_sheet: bool = False,
) -> Take:
    _refuse_too_much(files)
    sounds, files = store.told_apart(files)
    if not files:
        raise Refusal("No clip was picked. Pick one clip, or all the pictures together.")
    if len(sounds) > 1:
        raise Refusal("There is more than one sound. Pick the one that belongs to the clip. Nothing was handed in.")
    name = _called(files)
    with store.incoming(files) as path, store.incoming(sounds) as sound_path:
        asked = _asked(path, name, brief, may_be_sheet=may_be_sheet)
        receipt = _check(path, name, brief, asked)
        sound = _listen(sound_path, sounds[0].name or "sound") if sounds else None
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
                _forget_unless_used(kept)
            raise


def _forget_unless_used(kept: str) -> None:
    used = Take.everything.filter(Q(file_path=kept) | Q(sound_path=kept))
    if kept and not used.exists():
        store.forget(kept)


def _asked(path: Path, name: str, brief: Brief, *, may_be_sheet: bool) -> Preparation:
    """How the file is to be read: as it is, or divided by a guessed grid where it is one picture."""
    if not may_be_sheet:
        return preparation.NONE
    try:
        sandbox.run(jobs.open_only, path, name, brief.core.fps, seconds=CHECK_SECONDS)
    except OnePicture:
        try:
            return Preparation(grid=sandbox.run(jobs.guess_grid, path, name, seconds=CHECK_SECONDS))
        except MotionError as error:
            raise Refusal(f"{error} Nothing was handed in.") from error
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return preparation.NONE


def _listen(path: Path, name: str) -> Sound:
    try:
        heard: Sound = sandbox.run(jobs.listen, path, name, seconds=CHECK_SECONDS)
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return heard


def _refuse_too_much(files: list[Uploaded]) -> None:
    total = sum(getattr(f, "size", 0) or 0 for f in files)
    if total > DEFAULT.file_bytes:
        raise Refusal(
            f"The files have {total / MEGABYTE:.0f} MB together; at most {DEFAULT.file_bytes // MEGABYTE} MB are "
            "taken. Export smaller pictures."
        )


def _called(files: list[Uploaded]) -> str:
    first = Path(files[0].name or "clip").name[:150]
    return first if len(files) == 1 else f"{first} and {len(files) - 1} more"


def _check(path: Path, name: str, brief: Brief, asked: Preparation = preparation.NONE) -> jobs.Receipt:
    try:
        receipt: jobs.Receipt = sandbox.run(jobs.check, path, name, brief.core.fps, asked, seconds=CHECK_SECONDS)
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return receipt


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


def _number_draft(take: Take) -> None:
    take.trial, take.number, take.trial_number = True, 0, None
