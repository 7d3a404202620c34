"""Examples of the pendulum's faults."""

from motion.account.example import Examples
from motion.account.pendulum import panel
from motion.account.pendulum.examples import example

EXAMPLES = Examples(
    introduction="R is the line's length, from the pivot to the weight's centre, and a gap the angle from one drawing "
    "to the next. Angles are those of the straight line from the pivot to the weight's centre, from the rest line.",
    example=example,
    panel=panel.draw,
    all_over=("timing.rhythm", "timing.loop", "arc.rising_swings", "arc.lopsided", "timing.swing"),
)
