"""What the questions of the bank can be told apart by, beside their words."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any

from django.db.models import Q

from vorlage.core.answers import KINDS
from vorlage.core.questions import DEMANDS, LEVELS

# so many values of one facet can be chosen
VALUES = 30
YES_NO = {"yes": True, "no": False}


@dataclass(frozen=True)
class Facet:
    """One of them: its name in an address, what it is called, and the column that holds it, or an expression.

    ``read`` gives the value of the column from what stands in an address, and raises ``ValueError`` for what is none;
    ``few`` are all the values where they are few and known, as PostgreSQL writes them; ``many`` says that a question
    has several, ``apart`` that there are so many that each is counted for itself.
    """

    name: str
    label: str
    column: str
    read: Callable[[str], Any]
    few: tuple[int | bool, ...] = ()
    many: bool = False
    apart: bool = False
    # of the values of which a question has several, as PostgreSQL calls it
    type: str = ""
    # what the values are called where they are a few that are known
    words: Mapping[Any, str] | None = None

    def takes(self, text: str) -> bool:
        try:
            self.read(text)
        except (ValueError, KeyError, InvalidOperation):
            return False
        return True

    def read_all(self, texts: Sequence[str]) -> list[Any]:
        return [self.read(text) for text in texts]

    def chosen(self, values: Sequence[Any]) -> Q:
        """That a question has one of the values."""
        if self.name == "used":
            return Q(uses__gt=0) if list(values) == [True] else Q(uses=0) if list(values) == [False] else Q()
        return Q(**{f"{self.column}__{'overlap' if self.many else 'in'}": list(values)})

    @property
    def condition(self) -> str:
        """The same of a table in which the facet is a column, for a list of the values."""
        return f"{self.name} && %s::{self.type}[]" if self.many else f"{self.name} = ANY(%s)"


def whole(text: str) -> int:
    if not text.isascii() or not text.isdigit() or len(text) > 15:
        raise ValueError(text)
    return int(text)


def short(text: str) -> str:
    if not text or len(text) > 60 or "\0" in text:
        raise ValueError(text)
    return text


def marks(text: str) -> Decimal:
    if not text.isascii() or len(text) > 8:
        raise ValueError(text)
    value = Decimal(text)
    if not 0 <= value < 100_000:
        raise ValueError(text)
    return value


def known(words: Mapping[Any, str]) -> Callable[[str], Any]:
    """What reads one of the values that there are."""
    return lambda text: {str(value): value for value in words}[text]


def yes_or_no(yes: str, no: str) -> dict[str, Any]:
    return {"read": lambda text: YES_NO[text], "few": (True, False), "words": {True: yes, False: no}}


MANY = {0: "one", 1: "2 to 9", 2: "10 to 99", 3: "100 to 999", 4: "1 000 and more"}
KIND_WORDS = {name: kind.words for name, kind in KINDS.items()}

FACETS = (
    Facet("topic", "Topic", "under", whole, many=True, apart=True, type="bigint"),
    Facet("level", "Level", "level", whole, few=tuple(LEVELS)),
    Facet("demand", "Demand", "demand", whole, few=tuple(DEMANDS)),
    Facet("kind", "Kind of answer", "kinds", known(KIND_WORDS), many=True, type="varchar", words=KIND_WORDS),
    Facet("marks", "Marks", "marks", marks),
    Facet("calculator", "Calculator", "calculator", **yes_or_no("with a calculator", "without one")),
    Facet("owner", "Whose", "owner", whole),
    Facet("used", "Used", "used", **yes_or_no("in a test", "never used")),
    Facet("figure", "Figure", "figure", **yes_or_no("with a figure", "without one")),
    Facet("by", "Marking", "by_hand", **yes_or_no("by hand", "marks itself")),
    Facet("draws", "Draws", "many", known(MANY), few=tuple(MANY), words=MANY),
    Facet("tag", "Tags", "tags", short, many=True, apart=True, type="varchar"),
)
