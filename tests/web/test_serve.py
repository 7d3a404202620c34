"""``manage.py serve``: server, worker and the simulated school system together, and all of them gone with it."""

from __future__ import annotations

import os
import signal
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


def is_free(port: int) -> bool:
    """Whether nobody listens on a port."""
    with socket.socket() as probe:
        return bool(probe.connect_ex(("127.0.0.1", port)))


def environment_for(folder: Path) -> dict[str, str]:
    """What an installation of its own in this folder is started with."""
    own = {"NETTLECAP_DATA": str(folder), "DJANGO_SETTINGS_MODULE": "nettlecap.settings"}
    return {**{k: v for k, v in os.environ.items() if k not in ("SITE_URL", "DATABASE_URL", "SECRET_KEY")}, **own}


def prepared(folder: Path, **more: str) -> dict[str, str]:
    """An installation in this folder, ready to be served; its environment."""
    environment = environment_for(folder) | more
    for command in (("migrate", "--verbosity", "0"), ("collectstatic", "--no-input", "--verbosity", "0")):
        manage = [sys.executable, str(settings.BASE / "manage.py"), *command]
        subprocess.run(manage, env=environment, check=True, cwd=Path("/"))
    return environment


class Serving(SimpleTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.port, self.school_port = free_port(), free_port()
        self.folder = Path(folder.name)
        self.environment = environment_for(self.folder) | {"SCHOOL_PORT": str(self.school_port)}

    def manage(self, *arguments: str) -> list[str]:
        return [sys.executable, str(settings.BASE / "manage.py"), *arguments]

    def prepare(self) -> None:
        prepared(self.folder)

    def serve(self, *options: str) -> tuple[subprocess.Popen[str], list[str]]:
        """The running command, and what it says, line by line, as it says it."""
        process = subprocess.Popen(
            self.manage("serve", "--port", str(self.port), *options),
            env=self.environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            cwd=Path("/"),
            start_new_session=True,
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

    def test_however_it_ends_nothing_of_it_is_left(self) -> None:
        self.prepare()
        for number, to_group in ((signal.SIGINT, True), (signal.SIGKILL, False)):
            with self.subTest(number):
                process, said = self.serve()
                told = self.wait_for(said, "Stop with Ctrl C")
                (os.killpg if to_group else os.kill)(process.pid, number)
                process.wait(PATIENCE_S)
                self.wait_until_free()
                self.assertNotIn("Traceback", told + "".join(said))
        until = time.monotonic() + PATIENCE_S
        while any(str(self.port) in command for command in _commands()) and time.monotonic() < until:
            time.sleep(0.1)
        self.assertEqual([c for c in _commands() if str(self.port) in c], [])

    def wait_until_free(self) -> None:
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)):
                    return
            time.sleep(0.1)
        raise AssertionError("something still answers")

    def test_several_serve_on_ports_in_a_row_and_several_look_at_clips(self) -> None:
        self.prepare()
        while not is_free(self.port + 1):
            self.port = free_port()
        process, said = self.serve("--servers", "2", "--workers", "2")
        self.wait_for(said, "Stop with Ctrl C")
        for port in (self.port, self.port + 1):
            self.assertIn("Sign in", self.fetch(port, "/sign-in"))
        until = time.monotonic() + PATIENCE_S
        while "nettlecap_workers_alive 3.0" not in self.fetch(self.port + 1, "/metrics"):
            self.assertLess(time.monotonic(), until, "the workers give no sign of life")
            time.sleep(0.2)
        process.terminate()
        self.assertEqual(process.wait(PATIENCE_S), 0)

    def test_the_data_of_a_served_house_are_its_owners_alone(self) -> None:
        self.prepare()
        process, said = self.serve()
        self.wait_for(said, "Stop with Ctrl C")
        self.assertEqual(self.folder.stat().st_mode & 0o077, 0)
        for name in ("db.sqlite3", "secret_key"):
            self.assertEqual((self.folder / name).stat().st_mode & 0o077, 0, name)
        process.terminate()
        process.wait(PATIENCE_S)

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


def _commands() -> list[str]:
    """What every process on this machine was begun with."""
    found = []
    for path in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            found.append(path.read_bytes().replace(b"\0", b" ").decode(errors="replace"))
        except OSError:
            continue
    return found
