"""A simulated school system: one course, its members, and a gradebook that takes scores over the open standard.

It answers as a platform does to a tool: OAuth 2.0 client credentials with a signed assertion (1EdTech Security
Framework 1.1), Names and Role Provisioning Services 2.0, Assignment and Grade Services 2.0; and shows its gradebook as
a page. ``python -m nettlecap.standins.school_system --port 8801 --tool-keys http://127.0.0.1:8000/school/keys.json``
"""

from __future__ import annotations

import argparse
import html
import json
import secrets
import threading
import time
from dataclasses import dataclass, field
from datetime import datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

import jwt

LINE_ITEM = "application/vnd.ims.lis.v2.lineitem+json"
LINE_ITEMS = "application/vnd.ims.lis.v2.lineitemcontainer+json"
SCORE = "application/vnd.ims.lis.v1.score+json"
MEMBERS = "application/vnd.ims.lti-nrps.v2.membershipcontainer+json"
AGS, NRPS = "https://purl.imsglobal.org/spec/lti-ags/scope/", "https://purl.imsglobal.org/spec/lti-nrps/scope/"
SCOPES = {f"{AGS}lineitem", f"{AGS}score", f"{NRPS}contextmembership.readonly"}
ASSERTION = "urn:ietf:params:oauth:client-assertion-type:jwt-bearer"
COURSE, CLIENT = "first-motion", "nettlecap"
A_PAGE = 5
TOKEN_SECONDS = 3600

MADE_UP = (
    ("s-101", "Ayumi Torrance", "ayumi@saltmarsh.example"),
    ("s-102", "Kofi Lindqvist", "kofi@saltmarsh.example"),
    ("s-103", "Safiya Brandão", "safiya@saltmarsh.example"),
    ("s-104", "Mateus Ilves", "mateus@saltmarsh.example"),
    ("s-105", "Niamh Adeyemi", "n.adeyemi@harbour.example"),
    ("s-106", "Ravi Kestrel", "ravi@saltmarsh.example"),
    ("s-107", "Yulia Marchbank", "yulia@saltmarsh.example"),
    ("s-109", "Linus Okonjo", "linus@saltmarsh.example"),
)
"""Its members: one is known there by another address, one of the class is missing, one is not in the class."""


@dataclass
class Book:
    """What the system keeps: line items by number, and their scores by member."""

    items: dict[str, dict[str, Any]] = field(default_factory=dict)
    scores: dict[str, dict[str, dict[str, Any]]] = field(default_factory=dict)
    path: Path | None = None

    def keep(self) -> None:
        if self.path is not None:
            self.path.write_text(json.dumps({"items": self.items, "scores": self.scores}))

    @classmethod
    def at(cls, path: Path | None) -> Book:
        kept = json.loads(path.read_text()) if path is not None and path.exists() else {}
        return cls(items=kept.get("items", {}), scores=kept.get("scores", {}), path=path)


class Refused(Exception):
    """A request that the system answers with an error status."""

    def __init__(self, status: int, why: str) -> None:
        super().__init__(why)
        self.status = status


class SchoolSystem(ThreadingHTTPServer):
    """The system on a port of this machine; port 0 takes any that is free."""

    daemon_threads = True

    def __init__(self, port: int, tool_keys: str, path: Path | None = None) -> None:
        super().__init__(("127.0.0.1", port), _Handler)
        self.address = f"http://127.0.0.1:{self.server_address[1]}"
        self.keys = jwt.PyJWKClient(tool_keys)
        self.book = Book.at(path)
        self.tokens: dict[str, tuple[float, set[str]]] = {}
        self.used: set[str] = set()
        self.lock = threading.Lock()

    @property
    def token_url(self) -> str:
        return f"{self.address}/token"

    @property
    def course_url(self) -> str:
        return f"{self.address}/courses/{COURSE}"

    def grant(self, form: dict[str, str]) -> dict[str, Any]:
        """A token for a signed assertion; Refused where it is not what it should be."""
        if form.get("grant_type") != "client_credentials" or form.get("client_assertion_type") != ASSERTION:
            raise Refused(400, "unsupported_grant_type")
        assertion = form.get("client_assertion", "")
        try:
            key = self.keys.get_signing_key_from_jwt(assertion)
            claims = jwt.decode(
                assertion,
                key,
                algorithms=["RS256"],
                audience=self.token_url,
                issuer=CLIENT,
                options={"require": ["exp", "iat", "jti", "sub"]},
            )
        except jwt.PyJWTError as error:
            raise Refused(401, f"invalid_client: {error}") from error
        asked = set(form.get("scope", "").split())
        with self.lock:
            if claims["sub"] != CLIENT or claims["jti"] in self.used:
                raise Refused(401, "invalid_client")
            if not asked or asked - SCOPES:
                raise Refused(400, "invalid_scope")
            self.used.add(claims["jti"])
            token = secrets.token_urlsafe(24)
            self.tokens[token] = (time.time() + TOKEN_SECONDS, asked)
        told = {"access_token": token, "token_type": "Bearer", "expires_in": TOKEN_SECONDS}
        return {**told, "scope": " ".join(sorted(asked))}

    def require(self, header: str, scope: str) -> None:
        """Refused unless the token is good for that."""
        kind, _, token = header.partition(" ")
        until, scopes = self.tokens.get(token, (0.0, set()))
        if kind != "Bearer" or until < time.time():
            raise Refused(401, "The token is missing or has run out.")
        if scope not in scopes:
            raise Refused(403, "The token is not good for this.")

    def add_item(self, told: dict[str, Any]) -> dict[str, Any]:
        most = told.get("scoreMaximum")
        if not isinstance(told.get("label"), str) or isinstance(most, bool) or not isinstance(most, int | float):
            raise Refused(422, "A line item needs a label and a scoreMaximum.")
        if most <= 0:
            raise Refused(422, "A scoreMaximum is above nought.")
        with self.lock:
            number = str(len(self.book.items) + 1)
            kept: dict[str, Any] = {k: told[k] for k in ("label", "scoreMaximum", "resourceId", "tag") if k in told}
            self.book.items[number] = {"id": f"{self.course_url}/lineitems/{number}", **kept}
            self.book.keep()
        return self.book.items[number]

    def take_score(self, number: str, told: dict[str, Any]) -> None:
        if number not in self.book.items:
            raise Refused(404, "There is no such line item.")
        for name in ("userId", "timestamp", "activityProgress", "gradingProgress"):
            if not isinstance(told.get(name), str):
                raise Refused(422, f"A score needs {name}.")
        given, most = told.get("scoreGiven"), told.get("scoreMaximum")
        if not isinstance(given, int | float) or not isinstance(most, int | float) or most <= 0 or given < 0:
            raise Refused(422, "A score needs scoreGiven and scoreMaximum.")
        if told["userId"] not in {m[0] for m in MADE_UP}:
            raise Refused(404, "There is no such member.")
        at = datetime.fromisoformat(told["timestamp"])
        if at.tzinfo is None:
            raise Refused(422, "A timestamp needs its time zone.")
        with self.lock:
            scores = self.book.scores.setdefault(number, {})
            before = scores.get(told["userId"])
            if before and datetime.fromisoformat(before["timestamp"]) >= at:
                raise Refused(409, "A later score is here already.")
            scores[told["userId"]] = told
            self.book.keep()


class _Handler(BaseHTTPRequestHandler):
    server: SchoolSystem

    def do_GET(self) -> None:
        self._answer(self._get)

    def do_POST(self) -> None:
        self._answer(self._post)

    def log_message(self, *args: Any) -> None:
        """Nothing is logged."""

    def _answer(self, do: Any) -> None:
        try:
            do()
        except Refused as refused:
            self._send(refused.status, "application/json", json.dumps({"error": str(refused)}))
        except ValueError:
            self._send(400, "application/json", json.dumps({"error": "This request could not be read."}))

    def _get(self) -> None:
        path = urlsplit(self.path)
        authorization, query = self.headers.get("Authorization", ""), parse_qs(path.query)
        if path.path == "/":
            self._send(200, "text/html; charset=utf-8", _page(self.server.book))
        elif path.path == f"/courses/{COURSE}/members":
            self.server.require(authorization, f"{NRPS}contextmembership.readonly")
            self._members(int(query.get("from", ["0"])[0]))
        elif path.path == f"/courses/{COURSE}/lineitems":
            self.server.require(authorization, f"{AGS}lineitem")
            wanted = query.get("resource_id", [""])[0]
            items = [i for i in self.server.book.items.values() if not wanted or i.get("resourceId") == wanted]
            self._send(200, LINE_ITEMS, json.dumps(items))
        else:
            raise Refused(404, "There is nothing here.")

    def _members(self, first: int) -> None:
        members = [
            {"status": "Active", "user_id": number, "name": name, "email": email, "roles": ["Learner"]}
            for number, name, email in MADE_UP[first : first + A_PAGE]
        ]
        more = {}
        if first + A_PAGE < len(MADE_UP):
            more["Link"] = f'<{self.server.course_url}/members?from={first + A_PAGE}>; rel="next"'
        url = f"{self.server.course_url}/members"
        told = {"id": url, "context": {"id": COURSE, "title": "First Motion"}, "members": members}
        self._send(200, MEMBERS, json.dumps(told), more)

    def _post(self) -> None:
        path = urlsplit(self.path).path
        body = self.rfile.read(min(int(self.headers.get("Content-Length", "0")), 1_000_000)).decode()
        kind = self.headers.get("Content-Type", "").partition(";")[0]
        authorization = self.headers.get("Authorization", "")
        if path == "/token":
            form = {k: v[0] for k, v in parse_qs(body).items()}
            self._send(200, "application/json", json.dumps(self.server.grant(form)))
        elif path == f"/courses/{COURSE}/lineitems":
            self.server.require(authorization, f"{AGS}lineitem")
            self._send(201, LINE_ITEM, json.dumps(self.server.add_item(_told(body, kind, LINE_ITEM))))
        elif path.startswith(f"/courses/{COURSE}/lineitems/") and path.endswith("/scores"):
            self.server.require(authorization, f"{AGS}score")
            self.server.take_score(path.split("/")[4], _told(body, kind, SCORE))
            self._send(204, "application/json", "")
        else:
            raise Refused(404, "There is nothing here.")

    def _send(self, status: int, kind: str, text: str, more: dict[str, str] | None = None) -> None:
        data = text.encode()
        self.send_response(status)
        for name, value in {"Content-Type": kind, "Content-Length": str(len(data)), **(more or {})}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(data)


def _told(body: str, kind: str, wanted: str) -> dict[str, Any]:
    if kind != wanted:
        raise Refused(415, f"This takes {wanted}.")
    told = json.loads(body)
    if not isinstance(told, dict):
        raise Refused(422, "This takes one object.")
    return told


def _page(book: Book) -> str:
    """The gradebook as a page: members down, line items across."""
    heads = "".join(f"<th>{html.escape(i['label'])} ({i['scoreMaximum']:g})</th>" for i in book.items.values())
    rows = []
    for number, name, _ in MADE_UP:
        scores = [book.scores.get(item, {}).get(number) for item in book.items]
        cells = "".join(
            f"<td title='{html.escape(s.get('comment', ''), quote=True)}'>{s['scoreGiven']:g}</td>"
            if s
            else "<td></td>"
            for s in scores
        )
        rows.append(f"<tr><th>{html.escape(name)}</th>{cells}</tr>")
    return (
        "<!doctype html><html lang='en-GB'><meta charset='utf-8'><title>The school's office</title>"
        "<h1>The school's office: First Motion</h1><p>A simulated school system. What is sent to it shows here.</p>"
        f"<table border='1' cellpadding='6'><tr><th></th>{heads}</tr>{''.join(rows)}</table>"
    )


def _cell(score: dict[str, Any] | None) -> str:
    if score is None:
        return "<td></td>"
    return f"<td title='{html.escape(score.get('comment', ''), quote=True)}'>{score['scoreGiven']:g}</td>"


def main() -> None:
    """Run until stopped."""
    parser = argparse.ArgumentParser(description="A simulated school system.")
    parser.add_argument("--port", type=int, default=8801)
    parser.add_argument("--tool-keys", required=True, help="where the application's public keys are")
    parser.add_argument("--book", type=Path, help="a file to keep the gradebook in")
    given = parser.parse_args()
    SchoolSystem(given.port, given.tool_keys, given.book).serve_forever()


if __name__ == "__main__":
    main()
