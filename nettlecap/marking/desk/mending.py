"""Which findings a take is shown mended by."""

from __future__ import annotations

from typing import Any

from django.http import Http404

from nettlecap.classroom import policy
from nettlecap.classroom.models import Person
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision
from nettlecap.marking.sheets import sheet_shown_to
from nettlecap.takes.models import Take


def to_mend(person: Person, take: Take) -> list[dict[str, Any]]:
    """For a marker every finding that is not dismissed; for the student, once returned, those that were agreed.

    Raises Http404 for a student whose marks are not returned.
    """
    sheet = sheet_shown_to(person, take)
    verdicts = dict(sheet.decisions.values_list("key", "verdict")) if sheet else {}
    findings = (take.analysis.findings or {}).get("findings", [])
    if policy.may_mark(person, take.brief.course_id):
        return [f for f in findings if verdicts.get(finding_key(f)) != Decision.Verdict.DISMISSED]
    if sheet is None:
        raise Http404
    return [f for f in findings if verdicts.get(finding_key(f)) == Decision.Verdict.AGREED]
