"""The house itself: deploy check, modules by hashed names, migrations, the demo, and the documents."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.test import SimpleTestCase, TestCase, override_settings

from motion.brief import Brief, Feel, PendulumBrief, Stride, Swing, WalkBrief
from nettlecap.classroom import roster
from nettlecap.classroom.models import Person
from nettlecap.pages import demo, gradebook, keeping
from nettlecap.takes.models import Take
from tests import vendored


def _keys(data: dict[str, Any], prefix: str = "") -> Iterator[str]:
    """The dotted keys of a brief file, down to what holds a value of its own."""
    for key, value in data.items():
        name = prefix + key
        inner = isinstance(value, dict) and name not in ("guide.ticks", "marking.points", "marking.weights")
        yield from _keys(value, f"{name}.") if inner else [name]


class House(SimpleTestCase):
    def manage(self, *arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
        with tempfile.TemporaryDirectory() as data:
            return subprocess.run(
                [sys.executable, str(settings.BASE / "manage.py"), *arguments],
                env={"PATH": "/usr/bin:/bin", "NETTLECAP_DATA": data, **environment},
                capture_output=True,
                text=True,
            )

    def test_the_deploy_check_is_clean_behind_https(self) -> None:
        answer = self.manage("check", "--deploy", "--fail-level", "WARNING", HTTPS="1", ALLOWED_HOSTS="marks.example")
        self.assertEqual(answer.returncode, 0, answer.stderr)

    def test_collected_modules_import_each_other_by_hashed_names(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            override_settings(
                STATIC_ROOT=folder,
                STORAGES={**settings.STORAGES, "staticfiles": {"BACKEND": "nettlecap.static_files.ModuleStorage"}},
            ),
        ):
            call_command("collectstatic", interactive=False, verbosity=0)
            modules = [p for p in Path(folder, "js").rglob("*.js") if re.search(r"\.[0-9a-f]{12}\.js$", p.name)]
            self.assertGreater(len(modules), 8)
            for module in modules:
                for name in re.findall(r'^import .*?from "(.+?)";?$', module.read_text(), re.MULTILINE):
                    self.assertRegex(name, r"\.[0-9a-f]{12}\.js$", module.name)

    def test_vendored_files_are_what_their_manifests_say(self) -> None:
        self.assertEqual(vendored.problems(), [])

    def test_the_brief_files_page_names_every_key(self) -> None:
        page = (settings.BASE / "docs" / "brief-file.md").read_text()
        swing = Brief(guide=Swing(), asked=PendulumBrief())
        walk = Brief(guide=Stride(), asked=WalkBrief())
        for brief in (Brief(guide=Feel(), frames=(1, 2), canvas=(16, 16)), swing, walk):
            for key in _keys(brief.to_json()):
                self.assertTrue(f"`{key}`" in page or key == "schema", key)

    def test_the_files_page_names_every_column_and_schema(self) -> None:
        page = (settings.BASE / "docs" / "files.md").read_text()
        for name in (*gradebook.COLUMNS, gradebook.SCHEMA, keeping.SCHEMA):
            self.assertIn(f"`{name}`", page)
        for words in roster.COLUMNS.values():
            self.assertTrue(any(word in page for word in words), words)

    def test_what_is_named_for_ears_has_a_role_that_can_be_named(self) -> None:
        """A bare box may not carry a name, and whether a page shows it empty is a matter of timing."""
        bare = re.compile(r"<(?:div|span|p|b|i)\b(?![^>]*\brole=)[^>]*\baria-label(?:ledby)?=[^>]*>")
        for template in settings.BASE.glob("nettlecap/templates/**/*.html"):
            with self.subTest(template.name):
                self.assertEqual(bare.findall(template.read_text()), [])

    def test_every_make_target_and_check_that_the_readme_names_is_there(self) -> None:
        readme = (settings.BASE / "README.md").read_text()
        makefile = (settings.BASE / "Makefile").read_text()
        for target in re.findall(r"`?make ([a-z-]+)", readme):
            self.assertRegex(makefile, rf"(?m)^{target}:", target)
        for picture in (settings.BASE / "docs" / "screenshots").glob("*.png"):
            self.assertIn(f"docs/screenshots/{picture.name}", readme)


class Migrations(TestCase):
    def test_models_and_migrations_agree(self) -> None:
        call_command("makemigrations", check=True, dry_run=True, verbosity=0)


class Demo(TestCase):
    def setUp(self) -> None:
        self.addCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)

    def test_it_is_loaded_with_every_take_and_taken_up_where_it_was_broken_off(self) -> None:
        def break_off(words: str) -> None:
            if "Mateus" in words:
                raise KeyboardInterrupt

        self.assertFalse(demo.is_loaded())
        with self.assertRaises(KeyboardInterrupt):
            demo.load(break_off)
        self.assertEqual(Take.objects.count(), 3)
        told: list[str] = []
        demo.load(told.append)
        self.assertTrue(demo.is_loaded())
        self.assertEqual((Take.objects.count(), Person.objects.count(), len(told)), (32, 10, 32))
        self.assertTrue(Person.objects.get(username="orla").check_password(demo.PASSWORD))
