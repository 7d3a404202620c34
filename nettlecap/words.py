"""Names that templates and exports share."""

PRINCIPLE_NAMES = {
    "spacing": "Spacing",
    "arcs": "Arcs",
    "squash_stretch": "Squash and stretch",
    "contact": "Contact",
    "timing": "Timing",
}
