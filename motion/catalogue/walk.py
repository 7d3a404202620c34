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
WHY: dict[str, str] = {
    "spacing.jump": "The eye follows the row of gaps; one that does not belong in it is seen as a jerk.",
    "spacing.even": "Arms hang and swing: they slow into each extreme and gather speed out of it.",
    "spacing.surges": "A body is heavy and goes on evenly; rushing and stalling makes it light.",
    "spacing.pops": "A knee that snaps straight in one drawing is the first thing that is seen.",
    "spacing.stride": "Legs of one length take steps of one length; another reads as a limp.",
    "arc.off_path": "Hips, head, hands and swinging feet go on smooth curves; a drawing beside one twitches.",
    "arc.flat": "The body is carried over a stiff leg, so it must rise and sink; else it rolls on wheels.",
    "volume.changes": "It is the same body in every drawing, and keeps its size.",
    "volume.length": "Bones do not grow: a limb of another length makes the joint above or below slip.",
    "form.backwards": "Knees and elbows bend one way only.",
    "contact.slides": "A foot that stands holds the ground; when it slides the whole figure skates.",
    "contact.gap": "A foot that stands on nothing carries no weight.",
    "contact.through": "Ground that is stepped through is no ground.",
    "contact.airborne": "One foot always stands in a walk; with both in the air it is a run.",
    "contact.scuffs": "A foot that does not lift would stumble over the ground.",
    "timing.limps": "Steps of one walk take one time; another reads as a limp.",
    "timing.down_up": "The weight comes down after the contact, not before: that is how heavy it is.",
    "timing.passing": "The passing drawing is the breakdown: when it comes says how the step gathers and slows.",
    "timing.opposite": "Arms swing against the legs; with them the shoulders do not turn, and the walk goes stiff.",
    "timing.hold": "What is held while it should move stands still for all to see.",
    "timing.exposure": "The brief asks for it so that all drawings can be judged by one measure.",
    "timing.length": "A clip is made for a place in a row of others.",
    "timing.tempo": "How long a step takes is who walks there, and in what mood.",
    "timing.loop": "A cycle is seen again and again, and so is its seam.",
}
FAULTS: tuple[Fault, ...] = shown_by(
    CHARTS,
    LAYERS,
    WHY,
    Fault("spacing.jump", "spacing", "One drawing too far along or too far back"),
    Fault("spacing.even", "spacing", "The arms swing in even steps", chart="arms"),
    Fault("spacing.surges", "spacing", "The body rushes and stalls"),
    Fault("spacing.pops", "spacing", "A knee snaps straight", chart="knees"),
    Fault("spacing.stride", "spacing", "One step longer than the other", chart="travel"),
    Fault("arc.off_path", "arcs", "A drawing beside its arc"),
    Fault("arc.flat", "arcs", "Glides: no rise and fall"),
    Fault("volume.changes", "squash_stretch", "Body or head grows or shrinks", chart="volume"),
    Fault("volume.length", "squash_stretch", "A limb grows or shrinks"),
    Fault("form.backwards", "squash_stretch", "A knee or an elbow bends the wrong way", chart="knees"),
    Fault("contact.slides", "contact", "The standing foot slides", chart="travel"),
    Fault("contact.gap", "contact", "The standing foot hangs above the ground"),
    Fault("contact.through", "contact", "A foot goes into the ground"),
    Fault("contact.airborne", "contact", "Both feet are off the ground"),
    Fault("contact.scuffs", "contact", "The foot does not lift as it passes"),
    Fault("timing.limps", "timing", "One step takes longer than the other"),
    Fault("timing.down_up", "timing", "Sinks and rises at the wrong moment"),
    Fault("timing.passing", "timing", "Passes too early or too late", chart="travel"),
    Fault("timing.opposite", "timing", "An arm swings with the leg of its own side", chart="arms"),
    Fault("timing.hold", "timing", "Held in the middle of a step", chart="gap"),
    Fault("timing.exposure", "timing", "Not exposed as the brief asks", chart="gap"),
    Fault("timing.length", "timing", "Shorter or longer than asked", chart="gap"),
    Fault("timing.tempo", "timing", "Steps slower or quicker than asked"),
    Fault("timing.loop", "timing", "The cycle does not close", chart="gap"),
)
