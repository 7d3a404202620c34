"""Pages to print fetch the application's own fonts and what they hold themselves, whatever stands in them."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase
from PIL import Image

from nettlecap.classroom import printing


class Printing(SimpleTestCase):
    def test_nothing_else_of_the_machine_or_the_network_is_fetched(self) -> None:
        from weasyprint.urls import URLFetcher

        with tempfile.TemporaryDirectory() as folder:
            secret = Path(folder) / "secret.png"
            Image.new("RGB", (8, 8), (200, 30, 30)).save(secret)
            asked: list[str] = []
            fetch = URLFetcher.fetch

            def told(self: URLFetcher, url: str, headers: object = None) -> object:
                asked.append(url)
                return fetch(self, url, headers)

            there = secret.as_uri()
            page = (
                f'<style>@import url("{there}"); @font-face {{ font-family: x; src: url("{there}"); }}'
                f' body {{ background: url("{there}"); font-family: x; }}</style>'
                f'<link rel="stylesheet" href="{there}"><img src="{there}"><img src="{secret}"><img src="secret.png">'
                f'<object data="{there}"></object><embed src="{there}"><img src="http://127.0.0.1:1/x.png">'
                f'<svg width="9" height="9"><image href="{there}" width="9" height="9"/><use href="{there}#a"/></svg>'
                f'<a href="{there}" rel="attachment">x</a><link rel="attachment" href="{there}">'
            )
            with mock.patch.object(URLFetcher, "fetch", told):
                made = printing.pdf(f"<html><body>{page}<p>Marks</p></body></html>")
        self.assertTrue(made.startswith(b"%PDF"))
        self.assertEqual(asked, [])
