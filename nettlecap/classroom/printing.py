"""Pages as PDF. Nothing is fetched but the application's own fonts, and the file tells nothing of the machine."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PIL import ImageFile

from motion.guide.stills import FONTS
from nettlecap.errors import Refusal

FONT = "font://"
"""How a page names one of the application's own fonts by its file's name."""
PICTURE = "data:image/png;base64,"
"""How a page holds a picture that the application made."""


def pdf(page: str) -> bytes:
    """A page of HTML as a PDF. Raises Refusal where the machine lacks what setting type needs."""
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise Refusal(
            "A PDF cannot be made on this machine: the library Pango is missing. Ask whoever looks after it to install "
            "it (apt-get install libpangoft2-1.0-0). The other files can be had."
        ) from error

    # The library lets cut-off pictures pass as whole in all of the process; a hand-in must never be read so.
    ImageFile.LOAD_TRUNCATED_IMAGES = False

    class OnlyFonts(URLFetcher):
        """Answers with the application's own fonts and what the page holds itself, and with nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url.startswith(PICTURE):
                return super().fetch(url, headers)
            font = next((path for path in FONTS if url == FONT + Path(path).name), None)
            if font is None:
                raise ValueError(f"“{url}” is not fetched")
            return super().fetch(Path(font).as_uri(), headers)

    made: bytes = HTML(string=page, url_fetcher=OnlyFonts(), base_url=None).write_pdf(finisher=_forget_the_maker)
    return made


def _forget_the_maker(_: Any, file: Any) -> None:
    file.info.pop("Producer", None)
