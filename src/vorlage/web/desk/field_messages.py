"""What is wrong with the fields of the desk, each thing beside its field."""

from __future__ import annotations

from dataclasses import dataclass

from vorlage.core.questions import Problem

from .form import Desk

# A letter that could become a parameter.
UNKNOWN = "unknown_name"
# A longer field is not marked in its text.
LONGEST = 200
TEXTS = ("wording", "solution")


@dataclass(frozen=True)
class Message:
    """What is wrong with a field, and which of its characters are meant."""

    text: str
    before: str = ""
    marked: str = ""
    after: str = ""
    # a letter that could become a parameter
    offer: str = ""
    # the field in which the place is marked
    field: str = ""

    @property
    def place(self) -> int:
        return len(self.before)

    @property
    def length(self) -> int:
        return len(self.marked)

    @property
    def in_text(self) -> bool:
        """Whether the place lies in a text of several lines, which cannot be marked in its field."""
        return self.field.endswith(TEXTS)


def messages_of(desk: Desk, problems: list[Problem]) -> dict[str, list[Message]]:
    """The messages by the places in which they stand."""
    found: dict[str, list[Message]] = {}
    for problem in problems:
        found.setdefault(desk.field_of(problem.path), []).append(message_of(desk, problem))
    return found


def message_of(desk: Desk, problem: Problem) -> Message:
    field_name, text = desk.input_of(problem.path)
    offer = problem.about if problem.code == UNKNOWN else ""
    start, end = problem.place, problem.place + problem.length
    if not problem.length and not field_name.endswith(TEXTS):
        # all of the field is meant
        start, end = 0, len(text)
    if start < end <= len(text) <= LONGEST:
        return Message(problem.message, text[:start], text[start:end], text[end:], offer, field_name)
    words = problem.message
    if "gaps" in problem.path[:-1]:
        # the rows of the gaps have one place for messages together
        words = f"Gap {int(problem.path[problem.path.index('gaps') + 1]) + 1}: {words}"
    return Message(words, offer=offer)
