"""What a page shows of a question: its clips to play, what can be answered, and once it is answered how it is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from motion.brief import from_stored
from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES, Fault, faults, name_of
from motion.report.report import Report
from motion.training.questions import RATES, SIDES
from nettlecap.marking.desk.measure_words import measure_of
from nettlecap.marking.desk.played import played
from nettlecap.marking.keys import finding_key, span_words
from nettlecap.training import drills, words
from nettlecap.training.models import Question

Told = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Clip:
    """One of a question's clips: where its pictures lie, and what the scripts play."""

    name: str
    drawings: str
    player: Told


@dataclass(frozen=True, slots=True, kw_only=True)
class Chapter:
    """A principle with the faults that can be named."""

    principle: str
    name: str
    faults: tuple[Fault, ...]
    key: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """How an answer is: in a few words, and what was there to see."""

    verdict: str
    why: str
    because: str
    """Why what is off is a fault, whatever clip it is in."""
    finding: Told | None
    measure: str
    name: str
    frames: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """A question as its page shows it. ``beside`` is the clip that plays next to the first, where there is one."""

    question: Question
    clip: Clip
    beside: Clip | None
    title: str
    asks: str
    chapters: tuple[Chapter, ...]
    choices: tuple[tuple[str, str], ...]
    laid: tuple[tuple[int, str], ...]
    given: str
    in_order: tuple[str, ...]
    handle: Told | None
    answered: Answered | None

    @property
    def last(self) -> bool:
        return self.question.number >= self.question.drill.clips

    @property
    def slowly(self) -> bool:
        """Whether it plays once more at a quarter of its speed, because its fault was missed."""
        return self.answered is not None and self.answered.finding is not None and not self.question.right


def of(question: Question) -> Shown:
    """A question that is drawn."""
    told, kind = question.known, question.kind
    done = question.answered_at is not None
    first, other = _names(question)
    truth = told["truth"]
    return Shown(
        question=question,
        clip=_clip(question, first, with_finding=done and first != told["right"]),
        beside=_clip(question, other, with_finding=False) if other else None,
        title=words.KINDS[kind].name,
        asks=words.asks(question),
        chapters=tuple(_chapters(question)) if kind == "spot" and not done else (),
        choices=_choices(question),
        laid=tuple((index, _picture(question, first, index + 1)) for index in _row(question)),
        in_order=tuple(_picture(question, first, i + 1) for i in truth["order"][1:]) if kind == "order" else (),
        given=_picture(question, first, truth["order"][0] + 1) if kind == "order" else "",
        handle=_handle(question) if kind == "place" else None,
        answered=_answered(question) if done else None,
    )


def _names(question: Question) -> tuple[str, str | None]:
    """Which of its clips plays first, and which beside it: once it is answered, the one that has the fault first."""
    names, right = list(question.known["clips"]), question.known["right"]
    if question.answered_at is not None:
        names.sort(key=lambda name: name == right)
        return names[0], names[1] if len(names) > 1 else None
    return names[0], names[1] if question.kind == "which" else None


def _clip(question: Question, name: str, *, with_finding: bool) -> Clip:
    told = question.known
    data = told["clips"][name]
    if question.kind == "count" and question.answered_at is None:
        data = _part_of(data, told["truth"]["first"], told["truth"]["last"])
    report = Report(data)
    kept = {finding_key(f) for f in report.findings} if with_finding else set()
    player = played(report, kept, from_stored(told["brief"]), with_guide=False)
    keys = {index + 1 for index in told["keys"][name]}
    exposures = [{**e, "mark": "key" if e["drawing"] in keys else "plain"} for e in player["clip"]["exposures"]]
    player = {**player, "clip": {**player["clip"], "exposures": exposures}, "ideal": [], "guide": []}
    player["same"] = told.get("same", {}).get(name, {})
    base = reverse("question-pictures", args=[question.pk, name])
    return Clip(name=name, drawings=base, player=player)


def _part_of(data: Told, first: int, last: int) -> Told:
    """A clip's frames from one to another, counted from 1 again."""
    exposures = []
    for e in data["clip"]["exposures"]:
        begins, ends = max(first, e["first_frame"]), min(last, e["first_frame"] + e["frames"] - 1)
        if begins <= ends:
            exposures.append({"drawing": e["drawing"], "first_frame": begins - first + 1, "frames": ends - begins + 1})
    clip = {**data["clip"], "frames": last - first + 1, "exposures": exposures}
    return {**data, "clip": clip, "motion": None, "findings": []}


def _chapters(question: Question) -> list[Chapter]:
    known, offered = faults(question.exercise), drills.offered(question)
    own = {p: tuple(known[c] for c in offered if known[c].principle == p) for p in PRINCIPLES}
    return [
        Chapter(principle=p, name=PRINCIPLE_NAMES[p], faults=own[p], key=number)
        for number, p in enumerate((p for p in PRINCIPLES if own[p]), start=1)
    ]


def _choices(question: Question) -> tuple[tuple[str, str], ...]:
    if question.kind == "which":
        return tuple((side, f"the {side} one") for side in SIDES)
    return tuple((str(rate), words.RATES[rate]) for rate in RATES) if question.kind == "rate" else ()


def _row(question: Question) -> list[int]:
    row: list[int] = question.known["truth"]["shuffled"] if question.kind == "order" else []
    return row


def _picture(question: Question, name: str, number: int) -> str:
    return reverse("question-picture", args=[question.pk, name, number])


def _handle(question: Question) -> Told:
    """The drawing that is to be placed: its frame, its shape, and where it hangs from, if it does."""
    data, number = question.known["clips"]["shown"], question.known["truth"]["drawing"] + 1
    report = Report(data)
    exposure = next(e for e in report.exposures if e.drawing == number)
    shape = report.shapes[number]
    said = question.said
    belongs = Report(question.known["clips"]["right"]).shapes[number]
    told = {k: shape[k] for k in ("x", "y", "major", "minor", "angle")}
    return {
        "frame": exposure.first_frame,
        "drawing": number,
        **told,
        **{k: said[k] for k in ("x", "y") if k in said},
        "pivot": report.track.get("pivot"),
        "belongs": {k: belongs[k] for k in told} if question.answered_at else None,
    }


def _answered(question: Question) -> Answered:
    finding = question.known["finding"] if question.kind in ("spot", "which") else None
    return Answered(
        verdict=words.verdict(question),
        why=words.why(question),
        because=faults(question.exercise)[finding["code"]].why if finding else "",
        finding=finding,
        measure=measure_of(finding) if finding else "",
        name=name_of(question.exercise, finding["code"]) if finding else "",
        frames=span_words(finding["first_frame"], finding["last_frame"]) if finding else "",
    )
