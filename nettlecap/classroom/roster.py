"""A roster: who is in a class, as a table (CSV or OpenDocument), read, planned, and then carried out as a whole."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path

from django.core import signing
from django.db import transaction

from motion import sandbox
from motion.errors import ReadingStopped
from nettlecap.classroom import policy, table_file
from nettlecap.classroom.models import Course, Membership, Person, Role
from nettlecap.classroom.people import enrol, found, free_login, problem_with
from nettlecap.classroom.table_file import LARGEST, MOST_ROWS
from nettlecap.errors import Refusal
from nettlecap.guard import at_once

COLUMNS = {
    "name": {"name", "full name", "student"},
    "given": {"first name", "given name", "forename"},
    "family": {"last name", "surname", "family name"},
    "login": {"login", "user", "username", "user name"},
    "email": {"e-mail", "email", "mail", "e-mail address", "email address"},
    "role": {"role"},
}
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
    table = _table(data)
    if not table:
        raise Refusal("This roster is empty.")
    columns = _columns(table[0][1])
    rows = [_row(line, values, columns) for line, values in table[1:] if any(v.strip() for v in values)]
    if not rows:
        raise Refusal("This roster names nobody: there are no rows below the names of the columns.")
    if len(rows) > MOST_ROWS:
        raise Refusal(f"This roster has {len(rows)} rows; at most {MOST_ROWS} are taken at once.")
    return rows


def _table(data: bytes) -> list[table_file.Line]:
    """The file's rows of text, read in a process of its own."""
    with at_once.a_place(), tempfile.NamedTemporaryFile(prefix="nettlecap-roster-") as file:
        file.write(data)
        file.flush()
        path = Path(file.name)
        try:
            table: list[table_file.Line] = sandbox.run(
                table_file.read,
                path,
                reads=[path],
                seconds=table_file.SECONDS,
                memory_bytes=table_file.MEMORY_BYTES,
            )
        except table_file.NoTable as error:
            raise Refusal(str(error)) from error
        except ReadingStopped as error:
            raise Refusal(f"{table_file.NO_TABLE} It holds far more than a class.") from error
    return table


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
                enrol(leader, course, name=row.name, login=entry.login, email=row.email, role=row.role)
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
        # Nothing of who that is is told before they come.
        return Entry(row=row, login=row.login, deed="has an account, and is invited"), person
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
