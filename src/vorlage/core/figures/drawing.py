"""A figure with the values of a draw: shapes in the coordinates of its frame."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Values, approximate
from ..notation import (
    AUTHOR_FUNCTIONS,
    Call,
    Drawn,
    Name,
    Neg,
    Node,
    NotationError,
    Number,
    Quantity,
    Settings,
    line,
    names_in,
    read,
    walk,
)
from .statements import FigureProblem, Reader, Statement

# a curve is drawn through so many places
STEPS = 96
SPAN = re.compile(r"\$([^$]+)\$")
Place = tuple[float, float]
Run = tuple[str, bool]


@dataclass(frozen=True, slots=True)
class Outline:
    """One thing that is drawn: ``line``, ``polygon``, ``circle``, ``point``, ``text``."""

    kind: str
    places: tuple[Place, ...]
    styles: frozenset[str] = frozenset()
    radius: float = 0.0
    # pieces of a label with whether they are italic
    runs: tuple[Run, ...] = ()
    arrow: bool = False


@dataclass(frozen=True, slots=True)
class DrawnFigure:
    """What a figure shows in one draw."""

    left: float
    right: float
    bottom: float
    top: float
    # whether a step to the right is as long as a step up
    equal: bool
    outlines: tuple[Outline, ...]
    # names of the axes; None without axes
    axes: tuple[tuple[Run, ...], tuple[Run, ...]] | None = None
    steps: tuple[float, float] | None = None
    grid: tuple[float, float] | None = None
    # the lines of the figure that leave the frame, with the condition that would keep each inside
    off: tuple[tuple[int, str], ...] = ()
    # the picture that fills the frame
    picture: str = ""


class Figure:
    """A figure whose lines have been read; ``problems`` is empty when it can be drawn.

    ``known`` are the names of parameters that its formulas may use.
    """

    def __init__(self, source: str, settings: Settings, known: frozenset[str]) -> None:
        reader = Reader(settings, known)
        self.settings = settings
        self.problems: list[FigureProblem] = reader.problems
        self.compiled: dict[tuple[int, int], Compiled] = {}
        self.statements = [each for each in reader.statements(source) if self.compile(each)]
        self.labels: dict[str, Node] = {}
        self.pictures = [each.texts[0] for each in self.statements if each.word == "picture"]
        for statement in self.statements:
            for text in statement.texts:
                self.read_spans(statement.line, text)

    def compile(self, statement: Statement) -> bool:
        """Make the formulas of a line ready for many draws; whether that can be done."""
        try:
            for k, tree in enumerate(statement.formulas):
                self.compiled[statement.line, k] = Compiled(tree, self.settings.angle)
        except EvaluationError as problem:
            self.problems.append(FigureProblem(statement.line, problem.message, problem.code))
            return False
        return True

    def read_spans(self, number: int, text: str) -> None:
        for span in SPAN.findall(text):
            try:
                self.labels[span] = read(span, self.settings)
            except NotationError as problem:
                self.problems.append(FigureProblem(number, problem.message, problem.code))

    @property
    def spoken_labels(self) -> list[Node]:
        """The maths of the labels in the figure, without the names of its axes."""
        texts = [text for statement in self.statements if statement.word != "axes" for text in statement.texts]
        return [self.labels[span] for text in texts for span in SPAN.findall(text) if span in self.labels]

    def drawn(self, values: Values, show: Callable[[Node], Node]) -> DrawnFigure:
        """The figure of a draw; ``show`` puts drawn values into a maths span of a label.

        Raises ``EvaluationError`` where a formula has no value.
        """
        frame = next(each for each in self.statements if each.word == "frame")
        left, right, bottom, top = (self.number(frame, k, values) for k in range(4))
        if not (left < right and bottom < top):
            raise EvaluationError(
                "empty_frame", "The frame of the figure has no room: its ends are the wrong way round."
            )
        outlines: list[Outline] = []
        axes = steps = grid = None
        off = []
        for statement in self.statements:
            if statement.word == "axes":
                names = [self.runs(text, partial(lettered, show, values)) for text in statement.texts] + [(), ()]
                axes = (names[0], names[1])
                steps = self.two_steps(statement, values)
            elif statement.word == "grid":
                grid = self.two_steps(statement, values) or (1.0, 1.0)
            elif statement.word == "curve":
                found = self.curve(statement, values, (left, right, bottom, top))
                outlines += found
                if not found:
                    off.append((statement.line, ""))
            elif statement.word not in {"frame", "picture"}:
                outline = self.outline(statement, values, show)
                outlines.append(outline)
                if leaves(outline, (left, right, bottom, top)):
                    off.append((statement.line, kept_inside(statement, frame, outline, (left, right, bottom, top))))
        shapes = {"circle", "polygon", "box"} & {each.word for each in self.statements}
        equal = frame.equal or (axes is None and bool(shapes or self.pictures))
        picture = self.pictures[0] if self.pictures else ""
        return DrawnFigure(left, right, bottom, top, equal, tuple(outlines), axes, steps, grid, tuple(off), picture)

    def number(self, statement: Statement, k: int, values: Values) -> float:
        return coordinate(self.compiled[statement.line, k], values, statement.line)

    def two_steps(self, statement: Statement, values: Values) -> tuple[float, float] | None:
        found = [abs(self.number(statement, k, values)) for k in range(len(statement.formulas))]
        return (found[0], found[-1]) if found and min(found) > 0 else None

    def outline(self, statement: Statement, values: Values, show: Callable[[Node], Node]) -> Outline:
        numbers = [self.number(statement, k, values) for k in range(len(statement.formulas))]
        radius = abs(numbers.pop()) if statement.word == "circle" else 0.0
        places = tuple(zip(numbers[::2], numbers[1::2]))
        kind, arrow = statement.word, statement.word == "arrow"
        if kind == "box":
            (a, b), (c, d) = places
            places, kind = ((a, b), (c, b), (c, d), (a, d)), "polygon"
        runs = self.runs(statement.texts[0], show) if statement.texts else ()
        return Outline("line" if arrow else kind, places, statement.styles, radius, runs, arrow)

    def curve(self, statement: Statement, values: Values, frame: tuple[float, float, float, float]) -> list[Outline]:
        """The graph, cut where it has no value or leaves the frame by far."""
        left, right, bottom, top = frame
        low = self.number(statement, 1, values) if len(statement.formulas) > 1 else left
        high = self.number(statement, 2, values) if len(statement.formulas) > 2 else right
        compiled, height = self.compiled[statement.line, 0], top - bottom
        found: list[Outline] = []
        run: list[Place] = []
        seen = False

        def close() -> None:
            if len(run) > 1 and seen:
                found.append(Outline("line", tuple(run), statement.styles))
            run.clear()

        first, last = fmpq(*low.as_integer_ratio()), fmpq(*high.as_integer_ratio())
        for k in range(STEPS + 1):
            x = first + (last - first) * k / STEPS
            try:
                y = coordinate(compiled, {**values, "x": x}, statement.line)
            except EvaluationError:
                close()
                seen = False
                continue
            if abs(y - (bottom + top) / 2) > 3 * height:
                close()
                seen = False
                continue
            seen = seen or bottom <= y <= top
            run.append((float(x), y))
        close()
        return found

    def runs(self, text: str, show: Callable[[Node], Node]) -> tuple[Run, ...]:
        """The pieces of a label: plain words, and maths with its letters italic."""
        runs: list[Run] = []
        for k, piece in enumerate(SPAN.split(text)):
            if k % 2 == 0:
                runs += [(piece, False)] if piece else []
            elif piece in self.labels:
                runs += maths_runs(show(self.labels[piece]))
        return tuple(runs)


def coordinate(compiled: Compiled, values: Values, number: int) -> float:
    """The value of a formula as a place; raises ``EvaluationError`` when it is no number."""
    value = compiled.value(values)
    place = math.nan if isinstance(value, str | Node) else approximate(value)
    if not abs(place) <= 1e12:
        raise EvaluationError("no_place", f"Line {number} of the figure has no place in it.")
    return place


def lettered(show: Callable[[Node], Node], values: Values, tree: Node) -> Node:
    """A span in the name of an axis: a letter stands there for what varies along it, not for a drawn number, which
    could give an answer away; drawn words and ``value(…)`` are put in."""
    computes = any(isinstance(part, Call) and part.function in AUTHOR_FUNCTIONS for part in walk(tree))
    words = any(isinstance(values.get(name), str) for name in names_in(tree))
    return show(tree) if computes or words else tree


def maths_runs(tree: Node) -> list[Run]:
    """Letters, numbers and quantities as pieces of a label; whatever else is written in a line."""
    if isinstance(tree, Drawn):
        return maths_runs(tree.value)
    if isinstance(tree, Name):
        letter, _, index = tree.name.partition("_")
        return [(letter, len(letter) == 1), *([(index, False)] if index else [])]
    if isinstance(tree, Neg):
        return [("−", False), *maths_runs(tree.operand)]
    if isinstance(tree, Number):
        return [(line(tree), False)]
    if isinstance(tree, Quantity):
        return [*maths_runs(tree.amount), (f"\u202f{tree.unit}", False)]
    return [(line(tree).replace("*", "·").replace("-", "−"), False)]


def kept_inside(
    statement: Statement, frame: Statement, outline: Outline, ends: tuple[float, float, float, float]
) -> str:
    """The condition on its formulas that would keep a shape in the frame; empty where none is seen."""
    radius = f" + {line(statement.formulas[-1])}" if statement.word == "circle" else ""
    less = f" - {line(statement.formulas[-1])}" if statement.word == "circle" else ""
    left, right, bottom, top = ends
    coordinates = statement.formulas[:-1] if radius else statement.formulas
    numbers = [number for place in outline.places for number in place]
    if statement.word == "box":
        # its corners are drawn from two of them
        numbers = [*outline.places[0], *outline.places[2]]
    for k, (tree, number) in enumerate(zip(coordinates, numbers)):
        low, high = ((left, right), (bottom, top))[k % 2]
        edges = frame.formulas[2 * (k % 2) : 2 * (k % 2) + 2]
        if not names_in(tree) and not (radius and names_in(statement.formulas[-1])):
            continue
        if number + outline.radius > high:
            return f"{line(tree)}{radius} <= {line(edges[1])}"
        if number - outline.radius < low:
            return f"{line(tree)}{less} >= {line(edges[0])}"
    return ""


def leaves(outline: Outline, frame: tuple[float, float, float, float]) -> bool:
    """Whether something of a shape lies outside the frame."""
    left, right, bottom, top = frame
    reach, slack = outline.radius, 1e-9 * (right - left + top - bottom)
    return any(
        x - reach < left - slack or x + reach > right + slack or y - reach < bottom - slack or y + reach > top + slack
        for x, y in outline.places
    )
