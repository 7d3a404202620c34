"""What tells one finding from the others of its take: stable over analyses of the same file."""

from __future__ import annotations

from typing import Any


def finding_key(finding: dict[str, Any]) -> str:
    """The key of a finding as its findings file tells it."""
    return f"{finding['code']}:{finding['first_frame']}-{finding['last_frame']}"
