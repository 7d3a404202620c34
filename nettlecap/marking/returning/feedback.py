"""Returned marks as a page to print."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from typing import Any

from django.template.loader import render_to_string

from motion.export import shown
from nettlecap.classroom import printing
from nettlecap.errors import Refusal
from nettlecap.marking.desk.ink import overs
from nettlecap.marking.desk.laid_out import Desk, Found
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Note
from nettlecap.takes import redraw
from nettlecap.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """Something that the marks say, with the picture of its first frame as a data URI."""

    found: Found | None
    note: Note | None
    picture: str


def name_of(take: Take) -> str:
    """What the file of a take's marks is called."""
    return f"{take.student.username}-take-{take.number}-marks.pdf"


def pdf(take: Take, marks: Desk) -> bytes:
    """The marks as a PDF. Raises Refusal where it cannot be made."""
    redraw.require_drawings(take)
    findings = take.analysis.findings or {}
    strokes = overs(marks.sheet) if marks.sheet else ()
    by_key = {finding_key(f): f for f in findings.get("findings", ())}

    def picture(frame: int, finding: dict[str, Any] | None = None) -> str:
        if not findings:
            return ""
        folder = take.analysis.drawings_of(take.analysis.shown_run)
        png = shown.frame(findings, folder, frame, finding=finding, strokes=strokes)
        return printing.PICTURE + base64.b64encode(png).decode()

    try:
        parts = [
            (
                section,
                [
                    *(
                        Item(found=f, note=None, picture=picture(f.first_frame, by_key.get(f.key)))
                        for f in section.findings
                    ),
                    *(Item(found=None, note=n, picture=picture(n.first_frame)) for n in section.notes),
                ],
            )
            for section in marks.sections
        ]
        drawn = [(d, picture(d.first_frame)) for d in marks.drawn_over]
    except OSError as error:
        raise Refusal("The drawings of this take are not there any more; ask for it to be looked at again.") from error
    context = {"take": take, "desk": marks, "parts": parts, "drawn": drawn}
    return printing.pdf(render_to_string("marking/print.html", context))
