"""How a response is read, by whoever may not know the key: a student sees it while they write.

A reader is plain data without key, tolerance, slips or feedback. What it makes of a response is what the checker of the
answer reads there; what it cannot read, the checker cannot either.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..errors import CoreError
from ..notation import Node, Settings
from .answer import Answer, DrawnAnswer
from .check import batch_checker
from .verdict import BLANK, UNREADABLE


@dataclass(frozen=True, slots=True)
class Reading:
    """What stands in a response: its tree and how else it could be meant, or why it cannot be read and where."""

    blank: bool = False
    tree: Node | None = None
    ambiguity: str = ""
    problem: str = ""
    # where reading stopped
    place: int | None = None

    @property
    def unreadable(self) -> bool:
        return bool(self.problem)


@dataclass(frozen=True, slots=True)
class Reader:
    """Reads what is typed for an answer."""

    # the specification that knows no key, as JSON
    answer: str
    settings: Settings

    def read(self, response: str) -> Reading:
        """How a response is read."""
        _, checker = batch_checker(self.answer, self.settings)
        verdict = checker.drawn({}).check(response)
        if verdict.outcome == BLANK:
            return Reading(blank=True)
        if verdict.outcome == UNREADABLE:
            problem = verdict.feedback[0] if verdict.feedback else "This cannot be read."
            return Reading(tree=verdict.tree, problem=problem, place=verdict.place)
        return Reading(tree=verdict.tree, ambiguity=verdict.ambiguity)

    @property
    def kept(self) -> dict[str, Any]:
        """As plain data."""
        held = self.settings
        settings = {name: getattr(held, name) for name in ("decimal_mark", "angle", "complex", "colon")}
        return {"answer": json.loads(self.answer), "settings": settings | {"names": sorted(held.names)}}

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Reader:
        """A reader from what was kept."""
        settings = Settings(**{**kept["settings"], "names": frozenset(kept["settings"]["names"])})
        return cls(json.dumps(kept["answer"], sort_keys=True), settings)


def reader_of(specification: Answer, drawn: DrawnAnswer, settings: Settings) -> Reader | None:
    """What reads the responses to an answer of a draw; None where nothing is typed, or where it would need the key."""
    keyless = specification.keyless(drawn.key_tree())
    if keyless is None:
        return None
    reader = Reader(json.dumps(keyless.model_dump(mode="json"), sort_keys=True), settings)
    try:
        reader.read("")
    except CoreError:
        return None
    return reader
