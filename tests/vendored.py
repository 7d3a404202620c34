"""Checks that each vendored file is the one that its manifest names. ``python -m tests.vendored``."""

from __future__ import annotations

import hashlib
import json
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FOLDERS = ("nettlecap/static/vendor", "tests/browser/vendor", "motion/guide/fonts")


def problems() -> list[str]:
    """What is not as the manifests say, one sentence each."""
    found = []
    for folder in (ROOT / f for f in FOLDERS):
        manifest = json.loads((folder / "manifest.json").read_text())
        named = {entry["file"]: entry["sha256"] for entry in manifest}
        there = {p.name for p in folder.iterdir()} - {"manifest.json"}
        found += [f"{name} is not in the manifest" for name in sorted(there - set(named))]
        found += [f"{name} is in the manifest, but missing" for name in sorted(set(named) - there)]
        for name in sorted(there & set(named)):
            if hashlib.sha256((folder / name).read_bytes()).hexdigest() != named[name]:
                found.append(f"{name} is not the file that the manifest names")
    return found


if __name__ == "__main__":
    sys.exit("\n".join(problems()) or None)
