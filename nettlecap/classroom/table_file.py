"""A table as a file (CSV or OpenDocument), as rows of text. Read in a process of its own: see ``motion.sandbox``.

Knows nothing of people, and nothing of the framework.
"""

from __future__ import annotations

import csv
import io
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

from motion.errors import MotionError

MOST_ROWS, MOST_COLUMNS, LARGEST, LARGEST_UNPACKED = 500, 30, 1_000_000, 20_000_000
LONGEST_CELL = 300
MEMORY_BYTES, SECONDS = 900_000_000, 20.0
"""What reading may take; a class is a page of names."""
Line = tuple[int, list[str]]
"""A row: its number in the file, and its cells."""


class NoTable(MotionError):
    """The file is no table that can be read."""


NO_TABLE = "This is no table that can be read. Save the roster as CSV or as an OpenDocument spreadsheet (.ods)."


def read(path: Path, tell: Callable[[float, str], None]) -> list[Line]:
    """The rows of a table that say something, up to one more than are taken. Raises NoTable."""
    data = path.read_bytes()
    return _ods(data) if data[:2] == b"PK" else _csv(data)


def _csv(data: bytes) -> list[Line]:
    text = _text(data)
    first = text.split("\n", 1)[0]
    comma = max(",;\t", key=first.count)
    lines: list[Line] = []
    try:
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=comma, strict=True)
        for row in reader:
            values = [v[:LONGEST_CELL] for v in row[:MOST_COLUMNS]]
            if any(v.strip() for v in values):
                lines.append((reader.line_num, values))
    except csv.Error as error:
        raise NoTable(f"{NO_TABLE} ({error})") from error
    return lines


def _text(data: bytes) -> str:
    if b"\0" in data and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise NoTable(NO_TABLE)
    for coding in ("utf-16",) if data.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8-sig", "cp1252"):
        try:
            text = data.decode(coding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text
    raise NoTable(NO_TABLE)


def _ods(data: bytes) -> list[Line]:
    from odf.opendocument import load
    from odf.table import Table, TableRow

    _refuse_bombs(data)
    try:
        sheets = load(io.BytesIO(data)).getElementsByType(Table)
        found_rows = sheets[0].getElementsByType(TableRow) if sheets else []
        lines: list[Line] = []
        number = 1
        for row in found_rows:
            values = _cells(row)
            if any(v.strip() for v in values):
                lines.append((number, values))
            number += int(row.getAttribute("numberrowsrepeated") or 1)
            if len(lines) > MOST_ROWS + 1:
                break
    except MemoryError:
        raise
    except Exception as error:  # The library lets through whatever its own reading runs into.
        raise NoTable(NO_TABLE) from error
    return lines


def _cells(row: object) -> list[str]:
    from odf.table import TableCell

    values: list[str] = []
    for cell in row.getElementsByType(TableCell):  # type: ignore[attr-defined]
        times = int(cell.getAttribute("numbercolumnsrepeated") or 1)
        values += [_words(cell)] * min(times, MOST_COLUMNS)
        if len(values) >= MOST_COLUMNS:
            break
    return values[:MOST_COLUMNS]


def _words(node: object) -> str:
    """The text of a cell, with repeated spaces as one, up to what a name or an address may be."""
    parts: list[str] = []
    waiting = [node]
    while waiting and sum(map(len, parts)) < LONGEST_CELL:
        here = waiting.pop()
        if here.nodeType == here.TEXT_NODE:  # type: ignore[attr-defined]
            parts.append(str(here.data)[:LONGEST_CELL])  # type: ignore[attr-defined]
        elif here.qname[1] in ("s", "tab", "line-break"):  # type: ignore[attr-defined]
            parts.append(" ")
        else:
            waiting += reversed(here.childNodes)  # type: ignore[attr-defined]
    return "".join(parts)[:LONGEST_CELL]


def _refuse_bombs(data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            text = archive.open("content.xml").read(LARGEST_UNPACKED + 1)
    except (KeyError, OSError, ValueError, zipfile.BadZipFile, RuntimeError, NotImplementedError, zlib.error) as error:
        raise NoTable(NO_TABLE) from error
    if len(text) > LARGEST_UNPACKED or sum(e.file_size for e in entries) > LARGEST_UNPACKED or b"<!DOCTYPE" in text:
        raise NoTable(NO_TABLE)
