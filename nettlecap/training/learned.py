"""What somebody has learned: how small a fault they see, and how soon, fault by fault; and a class as a whole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Any

from motion.catalogue import PRINCIPLE_NAMES, PRINCIPLES, faults
from motion.exercises import EXERCISES
from motion.training.questions import WITH_FAULT
from motion.training.threshold import LARGEST, LEAST
from nettlecap.classroom.models import Course, Membership, Person
from nettlecap.training.models import Question
from nettlecap.training.words import size_word

WIDE, HIGH = 120.0, 28.0
"""The size of a fault's small picture."""
NOT_SURE, FEW = 3, 3
"""With fewer clips nothing is said of how small a fault somebody sees, with fewer people nothing of a class."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """One fault: how often it was shown and seen, how small it may be now (times its tolerance), and how that went.

    ``line`` are the points of a small picture, ``line_now`` where it ends; ``soon_s`` is after how many seconds it was
    told, where it was.
    """

    code: str
    name: str
    principle: str
    principle_name: str
    shown: int
    seen: int
    sees: float | None
    line: str
    now: tuple[float, float]
    soon_s: float | None

    @property
    def size(self) -> str:
        return size_word(self.sees) if self.sees is not None else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """An exercise: its faults by principle, and how often a clean clip was let be."""

    exercise: str
    name: str
    faults: tuple[Seen, ...]
    clean: int
    let_be: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OfClass:
    """A fault in a class: of how many it is known how small a one they see, and how small for the one in the middle."""

    name: str
    principle: str
    principle_name: str
    people: int
    sees: float
    weakest: float

    @property
    def size(self) -> str:
        return size_word(self.sees)


def of(person: Person) -> tuple[Learned, ...]:
    """What is known of somebody, an exercise at a time; only exercises in which they trained."""
    by_exercise = defaultdict(list)
    for row in _answers(Question.objects.filter(drill__person=person)):
        by_exercise[row["exercise"]].append(row)
    return tuple(_learned(key, by_exercise[key]) for key in EXERCISES if by_exercise[key])


def of_course(course: Course) -> dict[str, tuple[OfClass, ...]]:
    """What a class sees, fault by fault, by the exercise's name; what fewest see comes first."""
    people = Membership.objects.learning().filter(course=course).values("person")
    rows: dict[tuple[str, str, int], list[float]] = defaultdict(list)
    for row in _answers(Question.objects.filter(drill__person__in=people)):
        if row["code"] and (row["judged"] or {}).get("sees"):
            rows[row["exercise"], row["code"], row["drill__person"]].append(row["judged"]["sees"])
    last: dict[tuple[str, str], dict[int, float]] = defaultdict(dict)
    for (exercise, code, person), sees in rows.items():
        if len(sees) >= NOT_SURE:
            last[exercise, code][person] = sees[-1]
    told = defaultdict(list)
    for (exercise, code), by_person in last.items():
        fault = faults(exercise).get(code)
        if fault is not None and len(by_person) >= FEW:
            told[EXERCISES[exercise].nouns.exercise].append(
                OfClass(
                    name=fault.name,
                    principle=fault.principle,
                    principle_name=PRINCIPLE_NAMES[fault.principle],
                    people=len(by_person),
                    sees=median(by_person.values()),
                    weakest=max(by_person.values()),
                )
            )
    return {name: tuple(sorted(rows, key=lambda r: -r.sees)) for name, rows in told.items()}


def _answers(questions: Any) -> Iterable[dict[str, Any]]:
    answered = questions.exclude(answered_at=None).filter(kind__in=WITH_FAULT).order_by("answered_at", "pk")
    found: Iterable[dict[str, Any]] = answered.values(
        "exercise", "kind", "code", "right", "judged", "answer", "drill__person"
    )
    return found


def _learned(exercise: str, rows: Sequence[dict[str, Any]]) -> Learned:
    by_code = defaultdict(list)
    for row in rows:
        by_code[row["code"]].append(row)
    clean = by_code.pop("", [])
    known = sorted(
        (f for f in faults(exercise).values() if f.code in by_code), key=lambda f: PRINCIPLES.index(f.principle)
    )
    return Learned(
        exercise=exercise,
        name=EXERCISES[exercise].nouns.exercise,
        faults=tuple(_seen(f.code, f.name, f.principle, by_code[f.code]) for f in known),
        clean=len(clean),
        let_be=sum(bool(row["right"]) for row in clean),
    )


def _seen(code: str, name: str, principle: str, rows: Sequence[dict[str, Any]]) -> Seen:
    told = [row["judged"]["sees"] for row in rows if (row["judged"] or {}).get("sees")]
    soon = [row["answer"]["after_s"] for row in rows if row["right"] and (row["answer"] or {}).get("after_s")]
    places = [(WIDE * (i + 0.5) / max(1, len(told)), _height(sees)) for i, sees in enumerate(told)]
    return Seen(
        code=code,
        name=name,
        principle=principle,
        principle_name=PRINCIPLE_NAMES[principle],  # type: ignore[index]
        shown=len(rows),
        seen=sum(bool(row["right"]) for row in rows),
        sees=told[-1] if len(told) >= NOT_SURE else None,
        line=" ".join(f"{x:.1f},{y:.1f}" for x, y in places),
        now=places[-1] if places else (0.0, 0.0),
        soon_s=median(soon) if soon else None,
    )


def _height(sees: float) -> float:
    """Small faults stand low: the line falls as somebody learns."""
    share = (min(LARGEST, max(LEAST, sees)) - LEAST) / (LARGEST - LEAST)
    return round(HIGH - 2 - share * (HIGH - 4), 1)


def of_two(one: Person, other: Person, exercise: str) -> list[tuple[Seen | None, Seen | None]]:
    """What two people see of an exercise's faults, fault by fault, of those that either of them was shown."""
    told = [{s.code: s for part in of(p) if part.exercise == exercise for s in part.faults} for p in (one, other)]
    return [(told[0].get(code), told[1].get(code)) for code in faults(exercise) if code in told[0] or code in told[1]]


def told(person: Person) -> list[dict[str, Any]]:
    """Everything that somebody answered in drills, as it is given to them to keep."""
    answered = Question.objects.filter(drill__person=person).exclude(answered_at=None).order_by("answered_at", "pk")
    return [
        {
            "answered_at": row.answered_at.isoformat() if row.answered_at else None,
            "exercise": row.exercise,
            "kind": row.kind,
            "fault": row.code or None,
            "said": row.said,
            "right": row.right,
        }
        for row in answered.defer("told")
    ]
