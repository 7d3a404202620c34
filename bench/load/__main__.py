"""``make bench-load``: prints the table of marking nights that is kept in docs/bench.md; 1 where anything was lost."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from bench.load.night import MARKED, Night, Plan, night
from tests.hard.house import House
from tests.postgres import cluster

SQLITE, POSTGRES = "sqlite", "postgres"
HEAD = (
    "| database | workers | kills | acknowledged p50 / p95 | looked at p50 / p95 | desk p50 / p95 | saved p50 / p95 "
    "| server busy | all done after | sent again | lost | doubled | wrong |\n"
    "| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: |"
)


def main() -> int:
    """Live through the nights that are asked for."""
    asked = argparse.ArgumentParser(description="Marking nights on this machine.")
    asked.add_argument("--students", type=int, default=300)
    asked.add_argument("--minutes", type=float, default=10.0)
    asked.add_argument("--markers", type=int, default=15)
    asked.add_argument("--workers", default="1,2,4")
    asked.add_argument("--kills", type=int, default=0)
    asked.add_argument("--databases", default=f"{SQLITE},{POSTGRES}")
    told = asked.parse_args()
    print(f"{told.students} students within {told.minutes:g} minutes, {told.markers} markers.\n\n{HEAD}", flush=True)
    held = True
    for database in told.databases.split(","):
        for workers in map(int, told.workers.split(",")):
            plan = Plan(
                students=told.students, minutes=told.minutes, markers=told.markers, workers=workers, kills=told.kills
            )
            with served(database, plan) as house:
                seen = night(house, plan)
            print(_row(database, plan, seen), flush=True)
            held = held and not (seen.lost or seen.doubled or seen.wrong)
    return 0 if held else 1


@contextmanager
def served(database: str, plan: Plan) -> Iterator[House]:
    """A school of that size, served."""
    told = {"markers": plan.markers, "workers": plan.workers, "early": min(MARKED, plan.markers)}
    if database == SQLITE:
        with House(plan.students, **told) as house:
            yield house
    else:
        with cluster(safe=True) as url, House(plan.students, database=url, **told) as house:
            yield house


def _row(database: str, plan: Plan, seen: Night) -> str:
    waits = (seen.acknowledged, seen.looked_at, seen.desk, seen.saved)
    told = " | ".join(f"{_at(w, 0.5)} / {_at(w, 0.95)} s" for w in waits)
    counts = " | ".join(map(str, (seen.again, seen.lost, seen.doubled, seen.wrong)))
    first = f"{database} | {plan.workers} | {seen.killed}"
    return f"| {first} | {told} | {100 * seen.server:.0f} % | {seen.took:.0f} s | {counts} |"


def _at(waits: list[float], part: float) -> str:
    if not waits:
        return "—"
    value = sorted(waits)[int(part * (len(waits) - 1))]
    return f"{value:.2f}" if value < 10 else f"{value:.0f}"


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
    sys.exit(main())
