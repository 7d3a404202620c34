"""Requests of somebody who is signed in: every page but those that are open to all has only such."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.http import HttpRequest

if TYPE_CHECKING:
    from nettlecap.classroom.models import Person

    class SignedIn(HttpRequest):
        """What a view behind the sign-in gets."""

        user: Person
else:
    SignedIn = HttpRequest
