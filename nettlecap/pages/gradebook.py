"""The points of a class as a table: CSV, OpenDocument spreadsheet, JSON. Only returned marks are told."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from typing import Any

from motion.catalogue import PRINCIPLES
from nettlecap.classroom.models import Course, Person
from nettlecap.pages.wall import grades_of
from nettlecap.training import setting
from nettlecap.training.models import SetDrill

KINDS = ("csv", "ods", "json")
SCHEMA = "nettlecap.grades/1"
COLUMNS = ("login", "name", "brief", "take", "late", "returned", *PRINCIPLES, "total", "most")
FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n")
"""What a spreadsheet would take a text that begins so for."""


def write(person: Person, course: Course, kind: str) -> tuple[bytes, str]:
    """The gradebook of a course as a file, with its content type. Http404 where this person does not mark there."""
    rows = list(_rows(person, course))
    if kind == "json":
        data = {"schema": SCHEMA, "course": course.name, "grades": rows}
        return (json.dumps(data, ensure_ascii=False, indent=1) + "\n").encode(), "application/json"
    table = [list(COLUMNS), *([_safe(row[c]) for c in COLUMNS] for row in rows)]
    if kind == "ods":
        return _ods(table, course.name), "application/vnd.oasis.opendocument.spreadsheet"
    stream = io.StringIO()
    csv.writer(stream, lineterminator="\r\n").writerows(table)
    # With a mark at its start, so that spreadsheets read the names right.
    return stream.getvalue().encode("utf-8-sig"), "text/csv; charset=utf-8"


def _rows(person: Person, course: Course) -> Iterator[dict[str, Any]]:
    """One row a student and brief, without points where no marks are returned; and drills that count."""
    yield from _of_briefs(person, course)
    yield from _of_drills(course)


def _of_drills(course: Course) -> Iterator[dict[str, Any]]:
    """One row a student and drill that counts; without points until it is done."""
    counting = [(a, went) for a, went in setting.of_course(course) if a.counts != SetDrill.Counts.NOT]
    for asked, went in counting:
        for own in went:
            row: dict[str, Any] = dict.fromkeys(COLUMNS)
            row |= {"login": own.student.username, "name": own.student.name, "brief": f"Drill: {asked.title}"}
            if own.done and own.drill is not None and own.drill.ended_at is not None:
                row |= {"late": own.late, "returned": own.drill.ended_at.date().isoformat()}
                row |= {"total": own.points, "most": asked.points}
            yield row


def _of_briefs(person: Person, course: Course) -> Iterator[dict[str, Any]]:
    for brief, line in grades_of(person, course.pk):
        take = line.takes[0] if line.takes else None
        row: dict[str, Any] = dict.fromkeys(COLUMNS)
        row |= {"login": line.student.username, "name": line.student.name, "brief": brief.title}
        if take is not None:
            row |= {"take": take.number, "late": take.late}
        if take is not None and line.grade is not None:
            returned = take.sheet.returned_at
            row |= {"returned": returned.date().isoformat() if returned else None, **line.grade.points}
            row |= {"total": line.grade.total, "most": line.grade.most}
        yield row


def _safe(value: Any) -> Any:
    """A cell; a text that a spreadsheet would compute is made a text by an apostrophe."""
    if isinstance(value, bool):
        return "late" if value else ""
    if value is None:
        return ""
    return f"'{value}" if isinstance(value, str) and value.startswith(FORMULA) else value


def _ods(table: list[list[Any]], title: str) -> bytes:
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    document = OpenDocumentSpreadsheet()
    sheet = Table(name=title[:31] or "grades")
    for values in table:
        row = TableRow()
        for value in values:
            number = isinstance(value, int | float)
            cell = TableCell(valuetype="float", value=value) if number else TableCell(valuetype="string")
            cell.addElement(P(text=str(value)))
            row.addElement(cell)
        sheet.addElement(row)
    document.spreadsheet.addElement(sheet)
    stream = io.BytesIO()
    document.write(stream)
    return stream.getvalue()
