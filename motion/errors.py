"""What can go wrong in the core, told to a person.

::

    MotionError
    ├── BriefError          the brief does not hold together (``problems`` by field)
    ├── ClipError           the hand-in cannot be read
    │   ├── UnknownFormat
    │   ├── DamagedFile
    │   ├── UnsafeArchive
    │   ├── OverLimit
    │   └── NotAClip        readable, but not a sequence of pictures
    │       └── OnePicture  a single picture, which may be a sheet of frames
    ├── NewerDocument       what an installation kept was written by a newer version
    └── ReadingStopped      the process that read it was stopped (time, memory, crash)
        └── ReaderKilled    from outside, or because we stop ourselves: the clip is not to blame

Every message is one or two sentences that name the cause and the mend.
"""

from __future__ import annotations


class MotionError(Exception):
    """Anything the core refuses; ``str()`` of it is fit for a person."""


class BriefError(MotionError, ValueError):
    """A brief with one or more bad values.

    ``problems`` maps the dotted name of a field (``guide.height``, or ``""`` for the whole) to a sentence.
    """

    def __init__(self, problems: dict[str, str]) -> None:
        self.problems = problems
        super().__init__("; ".join(f"{k}: {v}" if k else v for k, v in problems.items()))


class NewerDocument(MotionError, ValueError):
    """What was kept is written in a way that this version does not know."""


class ClipError(MotionError, ValueError):
    """The hand-in cannot be read as a clip."""


class UnknownFormat(ClipError):
    """Its content is none of the formats that are read."""


class DamagedFile(ClipError):
    """It starts like a known format, but cannot be decoded."""


class UnsafeArchive(ClipError):
    """An archive with entries that point out of it, links, or a password."""


class OverLimit(ClipError):
    """More bytes, pixels or frames than are taken in."""


class NotAClip(ClipError):
    """Readable pictures that make no clip: one only, or of different sizes."""


class OnePicture(NotAClip):
    """A single picture, which may be a sheet of frames."""


class ReadingStopped(MotionError, RuntimeError):
    """The separate process that read the file ran out of time or memory, or crashed."""


class ReaderKilled(ReadingStopped):
    """Somebody else ended the process that read the file: it may be read again."""


class BadChange(MotionError, ValueError):
    """Something that cannot be done to a timing."""


class BadStroke(MotionError, ValueError):
    """Something that was drawn over a clip and is no stroke."""
