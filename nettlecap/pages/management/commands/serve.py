"""``manage.py serve``: the server and a worker together, until one is stopped."""

from __future__ import annotations

import signal
import socket
import subprocess
import sys
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from nettlecap.pages import demo

HELLO = """
Nettlecap is at  http://{host}:{port}/

  instructor   {instructor}   password  {password}
  student      {one}   password  {password}   ({one_name})
  student      {two}   password  {password}   ({two_name})

Clips to hand in lie in  {samples}
Stop with Ctrl C. What you enter stays; "make demo-reset" starts over.
"""


def _require_free(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise CommandError(
                f"Port {port} cannot be used ({error.strerror}). Try another: “make demo PORT={port + 1}”."
            ) from error


class Command(BaseCommand):
    help = "Serve the application and look at takes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8000)

    def handle(self, *, host: str, port: int, **options: Any) -> None:
        _require_free(host, port)
        manage = str(settings.BASE / "manage.py")
        commands = {
            "worker": [sys.executable, manage, "run_worker"],
            "server": [
                sys.executable, "-m", "gunicorn", "nettlecap.wsgi", "--bind", f"{host}:{port}", "--workers", "1",
                "--threads", "8", "--timeout", "180", "--no-control-socket", "--log-level", "warning",
                "--chdir", str(settings.BASE),
            ],
        }  # fmt: skip
        running = {name: subprocess.Popen(command) for name, command in commands.items()}  # noqa: S603
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        try:
            time.sleep(1.5)
            if running["server"].poll() is not None:
                raise CommandError("The server could not start; what it said stands above.")
            self._greet(host, port)
            self._watch(running, commands)
        except KeyboardInterrupt:
            self.stdout.write("\nStopped. Nothing is lost.")
        finally:
            for process in running.values():
                process.terminate()
            for process in running.values():
                process.wait(30)

    def _greet(self, host: str, port: int) -> None:
        one, two = demo.PUPILS[0], demo.PUPILS[1]
        self.stdout.write(
            HELLO.format(
                host=host,
                port=port,
                instructor=demo.INSTRUCTOR[0],
                password=demo.PASSWORD,
                one=one.login,
                one_name=one.name,
                two=two.login,
                two_name=two.name,
                samples=settings.DATA / "sample-clips",
            )
        )
        self.stdout.flush()

    def _watch(self, running: dict[str, subprocess.Popen[bytes]], commands: dict[str, list[str]]) -> None:
        """Start again whatever has died, the worker above all."""
        while True:
            time.sleep(1.0)
            for name, process in running.items():
                if process.poll() is not None:
                    self.stderr.write(f"The {name} stopped and is started again.")
                    running[name] = subprocess.Popen(commands[name])  # noqa: S603
