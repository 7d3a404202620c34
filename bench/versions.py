"""Whether this version finds the same as an earlier one, to the byte: ``python -m bench.versions COMMIT [FOLDER]``.

Clips of every look, fault and form are drawn once and analysed by both versions through their own command line; what
differs is printed key by key. A key that only the newer version writes is no difference.
"""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any, get_args

from bench.apart import good, measure, pictures
from bench.apart.faults import PLANTS
from motion.brief import BounceBrief, Brief
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.bounce.cases import random_case
from motion.synth.bounce.faults import FAULTS
from motion.synth.draw import opaque
from motion.synth.look import LOOKS

FORMS: tuple[write.Form, ...] = get_args(write.Form)
SEED = 8_000_001
WORKERS = 2
TOGETHER = 20
"""So many clips of one brief are analysed by one command."""
MOST_SHOWN = 40
Job = tuple[str, str | None, int]
"""The generator, the code to plant if any, and a number."""


def jobs() -> list[Job]:
    """Two clips a fault of each generator, each look, each form, and clean and good work beside."""
    own = [("own", code, n) for code in [*FAULTS, None, None] for n in range(5)]
    looks = [("look", name, n) for n, name in enumerate(LOOKS)]
    apart = [("apart", code, n) for code in PLANTS for n in range(3)]
    rest = [("apart", None, n) for n in range(30)] + [("apart", measure.GOOD, n) for n in range(60)]
    return [*own, *looks, *apart, *rest]


def drawn(job: Job, number: int, folder: Path) -> None:
    """Draw one clip, and its brief beside it."""
    generator, code, n = job
    form = FORMS[number % len(FORMS)]
    if generator == "apart":
        rng = random.Random(f"{code} {n} versions")
        bounce = good.plan(rng, good.manner(rng)) if code == measure.GOOD else measure.spoilt(code, rng)[0]
        look = pictures.look(rng, grainy=bounce.width < measure.LARGE)
        shown = [(opaque(p), frames) for p, frames in pictures.drawings(bounce, look)]
        brief = Brief(fps=bounce.fps, asked=BounceBrief(material=bounce.material))  # type: ignore[arg-type]
    else:
        plant = code if generator == "own" else None
        case = random_case(SEED + number, plant, looks=[str(code)] if generator == "look" else None)
        shown, brief = list(draw.frames(case.plan, case.look, case.seed)), case.brief
    stem = f"{number:03d}-{generator}-{(code or 'clean').replace(' ', '-')}"
    write.save(shown, folder / (f"{stem}.{suffix}" if (suffix := write.suffix(form)) else stem), form, brief.fps)
    (folder / f"{stem}.brief").write_text(json.dumps(brief.to_json(), sort_keys=True))


def draw_all(folder: Path) -> None:
    """Draw every clip that is not there yet."""
    folder.mkdir(parents=True, exist_ok=True)
    wanted = jobs()
    if len(list(folder.glob("*.brief"))) == len(wanted):
        return
    with ProcessPoolExecutor(WORKERS, mp_context=get_context("spawn")) as pool:
        list(pool.map(drawn, wanted, range(len(wanted)), [folder] * len(wanted)))


def tell(tree: Path, clips: Path, out: Path) -> None:
    """Analyse the clips by the version in a tree."""
    out.mkdir(parents=True, exist_ok=True)
    commands = []
    for brief, paths in _by_brief(clips, out):
        for start in range(0, len(paths), TOGETHER):
            some, file = paths[start : start + TOGETHER], out / f"{paths[start].stem}.brief.json"
            file.write_text(brief)
            told = [sys.executable, "manage.py", "analyse", *map(str, some), "--brief", str(file), "--out", str(out)]
            commands.append((told, tree))
    with ThreadPoolExecutor(WORKERS) as pool:
        list(pool.map(_run, commands))


def _by_brief(clips: Path, out: Path) -> Iterator[tuple[str, list[Path]]]:
    """Each brief with the clips that are to be held against it and are not yet."""
    groups: dict[str, list[Path]] = {}
    for brief in sorted(clips.glob("*.brief")):
        clip = next(p for p in clips.iterdir() if p != brief and (p.stem == brief.stem or p.name == brief.stem
                                                                 or p.name == f"{brief.stem}.tar.gz"))  # fmt: skip
        if not list(out.glob(f"{brief.stem}*.findings.json")):
            groups.setdefault(brief.read_text(), []).append(clip)
    yield from groups.items()


def _run(command: tuple[list[str], Path]) -> None:
    told, tree = command
    done = subprocess.run(told, cwd=tree, capture_output=True, text=True, check=False)
    if done.returncode:
        print(done.stderr.strip())


def differences(before: Any, now: Any, at: str = "") -> Iterator[str]:
    """Where two findings files differ; keys that only the newer one has are passed over."""
    if isinstance(before, dict) and isinstance(now, dict):
        for key, value in before.items():
            if key not in now:
                yield f"{at}.{key} is gone"
            else:
                yield from differences(value, now[key], f"{at}.{key}")
    elif isinstance(before, list) and isinstance(now, list) and len(before) == len(now):
        for i, (one, other) in enumerate(zip(before, now, strict=True)):
            yield from differences(one, other, f"{at}[{i}]")
    elif before != now or type(before) is not type(now):
        yield f"{at}: {str(before)[:60]} → {str(now)[:60]}"


def compare(before: Path, now: Path) -> int:
    """Print what differs between two folders of findings; how many clips do."""
    same = other = more = 0
    for path in sorted(p for p in before.iterdir() if p.suffix in (".csv", ".json") and ".brief" not in p.name):
        one, two = path.read_bytes(), (now / path.name).read_bytes() if (now / path.name).exists() else b""
        if one == two:
            same += 1
            continue
        told = ["it is missing or another table"]
        if path.suffix == ".json" and two:
            told = list(differences(json.loads(one), json.loads(two)))
        other, more = other + bool(told), more + (not told)
        for line in told[:3] if other < MOST_SHOWN else ():
            print(f"{path.name}: {line}")
    print(f"{same} files are the same to the byte, {more} but for keys that are new, {other} differ.")
    return other


def main(commit: str, folder: str | None = None) -> int:
    """Draw, analyse by both versions, compare."""
    root = Path(folder) if folder else Path(tempfile.mkdtemp(prefix="versions-"))
    tree, clips = root / "tree", root / "clips"
    draw_all(clips)
    if not tree.exists():
        subprocess.run(["git", "worktree", "add", "--detach", str(tree), commit], check=True, capture_output=True)
    tell(tree.resolve(), clips.resolve(), (root / commit).resolve())
    tell(Path.cwd(), clips.resolve(), (root / "now").resolve())
    subprocess.run(["git", "worktree", "remove", "--force", str(tree)], check=True)
    return compare(root / commit, root / "now")


if __name__ == "__main__":
    sys.exit(bool(main(*sys.argv[1:3])))
