"""The points of a class as a table: CSV, OpenDocument spreadsheet, JSON. Only returned marks are told."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from typing import Any

from motion.catalogue import PRINCIPLES
from nettlecap.classroom.models import Brief, Course, Person
from nettlecap.pages.wall import Line, grades_of, wall
from nettlecap.training import setting
from nettlecap.training.models import SetDrill
from nettlecap.training.setting import Went

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
    shown = wall(person, course.pk)
    for brief, line in grades_of(shown):
        yield _of_brief(brief, line)
    for asked, class_ in setting.of_course(shown.course, shown.students):
        if asked.counts != SetDrill.Counts.NOT:
            yield from (_of_drill(asked, went) for went in class_)


def _row(student: Person, brief: str) -> dict[str, Any]:
    return dict.fromkeys(COLUMNS) | {"login": student.username, "name": student.name, "brief": brief}


def _of_drill(asked: SetDrill, went: Went) -> dict[str, Any]:
    row = _row(went.student, f"Drill: {asked.title}")
    if went.drill is None or went.drill.ended_at is None:
        return row
    returned = went.drill.ended_at.date().isoformat()
    return row | {"late": went.late, "returned": returned, "total": went.points, "most": asked.points}


def _of_brief(brief: Brief, line: Line) -> dict[str, Any]:
    row, take = _row(line.student, brief.title), line.takes[0] if line.takes else None
    if take is not None:
        row |= {"take": take.number, "late": take.late}
    if take is not None and line.grade is not None:
        returned = take.sheet.returned_at
        row |= {"returned": returned.date().isoformat() if returned else None, **line.grade.points}
        row |= {"total": line.grade.total, "most": line.grade.most}
    return row


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
