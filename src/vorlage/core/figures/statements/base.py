"""What one statement of a figure says for itself: how its line is read, and what it draws."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from ...algebra import Compiled, Values
from ...errors import CoreError
from ...notation import Node, Settings, names_in, read_authored
from ..lettering import Run

Spot = tuple[float, float]
STYLES = ("dashed", "thick", "filled")


class StatementError(CoreError, ValueError):
    """Why a line cannot be used."""

    def __init__(self, message: str, code: str = "statement", about: str = "") -> None:
        super().__init__(code, message, about)


@dataclass(frozen=True, slots=True)
class Line:
    """What stands behind the word of a line: its formulas in order, and what is written in it."""

    formulas: tuple[Node, ...]
    texts: tuple[str, ...] = ()
    # whether a step to the right is to be as long as a step up
    equal: bool = False


@dataclass(frozen=True, slots=True)
class Statement:
    """One line of a figure, read: where it stands (from 1), what it is and how it is drawn."""

    number: int
    kind: StatementKind
    styles: frozenset[str]
    line: Line

    @property
    def word(self) -> str:
        return self.kind.word

    @property
    def formulas(self) -> tuple[Node, ...]:
        return self.line.formulas

    @property
    def texts(self) -> tuple[str, ...]:
        return self.line.texts


@dataclass(frozen=True, slots=True)
class Outline:
    """One thing that is drawn: ``line``, ``polygon``, ``circle``, ``point``, ``text``."""

    kind: str
    places: tuple[Spot, ...]
    styles: frozenset[str] = frozenset()
    radius: float = 0.0
    runs: tuple[Run, ...] = ()
    arrow: bool = False


@dataclass(frozen=True, slots=True)
class Frame:
    """What a figure shows, in its own coordinates, and the formulas of the four ends."""

    left: float
    right: float
    bottom: float
    top: float
    formulas: tuple[Node, ...]


@dataclass
class Pen:
    """What statements draw with, in one draw, and what they have drawn."""

    frame: Frame
    values: Values
    # puts drawn values into a maths span of a label, and the pieces of a label with its spans shown
    show: Callable[[Node], Node]
    label: Callable[[str, Callable[[Node], Node]], tuple[Run, ...]]
    compiled: Callable[[Statement, int], Compiled]
    # the value of a formula as a coordinate
    coordinate: Callable[[Compiled, Values, int], float]
    outlines: list[Outline] = field(default_factory=list)
    axes: tuple[tuple[Run, ...], tuple[Run, ...]] | None = None
    steps: tuple[float, float] | None = None
    grid: tuple[float, float] | None = None
    picture: str = ""
    # the lines that leave the frame, with the condition that would keep each inside
    off: list[tuple[int, str]] = field(default_factory=list)

    def number(self, statement: Statement, k: int) -> float:
        """The value of a formula of a statement. Raises ``EvaluationError`` where it is no place."""
        return self.coordinate(self.compiled(statement, k), self.values, statement.number)

    def numbers(self, statement: Statement) -> list[float]:
        return [self.number(statement, k) for k in range(len(statement.formulas))]

    def two_steps(self, statement: Statement) -> tuple[float, float] | None:
        """Distances to the right and up; one stands for both. None where nothing usable is said."""
        found = [abs(number) for number in self.numbers(statement)]
        return (found[0], found[-1]) if found and min(found) > 0 else None


class Formulas:
    """Reads formulas in which only some names may stand."""

    def __init__(self, settings: Settings, known: frozenset[str]) -> None:
        self.settings = settings
        self.known = known

    def read(self, written: Sequence[str], more: str = "") -> tuple[Node, ...]:
        """The trees; ``more`` is a name that may stand in them as well. Raises ``StatementError`` and
        ``NotationError``."""
        trees = []
        for text in written:
            tree = read_authored(text, self.settings)
            strange = sorted(names_in(tree) - self.known - {more})
            if strange:
                message = f"{strange[0]} is not a parameter of this question."
                raise StatementError(message, "unknown_name", strange[0])
            trees.append(tree)
        return tuple(trees)


class StatementKind(ABC):
    """A statement that a line of a figure can make. A new one is a module with such a class and its line in the
    register."""

    word: ClassVar[str]
    # as it is written, and what it draws: for the help beside the lines
    example: ClassVar[str]
    draws: ClassVar[str]
    # whether it looks wrong unless a step to the right is as long as a step up
    keeps_shape: ClassVar[bool] = False
    # whether what it writes names something of the question, which a sheet then reads aloud
    names_things: ClassVar[bool] = True

    @abstractmethod
    def read(self, rest: str, formulas: Formulas) -> Line:
        """What stands behind the word. Raises ``StatementError`` and ``NotationError``."""

    def pictures(self, line: Line) -> tuple[str, ...]:
        """The names of the pictures that it lays in the figure."""
        return ()

    @abstractmethod
    def draw(self, statement: Statement, pen: Pen) -> None:
        """Draws it. Raises ``EvaluationError`` where a formula has no value."""


def pieces_of(text: str) -> tuple[list[str], tuple[str, ...]]:
    """What stands between spaces, where brackets and quotes hold together, and what stands between quotes."""
    pieces, current, depth, quoted = [], "", 0, False
    for sign in text:
        if sign == '"':
            quoted = not quoted
        elif not quoted:
            depth += (sign in "([{") - (sign in ")]}")
        if sign.isspace() and depth <= 0 and not quoted:
            if current:
                pieces.append(current)
            current = ""
        else:
            current += sign
    if quoted:
        raise StatementError("A quotation mark is missing.")
    if depth:
        raise StatementError("A bracket is missing.")
    pieces += [current] if current else []
    texts = tuple(piece[1:-1] for piece in pieces if piece.startswith('"'))
    return [piece for piece in pieces if not piece.startswith('"')], texts


def split_at_comma(text: str) -> list[str]:
    """What stands between commas outside brackets."""
    parts, depth = [""], 0
    for sign in text:
        depth += (sign in "([{") - (sign in ")]}")
        if sign == "," and depth == 0:
            parts.append("")
        else:
            parts[-1] += sign
    return [part.strip() for part in parts]


def steps_of(pieces: Sequence[str]) -> list[str]:
    """Distances as they are written, ``1, 0.5``."""
    return [step for piece in pieces for step in split_at_comma(piece) if step]
