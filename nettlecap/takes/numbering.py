"""The numbers of takes and of checks of one's own: without a gap, and never one twice."""

from __future__ import annotations

from collections.abc import Callable

from django.db import IntegrityError, transaction
from django.db.models import Max

from nettlecap.classroom.models import Membership
from nettlecap.takes.models import Arrival, Take
from nettlecap.takes.terms import TermsNow

NUMBERING_TRIES = 8


def numbered(take: Take, record: Callable[[], None]) -> None:
    """Give a take its number and record it, whoever else does the same: two never get one number.

    The student's membership is locked where the database locks rows, and where it does not, or there is none, the
    number that somebody else was faster to take is passed over.
    """
    for attempt in range(NUMBERING_TRIES):
        try:
            with transaction.atomic():
                list(Membership.objects.select_for_update().filter(course=take.brief.course_id, person=take.student_id))
                record()
        except IntegrityError:
            if attempt == NUMBERING_TRIES - 1:
                raise
        else:
            return


def number_take(take: Take, arrival: Arrival | None = None) -> None:
    """The next number; asked again here, where nobody comes between, whether a further one is taken."""
    TermsNow.of(take.student, take.brief, at=arrival.came_at if arrival else None).require_take()
    own = Take.objects.filter(brief=take.brief, student=take.student)
    take.number = (own.aggregate(last=Max("number"))["last"] or 0) + 1


def _number_trial(take: Take, arrival: Arrival) -> None:
    terms = TermsNow.of(take.student, take.brief, at=arrival.came_at)
    terms.require_check()
    own = Take.everything.filter(brief=take.brief, student=take.student)
    last = own.aggregate(last=Max("trial_number"))["last"] or 0
    take.trial, take.number, take.trial_number = True, 0, last + 1


def _number_draft(take: Take, arrival: Arrival) -> None:
    take.trial, take.number, take.trial_number = True, 0, None


NUMBERS: dict[str, Callable[[Take, Arrival], None]] = {
    Arrival.As.TAKE: number_take,
    Arrival.As.CHECK: _number_trial,
    Arrival.As.DRAFT: _number_draft,
}
