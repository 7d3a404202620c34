"""The pendulum's faults."""

from __future__ import annotations

from motion.catalogue.fault import Fault, shown_by
from motion.catalogue.principles import Principle

CHARTS: dict[Principle, str] = {
    "spacing": "gap",
    "arcs": "length",
    "squash_stretch": "length",
    "contact": "pivot",
    "timing": "gap",
}
LAYERS: dict[Principle, tuple[str, ...]] = {
    "spacing": ("path", "neighbours", "ideal", "findings"),
    "arcs": ("path", "arcs", "ideal", "findings"),
    "squash_stretch": ("shape", "neighbours", "findings"),
    "contact": ("shape", "ground", "neighbours", "findings"),
    "timing": ("path", "arcs", "neighbours", "findings"),
}
OVERLAP = ("path", "arcs", "shape", "findings")
FAULTS: tuple[Fault, ...] = shown_by(
    CHARTS,
    LAYERS,
    Fault("spacing.even", "spacing", "Even steps where it should slow into its extremes"),
    Fault("spacing.off_middle", "spacing", "Fast or slow on the wrong side of its swing", chart="angle"),
    Fault("spacing.jump", "spacing", "One drawing too far along or too far back"),
    Fault("spacing.hangs", "spacing", "Floats at an extreme", chart="angle"),
    Fault("spacing.dead_stop", "spacing", "Stops dead with nothing to stop it"),
    Fault("arc.off_path", "arcs", "A drawing off the arc around its pivot"),
    Fault("arc.straight", "arcs", "A swing that cuts across"),
    Fault("arc.rising_swings", "arcs", "A swing that goes farther than the one before", chart="angle"),
    Fault("arc.lopsided", "arcs", "Swings farther to one side", chart="angle"),
    Fault("volume.changes", "squash_stretch", "The weight grows or shrinks", chart="volume"),
    Fault("volume.length", "squash_stretch", "The line is longer or shorter in some drawings", chart="length"),
    Fault("contact.pivot", "contact", "Slips off its hook"),
    Fault("contact.joint", "contact", "A link comes apart from the one above"),
    Fault("timing.swing", "timing", "A swing too slow or too quick beside the others", chart="angle"),
    Fault("timing.rhythm", "timing", "Dies away unevenly", chart="angle"),
    Fault("timing.hold", "timing", "Held in the middle of a swing"),
    Fault("timing.exposure", "timing", "Not exposed as the brief asks"),
    Fault("timing.length", "timing", "Shorter or longer than asked"),
    Fault("timing.swings", "timing", "Fewer or more swings than asked"),
    Fault("timing.damping", "timing", "Keeps more or less of its swing than asked", chart="angle"),
    Fault("timing.weight", "timing", "Too floaty or too heavy for its length", chart="angle"),
    Fault("overlap.stiff", "timing", "What should drag moves as one bar", chart="parts", layers=OVERLAP),
    Fault("overlap.leads", "timing", "A later part goes ahead of what carries it", chart="parts", layers=OVERLAP),
    Fault(
        "overlap.stops_together", "timing", "All parts come to rest on the same frame", chart="parts", layers=OVERLAP
    ),
    Fault("timing.loop", "timing", "The cycle does not close"),
)
