"""A roster: who is in a class, as a table (CSV or OpenDocument), read, planned, and then carried out as a whole."""

from __future__ import annotations

import csv
import io
import zipfile
import zlib
from dataclasses import dataclass

from django.core import signing
from django.db import transaction

from nettlecap.classroom import policy
from nettlecap.classroom.models import Course, Membership, Person, Role
from nettlecap.classroom.people import enrol, found, free_login, problem_with
from nettlecap.errors import Refusal

MOST_ROWS, MOST_COLUMNS, LARGEST, LARGEST_UNPACKED = 500, 30, 1_000_000, 20_000_000
COLUMNS = {
    "name": {"name", "full name", "student"},
    "given": {"first name", "given name", "forename"},
    "family": {"last name", "surname", "family name"},
    "login": {"login", "user", "username", "user name"},
    "email": {"e-mail", "email", "mail", "e-mail address", "email address"},
    "role": {"role"},
}
NO_TABLE = "This is no table that can be read. Save the roster as CSV or as an OpenDocument spreadsheet (.ods)."
SALT = "roster"


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One person of a roster; ``line`` is the row's number in the file."""

    line: int
    name: str
    login: str = ""
    email: str = ""
    role: str = Role.STUDENT


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """What would become of a row: what would be done, or what is wrong."""

    row: Row
    login: str
    deed: str = ""
    problem: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What would become of a roster."""

    entries: tuple[Entry, ...]

    @property
    def problems(self) -> int:
        return sum(bool(e.problem) for e in self.entries)

    @property
    def deeds(self) -> int:
        return sum(bool(e.deed) for e in self.entries)

    @property
    def sealed(self) -> str:
        """The rows as a text that nobody else can have written, for the page that asks whether to go on."""
        rows = [[e.row.line, e.row.name, e.row.login, e.row.email, e.row.role] for e in self.entries]
        return signing.dumps(rows, salt=SALT, compress=True)


def read(data: bytes) -> list[Row]:
    """The rows of a roster file. Raises Refusal where it is none."""
    if len(data) > LARGEST:
        raise Refusal("This roster is too large: a class is a page of names.")
    table = _ods(data) if data[:2] == b"PK" else _csv(data)
    if not table:
        raise Refusal("This roster is empty.")
    columns = _columns(table[0][1])
    rows = [_row(line, values, columns) for line, values in table[1:] if any(v.strip() for v in values)]
    if not rows:
        raise Refusal("This roster names nobody: there are no rows below the names of the columns.")
    if len(rows) > MOST_ROWS:
        raise Refusal(f"This roster has {len(rows)} rows; at most {MOST_ROWS} are taken at once.")
    return rows


def unseal(sealed: str) -> list[Row]:
    """The rows that a page was made of. Raises Refusal where the text is another, or a day old."""
    try:
        rows = signing.loads(sealed, salt=SALT, max_age=86_400)
    except signing.BadSignature as error:
        raise Refusal("This page is too old. Choose the roster again; nobody was added.") from error
    return [Row(line=a, name=b, login=c, email=d, role=e) for a, b, c, d, e in rows]


def plan(course: Course, rows: list[Row]) -> Plan:
    """What would become of these rows in this course; nothing is changed."""
    members = {m.person_id: m for m in Membership.objects.filter(course=course)}
    entries: list[Entry] = []
    people: set[int] = set()
    logins: set[str] = set()
    for row in rows:
        entry, person = _entry(row, members, frozenset(logins))
        twice = (person.pk in people) if person else (entry.login in logins and bool(row.login))
        if twice and not entry.problem:
            entry = Entry(row=row, login=entry.login, problem="This person stands in the roster twice.")
        entries.append(entry)
        logins.add(entry.login)
        people |= {person.pk} if person else set()
    return Plan(entries=tuple(entries))


def carry_out(leader: Person, course: Course, rows: list[Row]) -> int:
    """Bring all of these into the course, or none; how many came."""
    policy.require(policy.may_lead(leader, course), "change who is in this course")
    with transaction.atomic():
        planned = plan(course, rows)
        if planned.problems:
            raise Refusal("Some rows of this roster are wrong; nobody was added. Put them right and choose it again.")
        for entry in planned.entries:
            if entry.deed:
                row = entry.row
                enrol(course, name=row.name, login=entry.login, email=row.email, role=row.role)
    return planned.deeds


def _entry(row: Row, members: dict[int, Membership], taken: frozenset[str]) -> tuple[Entry, Person | None]:
    problem = problem_with(name=row.name, login=row.login, email=row.email, role=row.role)
    person = None if problem else found(row.login, row.email)
    if problem:
        return Entry(row=row, login=row.login, problem=problem), None
    if person is None:
        return Entry(row=row, login=row.login or free_login(row.name, taken), deed="is new"), None
    membership = members.get(person.pk)
    if membership is None:
        deed = f"has an account ({person.name}) and joins"
    elif membership.left_at is not None:
        deed = "comes back"
    else:
        deed = ""
    return Entry(row=row, login=person.username, deed=deed), person


def _columns(head: list[str]) -> dict[str, int]:
    names = [" ".join(h.casefold().split()).strip("*: ") for h in head]
    found_columns = {key: i for i, name in enumerate(names) for key, words in COLUMNS.items() if name in words}
    if not {"name", "login"} & set(found_columns) and not {"given", "family"} <= set(found_columns):
        raise Refusal(
            "The first row must name the columns: “name”, and if you like “login”, “e-mail” and “role”. "
            f"It says: {', '.join(h.strip()[:30] for h in head if h.strip())[:160] or 'nothing'}."
        )
    return found_columns


def _row(line: int, values: list[str], columns: dict[str, int]) -> Row:
    def cell(key: str) -> str:
        i = columns.get(key)
        return " ".join(values[i].split()) if i is not None and i < len(values) else ""

    name = cell("name") or " ".join(part for part in (cell("given"), cell("family")) if part)
    return Row(
        line=line, name=name, login=cell("login"), email=cell("email"), role=cell("role").casefold() or Role.STUDENT
    )


def _csv(data: bytes) -> list[tuple[int, list[str]]]:
    text = _text(data)
    first = text.split("\n", 1)[0]
    comma = max(",;\t", key=first.count)
    try:
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=comma, strict=True)
        return [(reader.line_num, row[:MOST_COLUMNS]) for row in reader if any(v.strip() for v in row)]
    except csv.Error as error:
        raise Refusal(f"{NO_TABLE} ({error})") from error


def _text(data: bytes) -> str:
    if b"\0" in data and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise Refusal(NO_TABLE)
    for coding in ("utf-16",) if data.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8-sig", "cp1252"):
        try:
            return data.decode(coding)
        except UnicodeDecodeError:
            continue
    raise Refusal(NO_TABLE)


def _ods(data: bytes) -> list[tuple[int, list[str]]]:
    from odf.opendocument import load
    from odf.table import Table, TableRow

    _refuse_bombs(data)
    try:
        sheets = load(io.BytesIO(data)).getElementsByType(Table)
        found_rows = sheets[0].getElementsByType(TableRow) if sheets else []
        lines: list[tuple[int, list[str]]] = []
        number = 1
        for row in found_rows:
            values = _cells(row)
            if any(v.strip() for v in values):
                lines.append((number, values))
            number += int(row.getAttribute("numberrowsrepeated") or 1)
            if len(lines) > MOST_ROWS + 1:
                break
    except Exception as error:  # The library lets through whatever its own reading runs into.
        raise Refusal(NO_TABLE) from error
    return lines


def _cells(row: object) -> list[str]:
    from odf import teletype
    from odf.table import TableCell

    values: list[str] = []
    for cell in row.getElementsByType(TableCell):  # type: ignore[attr-defined]
        times = int(cell.getAttribute("numbercolumnsrepeated") or 1)
        values += [teletype.extractText(cell)] * min(times, MOST_COLUMNS)
        if len(values) >= MOST_COLUMNS:
            break
    return values[:MOST_COLUMNS]


def _refuse_bombs(data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            text = archive.open("content.xml").read(LARGEST_UNPACKED + 1)
    except (KeyError, OSError, ValueError, zipfile.BadZipFile, RuntimeError, NotImplementedError, zlib.error) as error:
        raise Refusal(NO_TABLE) from error
    if len(text) > LARGEST_UNPACKED or sum(e.file_size for e in entries) > LARGEST_UNPACKED or b"<!DOCTYPE" in text:
        raise Refusal(NO_TABLE)
