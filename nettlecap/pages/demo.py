"""The demo's made-up evening school: people, a course, briefs, and eight students' takes drawn by the generator."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from django.conf import settings
from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.utils import timezone

import motion.brief as core
from motion.exercises.bounce.plan import bounce
from motion.exercises.pendulum.feel import plan_of as swing_of
from motion.exercises.walk.feel import plan_of as walk_of
from motion.guide.guide import checked
from motion.plan import Plan
from motion.synth import draw, plant, write
from motion.synth.look import LOOKS, Look
from nettlecap.classroom.models import Brief, Course, Membership, Person, Role
from nettlecap.classroom.set_brief import Wanted, set_brief
from nettlecap.pages import demo_drills
from nettlecap.pages.demo_pupils import (
    HUNG,
    LANTERNS,
    LETTERS,
    PUPILS,
    ROUNDED,
    ROUNDS,
    STRINGS,
    STRUNG,
    THREE,
    WALKED,
    WHOLE,
    Pupil,
)
from nettlecap.school.models import CourseLink, SchoolSystem
from nettlecap.standins import school_system
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Take

PASSWORD = "harbour-lamp"  # noqa: S105 (the demo's, printed to whoever starts it)
INSTRUCTOR, ASSISTANT = ("orla", "Orla Thistlewood"), ("bram", "Bram Osei-Quill")
SIZE = (960, 540)
FAULT_AT = 3.0
FLOAT, LANTERN = "A cork float on the quay", "The lantern below deck"
ROUND, FLOATS = "The lamplighter on his round", "Net floats on their line"
POST = "The postwoman, all of her"

Tell = Callable[[str], None]
HANDED_IN = ((FLOAT, PUPILS), (LANTERN, LANTERNS), (ROUND, ROUNDS), (FLOATS, STRINGS), (POST, LETTERS))
"""What is handed in for each brief, by its title."""
STEPS = 1 + sum(len(pupils) for _, pupils in HANDED_IN)
"""How often a load tells how far it is."""


class _Upload(io.BytesIO):
    """A drawn clip as if it came from a browser."""

    def __init__(self, data: bytes, name: str) -> None:
        super().__init__(data)
        self.name = name

    def chunks(self) -> list[bytes]:
        return [self.getvalue()]


def is_loaded() -> bool:
    """Whether anybody is there already; then the demo data are not loaded again."""
    return Person.objects.exists()


def load(tell: Tell) -> None:
    """Load the whole made-up school, or what a load that was broken off has left to do.

    Takes are handed in as a browser would; the worker looks at them.
    """
    tell("People, the course and its briefs")
    if not is_loaded():
        with transaction.atomic():
            course, people = _school()
            _briefs(course, people[INSTRUCTOR[0]])
            _school_system(course)
            demo_drills.load(course, people[INSTRUCTOR[0]])
    for title, pupils in HANDED_IN:
        brief = Brief.objects.get(title=title)
        for pupil in pupils:
            tell(f"{pupil.name} hands in “{title}”")
            person = Person.objects.get(username=pupil.login)
            there = Take.objects.own(person).filter(brief=brief).count()
            for take in pupil.takes[there:]:
                hand_in(person, brief, [_drawn(take)])


def sample_clips(folder: Path) -> list[Path]:
    """Clips to try the hand-in with: for each brief one with a fault, and one clean."""
    folder.mkdir(parents=True, exist_ok=True)
    hanging = Pupil(login="", name="", look="pencil", faults=("contact.gap",), seed=11)
    clean = replace(hanging, faults=(), look="clean")
    leaping = Pupil(login="", name="", look="pencil", faults=("spacing.jump",), seed=12, swing=HUNG)
    steady = replace(leaping, faults=(), look="clean")
    sliding = Pupil(login="", name="", look="pencil", faults=("contact.slides",), seed=14, stride=WALKED)
    striding = replace(sliding, faults=(), look="clean")
    paths = []
    for name, pupil in (
        ("float-hangs-above-the-quay.zip", hanging),
        ("float-lands-well.zip", clean),
        ("lantern-leaps-ahead.zip", leaping),
        ("lantern-swings-well.zip", steady),
        ("round-with-a-sliding-foot.zip", sliding),
        ("round-walked-well.zip", striding),
    ):
        path = folder / name
        path.write_bytes(_drawn(pupil).getvalue())
        paths.append(path)
    return paths


def plan_of(pupil: Pupil) -> Plan:
    """What a pupil draws, faults included."""
    rng, plan = np.random.default_rng(pupil.seed), _meant(pupil)
    for code in pupil.faults:
        wrong = (plant.planted(_thing(pupil)[0], code, plan, rng, FAULT_AT) for _ in range(50))
        plan = next(w for w in wrong if w is not None)
    return plan


def _meant(pupil: Pupil) -> Plan:
    """The motion that they set out to draw."""
    if pupil.swing is not None:
        return swing_of(core.Brief(canvas=SIZE, asked=pupil.hangs, guide=pupil.swing))
    if pupil.stride is not None:
        return walk_of(core.Brief(canvas=SIZE, asked=pupil.walks, guide=pupil.stride))
    return bounce(replace(pupil.recipe, width=SIZE[0], height=SIZE[1]))


def _look(pupil: Pupil) -> Look:
    return replace(LOOKS[pupil.look], **dict(pupil.drawn))


def _drawn(pupil: Pupil) -> _Upload:
    plan = plan_of(pupil)
    exercise, thing = _thing(pupil)
    frames = draw.frames(exercise, plan, _look(pupil), pupil.seed)
    name = f"{pupil.login or 'school'}_{thing}.{'gif' if pupil.form == 'gif' else 'zip'}"
    with TemporaryDirectory() as folder:
        path = write.save(frames, Path(folder) / name, pupil.form, plan.fps)
        return _Upload(path.read_bytes(), name)


def _thing(pupil: Pupil) -> tuple[str, str]:
    """Which exercise it is, and what their file is called after."""
    if pupil.stride:
        return "walk", "lamplighter" if pupil.walks.figure == "legs" else "postwoman"
    if pupil.swing:
        return "pendulum", "lantern" if pupil.hangs.hangs == "bob" else "net_floats"
    return "bounce", "cork_float"


def _school() -> tuple[Course, dict[str, Person]]:
    # One hash for all: hashing is slow on purpose.
    secret = make_password(PASSWORD)
    course = Course.objects.create(name="First Motion", school="Saltmarsh Lane", term="Autumn")
    roles = [(INSTRUCTOR, Role.INSTRUCTOR), (ASSISTANT, Role.ASSISTANT)]
    roles += [((p.login, p.name), Role.STUDENT) for p in PUPILS]
    people = {}
    for (login, name), role in roles:
        keeps = login == INSTRUCTOR[0]
        people[login] = Person.objects.create(
            username=login, name=name, email=f"{login}@saltmarsh.example", password=secret, is_staff=keeps
        )
        Membership.objects.create(course=course, person=people[login], role=role)
    return course, people


def _school_system(course: Course) -> None:
    """Link the course to the simulated school system that is started beside the application."""
    address = f"http://127.0.0.1:{settings.SCHOOL_PORT}"
    system = SchoolSystem.objects.create(
        name="The school’s office", client_id=school_system.CLIENT, token_url=f"{address}/token"
    )
    there = f"{address}/courses/{school_system.COURSE}"
    CourseLink.objects.create(
        course=course, system=system, members_url=f"{there}/members", lineitems_url=f"{there}/lineitems"
    )


def _briefs(course: Course, instructor: Person) -> None:
    now = timezone.localtime().replace(hour=18, minute=0, second=0, microsecond=0)
    plain = core.Brief(canvas=SIZE, frames=(24, 96))
    float_brief = replace(
        plain,
        title=FLOAT,
        words="A cork float drops from the harbour wall and bounces along the quay. It is light and springy: "
        "let it stretch when it is fast, squash on the stones, and keep its volume. Three or four contacts.",
        guide=core.Feel(height=320, distance=560, keeps=0.8, hop_s=0.66, contacts=3, end="top"),
        terms=core.Terms(takes=3, late_cost=0.1, own_checks=2),
    )
    sinker = replace(
        plain,
        title="A lead sinker on the same quay",
        words="The same wall, but a lead sinker: it keeps its shape, hardly bounces, and rolls to rest.",
        exposure="ones",
        asked=core.BounceBrief(material="hard"),
        guide=core.Feel(diameter=46, height=340, distance=560, keeps=0.42, hop_s=0.8, end="rolling", contacts=None),
        marking=core.Marking(
            points=(("spacing", 10.0), ("arcs", 5.0), ("squash_stretch", 5.0), ("contact", 15.0), ("timing", 15.0)),
            weights=(("timing.hold", 0.0),),
        ),
        terms=core.Terms(guide="path", guide_after="all"),
    )
    cycle = replace(
        plain,
        title="The buoy that never rests",
        words="A buoy bobs up and down on its ring of quay stones, round and round. Three drawings tell it; the rest "
        "is spacing.",
        loop=True,
        frames=(16, 48),
        exposure="twos",
        guide=core.Feel(diameter=84, height=240, distance=0, hop_s=1.0, end="cycle", contacts=None, stretch=1.15),
    )
    lantern = replace(
        plain,
        title=LANTERN,
        words="A ship’s lantern swings on its hook below deck, after the sea has gone by. Brass and glass: it keeps "
        "its time, slows into both extremes, and dies away evenly. Five swings or so.",
        frames=(48, 160),
        asked=core.PendulumBrief(length_m=0.9),
        guide=replace(HUNG, swing_s=None),
        terms=core.Terms(takes=3, late_cost=0.1, own_checks=2),
    )
    lamps = replace(
        plain,
        title=ROUND,
        words="A lamplighter walks his round of the harbour, in place. Draw the far leg paler than the near one. Feet "
        "that stand go back with the ground; the body sinks after each contact and rises past the passing drawing.",
        asked=core.WalkBrief(direction="right", step_frames=(9.0, 16.0)),
        guide=WALKED,
        terms=core.Terms(takes=3, late_cost=0.1, own_checks=2),
    )
    floats = replace(
        plain,
        title=FLOATS,
        words="Three cork floats hang on one line from the drying rack. Whoever walked past has pushed them. Let each "
        "float come a little later than the one above, at every extreme; none of them leads.",
        frames=(48, 120),
        asked=THREE,
        guide=STRUNG,
        terms=core.Terms(takes=3, late_cost=0.1, own_checks=2),
    )
    post = replace(
        plain,
        title=POST,
        words="The postwoman walks in place, all of her: head, trunk, arms and legs, the far arm and leg paler. Her "
        "arms swing against her legs and slow into both ends; her head rises and falls with her hips.",
        asked=WHOLE,
        guide=ROUNDED,
        terms=core.Terms(takes=3, late_cost=0.1, own_checks=2),
    )
    pennant = replace(
        plain,
        title="A signal pennant, let down",
        words="The pennant comes off its halyard and hangs from the hook: cloth that bends along its whole length and "
        "comes to rest from the top to the tip.",
        frames=(96, 200),
        asked=core.PendulumBrief(hangs="tail"),
        guide=core.Swing(
            pivot_y=50, length=330, wide=56, thin=6, angle=34, keeps=0.62, swing_s=0.7, bend=0.08, end="settling"
        ),
    )
    briefs = (
        (float_brief, 2, True),
        (lantern, 4, True),
        (lamps, 6, True),
        (floats, 8, True),
        (post, 10, True),
        (sinker, 9, True),
        (cycle, 16, False),
        (pennant, 18, False),
    )
    for brief, days, publish in briefs:
        wanted = Wanted(core=checked(brief), due_at=now + timedelta(days=days))
        set_brief(instructor, course, wanted, publish=publish)
