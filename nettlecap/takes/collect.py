"""Taking in a whole folder for a class that collects on a stick: files are matched to students by their names."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from motion.formats import numbering
from nettlecap.classroom.models import Brief, Membership, Person
from nettlecap.errors import Refusal
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Take

CHUNK = 1 << 20
_WORDS = re.compile(r"[^\W_]+|\d+")


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """One file or folder, and whose it is; ``student`` is None where its name does not tell, with the reason why."""

    path: Path
    student: Person | None
    why: str = ""


class OnDisk:
    """A file on a disk as what a browser would send."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.name = path.name
        self.size = path.stat().st_size

    def chunks(self) -> Iterator[bytes]:
        with self._path.open("rb") as stream:
            while chunk := stream.read(CHUNK):
                yield chunk


def matches(folder: Path, brief: Brief) -> list[Match]:
    """Each file and each folder of pictures directly in the folder, in the order of their names."""
    students = [m.person for m in Membership.objects.learning().filter(course=brief.course_id)
                .select_related("person").order_by("person__name")]  # fmt: skip
    found = sorted(p for p in folder.iterdir() if not p.is_symlink() and not numbering.is_clutter(p.name))
    told = [_match(path, students) for path in found]
    return _no_two_alike(told)


def take_in(match: Match, brief: Brief) -> Take:
    """Hand in what was matched, for its student. Raises Refusal as ``hand_in`` does, and where nobody was matched."""
    if match.student is None:
        raise Refusal(match.why)
    files = sorted(p for p in match.path.iterdir() if p.is_file()) if match.path.is_dir() else [match.path]
    return hand_in(match.student, brief, [OnDisk(p) for p in files if not p.is_symlink()])


def words_of(text: str) -> set[str]:
    """The words of a name without accents and case: “Safiya_Brandão-2” gives safiya, brandao and 2."""
    plain = unicodedata.normalize("NFKD", text)
    return set(_WORDS.findall("".join(c for c in plain if not unicodedata.combining(c)).casefold()))


def _match(path: Path, students: Iterable[Person]) -> Match:
    words = words_of(path.name if path.is_dir() else path.stem)
    scores = {student: _score(words, student) for student in students}
    best = max(scores.values(), default=0)
    likely = [student for student, score in scores.items() if score == best]
    if not best:
        return Match(path=path, student=None, why="no student of the course is named in it")
    if len(likely) > 1:
        return Match(path=path, student=None, why="it could be of " + " or ".join(s.name for s in likely))
    return Match(path=path, student=likely[0])


def _score(words: set[str], student: Person) -> int:
    """3 for the login or the whole name, 1 for a part of the name, 0 for nothing of it."""
    name = words_of(student.name)
    if words_of(student.username) <= words or name <= words:
        return 3
    return 1 if name & words else 0


def _no_two_alike(told: Sequence[Match]) -> list[Match]:
    """Of several for one student none is taken, since it is not clear which is meant."""
    counts = {m.student: sum(o.student == m.student for o in told) for m in told if m.student}
    return [
        Match(path=m.path, student=None, why=f"there is more than one of {m.student.name}")
        if m.student and counts[m.student] > 1
        else m
        for m in told
    ]
