"""The bouncing ball's faults."""

from __future__ import annotations

from motion.catalogue.fault import Fault, shown_by
from motion.catalogue.principles import Principle

CHARTS: dict[Principle, str] = {
    "spacing": "gap",
    "arcs": "height",
    "squash_stretch": "stretch",
    "contact": "height",
    "timing": "gap",
}
LAYERS: dict[Principle, tuple[str, ...]] = {
    "spacing": ("path", "neighbours", "ideal", "findings"),
    "arcs": ("path", "arcs", "ideal", "findings"),
    "squash_stretch": ("shape", "neighbours", "findings"),
    "contact": ("ground", "shape", "neighbours", "findings"),
    "timing": ("path", "neighbours", "findings"),
}
FAULTS: tuple[Fault, ...] = shown_by(
    CHARTS,
    LAYERS,
    Fault("spacing.even", "spacing", "Even steps where it should slow or gather speed"),
    Fault("spacing.faster_rising", "spacing", "Speeds up on the way up"),
    Fault("spacing.slower_falling", "spacing", "Brakes before it lands"),
    Fault("spacing.jump", "spacing", "One drawing too far along or too far back"),
    Fault("spacing.hangs", "spacing", "Floats at the top"),
    Fault("spacing.dead_stop", "spacing", "Stops dead with nothing to stop it"),
    Fault("arc.off_path", "arcs", "A drawing beside the arc"),
    Fault("arc.leaning", "arcs", "An arc that leans"),
    Fault("arc.straight", "arcs", "Straight lines to a point instead of a curve"),
    Fault("arc.rising_tops", "arcs", "A top higher than the one before"),
    Fault("volume.changes", "squash_stretch", "Grows or shrinks", chart="volume"),
    Fault("squash.in_air", "squash_stretch", "Squashed before or after it touches"),
    Fault("stretch.missing", "squash_stretch", "Round where a soft ball is fast"),
    Fault("stretch.across", "squash_stretch", "Stretched off its path", chart="lean"),
    Fault("stretch.at_top", "squash_stretch", "Not round at the top"),
    Fault("squash.missing", "squash_stretch", "Round where a soft ball lands"),
    Fault("shape.unwanted", "squash_stretch", "Deforms though it is hard or firm"),
    Fault("contact.gap", "contact", "Hangs above the ground on its contact"),
    Fault("contact.through", "contact", "Goes into the ground"),
    Fault("contact.missed", "contact", "Turns round without touching"),
    Fault("contact.slides", "contact", "Skids while it touches"),
    Fault("contact.sticks", "contact", "Stays down too long"),
    Fault("timing.hop", "timing", "A hop too slow or too quick for its height", chart="height"),
    Fault("timing.rhythm", "timing", "Hops that do not shorten at a steady rate"),
    Fault("timing.hold", "timing", "Held in the middle of a move"),
    Fault("timing.exposure", "timing", "Not exposed as the brief asks"),
    Fault("timing.length", "timing", "Shorter or longer than asked"),
    Fault("timing.hops", "timing", "Fewer or more contacts than asked"),
    Fault("timing.bounciness", "timing", "Keeps more or less speed than asked"),
    Fault("timing.weight", "timing", "Too floaty or too heavy for its size"),
    Fault("timing.loop", "timing", "The cycle does not close"),
)
