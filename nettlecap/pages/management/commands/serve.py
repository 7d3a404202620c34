"""``manage.py serve``: the server and its workers together, until it is stopped."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import DatabaseError
from django.urls import reverse

from nettlecap.pages import demo, family, sweep

HELLO = "\nNettlecap is at  http://{host}:{port}/\n"
OF_DEMO = """
  instructor   {instructor}   password  {password}
  student      {one}   password  {password}   ({one_name})
  student      {two}   password  {password}   ({two_name})

Clips to hand in lie in  {samples}
"""
SCHOOL = "A simulated school system, to which marks can be sent, is at  http://127.0.0.1:{port}/\n"
NO_SCHOOL = "Port {port} is taken, so there is no simulated school system; try “make demo SCHOOL_PORT={other}”.\n"
SCHOOL_SYSTEM = "simulated school system"
STARTS_WITHIN_S, DAY_S = 60.0, 86_400.0
GOODBYE = "Stop with Ctrl C. What you enter stays{over}.\n"


def _is_free(host: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True


def _require_free(host: str, port: int) -> None:
    if not _is_free(host, port):
        raise CommandError(f"Port {port} cannot be used. Try another: “make demo PORT={port + 1}”.")


def _commands(host: str, port: int, servers: int, workers: int) -> dict[str, list[str]]:
    """What is started, by what it is called. Each server uses one core; a proxy spreads requests among their ports."""
    worker = [sys.executable, str(settings.BASE / "manage.py"), "run_worker"]
    server = [sys.executable, "-m", "nettlecap.web_server", "--bind"]
    looking = {
        _called("worker", n, workers): [*worker, "--name", f"worker-{n}", "--without", settings.QUEUE_OUT]
        for n in range(1, workers + 1)
    }
    out = {"worker for what goes out": [*worker, "--name", "worker-out", "--only", settings.QUEUE_OUT]}
    serving = {_called("server", n, servers): [*server, f"{host}:{port + n - 1}"] for n in range(1, servers + 1)}
    return {**looking, **(out if workers else {}), **serving}


def _called(name: str, number: int, many: int) -> str:
    return f"{name} {number}" if many > 1 else name


def _school_system(port: int) -> list[str]:
    return [
        sys.executable, "-m", "nettlecap.standins.school_system", "--port", str(settings.SCHOOL_PORT),
        "--tool-keys", f"http://127.0.0.1:{port}{reverse('school-keys')}",
        "--book", str(settings.DATA / "school-book.json"),
    ]  # fmt: skip


class Command(BaseCommand):
    help = "Serve the application and look at takes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument(
            "--servers", type=int, default=1, choices=range(1, 33), metavar="N",
            help="so many serve, on this port and those after it, for a proxy to spread requests among",
        )  # fmt: skip
        parser.add_argument(
            "--workers", type=int, default=1, choices=range(33), metavar="N",
            help="so many look at takes on this machine, about one a core; 0 where other machines do",
        )  # fmt: skip
        parser.add_argument(
            "--demo", action="store_true", help="start the simulated school system as well, and tell the demo's logins"
        )

    def handle(self, *, host: str, port: int, **options: Any) -> None:
        servers = options["servers"]
        for each in range(port, port + servers):
            _require_free(host, each)
        commands = _commands(host, port, servers, options["workers"])
        if options["demo"] and _is_free("127.0.0.1", settings.SCHOOL_PORT):
            commands[SCHOOL_SYSTEM] = _school_system(port)
        # What letters and other systems are told, unless the installation is known by another address.
        os.environ.setdefault("SITE_URL", f"http://{host}:{port}")
        self._keep_private()
        self._sweep()
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        running: dict[str, subprocess.Popen[bytes]] = {}
        try:
            running |= {name: family.start(command, settings.BASE) for name, command in commands.items()}
            for n in range(1, servers + 1):
                self._wait_for_server(running[_called("server", n, servers)], host, port + n - 1)
            self._greet(host, port, with_demo=options["demo"], with_school=SCHOOL_SYSTEM in commands)
            self._watch(running, commands)
        except KeyboardInterrupt:
            self.stdout.write("\nStopped. Nothing is lost.")
        finally:
            # A second Ctrl C would leave half of them behind.
            signal.signal(signal.SIGINT, signal.SIG_IGN)
            if family.stop(running.values()):
                self.stderr.write("Something did not stop when asked, and was ended. What it did is done again.")

    def _keep_private(self) -> None:
        """What is written from now on is its owner's alone, and so are the database and the secrets that are there."""
        os.umask(0o077)
        for path in settings.DATA.glob("*"):
            if path.is_file() and path.stat().st_uid == os.getuid():
                path.chmod(0o600)

    def _sweep(self) -> None:
        try:
            self.stdout.write(sweep.told(sweep.sweep()), ending="")
        except (OSError, DatabaseError) as error:
            self.stderr.write(f"What was left behind could not be swept up now: {error}")

    def _wait_for_server(self, server: subprocess.Popen[bytes], host: str, port: int) -> None:
        """Until it answers, or has given up."""
        until = time.monotonic() + STARTS_WITHIN_S
        while time.monotonic() < until and server.poll() is None:
            with suppress(OSError), socket.create_connection((host, port), timeout=1):
                return
            time.sleep(0.1)
        raise CommandError("The server could not start; what it said stands above.")

    def _greet(self, host: str, port: int, *, with_demo: bool, with_school: bool) -> None:
        one, two = demo.PUPILS[0], demo.PUPILS[1]
        of_demo = OF_DEMO.format(
            instructor=demo.INSTRUCTOR[0],
            password=demo.PASSWORD,
            one=one.login,
            one_name=one.name,
            two=two.login,
            two_name=two.name,
            samples=settings.DATA / "sample-clips",
        )
        of_demo += (SCHOOL if with_school else NO_SCHOOL).format(
            port=settings.SCHOOL_PORT, other=settings.SCHOOL_PORT + 1
        )
        over = '; "make demo-reset" starts over' if with_demo else ""
        told = HELLO.format(host=host, port=port) + (of_demo if with_demo else "") + GOODBYE.format(over=over)
        self.stdout.write(told)
        self.stdout.flush()

    def _watch(self, running: dict[str, subprocess.Popen[bytes]], commands: dict[str, list[str]]) -> None:
        """Start again whatever has died, the worker above all."""
        swept = time.monotonic()
        while True:
            time.sleep(1.0)
            for name, process in running.items():
                if process.poll() is not None:
                    self.stderr.write(f"The {name} stopped and is started again.")
                    running[name] = family.start(commands[name], settings.BASE)
            if time.monotonic() - swept > DAY_S:
                swept = time.monotonic()
                self._sweep()
