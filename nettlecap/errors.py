"""What the application refuses, told to a person.

::

    Refusal         what was asked cannot be done as asked (422)
    ├── NotAllowed  by this person (403)
    ├── Conflict    in this state of things (409)
    └── TooOften    so soon again (429)
"""

from __future__ import annotations


class Refusal(Exception):
    """``str()`` of it is a sentence for the person who asked."""


class NotAllowed(Refusal):
    """The person may not do this."""


class Conflict(Refusal):
    """The thing has changed, or is not in a state in which this can be done."""


class TooOften(Refusal):
    """It was done often enough for now; ``after_s`` seconds later it may be done again."""

    def __init__(self, words: str, after_s: int) -> None:
        super().__init__(words)
        self.after_s = after_s
