"""Whether this process was told to stop: whoever waits for a reader looks here, and puts its work back."""

from __future__ import annotations

import threading

asked = threading.Event()


class PutBack(Exception):
    """The job at hand was not done, through no fault of its own: it is to be done again."""
