"""What a process that reads hand-ins may open: nothing but the hand-in, its own scratch folder and the code it runs.

By Landlock, which the kernel offers to any process (since Linux 5.13; connections since 6.7). Where it is missing the
process runs as it is: readers refuse on their own whatever names something outside a file.
"""

from __future__ import annotations

import ctypes
import os
import sys
from collections.abc import Iterable
from pathlib import Path

CREATE_RULESET, ADD_RULE, RESTRICT_SELF = 444, 445, 446
"""Numbers of the system calls, the same on every architecture; source: landlock(7)."""
VERSION_FLAG, PATH_BENEATH, NO_NEW_PRIVILEGES = 1, 1, 38
EXECUTE, WRITE_FILE, READ_FILE, READ_DIR = 1 << 0, 1 << 1, 1 << 2, 1 << 3
TRUNCATE = 1 << 14
RIGHTS_BY_VERSION = {1: 13, 2: 14, 3: 15, 4: 15, 5: 16}
"""How many rights about files each version of the interface knows; later ones know no more."""
NET_SINCE, BIND_AND_CONNECT = 4, 0b11
DEVICES = ("/dev/null", "/dev/zero", "/dev/urandom")
SYSTEM = ("/usr", "/lib", "/lib64", "/etc/ld.so.cache", "/etc/fonts", "/etc/localtime", "/sys/devices/system")
MACHINE = ("/proc/cpuinfo", "/proc/meminfo", "/proc/stat", "/proc/self/maps")
"""What libraries ask of the machine; nothing of other processes, whose surroundings may hold secrets."""


class _Ruleset(ctypes.Structure):
    _fields_ = (("fs", ctypes.c_uint64), ("net", ctypes.c_uint64))


class _Beneath(ctypes.Structure):
    _pack_ = 1
    _fields_ = (("allowed", ctypes.c_uint64), ("parent", ctypes.c_int32))


def version() -> int:
    """Which version of the interface this kernel has; 0 for none."""
    try:
        found = _libc().syscall(CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(VERSION_FLAG))
    except (OSError, AttributeError):
        return 0
    return max(0, int(found))


def code_folders(package: str) -> list[Path]:
    """Where the interpreter, its libraries and this package lie; never a folder that holds more than code."""
    here = Path(__file__).resolve().parent
    found = [here, here.parent / package.partition(".")[0], Path(sys.prefix), Path(sys.base_prefix)]
    found += [Path(entry) for entry in sys.path if entry and not here.is_relative_to(Path(entry).resolve())]
    return found


def confine(reads: Iterable[Path], writes: Iterable[Path]) -> bool:
    """From now on let this process read only below ``reads`` and the system's libraries, and write below ``writes``.

    It opens no connection either. Whether the kernel could be told so; a process cannot undo it.
    """
    known = version()
    if not known:
        return False
    rights = (1 << RIGHTS_BY_VERSION.get(known, 16)) - 1
    ruleset = _Ruleset(fs=rights, net=BIND_AND_CONNECT if known >= NET_SINCE else 0)
    size = ctypes.sizeof(ruleset) if known >= NET_SINCE else 8
    libc = _libc()
    handle = libc.syscall(CREATE_RULESET, ctypes.byref(ruleset), ctypes.c_size_t(size), ctypes.c_uint32(0))
    if handle < 0:
        return False
    try:
        for path in (*map(Path, (*SYSTEM, *MACHINE)), *reads):
            _allow(libc, handle, path, (READ_FILE | READ_DIR | EXECUTE) & rights)
        for path in map(Path, DEVICES):
            _allow(libc, handle, path, (READ_FILE | WRITE_FILE) & rights)
        for path in writes:
            _allow(libc, handle, path, rights)
        libc.prctl(NO_NEW_PRIVILEGES, 1, 0, 0, 0)
        return bool(libc.syscall(RESTRICT_SELF, handle, ctypes.c_uint32(0)) == 0)
    finally:
        os.close(handle)


def _allow(libc: ctypes.CDLL, handle: int, path: Path, allowed: int) -> None:
    """Allow something below a path; one that is not there needs no leave."""
    try:
        parent = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except OSError:
        return
    try:
        if not path.is_dir():
            allowed &= EXECUTE | WRITE_FILE | READ_FILE | TRUNCATE
        rule = _Beneath(allowed=allowed, parent=parent)
        libc.syscall(ADD_RULE, handle, PATH_BENEATH, ctypes.byref(rule), ctypes.c_uint32(0))
    finally:
        os.close(parent)


def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)
