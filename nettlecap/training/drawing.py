"""The worker's part: a question is made from its seed, its clips are drawn, and kept with what is true of them."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from PIL import Image

from motion.analysis import of_plan
from motion.exercises import exercise_of
from motion.report.file import to_json
from motion.synth import draw
from motion.synth.look import LOOKS
from motion.training import clips, questions
from nettlecap.training.models import PICTURES, Question

SUFFIX, CONTENT_TYPE = ".webp", "image/webp"
QUALITY = 88
SMALLER = (0.7, 0.5)
"""Shares of a size that are tried where no motion has room for it."""


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
    question = Question.objects.filter(pk=question_id).select_related("drill").first()
    if question is None:
        return "gone"
    if question.drawn and question.folder.exists():
        return "there"
    asked = _with_room(question)
    _draw(question, asked)
    if not question.drawn:
        question.told = _told(asked)
        question.state = Question.State.DRAWN
        question.save(update_fields=["told", "state", "code", "times"])
    return "drawn"


def _with_room(question: Question) -> questions.Question:
    """As it was wished for; where no motion has room for a fault of that size, with a smaller one, or with none."""
    sizes = [question.times, *(share * question.times for share in SMALLER)]
    for times in sizes[:1] if question.drawn else sizes:
        question.times = round(times, 3)
        try:
            return made(question)
        except clips.NoRoomError:
            continue
    question.kind, question.code, question.times = "spot", "", 0.0
    question.save(update_fields=["kind"])
    return made(question)


def _draw(question: Question, asked: questions.Question) -> None:
    """Every clip's drawings, in a folder of their own that is there whole or not at all."""
    root = Path(settings.MEDIA_ROOT) / PICTURES
    root.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(dir=root, prefix=".part-"))
    try:
        for name, plan in asked.clips.items():
            (part / name).mkdir()
            drawn = draw.frames(asked.brief.exercise, plan, LOOKS[asked.look], asked.seed)
            for number, (picture, _) in enumerate(drawn, start=1):
                Image.fromarray(picture).save(part / name / f"{number}{SUFFIX}", quality=QUALITY, method=2)
        shutil.rmtree(question.folder, ignore_errors=True)
        part.replace(question.folder)
    finally:
        shutil.rmtree(part, ignore_errors=True)


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
