"""An installation of its own, served as a school serves it, and the people who use it over the network."""

from __future__ import annotations

import io
import json
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from PIL import Image

from motion.exercises.bounce.plan import Recipe, bounce
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from tests.web.test_serve import free_port, prepared

BASE = Path(__file__).resolve().parent.parent.parent
TOKEN = "a" * 32
PATIENCE_S = 300.0
SCHOOL = """
import json
from datetime import timedelta
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.utils import timezone
from nettlecap.classroom.models import Brief, Course, Membership, Person
course = Course.objects.create(name="First Motion")
told = {}
roles = {"orla": "instructor"} | {f"pupil{n}": "student" for n in range(STUDENTS)}
roles |= {f"early{n}": "student" for n in range(EARLY)}
roles |= {f"marker{n}": "instructor" for n in range(1, MARKERS)}
for login, role in roles.items():
    person = Person(username=login, name=login.title())
    person.set_unusable_password()
    person.save()
    Membership.objects.create(course=course, person=person, role=role)
    session = SessionStore()
    session[SESSION_KEY] = str(person.pk)
    session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
    session[HASH_SESSION_KEY] = person.get_session_auth_hash()
    session.save()
    told[login] = session.session_key
brief = Brief.objects.create(course=course, title="A cork float", due_at=timezone.now() + timedelta(days=2),
    parameters={"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 24, "guide": {}},
    published_at=timezone.now(), created_by=Person.objects.get(username="orla"))
print("TOLD" + json.dumps({"brief": brief.pk, "sessions": told}))
"""


class House:
    """``with House(30) as house``: served until the block ends, and gone then."""

    def __init__(
        self,
        students: int,
        folder: Path | None = None,
        *,
        markers: int = 1,
        workers: int = 1,
        early: int = 0,
        database: str = "",
    ) -> None:
        self.folder = folder or Path(tempfile.mkdtemp(prefix="nettlecap-hard-"))
        self.port, self.workers, self.database = free_port(), workers, database
        self.environment = prepared(self.folder, **({"DATABASE_URL": database} if database else {}))
        shell = [sys.executable, str(BASE / "manage.py"), "shell", "--verbosity", "0", "-c"]
        made = subprocess.run(
            [*shell, f"STUDENTS, MARKERS, EARLY = {students}, {markers}, {early}\n{SCHOOL}"],
            env=self.environment,
            capture_output=True,
            text=True,
            check=True,
        )
        told = json.loads(made.stdout.split("TOLD")[1])
        self.brief, self.sessions = told["brief"], told["sessions"]
        self.process: subprocess.Popen[bytes] | None = None

    def __enter__(self) -> House:
        self.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    def start(self) -> None:
        """Serve, and wait until it answers."""
        manage = [sys.executable, str(BASE / "manage.py")]
        command = [*manage, "serve", "--port", str(self.port), "--workers", str(self.workers)]
        with (self.folder / "serve.log").open("ab") as log:
            self.process = subprocess.Popen(
                command, env=self.environment, cwd=BASE, stdout=log, stderr=log, start_new_session=True
            )
        self.wait_for(self.answers, "the server to answer")

    def stop(self) -> None:
        """Stop it as a service manager does."""
        if self.process is not None:
            with suppress(ProcessLookupError):
                self.process.send_signal(signal.SIGTERM)
            self.process.wait(60)

    def answers(self) -> bool:
        with suppress(httpx.HTTPError):
            return httpx.get(f"http://127.0.0.1:{self.port}/sign-in", timeout=10).status_code == 200
        return False

    def client(self, login: str) -> httpx.Client:
        """Somebody's browser, signed in."""
        return httpx.Client(
            base_url=f"http://127.0.0.1:{self.port}",
            cookies={"sessionid": self.sessions[login], "csrftoken": TOKEN},
            headers={"X-CSRFToken": TOKEN, "Accept": "application/json"},
            timeout=PATIENCE_S,
        )

    def hand_in(self, login: str, data: bytes, name: str = "take.zip") -> httpx.Response:
        with self.client(login) as client:
            return client.post(f"/briefs/{self.brief}/hand-in", files={"files": (name, data)})

    def asked(self, question: str) -> list[tuple[Any, ...]]:
        """What the database tells."""
        if self.database:
            import psycopg

            with psycopg.connect(_plain(self.database)) as there:
                return list(there.execute(question.encode()))
        with closing(sqlite3.connect(self.folder / "db.sqlite3", timeout=30)) as database:
            return list(database.execute(question))

    def wait_for(self, what: Callable[[], object], words: str, patience_s: float = PATIENCE_S) -> None:
        until = time.monotonic() + patience_s
        while not what():
            if time.monotonic() > until:
                raise AssertionError(f"waited in vain for {words}")
            time.sleep(0.1)

    def processes(self, words: str) -> list[int]:
        """Numbers of this house's processes whose command holds these words."""
        found = []
        for path in Path("/proc").glob("[0-9]*"):
            with suppress(OSError):
                command = (path / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
                own = f"NETTLECAP_DATA={self.folder}".encode() in (path / "environ").read_bytes()
                if own and words in command and int(path.name) != os.getpid():
                    found.append(int(path.name))
        return found

    def all_looked_at(self) -> bool:
        unread = self.asked("SELECT count(*) FROM takes_arrival WHERE state IN ('waiting', 'reading')")
        unfinished = self.asked("SELECT count(*) FROM takes_analysis WHERE state IN ('waiting', 'running')")
        return unread[0][0] == 0 and unfinished[0][0] == 0


def _plain(database: str) -> str:
    """A ``DATABASE_URL`` as its library reads it."""
    return database.replace("postgres://", "postgresql://", 1)


def small_clip() -> bytes:
    """A clip of half a megabyte."""
    recipe = Recipe(width=480, height=270, diameter=34, ground_y=225, drop_px=150, start_x=50, speed_x=9, kept=(0.8,))
    return _zip([p for p, _ in draw.frames(bounce(recipe), LOOKS["clean"])])


def usual_clip() -> bytes:
    """A clip of 960 x 540, as most hand in."""
    return _zip([p for p, _ in draw.frames(bounce(Recipe(kept=(0.8, 0.8))), LOOKS["clean"])])


def large_clip(megabytes: float) -> bytes:
    """A clip of about so many megabytes, grainy as a photograph."""
    frames = [p for p, _ in draw.frames(bounce(Recipe(kept=(0.8,))), LOOKS["clean"])]
    rng = np.random.default_rng(1)

    def grainy(picture: Any, grain: int) -> Any:
        return np.clip(picture + rng.integers(-grain, grain + 1, picture.shape) * [1, 1, 1, 0], 0, 255)

    grain = next(n for n in range(1, 99) if len(_zip([grainy(frames[0], n)])) * len(frames) > megabytes * 1e6)
    return _zip([grainy(p, grain) for p in frames])


def signed(clip: bytes, name: str) -> bytes:
    """The same clip with something in it that no other has."""
    stream = io.BytesIO(clip)
    with zipfile.ZipFile(stream, "a") as archive:
        archive.writestr("by.txt", name)
    return stream.getvalue()


def _zip(frames: list[Any]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for n, picture in enumerate(frames, start=1):
            inside = io.BytesIO()
            Image.fromarray(np.asarray(picture, np.uint8)).convert("RGB").save(inside, format="PNG", compress_level=1)
            archive.writestr(f"f{n:03d}.png", inside.getvalue())
    return stream.getvalue()
