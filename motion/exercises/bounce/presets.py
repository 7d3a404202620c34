"""Balls to start a brief from: what they are made of, how they fall, how much they keep.

The shares of speed kept are those of such balls on a hard floor: steel on planks about 0.5, glass on stone 0.8, solid
rubber 0.85, a used tennis ball 0.72, a beach ball 0.6, a balloon 0.5. A ball with a real size falls to scale. Steel
and glass balls are drawn larger than to scale, so that they can be seen; what counts is how long their hop takes. A
balloon is nearly as light as the air it pushes aside: over such a height it gathers speed at about an eighth of the
usual rate.
"""

from __future__ import annotations

from motion.brief import BounceBrief, Feel
from motion.exercises.exercise import Preset

PRESETS = (
    Preset(
        key="bearing",
        name="Ball bearing",
        words="Steel on planks: quick, stiff, keeps half of its speed and then rolls a long way.",
        asked=BounceBrief(material="hard"),
        ideal=Feel(diameter=36, height=380, distance=620, keeps=0.5, hop_s=0.9, end="rolling", contacts=None),
    ),
    Preset(
        key="marble",
        name="Marble",
        words="Glass on stone: light clicks, many small hops, never out of shape.",
        asked=BounceBrief(material="hard"),
        ideal=Feel(diameter=32, height=360, distance=680, keeps=0.78, hop_s=0.84, end="rolling", contacts=None),
    ),
    Preset(
        key="rubber",
        name="Rubber ball",
        words="Springs back with nearly all it came with; stretches and squashes.",
        asked=BounceBrief(material="soft", diameter_m=0.08),
        ideal=Feel(diameter=52, height=370, distance=700, keeps=0.84, hop_s=None, end="leaving", contacts=4),
    ),
    Preset(
        key="tennis",
        name="Tennis ball",
        words="Firm and a little tired: changes its shape only slightly, settles after a few hops.",
        asked=BounceBrief(material="firm", diameter_m=0.067),
        ideal=Feel(
            diameter=40,
            height=390,
            distance=560,
            keeps=0.72,
            hop_s=None,
            stretch=1.12,
            squash=1.15,
            end="settling",
            contacts=None,
        ),
    ),
    Preset(
        key="beach",
        name="Beach ball",
        words="Big, light and soft: lazy hops that lose much each time.",
        asked=BounceBrief(material="soft", diameter_m=0.4),
        ideal=Feel(
            diameter=104,
            height=340,
            distance=520,
            keeps=0.62,
            hop_s=None,
            stretch=1.2,
            squash=1.4,
            end="settling",
            contacts=None,
        ),
    ),
    Preset(
        key="balloon",
        name="Balloon",
        words="Hardly falls: the air carries nearly all of its weight, and it lands like a breath.",
        asked=BounceBrief(material="soft"),
        ideal=Feel(
            diameter=110,
            height=300,
            distance=380,
            keeps=0.5,
            hop_s=2.6,
            stretch=1.15,
            squash=1.25,
            end="settling",
            contacts=None,
        ),
    ),
)
