"""Recall, false findings and errors on clips drawn apart, as pictures and through video."""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from bench.apart import faults, good, pictures
from bench.apart.bounces import Bounce, Wish, plan
from bench.apart.clips import Form, clip_of
from motion.analysis import Analysis, analyse
from motion.brief import BounceBrief, Brief

FORMS: tuple[Form, ...] = ("lossless", "mp4", "webm")
LEAST_FRAMES, MOST_TRIED = 16, 400
GOOD = "good work of every kind"
"""In place of a code."""
LARGE = 1000
"""Frames wider than this are drawn without grain."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip.

    Whether its fault was found, what else was, errors (n, 2) in px and shares of the size, and whether every exposure
    was right; and in which manner it was made, where that was chosen.
    """

    code: str | None
    how: good.Manner | None
    form: Form
    hit: bool
    others: tuple[str, ...]
    errors: NDArray[np.float64]
    exact: bool


def spoilt(code: str | None, rng: random.Random) -> tuple[Bounce, list[int]]:
    """A bounce with a fault, all within the frame, and which drawings it concerns; a clean one without a code."""
    wish, planted = faults.PLANTS[code] if code else (Wish(), None)
    for _ in range(MOST_TRIED):
        bounce = plan(rng, wish)
        concerned = planted(rng, bounce) if planted else []
        inside = all(b.along < b.x < bounce.width - b.along for b in bounce.balls)
        if inside and bool(concerned) == bool(planted) and len(bounce.balls) >= LEAST_FRAMES:
            return bounce, concerned
    raise ValueError(f"no bounce has room for {code}")


def told_of(job: tuple[str | None, int, Form]) -> Told:
    """Draw a clip by its code, number and form, analyse it, and hold it against what is known."""
    code, number, form = job
    rng = random.Random(f"{code} {number} {form}")
    how = good.manner(rng) if code == GOOD else None
    bounce, concerned = spoilt(code, rng) if how is None else (good.plan(rng, how), [])
    looks = pictures.look(rng, grainy=bounce.width < LARGE)
    brief = Brief(fps=bounce.fps, asked=BounceBrief(material=bounce.material))  # type: ignore[arg-type]
    with clip_of(pictures.drawings(bounce, looks), bounce.fps, form) as clip:
        result = analyse(clip, brief)
    span = bounce.frames_of(concerned) if concerned else (0, 0)
    own = [
        f for f in result.findings if f.code == code and f.first_frame <= span[1] + 1 and f.last_frame >= span[0] - 1
    ]
    return Told(
        code=code if how is None else None,
        how=how,
        form=form,
        hit=bool(own),
        others=tuple(f.code for f in result.findings if f not in own),
        errors=_errors(bounce, result),
        exact=_exact(bounce, result),
    )


def _drawing_at(result: Analysis) -> dict[int, int]:
    return {
        frame: exposure.drawing
        for exposure in result.track.exposures
        for frame in range(exposure.first_frame, exposure.first_frame + exposure.frames)
    }


def _errors(bounce: Bounce, result: Analysis) -> NDArray[np.float64]:
    """(n, 2) how far each ball was measured off its place, px of a frame 960 wide, and off its size, a share of it."""
    drawing, found, frame = _drawing_at(result), [], 1
    for ball in bounce.balls:
        shape = result.track.shape_of(drawing.get(frame, 0))
        frame += ball.frames
        if shape is not None:
            off = np.hypot(shape.x - ball.x, shape.y - ball.y) / max(1.0, bounce.width / 960)
            found.append((off, abs(np.sqrt(shape.area / (4 * ball.along * ball.across)) - 1)))
    return np.array(found).reshape(-1, 2)


def _exact(bounce: Bounce, result: Analysis) -> bool:
    """Whether drawings change where they do; two equal ones may be one."""
    drawing, frame, changes = _drawing_at(result), 1, set()
    for one, other in zip(bounce.balls, bounce.balls[1:], strict=False):
        frame += one.frames
        if max(abs(one.x - other.x), abs(one.y - other.y), abs(one.along - other.along)) > 0.02:
            changes.add(frame)
    seen = {f for f in drawing if f > 1 and drawing[f] != drawing[f - 1]}
    return seen == changes


def run(count: int, clean: int, kinds: int, workers: int = 2) -> list[Told]:
    """So many clips a code, so many clean ones, and so many of good work of every kind, of each form in turn."""
    numbers: Iterable[tuple[str | None, int]] = [(code, n) for code in faults.PLANTS for n in range(count)]
    others = [*((None, n) for n in range(clean)), *((GOOD, n) for n in range(kinds))]
    jobs = [(code, n, FORMS[n % len(FORMS)]) for code, n in [*numbers, *others]]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=4)


def table(results: Sequence[Told]) -> str:
    """The figures as Markdown: by code, and by form."""
    rows = ["| code | clips | found | collateral |", "| --- | ---: | ---: | ---: |"]
    for code in faults.PLANTS:
        own = [r for r in results if r.code == code]
        rows.append(f"| `{code}` | {len(own)} | {sum(r.hit for r in own)} | {sum(len(r.others) for r in own)} |")
    spoiled, clean = [r for r in results if r.code], [r for r in results if not r.code and not r.how]
    rows += ["", f"Found: {sum(r.hit for r in spoiled)} of {len(spoiled)}.", ""]
    rows += ["| form | clean clips | false findings | centre median | centre 95 % | size | exposures right |"]
    rows += ["| --- | ---: | ---: | ---: | ---: | ---: | ---: |"]
    for form in FORMS:
        own, every = [r for r in clean if r.form == form], [r for r in results if r.form == form]
        off = np.concatenate([r.errors for r in every])
        rows.append(
            f"| {form} | {len(own)} | {sum(len(r.others) for r in own)} | {np.median(off[:, 0]):.2f} px "
            f"| {np.percentile(off[:, 0], 95):.2f} px | {100 * np.median(off[:, 1]):.1f} % "
            f"| {sum(r.exact for r in every)} of {len(every)} |"
        )
    return "\n".join([*rows, "", *_by_manner([r for r in results if r.how])])


def _by_manner(results: Sequence[Told]) -> list[str]:
    """Findings on good work, by the manner in which it was made."""
    rows = ["| good work | clips | with findings | findings |", "| --- | ---: | ---: | ---: |"]
    kinds: dict[str, list[Told]] = {"all": list(results)}
    for told in results:
        assert told.how is not None
        how = told.how
        for kind in (
            "by halves" if how.halves else "by gravity",
            "in place" if how.in_place else "across",
            "contacts on a drawing" if how.on_a_drawing else "contacts between two",
            f"exposed: {how.exposing}",
            f"begins: {how.begins}",
            f"ends: {how.ends}",
        ):
            kinds.setdefault(kind, []).append(told)
    for kind in sorted(kinds):
        own = kinds[kind]
        rows.append(f"| {kind} | {len(own)} | {sum(bool(r.others) for r in own)} | {sum(len(r.others) for r in own)} |")
    return rows
