"""Faults that students make, planted in a plan. Each says where it put what."""

from __future__ import annotations

from motion.synth.bounce.faults import arcs, contact, spacing, squash_stretch, timing
from motion.synth.bounce.faults.plant import Fault, Planted

__all__ = ["FAULTS", "Fault", "Planted"]

FAULTS: dict[str, Fault] = {
    "spacing.even": spacing.spacing_even,
    "spacing.faster_rising": spacing.spacing_faster_rising,
    "spacing.slower_falling": spacing.spacing_slower_falling,
    "spacing.jump": spacing.spacing_jump,
    "spacing.hangs": spacing.spacing_hangs,
    "spacing.dead_stop": spacing.spacing_dead_stop,
    "arc.off_path": arcs.arc_off_path,
    "arc.leaning": arcs.arc_leaning,
    "arc.straight": arcs.arc_straight,
    "arc.rising_tops": arcs.arc_rising_tops,
    "volume.changes": squash_stretch.volume_changes,
    "stretch.missing": squash_stretch.stretch_missing,
    "stretch.across": squash_stretch.stretch_across,
    "stretch.at_top": squash_stretch.stretch_at_top,
    "squash.missing": squash_stretch.squash_missing,
    "shape.unwanted": squash_stretch.shape_unwanted,
    "squash.in_air": squash_stretch.squash_in_air,
    "contact.gap": contact.contact_gap,
    "contact.through": contact.contact_through,
    "contact.missed": contact.contact_missed,
    "contact.slides": contact.contact_slides,
    "contact.sticks": contact.contact_sticks,
    "timing.hop": timing.timing_hop,
    "timing.rhythm": timing.timing_rhythm,
    "timing.hold": timing.timing_hold,
    "timing.loop": timing.timing_loop,
}
