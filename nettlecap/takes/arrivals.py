"""What comes in: kept and acknowledged at once, and read by the worker (``work/read.py``), later.

Nothing that was handed in is opened while somebody waits for a page.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from django.db import transaction

from nettlecap.classroom import pace, policy
from nettlecap.classroom.models import Brief, Course, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes import store
from nettlecap.takes.file_check import called, refuse_too_much
from nettlecap.takes.forget import forget_files
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.quotas import CHECKS, UPLOADS, require_quota
from nettlecap.takes.store import Uploaded
from nettlecap.takes.tasks import read_arrival, read_later
from nettlecap.takes.terms import TermsNow
from nettlecap.takes.waiting import unread_of

MOST_UNREAD = 4
"""So many clips of one person may wait to be read or looked at; the queue is everybody's."""


PACES: dict[str, pace.Pace] = {Arrival.As.CHECK: CHECKS}


def may_arrive(student: Person, brief: Brief, wanted_as: str) -> None:
    """Raises NotAllowed, Refusal or Conflict where this person cannot hand anything in now; looked at before bodies."""
    what = "run the checks of this brief" if wanted_as == Arrival.As.CHECK else "hand in to this brief"
    policy.require(policy.may_hand_in(student, brief), what)
    pace.require(PACES.get(wanted_as, UPLOADS), student.pk)
    terms = TermsNow.of(student, brief)
    if wanted_as == Arrival.As.CHECK:
        terms.require_check()
    else:
        terms.require_take()


def require_room(student: Person) -> None:
    """Raises Conflict where enough of this person's clips wait already."""
    if unread_of(student) >= MOST_UNREAD:
        raise Conflict(
            f"{MOST_UNREAD} of your clips are still being read or looked at. Wait until one of them is through; "
            "nothing was handed in."
        )


def arrive(student: Person, brief: Brief, files: list[Uploaded], wanted_as: str) -> Arrival:
    """Keep what came in and have it read. Raises NotAllowed, Refusal or Conflict; then nothing is left behind."""

    def record(arrival: Arrival) -> None:
        # Asked again here, where nobody comes between: one arrival of a person at a time.
        course = Course.objects.select_for_update(no_key=True).get(pk=brief.course_id)
        Person.objects.select_for_update(no_key=True).get(pk=student.pk)
        pace.spend(PACES.get(wanted_as, UPLOADS), student.pk)
        require_room(student)
        require_quota(student, course, arrival.file_bytes)
        arrival.save()
        read_later(arrival)

    return _kept(student, brief, files, wanted_as, record)


def arrive_and_read(student: Person, brief: Brief, files: list[Uploaded], wanted_as: str) -> Take:
    """The same, read at once: for commands, where nobody else waits. Raises Refusal for what is no clip as well."""
    arrival = _kept(student, brief, files, wanted_as, Arrival.save)
    read_arrival.call(arrival.pk)
    arrival.refresh_from_db()
    if arrival.take is None:
        message = arrival.message
        arrival.delete()
        raise Refusal(message)
    return arrival.take


def _kept(
    student: Person, brief: Brief, files: list[Uploaded], wanted_as: str, record: Callable[[Arrival], None]
) -> Arrival:
    """Keep the files and record them, both or neither."""
    may_arrive(student, brief, wanted_as)
    refuse_too_much(files)
    sounds, files = store.told_apart(files)
    if not files:
        raise Refusal("No clip was picked. Pick one clip, or all the pictures together.")
    if len(sounds) > 1:
        raise Refusal("There is more than one sound. Pick the one that belongs to the clip. Nothing was handed in.")
    arrival = Arrival(brief=brief, student=student, wanted_as=wanted_as, file_name=called(files))
    with store.ready(files) as clip, store.ready(sounds) as sound, store.lock(*places(clip, sound)):
        try:
            if clip is not None:
                arrival.file_path, arrival.file_bytes = clip.keep(), clip.size
            if sound is not None:
                arrival.sound_name = Path(sounds[0].name or "sound").name[:150]
                arrival.sound_path = sound.keep()
            with transaction.atomic():
                record(arrival)
        except BaseException:
            forget_files(arrival)
            raise
    return arrival


def places(*files: store.Ready | None) -> list[str]:
    """Where these will be kept."""
    return [file.place for file in files if file is not None]


def put_aside(student: Person, arrival: Arrival) -> None:
    """A student has read why it was refused, or does not want it any more."""
    policy.require(arrival.student_id == student.pk, "put this clip aside")
    if arrival.state == Arrival.State.READING:
        raise Conflict("This clip is just being read. Wait a moment.")
    arrival.delete()
    with store.lock(arrival.file_path, arrival.sound_path):
        forget_files(arrival)
