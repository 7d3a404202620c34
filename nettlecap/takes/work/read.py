"""Reading what came in: a take is made of it, or it is said why not."""

from __future__ import annotations

import logging
from collections.abc import Callable

from django.db import DatabaseError

from motion.errors import ReaderKilled
from nettlecap.errors import Refusal
from nettlecap.takes import store
from nettlecap.takes.file_check import check, listen, reading_of
from nettlecap.takes.forget import forget, forget_files
from nettlecap.takes.models import Analysis, Arrival, Take
from nettlecap.takes.numbering import NUMBERS, numbered
from nettlecap.takes.stopping import PutBack

logger = logging.getLogger(__name__)
WENT_WRONG = "Something went wrong on our side while this clip was read. Hand it in again, and tell your instructor."


class Overtaken(Exception):
    """What came in was put aside while it was read, or somebody else has read it already."""


Analysed = Callable[[Take, int], None]
"""Has a run of a take analysed later."""


def read(arrival_id: int, analyse: Analysed) -> str:
    """Read what came in and make a take of it that is analysed next, or refuse it; what became of it.

    Safe to run twice. Raises PutBack when the reader was ended by somebody else.
    """
    rows = Arrival.objects.filter(pk=arrival_id)
    arrival = rows.unread().select_related("brief", "student").first()
    if arrival is None:
        return "nothing to do"
    rows.update(state=Arrival.State.READING)
    try:
        take = _read(arrival, analyse)
    except ReaderKilled as killed:
        rows.update(state=Arrival.State.WAITING)
        raise PutBack from killed
    except Overtaken:
        return "nothing to do"
    except Refusal as refusal:
        refuse(arrival, str(refusal), type(refusal.__cause__ or refusal).__name__)
        return str(Arrival.State.REFUSED)
    except (DatabaseError, OSError):
        rows.update(state=Arrival.State.WAITING)
        raise
    except Exception:
        logger.exception("arrival %s could not be read", arrival_id)
        refuse(arrival, WENT_WRONG, "WentWrong")
        return str(Arrival.State.REFUSED)
    if take.draft:
        for earlier in Take.everything.drafts(take.student).filter(brief=take.brief).exclude(pk=take.pk):
            forget(earlier)
    return str(Arrival.State.TAKEN_IN)


def refuse(arrival: Arrival, why: str, reason: str = "") -> None:
    """Tell why it is no take, and forget its files; ``reason`` is what kind of refusal that is."""
    nothing = "" if "Nothing was handed in" in why else " Nothing was handed in."
    unread = Arrival.objects.filter(pk=arrival.pk).unread()
    if unread.update(state=Arrival.State.REFUSED, message=f"{why}{nothing}"[:600], reason=reason):
        with store.lock(arrival.file_path, arrival.sound_path):
            forget_files(arrival)


def _read(arrival: Arrival, analyse: Analysed) -> Take:
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
    return _recorded(take, arrival, analyse)


def _recorded(take: Take, arrival: Arrival, analyse: Analysed) -> Take:
    """Number and record a take with its job. Raises Overtaken where there is nothing left to make one of."""

    def record() -> None:
        there = Arrival.objects.select_for_update().filter(pk=arrival.pk).unread()
        if not there.exists():
            raise Overtaken
        NUMBERS[arrival.wanted_as](take, arrival)
        take.save()
        analysis = Analysis.objects.create(take=take)
        # In the same transaction: either both the take and its job are there, or neither.
        analyse(take, analysis.run)
        Arrival.objects.filter(pk=arrival.pk).update(state=Arrival.State.TAKEN_IN, take=take)

    numbered(take, record)
    return take
