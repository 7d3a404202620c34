"""A PostgreSQL of its own for as long as a command runs: ``python -m tests.postgres COMMAND …``.

The command finds it by ``DATABASE_URL``; afterwards nothing of it is left. Debian's ``postgresql`` has to be there.
"""

from __future__ import annotations

import os
import pwd
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

OWNER = "postgres"
"""Who runs it where we are root, which it refuses to be."""
UNSAFE = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")
"""Nothing here has to outlive the machine."""
STARTS_WITHIN_S = 60.0


def programs() -> Path:
    """Where the server's programs lie. Raises FileNotFoundError where there are none."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: float(p.parts[-3]))
    on_path = shutil.which("initdb")
    if not found and not on_path:
        raise FileNotFoundError("PostgreSQL is not installed here: apt-get install postgresql")
    return (found[-1] if found else Path(str(on_path)).resolve()).parent


@contextmanager
def cluster(*, safe: bool = False) -> Iterator[str]:
    """A server's address as ``DATABASE_URL``; it listens on a socket in a folder of its own, and on no port.

    With ``safe`` it keeps what it was told even if it is killed.
    """
    folder = Path(tempfile.mkdtemp(prefix="nettlecap-postgres-"))
    as_owner = _as_owner(folder)
    data, socket = folder / "data", folder / "socket"
    socket.mkdir()
    if as_owner:
        owner = pwd.getpwnam(OWNER)
        for path in (folder, socket):
            os.chown(path, owner.pw_uid, owner.pw_gid)
    bin_ = programs()
    init = [str(bin_ / "initdb"), "-D", str(data), "-U", OWNER, "-A", "trust", "-E", "UTF8", "--no-locale", "--no-sync"]
    subprocess.run(init, check=True, stdout=subprocess.DEVNULL, cwd=folder, **as_owner)
    told = () if safe else UNSAFE
    options = [f"unix_socket_directories={socket}", "listen_addresses=", "max_connections=120", *told]
    command = [str(bin_ / "postgres"), "-D", str(data), *(x for o in options for x in ("-c", o))]
    with (folder / "log").open("wb") as log:
        server = subprocess.Popen(command, stdout=log, stderr=log, cwd=folder, start_new_session=True, **as_owner)
    try:
        _wait(bin_, socket, folder)
        yield f"postgres://{OWNER}@/nettlecap?host={socket}"
    finally:
        server.send_signal(signal.SIGINT)
        server.wait(60)
        shutil.rmtree(folder, ignore_errors=True)


def _as_owner(folder: Path) -> dict[str, str]:
    folder.chmod(0o755)
    return {"user": OWNER, "group": OWNER} if os.getuid() == 0 else {}


def _wait(bin_: Path, socket: Path, folder: Path) -> None:
    until = time.monotonic() + STARTS_WITHIN_S
    create = [str(bin_ / "createdb"), "-h", str(socket), "-U", OWNER, "nettlecap"]
    while subprocess.run(create, capture_output=True).returncode:
        if time.monotonic() > until:
            raise TimeoutError((folder / "log").read_text())
        time.sleep(0.2)


def main() -> int:
    """Run what the command line says; its own exit status."""
    with cluster() as url:
        return subprocess.run(sys.argv[1:], env={**os.environ, "DATABASE_URL": url}).returncode


if __name__ == "__main__":
    sys.exit(main())
