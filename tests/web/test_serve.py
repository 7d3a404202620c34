"""``manage.py serve``: server, worker and the simulated school system together, and all of them gone with it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

PATIENCE_S = 90


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Serving(SimpleTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.port, self.school_port = free_port(), free_port()
        self.environment = {
            **os.environ,
            "NETTLECAP_DATA": folder.name,
            "SCHOOL_PORT": str(self.school_port),
            "DJANGO_SETTINGS_MODULE": "nettlecap.settings",
        }
        self.environment.pop("SITE_URL", None)

    def manage(self, *arguments: str) -> list[str]:
        return [sys.executable, str(settings.BASE / "manage.py"), *arguments]

    def prepare(self) -> None:
        for command in (("migrate", "--verbosity", "0"), ("collectstatic", "--no-input", "--verbosity", "0")):
            subprocess.run(self.manage(*command), env=self.environment, check=True, cwd=Path("/"))

    def serve(self, *options: str) -> tuple[subprocess.Popen[str], list[str]]:
        """The running command, and what it says, line by line, as it says it."""
        process = subprocess.Popen(
            self.manage("serve", "--port", str(self.port), *options),
            env=self.environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            cwd=Path("/"),
        )
        self.addCleanup(process.kill)
        said: list[str] = []
        assert process.stdout is not None
        threading.Thread(target=lambda: said.extend(process.stdout or ()), daemon=True).start()
        return process, said

    def wait_for(self, said: list[str], words: str) -> str:
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            if words in "".join(said):
                return "".join(said)
            time.sleep(0.1)
        raise AssertionError(f"“{words}” was never said: {''.join(said)}")

    def fetch(self, port: int, path: str) -> str:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=PATIENCE_S) as answer:
            return str(answer.read().decode())

    def test_the_demo_serves_with_a_worker_and_a_school_and_ends_whole(self) -> None:
        self.prepare()
        process, said = self.serve("--demo")
        told = self.wait_for(said, "Stop with Ctrl C")
        self.assertIn("instructor   orla", told)
        self.assertIn(f"http://127.0.0.1:{self.school_port}/", told)
        self.assertIn("Sign in", self.fetch(self.port, "/sign-in"))
        self.assertIn('"kty"', self.fetch(self.port, "/school/keys.json"))
        self.assertIn("The school's office", self.fetch(self.school_port, "/"))
        process.terminate()
        self.assertEqual(process.wait(PATIENCE_S), 0)
        for port in (self.port, self.school_port):
            with self.assertRaises(OSError):
                self.fetch(port, "/")

    def test_without_the_demo_no_logins_are_told_and_no_school_is_there(self) -> None:
        self.prepare()
        process, said = self.serve()
        told = self.wait_for(said, "Stop with Ctrl C")
        self.assertNotIn("orla", told)
        with self.assertRaises(OSError):
            self.fetch(self.school_port, "/")
        process.terminate()
        process.wait(PATIENCE_S)

    def test_a_port_that_is_taken_is_told_with_another_to_try(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", self.port))
            taken.listen()
            process, said = self.serve()
            self.assertNotEqual(process.wait(PATIENCE_S), 0)
            self.wait_for(said, f"make demo PORT={self.port + 1}")
