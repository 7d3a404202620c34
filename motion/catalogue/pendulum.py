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
WHY: dict[str, str] = {
    "spacing.even": "It is pulled back the harder the farther it is out: slow at both ends, fast in the middle.",
    "spacing.off_middle": "It goes through the middle at full speed and at half time, the same both ways.",
    "spacing.jump": "The eye follows the row of gaps; one that does not belong in it is seen as a jerk.",
    "spacing.hangs": "At an extreme it rests for an instant only; longer, and something seems to hold it.",
    "spacing.dead_stop": "What swings keeps swinging until it has died away; nothing is there to stop it.",
    "arc.off_path": "Its line holds it at one distance, so that it can lie nowhere but on the arc around its pivot.",
    "arc.straight": "A line does not shorten: halfway between the extremes the weight is lowest, not between them.",
    "arc.rising_swings": "A little is lost in each swing; going farther takes a push.",
    "arc.lopsided": "It swings about the place where it would hang at rest, as far to the one side as to the other.",
    "volume.changes": "It is the same thing in every drawing, and keeps its size.",
    "volume.length": "A line that grows and shrinks is of rubber, and no swing can be trusted on it.",
    "contact.pivot": "Everything hangs from one point; when that slips the whole swing loses its hold.",
    "contact.joint": "Links hang in one another; a gap between them and the lower part falls.",
    "timing.swing": "Its length alone says how long a swing takes, however far it goes.",
    "timing.rhythm": "Each swing loses the same share, so it dies away evenly.",
    "timing.hold": "What is held while it should move stands still for all to see.",
    "timing.exposure": "The brief asks for it so that all drawings can be judged by one measure.",
    "timing.length": "A clip is made for a place in a row of others.",
    "timing.swings": "The brief asks for so many, so that it can be seen how they die away.",
    "timing.damping": "How soon it dies away tells what it swings in, and how heavy it is.",
    "timing.weight": "Long lines swing slowly; the same swing in less time hangs from a thread.",
    "overlap.stiff": "What hangs loose is pulled along by what is above, and comes after it.",
    "overlap.leads": "A part that goes first is moved by itself, not by what carries it.",
    "overlap.stops_together": "The end still swings when the root has stopped; all at once is a bar that was put down.",
    "timing.loop": "A cycle is seen again and again, and so is its seam.",
}
FAULTS: tuple[Fault, ...] = shown_by(
    CHARTS,
    LAYERS,
    WHY,
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
