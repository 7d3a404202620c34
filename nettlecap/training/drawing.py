"""The worker's part: a question is made from its seed, its clips are drawn, and kept with what is true of them."""

from __future__ import annotations

import io
import shutil
import tempfile
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from PIL import Image

from motion.analysis import of_plan
from motion.clip import Picture
from motion.exercises import exercise_of
from motion.report.file import to_json
from motion.training import clips, questions
from motion.training.verified import SEEDS, Drawn, Tried, clip_of, first_shown
from nettlecap.files import shelf
from nettlecap.takes import redraw
from nettlecap.takes.models import Take
from nettlecap.takes.work.draw import draw as draw_take
from nettlecap.training import earlier, pack
from nettlecap.training.models import PICTURES, Question

CONTENT_TYPE = "image/webp"
QUALITY = 88
SMALLER = (0.7, 0.7)
"""By such shares a fault is made smaller, one after the other, where no motion has room for it."""
OF_TAKE = ("take__analysis", "take__brief", "take__sheet")
Pictures = dict[str, Drawn]
"""The drawings of clips, by name."""


def made(question: Question) -> questions.Question:
    """The question as the core makes it from its seed; the same each time. Raises NoRoomError."""
    return questions.ask(
        question.kind,  # type: ignore[arg-type]
        question.seed,
        question.exercise,
        question.code or None,
        question.times,
        busy=question.busy,
    )


def prepare(question_id: int) -> str:
    """Make and draw a question that waits, or one whose pictures are gone; what became of it."""
    question = Question.objects.filter(pk=question_id).select_related("drill", *OF_TAKE).first()
    if question is None:
        return "gone"
    if question.drawn and question.folder.exists():
        return "there"
    if question.take is not None:
        return _of_take(question, question.take)
    if question.drawn:
        asked = made(question)
        _keep(question, {name: clip_of(asked, name) for name in asked.clips})
        return "drawn again"
    asked, pictures = _seen(question)
    _keep(question, pictures)
    question.told = {**_told(asked), "same": _same(pictures)}
    question.state = Question.State.DRAWN
    question.save(update_fields=["told", "state", "kind", "code", "times", "busy", "seed"])
    return "drawn"


def _of_take(question: Question, take: Take) -> str:
    """The pictures of somebody's take, with what was agreed of it; a take that cannot be drawn any more is let go."""
    if not redraw.are_there(take):
        draw_take(take.pk, take.analysis.shown_run)
    folder = take.analysis.drawings_of(take.analysis.shown_run)
    numbers = sorted({e["drawing"] for e in take.analysis.measured["clip"]["exposures"]})
    if not all((folder / f"{number}.png").exists() for number in numbers):
        question.delete()
        return "cannot be drawn"
    with ExitStack() as opened:
        pictures = [(opened.enter_context(Image.open(folder / f"{n}.png")).convert("RGB"), 1) for n in numbers]
        _keep(question, {"shown": [(np.asarray(picture), frames) for picture, frames in pictures]})
    question.told, question.state = earlier.told_of(take), Question.State.DRAWN
    question.save(update_fields=["told", "state"])
    return "drawn"


def _seen(question: Question) -> tuple[questions.Question, Pictures]:
    """As it was wished for, of a seed whose pictures show the checks that fault and no other; else a clean clip."""
    tried = _tried(question)
    if not (tried.shows or question.given):
        question.kind, question.code, question.times = "spot", "", 0.0
        tried = _tried(question)
    question.seed, question.busy, asked = tried.seed, tried.busy, tried.question
    return asked, {name: tried.drawn if name == tried.name else clip_of(asked, name) for name in asked.clips}


def _tried(question: Question) -> Tried:
    def make(seed: int, busy: bool) -> questions.Question:
        question.seed, question.busy = seed, busy
        return _with_room(question)

    return first_shown(make, question.seed, busy=question.busy, tries=1 if question.given else SEEDS)


def _with_room(question: Question) -> questions.Question:
    """As it was wished for; where no motion has room for a fault of that size, with a smaller one, or with none."""
    for share in (1.0, *SMALLER):
        question.times = round(share * question.times, 3)
        try:
            return made(question)
        except clips.NoRoomError:
            continue
    question.kind, question.code, question.times = "spot", "", 0.0
    return made(question)


def _keep(question: Question, pictures: Pictures) -> None:
    """The drawings of all its clips, a packed file each, in a folder that is there whole or not at all."""
    root = Path(settings.MEDIA_ROOT) / PICTURES
    root.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(dir=root, prefix=".part-"))
    try:
        for name, drawn in pictures.items():
            pack.write(part / name, [_as_webp(picture) for picture, _ in drawn])
        folder = shelf.local(question.place)
        shutil.rmtree(folder, ignore_errors=True)
        part.replace(folder)
        shelf.keep_folder(question.place)
    finally:
        shutil.rmtree(part, ignore_errors=True)


def _as_webp(picture: Picture) -> bytes:
    stream = io.BytesIO()
    Image.fromarray(picture).save(stream, "WEBP", quality=QUALITY, method=2)
    return stream.getvalue()


def _same(pictures: Pictures) -> dict[str, dict[str, int]]:
    """Drawings of later clips that are pixel for pixel some of the first: by clip and number, the number there.

    So a page that shows the first has most of the others at hand.
    """
    first, *others = pictures
    known = {picture.tobytes(): number for number, (picture, _) in reversed([*enumerate(pictures[first], start=1)])}
    return {
        name: {
            str(number): known[picture.tobytes()]
            for number, (picture, _) in enumerate(pictures[name], start=1)
            if picture.tobytes() in known
        }
        for name in others
    }


def _told(asked: questions.Question) -> dict[str, Any]:
    keys = exercise_of(asked.brief).guided.keys
    return {
        "brief": asked.brief.to_json(),
        "clips": {name: to_json(of_plan(plan, asked.brief)) for name, plan in asked.clips.items()},
        "keys": {name: [int(i) for i in keys(plan)] for name, plan in asked.clips.items()},
        "right": asked.right,
        "finding": asked.finding.to_json() if asked.finding else None,
        "truth": dict(asked.truth),
    }
