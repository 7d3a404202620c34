"""Pages as PDF. Nothing is fetched but the application's own fonts, and the file tells nothing of the machine."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings

from nettlecap.errors import Refusal

VENDOR = Path(settings.BASE) / "nettlecap" / "static" / "vendor"


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

    class OnlyFonts(URLFetcher):
        """Answers with the vendored fonts, and with nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            name = url.rpartition("/")[2]
            path = VENDOR / name
            if not url.startswith("font:") or path.parent != VENDOR or path.suffix != ".woff2":
                raise ValueError(f"“{url}” is not fetched")
            return super().fetch(path.as_uri(), headers)

    made: bytes = HTML(string=page, url_fetcher=OnlyFonts(), base_url=None).write_pdf(finisher=_forget_the_maker)
    return made


def _forget_the_maker(_: Any, file: Any) -> None:
    file.info.pop("Producer", None)
