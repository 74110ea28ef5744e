"""What is wrong with the fields of the desk, each thing beside its field."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import TypeVar

from vorlage.core.notation import Habits, from_document, told
from vorlage.core.questions import Caution, Problem

from .form import Desk

# A letter that could become a parameter.
UNKNOWN = "unknown_name"
# What is missing from a question that is not finished yet.
EMPTY = frozenset(["empty", "string_too_short"])
# A longer field is not marked in its text.
LONGEST = 200
TEXTS = ("wording", "solution", "-lines")


@dataclass(frozen=True)
class Message:
    """What is wrong with a field, or hardly meant, and which of its characters are."""

    text: str
    before: str = ""
    marked: str = ""
    after: str = ""
    # a letter that could become a parameter
    offer: str = ""
    # the input in which the place is marked
    input: str = ""
    # what keeps nobody from saving
    mild: bool = False
    # whether something is still to be written there
    empty: bool = False
    # what could stand there instead, and the inputs that say so
    instead: str = ""
    fields: dict[str, str] = field(default_factory=dict)

    @property
    def place(self) -> int:
        return len(self.before)

    @property
    def length(self) -> int:
        return len(self.marked)

    @property
    def in_text(self) -> bool:
        """Whether the place lies in a text of several lines, which cannot be marked in its field."""
        return self.input.endswith(TEXTS)


def messages_of(desk: Desk, problems: Iterable[Problem], cautions: Iterable[Caution] = ()) -> dict[str, list[Message]]:
    """The messages by the places in which they stand."""
    found: dict[str, list[Message]] = {}
    everything: list[Problem | Caution] = [*problems, *(caution for caution in cautions if caution.path)]
    for said in everything:
        messages = found.setdefault(desk.field_of(said.path), [])
        message = message_of(desk, said)
        if message not in messages:
            messages.append(message)
    return found


Said = TypeVar("Said", Problem, Caution)


def in_place(said: Iterable[Said], habits: Habits) -> list[Said]:
    """What is said of a document, as it is read where it is typed."""
    found = []
    for each in said:
        here = replace(each, message=told(each.message, habits), instead=from_document(each.instead, habits))
        found.append(replace(here, cure=from_document(here.cure, habits)) if isinstance(here, Caution) else here)
    return found


def message_of(desk: Desk, problem: Problem | Caution) -> Message:
    field_name, text = desk.input_of(problem.path)
    mild = isinstance(problem, Caution)
    offer = problem.about if isinstance(problem, Problem) and problem.code == UNKNOWN else ""
    fields: dict[str, str] = {}
    if problem.instead and field_name:
        behind = text[problem.place + problem.length :]
        fields[field_name] = text[: problem.place] + problem.instead + behind
    start, end = problem.place, problem.place + problem.length
    if not problem.length and not field_name.endswith(TEXTS):
        # all of the field is meant
        start, end = 0, len(text)
    if start < end <= len(text) <= LONGEST:
        return Message(
            problem.message,
            text[:start],
            text[start:end],
            text[end:],
            offer,
            field_name,
            mild,
            instead=problem.instead,
            fields=fields,
        )
    words = problem.message
    match problem.path:
        case ("tables", int(), "columns", int(column), *_):
            words = f"Column {column + 1}: {words}"
        case ("parts", int(part), "answer", str(name), int(place), *_) if name != "gaps":
            asked = desk.parts[part].answer_kind.asks(name)
            if asked is not None and asked.each:
                words = f"{asked.each[:1].upper()}{asked.each[1:]} {place + 1}: {words}"
    if "gaps" in problem.path[:-1]:
        # the rows of the gaps have one place for messages together
        words = f"Gap {int(problem.path[problem.path.index('gaps') + 1]) + 1}: {words}"
    return Message(words, offer=offer, mild=mild, empty=problem.code in EMPTY, instead=problem.instead, fields=fields)
