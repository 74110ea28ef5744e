"""The records that the specifications of several kinds of answer are made of."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, model_validator

from ..notation import Habits, told

# A number as people type it in a field that holds no formula.
PLAIN = re.compile(r"[+-]?(?:\d{1,9}(?:\.\d{0,9})?|\.\d{1,9})(?:/\d{1,9})?", re.ASCII)
# An exponent that makes a number of a few characters one that takes minutes to be written down.
LONG_EXPONENT = re.compile(r"e[+-]?\d{3}", re.IGNORECASE)


def read_plain(text: str) -> Fraction:
    """A number from ``2``, ``2.5``, ``2,5``, ``½``, ``1½`` or ``-1/4``. Raises ``ValueError``.

    >>> read_plain("1½"), read_plain(" 2,5"), read_plain("-1/4")
    (Fraction(3, 2), Fraction(5, 2), Fraction(-1, 4))
    """
    typed = text.strip().replace(",", ".").replace("½", ".5")
    if not PLAIN.fullmatch(typed):
        raise ValueError("This is no number.")
    above, stroke, below = typed.partition("/")
    if stroke and not int(below):
        raise ValueError("This is no number.")
    return Fraction(above) / int(below or 1)


def to_share(value: Any) -> Fraction:
    """A share of the marks from ``"1/2"``, ``"50%"``, ``0.5`` or ``1``."""
    if isinstance(value, Fraction):
        return value
    text = str(value).strip()
    try:
        if LONG_EXPONENT.search(text):
            raise ValueError
        return Fraction(text[:-1].strip()) / 100 if text.endswith("%") else Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise ValueError("A share is a fraction of the marks, such as 1/2 or 50%.") from None


def in_range(value: Any) -> Fraction:
    share = to_share(value)
    if not 0 <= share <= 1:
        raise ValueError("A share lies between 0 and 1.")
    return share


Share = Annotated[Fraction, BeforeValidator(in_range), PlainSerializer(str, return_type=str)]


@dataclass(frozen=True, slots=True)
class Holds:
    """What stands in a text of a document, so far as the habits of a place have to do with it: line maths, a question
    text, the lines of a figure, a cell of a table, a level that begins with its marks."""

    way: Literal["line", "text", "figure", "cell", "level"]


HOLDS_LINE = Holds("line")
Line = Annotated[str, Field(max_length=2000), HOLDS_LINE]
# a question text
Said = Annotated[str, Holds("text")]
HALF = Fraction(1, 2)


# What stays the same of a part, an option or a region from revision to revision, whatever becomes of its words.
Identity = Annotated[str, Field(max_length=20, pattern=r"^[a-z0-9-]*$")]
IDENTITY = re.compile(r"[a-z0-9-]{1,20}")


def identity_of(text: str) -> str:
    """The text as an identity; empty where no document can have it."""
    return text if IDENTITY.fullmatch(text) else ""


def to_marks(value: Any) -> Decimal:
    """Marks from ``2``, ``2.5``, ``"2.5"`` or ``"1/2"``, without zeros at the end. Raises ``ValueError``."""
    text = str(value).strip()
    above, stroke, below = text.partition("/")
    try:
        marks = Decimal(above) / Decimal(below) if stroke else Decimal(text)
    except (InvalidOperation, ArithmeticError):
        marks = Decimal("NaN")
    usable = not isinstance(value, bool) and marks.is_finite() and 0 <= marks <= 100
    if not usable or marks * 100 != int(marks * 100):
        raise ValueError("Marks are a number from 0 to 100 with at most two decimal places, such as 2 or 2.5.")
    return plain_marks(marks)


def plain_marks(marks: Decimal) -> Decimal:
    """The same marks without zeros at the end.

    >>> plain_marks(Decimal("2.50")), plain_marks(Decimal("10.00"))
    (Decimal('2.5'), Decimal('10'))
    """
    return marks.quantize(Decimal(1)) if marks == int(marks) else marks.normalize()


def total_marks(marks: Iterable[Decimal]) -> Decimal:
    """All of them together, without zeros at the end."""
    return plain_marks(sum(marks, Decimal(0)))


# How marks can be shown; they are kept and added up as they are.
ROUNDINGS = {"exact": None, "tenths": Fraction(1, 10), "halves": Fraction(1, 2), "whole": Fraction(1)}


@lru_cache(maxsize=4096)
def shown_marks(marks: Fraction, rounding: str = "exact") -> Decimal:
    """Marks as they are shown: to tenths, to halves, to whole marks, or as they are, to two decimal places where they
    have more. What lies halfway goes away from zero. Never work with what this gives.

    >>> shown_marks(Fraction(2, 3)), shown_marks(Fraction(2, 3), "halves"), shown_marks(Fraction(5, 2), "whole")
    (Decimal('0.67'), Decimal('0.5'), Decimal('3'))
    """
    step = ROUNDINGS[rounding] or Fraction(1, 100)
    count, left = divmod(abs(marks), step)
    exact = (int(count) + (2 * left >= step)) * step * (-1 if marks < 0 else 1)
    return plain_marks(Decimal(exact.numerator) / Decimal(exact.denominator))


def told_marks(marks: Fraction, habits: Habits) -> str:
    """Marks as they are shown, as numbers are written in a place.

    >>> told_marks(Fraction(-2, 3), Habits("comma"))
    '−0,67'
    """
    return told(str(shown_marks(marks)).replace("-", "−"), habits)


def as_json_number(marks: Decimal) -> int | float:
    return int(marks) if marks == int(marks) else float(marks)


Marks = Annotated[Decimal, BeforeValidator(to_marks), PlainSerializer(as_json_number, return_type=int | float)]


class Strict(BaseModel):
    """A record that refuses what it does not know."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_strip_whitespace=True)


def renamed(given: Any, names: dict[str, str]) -> Any:
    """A record with other usual names of its fields turned into ours."""
    return {names.get(name, name): value for name, value in given.items()} if isinstance(given, dict) else given


TOLERANCE_NAMES = {
    "n": "value", "places": "value", "figures": "value", "lo": "low", "hi": "high", "from": "low", "to": "high",
}  # fmt: skip


# How close, and how that is said to an author.
TOLERANCE_MODES = (
    ("exact", "exactly"), ("relative", "within, of the key"), ("absolute", "within, plus or minus"),
    ("decimal_places", "to decimal places"), ("significant_figures", "to significant figures"),
    ("between", "anywhere in"),
)  # fmt: skip


class Tolerance(Strict):
    """How close is close enough.

    ``value`` is line maths: a distance, a fraction such as ``2%``, or a count of places or figures;
    ``between`` uses ``low`` and ``high`` instead, ends included.
    """

    mode: Literal["exact", "absolute", "relative", "decimal_places", "significant_figures", "between"] = "exact"
    value: Line = ""
    low: Line = ""
    high: Line = ""

    @model_validator(mode="before")
    @classmethod
    def spread(cls, given: Any) -> Any:
        """Numbers may stand for their line maths, and ``between`` may come as a pair."""
        if not isinstance(given, dict):
            return given
        spread = renamed(given, TOLERANCE_NAMES)
        pair = spread.get("value")
        if isinstance(pair, list | tuple) and len(pair) == 2:
            spread.pop("value")
            spread["low"], spread["high"] = pair
        return {
            name: value if name == "mode" or isinstance(value, str) else str(value) for name, value in spread.items()
        }

    @model_validator(mode="after")
    def complete(self) -> Tolerance:
        if self.mode == "between":
            if not self.low or not self.high:
                raise ValueError("“between” needs a lower and an upper end.")
        elif self.mode != "exact" and not self.value:
            raise ValueError("This tolerance needs a value, such as 2% or 0.05.")
        return self


class Limit(Strict):
    """What may be typed at all, told at once in the author's own words; it is about the form and costs nothing."""

    rule: Literal["whole", "between", "length", "pattern"]
    # the ends of ``between``, and the least and the most characters of ``length``; either may be left out
    low: Line = ""
    high: Line = ""
    # a regular expression that the whole answer fits
    pattern: str = Field(default="", max_length=500)
    words: str = Field(default="", max_length=300)

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        """``"whole"`` by itself, and ends that are numbers."""
        if isinstance(given, str):
            return {"rule": given}
        if isinstance(given, dict):
            numbers = (int, float)
            return {name: str(value) if isinstance(value, numbers) else value for name, value in given.items()}
        return given

    @model_validator(mode="after")
    def complete(self) -> Limit:
        if self.rule in {"between", "length"} and not (self.low.strip() or self.high.strip()):
            raise ValueError("This limit needs a lower or an upper end.")
        if self.rule == "pattern" and not self.pattern:
            raise ValueError("This limit needs a pattern.")
        return self


Limits = Annotated[tuple[Limit, ...], Field(max_length=5)]


def even_shares(shares: Iterable[Fraction | None]) -> tuple[Fraction, ...]:
    """The shares, those that are not given being what is left, evenly."""
    listed = list(shares)
    given = sum((share for share in listed if share is not None and share > 0), Fraction(0))
    unsaid = sum(share is None for share in listed)
    rest = (1 - given) / unsaid if unsaid else Fraction(0)
    return tuple(rest if share is None else share for share in listed)


class Band(Strict):
    """A range of closeness around the key and the share of the marks it earns."""

    tolerance: Tolerance
    share: Share = HALF
    feedback: Said = ""


class Slip(Strict):
    """A mistake that is expected, as a formula."""

    key: Line
    share: Share = Fraction(0)
    feedback: Said = ""


def signed_share(value: Any) -> Fraction:
    share = to_share(value)
    if not -1 <= share <= 1:
        raise ValueError("The share of an option lies between -1 and 1.")
    return share


SignedShare = Annotated[Fraction, BeforeValidator(signed_share), PlainSerializer(str, return_type=str)]
Option = Annotated[str, Field(min_length=1, max_length=2000), Holds("text")]


class Member(Strict):
    """A member of one of the lists of an answer, with an identity that it keeps from revision to revision."""

    id: Identity = ""

    # what says most of what it is, and by what else it is found again in an earlier revision, the surest first
    telling: ClassVar[tuple[str, ...]] = ()
    found_by: ClassVar[tuple[tuple[str, ...], ...]] = ()


class Offer(Member):
    """Question text that is offered and has no share of its own: an item to be put in order, a distractor."""

    telling = ("text",)
    text: Option

    @model_validator(mode="before")
    @classmethod
    def bare(cls, given: Any) -> Any:
        return {"text": given} if isinstance(given, str) else given
