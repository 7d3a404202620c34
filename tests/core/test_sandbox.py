"""The process in which hand-ins are read: what it can open, and how it ends."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from motion import confine, sandbox
from motion.errors import ReaderKilled, ReadingStopped

Tell = Callable[[float, str], None]
FAR = Path(__file__).resolve().parent.parent.parent / "README.md"


def read_text(path: Path, tell: Tell) -> str:
    return path.read_text()


def write_text(path: Path, tell: Tell) -> str:
    path.write_text("written")
    return str(Path.cwd())


def scratch_file(tell: Tell) -> int:
    with tempfile.TemporaryFile() as stream:
        return stream.write(b"passing")


def connect(port: int, tell: Tell) -> None:
    socket.create_connection(("127.0.0.1", port), timeout=2).close()


def kill_itself(number: int, tell: Tell) -> None:
    os.kill(os.getpid(), number)


def say_and_wait(path: Path, tell: Tell) -> None:
    path.write_text(str(os.getpid()))
    time.sleep(60)


@unittest.skipUnless(confine.version(), "this kernel cannot confine a process")
class Confined(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.given = self.folder / "given"
        self.given.write_text("mine")

    def test_it_reads_what_it_is_given_and_nothing_else(self) -> None:
        self.assertEqual(sandbox.run(read_text, self.given, reads=[self.given]), "mine")
        other = self.folder / "other"
        other.write_text("somebody else's")
        for path in (other, FAR, Path("/etc/passwd"), Path(f"/proc/{os.getpid()}/environ")):
            with self.subTest(str(path)), self.assertRaisesRegex(RuntimeError, "Permission denied"):
                sandbox.run(read_text, path, reads=[self.given])

    def test_it_writes_only_where_it_may_and_works_in_a_folder_that_goes_with_it(self) -> None:
        where = sandbox.run(write_text, self.folder / "made", writes=[self.folder])
        self.assertFalse(Path(where).exists())
        self.assertEqual((self.folder / "made").read_text(), "written")
        with self.assertRaisesRegex(RuntimeError, "Permission denied"):
            sandbox.run(write_text, self.given, reads=[self.given])
        self.assertEqual(sandbox.run(scratch_file), 7)

    def test_it_opens_no_connection(self) -> None:
        if confine.version() < confine.NET_SINCE:
            self.skipTest("this kernel cannot confine connections")
        with socket.socket() as listening:
            listening.bind(("127.0.0.1", 0))
            listening.listen()
            with self.assertRaisesRegex(RuntimeError, "Permission denied"):
                sandbox.run(connect, listening.getsockname()[1])


class Ending(unittest.TestCase):
    def test_killed_from_outside_is_not_the_clips_fault(self) -> None:
        for number in (signal.SIGKILL, signal.SIGTERM):
            with self.subTest(number), self.assertRaises(ReaderKilled):
                sandbox.run(kill_itself, number)

    def test_a_crash_of_its_own_is(self) -> None:
        for number in (signal.SIGSEGV, signal.SIGABRT):
            with self.subTest(number), self.assertRaises(ReadingStopped) as caught:
                sandbox.run(kill_itself, number)
            self.assertNotIsInstance(caught.exception, ReaderKilled)

    def test_one_that_never_came_to_the_clip_blames_it_for_nothing(self) -> None:
        gone = mock.MagicMock()
        gone.return_value.__enter__.return_value = "/nowhere"
        with mock.patch.object(sandbox.tempfile, "TemporaryDirectory", gone), self.assertRaises(ReaderKilled):
            sandbox.run(scratch_file)

    def test_it_ends_with_who_began_it(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            told = Path(name) / "pid"
            program = (
                "from pathlib import Path; from motion import sandbox; "
                "from tests.core.test_sandbox import say_and_wait; "
                f"folder = Path({name!r}); sandbox.run(say_and_wait, folder / 'pid', writes=[folder])"
            )
            begun = subprocess.Popen([sys.executable, "-c", program], cwd=FAR.parent)
            self.addCleanup(begun.kill)
            pid = int(self._wait(lambda: told.exists() and told.read_text()) or 0)
            begun.kill()
            begun.wait()
            self.assertTrue(self._wait(lambda: not _alive(pid)), "the reader lives on without who waits for it")

    def _wait(self, what: Callable[[], object]) -> str | None:
        for _ in range(600):
            found = what()
            if found:
                return str(found)
            time.sleep(0.05)
        return None


def _alive(pid: int) -> bool:
    """Whether a process runs; what is dead and not yet fetched by its parent does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
