"""Balls to start a brief from: what they are made of, how they fall, how much they keep.

The shares of speed kept are those of such balls on a hard floor: steel on planks about 0.5, glass on stone 0.8, solid
rubber 0.85, a used tennis ball 0.72, a beach ball 0.6, a balloon 0.5. A ball with a real size falls to scale. Steel
and glass balls are drawn larger than to scale, so that they can be seen; what counts is how long their hop takes. A
balloon is nearly as light as the air it pushes aside: over such a height it gathers speed at about an eighth of the
usual rate.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from motion.brief import BounceBrief, Brief, Feel


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """A feel to start from, made for frames of 960 × 540 px."""

    key: str
    name: str
    words: str
    bounce: BounceBrief
    feel: Feel


PRESETS = (
    Preset(
        key="bearing",
        name="Ball bearing",
        words="Steel on planks: quick, stiff, keeps half of its speed and then rolls a long way.",
        bounce=BounceBrief(material="hard"),
        feel=Feel(diameter=36, height=380, distance=620, keeps=0.5, hop_s=0.9, end="rolling", contacts=None),
    ),
    Preset(
        key="marble",
        name="Marble",
        words="Glass on stone: light clicks, many small hops, never out of shape.",
        bounce=BounceBrief(material="hard"),
        feel=Feel(diameter=32, height=360, distance=680, keeps=0.78, hop_s=0.84, end="rolling", contacts=None),
    ),
    Preset(
        key="rubber",
        name="Rubber ball",
        words="Springs back with nearly all it came with; stretches and squashes.",
        bounce=BounceBrief(material="soft", diameter_m=0.08),
        feel=Feel(diameter=52, height=370, distance=700, keeps=0.84, hop_s=None, end="leaving", contacts=4),
    ),
    Preset(
        key="tennis",
        name="Tennis ball",
        words="Firm and a little tired: changes its shape only slightly, settles after a few hops.",
        bounce=BounceBrief(material="firm", diameter_m=0.067),
        feel=Feel(
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
        bounce=BounceBrief(material="soft", diameter_m=0.4),
        feel=Feel(
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
        bounce=BounceBrief(material="soft"),
        feel=Feel(
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


def apply(preset: Preset, brief: Brief) -> Brief:
    """The brief with the preset's ball, scaled to its frame; pace, exposure and everything else stay."""
    width, height = brief.frame_size
    scale = min(width / 960, height / 540)
    feel = preset.feel
    scaled = replace(
        feel,
        diameter=round(feel.diameter * scale, 1),
        height=round(feel.height * scale, 1),
        distance=round(feel.distance * scale, 1),
        ground_y=round(height * 450 / 540, 1),
    )
    return replace(brief, bounce=preset.bounce, guide=scaled, loop=False, ground_y=None)
