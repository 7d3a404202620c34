"""Pendulums to start a brief from: how long they are, and how much of their swing they keep.

Those with a real length swing by gravity's own period, π √(L / g) from extreme to extreme for small swings. A weight
that is large and light, or moves in water or cloth, keeps less of its angle.
"""

from __future__ import annotations

from motion.brief import PendulumBrief, Swing
from motion.exercises.exercise import Preset

PRESETS = (
    Preset(
        key="lantern",
        name="Ship's lantern",
        words="Brass and glass on a hook below deck: steady, and slow to come to rest.",
        asked=PendulumBrief(length_m=0.9),
        ideal=Swing(pivot_y=60, length=300, size=84, angle=-34, count=5, keeps=0.93, swing_s=None),
    ),
    Preset(
        key="plumb",
        name="Plumb line",
        words="A mason's lead on a string: quick, tight, and hardly less with each swing.",
        asked=PendulumBrief(length_m=0.5),
        ideal=Swing(pivot_y=70, length=330, size=34, angle=22, count=6, keeps=0.97, swing_s=None),
    ),
    Preset(
        key="bell",
        name="Harbour bell",
        words="Heavy bronze on a short yoke, rung round and round: it comes back to where it began.",
        asked=PendulumBrief(),
        ideal=Swing(pivot_y=80, length=210, size=150, angle=-42, keeps=1.0, swing_s=0.75, end="cycle"),
    ),
    Preset(
        key="garden",
        name="Garden swing",
        words="Two and a half metres of rope: long, lazy arcs that somebody let go of.",
        asked=PendulumBrief(length_m=2.5),
        ideal=Swing(pivot_y=40, length=380, size=70, angle=-46, count=3, keeps=0.9, swing_s=None),
    ),
    Preset(
        key="cork",
        name="Cork on a thread",
        words="Next to no weight: the air takes a third of each swing, and it hangs still soon.",
        asked=PendulumBrief(),
        ideal=Swing(pivot_y=90, length=280, size=48, angle=44, keeps=0.66, swing_s=0.7, end="settling"),
    ),
    Preset(
        key="anchor",
        name="Anchor on its chain",
        words="Iron that turns slowly and means it: few drawings, wide gaps through the middle.",
        asked=PendulumBrief(),
        ideal=Swing(pivot_y=50, length=340, size=110, angle=-28, count=3, keeps=0.95, swing_s=1.4),
    ),
    Preset(
        key="floats",
        name="Net floats on a line",
        words="Three cork floats strung end to end: each is carried by the one above, and comes a little later.",
        asked=PendulumBrief(hangs="chain", links=3),
        ideal=Swing(pivot_y=60, length=320, wide=40, angle=-36, count=4, keeps=0.88, swing_s=0.8, follows=2.0),
    ),
    Preset(
        key="pennant",
        name="Pennant, let down",
        words="Cloth that bends along its whole length, whips a little at its tip, and hangs still soon.",
        asked=PendulumBrief(hangs="tail"),
        ideal=Swing(
            pivot_y=50,
            length=330,
            wide=56,
            thin=6,
            angle=34,
            keeps=0.62,
            swing_s=0.7,
            follows=2.0,
            bend=0.08,
            end="settling",
        ),
    ),
    Preset(
        key="bell-rope",
        name="Bell rope with a knob",
        words="Thin rope, a turned knob at its end, pulled round and round.",
        asked=PendulumBrief(hangs="tail"),
        ideal=Swing(
            pivot_y=50,
            length=310,
            wide=9,
            thin=7,
            weighted=True,
            size=44,
            angle=-30,
            keeps=1.0,
            swing_s=0.85,
            follows=1.5,
            end="cycle",
        ),
    ),
    Preset(
        key="crate",
        name="Crate under a trolley",
        words="Hangs still, is carried along a beam, lags behind, and swings on when the trolley has stopped.",
        asked=PendulumBrief(pivot="moved"),
        ideal=Swing(
            pivot_x=290, pivot_y=70, length=290, size=84, keeps=0.88, count=4, swing_s=0.85, carry=380, carry_s=1.1
        ),
    ),
    Preset(
        key="ladder",
        name="Rope ladder on a boom",
        words="Five rungs' worth of rope in three lengths, swung outboard: the last comes to rest last.",
        asked=PendulumBrief(hangs="chain", links=3, pivot="moved"),
        ideal=Swing(
            pivot_x=640,
            pivot_y=70,
            length=300,
            wide=18,
            keeps=0.6,
            swing_s=0.8,
            follows=2.0,
            end="settling",
            carry=-340,
            carry_s=1.0,
            eases=0.4,
        ),
    ),
)
