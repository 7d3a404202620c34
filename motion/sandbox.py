"""Runs work on hand-ins in a separate process with limits on time and memory.

Everything handed in is hostile until read: a file that crashes a decoder, or makes it grow, ends its own process
and nobody else's. That process can open nothing but what it is given (``motion.confine``), ignores Ctrl C, and ends
with the one that began it, however that ends.
"""

from __future__ import annotations

import errno
import logging
import multiprocessing
import os
import resource
import signal
import tempfile
import threading
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from motion import confine, memory
from motion.errors import MotionError, ReaderKilled, ReadingStopped

logger = logging.getLogger(__name__)
MEMORY_BYTES = 3_000_000_000
"""Address space, not memory in use: numerical libraries reserve far more than they touch."""
SECONDS = 300.0
SCRATCH_PREFIX = "nettlecap-reading-"
"""How folders begin in which a reader keeps what is passing; one that is left is of a process that was killed."""
FROM_OUTSIDE = tuple(-s for s in (signal.SIGKILL, signal.SIGTERM, signal.SIGINT, signal.SIGHUP))
LOOK_UP_S = 0.25
"""So often who waits for the answer looks up whether to stop."""
INTERRUPTED = "Looking at the clip was interrupted. The clip itself is kept; have it looked at again."
LOST = 255
"""What is told of a child whose own server was killed."""

_CONTEXT = multiprocessing.get_context("forkserver")
# With what the libraries would load at their first use, in each process anew.
_PICTURES = [f"PIL.{kind}ImagePlugin" for kind in ("Bmp", "Gif", "Jpeg", "Ppm", "Png")]
_CONTEXT.set_forkserver_preload(["motion.jobs", "numpy.ma", *_PICTURES])

Tell = Callable[[float, str], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Bounds:
    seconds: float
    memory_bytes: int
    reads: tuple[Path, ...]
    writes: tuple[Path, ...]
    scratch: Path


def run(
    work: Callable[..., Any],
    *args: Any,
    progress: Tell | None = None,
    seconds: float = SECONDS,
    memory_bytes: int = MEMORY_BYTES,
    reads: Iterable[Path] = (),
    writes: Iterable[Path] = (),
    stopping: Callable[[], bool] | None = None,
) -> Any:
    """Call ``work(*args, progress)`` in a process of its own and return what it returns.

    ``work`` is a module's own function; its arguments and its answer are pickled. It can open the files and folders
    in ``reads``, write below those in ``writes`` (which must be there), and nothing else. ``progress`` is called here
    with what the work tells. Raises the MotionError that the work raised, ReadingStopped when it took too long, needed
    too much memory or crashed, ReaderKilled when somebody else ended it, it never came to the work, or once
    ``stopping`` tells that we stop, and OSError where the disk is full.
    """
    here, there = _CONTEXT.Pipe(duplex=True)
    with tempfile.TemporaryDirectory(prefix=SCRATCH_PREFIX, ignore_cleanup_errors=True) as scratch:
        bounds = _Bounds(
            seconds=seconds, memory_bytes=memory_bytes, reads=tuple(reads), writes=tuple(writes), scratch=Path(scratch)
        )
        child = _CONTEXT.Process(target=_child, args=(there, work, args, bounds), daemon=True)
        try:
            child.start()
        except (EOFError, ConnectionError) as error:
            # Whoever begins these processes was killed just now; it is begun anew with the next one.
            raise ReaderKilled(INTERRUPTED) from error
        finally:
            there.close()
        try:
            return _listen(here, child, time.monotonic() + seconds, progress, stopping or (lambda: False))
        finally:
            here.close()
            if child.is_alive():
                child.join(0.5)
                child.kill()
            child.join()


def _listen(pipe: Connection, child: Any, deadline: float, progress: Tell | None, stopping: Callable[[], bool]) -> Any:
    begun = False
    while True:
        while not pipe.poll(min(LOOK_UP_S, max(0.0, deadline - time.monotonic()))):
            if stopping():
                raise ReaderKilled(INTERRUPTED)
            if time.monotonic() >= deadline:
                raise ReadingStopped("Reading the clip took too long and was stopped. Export it smaller or shorter.")
        try:
            kind, value = pipe.recv()
        except (EOFError, ConnectionError):
            child.join(5)
            raise _ended(child.exitcode, begun) from None
        if kind == "done":
            return value
        if kind == "begun":
            begun = True
        if kind == "refused":
            raise value
        if kind == "memory":
            raise ReadingStopped("The clip needs too much memory. Export it at the brief's frame size.")
        if kind == "full":
            raise OSError(value, os.strerror(value))
        if kind == "failed":
            raise RuntimeError(f"the analysis failed:\n{value}")
        if kind == "progress" and progress:
            progress(*value)


def _ended(code: int | None, begun: bool) -> ReadingStopped:
    """What is to be said of a process that ended without an answer; before it had ``begun`` it had read nothing."""
    logger.warning("a reader ended without an answer, %s: %s", "at work" if begun else "before it began", code)
    if not begun or code in FROM_OUTSIDE or code == LOST:
        return ReaderKilled(INTERRUPTED)
    return ReadingStopped(
        "Reading the clip failed: its pictures made the reader stop. Export it again, in another format if you can."
    )


def _child(pipe: Connection, work: Callable[..., Any], args: tuple[Any, ...], bounds: _Bounds) -> None:
    import traceback

    # Ctrl C is meant for the process that began this one, which says what is to become of the work.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    memory.keep_freed()
    space, seconds = bounds.memory_bytes, int(bounds.seconds)
    resource.setrlimit(resource.RLIMIT_AS, (space, space))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds + 5, seconds + 10))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    tempfile.tempdir = str(bounds.scratch)
    os.chdir(bounds.scratch)
    code = confine.code_folders(work.__module__)
    confine.confine([*code, *bounds.reads], [bounds.scratch, *bounds.writes])
    threading.Thread(target=_end_with_parent, args=(pipe,), daemon=True).start()
    pipe.send(("begun", None))
    try:
        answer = work(*args, lambda part, step: pipe.send(("progress", (part, step))))
        pipe.send(("done", answer))
    except MotionError as error:
        pipe.send(("refused", error))
    except MemoryError:
        pipe.send(("memory", None))
    except OSError as error:
        full = error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EROFS)
        pipe.send(("full", error.errno) if full else ("failed", traceback.format_exc()))
    except Exception as error:
        kind = "memory" if "Insufficient memory" in str(error) else "failed"
        pipe.send((kind, traceback.format_exc()))


def _end_with_parent(pipe: Connection) -> None:
    """Nobody ever writes to this end: what comes is that the other one is gone, and with it who waits."""
    with suppress(EOFError, OSError):
        pipe.recv()
    os._exit(1)
