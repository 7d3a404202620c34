"""Processes that belong together: they are stopped together, and none outlives who began it."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path

PARENT_DEATH = 1
"""What the kernel is asked for; source: prctl(2), PR_SET_PDEATHSIG."""
PATIENCE_S = 20.0


def start(command: list[str], cwd: Path) -> subprocess.Popen[bytes]:
    """Begin a process in a group of its own, so that Ctrl C reaches it only through us; it ends when we do."""
    return subprocess.Popen(command, cwd=cwd, start_new_session=True, preexec_fn=_with_parent(os.getpid()))  # noqa: S603, PLW1509


def _with_parent(parent: int) -> Callable[[], None]:
    libc = ctypes.CDLL(None) if sys.platform == "linux" else None

    def ask() -> None:
        if libc is None:
            return
        libc.prctl(PARENT_DEATH, signal.SIGTERM, 0, 0, 0)
        if os.getppid() != parent:
            os.kill(os.getpid(), signal.SIGTERM)

    return ask


def stop(processes: Iterable[subprocess.Popen[bytes]], patience_s: float = PATIENCE_S) -> list[int]:
    """Ask them all to stop, and kill whatever has not after a while, with all that it began; whom that was."""
    found = list(processes)
    for process in found:
        with suppress(ProcessLookupError):
            process.terminate()
    until = time.monotonic() + patience_s
    killed = []
    for process in found:
        try:
            process.wait(max(0.1, until - time.monotonic()))
        except subprocess.TimeoutExpired:
            killed.append(process.pid)
            with suppress(ProcessLookupError):
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()
    return killed
