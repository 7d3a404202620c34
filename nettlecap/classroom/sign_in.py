"""Signing in slowed down, never shut: guessing takes for ever, and nobody is kept out by what others do.

Failures are counted for a login from one address, for a login from everywhere, and for an address. After a number that
anybody may need, each next try has to wait, twice as long as the one before, up to an end. A device from which somebody
has signed in before is counted by itself: whoever knows it by nothing but the login cannot slow it down.
"""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core import signing
from django.db import IntegrityError, transaction
from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from nettlecap.classroom.models import Person, SignInTries

COOKIE, SALT = "nettlecap-device", "device"
KNOWN_FOR = timedelta(days=365)
MOST_KNOWN = 6
"""So many people may use one device; who has not for longest is forgotten on it."""
FORGOTTEN_AFTER = timedelta(hours=2)
FIRST_WAIT_S = 2


@dataclass(frozen=True, slots=True)
class Count:
    """What failures are counted of: how many are free, and how long the longest wait is, in seconds."""

    key: str
    free: int
    longest_s: int

    def wait_after(self, failures: int) -> int:
        """Seconds that pass before the next try, after so many failures."""
        over = failures - self.free
        return 0 if over < 0 else min(self.longest_s, FIRST_WAIT_S << min(over, 20))


def counts_for(request: HttpRequest, login: str) -> list[Count]:
    """Everything that a failure of this login counts for, from where it is tried."""
    login = login.strip()[:150]
    device = known_device(request, login)
    if device:
        return [Count(_key("device", device, login), 8, 900)]
    address = request.META.get("REMOTE_ADDR", "")
    return [
        Count(_key("place", address, login), 6, 900),
        Count(_key("login", login), 60, 20),
        Count(_key("address", address), 60, 60),
    ]


def _key(*parts: str) -> str:
    """A name to count under that tells neither address nor login."""
    return f"{parts[0]}:{hashlib.sha256(repr((settings.SECRET_KEY[:16], *parts)).encode()).hexdigest()[:40]}"


def wait(counts: list[Count]) -> int:
    """How many seconds the next try has to wait; 0 for none."""
    now = timezone.now()
    by_key = {c.key: c for c in counts}
    longest = 0
    for tries in SignInTries.objects.filter(key__in=by_key, last_at__gte=now - FORGOTTEN_AFTER):
        until = tries.last_at + timedelta(seconds=by_key[tries.key].wait_after(tries.failures))
        longest = max(longest, -(-int((until - now).total_seconds() * 1000) // 1000))
    return longest


def failed(counts: list[Count]) -> None:
    """Count a failure; several at once all count."""
    now = timezone.now()
    for count in counts:
        rows = SignInTries.objects.filter(key=count.key)
        rows.filter(last_at__lt=now - FORGOTTEN_AFTER).delete()
        if rows.update(failures=F("failures") + 1, last_at=now):
            continue
        try:
            with transaction.atomic():
                SignInTries.objects.create(key=count.key, failures=1, last_at=now)
        except IntegrityError:
            rows.update(failures=F("failures") + 1, last_at=now)


def succeeded(counts: list[Count]) -> None:
    """Forget the failures of this login from here: they were slips. What others tried elsewhere still counts."""
    own = [c.key for c in counts if c.key.startswith(("device:", "place:"))]
    SignInTries.objects.filter(key__in=own).delete()


def known_device(request: HttpRequest, login: str) -> str:
    """The device's own number, if who has this login has signed in from it and kept the password since; else empty."""
    told = _told(request)
    person = Person.objects.filter(username=login).first() if told else None
    if person is None or told.get("people", {}).get(str(person.pk)) != _mark(person):
        return ""
    return str(told.get("device", ""))


def remember(request: HttpRequest, answer: HttpResponse, person: Person) -> None:
    """Let the device be known as one from which this person has signed in."""
    told = _told(request)
    people = {k: v for k, v in told.get("people", {}).items() if k != str(person.pk)}
    people = dict(list(people.items())[-(MOST_KNOWN - 1) :]) | {str(person.pk): _mark(person)}
    value = signing.dumps({"device": told.get("device") or secrets.token_hex(8), "people": people}, salt=SALT)
    answer.set_cookie(
        COOKIE, value, max_age=KNOWN_FOR, httponly=True, secure=settings.SESSION_COOKIE_SECURE, samesite="Lax"
    )


def _told(request: HttpRequest) -> dict[str, Any]:
    try:
        told = signing.loads(request.COOKIES.get(COOKIE, ""), salt=SALT, max_age=KNOWN_FOR)
    except signing.BadSignature:
        return {}
    return told if isinstance(told, dict) else {}


def _mark(person: Person) -> str:
    """Changes with the password: who sets a new one starts anew on every device."""
    return hashlib.sha256(person.get_session_auth_hash().encode()).hexdigest()[:16]
