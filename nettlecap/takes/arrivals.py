"""What comes in: kept and acknowledged at once, and read by the worker, which makes a take of it or says why not.

Nothing that was handed in is opened while somebody waits for a page.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

from django.db import DatabaseError, IntegrityError, transaction
from django.db.models import Max

from motion.errors import ReaderKilled
from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Membership, Person
from nettlecap.errors import Conflict, Refusal
from nettlecap.takes import store
from nettlecap.takes.file_check import called, check, listen, reading_of, refuse_too_much
from nettlecap.takes.forget import forget, forget_unless_used
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.stopping import PutBack
from nettlecap.takes.store import Uploaded
from nettlecap.takes.terms import Terms

logger = logging.getLogger(__name__)
WENT_WRONG = "Something went wrong on our side while this clip was read. Hand it in again, and tell your instructor."
MOST_UNREAD = 4
"""So many clips of one person may wait to be read or looked at; the queue is everybody's."""
NUMBERING_TRIES = 8
READ_FIRST = 20
"""Reading comes before analysing: whoever handed in waits to hear that their file is whole."""


class Overtaken(Exception):
    """What came in was put aside while it was read, or somebody else has read it already."""


def may_arrive(student: Person, brief: Brief, wanted_as: str) -> None:
    """Raises NotAllowed, Refusal or Conflict where this person cannot hand anything in now; looked at before bodies."""
    what = "run the checks of this brief" if wanted_as == Arrival.As.CHECK else "hand in to this brief"
    policy.require(policy.may_hand_in(student, brief), what)
    terms = Terms.of(student, brief)
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


def unread_of(student: Person) -> int:
    """How many clips of a person wait, or are being read or looked at."""
    looked_at = Analysis.objects.unfinished().filter(take__student=student)
    return Arrival.objects.own(student).unread().count() + looked_at.count()


def arrive(student: Person, brief: Brief, files: list[Uploaded], wanted_as: str) -> Arrival:
    """Keep what came in and have it read. Raises NotAllowed, Refusal or Conflict; then nothing is left behind."""
    from nettlecap.takes.tasks import read_arrival

    def record(arrival: Arrival) -> None:
        # Asked again here, where nobody comes between.
        require_room(student)
        priority = READ_FIRST - unread_of(student)
        arrival.save()
        read_arrival.using(priority=priority).enqueue(arrival.pk)

    return _kept(student, brief, files, wanted_as, record)


def arrive_and_read(student: Person, brief: Brief, files: list[Uploaded], wanted_as: str) -> Take:
    """The same, read at once: for commands, where nobody else waits. Raises Refusal for what is no clip as well."""
    arrival = _kept(student, brief, files, wanted_as, Arrival.save)
    read(arrival.pk)
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
    with store.ready(files) as clip, store.ready(sounds) as sound, store.lock():
        try:
            if clip is not None:
                arrival.file_path, arrival.file_bytes = clip.keep(), clip.size
            if sound is not None:
                arrival.sound_name = Path(sounds[0].name or "sound").name[:150]
                arrival.sound_path = sound.keep()
            with transaction.atomic():
                record(arrival)
        except BaseException:
            _forget_files(arrival)
            raise
    return arrival


def read(arrival_id: int) -> str:
    """Read what came in and make a take of it, or refuse it: the worker's part; what became of it.

    Safe to run twice. Raises PutBack when the reader was ended by somebody else.
    """
    rows = Arrival.objects.filter(pk=arrival_id)
    arrival = rows.unread().select_related("brief", "student").first()
    if arrival is None:
        return "nothing to do"
    rows.update(state=Arrival.State.READING)
    try:
        take = _read(arrival)
    except ReaderKilled as killed:
        rows.update(state=Arrival.State.WAITING)
        raise PutBack from killed
    except Overtaken:
        return "nothing to do"
    except Refusal as refusal:
        refuse(arrival, str(refusal))
        return str(Arrival.State.REFUSED)
    except (DatabaseError, OSError):
        rows.update(state=Arrival.State.WAITING)
        raise
    except Exception:
        logger.exception("arrival %s could not be read", arrival_id)
        refuse(arrival, WENT_WRONG)
        return str(Arrival.State.REFUSED)
    if take.draft:
        for earlier in Take.everything.drafts(take.student).filter(brief=take.brief).exclude(pk=take.pk):
            forget(earlier)
    return str(Arrival.State.TAKEN_IN)


def refuse(arrival: Arrival, why: str) -> None:
    """Tell why it is no take, and forget its files."""
    nothing = "" if "Nothing was handed in" in why else " Nothing was handed in."
    unread = Arrival.objects.filter(pk=arrival.pk).unread()
    if unread.update(state=Arrival.State.REFUSED, message=f"{why}{nothing}"[:600]):
        with store.lock():
            _forget_files(arrival)


def put_aside(student: Person, arrival: Arrival) -> None:
    """A student has read why it was refused, or does not want it any more."""
    policy.require(arrival.student_id == student.pk, "put this clip aside")
    if arrival.state == Arrival.State.READING:
        raise Conflict("This clip is just being read. Wait a moment.")
    arrival.delete()
    with store.lock():
        _forget_files(arrival)


def _forget_files(arrival: Arrival) -> None:
    for kept in (arrival.file_path, arrival.sound_path):
        forget_unless_used(kept)


def _read(arrival: Arrival) -> Take:
    brief, name = arrival.brief, arrival.file_name
    asked = reading_of(arrival.file, name, brief, may_be_sheet=arrival.wanted_as == Arrival.As.DRAFT)
    receipt = check(arrival.file, name, brief, asked)
    sound = listen(arrival.sound, arrival.sound_name) if arrival.sound_path else None
    take = Take(
        brief=brief,
        student=arrival.student,
        handed_in_at=arrival.came_at,
        file_name=name,
        file_path=arrival.file_path,
        file_bytes=arrival.file_bytes,
        frames=receipt.frames,
        pictures=receipt.pictures,
        width=receipt.width,
        height=receipt.height,
        prepared=asked.to_json(),
        sound_name=arrival.sound_name,
        sound_path=arrival.sound_path,
        sound_kind=sound.kind if sound else "",
    )
    return _recorded(take, arrival)


def _recorded(take: Take, arrival: Arrival) -> Take:
    """Number and record a take with its job. Raises Overtaken where there is nothing left to make one of."""
    from nettlecap.takes.tasks import analyse_take

    def record() -> None:
        there = Arrival.objects.select_for_update().filter(pk=arrival.pk).unread()
        if not there.exists():
            raise Overtaken
        NUMBERS[arrival.wanted_as](take, arrival)
        take.save()
        analysis = Analysis.objects.create(take=take)
        # In the same transaction: either both the take and its job are there, or neither.
        analyse_take.using(priority=-min(20, unread_of(take.student))).enqueue(take.pk, analysis.run)
        Arrival.objects.filter(pk=arrival.pk).update(state=Arrival.State.TAKEN_IN, take=take)

    numbered(take, record)
    return take


def numbered(take: Take, record: Callable[[], None]) -> None:
    """Give a take its number and record it, whoever else does the same: two never get one number.

    The student's membership is locked where the database locks rows, and where it does not, or there is none, the
    number that somebody else was faster to take is passed over.
    """
    for attempt in range(NUMBERING_TRIES):
        try:
            with transaction.atomic():
                list(Membership.objects.select_for_update().filter(course=take.brief.course_id, person=take.student_id))
                record()
        except IntegrityError:
            if attempt == NUMBERING_TRIES - 1:
                raise
        else:
            return


def number_take(take: Take, arrival: Arrival | None = None) -> None:
    """The next number; asked again here, where nobody comes between, whether a further one is taken."""
    Terms.of(take.student, take.brief, at=arrival.came_at if arrival else None).require_take()
    own = Take.objects.filter(brief=take.brief, student=take.student)
    take.number = (own.aggregate(last=Max("number"))["last"] or 0) + 1


def _number_trial(take: Take, arrival: Arrival) -> None:
    terms = Terms.of(take.student, take.brief, at=arrival.came_at)
    terms.require_check()
    own = Take.everything.filter(brief=take.brief, student=take.student)
    last = own.aggregate(last=Max("trial_number"))["last"] or 0
    take.trial, take.number, take.trial_number = True, 0, last + 1


def _number_draft(take: Take, arrival: Arrival) -> None:
    take.trial, take.number, take.trial_number = True, 0, None


NUMBERS: dict[str, Callable[[Take, Arrival], None]] = {
    Arrival.As.TAKE: number_take,
    Arrival.As.CHECK: _number_trial,
    Arrival.As.DRAFT: _number_draft,
}
