"""Examples of the bouncing ball's faults."""

from motion.account.bounce import panel
from motion.account.bounce.examples import example
from motion.account.example import Examples

EXAMPLES = Examples(
    introduction="D is the round ball's diameter. A drawing stands for its first frame.",
    example=example,
    panel=panel.draw,
    all_over=("timing.rhythm", "timing.loop", "arc.rising_tops"),
)
