"""Documents that an installation stored itself: read for ever, whatever version wrote them.

What comes from outside is read strictly. What was once taken is brought up to the present schema step by step; each
step is a pure function that stays as it is.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from motion.errors import NewerDocument

Document = dict[str, Any]
Step = Callable[[Any], Document]


@dataclass(frozen=True, slots=True, kw_only=True)
class Schema:
    """How one kind of document is written at present, ``name``, and what was written before.

    ``steps`` makes, for each older name, a document of the next one, its name included. Documents that carry no name
    are of before there were any: their step is that of "".
    """

    name: str
    steps: Mapping[str, Step] = field(default_factory=dict)

    def written(self, body: Document) -> Document:
        """A document as it is kept."""
        return {"schema": self.name, **body}

    def read(self, document: Any) -> Document:
        """A kept document in the present schema; the one given stays as it is. Raises NewerDocument."""
        told = document
        for _ in range(len(self.steps) + 1):
            name = told.get("schema", "") if isinstance(told, dict) else ""
            if name == self.name:
                return dict(told)
            if not isinstance(name, str) or name not in self.steps:
                break
            told = self.steps[name](told)
        written = told.get("schema") if isinstance(told, dict) else None
        raise NewerDocument(f"This is written as “{written}”, which this version cannot read yet.")
