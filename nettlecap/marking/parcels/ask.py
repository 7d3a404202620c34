"""Files of many takes, made by the worker: the feedback sheets of a class as one zip, and a reel of chosen clips."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom import policy
from nettlecap.classroom.models import Brief, Person
from nettlecap.errors import Refusal
from nettlecap.files import shelf
from nettlecap.marking.models import PARCELS, Parcel
from nettlecap.marking.parcels.packing import returned, shown
from nettlecap.marking.tasks import make_parcel

KEPT_FOR = timedelta(days=1)
MOST_CLIPS, MOST_TIMES = 40, 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """A parcel on its way: ``state`` is waiting, working, ready, or failed."""

    parcel: Parcel
    state: str

    @property
    def unfinished(self) -> bool:
        return self.state in ("waiting", "working")


def ask_feedback(person: Person, brief: Brief) -> Parcel:
    """Have the feedback sheets of a brief made: the marks of everybody's last take, where they are returned."""
    policy.require(policy.may_mark(person, brief.course_id), "have the feedback of this class")
    count = returned(brief).count()
    if not count:
        raise Refusal("No marks of this brief are returned yet; their sheets can be had after that.")
    return _ask(person, brief, Parcel.Kind.FEEDBACK, {}, count)


def ask_reel(person: Person, brief: Brief, *, takes: list[int], kind: str, names: bool, times: int) -> Parcel:
    """Have a reel made of chosen clips, in this order, each so many times; with names if wished."""
    policy.require(policy.may_mark(person, brief.course_id), "make a reel of this class")
    if kind not in (Parcel.Kind.REEL_MP4, Parcel.Kind.REEL_WEBM):
        raise Refusal("A reel is an MP4 or a WebM.")
    if not 1 <= times <= MOST_TIMES:
        raise Refusal(f"Each clip is played from once to {MOST_TIMES} times.")
    there = set(shown(brief).filter(pk__in=takes).values_list("pk", flat=True))
    chosen = [pk for pk in dict.fromkeys(takes) if pk in there]
    if not 1 <= len(chosen) <= MOST_CLIPS:
        raise Refusal(f"Choose from 1 to {MOST_CLIPS} clips for the reel.")
    return _ask(person, brief, kind, {"takes": chosen, "names": names, "times": times}, len(chosen))


def _ask(person: Person, brief: Brief, kind: str, asked: dict[str, object], total: int) -> Parcel:
    clear_old()
    with transaction.atomic():
        parcel = Parcel.objects.create(brief=brief, made_for=person, kind=kind, asked=asked, total=total)
        parcel.job = str(make_parcel.enqueue(parcel.pk).id)
        parcel.save(update_fields=["job"])
    return parcel


def under_way(person: Person, brief: Brief) -> list[Way]:
    """What this person had made of a brief lately, and how far it is."""
    parcels = list(Parcel.objects.filter(brief=brief, made_for=person, made_at__gte=timezone.now() - KEPT_FOR))
    jobs = DBTaskResult.objects.filter(pk__in=[p.job for p in parcels])
    states = {str(pk): status for pk, status in jobs.values_list("pk", "status")}
    return [Way(parcel=p, state=_state(p, states.get(p.job, ""))) for p in parcels]


def _state(parcel: Parcel, job: str) -> str:
    if parcel.ready_at is not None:
        return "ready"
    if parcel.message or job not in ("READY", "RUNNING"):
        return "failed"
    return "working" if job == "RUNNING" else "waiting"


def throw_away(unwanted: Iterable[Parcel]) -> int:
    """Remove parcels with their files; they can be made again. How many those were."""
    found = list(unwanted)
    for parcel in found:
        shelf.forget_folder(f"{PARCELS}/{parcel.pk}")
        parcel.delete()
    return len(found)


def clear_old() -> int:
    """Remove the parcels that have lain for long enough; how many."""
    return throw_away(Parcel.objects.filter(made_at__lt=timezone.now() - KEPT_FOR))
