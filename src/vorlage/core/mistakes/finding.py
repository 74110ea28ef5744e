"""Which formulas explain wrong answers, the most convincing first."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np
from flint import fmpq
from numpy.typing import NDArray

from ..algebra import Value, to_fraction
from ..notation import Name, Neg, Node, Sum, line, names_in, substitute
from ..notation import literal as written
from .alterations import Altered, alterations, product
from .chance import by_chance, hits, log_tail, of_others
from .columns import Column, Columns, as_float
from .observed import Observed
from .search import LEAST, built, same_values

# A formula has to explain so many draws in which it has different values.
FEWEST = 3
# So small has the chance to be that any of the formulas tried up to it fits so well, as a power of ten.
CONVINCING = -2.6
# So many different answers are searched over; what is found is then looked for in all of them.
SEARCHED = 60
# Alterations up to this cost are done two at a time, so many pairs at most.
OFTEN, MOST_PAIRS = 1.25, 2500
MOST_CLAIMS = 5
# How far down the list of what is tried the key times any number stands.
PROPORTION = 2.0


@dataclass(frozen=True, slots=True)
class Claim:
    """A formula of the parameters, the answers that it explains, and what was done; ``formula`` is line maths."""

    formula: str
    explains: tuple[int, ...]
    because: str


@dataclass(frozen=True, slots=True)
class Fit:
    """A formula that fits some answers, and how likely that is by chance, as a power of ten."""

    tree: Node
    because: str
    fits: NDArray[np.bool_]
    cost: float
    chance: float = 0.0
    # where each answer has values of its own to choose from: how many
    choices: int = 1
    # what its constant takes to be said, as a power of ten: any fits some answers, and few can be said in short
    said: float = 0.0


@dataclass
class Search:
    """A class's wrong answers, and the formulas that fit some of them."""

    tree: Node
    angle: str
    rows: Sequence[Observed]
    # the values of all draws of the class, those of right answers among them: what the tables hold
    draws: Sequence[Mapping[str, Value]]
    fitting: list[Fit] = field(default_factory=list)
    # the costs of all that was tried, whether it fits or not
    tried: list[float] = field(default_factory=list)
    seen: set[bytes] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.columns = Columns(self.rows, self.angle)
        self.answers = np.array([row.answer for row in self.rows])
        self.halves = np.array([row.half for row in self.rows])
        self.keys = np.array([row.key for row in self.rows])
        tables = {name.rpartition(".")[0] for name in self.columns.named if "." in name}
        self.names = [name for name in self.columns.named if name not in tables]
        self.likely = by_chance(self.answers, self.keys, self.halves)

    def run(self) -> None:
        first = alterations(self.tree, self.names, self.angle) + list(self.of_rows())
        self.consider(first)
        self.consider(self.in_pairs(first))
        for each in built(self.tree, self.columns, self.names):
            self.consider_built(each.columns, each.costs, each.tree)
        self.any_row()
        self.in_proportion()

    def consider(self, altered: Sequence[Altered]) -> None:
        if not altered:
            return
        trees = [each.tree for each in altered]
        columns = np.array([self.columns.of(tree) for tree in trees])
        for k in self.promising(columns, np.array([each.cost for each in altered])):
            self.fitting.append(Fit(trees[k], altered[k].because, self.fits(columns[k]), altered[k].cost))

    def consider_built(
        self, columns: NDArray[np.float64], costs: NDArray[np.float64], tree: Callable[[int], Node]
    ) -> None:
        costs = costs + LEAST
        for k in self.promising(columns, costs):
            self.fitting.append(Fit(tree(k), "", self.fits(columns[k]), float(costs[k])))

    def fits(self, column: Column) -> NDArray[np.bool_]:
        found: NDArray[np.bool_] = hits(column[None, :], self.answers, self.halves)[0]
        return found

    def promising(self, columns: NDArray[np.float64], costs: NDArray[np.float64]) -> list[int]:
        """Those that fit enough answers, each once; what is the key itself explains nothing."""
        self.tried += costs.tolist()
        enough = np.flatnonzero(hits(columns, self.answers, self.halves).sum(axis=1) >= FEWEST)
        found = []
        for k in sorted(enough, key=lambda k: costs[k]):
            held = same_values(columns[k])
            if held in self.seen:
                continue
            self.seen.add(held)
            found.append(int(k))
        return found

    def in_pairs(self, first: Sequence[Altered]) -> list[Altered]:
        """Two of the likeliest alterations, one after the other."""
        often = [each for each in first if each.cost <= OFTEN]
        found: list[Altered] = []
        for one in often:
            for other in alterations(one.tree, self.names, self.angle):
                if other.cost > OFTEN:
                    break
                cost = one.cost + other.cost + 0.6
                found.append(Altered(other.tree, cost, f"{one.because}, and {other.because}"))
                if len(found) >= MOST_PAIRS:
                    return found
        return found

    def rows_of(self, table: str) -> list[dict[str, Value]]:
        """The different rows of a table that stand in these draws, as far as the key uses them."""
        used = [name for name in names_in(self.tree) if name.startswith(f"{table}.")]
        found = {}
        for values in self.draws:
            if all(name in values for name in used):
                own = {name: values[name] for name in used}
                found[repr(sorted(own.items()))] = own
        return list(found.values())

    @property
    def tables(self) -> list[str]:
        return sorted({name.rpartition(".")[0] for name in names_in(self.tree) if "." in name})

    def of_rows(self) -> Iterator[Altered]:
        """Always the same row of a table, whichever was drawn."""
        for table in self.tables:
            for own in self.rows_of(table):
                if all(isinstance(value, fmpq) for value in own.values()):
                    values = {name: written(to_fraction(value)) for name, value in own.items()}
                    told = ", ".join(f"{name.rpartition('.')[2]} {line(tree)}" for name, tree in values.items())
                    yield Altered(substitute(self.tree, values), 1.4, f"always the row with {told}")

    def any_row(self) -> None:
        """Another row of a table than the one that was drawn, whichever."""
        for table in self.tables:
            rows = self.rows_of(table)
            if len(rows) < 2:
                continue
            fits = np.zeros(len(self.rows), dtype=bool)
            for own in rows:
                moved = [Observed({**row.values, **own}, row.key, row.answer, row.half) for row in self.rows]
                fits |= self.fits(Columns(moved, self.angle).of(self.tree))
            self.tried += [1.2] * (len(rows) - 1)
            if fits.sum() >= FEWEST:
                values: Mapping[str, Node] = {
                    name: Name(f"other_{name}") for name in names_in(self.tree) if name.startswith(f"{table}.")
                }
                tree = substitute(self.tree, values)
                self.fitting.append(Fit(tree, f"another row of the table {table}", fits, 1.2, choices=len(rows) - 1))

    def in_proportion(self) -> None:
        """The key times one number, with one added, or taken off one, whatever it is."""
        with np.errstate(all="ignore"):
            ratios = np.sort([(self.answers + side * self.halves) / self.keys for side in (-1, 1)], axis=0)
        gaps = np.array([self.answers - self.keys - self.halves, self.answers - self.keys + self.halves])
        sums = gaps + 2 * self.keys
        for ends, make in ((ratios, times), (gaps, plus), (sums, less)):
            common = most_covered(ends)
            if common is None:
                continue
            number, before = simplest(*common), len(self.fitting)
            self.tried += [PROPORTION] * len(self.rows)
            self.consider([Altered(make(number, self.tree), PROPORTION, "")])
            said = math.log10(max(1, abs(number.numerator)) * number.denominator)
            self.fitting[before:] = [replace(each, said=said) for each in self.fitting[before:]]

    def judged(self, among: NDArray[np.bool_]) -> list[Fit]:
        """What convinces, seen from the answers that are not explained yet, the most convincing first."""
        ordered = sorted(self.tried)
        found = []
        for fit in self.fitting:
            fits = fit.fits & among
            count = int(fits.sum())
            if count < FEWEST:
                continue
            likely = float(self.likely[among].mean()) * fit.choices
            if fit.choices == 1:
                column = self.columns.of(fit.tree)
                if len({f"{value:.9g}" for value in column[fits]}) < FEWEST:
                    continue
                likely = max(likely, of_others(column[among], self.answers[among], self.halves[among]))
            chance = log_tail(count, int(among.sum()), min(likely, 1.0))
            chance += math.log10(max(1, bisect_right(ordered, fit.cost))) + fit.said
            if chance <= CONVINCING:
                found.append(replace(fit, fits=fits, chance=chance))
        return sorted(found, key=lambda each: (each.chance, each.cost))


def most_covered(ends: NDArray[np.float64]) -> tuple[float, float] | None:
    """Of intervals, in columns, the piece of the line that most of them cover; None where no two have a piece in
    common."""
    sound = np.isfinite(ends).all(axis=0)
    events = sorted([(low, -1) for low in ends[0, sound]] + [(high, 1) for high in ends[1, sound]])
    depth, best, found = 0, 1, None
    for k, (at, kind) in enumerate(events):
        depth -= kind
        if kind < 0 and depth > best:
            best, found = depth, (float(at), float(events[k + 1][0]))
    return found


def simplest(low: float, high: float) -> Fraction:
    """The fraction with the smallest denominator between two numbers.

    >>> simplest(0.332, 0.334), simplest(-1.51, -1.49), simplest(2.3, 3.1)
    (Fraction(1, 3), Fraction(-3, 2), Fraction(3, 1))
    """
    if low <= 0 <= high:
        return Fraction(0)
    if high < 0:
        return -simplest(-high, -low)
    for bottom in range(1, 2000):
        top = math.ceil(low * bottom)
        if top <= high * bottom:
            return Fraction(top, bottom)
    return Fraction((low + high) / 2).limit_denominator(10**6)


def times(number: Fraction, tree: Node) -> Node:
    return product(written(number), tree)


def less(number: Fraction, tree: Node) -> Node:
    return Sum((written(number), Neg(tree)))


def plus(number: Fraction, tree: Node) -> Node:
    return Sum((tree, written(number)))


def find_mistakes(
    tree: Node, angle: str, rows: Sequence[Observed], draws: Sequence[Mapping[str, Value]] = ()
) -> list[Claim]:
    """Formulas of the parameters that explain wrong answers, the most convincing first, with the answers by their
    numbers from 0. ``tree`` is the formula of the key, ``angle`` what its functions of angles work in, and ``draws``
    the values of everybody in the class."""
    different = list({alike(row): k for k, row in reversed(list(enumerate(rows)))}.values())[::-1][:SEARCHED]
    if len(different) < FEWEST:
        return []
    search = Search(tree, angle, [rows[k] for k in different], draws or [row.values for row in rows])
    search.run()
    left = np.ones(len(different), dtype=bool)
    chosen: list[Fit] = []
    others: list[Fit] = []
    while len(chosen) < MOST_CLAIMS and (found := search.judged(left)):
        best = found[0]
        chosen.append(best)
        others += [each for each in found[1:] if (each.fits == best.fits).all()][:1]
        left = left & ~best.fits
    whole = Columns(rows, angle)
    return [claim_of(fit, search, whole, rows, different) for fit in (chosen + others)[:MOST_CLAIMS]]


def claim_of(fit: Fit, search: Search, whole: Columns, rows: Sequence[Observed], different: Sequence[int]) -> Claim:
    """The claim for all answers, those among them that were not searched over."""
    if fit.choices > 1:
        explained = {alike(rows[different[int(k)]]) for k in np.flatnonzero(fit.fits)}
        members = tuple(k for k, row in enumerate(rows) if alike(row) in explained)
    else:
        answers, halves = np.array([row.answer for row in rows]), np.array([row.half for row in rows])
        members = tuple(int(k) for k in np.flatnonzero(hits(whole.of(fit.tree)[None, :], answers, halves)[0]))
    return Claim(line(fit.tree), members, fit.because or f"{line(fit.tree)} instead of {line(search.tree)}")


def alike(row: Observed) -> object:
    """What two answers have in common that are the same answer to the same draw: they are one, however many gave it."""
    values = tuple(sorted((name, as_float(value)) for name, value in row.values.items()))
    return repr(values), f"{row.answer:.9g}"
