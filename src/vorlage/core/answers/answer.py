"""What every kind of answer is: a specification, its checker, and the answer of one draw.

A kind of answer extends the three classes here; everything else in Vorlage knows an answer by them and by its
``Kind``, and never asks which kind it is.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import TYPE_CHECKING, Any, ClassVar, Protocol, Self

from ..algebra import EvaluationError, Value, Values
from ..budget import Path
from ..figures import DrawnRegion
from ..notation import Chemical, Node, NotationError, Quantity, Settings, Text, line, names_in, read_authored
from .limits import check_limits
from .records import Limit, Strict
from .spaces import LINE, Entry, Space
from .verdict import RIGHT, Verdict

if TYPE_CHECKING:
    from .kinds.number import DrawnNumber

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


@dataclass(frozen=True, slots=True)
class Demanded:
    """What could be asked of an answer: words for it, and the fields of its specification that change."""

    words: str
    changes: Mapping[str, Any]


class Answer(Strict):
    """The specification of an answer: what a part of a question document says about it."""

    kind: str

    # whether a response is a line that is typed, and not something chosen
    typed: ClassVar[bool] = True
    # whether the machine finds a verdict; otherwise a person does, or there is none
    checked: ClassVar[bool] = True
    # whether it earns marks, and whether anything is asked at all
    marked: ClassVar[bool] = True
    asks: ClassVar[bool] = True
    # whether it is given by pointing at places in a figure
    pointed: ClassVar[bool] = False
    # whether a later part may use it by a name
    gives: ClassVar[bool] = False
    # whether what is typed for it is line maths, its numbers written by the habits of the place
    line_maths: ClassVar[bool] = True
    # whether it is one number: its key has a value, and every name in it has to be known
    numeric: ClassVar[bool] = False

    def checker(self, settings: Settings) -> Checker:
        """What checks it, its formulas read once.

        Raises ``NotationError`` or ``EvaluationError``, with the field, when one of its formulas cannot be used.
        """
        with of_field("limits"):
            check_limits(self.limits_set, settings)
        return self.made_checker(settings)

    @abstractmethod
    def made_checker(self, settings: Settings) -> Checker:
        """As ``checker``, whatever its limits are."""

    def keyless(self, key: Node) -> Answer | None:
        """An answer that reads what is typed as this one does and knows nothing of its key, for whoever shows a
        student how a line was read; ``key`` is that of the draw, of which no more stays than its letters and its size.
        None for what is chosen."""
        return None

    @property
    def limits_set(self) -> tuple[Limit, ...]:
        """The limits on what may be typed."""
        return getattr(self, "limits", ())

    @classmethod
    def completed(cls, types: Mapping[str, Any]) -> None:
        """Fill in types that are known only when all kinds are: ``GapAnswer``, what can stand in a gap."""

    # what a question needs to know of it

    @property
    def on_a_line(self) -> bool:
        """Whether a line to write on is laid before the student for it, whatever is drawn."""
        return self.typed and self.checked

    def lines(self) -> list[tuple[str, str]]:
        """Every field that holds line maths in which parameters stand, with its text; the key first."""
        return []

    def key_as_read(self, settings: Settings) -> Node | None:
        """The key as it is written, for whoever writes it; None where it is no line maths. Raises ``NotationError``."""
        lines = self.lines()
        return read_authored(lines[0][1], settings) if lines else None

    def texts(self) -> tuple[str, ...]:
        """The question texts that it offers: options, the two sides of pairs, items."""
        return ()

    def inner(self) -> Sequence[tuple[Path, Answer]]:
        """The answers inside it, each with the path to it; itself when it has none inside."""
        return (((), self),)

    @property
    def varied(self) -> bool:
        """Whether its key differs from draw to draw unless something was forgotten."""
        return self.checked

    @property
    def gaps_in_text(self) -> int | None:
        """How many places for answers the text of its part has to have; None where that is not its business."""
        return None

    @property
    def figures(self) -> tuple[tuple[str, str], ...]:
        """The figures of the question in which it is answered: the field that names one, and its name."""
        return ()

    def unit_beside(self, after: str) -> str:
        """The unit that a number comes in, from what stands after the answer space; empty where there is none."""
        return ""

    @property
    def unit_given(self) -> str:
        """A unit that is printed after the answer space; empty for what the author wrote there."""
        return ""

    @property
    def rubric_rows(self) -> Sequence[tuple[str, Sequence[tuple[Decimal, str]]]]:
        """What a marker looks for: every criterion, and its levels with their marks."""
        return ()

    def doubts(self, marks: Decimal) -> list[tuple[str, str]]:
        """(code, message) for what looks wrong about it in a part with so many marks."""
        return []

    def copied(self, tree: Node, after: str) -> str | None:
        """A piece of maths of the question as a student would copy it into the answer space; None where nobody
        would."""
        return None if isinstance(tree, Text | Chemical | Quantity) else line(tree)

    def lenient(self) -> Demanded | None:
        """That another form earns nothing, where one is asked for already; None where none is."""
        return None

    def demand(self, key: Node, copied: Node, settings: Settings) -> Demanded | None:
        """What could be asked for that the printed key has and a piece of maths of the question has not."""
        return None


class Checker(Protocol):
    """A specification, its formulas read once."""

    def drawn(self, values: Values) -> DrawnAnswer:
        """The answer for one draw. Raises ``EvaluationError`` when its key has no value there."""


@dataclass(frozen=True, slots=True)
class Offering:
    """Something offered in an order that is drawn: how much, what keeps its place, and what the order may not be."""

    count: int
    shuffled: bool = True
    fixed: frozenset[int] = frozenset()
    # items are never shown in the order that is asked for
    never_as_written: bool = False


@dataclass(frozen=True, slots=True)
class Less:
    """An answer that is not the key: the share of the marks that it earns, what it is, in words or as a formula of the
    draw, and what is said to whoever gives it."""

    share: Fraction
    what: str | Node
    feedback: str = ""


class DrawnAnswer:
    """An answer with the values of one draw."""

    __slots__ = ()

    # whether numbers may be typed as they stand, so that limits can leave nothing that is wrong
    takes_numbers: ClassVar[bool] = False

    @abstractmethod
    def key_tree(self) -> Node:
        """The key as it is printed."""

    @abstractmethod
    def closeness(self) -> str:
        """What else counts as the key, in words."""

    def earning_less(self) -> Sequence[Less]:
        """What earns a part of the marks, or none with a word: as the marker reads it."""
        return ()

    @abstractmethod
    def check(self, response: Any) -> Verdict:
        """The verdict for what was typed or chosen."""

    def right_response(self) -> Any:
        """A response that is right: the key as it is typed; None where there is nothing to be right about."""
        return line(self.key_tree())

    def fault(self, printed: str | None = None) -> str:
        """Why the printed key is not fully right by the question's own rules; empty when it is."""
        response = self.right_response()
        if response is None:
            return ""
        verdict = self.check(printed if printed is not None and isinstance(response, str) else response)
        if verdict.outcome == RIGHT:
            return ""
        if not isinstance(response, str):
            return verdict.because
        return verdict.feedback[0].rstrip(".") if verdict.feedback else f"{verdict.outcome}: {verdict.because}"

    @property
    def number(self) -> DrawnNumber | None:
        """The number that is asked for, in the unit of the key; None where it is something else."""
        return None

    @property
    def worth(self) -> Value | None:
        """What the key is worth in a later part; None where later parts cannot use it."""
        return None

    def written_out(self, number: Node) -> str:
        """A number as it would be typed for this answer."""
        return line(number)

    @property
    def specification(self) -> Answer | None:
        """The specification of an answer that is typed; None for what is chosen."""
        found = getattr(getattr(self, "checker", None), "answer", None)
        return found if isinstance(found, Answer) else None

    # what is offered

    @property
    def offerings(self) -> Mapping[str, Offering]:
        """What is offered in an order of its own in every draw, by names that stay the same."""
        return {}

    def shown_in(self, orders: Mapping[str, tuple[int, ...]]) -> Self:
        """The answer with what it offers in these orders, by the names of its offerings."""
        return self

    def space(self) -> Space:
        """What is laid before the student for it."""
        return LINE

    def in_gaps(self) -> list[tuple[Entry, ...]]:
        """What can be chosen in each gap of the text, in the order shown; nothing where one types."""
        return []

    def inner(self) -> Sequence[tuple[int, Answer, DrawnAnswer]]:
        """The answers inside it: which gap (from 1), specification and answer; nothing where there are none."""
        return ()

    @property
    def pointed_regions(self) -> Sequence[DrawnRegion]:
        """The regions of its figure in which somebody may point; nothing for most kinds."""
        return ()

    def troubles(self) -> list[tuple[str, str]]:
        """(code, message) for what looks wrong about it in this draw."""
        return []

    @property
    def outlined(self) -> tuple[str, Sequence[DrawnRegion]] | None:
        """A figure and the regions of it that a key outlines; None for most kinds."""
        return None


def letters_of(key: Node) -> str:
    """The letters of a key, added up, as line maths; 1 where it has none."""
    return " + ".join(sorted(names_in(key))) or "1"


@contextmanager
def of_field(name: str) -> Iterator[None]:
    """What cannot be used inside is said to stand in a field of the specification."""
    try:
        yield
    except (NotationError, EvaluationError) as problem:
        problem.field = problem.field or name
        raise
