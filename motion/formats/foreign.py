"""What decoders and unpackers raise on damaged data."""

from __future__ import annotations

import struct
import zlib

# What decoders and unpackers raise on damaged data, of which they know many kinds; SyntaxError for PNG chunks among
# them. Our own errors are some of these too, and must be let through.
FOREIGN_ERRORS = (
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    IndexError,
    KeyError,
    OverflowError,
    TypeError,
    NotImplementedError,
    AttributeError,
    RuntimeError,
    ZeroDivisionError,
    struct.error,
    zlib.error,
)
