"""Memory for pictures, one as large as the next."""

from __future__ import annotations

import ctypes

TRIM_THRESHOLD, MMAP_THRESHOLD = -1, -3
"""What the C library calls the two; source: mallopt(3)."""
KEPT_BYTES, LARGEST_BYTES = 512_000_000, 32 * 1024 * 1024
"""So much is kept, of blocks up to the largest that the library lets be kept."""


def keep_freed() -> None:
    """Let this process keep the memory of pictures that it is done with for those that come.

    By default it is handed back after each picture and asked for anew, and to be given it empty takes longer than to
    fill it. For a process that ends with its work; one that goes on would hold on to it. Does nothing where the C
    library cannot be told.
    """
    try:
        tell = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    tell(MMAP_THRESHOLD, LARGEST_BYTES)
    tell(TRIM_THRESHOLD, KEPT_BYTES)
