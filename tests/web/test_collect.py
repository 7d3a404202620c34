"""Handing in from a folder, matched by name."""

from __future__ import annotations

import io
import tempfile
import zipfile
from pathlib import Path

from django.core.management import CommandError, call_command

from nettlecap.takes.collect import words_of
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip


class Collect(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)
        self.school.person("safiya", "student")
        self.school.classmate.name = "Kofi Lindqvist"
        self.school.classmate.save()

    def put(self, name: str, data: bytes | None = None) -> None:
        (self.folder / name).write_bytes(data or clean_clip())

    def collect(self, *options: str) -> tuple[str, str]:
        said, error = io.StringIO(), ""
        try:
            call_command("collect", str(self.folder), *options, stdout=said)
        except CommandError as refused:
            error = str(refused)
        return said.getvalue(), error

    def test_it_shows_what_it_would_do_and_does_it_only_then(self) -> None:
        self.put("AYUMI_float.zip")
        pictures = self.folder / "Lindqvist, Kofi"
        pictures.mkdir()
        with zipfile.ZipFile(io.BytesIO(clean_clip())) as archive:
            archive.extractall(pictures)
        (self.folder / ".DS_Store").write_bytes(b"x")
        said, error = self.collect("--brief", str(self.school.brief.pk))
        self.assertIn("AYUMI_float.zip: Ayumi", said)
        self.assertIn("Lindqvist, Kofi: Kofi Lindqvist", said)
        self.assertIn("Nothing was handed in yet", said)
        self.assertEqual((error, Take.objects.count()), ("", 0))
        said, error = self.collect("--brief", "A cork float", "--do")
        self.assertIn("handed in as take 1", said)
        self.assertEqual(error, "")
        self.assertEqual(set(Take.objects.values_list("student__username", flat=True)), {"ayumi", "kofi"})

    def test_what_is_not_clear_is_left_aside_and_the_rest_handed_in(self) -> None:
        self.put("float.zip")
        self.put("ayumi-and-kofi.zip")
        self.put("safiya-1.zip")
        self.put("safiya-2.zip")
        self.put("Kofi L.zip", b"only words")
        self.put("ayumi.zip")
        said, error = self.collect("--brief", str(self.school.brief.pk), "--do")
        self.assertIn("float.zip: left aside, no student", said)
        self.assertIn("ayumi-and-kofi.zip: left aside, it could be of Ayumi or Kofi Lindqvist", said)
        self.assertEqual(said.count("there is more than one of Safiya"), 2)
        self.assertIn("Nothing was handed in.", said)
        self.assertIn("ayumi.zip: Ayumi, handed in as take 1", said)
        self.assertIn("5 of 6 left aside", error)
        self.assertEqual(Take.objects.count(), 1)

    def test_folders_and_briefs_that_are_not_there(self) -> None:
        self.assertIn("nothing in", self.collect("--brief", str(self.school.brief.pk))[1])
        self.put("ayumi.zip")
        self.assertIn("no brief is called", self.collect("--brief", "999")[1])

    def test_names_are_compared_without_accents_and_case(self) -> None:
        self.assertEqual(words_of("Safiya_BRANDÃO-take 2"), {"safiya", "brandao", "take", "2"})
