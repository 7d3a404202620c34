"""Runs work on hand-ins in a separate process with limits on time and memory.

Everything handed in is hostile until read: a file that crashes a decoder, or makes it grow, ends its own process
and nobody else's.
"""

from __future__ import annotations

import multiprocessing
import resource
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from motion import memory
from motion.errors import MotionError, ReadingStopped

MEMORY_BYTES = 3_000_000_000
"""Address space, not memory in use: numerical libraries reserve far more than they touch."""
SECONDS = 300.0

_CONTEXT = multiprocessing.get_context("forkserver")
# With what the libraries would load at their first use, in each process anew.
_PICTURES = [f"PIL.{kind}ImagePlugin" for kind in ("Bmp", "Gif", "Jpeg", "Ppm", "Png")]
_CONTEXT.set_forkserver_preload(["motion.jobs", "numpy.ma", *_PICTURES])

Tell = Callable[[float, str], None]


def run(
    work: Callable[..., Any],
    *args: Any,
    progress: Tell | None = None,
    seconds: float = SECONDS,
    memory_bytes: int = MEMORY_BYTES,
) -> Any:
    """Call ``work(*args, progress)`` in a process of its own and return what it returns.

    ``work`` is a module's own function; its arguments and its answer are pickled. ``progress`` is called here with
    what the work tells. Raises the MotionError that the work raised, or ReadingStopped when it took too long, needed
    too much memory or crashed.
    """
    here, there = _CONTEXT.Pipe(duplex=False)
    child = _CONTEXT.Process(target=_child, args=(there, work, args, seconds, memory_bytes), daemon=True)
    child.start()
    there.close()
    try:
        return _listen(here, time.monotonic() + seconds, progress)
    finally:
        here.close()
        if child.is_alive():
            child.join(0.5)
            child.kill()
        child.join()


def _listen(pipe: Connection, deadline: float, progress: Tell | None) -> Any:
    while True:
        left = deadline - time.monotonic()
        if left <= 0 or not pipe.poll(left):
            raise ReadingStopped("Reading the clip took too long and was stopped. Export it smaller or shorter.")
        try:
            kind, value = pipe.recv()
        except EOFError:
            raise ReadingStopped(
                "Reading the clip failed: its pictures made the reader stop. Export it again, in another format if "
                "you can."
            ) from None
        if kind == "done":
            return value
        if kind == "refused":
            raise value
        if kind == "memory":
            raise ReadingStopped("The clip needs too much memory. Export it at the brief's frame size.")
        if kind == "failed":
            raise RuntimeError(f"the analysis failed:\n{value}")
        if progress:
            progress(*value)


def _child(pipe: Connection, work: Callable[..., Any], args: tuple[Any, ...], seconds: float, space: int) -> None:
    import traceback

    memory.keep_freed()
    resource.setrlimit(resource.RLIMIT_AS, (space, space))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 5, int(seconds) + 10))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        answer = work(*args, lambda part, step: pipe.send(("progress", (part, step))))
        pipe.send(("done", answer))
    except MotionError as error:
        pipe.send(("refused", error))
    except MemoryError:
        pipe.send(("memory", None))
    except Exception as error:
        kind = "memory" if "Insufficient memory" in str(error) else "failed"
        pipe.send((kind, traceback.format_exc()))
