"""The server as a process: slow senders hold nothing up, large bodies are refused unread, nobody is shut out."""

from __future__ import annotations

import http.client
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import ClassVar

from django.conf import settings
from django.test import SimpleTestCase

from nettlecap.guard import bodies
from tests.web.test_serve import PATIENCE_S, free_port, prepared

SIGN_IN = (
    "from django.contrib.auth import SESSION_KEY, BACKEND_SESSION_KEY, HASH_SESSION_KEY;"
    "from django.contrib.sessions.backends.db import SessionStore;"
    "from nettlecap.classroom.models import Person;"
    "p = Person.objects.create_user(username='ayumi', name='Ayumi', password='a-long-secret');"
    "s = SessionStore(); s[SESSION_KEY] = str(p.pk);"
    "s[BACKEND_SESSION_KEY] = 'django.contrib.auth.backends.ModelBackend';"
    "s[HASH_SESSION_KEY] = p.get_session_auth_hash(); s.save(); print(s.session_key)"
)


class Serving(SimpleTestCase):
    folder: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        place = tempfile.TemporaryDirectory()
        cls.addClassCleanup(place.cleanup)
        cls.folder, cls.port = Path(place.name), free_port()
        cls.environment = prepared(cls.folder)
        shell = [sys.executable, str(settings.BASE / "manage.py"), "shell", "--verbosity", "0", "-c", SIGN_IN]
        told = subprocess.run(shell, env=cls.environment, capture_output=True, text=True, check=True)
        cls.session = told.stdout.split()[-1]
        command = [sys.executable, "-m", "nettlecap.web_server", "--bind", f"127.0.0.1:{cls.port}"]
        cls.server = subprocess.Popen(command, env=cls.environment, cwd=settings.BASE)
        cls.addClassCleanup(cls.server.wait)
        cls.addClassCleanup(cls.server.terminate)
        cls._wait_for(cls.port)

    @classmethod
    def _wait_for(cls, port: int) -> None:
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            try:
                socket.create_connection(("127.0.0.1", port), timeout=1).close()
            except OSError:
                time.sleep(0.1)
            else:
                return
        raise AssertionError("the server never answered")

    def connect(self) -> socket.socket:
        return socket.create_connection(("127.0.0.1", self.port), timeout=PATIENCE_S)

    def begin(self, path: str, length: int, *, signed_in: bool) -> socket.socket:
        """A post whose header is sent and whose body is not."""
        cookie = f"Cookie: {settings.SESSION_COOKIE_NAME}={self.session}\r\n" if signed_in else ""
        there = self.connect()
        there.sendall(
            f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1\r\n{cookie}Content-Type: multipart/form-data; boundary=x\r\n"
            f"Content-Length: {length}\r\n\r\n".encode()
        )
        return there

    def status(self, there: socket.socket) -> int:
        with there:
            return int(there.recv(200).split()[1])

    def page(self) -> str:
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/sign-in", timeout=PATIENCE_S) as answer:
            return str(answer.read().decode())

    def test_a_body_that_is_too_large_is_refused_before_any_of_it_is_sent(self) -> None:
        clip = bodies.most_of("/briefs/1/hand-in", signed_in=True)
        for path, length, signed_in in (
            ("/sign-in", bodies.SMALL + 1, False),
            ("/briefs/1/hand-in", 588_000_000, False),
            ("/briefs/1/hand-in", clip + 1, True),
            ("/you", bodies.USUAL + 1, True),
        ):
            with self.subTest(path, signed_in=signed_in):
                self.assertEqual(self.status(self.begin(path, length, signed_in=signed_in)), 413)

    def test_what_a_proxy_of_ours_says_reaches_the_application(self) -> None:
        told = {"X-Forwarded-Proto": "https", "X-Forwarded-For": "198.51.100.1"}
        for trusted, status in (("127.0.0.1", 200), ("10.0.0.1", 301)):
            port = free_port()
            own = {"HTTPS": "1", "TRUSTED_PROXIES": trusted}
            command = [sys.executable, "-m", "nettlecap.web_server", "--bind", f"127.0.0.1:{port}"]
            with subprocess.Popen(command, env={**self.environment, **own}, cwd=settings.BASE) as server:
                self._wait_for(port)
                connection = http.client.HTTPConnection("127.0.0.1", port, timeout=PATIENCE_S)
                connection.request("GET", "/sign-in", headers=told)
                self.assertEqual(connection.getresponse().status, status)
                connection.close()
                server.terminate()

    def test_one_of_no_told_length_is_cut_off_at_the_same_limit(self) -> None:
        with self.connect() as there:
            there.sendall(b"POST /sign-in HTTP/1.1\r\nHost: 127.0.0.1\r\nTransfer-Encoding: chunked\r\n\r\n")
            piece = b"4000\r\n" + b"x" * 0x4000 + b"\r\n"
            answer = b""
            # It may have hung up already.
            with suppress(OSError):
                for _ in range(40):
                    there.sendall(piece)
            with suppress(OSError):
                answer = there.recv(200)
        self.assertTrue(not answer or b" 413 " in answer, answer)

    def test_more_slow_senders_than_there_are_threads_hold_nobody_up(self) -> None:
        with ExitStack() as stack:
            for _ in range(40):
                there = stack.enter_context(self.begin("/sign-in", 5000, signed_in=False))
                there.sendall(b"slow")
            self.assertIn("Sign in", self.page())

    def test_nor_do_hundreds_of_connections_that_say_nothing(self) -> None:
        with ExitStack() as stack:
            for n in range(400):
                there = stack.enter_context(self.connect())
                if n % 2:
                    there.sendall(b"GET / HTTP/1.1\r\nHost: ")
            self.assertIn("Sign in", self.page())

    def test_one_sitting_sends_two_large_clips_at_once(self) -> None:
        with ExitStack() as stack:
            for _ in range(2):
                there = stack.enter_context(self.begin("/briefs/1/hand-in", 9_000_000, signed_in=True))
                there.sendall(b"x" * 100_000)
            time.sleep(0.5)
            self.assertEqual(self.status(self.begin("/briefs/1/hand-in", 9_000_000, signed_in=True)), 429)
        # Once those are gone there is room again: the address is none of theirs, but the body is taken in.
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            third = self.begin("/briefs/1/hand-in", 3_000_000, signed_in=True)
            try:
                third.sendall(b"x" * 3_000_000)
                status = self.status(third)
            except OSError:
                status = 429
            if status != 429:
                break
            time.sleep(0.2)
        self.assertEqual(status, 404)

    def test_a_clip_leaves_nothing_in_the_temporary_folder(self) -> None:
        before = set(Path(tempfile.gettempdir()).iterdir())
        with self.begin("/briefs/1/hand-in", 3_000_000, signed_in=True) as there:
            there.sendall(b"x" * 2_000_000)
            time.sleep(0.5)
            self.assertEqual({p for p in set(Path(tempfile.gettempdir()).iterdir()) - before if p.is_file()}, set())
