"""A figure with the values of a draw: shapes in the coordinates of its frame."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from ..algebra import Compiled, EvaluationError, Values, approximate
from ..notation import (
    POINT,
    Node,
    NotationError,
    Settings,
    Style,
    names_in,
    read_authored,
)
from .lettering import Run, maths_runs
from .reading import FigureProblem, read_lines
from .statements import Frame, Outline, Pen, Statement

SPAN = re.compile(r"\$([^$]+)\$")


@dataclass(frozen=True, slots=True)
class DrawnFigure:
    """What a figure shows in one draw."""

    frame: Frame
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
        self.settings = settings
        self.problems: list[FigureProblem]
        statements, self.problems = read_lines(source, settings, known)
        self.compiled: dict[tuple[int, int], Compiled] = {}
        self.statements = [each for each in statements if self.compile(each)]
        self.labels: dict[str, Node] = {}
        self.pictures = [name for each in self.statements for name in each.kind.pictures(each.line)]
        for statement in self.statements:
            for text in statement.texts:
                self.read_spans(statement.number, text)

    def compile(self, statement: Statement) -> bool:
        """Make the formulas of a line ready for many draws; whether that can be done."""
        try:
            for k, tree in enumerate(statement.formulas):
                self.compiled[statement.number, k] = Compiled(tree, self.settings.angle)
        except EvaluationError as problem:
            self.problems.append(FigureProblem(statement.number, problem.message, problem.code))
            return False
        return True

    def read_spans(self, number: int, text: str) -> None:
        for span in SPAN.findall(text):
            try:
                self.labels[span] = read_authored(span, self.settings)
            except NotationError as problem:
                self.problems.append(FigureProblem(number, problem.message, problem.code))

    @property
    def names(self) -> set[str]:
        """The names that its formulas and its labels use."""
        trees = [tree for statement in self.statements for tree in statement.formulas]
        return {name for tree in (*trees, *self.labels.values()) for name in names_in(tree)}

    @property
    def spoken_labels(self) -> list[Node]:
        """The maths of the labels in the figure, without the names of its axes."""
        texts = [text for statement in self.statements if statement.kind.names_things for text in statement.texts]
        return [self.labels[span] for text in texts for span in SPAN.findall(text) if span in self.labels]

    def drawn(self, values: Values, show: Callable[[Node], Node], style: Style = POINT) -> DrawnFigure:
        """The figure of a draw; ``show`` puts drawn values into a maths span of a label, ``style`` says how its numbers
        are written.

        Raises ``EvaluationError`` where a formula has no value.
        """
        written = next(each for each in self.statements if each.word == "frame")
        left, right, bottom, top = (coordinate(self.formula(written, k), values, written.number) for k in range(4))
        frame = Frame(left, right, bottom, top, written.formulas)
        if not (frame.left < frame.right and frame.bottom < frame.top):
            raise EvaluationError(
                "empty_frame", "The frame of the figure has no room: its ends are the wrong way round."
            )
        pen = Pen(frame, values, show, partial(self.runs, style), self.formula, coordinate)
        for statement in self.statements:
            statement.kind.draw(statement, pen)
        equal = written.line.equal or (pen.axes is None and any(each.kind.keeps_shape for each in self.statements))
        return DrawnFigure(
            frame, equal, tuple(pen.outlines), pen.axes, pen.steps, pen.grid, tuple(pen.off), pen.picture
        )

    def formula(self, statement: Statement, k: int) -> Compiled:
        return self.compiled[statement.number, k]

    def runs(self, style: Style, text: str, show: Callable[[Node], Node]) -> tuple[Run, ...]:
        """The pieces of a label: plain words, and maths with its letters italic."""
        runs: list[Run] = []
        for k, piece in enumerate(SPAN.split(text)):
            if k % 2 == 0:
                runs += [Run(piece)] if piece else []
            elif piece in self.labels:
                runs += maths_runs(show(self.labels[piece]), style)
        return tuple(runs)


def coordinate(compiled: Compiled, values: Values, number: int) -> float:
    """The value of a formula as a place; raises ``EvaluationError`` when it is no number."""
    value = compiled.value(values)
    place = math.nan if isinstance(value, str | Node) else approximate(value)
    if not abs(place) <= 1e12:
        raise EvaluationError("no_place", f"Line {number} of the figure has no place in it.")
    return place
