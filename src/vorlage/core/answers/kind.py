"""A kind of answer as everything outside its folder knows it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal, get_args

from .answer import Answer
from .asking import ABSENT, Asked, Input, Typed, asked_of
from .records import Member
from .spelling import tolerance_of, tolerance_words

GapRow = Mapping[str, str]


def read_key(row: GapRow, kept: dict[str, Any]) -> dict[str, Any]:
    """The answer of a gap that has a key and nothing else in its row."""
    return kept | {"key": row.get("key", "")}


def write_key(answer: dict[str, Any]) -> dict[str, str]:
    return {"key": answer.pop("key")}


def read_close(row: GapRow, kept: dict[str, Any]) -> dict[str, Any]:
    """The answer of a gap with a key and, beside it, how close is close enough."""
    return read_key(row, kept) | {"tolerance": tolerance_of(row.get("more", ""))}


def write_close(answer: dict[str, Any]) -> dict[str, str]:
    return write_key(answer) | {"more": tolerance_words(answer.pop("tolerance"))}


@dataclass(frozen=True, slots=True)
class InGap:
    """How an answer in a gap of a text is asked for, in one row: a key, what stands beside it, and a unit.

    ``read`` makes the specification from the row and what was kept of it beside the row; ``write`` takes out of a
    specification what the row shows.
    """

    example: str
    beside: str = ""
    unit: bool = False
    holds: Literal["maths", "text"] = "maths"
    read: Callable[[GapRow, dict[str, Any]], dict[str, Any]] = read_key
    write: Callable[[dict[str, Any]], dict[str, str]] = write_key


def close_gap(example: str) -> InGap:
    """A gap with how close is close enough beside its key."""
    return InGap(example, "2% or 1 dp", read=read_close, write=write_close)


@dataclass(frozen=True)
class Kind:
    """A kind of answer: its name in documents, what it is called, its specification, and answers to try it with.

    The first sample is the simplest; it stands in where an author's cannot be used yet. ``beside`` says whether an
    author may write something after the answer space.
    """

    name: str
    words: str
    document: type[Answer]
    samples: tuple[Mapping[str, Any], ...]
    beside: bool = False
    in_gap: InGap | None = None
    # what an answer looks like, where kinds of one family differ
    example: str = ""

    @cached_property
    def asked(self) -> tuple[Asked, ...]:
        """The fields of its specification that an author is asked for."""
        found = asked_of(self.document, self.name)
        if not self.example:
            return found
        entry, *further = found[0].inputs
        return (replace(found[0], inputs=(replace(entry, example=self.example), *further)), *found[1:])

    @cached_property
    def members(self) -> Mapping[str, type[Member]]:
        """The lists of its specification whose members have identities, with what they are."""
        found = {}
        for name, info in self.document.model_fields.items():
            for held in get_args(info.annotation):
                if isinstance(held, type) and issubclass(held, Member):
                    found[name] = held
        return found

    @cached_property
    def inputs(self) -> tuple[Input, ...]:
        """Every input in which something stands."""
        found = {entry.name: entry for each in self.asked for entry in each.inputs}
        return tuple(found.values())

    @cached_property
    def names(self) -> frozenset[str]:
        """The names of its inputs."""
        return frozenset(entry.name for entry in self.inputs)

    def asks(self, field_name: str) -> Asked | None:
        """How a field of its specification is asked for; None where it is not."""
        return next((each for each in self.asked if each.field == field_name), None)

    def read(self, typed: Typed) -> dict[str, Any]:
        """The specification that inputs spell, as a JSON object; it may not be one that can be used."""
        values = {each.field: each.read(typed) for each in self.asked}
        return {"kind": self.name} | {name: value for name, value in values.items() if value is not ABSENT}

    def write(self, answer: Mapping[str, Any]) -> dict[str, Any]:
        """What the inputs show for a specification, written out in full as a checked document is."""
        shown: dict[str, Any] = {}
        for each in self.asked:
            for name, value in each.write(answer[each.field]).items():
                shown[name] = [*shown.get(name, []), *value] if isinstance(value, list) else value
        return shown
