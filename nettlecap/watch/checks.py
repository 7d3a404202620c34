"""Settings that would lose something, or let something out, are told before anything starts; the worst stop it."""

from __future__ import annotations

import ipaddress
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Error, Info, register
from django.core.checks import Warning as Warn
from django.db import connection

from nettlecap.files import shelf

SHORTEST_KEY = 32


@register()
def installation(app_configs: Any, **kwargs: Any) -> list[CheckMessage]:
    """Everything that can be told without asking the database."""
    return [told for look in LOOKS for told in look()]


def _public() -> list[str]:
    """The names by which others than this machine reach it."""
    return [host for host in settings.ALLOWED_HOSTS if not _is_here(host)]


def _is_here(host: str) -> bool:
    plain = host.strip("[]").lstrip(".")
    with suppress(ValueError):
        return ipaddress.ip_address(plain).is_loopback
    return plain in ("localhost", "testserver")


def _debug() -> Iterator[CheckMessage]:
    if settings.DEBUG and _public():
        yield Error(
            "DEBUG is on, and others reach this installation: its error pages would show them its insides.",
            hint="Take DEBUG out of the environment.",
            id="nettlecap.E001",
        )


def _hosts() -> Iterator[CheckMessage]:
    if "*" in settings.ALLOWED_HOSTS:
        yield Error(
            "ALLOWED_HOSTS takes any name: links in letters could lead anywhere.",
            hint="Name the hosts by which it is reached.",
            id="nettlecap.E002",
        )


def _https() -> Iterator[CheckMessage]:
    if _public() and not settings.HTTPS:
        yield Warn(
            "Others reach this installation, and not by https: passwords travel in the open.",
            hint="Put a proxy before it that speaks https, and set HTTPS=1; docs/running.md tells how.",
            id="nettlecap.W003",
        )


def _files() -> Iterator[CheckMessage]:
    folder = Path(settings.MEDIA_ROOT)
    there = folder if folder.exists() else Path(settings.DATA)
    if not os.access(there, os.W_OK | os.X_OK):
        yield Error(
            f"“{there}” cannot be written to, and hand-ins are kept there.",
            hint="Give it to the account that serves, or set NETTLECAP_DATA.",
            id="nettlecap.E004",
        )


def _secret() -> Iterator[CheckMessage]:
    if len(settings.SECRET_KEY) < SHORTEST_KEY and _public():
        yield Error(
            f"SECRET_KEY has fewer than {SHORTEST_KEY} characters; sittings and links could be forged.",
            hint="Leave it out: one is made on first use. Or give 50 characters by chance.",
            id="nettlecap.E005",
        )
    for path in _secret_files():
        if _is_tracked(path):
            yield Error(
                f"“{path.name}” is in the repository, and with it this installation’s secret.",
                hint="Take it out of the repository, and make a new one: whoever has a copy knows this one.",
                id="nettlecap.E006",
            )
    if shelf.is_shared() and "SECRET_KEY" not in os.environ:
        yield Error(
            "Several machines share their files, and each would make a SECRET_KEY of its own: who signs in at one "
            "would be nobody at the next.",
            hint="Give them all the same SECRET_KEY.",
            id="nettlecap.E007",
        )


def _secret_files() -> list[Path]:
    return [settings.DATA / "secret_key", settings.BASE / ".env"]


def _is_tracked(path: Path) -> bool:
    """Whether a file is kept in the repository beside the code."""
    git = shutil.which("git")
    if git is None or not path.exists() or settings.BASE not in path.parents or not (settings.BASE / ".git").exists():
        return False
    command = [git, "-C", str(settings.BASE), "ls-files", "--error-unmatch", "--", str(path)]
    return subprocess.run(command, capture_output=True, check=False).returncode == 0  # noqa: S603 (our own paths)


def _clock() -> Iterator[CheckMessage]:
    if not settings.USE_TZ:
        yield Error("USE_TZ is off: days of briefs would shift with the clocks.", id="nettlecap.E008")
    if _public() and "TIME_ZONE" not in os.environ:
        yield Info(
            "No TIME_ZONE is set, so days of briefs end by UTC.",
            hint="Name the school’s own, such as Europe/Dublin.",
            id="nettlecap.I009",
        )


def _machines() -> Iterator[CheckMessage]:
    if shelf.is_shared() and connection.vendor == "sqlite":
        yield Warn(
            "Files are shared between machines, and the database is a file of this one.",
            hint="Set DATABASE_URL to a PostgreSQL before a second machine works on this.",
            id="nettlecap.W010",
        )


LOOKS: tuple[Callable[[], Iterator[CheckMessage]], ...] = (_debug, _hosts, _https, _files, _secret, _clock, _machines)
