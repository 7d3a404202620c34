"""Making the files of many takes that were asked for: the worker's part."""

from __future__ import annotations

import tempfile
import zipfile
from pathlib import Path

from django.utils import timezone

from motion.export import reel
from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.files import shelf
from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.models import Parcel
from nettlecap.marking.returning import feedback
from nettlecap.takes import redraw, stopping
from nettlecap.takes.models import Analysis, Take, TakeQuerySet
from nettlecap.takes.stopping import PutBack
from nettlecap.takes.work import draw


def returned(brief: Brief) -> TakeQuerySet:
    """Everybody's last take of a brief whose marks are returned."""
    return Take.objects.filter(brief=brief).newest().filter(sheet__returned_at__isnull=False)


def shown(brief: Brief) -> TakeQuerySet:
    """The takes of a brief that can be played: everybody's last one, as far as it was looked at."""
    return Take.objects.filter(brief=brief).newest().filter(analysis__state=Analysis.State.DONE)


def make(parcel_id: int) -> str:
    """Make a parcel that was asked for; the worker's part. What goes wrong is told in its message."""
    parcel = Parcel.objects.select_related("brief").filter(pk=parcel_id).first()
    if parcel is None:
        return "gone"
    try:
        _write(parcel)
    except (Refusal, OSError) as error:
        told = str(error) if isinstance(error, Refusal) else "Some drawings are not there any more."
        Parcel.objects.filter(pk=parcel_id).update(message=told[:300])
        return "failed"
    Parcel.objects.filter(pk=parcel_id).update(ready_at=timezone.now())
    return "ready"


def _write(parcel: Parcel) -> None:
    """Complete or not at all: under another name first, then in its place."""
    folder = parcel.file.parent
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder) as name:
        part = Path(name) / parcel.kind
        if parcel.kind == Parcel.Kind.FEEDBACK:
            _write_feedback(parcel, part)
        else:
            _write_reel(parcel, part)
        part.replace(parcel.file)
    shelf.keep(parcel.place)


def _write_feedback(parcel: Parcel, part: Path) -> None:
    takes = returned(parcel.brief).select_related("brief__course", "student", "analysis").order_by("student__name")
    with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as archive:
        for done, take in enumerate(takes, start=1):
            _with_drawings(take)
            archive.writestr(feedback.name_of(take), feedback.pdf(take, lay_out(take, agreed_only=True)))
            _tell(parcel, done)


def _write_reel(parcel: Parcel, part: Path) -> None:
    asked = parcel.asked
    found = {t.pk: t for t in shown(parcel.brief).filter(pk__in=asked["takes"]).select_related("student", "analysis")}
    clips = [found[pk] for pk in asked["takes"] if pk in found]
    if not clips:
        raise Refusal("These clips are not there any more.")
    for take in clips:
        _with_drawings(take)
    shown_clips = [
        reel.Shown(
            findings=take.analysis.measured,
            drawings=take.analysis.drawings_of(take.analysis.shown_run),
            title=take.student.name if asked["names"] else f"Clip {number}",
            words=parcel.brief.title,
        )
        for number, take in enumerate(clips, start=1)
    ]
    reel.write(part, shown_clips, times=asked["times"], tell=lambda done: _tell(parcel, done))


def _with_drawings(take: Take) -> None:
    """Have a take's drawings drawn again at once where they are not kept."""
    if not redraw.are_there(take):
        draw.draw(take.pk, take.analysis.shown_run)


def _tell(parcel: Parcel, done: int) -> None:
    if stopping.asked.is_set():
        raise PutBack
    Parcel.objects.filter(pk=parcel.pk).update(done=done)
