"""On what terms a student hands in to a brief, and where they stand with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from nettlecap.classroom.models import Brief
from nettlecap.errors import Refusal
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class TermsNow:
    """A brief's terms for one student. ``most_takes`` and ``most_checks`` are None where there is no limit."""

    takes_used: int
    most_takes: int | None
    checks_used: int
    most_checks: int | None
    is_due: bool
    late_refused: bool
    late_cost: float
    due: str

    @classmethod
    def of(cls, student: Any, brief: Brief, at: datetime | None = None) -> TermsNow:
        """Where the student stands now, or stood with a clip that came in ``at`` then."""
        return cls.of_all(student, [brief], at)[brief.pk]

    @classmethod
    def of_all(cls, student: Any, briefs: Sequence[Brief], at: datetime | None = None) -> dict[int, TermsNow]:
        """The same for several briefs at once, by their numbers."""
        rows: dict[int, list[tuple[bool, int | None]]] = {brief.pk: [] for brief in briefs}
        own = Take.everything.filter(brief__in=rows, student=student)
        for brief_id, trial, number in own.values_list("brief_id", "trial", "trial_number"):
            rows[brief_id].append((trial, number))
        return {brief.pk: cls._with(brief, rows[brief.pk], at) for brief in briefs}

    @classmethod
    def _with(cls, brief: Brief, rows: list[tuple[bool, int | None]], at: datetime | None) -> TermsNow:
        terms = brief.core.terms
        return cls(
            takes_used=sum(not trial for trial, _ in rows),
            most_takes=terms.takes,
            checks_used=sum(number is not None for _, number in rows),
            most_checks=terms.own_checks,
            is_due=(at or timezone.now()) > brief.due_at,
            late_refused=terms.late == "refused",
            late_cost=terms.late_cost,
            due=f"{timezone.localtime(brief.due_at):%A %-d %B %Y, %H:%M}",
        )

    @property
    def next_take(self) -> int:
        return self.takes_used + 1

    @property
    def is_closed(self) -> bool:
        return self.is_due and self.late_refused

    @property
    def has_takes(self) -> bool:
        return self.most_takes is None or self.takes_used < self.most_takes

    @property
    def takes_left(self) -> int | None:
        return None if self.most_takes is None else max(0, self.most_takes - self.takes_used)

    @property
    def may_hand_in(self) -> bool:
        return self.has_takes and not self.is_closed

    @property
    def may_check(self) -> bool:
        return self.may_hand_in and (self.most_checks is None or self.checks_used < self.most_checks)

    @property
    def checks_left(self) -> int | None:
        return None if self.most_checks is None else max(0, self.most_checks - self.checks_used)

    @property
    def late_percent(self) -> float:
        return round(100 * self.late_cost, 2)

    def require_take(self) -> None:
        """Raises Refusal where no further take is taken."""
        if self.is_closed:
            raise Refusal(f"This brief was due on {self.due}, and late takes are not taken. Ask your instructor.")
        if not self.has_takes:
            takes = "1 take" if self.most_takes == 1 else f"{self.most_takes} takes"
            raise Refusal(f"This brief asks for at most {takes}, and you have handed in {self.takes_used}.")

    def require_check(self) -> None:
        """Raises Refusal where the checks cannot be run before handing in."""
        self.require_take()
        if not self.may_check:
            raise Refusal(
                "For this brief the checks cannot be run before handing in."
                if self.most_checks == 0
                else f"You have run the checks {self.checks_used} times, which is as often as this brief allows."
            )
