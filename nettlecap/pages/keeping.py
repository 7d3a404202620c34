"""Everything of one student: as one file to keep, and deleted for good."""

from __future__ import annotations

import json
import tempfile
import zipfile
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from django.db import transaction
from django.db.models import ProtectedError
from django.http import Http404
from django.utils.text import slugify

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course, Membership, Person, Role
from nettlecap.errors import NotAllowed, Refusal
from nettlecap.marking.desk.ink import stroke_of
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Parcel
from nettlecap.marking.parcels.ask import throw_away
from nettlecap.marking.returning.grades import faults, grade
from nettlecap.takes.forget import Files
from nettlecap.takes.models import Take
from nettlecap.training import clearing, learned

SCHEMA = "nettlecap.person/1"


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """What there is of a student, as far as somebody may have it, and why they may not delete it if so."""

    person: Person
    takes: tuple[Take, ...]
    own: bool
    why_not: str


def kept_of(asker: Person, person_id: int) -> Kept:
    """What there is of a person: to themselves, to who leads a course that they learn in, to who keeps the house.

    Raises Http404 for anybody else.
    """
    person = Person.objects.filter(pk=person_id).first()
    if person is None:
        raise Http404
    own = asker.pk == person.pk
    led = Course.objects.led_by(asker).values("pk")
    learns = Membership.objects.of(person).filter(role=Role.STUDENT)
    if not (own or policy.keeps_house(asker) or learns.filter(course__in=led).exists()):
        raise Http404
    takes = Take.everything.own(person).select_related("brief__course", "analysis", "sheet").order_by("brief", "pk")
    if not (own or policy.keeps_house(asker)):
        takes = takes.filter(brief__course__in=led, trial=False)
    return Kept(person=person, takes=tuple(takes), own=own, why_not=_why_not(asker, person, led))


def _why_not(asker: Person, person: Person, led: Any) -> str:
    memberships = Membership.objects.of(person)
    if memberships.exclude(role=Role.STUDENT).exists() or person.is_staff:
        return f"{person.name} also marks, or keeps this installation; what they said of others’ work stays."
    if asker.pk == person.pk:
        return "Ask your instructor to delete what is here of you."
    if not policy.keeps_house(asker) and memberships.exclude(course__in=led).exists():
        return f"{person.name} is in other courses too, which you do not lead; who keeps this installation can do it."
    return ""


def as_file(kept: Kept) -> IO[bytes]:
    """All of it as a zip, in a file that is gone once it is closed: what was handed in, and the rest as JSON.

    Students get what was found and said as far as it is returned; markers all of it.
    """
    stream = tempfile.TemporaryFile()  # noqa: SIM115 (whoever sends it closes it)
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:
        told = [_take(archive, take, everything=not kept.own) for take in kept.takes]
        # How somebody trains is theirs: others who may have their work do not get it.
        trained = {"training": learned.told(kept.person)} if kept.own else {}
        archive.writestr("person.json", _json({**_person(kept.person), "takes": told, **trained}))
    stream.seek(0)
    return stream


def delete(asker: Person, person_id: int, login: str) -> str:
    """Delete a student and all of their work; their name. ``login`` must be theirs, typed to be sure.

    Raises NotAllowed or Refusal; nothing is deleted then.
    """
    kept = kept_of(asker, person_id)
    if kept.why_not:
        raise NotAllowed(kept.why_not)
    if login.strip() != kept.person.username:
        raise Refusal(f"To delete everything, write the login of {kept.person.name}; nothing was deleted.")
    name, takes = kept.person.name, Take.everything.own(kept.person)
    files = Files.of(takes.select_related("analysis"))
    # What was made of the class may show them.
    made = list(Parcel.objects.filter(brief__in=takes.values("brief")))
    try:
        with transaction.atomic():
            takes.delete()
            Membership.objects.of(kept.person).delete()
            kept.person.delete()
    except ProtectedError as error:
        raise NotAllowed(f"{name} has marked or set something before; nothing was deleted.") from error
    files.clear()
    clearing.clear_gone()
    throw_away(made)
    return name


def _person(person: Person) -> dict[str, Any]:
    memberships = Membership.objects.of(person).select_related("course")
    return {
        "schema": SCHEMA,
        "login": person.username,
        "name": person.name,
        "email": person.email,
        "courses": [
            {"course": m.course.name, "term": m.course.term, "role": m.role, "left_at": _when(m.left_at)}
            for m in memberships
        ],
    }


def _take(archive: zipfile.ZipFile, take: Take, *, everything: bool) -> dict[str, Any]:
    folder = f"takes/{take.pk}-{slugify(take.brief.title)[:40] or 'brief'}-{slugify(take.called)}"
    told: dict[str, Any] = {
        "course": take.brief.course.name,
        "brief": take.brief.title,
        "take": take.called,
        "handed_in_at": _when(take.handed_in_at),
        "late": take.late,
        "file": _add(archive, take.file, f"{folder}/{_plain(take.file_name)}"),
        "put_right": take.prepared,
        "placed": take.placed,
    }
    if take.sound_path:
        told["sound"] = _add(archive, take.sound, f"{folder}/{_plain(take.sound_name)}")
    sheet: MarkSheet | None = getattr(take, "sheet", None)
    returned = sheet is not None and sheet.returned
    if everything or returned or take.trial:
        told["findings"] = _findings(take, sheet, only_agreed=not everything and not take.trial)
    if sheet is not None and (everything or returned):
        told["marks"] = _marks(take, sheet)
    return told


def _findings(take: Take, sheet: MarkSheet | None, *, only_agreed: bool) -> list[dict[str, Any]]:
    found = (take.analysis.findings or {}).get("findings", [])
    if take.draft:
        return []
    if not only_agreed:
        return list(found)
    agreed = {d.key for d in sheet.decisions.all() if d.verdict == Decision.Verdict.AGREED} if sheet else set()
    return [f for f in found if finding_key(f) in agreed]


def _marks(take: Take, sheet: MarkSheet) -> dict[str, Any]:
    core = take.brief.core
    given = grade(take, core, faults(take, core)) if sheet.returned else None
    reading = getattr(sheet, "reading", None)
    proposal = getattr(sheet, "proposal", None)
    return {
        "returned_at": _when(sheet.returned_at),
        "points": given.points if given else None,
        "total": given.total if given else None,
        "most": given.most if given else None,
        "points_by_hand": sheet.by_hand,
        "remark": sheet.remark,
        "notes": list(sheet.notes.values("first_frame", "last_frame", "principle", "text", "answer")),
        "drawn_over": [{**s.told, "points": stroke_of(s).points} for s in sheet.strokes.all()],
        "proposed_timing": {"timing": proposal.pairs, "fps": proposal.fps, "note": proposal.note} if proposal else None,
        "ticked": reading.ticked if reading else [],
    }


def _add(archive: zipfile.ZipFile, path: Path, name: str) -> str | None:
    """The name under which a file is in the archive; None where it is gone from the media folder."""
    if not path.is_file():
        return None
    archive.write(path, name)
    return name


def _plain(name: str) -> str:
    """A name that is no path; several pictures ("a.png and 23 more") are kept as one zip."""
    plain = Path(name.replace("\\", "/")).name
    return f"{slugify(plain)}.zip" if " and " in plain or not plain else plain


def _when(moment: Any) -> str | None:
    return moment.isoformat() if moment else None


def _json(told: dict[str, Any]) -> str:
    return json.dumps(told, ensure_ascii=False, indent=1) + "\n"
