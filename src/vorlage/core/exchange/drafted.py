"""What became of something that was brought in, before anything is kept of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from ..notation import USUAL, Habits
from ..questions import DocumentError, Filing, QuestionDocument, load_filed, to_point
from ..questions.document import Fault


@dataclass(frozen=True, slots=True)
class Remark:
    """Something that is said of a line, counted from 1."""

    line: int
    words: str


@dataclass
class Drafted:
    """A question as it was read: its document as a JSON object, with what was guessed and what could not be read.

    ``asked`` and ``answer`` are the text and the printed answer of a fixed question with one number as its answer, for
    the search of a formula; empty for others.
    """

    line: int
    raw: dict[str, Any]
    guesses: list[Remark] = field(default_factory=list)
    unread: list[Remark] = field(default_factory=list)
    # what keeps it from being a question
    faults: list[Remark] = field(default_factory=list)
    # the parts, from 0, that have no answer yet: they are information until somebody writes one
    lacking: list[int] = field(default_factory=list)
    asked: str = ""
    answer: str = ""

    @property
    def title(self) -> str:
        return str(self.raw.get("title") or "")

    def loaded(self, habits: Habits = USUAL) -> tuple[QuestionDocument, Filing] | None:
        """The document and its filing; None, with the faults noted, where it is no question."""
        if self.faults:
            return None
        faults: Sequence[Fault] = to_point(self.raw, habits)
        try:
            if not faults:
                return load_filed(self.raw)
        except DocumentError as problem:
            faults = problem.faults
        self.faults += [Remark(self.line, f"{place_words(fault.path)}{fault.message}") for fault in faults]
        return None


PLACES = {
    "parts": "part", "parameters": "parameter", "conditions": "condition", "figures": "figure", "tables": "table",
    "options": "option", "pairs": "pair", "items": "item", "gaps": "gap", "slips": "slip", "bands": "part marks",
}  # fmt: skip


def place_words(path: Sequence[str | int]) -> str:
    """The path to a field as people say it, with a colon: ``part 2, tolerance: ``."""
    said: list[str] = []
    for step in path:
        if isinstance(step, int):
            said[-1] = f"{said[-1]} {step + 1}" if said else str(step + 1)
        elif step not in {"answer", "filing"}:
            said.append(PLACES.get(step, step.replace("_", " ")))
    words = ", ".join(said)
    return f"{words[:1].upper()}{words[1:]}: " if words else ""
