"""Rosters: tables as schools write them, what would happen told row by row, and all or nothing done."""

from __future__ import annotations

import io
import resource
import zipfile

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table, TableCell, TableRow
from odf.text import P

from nettlecap.classroom import roster
from nettlecap.classroom.models import Invitation, Letter, Membership, Person, Role
from nettlecap.classroom.table_file import LARGEST, LARGEST_UNPACKED, MEMORY_BYTES
from nettlecap.errors import Refusal
from tests.web.school import SchoolTest


def spreadsheet(rows: list[list[str]], empty_rows: int = 0) -> bytes:
    """A table as an OpenDocument spreadsheet, with empty rows after the first."""
    document = OpenDocumentSpreadsheet()
    sheet = Table(name="Class")
    for index, values in enumerate(rows):
        row = TableRow()
        for value in values:
            cell = TableCell(valuetype="string")
            cell.addElement(P(text=value))
            row.addElement(cell)
        sheet.addElement(row)
        if index == 0 and empty_rows:
            sheet.addElement(TableRow(numberrowsrepeated=empty_rows))
    document.spreadsheet.addElement(sheet)
    stream = io.BytesIO()
    document.write(stream)
    return stream.getvalue()


def names(data: bytes) -> list[tuple[int, str, str, str]]:
    return [(r.line, r.name, r.email, r.role) for r in roster.read(data)]


def logins(data: bytes) -> list[tuple[int, str, str]]:
    return [(r.line, r.name, r.login) for r in roster.read(data)]


class Tables(SchoolTest):
    def test_tables_as_programs_write_them(self) -> None:
        told = [(2, "Beatriz Holm", "b@sea.example", "student"), (3, "Per Åkesson", "", "assistant")]
        text = "Name{0}E-mail{0}Role\r\nBeatriz Holm{0}b@sea.example{0}\r\n Per  Åkesson {0}{0}Assistant\r\n"
        for comma in ",;\t":
            for coding in ("utf-8", "utf-8-sig", "utf-16", "cp1252"):
                with self.subTest(comma=comma, coding=coding):
                    self.assertEqual(names(text.format(comma).encode(coding)), told)

    def test_quotes_given_and_family_names_and_columns_nobody_asked_for(self) -> None:
        data = b'Group;First name;Surname;Username\n3;"Mary; Ann";O\'Dell;mao\n\n;;;\n4;Juan;;jua\n'
        rows = roster.read(data)
        self.assertEqual(
            [(r.line, r.name, r.login) for r in rows], [(2, "Mary; Ann O'Dell", "mao"), (5, "Juan", "jua")]
        )

    def test_a_spreadsheet_with_gaps_keeps_its_row_numbers(self) -> None:
        data = spreadsheet([["Name", "Login"], ["Світлана Коваль", ""], ["Aoife Byrne", "aoife"]], empty_rows=3)
        self.assertEqual(
            [(r.line, r.name, r.login) for r in roster.read(data)],
            [(5, "Світлана Коваль", ""), (6, "Aoife Byrne", "aoife")],
        )

    def test_what_is_no_roster_is_refused_in_words(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("content.xml", b" " * (LARGEST_UNPACKED + 10))
        entities = io.BytesIO()
        with zipfile.ZipFile(entities, "w") as archive:
            archive.writestr("content.xml", b'<!DOCTYPE x [<!ENTITY a "aaaa">]><x>&a;</x>')
        cases = {
            b"": "empty",
            b"Ayumi\nKofi\n": "must name the columns",
            b"name,email\n": "names nobody",
            b"name\n" + b"x\n" * 501: "at most 500",
            b"name\n" + b"x" * LARGEST: "too large",
            b"\x00\x01\x02name": "no table",
            b'name\n"open': "no table",
            b"PK\x03\x04rubbish": "no table",
            bomb.getvalue(): "no table",
            entities.getvalue(): "no table",
        }
        for data, why in cases.items():
            with self.subTest(why, start=data[:20]), self.assertRaisesRegex(Refusal, why):
                roster.read(data)

    def test_one_that_would_fill_the_memory_is_read_where_that_harms_nobody(self) -> None:
        """Spaces and rows repeated by the hundred million, in a few kilobytes."""
        plain = spreadsheet([["Name"], ["Inês Faria"]])
        stream = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(plain)) as source, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as target:
            for entry in source.namelist():
                data = source.read(entry)
                if entry == "content.xml":
                    spaces = b'<text:s text:c="400000000"/>'
                    data = data.replace(b"In\xc3\xaas Faria", spaces + b"In\xc3\xaas" + spaces + b"Faria")
                    rows = b'<table:table-row table:number-rows-repeated="900000000"/>'
                    data = data.replace(b"</table:table>", rows * 20_000 + b"</table:table>")
                target.writestr(entry, data)
        self.assertLess(len(stream.getvalue()), 200_000)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        self.assertEqual(names(stream.getvalue()), [(2, "Inês Faria", "", "student")])
        after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        self.assertLess((after - before) * 1024, MEMORY_BYTES / 4)


class Plans(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def look(self, text: str):  # type: ignore[no-untyped-def]
        file = SimpleUploadedFile("class.csv", text.encode())
        return self.client.post(reverse("read-roster", args=[self.school.course.pk]), {"roster": file})

    def take(self, answer):  # type: ignore[no-untyped-def]
        rows = answer.context["plan"].sealed
        return self.client.post(reverse("take-roster", args=[self.school.course.pk]), {"rows": rows})

    def test_it_is_looked_at_first_and_then_done_as_a_whole(self) -> None:
        Person.objects.filter(pk=self.school.stranger.pk).update(email="wren@sea.example")
        Membership.objects.filter(person=self.school.classmate).update(left_at="2026-01-01T00:00Z")
        answer = self.look(
            "name,email,login,role\nAyumi,,ayumi,\nKofi,,kofi,\nWren,WREN@sea.example,,assistant\n"
            "Inês Faria,ines@sea.example,,\nInês Roque,,,\n"
        )
        deeds = [(e.login, e.deed) for e in answer.context["plan"].entries]
        self.assertEqual(
            deeds,
            [
                ("ayumi", ""),
                ("kofi", "comes back"),
                ("", "has an account, and is invited"),
                ("ines", "is new"),
                ("ines.roque", "is new"),
            ],
        )
        self.assertFalse(Person.objects.filter(username="ines").exists())
        self.assertContains(self.take(answer), "4 people of the roster are in First Motion now, or invited")
        self.client.force_login(self.school.stranger, backend="django.contrib.auth.backends.ModelBackend")
        self.client.post(reverse("join", args=[Invitation.objects.get().code]))
        self.as_person(self.school.instructor)
        members = dict(Membership.objects.filter(course=self.school.course).values_list("person__username", "role"))
        self.assertEqual((members["wren"], members["ines"], members["ines.roque"]), ("assistant", "student", "student"))
        self.assertFalse(Person.objects.get(username="ines").has_usable_password())
        self.assertEqual(Letter.objects.filter(subject="You are in First Motion").count(), 3)
        self.assertContains(self.look("name,login\nAyumi,ayumi\n"), "Everybody of this roster is here already")

    def test_a_wrong_row_is_told_and_then_nobody_comes(self) -> None:
        answer = self.look(
            "name,email,role\nNew One,fine@sea.example,\nOther,nowhere@,\n,,\nThird,,captain\n,a@sea.example,\n"
        )
        problems = [e.problem for e in answer.context["plan"].entries]
        self.assertEqual(problems[0], "")
        for problem, words in zip(problems[1:], ("no e-mail", "no role", "needs a name"), strict=True):
            self.assertIn(words, problem)
        self.assertContains(answer, "3 rows cannot be taken in, so nobody is")
        self.assertNotContains(answer, reverse("take-roster", args=[self.school.course.pk]))
        self.assertEqual(self.take(answer).status_code, 422)
        self.assertFalse(Person.objects.filter(email="fine@sea.example").exists())

    def test_who_stands_in_it_twice_is_told(self) -> None:
        answer = self.look("name,login\nNew,new\nNew again,new\nAyumi,ayumi\nAyumi,ayumi\n")
        problems = [bool(e.problem) for e in answer.context["plan"].entries]
        self.assertEqual(problems, [False, True, False, True])

    def test_rows_of_another_making_and_no_file_are_refused(self) -> None:
        url = reverse("take-roster", args=[self.school.course.pk])
        self.assertEqual(self.client.post(url, {"rows": "made-up:rows"}).status_code, 422)
        answer = self.client.post(reverse("read-roster", args=[self.school.course.pk]))
        self.assertContains(answer, "Pick a roster first", status_code=422)

    def test_a_name_that_begins_like_a_formula_stays_a_name(self) -> None:
        self.take(self.look('name\n"=HYPERLINK(""x"")"\n'))
        self.assertTrue(Person.objects.filter(name='=HYPERLINK("x")').exists())
        self.assertEqual(Membership.objects.get(person__name__startswith="=").role, Role.STUDENT)
