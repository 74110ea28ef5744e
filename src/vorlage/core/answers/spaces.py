"""What is laid before a student for an answer: a line to write on, options to be ticked, pairs to be joined.

A kind of answer says which of these it needs; the sheet, the paper and the screen of a sitting print each of them in
their own way. What is offered is named by its place among the texts that the answer offers.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

# A letter or a number that something offered is called by, and its place among the texts.
Entry = tuple[str, int]


@dataclass(frozen=True, slots=True)
class Space:
    """A space for an answer; the plain one is a line to write on."""

    shape: ClassVar[str] = "line"
    # whether there is a line, with room beside it, to write the answer on
    has_line: ClassVar[bool] = True
    # whether options with letters are ticked
    ticked: ClassVar[bool] = False

    @property
    def entries(self) -> tuple[Entry, ...]:
        """All that is offered, in the order shown."""
        return ()


@dataclass(frozen=True, slots=True)
class Options(Space):
    """Options to be ticked."""

    shape: ClassVar[str] = "options"
    has_line: ClassVar[bool] = False
    ticked: ClassVar[bool] = True
    shown: tuple[Entry, ...]
    # whether several may be ticked
    many: bool = False

    @property
    def entries(self) -> tuple[Entry, ...]:
        return self.shown


@dataclass(frozen=True, slots=True)
class Items(Space):
    """Items that are named by their letters on a line."""

    shape: ClassVar[str] = "items"
    shown: tuple[Entry, ...]

    @property
    def entries(self) -> tuple[Entry, ...]:
        return self.shown


@dataclass(frozen=True, slots=True)
class Pairs(Space):
    """Left sides with numbers, to be matched with right sides with letters."""

    shape: ClassVar[str] = "pairs"
    has_line: ClassVar[bool] = False
    lefts: tuple[Entry, ...]
    rights: tuple[Entry, ...]

    @property
    def entries(self) -> tuple[Entry, ...]:
        return self.lefts + self.rights


@dataclass(frozen=True, slots=True)
class Words(Space):
    """A few words to be ticked, the same in every question: true, false."""

    shape: ClassVar[str] = "words"
    has_line: ClassVar[bool] = False
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Scale(Space):
    """So many boxes between two ends."""

    shape: ClassVar[str] = "scale"
    has_line: ClassVar[bool] = False
    steps: int
    low: str
    high: str


@dataclass(frozen=True, slots=True)
class Ruled(Space):
    """Ruled lines to write on at length."""

    shape: ClassVar[str] = "ruled"
    has_line: ClassVar[bool] = False
    lines: int


@dataclass(frozen=True, slots=True)
class Nowhere(Space):
    """No space of its own: the answer goes into the text or a figure, or there is none."""

    shape: ClassVar[str] = "nowhere"
    has_line: ClassVar[bool] = False


LINE, NOWHERE = Space(), Nowhere()
