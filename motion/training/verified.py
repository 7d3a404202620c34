"""Whether the pictures of a clip show the checks what was planted in its motion, and nothing besides."""

from __future__ import annotations

from collections.abc import Sequence

from motion.analysis import analyse
from motion.clip import Picture
from motion.synth.draw import of_pictures
from motion.training.questions import Question


def shows_it(asked: Question, drawn: Sequence[tuple[Picture, int]]) -> bool:
    """Whether the whole analysis finds in its drawings, each with its exposure, that fault as grave as it is.

    Of a clean clip: whether it finds nothing.
    """
    told = [(f.code, f.severity) for f in analyse(of_pictures(drawn, asked.brief.fps), asked.brief).findings]
    finding = asked.finding
    return told == ([(finding.code, finding.severity)] if finding else [])
