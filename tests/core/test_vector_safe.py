"""A drawing names nothing outside itself: what it would fetch is not drawn, what it holds is."""

from __future__ import annotations

import base64
import io
import os
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from motion.errors import OverLimit
from motion.formats import vector
from motion.formats.limits import DEFAULT, Limits
from motion.formats.vector_safe import MOST_ELEMENTS, MOST_PICTURES, within

HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="40" {more}>'
)
SECRET = (200, 30, 30)


def png(size: int = 40) -> bytes:
    stream = io.BytesIO()
    Image.new("RGB", (size, size), SECRET).save(stream, format="PNG")
    return stream.getvalue()


def held(kind: str = "png", size: int = 40) -> str:
    return f"data:image/{kind};base64,{base64.b64encode(png(size)).decode()}"


def drawn(body: str, more: str = "", limits: Limits = DEFAULT) -> np.ndarray:
    return vector.decode(f"{HEAD.format(more=more)}{body}</svg>".encode(), limits)


class WithASecret(unittest.TestCase):
    """Somebody else's picture lies where a drawing could name it, from the folder at hand and by its whole path."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.secret = Path(folder.name) / "secret.png"
        self.secret.write_bytes(png())
        (Path(folder.name) / "secret.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">'
            '<rect id="r" width="40" height="40" fill="rgb(200,30,30)"/></svg>'
        )
        self.addCleanup(os.chdir, Path.cwd())
        os.chdir(folder.name)

    def test_nothing_of_it_is_drawn(self) -> None:
        whole = str(self.secret)
        nested = base64.b64encode(
            f'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">'
            f'<image href="{whole}" width="40" height="40"/></svg>'.encode()
        ).decode()
        box = 'width="40" height="40"'
        filtered = '<rect width="40" height="40" fill="blue" filter="url(#f)"/>'
        for body in (
            f'<image href="secret.png" {box}/>',
            f'<image xlink:href="secret.png" {box}/>',
            f'<image href="{whole}" {box}/>',
            f'<image href="file://{whole}" {box}/>',
            f'<image href="data:,nothing" xlink:href="{whole}" {box}/>',
            f'<image href="{held()[:40]}" xlink:href="{whole}" {box}/>',
            f'<image href="secret.svg" {box}/>',
            f'<image href="data:image/svg+xml;base64,{nested}" {box}/>',
            f'<use href="secret.svg#r" {box}/>',
            f'<use xlink:href="{self.secret.with_suffix(".svg")}#r" {box}/>',
            f'<filter id="f"><feImage href="{whole}" {box}/></filter>{filtered}',
            f'<filter id="f"><feImage xlink:href="secret.png" {box}/></filter>{filtered}',
            f'<style>@import url("secret.svg"); rect {{ fill: url({whole}); }}</style><rect {box}/>',
            f'<rect {box} fill="url({whole})"/>',
            f"<rect {box} style=\"fill: url('secret.svg#r')\"/>",
            f'<a href="{whole}"><image href="{whole}" {box}/></a>',
            f'<foreignObject {box}><image href="{whole}" {box}/></foreignObject>',
            f'<pattern id="p" {box}><image href="{whole}" {box}/></pattern><rect {box} fill="url(#p)"/>',
            f'<mask id="m"><image href="{whole}" {box}/></mask><rect {box} mask="url(#m)" fill="green"/>',
        ):
            with self.subTest(body):
                seen = drawn(body, more=f'xml:base="{self.secret.parent}/"')
                near = np.abs(seen[..., :3].astype(int) - SECRET).max(axis=2) < 30
                self.assertFalse((near & (seen[..., 3] > 0)).any())

    def test_pictures_that_it_holds_are(self) -> None:
        for body in (
            f'<image href="{held()}" width="40" height="40"/>',
            f'<image xlink:href="{held()}" width="40" height="40"/>',
            f'<g opacity="0.5"/><g><image href="{held()}" width="40" height="40"/></g>',
        ):
            with self.subTest(body[:40]):
                self.assertEqual(tuple(drawn(body)[20, 20, :3]), SECRET)

    def test_its_own_parts_are_too(self) -> None:
        body = (
            '<defs><linearGradient id="g"><stop stop-color="rgb(200,30,30)"/></linearGradient>'
            '<rect id="r" width="40" height="40"/></defs><style>.own { fill: url(#g) }</style>'
            '<use href="#r" class="own"/>'
        )
        self.assertEqual(tuple(drawn(body)[20, 20, :3]), SECRET)


class Limited(unittest.TestCase):
    def test_a_picture_larger_than_a_frame_is_refused_by_its_header(self) -> None:
        with self.assertRaises(OverLimit):
            drawn(f'<image href="{held(size=400)}"/>', limits=Limits(picture_pixels=100 * 100))

    def test_so_are_too_many_parts_or_pictures_and_endless_nesting(self) -> None:
        for body in (
            "<g/>" * (MOST_ELEMENTS + 1),
            f'<image href="{held(size=16)}"/>' * (MOST_PICTURES + 1),
            "<g>" * 300 + "</g>" * 300,
        ):
            with self.subTest(body[:20]), self.assertRaises(OverLimit):
                drawn(body)

    def test_a_style_that_hides_its_words_is_read_as_it_will_be(self) -> None:
        for style in (r"fill: u\72l(secret.svg#r)", r"fill: \75\72\6c(secret.svg#r)", "fill: URL( 'secret.svg#r' )"):
            with self.subTest(style):
                self.assertNotIn("secret", within(style))
        self.assertEqual(within("fill: url(#own)"), "fill: url(#own)")
