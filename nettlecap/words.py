"""Names that templates and exports share."""

PEN_WORDS = (("pen", "Pen"), ("line", "Line"), ("arc", "Arc"), ("arrow", "Arrow"), ("eraser", "Eraser"))
"""What a marker can draw over a clip with."""

COMPANION_WAYS = (("side", "Side by side"), ("over", "Laid over"), ("turn", "In turn"))
"""How another clip is shown with one."""

EXPORT_KINDS = (
    ("frames.zip", "Pictures and exposure sheet, zip"),
    ("clip.gif", "GIF"),
    ("clip.png", "Animated PNG"),
    ("clip.webp", "Animated WebP"),
    ("clip.webm", "Video, WebM"),
    ("clip.mp4", "Video, MP4"),
)
