"""An answer is judged, what is known of the person's eye changes by it, and the next clip is laid out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from motion.catalogue import PRINCIPLES
from motion.comparison import times_off
from motion.findings import Finding
from motion.training import judged
from motion.training.judged import Judged
from motion.training.questions import RATES, SIDES, WITH_FAULT
from nettlecap.errors import Conflict, Refusal
from nettlecap.training import ahead
from nettlecap.training.drawing import made
from nettlecap.training.drills import lay_out, offered
from nettlecap.training.models import Drill, Question, Sight

Said = dict[str, Any]
MOST_TAPS, MOST_S, MOST_PX = 200, 3600.0, 10_000.0
NEAR = 0.12
"""A place is pointed at rightly so close to it, as a share of the frame's height."""


def answer(question: Question, sent: Mapping[str, str]) -> Question:
    """Take an answer. Raises Refusal where it makes no sense, Conflict where there is one already."""
    said = _read(question, sent)
    result, more = _judge(question, said)
    with transaction.atomic():
        own = Question.objects.select_for_update().get(pk=question.pk)
        if own.answered_at is not None:
            raise Conflict("This clip was answered already; load the page again to see how.")
        own.answer, own.right, own.answered_at = said, result.right, timezone.now()
        own.judged = {"parts": dict(result.parts), **more, **_seen(own, result)}
        own.save(update_fields=["answer", "right", "answered_at", "judged"])
        lay_out(own.drill)
        ended = not own.drill.questions.filter(answered_at=None).exists()
        if ended:
            Drill.objects.filter(pk=own.drill_id).update(ended_at=timezone.now())
    if ended:
        ahead.for_person(own.drill.person)
    return own


def _seen(question: Question, result: Judged) -> Said:
    """What is known of the person's eye after a clip with a fault, or a clean one to spot something in."""
    if question.kind not in WITH_FAULT or question.take_id:
        return {}
    sight, _ = Sight.objects.select_for_update().get_or_create(person=question.drill.person, exercise=question.exercise)
    code, times = question.code or None, _times_of(question)
    eye = sight.eye.after(code, times, seen=result.right, chance=result.chance)
    sight.keep(eye)
    return {"times": round(times, 2), "sees": round(eye.of(code).times, 2)} if code else {}


def _times_of(question: Question) -> float:
    """How large its fault is, in times the tolerance, as the checks measure it."""
    finding = question.known["finding"]
    return max(1.0, times_off(finding)) if finding else 0.0


def _read(question: Question, sent: Mapping[str, str]) -> Said:
    return _READ[question.kind](question, sent)


def _read_spot(question: Question, sent: Mapping[str, str]) -> Said:
    if sent.get("off") not in ("0", "1"):
        raise Refusal("Say whether something is off.")
    said: Said = {"off": sent["off"] == "1", "taps": _numbers(sent.get("taps", ""))}
    said["after_s"] = _seconds(sent.get("after_s", ""))
    if sent.get("principle") in PRINCIPLES:
        said["principle"] = sent["principle"]
    if sent.get("code") in offered(question):
        said["code"] = sent["code"]
    if sent.get("frame"):
        said["frame"] = _whole(sent["frame"], "frame")
        x, y = _length(sent.get("x", "")), _length(sent.get("y", ""))
        if x is not None and y is not None:
            said["place"] = [x, y]
    return said


def _read_choice(question: Question, sent: Mapping[str, str]) -> Said:
    choices = {"which": SIDES, "rate": [str(rate) for rate in RATES]}[question.kind]
    if sent.get("choice") not in choices:
        raise Refusal("Choose one of the answers.")
    return {"choice": sent["choice"], "after_s": _seconds(sent.get("after_s", ""))}


def _read_order(question: Question, sent: Mapping[str, str]) -> Said:
    row = _numbers(sent.get("row", ""))
    if sorted(row) != sorted(question.known["truth"]["shuffled"]):
        raise Refusal("Put all five drawings in order first.")
    return {"row": row}


def _read_place(question: Question, sent: Mapping[str, str]) -> Said:
    clip = next(iter(question.known["clips"].values()))["clip"]
    try:
        x, y = float(sent.get("x", "")), float(sent.get("y", ""))
    except ValueError as error:
        raise Refusal("Drag the drawing to where it belongs first.") from error
    if not (0 <= x <= clip["width"] and 0 <= y <= clip["height"]):
        raise Refusal("The drawing belongs inside the frame.")
    return {"x": round(x, 2), "y": round(y, 2)}


def _read_count(question: Question, sent: Mapping[str, str]) -> Said:
    return {"frames": _whole(sent.get("frames", ""), "number of frames")}


_READ: dict[str, Callable[[Question, Mapping[str, str]], Said]] = {
    "spot": _read_spot,
    "which": _read_choice,
    "rate": _read_choice,
    "order": _read_order,
    "place": _read_place,
    "count": _read_count,
}


def _judge(question: Question, said: Said) -> tuple[Judged, Said]:
    """How an answer stands, and what more is to be told of it."""
    truth = question.known["truth"]
    if question.kind == "spot":
        clip = question.known["clips"]["shown"]["clip"]
        findings: list[Finding | None] = [*findings_of(question)] or [None]
        told = [judged.spotted(f, clip["frames"], said, offered(question), NEAR * clip["height"]) for f in findings]
        return next((t for t in told if t.right), told[0]), {}
    if question.kind == "which":
        return judged.one_of(truth["side"], said["choice"], 2), {}
    if question.kind == "rate":
        return judged.one_of(truth["rate"], said["choice"], len(RATES)), {}
    if question.kind == "order":
        return judged.ordered(truth["order"][1:], said["row"]), {}
    if question.kind == "place":
        result, left = judged.placed(made(question), said["x"], said["y"])
        return result, {"left": [f.to_json() for f in left]}
    return judged.counted(truth["frames"], said["frames"]), {}


def findings_of(question: Question) -> list[Finding]:
    """The planted fault as the checks tell it, or what was agreed of somebody's take, the gravest first."""
    told = question.known.get("findings") or [question.known["finding"]]
    return [Finding(**{**f, "overlay": tuple(f["overlay"])}) for f in told if f]


def _whole(text: str, name: str) -> int:
    if not text.isdecimal() or len(text) > 4 or int(text) < 1:
        raise Refusal(f"Enter a {name}.")
    return int(text)


def _numbers(text: str) -> list[int]:
    return [int(part) for part in text.split(",")[:MOST_TAPS] if part.isdecimal() and len(part) < 6]


def _seconds(text: str) -> float | None:
    return _up_to(text, MOST_S)


def _length(text: str) -> float | None:
    return _up_to(text, MOST_PX)


def _up_to(text: str, most: float) -> float | None:
    """A number from nought; None for anything else."""
    try:
        value = float(text)
    except ValueError:
        return None
    return round(value, 2) if 0 <= value <= most else None
