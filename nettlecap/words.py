"""Names that templates and exports share."""

PRINCIPLE_NAMES = {
    "spacing": "Spacing",
    "arcs": "Arcs",
    "squash_stretch": "Squash and stretch",
    "contact": "Contact",
    "timing": "Timing",
}

EXPORT_KINDS = (
    ("frames.zip", "Pictures and exposure sheet, zip"),
    ("clip.gif", "GIF"),
    ("clip.png", "Animated PNG"),
    ("clip.webp", "Animated WebP"),
    ("clip.webm", "Video, WebM"),
    ("clip.mp4", "Video, MP4"),
)
