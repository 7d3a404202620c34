"""A receipt that a student can keep: what was handed in, when, and how it is told from any other file."""

from __future__ import annotations

from django.utils import timezone

from nettlecap.takes.models import Take


def receipt_of(take: Take) -> str:
    """The receipt as plain text."""
    on = f"{timezone.localtime(take.handed_in_at):%A %-d %B %Y, %H:%M:%S %Z}"
    findings = getattr(getattr(take, "analysis", None), "findings", None)
    drawings = len({e["drawing"] for e in findings["clip"]["exposures"]}) if findings else None
    lines = [
        ("Receipt", f"take {take.number}{', late' if take.late else ''}"),
        ("Exercise", take.brief.title),
        ("Course", take.brief.course.name),
        ("By", take.student.name),
        ("Handed in", on),
        ("File", f"{take.file_name}, {take.file_bytes} bytes"),
        ("Content", f"SHA-256 {take.file_path.rpartition('/')[2]}"),
        ("Frames", f"{take.frames}, from {take.pictures} pictures of {take.width} x {take.height} px"),
        ("Drawings", str(drawings) if drawings is not None else "not counted yet"),
    ]
    if take.sound_path:
        lines.append(("Sound", take.sound_name))
    return "".join(f"{name + ':':<12}{value}\r\n" for name, value in lines)
