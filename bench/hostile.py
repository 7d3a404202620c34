"""Damaged and hostile files: each must end in a sentence, none in a crash, all within the memory that is allowed."""

from __future__ import annotations

import random
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any, get_args

from motion import formats, sandbox
from motion.errors import ClipError, ReadingStopped
from motion.exercises.bounce.plan import Recipe, bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS

SMALL = Recipe(width=96, height=64, diameter=14, ground_y=54, drop_px=32, start_x=14, speed_x=2, kept=(0.8,))
BATCH = 50


def read_batch(paths: list[str], tell: Any) -> tuple[Counter[str], float]:
    """Read each file through to its last picture: how they ended, and the greatest memory in MB. Runs by itself."""
    ends: Counter[str] = Counter()
    for name in paths:
        try:
            clip = formats.read(Path(name), 24)
            for _ in clip.footage.pictures(range(len(clip.footage))):
                pass
            ends["still a clip"] += 1
        except ClipError as error:
            ends["refused" if str(error) else "refused without a word"] += 1
    status = Path("/proc/self/status").read_text()
    return ends, int(status.split("VmHWM:")[1].split()[0]) / 1024


def table(count: int) -> str:
    """How ``count`` files ended."""
    ends: Counter[str] = Counter()
    most = 0.0
    with tempfile.TemporaryDirectory() as folder:
        paths = _files(count, Path(folder))
        for at in range(0, count, BATCH):
            try:
                found, memory = sandbox.run(
                    read_batch, [str(p) for p in paths[at : at + BATCH]], reads=paths[at : at + BATCH]
                )
            except ReadingStopped:
                found, memory = Counter({"stopped the reader": BATCH}), 0.0
            ends += found
            most = max(most, memory)
    told = ", ".join(f"{n} {end}" for end, n in ends.most_common())
    return f"{count} damaged and hostile files: {told}. The reader needed at most {most:.0f} MB, libraries included."


def _files(count: int, folder: Path) -> list[Path]:
    """Files of every form with bytes changed all over, ends cut off, or parts of one put into another."""
    rng = random.Random(11)
    frames = list(draw.frames(bounce(SMALL), LOOKS["clean"]))[:8]
    forms = [f for f in get_args(write.Form) if f != "folder"]
    whole = [
        write.save(frames, folder / f"whole.{i}.{write.suffix(f)}", f, 24).read_bytes() for i, f in enumerate(forms)
    ]
    paths = []
    for number in range(count):
        data = bytearray(rng.choice(whole))
        kind = number % 3
        if kind == 0:
            del data[rng.randrange(8, max(9, int(0.8 * len(data)))) :]
        if kind == 1:
            other = rng.choice(whole)
            at = rng.randrange(len(data))
            data[at:] = other[rng.randrange(len(other)) :]
        for _ in range(rng.randrange(1, 40) if kind == 2 else 3):
            data[rng.randrange(len(data))] = rng.randrange(256)
        if kind == 2:
            # The directory of an archive and the index of a video lie at one end or the other.
            data[: rng.randrange(4, 40)] = data[:4] + rng.randbytes(rng.randrange(36))
        path = folder / f"{number}.bin"
        path.write_bytes(bytes(data))
        paths.append(path)
    return paths
