"""``manage.py serve``: the server and its workers together, until it is stopped."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.urls import reverse

from nettlecap.pages import demo

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


def _commands(host: str, port: int) -> dict[str, list[str]]:
    worker = [sys.executable, str(settings.BASE / "manage.py"), "run_worker"]
    return {
        "worker": [*worker, "--without", settings.QUEUE_OUT],
        "worker for what goes out": [*worker, "--name", "worker-out", "--only", settings.QUEUE_OUT],
        "server": [
            sys.executable, "-m", "gunicorn", "nettlecap.wsgi", "--bind", f"{host}:{port}", "--workers", "1",
            "--threads", "8", "--timeout", "180", "--no-control-socket", "--log-level", "warning",
            "--chdir", str(settings.BASE),
        ],
    }  # fmt: skip


def _school_system(port: int) -> list[str]:
    return [
        sys.executable, "-m", "nettlecap.standins.school_system", "--port", str(settings.SCHOOL_PORT),
        "--tool-keys", f"http://127.0.0.1:{port}{reverse('school-keys')}",
        "--book", str(settings.DATA / "school-book.json"),
    ]  # fmt: skip


def _start(command: list[str]) -> subprocess.Popen[bytes]:
    return subprocess.Popen(command, cwd=settings.BASE)  # noqa: S603


class Command(BaseCommand):
    help = "Serve the application and look at takes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument(
            "--demo", action="store_true", help="start the simulated school system as well, and tell the demo's logins"
        )

    def handle(self, *, host: str, port: int, **options: Any) -> None:
        _require_free(host, port)
        commands = _commands(host, port)
        if options["demo"] and _is_free("127.0.0.1", settings.SCHOOL_PORT):
            commands[SCHOOL_SYSTEM] = _school_system(port)
        # What letters and other systems are told, unless the installation is known by another address.
        os.environ.setdefault("SITE_URL", f"http://{host}:{port}")
        running = {name: _start(command) for name, command in commands.items()}
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        try:
            time.sleep(1.5)
            if running["server"].poll() is not None:
                raise CommandError("The server could not start; what it said stands above.")
            self._greet(host, port, with_demo=options["demo"], with_school=SCHOOL_SYSTEM in commands)
            self._watch(running, commands)
        except KeyboardInterrupt:
            self.stdout.write("\nStopped. Nothing is lost.")
        finally:
            for process in running.values():
                process.terminate()
            for process in running.values():
                process.wait(30)

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
        while True:
            time.sleep(1.0)
            for name, process in running.items():
                if process.poll() is not None:
                    self.stderr.write(f"The {name} stopped and is started again.")
                    running[name] = _start(commands[name])
