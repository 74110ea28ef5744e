"""How an answer is asked of its author: the inputs for every field of its specification, and how they are spelt.

A field of a specification says by an ``Asked`` in its annotation which inputs it has, what they are called and how what
stands in them becomes the value of the field and back. Whoever makes a form of it (the desk does) needs nothing else.
Everything typed is text; where a field has rows, such as options, each row has texts by the names of its columns.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, TypeAlias

from annotated_types import MaxLen

from .records import Strict

# What stands in the inputs, by their names: texts, and lists of rows.
Typed: TypeAlias = Mapping[str, Any]
Row: TypeAlias = Mapping[str, str]
# What a row carries beside its cells, and boxes, which say nothing alone.
UNSEEN = frozenset(["id", "fixed", "rest", "slips", "kind", "outcome"])
# A value that the document is better without: the specification then says what holds.
ABSENT = object()

Position = Literal["answer", "accepted", "more"]


@dataclass(frozen=True, slots=True)
class Input:
    """One input of a form.

    ``way`` is how it is filled in: a ``line``, ``lines``, a ``choice``, a ``tick``, ``ticks`` in an order, ``rows`` of
    ``columns``, or ``gaps``; a ``hidden`` one goes there and back. An input without a label stands beside the one
    before it.
    """

    name: str
    way: Literal["line", "lines", "choice", "tick", "ticks", "rows", "gaps", "hidden"] = "line"
    label: str = ""
    # what it is called for whoever does not see where it stands
    words: str = ""
    # what it could say
    example: str = ""
    help: str = ""
    # what stands before it and after it on its line, and below it
    before: str = ""
    after: str = ""
    note: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    # what is chosen, or stands in it, in a new question; and what says no more than nothing does
    default: str = ""
    usual: str = ""
    # how wide it is: all there is, a few words, a figure or two
    width: Literal["full", "short", "tiny", "level"] = "full"
    # whether signs and names are offered while it is typed
    maths: bool = False
    # what stands in it of maths: line maths or the maths of a text, with names of parameters, or a number
    holds: Literal["", "maths", "text", "number"] = ""
    # the sign between several lines of maths in it
    parted: str = ""
    # a unit, a name or a number is set in letters of one width too
    mono: bool = False
    longest: int | None = None
    # whether what stands in it can be kept under a name, for other questions
    shelved: bool = False
    columns: tuple[Input, ...] = ()

    @property
    def is_list(self) -> bool:
        return self.way in {"rows", "gaps"}

    def rows_of(self, lines: str) -> list[dict[str, str]]:
        """The rows of a list that was typed as lines, with upright strokes between the cells."""
        names = [column.name for column in self.columns]
        found = []
        for line in filter(str.strip, lines.splitlines()):
            pieces = [piece.strip() for piece in re.split(r"\s\|(?:\s|$)", line, maxsplit=len(names) - 1)]
            found.append(dict(zip(names, pieces + [""] * len(names))))
        return found

    def filled(self, typed: Typed) -> bool:
        """Whether anything stands in it that its author put there."""
        value = typed.get(self.name) or ""
        if isinstance(value, list):
            return bool(used_rows(value))
        return bool(value.strip()) and value not in {self.default, self.usual}


@dataclass(frozen=True, slots=True)
class Asked:
    """How one field of a specification is asked for.

    ``read`` makes its value from what is typed (``ABSENT``: the field is left out), ``write`` what its inputs show.
    """

    inputs: tuple[Input, ...]
    read: Callable[[Typed], Any]
    write: Callable[[Any], dict[str, Any]]
    # what it is called when a part turns into another kind, and what one of its members is called
    called: str = ""
    each: str = ""
    place: Position = "answer"
    # the kinds of a family that ask for it; all where nothing is said
    only: frozenset[str] = frozenset()
    # the name of the field
    field: str = ""

    def within(self, name: str, constraints: Iterable[Any]) -> Asked:
        """For a field of this name, its inputs no longer than the field may be."""
        longest = next((each.max_length for each in constraints if isinstance(each, MaxLen)), None)
        inputs = self.inputs
        if longest is not None and len(inputs) == 1 and inputs[0].way == "line" and inputs[0].longest is None:
            inputs = (replace(inputs[0], longest=longest),)
        return replace(self, field=name, inputs=inputs)


def asked_of(document: type[Strict], kind: str = "") -> tuple[Asked, ...]:
    """Every field of a record that its author is asked for, in order."""
    found = []
    for name, info in document.model_fields.items():
        for each in info.metadata:
            if isinstance(each, Asked) and (not each.only or kind in each.only):
                found.append(each.within(name, info.metadata))
    return tuple(found)


# what stands in one input and is one value


def text(entry: Input, called: str = "", place: Position = "answer", only: Iterable[str] = ()) -> Asked:
    """A text as it is typed."""
    return Asked(
        (entry,), lambda typed: typed.get(entry.name) or "", lambda value: {entry.name: value or ""}, called,
        place=place, only=frozenset(only),
    )  # fmt: skip


def optional(
    entry: Input, called: str = "", place: Position = "answer", only: Iterable[str] = (), nothing: str = ""
) -> Asked:
    """A text that the document does without where nothing is typed; ``nothing`` is shown as nothing."""
    return Asked(
        (entry,),
        lambda typed: typed.get(entry.name) or ABSENT,
        lambda value: {entry.name: "" if value is None or str(value) == nothing else str(value)},
        called,
        place=place,
        only=frozenset(only),
    )


def whole(entry: Input, called: str = "", place: Position = "answer") -> Asked:
    """A whole number; what is none is left for the document to refuse."""
    shown = entry.default or "0"
    return Asked(
        (entry,),
        lambda typed: number_or_text(typed.get(entry.name) or shown),
        lambda value: {entry.name: str(value) if value or entry.default else ""},
        called,
        place=place,
    )


def choice(entry: Input, called: str = "", place: Position = "accepted", only: Iterable[str] = ()) -> Asked:
    """One of several."""
    return Asked(
        (replace(entry, way="choice", default=entry.default or entry.choices[0][0]),),
        lambda typed: typed.get(entry.name) or entry.default or entry.choices[0][0] or ABSENT,
        lambda value: {entry.name: value or ""},
        called,
        place=place,
        only=frozenset(only),
    )


def tick(
    entry: Input,
    called: str = "",
    on: Any = True,
    off: Any = False,
    place: Position = "accepted",
    only: Iterable[str] = (),
) -> Asked:
    """A box, with what it means when it is ticked and when it is not."""
    return Asked(
        (replace(entry, way="tick"),),
        lambda typed: on if typed.get(entry.name) else off,
        lambda value: {entry.name: ticked(value == on)},
        called,
        place="accepted",
        only=frozenset(only),
    )


def listed(
    entry: Input,
    read: Callable[[str], Any],
    write: Callable[[Any], str],
    called: str = "",
    place: Position = "more",
    each: str = "",
    between: str = "\n",
) -> Asked:
    """Members on lines of their own (or with something else ``between`` them), each spelt by a function."""
    pieces = between.strip() or None

    def reads(typed: Typed) -> Any:
        given = typed.get(entry.name) or ""
        lines = given.split(pieces) if pieces else given.splitlines()
        return [read(line.strip()) for line in lines if line.strip()]

    way: Literal["line", "lines"] = "line" if pieces else "lines"
    return Asked(
        (replace(entry, way=way, parted=pieces or ""),),
        reads,
        lambda value: {entry.name: between.join(map(write, value or ()))},
        called,
        each,
        place,
    )


def tabled(
    entry: Input,
    read: Callable[[Row], Any],
    write: Callable[[Any], dict[str, str]],
    called: str,
    each: str,
    place: Position = "more",
) -> Asked:
    """Members as rows of cells; ``read`` makes one of the cells of a row, ``write`` the cells of one."""
    return Asked(
        (replace(entry, way="rows"),),
        lambda typed: [read(row) for row in used_rows(typed.get(entry.name))],
        lambda value: {entry.name: [write(member) for member in value or ()]},
        called,
        each,
        place,
    )


def plain_cells(names: Iterable[str], defaults: Mapping[str, str | None]) -> Callable[[Row], dict[str, Any]]:
    """Cells that are fields by their names; where one is empty its default, and with ``None`` the field is left out."""

    def read(row: Row) -> dict[str, Any]:
        values = {name: row.get(name, "").strip() or defaults.get(name, "") for name in names}
        return {name: value for name, value in values.items() if value is not None}

    return read


def cells_of(names: Iterable[str]) -> Callable[[Any], dict[str, str]]:
    """The cells that show a member's fields."""
    return lambda member: {name: str(member.get(name) or "") for name in names}


# helpers


def ticked(on: bool) -> str:
    """What a box sends."""
    return "on" if on else ""


def used_rows(rows: Any) -> list[Row]:
    """The rows in which anything stands."""
    return [row for row in rows or () if any(str(row[name]).strip() for name in row if name not in UNSEEN)]


def as_rows(text: str) -> list[dict[str, str]]:
    """Rows that a row carries as one text."""
    try:
        rows = json.loads(text or "[]")
    except ValueError:
        return []
    return [row for row in rows if isinstance(row, dict)] if isinstance(rows, list) else []


def number_or_text(typed: str) -> int | str:
    """A whole number where one is typed."""
    return int(typed) if typed.strip().isdecimal() and len(typed) < 9 else typed
