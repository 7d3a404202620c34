"""Talking to a school's system: a token, who is in a course, line items and scores.

After the open standards of 1EdTech: Security Framework 1.1, Names and Role Provisioning Services 2.0, Assignment and
Grade Services 2.0. Only addresses of the system's own host are ever asked, and nothing is followed elsewhere.
"""

from __future__ import annotations

import secrets
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, TypeVar
from urllib.parse import urlsplit

import httpx
import jwt

from nettlecap.errors import Refusal
from nettlecap.school import keys

AGS, NRPS = "https://purl.imsglobal.org/spec/lti-ags/scope/", "https://purl.imsglobal.org/spec/lti-nrps/scope/"
SCOPES = f"{AGS}lineitem {AGS}score {NRPS}contextmembership.readonly"
ASSERTION = "urn:ietf:params:oauth:client-assertion-type:jwt-bearer"
LINE_ITEM = "application/vnd.ims.lis.v2.lineitem+json"
LINE_ITEMS = "application/vnd.ims.lis.v2.lineitemcontainer+json"
SCORE = "application/vnd.ims.lis.v1.score+json"
MEMBERS = "application/vnd.ims.lti-nrps.v2.membershipcontainer+json"
SECONDS, ASSERTION_SECONDS = 15.0, 300
MOST_PAGES = 50
_Kind = TypeVar("_Kind", dict[str, Any], list[Any])


class SchoolTrouble(Refusal):
    """The school's system could not be reached, or did not take what was sent."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    """Somebody in a course of the school's system."""

    number: str
    name: str
    email: str
    login: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Score:
    """Points of somebody, as they are sent."""

    member: str
    given: float
    most: float
    comment: str
    at: datetime


class Services:
    """A session with a school's system; use it in a ``with`` block. Every method raises SchoolTrouble."""

    def __init__(self, token_url: str, client_id: str) -> None:
        self._token_url, self._client_id = token_url, client_id
        self._client = httpx.Client(timeout=SECONDS, follow_redirects=False)
        self._token = ""

    def __enter__(self) -> Services:
        return self

    def __exit__(self, *_: object) -> None:
        self._client.close()

    def members(self, url: str) -> list[Member]:
        """Everybody who is active in a course, page by page."""
        return [member for page in self._pages(url, MEMBERS) for member in _members(page)]

    def line_item(self, url: str, *, resource: str, label: str, most: float) -> str:
        """The address of the line item of a resource (our own name for it), made if it is not there yet."""
        there = _read(self._ask("GET", url, accept=LINE_ITEMS, params={"resource_id": resource}), list)
        found = next((i for i in there if isinstance(i, dict) and i.get("resourceId") == resource), None)
        if found is None:
            told = {"label": label, "scoreMaximum": most, "resourceId": resource}
            found = _read(self._ask("POST", url, accept=LINE_ITEM, content_type=LINE_ITEM, json=told), dict)
        if not isinstance(found.get("id"), str):
            raise SchoolTrouble("The school’s system does not say where its line item is.")
        return str(found["id"])

    def send(self, line_item: str, score: Score) -> None:
        """Send a score."""
        path, query, rest = line_item.partition("?")
        told = {
            "userId": score.member,
            "scoreGiven": score.given,
            "scoreMaximum": score.most,
            "comment": score.comment,
            "timestamp": score.at.astimezone(UTC).isoformat(timespec="milliseconds"),
            "activityProgress": "Completed",
            "gradingProgress": "FullyGraded",
        }
        self._ask("POST", f"{path.rstrip('/')}/scores{query}{rest}", content_type=SCORE, json=told)

    def _pages(self, url: str, accept: str) -> Iterator[dict[str, Any]]:
        for _ in range(MOST_PAGES):
            answer = self._ask("GET", url, accept=accept)
            yield _read(answer, dict)
            url = answer.links.get("next", {}).get("url", "")
            if not url:
                return

    def _ask(
        self,
        method: str,
        url: str,
        *,
        accept: str = "application/json",
        content_type: str = "",
        **more: Any,
    ) -> httpx.Response:
        headers = {"Accept": accept, "Authorization": f"Bearer {self._bearer()}"}
        if content_type:
            headers["Content-Type"] = content_type
        return self._request(method, url, headers=headers, **more)

    def _bearer(self) -> str:
        if not self._token:
            now = int(time.time())
            claims = {
                "iss": self._client_id,
                "sub": self._client_id,
                "aud": self._token_url,
                "iat": now,
                "exp": now + ASSERTION_SECONDS,
                "jti": secrets.token_urlsafe(16),
            }
            signed = jwt.encode(claims, keys.private_key(), algorithm=keys.ALGORITHM, headers={"kid": keys.key_id()})
            form = {
                "grant_type": "client_credentials",
                "client_assertion_type": ASSERTION,
                "client_assertion": signed,
                "scope": SCOPES,
            }
            told = _read(self._request("POST", self._token_url, data=form), dict)
            self._token = str(told.get("access_token", ""))
        return self._token

    def _request(self, method: str, url: str, **more: Any) -> httpx.Response:
        if host_of(url) != host_of(self._token_url):
            raise SchoolTrouble(f"“{url[:80]}” is not at the school’s system, so nothing was asked there.")
        try:
            answer = self._client.request(method, url, **more)
        except httpx.HTTPError as error:
            raise SchoolTrouble(f"The school’s system at {host_of(url)} could not be reached ({error}).") from error
        if answer.status_code in (401, 403):
            raise SchoolTrouble("The school’s system does not let us in. Does it know our keys and our client number?")
        if not answer.is_success:
            raise SchoolTrouble(f"The school’s system did not take it ({answer.status_code}): {answer.text[:160]}")
        return answer


def _read(answer: httpx.Response, kind: type[_Kind]) -> _Kind:
    """What an answer tells, as an object or a list. Raises SchoolTrouble where it is something else."""
    try:
        told = answer.json()
    except ValueError:
        told = None
    if not isinstance(told, kind):
        raise SchoolTrouble(
            f"The school’s system at {host_of(str(answer.url))} answers something that is not understood."
        )
    return told


def host_of(url: str) -> str:
    """Scheme, host and port of an address; empty where it is none."""
    try:
        parts = urlsplit(url)
        return f"{parts.scheme}://{parts.netloc}" if parts.scheme in ("http", "https") and parts.hostname else ""
    except ValueError:
        return ""


def _members(page: dict[str, Any]) -> Iterator[Member]:
    members = page.get("members")
    for told in members if isinstance(members, list) else ():
        if isinstance(told, dict) and told.get("status", "Active") == "Active" and told.get("user_id"):
            yield Member(
                number=str(told["user_id"]),
                name=str(told.get("name") or ""),
                email=str(told.get("email") or ""),
                login=str(told.get("lis_person_sourcedid") or ""),
            )
