"""A draft and a revision that somebody saved meanwhile, brought together field by field.

What only one side changed is taken from that side. What both changed differently stays as the author of the draft has
it, and is named with what the other revision says.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass, field, fields
from typing import Any

from .form import TEXT_FIELDS, Desk
from .rows import PartRow

# What the fields are called in a sentence.
WORDS = {
    "title": "the title", "wording": "the wording", "note": "the note to colleagues", "angle": "the unit of angles",
    "topics": "the topics", "level": "the level", "demand": "the demand", "calculator": "the calculator",
    "minutes": "the minutes", "tags": "the tags", "references": "the references", "source": "the source",
    "licence": "the licence",
    "complex": "the imaginary unit", "signs": "the signs to type", "name": "the name",
    "definition": "the definition", "unit": "the unit",
    "shown": "how it is shown", "kind": "the kind of answer", "marks": "the marks", "after": "what stands after it",
    "before": "what stands before it",
    "solution": "the solution", "gives": "the error carried forward", "under": "the letter it stands under",
    "required": "whether it has to be answered",
    "hints": "the hints", "trials": "the sample answers", "said_right": "what is said if right",
    "said_partly": "what is said if partly right", "said_wrong": "what is said if wrong", "lines": "the lines",
    "text": "the data",
}  # fmt: skip


@dataclass(frozen=True)
class Conflict:
    """A field that both changed: its words, what the other revision has there, and the input, where one text is all."""

    words: str
    theirs: str
    input: str = ""


@dataclass
class Merged:
    """A desk with both sides' changes: what was taken over, and what both changed."""

    desk: Desk
    taken: list[str] = field(default_factory=list)
    conflicts: list[Conflict] = field(default_factory=list)

    def settle(self, words: str, sides: Sequence[Any], input_name: str = "") -> Any:
        """What stands in a field after both sides' changes; ``sides`` are what it was, mine and theirs."""
        base, mine, theirs = sides
        if plain(theirs) in (plain(base), plain(mine)):
            return mine
        if plain(mine) == plain(base):
            self.taken.append(words)
            return deepcopy(theirs)
        text = theirs if isinstance(theirs, str) else ""
        self.conflicts.append(Conflict(words, text, input_name if isinstance(mine, str) else ""))
        return mine


def plain(value: Any) -> Any:
    """A value without the identities of rows, which are made anew whenever a document is opened."""
    if isinstance(value, list):
        return [plain(each) for each in value]
    if isinstance(value, dict):
        return {name: plain(each) for name, each in value.items() if name != "id" and each not in ("", [], {})}
    return value.strip().replace("\r\n", "\n") if isinstance(value, str) else value


def merged(base: Desk, mine: Desk, theirs: Desk) -> Merged:
    """The draft ``mine`` of a revision ``base``, and a revision that was saved meanwhile."""
    found = Merged(deepcopy(mine))
    desk = found.desk
    for name in (*TEXT_FIELDS, "calculator", "complex", "signs"):
        sides = [getattr(each, name) for each in (base, mine, theirs)]
        setattr(desk, name, found.settle(WORDS[name], sides, name))
    desk.parameters = rows(found, "parameter", [base.parameters, mine.parameters, theirs.parameters], by_uid)
    sides = [[row.text for row in each.used_conditions()] for each in (base, mine, theirs)]
    if found.settle("the conditions", sides) == sides[2] != sides[1]:
        desk.conditions = deepcopy(theirs.conditions)
    for name, words in (("tables", "table"), ("figures", "figure"), ("pictures", "picture")):
        lists = [getattr(each, name) for each in (base, mine, theirs)]
        setattr(desk, name, rows(found, words, lists, by_name))
    pins = [[row.values for row in each.pins] for each in (base, mine, theirs)]
    if found.settle("the pinned draws", pins) == pins[2] != pins[1]:
        desk.pins = deepcopy(theirs.pins)
    desk.parts = rows(found, "part", [base.parts, mine.parts, theirs.parts], by_uid)
    return found


def by_uid(row: Any) -> str:
    return str(row.uid)


def by_name(row: Any) -> str:
    return str(row.name.strip())


def rows(found: Merged, kind: str, lists: list[Sequence[Any]], identity: Callable[[Any], str]) -> list[Any]:
    """The rows of a list: those of the draft with the other side's changes, then those that the other side has new."""
    base, mine, theirs = ({identity(row): row for row in each} for each in lists)
    kept = []
    for number, row in enumerate(lists[1], start=1):
        name = identity(row)
        called = f"{kind} {by_name(row) or number}" if hasattr(row, "name") else f"{kind} {number}"
        if name in base and name not in theirs:
            if cells(row) == cells(base[name]):
                found.taken.append(f"{called} is taken out")
                continue
            found.conflicts.append(Conflict(f"{called}, which was taken out there", ""))
        if name in theirs:
            row = row_of_both(found, kind, called, base.get(name, type(row)(uid=row.uid)), row, theirs[name])
        kept.append(row)
    for name, row in theirs.items():
        if name not in mine and name not in base:
            found.taken.append(f"a new {kind}")
            kept.append(deepcopy(row))
    return kept


def cells(row: Any) -> dict[str, Any]:
    """What stands in the fields of a row."""
    return {each.name: plain(getattr(row, each.name)) for each in fields(row) if each.name != "uid"}


def row_of_both(found: Merged, kind: str, called: str, base: Any, mine: Any, theirs: Any) -> Any:
    both = deepcopy(mine)
    for name in (each.name for each in fields(both) if each.name not in {"uid", "typed"}):
        sides = [getattr(each, name) for each in (base, mine, theirs)]
        uid = getattr(mine, "uid", "")
        words = f"{WORDS.get(name, name)} of {called}"
        setattr(both, name, found.settle(words, sides, f"{kind}-{uid}-{name}"))
    if isinstance(both, PartRow):
        both.typed = dict(answer_of_both(found, called, base, mine, theirs))
    return both


def answer_of_both(found: Merged, called: str, base: Any, mine: Any, theirs: Any) -> Iterator[tuple[str, Any]]:
    """What is typed of an answer, input by input."""
    asked = {entry.name: each.called for each in mine.answer_kind.asked for entry in each.inputs}
    for name in dict.fromkeys([*mine.typed, *theirs.typed]):
        sides = [each.typed.get(name, "") for each in (base, mine, theirs)]
        words = f"{asked.get(name) or name} of {called}"
        yield name, found.settle(words, sides, f"part-{mine.uid}-{name}")
