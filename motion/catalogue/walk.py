"""The walk's faults."""

from __future__ import annotations

from motion.catalogue.fault import Fault, shown_by
from motion.catalogue.principles import Principle

CHARTS: dict[Principle, str] = {
    "spacing": "gap",
    "arcs": "hips",
    "squash_stretch": "limbs",
    "contact": "feet",
    "timing": "hips",
}
LAYERS: dict[Principle, tuple[str, ...]] = {
    "spacing": ("path", "shape", "neighbours", "ideal", "findings"),
    "arcs": ("path", "arcs", "ideal", "findings"),
    "squash_stretch": ("shape", "neighbours", "findings"),
    "contact": ("ground", "shape", "neighbours", "findings"),
    "timing": ("path", "shape", "neighbours", "findings"),
}
FAULTS: tuple[Fault, ...] = shown_by(
    CHARTS,
    LAYERS,
    Fault("spacing.jump", "spacing", "One drawing too far along or too far back"),
    Fault("spacing.surges", "spacing", "The body rushes and stalls"),
    Fault("spacing.pops", "spacing", "A knee snaps straight", chart="knees"),
    Fault("spacing.stride", "spacing", "One step longer than the other", chart="travel"),
    Fault("arc.off_path", "arcs", "A drawing beside its arc"),
    Fault("arc.flat", "arcs", "Glides: no rise and fall"),
    Fault("volume.changes", "squash_stretch", "The body grows or shrinks", chart="volume"),
    Fault("volume.length", "squash_stretch", "A limb grows or shrinks"),
    Fault("form.backwards", "squash_stretch", "A knee bends the wrong way", chart="knees"),
    Fault("contact.slides", "contact", "The standing foot slides", chart="travel"),
    Fault("contact.gap", "contact", "The standing foot hangs above the ground"),
    Fault("contact.through", "contact", "A foot goes into the ground"),
    Fault("contact.airborne", "contact", "Both feet are off the ground"),
    Fault("contact.scuffs", "contact", "The foot does not lift as it passes"),
    Fault("timing.limps", "timing", "One step takes longer than the other"),
    Fault("timing.down_up", "timing", "Sinks and rises at the wrong moment"),
    Fault("timing.passing", "timing", "Passes too early or too late", chart="travel"),
    Fault("timing.hold", "timing", "Held in the middle of a step", chart="gap"),
    Fault("timing.exposure", "timing", "Not exposed as the brief asks", chart="gap"),
    Fault("timing.length", "timing", "Shorter or longer than asked", chart="gap"),
    Fault("timing.tempo", "timing", "Steps slower or quicker than asked"),
    Fault("timing.loop", "timing", "The cycle does not close", chart="gap"),
)
