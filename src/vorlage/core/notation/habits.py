"""The habits of a place: how numbers and formulas are written there, and line maths turned from them into a document's
and back.

A document is always written with the decimal point, so that it can travel. What people type and read follows the habits
of their department. A line that is turned keeps the place of every character, so that messages about it find theirs.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from .errors import NotationError
from .lexer import COMMA_GROUPS, COMMA_NUMBER, POINT_GROUPS, POINT_NUMBER, POINT_THOUSANDS, UNIT, WITH_MARKS
from .printers.base import Style
from .renaming import QUOTED, SPAN
from .settings import Settings

DecimalMark = Literal["point", "comma"]


@dataclass(frozen=True, slots=True)
class Habits:
    """How a department writes numbers and formulas."""

    decimal_mark: DecimalMark = "point"
    # what parts the thousands in print: a narrow space, or an apostrophe
    thousands: Literal["space", "apostrophe"] = "space"
    # the sign between factors that need one: × or ·
    times: Literal["cross", "dot"] = "cross"
    # whether : divides in what is typed; a fraction is written with / everywhere
    colon: bool = False
    # whether the tangent is called tg, the cotangent ctg
    tg: bool = False

    @property
    def style(self) -> Style:
        """How formulas are printed here."""
        return Style(self.decimal_mark, thousands=self.thousands, times=self.times, tg=self.tg)

    @property
    def rewrites(self) -> bool:
        """Whether what is typed here differs from what a document holds."""
        return self.decimal_mark == "comma" or self.colon

    def reading(self, settings: Settings) -> Settings:
        """The settings with which what people type here is read."""
        return replace(settings, decimal_mark=self.decimal_mark, colon=self.colon)


USUAL = Habits()

# What is copied as it stands: texts, units, names with their columns, chemistry, dots of a range.
COPIED = re.compile(
    rf'"[^"]*"|{UNIT.pattern}|\\text\{{[^{{}}]*\}}|chem:.*|[A-Za-z\u0370-\u03ff_]\w*(?:\.[A-Za-z]\w*)*|\.\.'
)
MATRIX = re.compile(r"\\?matrix\s*\(\Z")
LISTING = re.compile(r"\b(?:of|except)\b")
CODE = re.compile(r"`([^`]*)`")
DECIMAL = re.compile(r"(?<![\w.,])(\d+)\.(\d+)(?![\w.]*\.\d)")


class Walk:
    """Goes through a line from the left, and knows how deep in brackets it is and whether these are a matrix's."""

    def __init__(self, text: str) -> None:
        self.text, self.place, self.written = text, 0, ""
        self.open: list[bool] = []

    def take(self, length: int, written: str | None = None) -> None:
        """Go on, with what stands there or something else in its place."""
        self.written += self.text[self.place : self.place + length] if written is None else written
        self.place += length

    @property
    def in_matrix(self) -> bool:
        return bool(self.open) and self.open[-1]

    def sign(self) -> str:
        """Note a bracket, and give the sign that stands here."""
        sign = self.text[self.place]
        if sign in "([{":
            self.open.append(sign == "(" and bool(MATRIX.search(self.text[: self.place + 1])))
        elif sign in ")]}" and self.open:
            self.open.pop()
        return sign

    @property
    def follows_value(self) -> bool:
        """Whether a number, a name or a closed bracket stands close before."""
        return self.place > 0 and bool(re.match(r"[\w)\]}]", self.text[self.place - 1]))


def to_document(text: str, habits: Habits) -> str:
    """A line as it is typed in a place, as a document has it; every character keeps its place.

    Raises ``NotationError`` for numbers that mean nothing here.

    >>> comma = Habits("comma", colon=True)
    >>> to_document("0,5..4 step 0,25", comma), to_document("root(3; 1.234,5) : 2", comma)
    ('0.5..4 step 0.25', "root(3, 1'234.5) / 2")
    """
    if not habits.rewrites or text.lstrip().startswith("pattern "):
        return text
    walk = Walk(text)
    while walk.place < len(text):
        place = walk.place
        if copied := COPIED.match(text, place):
            walk.take(len(copied[0]))
        elif habits.decimal_mark == "comma" and starts_number(walk, ","):
            found = COMMA_GROUPS.match(text, place) or COMMA_NUMBER.match(text, place)
            assert found
            refuse_other_marks(text, place, len(found[0]))
            walk.take(len(found[0]), found[0].replace(".", "'").replace(",", "."))
        elif (sign := walk.sign()) == ":" and habits.colon:
            walk.take(1, "/")
        elif sign == ";" and habits.decimal_mark == "comma" and not walk.in_matrix:
            walk.take(1, ",")
        else:
            walk.take(1)
    return walk.written


def from_document(text: str, habits: Habits) -> str:
    """A line of a document as it is typed in a place.

    >>> from_document("one of 2.5, 3, max(a, 1200.5)", Habits("comma"))
    'one of 2,5; 3; max(a; 1200,5)'
    """
    if habits.decimal_mark == "point" or text.lstrip().startswith("pattern "):
        return text
    walk, listing = Walk(text), bool(LISTING.search(text))
    while walk.place < len(text):
        place = walk.place
        if copied := COPIED.match(text, place):
            walk.take(len(copied[0]))
        elif starts_number(walk, "."):
            found = POINT_GROUPS.match(text, place)
            if not found and not listing and not walk.open:
                found = POINT_THOUSANDS.match(text, place)
            found = found or POINT_NUMBER.match(text, place)
            assert found
            walk.take(len(found[0]), found[0].replace(",", "'").replace(".", ","))
        elif (sign := walk.sign()) == "," and walk.in_matrix:
            # a figure that followed closely would make it a decimal comma
            walk.take(1, ", " if text[place + 1 : place + 2].isdigit() else ",")
        else:
            walk.take(1, ";" if sign == "," else None)
    return walk.written


def starts_number(walk: Walk, mark: str) -> bool:
    """Whether a number begins here: a figure, or the mark with figures after it and no value before."""
    here, behind = walk.text[walk.place], walk.text[walk.place + 1 : walk.place + 2]
    return here in "0123456789" or (here == mark and behind in set("0123456789") and not walk.follows_value)


def refuse_other_marks(text: str, place: int, length: int) -> None:
    """Refuse a number that goes on with a point, or with a second comma."""
    behind = text[place + length : place + length + 2]
    if len(behind) < 2 or behind[1] not in "0123456789":
        return
    whole = WITH_MARKS.match(text, place)
    number = whole[0] if whole else text[place : place + length]
    if behind[0] == "." and number.count(".") == 1 and "," not in number:
        meant = number.replace(".", ",")
        raise NotationError(
            "decimal_mark", f"Decimals are written with a comma here: {meant}", place, len(number), instead=meant
        )
    if behind[0] == "," and "." not in number:
        meant = number.replace(",", "; ")
        message = f"A comma is the decimal mark here; what is listed is parted with ; as in {meant}"
        raise NotationError("decimal_mark", message, place, len(number), instead=meant)
    if behind[0] in ".,":
        raise NotationError("decimal_mark", f"{number} has too many marks to be a number.", place, len(number))


Turn = Callable[[str, Habits], str]


def in_spans(text: str, habits: Habits, turn: Turn) -> str:
    """A question text with the lines of its maths turned."""
    pieces, end = "", 0
    for found in SPAN.finditer(text):
        try:
            turned = turn(found["maths"], habits)
        except NotationError as problem:
            problem.place += found.start("maths")
            raise
        pieces += text[end : found.start("maths")] + turned
        end = found.end("maths")
    return pieces + text[end:]


def in_figure(text: str, habits: Habits, turn: Turn) -> str:
    """The lines of a figure, those of its formulas and of the maths in its labels turned."""
    pieces = ""
    for k, piece in enumerate(QUOTED.split(text)):
        try:
            pieces += in_spans(piece, habits, turn) if k % 2 else turn(piece, habits)
        except NotationError as problem:
            line = 1 + (pieces + piece[: problem.place]).count("\n")
            problem.message = f"Line {line}: {problem.message}"
            problem.place += len(pieces)
            raise
    return pieces


def in_cell(text: str, habits: Habits, turn: Turn) -> str:
    """The cell of a table: a number is turned, a word stays as it is."""
    return turn(text, habits) if re.fullmatch(r"\s*[-+−]?[\d.,' \u202f]+(?:[eE][-+]?\d+)?\s*", text) else text


def told(message: str, habits: Habits) -> str:
    """A sentence about numbers and formulas, as it is read in a place.

    >>> told("Within 0.5 of 12.25; write `max(a, 0.5)`, not 2..9.", Habits("comma"))
    'Within 0,5 of 12,25; write `max(a; 0,5)`, not 2..9.'
    """
    if habits.decimal_mark == "point":
        return message
    pieces = CODE.split(message)
    return "".join(
        f"`{from_document(piece, habits)}`" if k % 2 else DECIMAL.sub(r"\1,\2", piece) for k, piece in enumerate(pieces)
    )
