"""How a finding and a range of frames are named."""

from __future__ import annotations

from typing import Any, Protocol


class Spanned(Protocol):
    """What a finding has, wherever it is laid beside others: its frames, and its key."""

    @property
    def first_frame(self) -> int: ...
    @property
    def last_frame(self) -> int: ...
    @property
    def key(self) -> str: ...


def finding_key(finding: dict[str, Any]) -> str:
    """What tells a finding from the others of its take; stable over analyses of the same file.

    Its part is told only where it has one, so that what was decided of others keeps its key.
    """
    part = f"@{finding['part']}" if finding.get("part") else ""
    return f"{finding['code']}:{finding['first_frame']}-{finding['last_frame']}{part}"


def span_words(first: int, last: int) -> str:
    """A range of frames in words."""
    return f"{first}" if first == last else f"{first}\N{EN DASH}{last}"
