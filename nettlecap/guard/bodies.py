"""How large the body of a request may be, known by its address before anything of it is read or written.

The server asks this while a request arrives (``nettlecap.web_server``), and the application once more
(``BodyLimits``), so that it holds behind any server.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from motion.formats.limits import DEFAULT, MEGABYTE
from nettlecap.guard.answers import refused

SMALL = 64_000
"""Before somebody has signed in: a login, a password, an answer to an invitation."""
USUAL = 2 * MEGABYTE
"""A form, a drawing-over, a brief file, a roster."""
AROUND = 2 * MEGABYTE
"""What a form puts around the files of a clip."""
CLIPS = re.compile(r"^/briefs/\d{1,9}/(hand-in|check|look-through)$")


def most_of(path: str, *, signed_in: bool) -> int:
    """So many bytes may the body of a request to this address have."""
    if not signed_in:
        return SMALL
    return DEFAULT.file_bytes + AROUND if CLIPS.match(path) else USUAL


def session_of(cookies: str) -> str:
    """The key of a session in a Cookie header; empty where there is none."""
    found = re.search(rf"(?:^|;\s*){re.escape(settings.SESSION_COOKIE_NAME)}=([a-z0-9]{{16,64}})", cookies)
    return found[1] if found else ""


def is_signed_in(session_key: str) -> bool:
    """Whether a session is somebody's who has signed in."""
    from django.contrib.auth import SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore

    return bool(session_key) and SESSION_KEY in SessionStore(session_key)


class BodyLimits:
    """Refuses a body that is too large, or of no told length, unread."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = request.META.get("CONTENT_LENGTH") or "0"
        length = int(told) if told.isdecimal() and len(told) < 16 else -1
        if length > SMALL or length < 0:
            most = most_of(request.path_info, signed_in=request.user.is_authenticated)
            if length < 0 or length > most:
                return _too_large(request, most)
        return self.get_response(request)


def _too_large(request: HttpRequest, most: int) -> HttpResponse:
    # Nothing of the body was read; the connection cannot be used for another request.
    words = (
        "Sign in first. Nothing was sent."
        if most == SMALL
        else f"That is more than is taken here: at most {most / MEGABYTE:.0f} MB. Nothing was kept."
    )
    answer = refused(request, words, 413)
    answer["Connection"] = "close"
    return answer
