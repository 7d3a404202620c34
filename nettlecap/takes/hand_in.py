"""Handing in a take: check the file, keep it, record it, and have it looked at."""

from __future__ import annotations

from pathlib import Path

from django.db import transaction
from django.db.models import Max

from motion import jobs, sandbox
from motion.errors import MotionError
from motion.formats.limits import DEFAULT, MEGABYTE
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Refusal
from nettlecap.takes import store
from nettlecap.takes.models import Analysis, Take
from nettlecap.takes.store import Uploaded

CHECK_SECONDS = 120.0


def hand_in(student: Person, brief: Brief, files: list[Uploaded]) -> Take:
    """Take in one file, or several pictures that make one clip.

    Raises NotAllowed, or Refusal with a sentence about what is wrong with the files; then nothing is left behind.
    """
    policy.require(policy.may_hand_in(student, brief), "hand in to this brief")
    if not files:
        raise Refusal("No file was picked. Pick a zip, a GIF, or all the pictures together.")
    _refuse_too_much(files)
    name = _called(files)
    with store.incoming(files) as path:
        receipt = _check(path, name, brief)
        kept = store.keep(path)
        try:
            return _record(student, brief, name, kept, receipt)
        except BaseException:
            if not Take.objects.filter(file_path=kept).exists():
                store.forget(kept)
            raise


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


def _check(path: Path, name: str, brief: Brief) -> jobs.Receipt:
    try:
        receipt: jobs.Receipt = sandbox.run(jobs.check, path, name, brief.core.fps, seconds=CHECK_SECONDS)
    except MotionError as error:
        raise Refusal(f"{error} Nothing was handed in.") from error
    return receipt


def _record(student: Person, brief: Brief, name: str, kept: str, receipt: jobs.Receipt) -> Take:
    from nettlecap.takes.tasks import analyse_take

    with transaction.atomic():
        last = Take.objects.filter(brief=brief, student=student).aggregate(last=Max("number"))["last"] or 0
        take = Take(
            brief=brief,
            student=student,
            number=last + 1,
            file_name=name,
            file_path=kept,
            frames=receipt.frames,
            pictures=receipt.pictures,
            width=receipt.width,
            height=receipt.height,
        )
        take.file_bytes = take.file.stat().st_size
        take.save()
        analysis = Analysis.objects.create(take=take)
        # In the same transaction: either both the take and its job are there, or neither.
        analyse_take.enqueue(take.pk, analysis.run)
    return take
