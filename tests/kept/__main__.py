"""Write an installation of this version with everything in it that is stored: ``python -m tests.kept FOLDER``.

Takes of several kinds, what was placed, decided, drawn, proposed, called, noted, taken back, returned, ticked off and
answered, a comparison of two markers. Small clips, so that it can lie in the tests.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import sys
from pathlib import Path
from typing import Any

FOLDER = Path(sys.argv[1]).resolve()
os.environ["NETTLECAP_DATA"] = str(FOLDER)
os.environ["DJANGO_SETTINGS_MODULE"] = "tests.settings"

import django  # noqa: E402

django.setup()

from django.conf import settings  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.test import Client  # noqa: E402
from django.urls import reverse  # noqa: E402

from motion.exercises.bounce.plan import bounce  # noqa: E402
from motion.synth import draw, write  # noqa: E402
from motion.synth.look import LOOKS  # noqa: E402
from nettlecap.marking.keys import finding_key  # noqa: E402
from nettlecap.marking.models import Comparison, Note  # noqa: E402
from nettlecap.takes.models import Analysis, Take  # noqa: E402
from tests.core.drawn import with_fault  # noqa: E402
from tests.web.school import SMALL, School, broken_zip, look_at_all, read_all, upload  # noqa: E402


def main() -> None:
    """Everything, in the order in which people would do it."""
    settings.ALLOWED_HOSTS = ["testserver"]
    call_command("migrate", verbosity=0)
    school = School()
    plan, _ = with_fault("contact.gap", 3.0, SMALL)
    gap = write.to_zip(draw.frames(plan, LOOKS["clean"]))
    bounces, _ = with_fault("spacing.jump", 3.0, SMALL)
    gif = write.save(draw.frames(bounces, LOOKS["clean"]), FOLDER / "jump.gif", "gif", 24)
    video = write.save(draw.frames(bounce(SMALL), LOOKS["cel"]), FOLDER / "clean.mp4", "mp4", 24)
    first = handed_in(school.student, gap, "gap.zip", school)
    second = handed_in(school.classmate, gif.read_bytes(), "jump.gif", school)
    marked(school, first)
    third = handed_in(school.student, video.read_bytes(), "clean.mp4", school)
    begun(school, second, third)
    by_eye(school, gap)
    compared(school, gap, video.read_bytes())
    post(Client_of(school.student), "look-through", school.brief.pk, files=[upload(gap, "draft.zip")])
    read_all()
    look_at_all()
    for name in ("jump.gif", "clean.mp4", "secret_key"):
        (FOLDER / name).unlink(missing_ok=True)
    tidy()


def Client_of(person: Any) -> Client:  # noqa: N802
    """The browser of a person who is signed in."""
    client = Client()
    client.force_login(person)
    return client


def handed_in(person: Any, data: bytes, name: str, school: School) -> Take:
    """A take that was looked at."""
    from nettlecap.takes.hand_in import hand_in

    take = hand_in(person, school.brief, [upload(data, name)])
    look_at_all()
    return Take.objects.select_related("analysis").get(pk=take.pk)


def post(client: Client, action: str, *args: int, **values: Any) -> None:
    """What must be accepted."""
    answer = client.post(reverse(action, args=args), values, headers={"hx-request": "true"})
    if answer.status_code >= 400:
        raise SystemExit(f"{action}: {answer.status_code} {answer.content[:300]!r}")


def marked(school: School, take: Take) -> None:
    """Marks returned, read, ticked off and answered."""
    orla = Client_of(school.instructor)
    key = finding_key(take.analysis.findings["findings"][0])
    post(orla, "first-look", take.pk, taps="7,9")
    post(orla, "say", take.pk, key=key, verdict="agreed")
    post(orla, "note", take.pk, text="Watch the landing.", first_frame=3, last_frame=5, principle="contact")
    post(orla, "draw-over", take.pk, first_frame=3, last_frame=4, tool="line", points="[[30, 240], [450, 240]]")
    post(orla, "call", take.pk, drawing=4, role="key")
    post(orla, "points", take.pk, principle="arcs", points="8.5")
    post(orla, "propose-timing", take.pk, timing=json.dumps(timing(take, 2)), fps="24", note="Hold it.")
    post(orla, "remark", take.pk, remark="Lovely arcs.")
    post(orla, "return-marks", take.pk, remark="Lovely arcs.")
    ayumi = Client_of(school.student)
    ayumi.get(reverse("returned", args=[take.pk]))
    post(ayumi, "tick", take.pk, key=key, done="1")
    post(ayumi, "answer", take.pk, Note.objects.get().pk, answer="I will.")


def timing(take: Take, more: int) -> list[list[int]]:
    """The take's own timing with its first drawing held longer."""
    own = [[e["drawing"], e["frames"]] for e in take.analysis.findings["clip"]["exposures"]]
    return [[own[0][0], own[0][1] + more], *own[1:]]


def begun(school: School, second: Take, third: Take) -> None:
    """Marks that are not returned yet: decided, taken back, and a ball and a ground placed by hand."""
    orla = Client_of(school.instructor)
    key = finding_key(second.analysis.findings["findings"][0])
    post(orla, "say", second.pk, key=key, verdict="dismissed")
    post(orla, "note", second.pk, text="Have another look.", first_frame=2, last_frame=2, principle="")
    post(orla, "take-back", second.pk)
    shape = next(s for s in third.analysis.findings["track"]["shapes"] if s and s["drawing"] == 4)
    ellipse = {k: shape[k] for k in ("y", "major", "minor", "angle")} | {"x": shape["x"] + 12}
    post(orla, "place", third.pk, place=json.dumps({"drawing": 4, "ellipse": ellipse}))
    post(orla, "place", third.pk, place=json.dumps({"ground": [226.0, 224.5]}))


def by_eye(school: School, data: bytes) -> None:
    """A take that could not be looked at, and one whose file cannot be read any more."""
    take = handed_in(school.classmate, data + b" ", "again.zip", school)
    Analysis.objects.filter(take=take).update(state="failed", message="It could not be looked at.")
    school.brief.refresh_from_db()
    Client_of(school.classmate).post(
        reverse("hand-in", args=[school.brief.pk]), {"files": [upload(broken_zip(), "b.zip")]}
    )
    read_all()


def compared(school: School, *clips: bytes) -> None:
    """Two who mark the same clips blind, one of whom has begun."""
    people = (school.student, school.classmate)
    takes = [handed_in(person, data, "blind", school) for person, data in zip(people, clips, strict=True)]
    orla = Client_of(school.instructor)
    post(
        orla,
        "two-markers",
        school.brief.pk,
        one=school.instructor.pk,
        other=school.assistant.pk,
        take=[t.pk for t in takes],
    )
    comparison = Comparison.objects.get()
    bram = Client_of(school.assistant)
    bram.get(reverse("mark-blind", args=[comparison.pk]), follow=True)
    post(bram, "note", takes[1].pk, text="Look at the top.", first_frame=2, last_frame=3, principle="arcs")


def tidy() -> None:
    """One small file instead of a database and its journal; what is made anew at each start goes."""
    from django.db import connections

    connections.close_all()
    with sqlite3.connect(FOLDER / "db.sqlite3") as database:
        database.execute("PRAGMA journal_mode=DELETE")
    database.close()
    again = sqlite3.connect(FOLDER / "db.sqlite3")
    again.execute("VACUUM")
    again.close()
    shutil.rmtree(FOLDER / "static", ignore_errors=True)


if __name__ == "__main__":
    main()
