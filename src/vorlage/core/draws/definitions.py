"""What a parameter's definition says: a range, a choice, or a formula over other parameters."""

from __future__ import annotations

import re
from dataclasses import dataclass

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Exact, Value
from ..notation import Collection, Node, NotationError, Number, Settings, Text, names_in, read
from .errors import DrawError

MAXIMUM_VALUES = 1_000_000


@dataclass(frozen=True, slots=True)
class Range:
    """Evenly spaced values ``low, low + step, …`` with some left out."""

    low: fmpq
    step: fmpq
    count: int
    # positions that are left out, ascending
    left_out: tuple[int, ...] = ()

    @property
    def size(self) -> int:
        return self.count - len(self.left_out)

    def value(self, position: int) -> Value:
        for gap in self.left_out:
            if gap <= position:
                position += 1
        return self.low + self.step * position


@dataclass(frozen=True, slots=True)
class Choice:
    """Listed values, each as likely as the others."""

    values: tuple[Value, ...]

    @property
    def size(self) -> int:
        return len(self.values)

    def value(self, position: int) -> Value:
        return self.values[position]


@dataclass(frozen=True, slots=True)
class Formula:
    """A value computed from other parameters: a number, or a formula in letters of its own."""

    tree: Node
    names: frozenset[str]


Definition = Range | Choice | Formula

ONE_OF = re.compile(r"\s*one of\b")
STEP = re.compile(r"\s+step\b|(?<=\d)step\b")
EXCEPT = re.compile(r"\s+except\b")


def read_definition(text: str, settings: Settings) -> Definition:
    """The meaning of one definition line.

    Raises ``DrawError`` or ``NotationError``; both say where in the line.

    >>> read_definition("-5..5 except 0", Settings()).size
    10
    """
    chosen = ONE_OF.match(text)
    if chosen:
        return read_choice(text, chosen.end(), settings)
    dots = text.find("..")
    if dots >= 0 and '"' not in text[:dots]:
        return read_range(text, dots, settings)
    tree = read(text, settings)
    return Formula(tree, names_in(tree))


def constant(text: str, start: int, end: int, settings: Settings, what: str) -> fmpq:
    """The rational number that stands in part of a line."""
    piece = text[start:end]
    lead = len(piece) - len(piece.lstrip())
    try:
        value: Exact = Compiled(read(piece.strip(), settings)).value({})
    except NotationError as problem:
        raise NotationError(problem.code, problem.message, start + lead + problem.place, problem.length) from problem
    except EvaluationError as problem:
        raise DrawError("limit", f"{what} has to be a number: {problem.message}", place=start + lead,
                        length=len(piece.strip())) from problem  # fmt: skip
    if not isinstance(value, fmpq):
        raise DrawError("limit", f"{what} has to be a rational number.", place=start + lead, length=len(piece.strip()))
    return value


def read_range(text: str, dots: int, settings: Settings) -> Range:
    stepped = STEP.search(text, dots)
    excepted = EXCEPT.search(text, dots)
    ends = [found.start() for found in (stepped, excepted) if found]
    upper_end = min(ends, default=len(text))
    low_text, high_text = text[:dots].strip(), text[dots + 2 : upper_end].strip()
    if not low_text:
        raise DrawError(
            "no_lower_limit", f"`{text.strip()}` needs a lower limit, such as `2..9`.", place=dots, length=2
        )
    if not high_text:
        raise DrawError(
            "no_upper_limit",
            f"`{text.strip()}` needs an upper limit, such as `{low_text}..9`.",
            place=dots,
            length=2,
        )
    low = constant(text, 0, dots, settings, "The lower limit")
    high = constant(text, dots + 2, upper_end, settings, "The upper limit")
    step = fmpq(1)
    if stepped:
        end = excepted.start() if excepted and excepted.start() > stepped.end() else len(text)
        if not text[stepped.end() : end].strip():
            raise DrawError("no_step", "The step is missing, such as `step 0.5`.", place=stepped.start(), length=5)
        step = constant(text, stepped.end(), end, settings, "The step")
        if step <= 0:
            raise DrawError("step", "The step has to be more than 0.", place=stepped.end(), length=end - stepped.end())
    if high < low:
        raise DrawError(
            "empty_range", f"There is nothing from {low_text} up to {high_text}; put the smaller limit first.",
            place=0, length=upper_end,
        )  # fmt: skip
    count = int(((high - low) / step).p // ((high - low) / step).q) + 1
    if count > MAXIMUM_VALUES:
        raise DrawError("too_many", f"This range has {count:,} values; a wider step is needed.", length=len(text))
    left_out = exceptions(text, excepted.end(), low, step, count, settings) if excepted else ()
    if len(left_out) == count:
        raise DrawError("empty_range", "Every value of this range is left out.", length=len(text))
    return Range(low, step, count, left_out)


def exceptions(text: str, start: int, low: fmpq, step: fmpq, count: int, settings: Settings) -> tuple[int, ...]:
    positions = set()
    for value in listed(text, start, settings):
        if not isinstance(value, fmpq):
            raise DrawError("except", "Only numbers can be left out of a range.", place=start, length=len(text) - start)
        position = (value - low) / step
        if position.q == 1 and 0 <= position < count:
            positions.add(int(position.p))
    return tuple(sorted(positions))


def read_choice(text: str, start: int, settings: Settings) -> Choice:
    values = listed(text, start, settings)
    if not values:
        raise DrawError("empty_choice", "`one of` needs values, such as `one of 3, 5, 7`.", length=len(text))
    return Choice(values)


def listed(text: str, start: int, settings: Settings) -> tuple[Value, ...]:
    """The values of a list that stands in the rest of a line."""
    rest = text[start:]
    if not rest.strip():
        return ()
    lists = Settings(settings.decimal_mark, settings.angle, settings.complex, settings.names, lists=True)
    lead = len(rest) - len(rest.lstrip())
    try:
        tree = read(rest.strip(), lists)
    except NotationError as problem:
        raise NotationError(problem.code, problem.message, start + lead + problem.place, problem.length) from problem
    items = tree.items if isinstance(tree, Collection) and tree.kind == "list" else (tree,)
    return tuple(listed_value(item, start, len(rest)) for item in items)


def listed_value(item: Node, start: int, length: int) -> Value:
    if isinstance(item, Text):
        return item.text
    if isinstance(item, Number):
        return fmpq(item.value.numerator, item.value.denominator)
    if names_in(item):
        return item
    try:
        return Compiled(item).value({})
    except EvaluationError as problem:
        raise DrawError("value", problem.message, place=start, length=length) from problem
