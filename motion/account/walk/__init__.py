"""Examples of the walk's faults."""

from motion.account.example import Examples
from motion.account.walk import panel
from motion.account.walk.examples import example

EXAMPLES = Examples(
    introduction="L is the leg's length: thigh and shin. A step goes from one foot's contact to the other's, and its "
    "phase from 0 at the contact to 1 at the next. In place the ground passes under the figure at an even speed, by "
    "which a standing foot goes back; travel is told against the ground.",
    example=example,
    panel=panel.draw,
    all_over=(
        "arc.flat",
        "spacing.stride",
        "timing.limps",
        "timing.down_up",
        "timing.passing",
        "timing.opposite",
        "arc.rise",
        "form.bend",
        "form.lean",
        "timing.arms",
        "timing.tempo",
    ),
)
