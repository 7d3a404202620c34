"""Findings that an installation stored itself: read for ever, whatever version wrote them."""

from __future__ import annotations

from typing import Any

Told = dict[str, Any]


def upgraded(data: Told) -> Told:
    """A findings file as the present version tells it; the one given stays as it is."""
    motion = data.get("motion")
    if not motion or "moments" in motion:
        return data
    return {**data, "motion": _with_moments(motion)}


def _with_moments(motion: Told) -> Told:
    """Files of before there was more than one exercise tell a bounce's contacts, hops and diameter alone."""
    contacts, hops = motion.get("contacts", ()), motion.get("hops", ())
    keys = {c["first_frame"] for c in contacts if c.get("first_frame")} | {h["top_frame"] for h in hops}
    return {
        **motion,
        "size": motion.get("diameter"),
        "gap_unit": "px",
        "moments": [{"time": c["time"], "first_frame": c.get("first_frame")} for c in contacts],
        "keys": sorted(keys),
    }
