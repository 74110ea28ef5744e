"""What a parameter's definition says: a range, a choice, a list, a distribution, a row of a data table, or a
formula over other parameters.

Whatever is drawn has a ``size`` and a ``value`` for each position below it, so that draws can be counted,
listed and permuted alike.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import perm
from types import MappingProxyType

from flint import arb, ctx, fmpq

from ..algebra import Compiled, EvaluationError, Exact, Value, rounded, rounded_significant
from ..notation import Collection, Node, NotationError, Number, Settings, Text, names_in, read
from .errors import DrawError
from .showing import Shown, shown_value

MAXIMUM_VALUES = 1_000_000
# What definitions are written with, beside formulas, as it is offered while somebody types.
DEFINITION_WORDS = (
    "one of ", "row of ", "normal(, )", "uniform(, )", "shuffle of ", "except ", "step ",
)  # fmt: skip


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


@dataclass(frozen=True, slots=True)
class Several:
    """A list of values drawn from one source, without repeats unless they are asked for."""

    source: Range | Choice | Distribution
    count: int
    repeats: bool = False

    @property
    def size(self) -> int:
        return self.source.size**self.count if self.repeats else perm(self.source.size, self.count)

    def value(self, position: int) -> Value:
        places: list[int] = []
        for k in range(self.count):
            position, place = divmod(position, self.source.size if self.repeats else self.source.size - k)
            if not self.repeats:
                # the place counts among those that are still free
                for taken in sorted(places):
                    place += taken <= place
            places.append(place)
        shown = self.source.shown if isinstance(self.source, Distribution) else Shown()
        return Collection("list", tuple(shown_value(self.source.value(place), shown) for place in places))


@dataclass(frozen=True, slots=True)
class Distribution:
    """A real number from a distribution, rounded as it is shown.

    The probability axis is cut into ``CUTS`` equal pieces; a position stands for the middle of its piece.
    """

    kind: str
    first: fmpq
    second: fmpq
    shown: Shown

    @property
    def size(self) -> int:
        return CUTS

    def value(self, position: int) -> Value:
        share = fmpq(2 * position + 1, 2 * CUTS)
        if self.kind == "uniform":
            return self.rounded(self.first + (self.second - self.first) * share)
        # the quantile of the normal distribution, enclosed far more closely than anything is shown
        with ctx.workprec(192):
            deviations = arb(2 * share - 1).erfinv() * arb(2).sqrt()
            mantissa, exponent = (arb(self.first) + arb(self.second) * deviations).mid().man_exp()
            return self.rounded(fmpq(mantissa) * fmpq(2) ** int(exponent))

    def rounded(self, value: fmpq) -> fmpq:
        if self.shown.way == "decimal_places":
            return rounded(value, self.shown.figures)
        return rounded_significant(value, self.shown.figures or FIGURES)


@dataclass(frozen=True, slots=True)
class TableRow:
    """A row of a data table; its value is the number of the row, from 1."""

    size: int

    def value(self, position: int) -> Value:
        return fmpq(position + 1)


@dataclass(frozen=True, slots=True)
class Lookup:
    """A column of the row that another parameter has drawn."""

    parent: str
    column: tuple[Value, ...]

    @property
    def names(self) -> frozenset[str]:
        return frozenset([self.parent])


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a data table: its name, its unit and its values."""

    name: str
    unit: str
    values: tuple[Value, ...]


Drawn = Range | Choice | Several | Distribution | TableRow
Computed = Formula | Lookup
Definition = Drawn | Computed
Tables = Mapping[str, tuple[Column, ...]]

CUTS = 1 << 32
# What a distribution is rounded to where nothing is said about how it is shown.
FIGURES = 4
MAXIMUM_LIST = 60
SEVERAL = re.compile(r"\s*(\d{1,3}) of\b")
SHUFFLE = re.compile(r"\s*shuffle of\b")
SAMPLES = re.compile(r"\s*(\d{1,3}) samples? of\b")
REPEATS = re.compile(r"\s+repeats?\s*\Z")
DISTRIBUTION = re.compile(r"\s*(normal|uniform)\s*\((.*)\)\s*\Z", re.DOTALL)
ROW_OF = re.compile(r"\s*row of\s+(\S+)\s*\Z")
ONE_OF = re.compile(r"\s*one of\b")
STEP = re.compile(r"\s+step\b|(?<=\d)step\b")
EXCEPT = re.compile(r"\s+except\b")


def read_definition(
    text: str,
    settings: Settings,
    shown: Shown = Shown(),  # noqa: B008 (frozen)
    tables: Tables = MappingProxyType({}),
) -> Definition:
    """The meaning of one definition line.

    Raises ``DrawError`` or ``NotationError``; both say where in the line.

    >>> read_definition("-5..5 except 0", Settings()).size
    10
    """
    chosen = ONE_OF.match(text)
    if chosen:
        return read_choice(text, chosen.end(), settings)
    if sampled := SAMPLES.match(text):
        return read_several(text, sampled, shown, settings)
    if several := SEVERAL.match(text) or SHUFFLE.match(text):
        return read_several(text, several, shown, settings)
    if DISTRIBUTION.match(text):
        return read_distribution(text, 0, shown, settings)
    if row := ROW_OF.match(text):
        return read_row(row, tables)
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


def beyond(low: str) -> str:
    """An upper limit that would go with a lower one, for an example.

    >>> beyond("150"), beyond("2"), beyond("-5"), beyond("a")
    ('300', '9', '9', '9')
    """
    whole = int(low) if low.isdecimal() and len(low) < 12 else 0
    return str(2 * whole) if whole >= 9 else "9"


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
            f"`{text.strip()}` needs an upper limit, such as `{low_text}..{beyond(low_text)}`.",
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


def read_several(text: str, head: re.Match[str], shown: Shown, settings: Settings) -> Several:
    """``3 of 1..20``, ``4 of 1..6 repeats``, ``shuffle of 1, 2, 3``, ``8 samples of normal(20, 4)``."""
    repeats = REPEATS.search(text)
    end = repeats.start() if repeats else len(text)
    rest = text[head.end() : end]
    # what stands before is blanked out, so that places in messages stay where they are
    source_text = " " * head.end() + rest
    source: Range | Choice | Distribution
    if DISTRIBUTION.match(source_text):
        source = read_distribution(source_text, head.end(), shown, settings)
    elif ".." in rest and '"' not in rest:
        source = read_range(source_text, source_text.index(".."), settings)
    else:
        source = Choice(listed(source_text, head.end(), settings))
    if not source.size:
        raise DrawError("empty_choice", f"`{head[0].strip()}` needs values, such as 1..20.", length=len(text))
    count = source.size if head.re is SHUFFLE else int(head[1])
    again = bool(repeats) or head.re is SAMPLES or isinstance(source, Distribution)
    if not 1 <= count <= MAXIMUM_LIST:
        raise DrawError("too_many", f"A list has from 1 to {MAXIMUM_LIST} values.", length=head.end())
    if not again and count > source.size:
        message = f"There are only {source.size} different values; write “repeats” behind them to use them again."
        raise DrawError("too_few", message, length=len(text))
    return Several(source, count, again)


def read_distribution(text: str, start: int, shown: Shown, settings: Settings) -> Distribution:
    found = DISTRIBUTION.match(text)
    if found is None:
        raise DrawError("distribution", "A distribution is written normal(20, 4) or uniform(0, 1).", place=start)
    values = listed(text[: found.end(2)], found.start(2), settings)
    if len(values) != 2 or not all(isinstance(value, fmpq) for value in values):
        raise DrawError(
            "distribution", f"{found[1]} takes two numbers, such as {found[1]}(20, 4).", place=found.start(1),
            length=len(text.rstrip()) - found.start(1),
        )  # fmt: skip
    first, second = values
    assert isinstance(first, fmpq) and isinstance(second, fmpq)
    if found[1] == "normal" and second <= 0:
        raise DrawError("distribution", "The standard deviation is more than 0.", place=found.start(2))
    if found[1] == "uniform" and second <= first:
        raise DrawError("distribution", "The smaller limit comes first.", place=found.start(2))
    return Distribution(found[1], first, second, shown)


def read_row(found: re.Match[str], tables: Tables) -> TableRow:
    columns = tables.get(found[1])
    if columns is None:
        known = f": there is {', '.join(tables)}" if tables else "; paste one below"
        raise DrawError(
            "no_table", f"No data table is called {found[1]}{known}.", place=found.start(1), length=len(found[1])
        )
    return TableRow(len(columns[0].values))


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
