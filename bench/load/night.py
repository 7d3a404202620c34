"""One marking night: who hands in when, who marks, what they waited for, and whether anything was lost or doubled."""

from __future__ import annotations

import os
import random
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from tests.hard.house import House, signed, usual_clip

MARKED, POLL_S, PAUSE_S = 15, 3.0, (4.0, 9.0)
"""Takes that are there to be marked; how often a page asks how far it is; how long a marker looks between deeds."""
DRAWINGS_ASKED = 6
TRIES = 20
KILLED = ("nettlecap.web_server", "run_worker", "forkserver")


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """How large a night is."""

    students: int = 300
    minutes: float = 10.0
    markers: int = 15
    workers: int = 1
    kills: int = 0


@dataclass(slots=True)
class Night:
    """What was seen: seconds of waiting by what was waited for, and what became of the clips."""

    acknowledged: list[float] = field(default_factory=list)
    looked_at: list[float] = field(default_factory=list)
    desk: list[float] = field(default_factory=list)
    saved: list[float] = field(default_factory=list)
    again: int = 0
    killed: int = 0
    lost: int = 0
    doubled: int = 0
    wrong: int = 0
    took: float = 0.0
    server: float = 0.0
    """How much of a core the server was busy."""


def night(house: House, plan: Plan, seed: int = 1) -> Night:
    """Live through one; the house is served already."""
    rng, seen, clip = random.Random(seed), Night(), usual_clip()
    desks = _to_mark(house, clip, min(MARKED, plan.markers))
    over, begun = threading.Event(), time.monotonic()
    # Few come early, many at the end, as before any deadline.
    when = sorted(rng.triangular(0, 60 * plan.minutes, 50 * plan.minutes) for _ in range(plan.students))
    with ThreadPoolExecutor(plan.students + plan.markers + 1) as crowd:
        logins = ["orla", *(f"marker{n}" for n in range(1, plan.markers))]
        marking = [crowd.submit(_marks, house, login, desks, over, seen) for login in logins]
        killing = crowd.submit(_kills, house, plan, random.Random(seed + 1), over, seen)
        sent = [
            crowd.submit(_hands_in, house, f"pupil{n}", signed(clip, f"pupil{n}"), begun + at, seen)
            for n, at in enumerate(when)
        ]
        try:
            for one in sent:
                one.result()
            house.wait_for(house.all_looked_at, "all clips to be looked at", 3600)
            seen.took = time.monotonic() - begun
            seen.server = _cpu_s(house) / seen.took
        finally:
            over.set()
        for one in [*marking, killing]:
            one.result()
    _count(house, plan, seen)
    return seen


def _cpu_s(house: House) -> float:
    """Seconds that the server has computed since it began; source: proc(5), stat."""
    found = 0.0
    for pid in house.processes("nettlecap.web_server"):
        with suppress(OSError):
            fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
            found += (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
    return found


def _to_mark(house: House, clip: bytes, count: int) -> list[int]:
    """Takes that were handed in on the days before."""
    for n in range(count):
        house.hand_in(f"early{n}", signed(clip, f"early{n}")).raise_for_status()
    house.wait_for(house.all_looked_at, "the clips of the days before", 600)
    return [pk for (pk,) in house.asked("SELECT id FROM takes_take")]


def _hands_in(house: House, login: str, clip: bytes, at: float, seen: Night) -> None:
    """Send a clip, look after it until it is read; where the connection broke, look whether it came, and send again."""
    time.sleep(max(0.0, at - time.monotonic()))
    begun = time.monotonic()
    for _ in range(TRIES):
        with suppress(httpx.HTTPError):
            answer = house.hand_in(login, clip)
            if answer.status_code == 201:
                break
        time.sleep(2.0)
        if _came(house, login):
            break
        seen.again += 1
    seen.acknowledged.append(time.monotonic() - begun)
    with house.client(login) as client:
        while not over_there(house, login):
            with suppress(httpx.HTTPError):
                client.get(f"/briefs/{house.brief}")
            time.sleep(POLL_S)


def _asked(house: House, question: str) -> list[tuple[Any, ...]]:
    """What the database tells, once it does: it may have been killed a moment ago."""
    for _ in range(TRIES):
        try:
            return list(house.asked(question))
        except Exception:
            time.sleep(1.0)
    return list(house.asked(question))


def _came(house: House, login: str) -> bool:
    question = (
        "SELECT count(*) FROM takes_arrival JOIN classroom_person ON student_id = classroom_person.id "
        f"WHERE username = '{login}' AND state <> 'refused'"
    )
    return bool(_asked(house, question)[0][0])


def over_there(house: House, login: str) -> bool:
    """Whether what somebody sent was read."""
    question = (
        "SELECT count(*) FROM takes_arrival JOIN classroom_person ON student_id = classroom_person.id "
        f"WHERE username = '{login}' AND state IN ('waiting', 'reading')"
    )
    return not _asked(house, question)[0][0]


def _marks(house: House, login: str, desks: list[int], over: threading.Event, seen: Night) -> None:
    """A marker at the desk: a page, some drawings, a decision, a look."""
    rng = random.Random(login)
    with house.client(login) as client:
        while not over.is_set():
            take = rng.choice(desks)
            with suppress(httpx.HTTPError):
                _timed(seen.desk, lambda t=take: client.get(f"/takes/{t}/desk"))  # type: ignore[misc]
                for number in range(1, DRAWINGS_ASKED + 1):
                    client.get(f"/takes/{take}/drawings/1/{number}.png")
                points = {"principle": "arcs", "points": str(rng.randrange(1, 5))}
                _timed(seen.saved, lambda t=take, p=points: client.post(f"/takes/{t}/desk/points", data=p))  # type: ignore[misc]
            over.wait(rng.uniform(*PAUSE_S))


def _timed(into: list[float], ask: Callable[[], httpx.Response]) -> None:
    begun = time.monotonic()
    answer = ask()
    # What a killed server did not answer is counted with the kills, and not as waiting.
    if answer.status_code < 500:
        into.append(time.monotonic() - begun)


def _kills(house: House, plan: Plan, rng: random.Random, over: threading.Event, seen: Night) -> None:
    """Kill any process at any moment, all through the night."""
    for _ in range(plan.kills):
        if over.wait(60 * plan.minutes / (plan.kills + 1)):
            return
        victims = [pid for words in KILLED for pid in house.processes(words)]
        if plan.kills and house.database:
            victims += postgres_backends(house)
        if victims:
            with suppress(ProcessLookupError, PermissionError):
                os.kill(rng.choice(victims), signal.SIGKILL)
                seen.killed += 1


def postgres_backends(house: House) -> list[int]:
    """Processes of the database that serve this house; one that is killed takes the others' connections with it."""
    with suppress(Exception):
        return [pid for (pid,) in house.asked("SELECT pid FROM pg_stat_activity WHERE backend_type = 'client backend'")]
    return []


def _count(house: House, plan: Plan, seen: Night) -> None:
    """What was lost, doubled, or went wrong."""
    rows = house.asked(
        "SELECT username, count(*) FROM takes_take JOIN classroom_person ON student_id = classroom_person.id "
        "WHERE NOT trial AND username LIKE 'pupil%' GROUP BY username"
    )
    seen.lost = plan.students - len(rows)
    seen.doubled = sum(count - 1 for _, count in rows)
    failed = house.asked("SELECT count(*) FROM takes_analysis WHERE state <> 'done'")[0][0]
    refused = house.asked("SELECT count(*) FROM takes_arrival WHERE state = 'refused'")[0][0]
    seen.wrong = failed + refused
    if house.database:
        waited = "SELECT EXTRACT(EPOCH FROM finished_at - came_at) "
    else:
        waited = "SELECT (julianday(finished_at) - julianday(came_at)) * 86400 "
    seen.looked_at = [
        float(s)
        for (s,) in house.asked(
            f"{waited} FROM takes_analysis JOIN takes_arrival ON takes_arrival.take_id = takes_analysis.take_id"
        )
    ]
