"""Free search: formulas built from the numbers of a text, simplest first, where the book has none.

Units guide it: only what has the same dimension is added, and what does not come out in the answer's dimension counts
as impossible beside what does. Its work is bounded in steps; what it offers is checked exactly before it is shown.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cache
from itertools import combinations
from time import monotonic

from ..algebra import approximate
from ..notation import NotationError
from ..quantities import read_unit
from .fixed import FoundNumber, Goal

Dimension = tuple[tuple[str, int], ...]
MOST_NUMBERS = 6
KEPT = 130
# Pairs of formulas that may be joined, well below a second's work.
STEPS = 16_000


@dataclass(frozen=True, slots=True)
class Candidate:
    """A formula on the way: its value, its dimension (None when it is not known), its text and how simple it is."""

    value: float
    dimension: Dimension | None
    text: str
    cost: float
    # how loosely it binds: 0 a sum, 1 a product, 2 anything else
    level: int = 2


@dataclass(frozen=True, slots=True)
class FreeFormula:
    """A formula that gives the answer: its text, how simple it is, which numbers it uses, and whether its dimension is
    the answer's (None where units are missing)."""

    text: str
    cost: float
    mask: int
    possible: bool | None
    value: float


# Numbers that a school knows by heart, with their units: value, text, unit, cost.
CONSTANTS = [
    (9.81, "9.81", "m/s^2", 2.2), (9.8, "9.8", "m/s^2", 2.4), (10.0, "10", "m/s^2", 2.6),
    (4.18, "4.18", "J/(g K)", 2.4), (4.2, "4.2", "J/(g K)", 2.5), (8.31, "8.31", "J/(mol K)", 2.5),
    (340.0, "340", "m/s", 2.8), (24.0, "24", "L/mol", 2.9),
]  # fmt: skip
# What stands beside a constant: prefixes of the answer's unit, and two.
SCALES = ((1000.0, "1000", 1.0), (1e6, "10^6", 1.6), (100.0, "100", 1.2), (2.0, "2", 0.8))
FACTORS = [
    (2.0, "2", 1.0), (0.5, "1/2", 1.2), (3.0, "3", 2.6), (4.0, "4", 2.4), (math.pi, "pi", 1.2),
    (10.0, "10", 1.9), (60.0, "60", 1.7), (100.0, "100", 1.4), (1000.0, "1000", 1.5), (3600.0, "3600", 2.0),
    (3.6, "3.6", 1.9), (1e6, "10^6", 2.4), (12.0, "12", 2.6),
]  # fmt: skip
DIVISORS = [
    (2.0, "2", 1.0), (3.0, "3", 1.8), (4.0, "4", 1.8), (math.pi, "pi", 1.6), (10.0, "10", 1.9),
    (60.0, "60", 1.7), (100.0, "100", 1.4), (1000.0, "1000", 1.5), (3600.0, "3600", 2.0), (3.6, "3.6", 1.9),
    (1e6, "10^6", 2.4), (12.0, "12", 2.6),
    (1e5, "10^5", 2.0),
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Multiplier:
    """What a formula can be multiplied by: a value, its steps as (text, whether it divides, dimension), its cost."""

    value: float
    steps: tuple[tuple[str, bool, Dimension], ...]
    cost: float

    def applied(self, candidate: Candidate) -> Candidate:
        """The formula with every step written out; constants stand behind it, factors in front."""
        text, dimension, level = candidate.text, candidate.dimension, candidate.level
        for step, divides, unit in self.steps:
            bare = text if level >= 1 else f"({text})"
            if divides:
                text = f"{bare}/{step}"
            else:
                text = f"{bare}*{step}" if unit else f"{step}*{bare}"
            level, dimension = 1, merged(dimension, unit, -1 if divides else 1)
        return Candidate(candidate.value * self.value, dimension, text, candidate.cost + self.cost, level)


def multipliers() -> Iterator[Multiplier]:
    for size, text, cost in FACTORS:
        yield Multiplier(size, ((text, False, ()),), cost)
    for size, text, cost in DIVISORS:
        yield Multiplier(1 / size, ((text, True, ()),), cost)
    for size, text, unit, cost in CONSTANTS:
        for divides in (False, True):
            value, step = (1 / size if divides else size), (text, divides, dimension_of(unit))
            yield Multiplier(value, (step,), cost + 0.8)
            for scale, scale_text, extra in SCALES:
                yield Multiplier(value * scale, (step, (scale_text, False, ())), cost + 0.8 + extra)
                yield Multiplier(value / scale, (step, (scale_text, True, ())), cost + 0.8 + extra)


def under_roots() -> Iterator[Multiplier]:
    """2 g h and 2 h/g."""
    for size, text, unit, cost in CONSTANTS:
        for divides in (False, True):
            value = 2 / size if divides else 2 * size
            yield Multiplier(value, (("2", False, ()), (text, divides, dimension_of(unit))), cost + 1.4)


@cache
def dimension_of(unit: str) -> Dimension:
    try:
        return read_unit(unit).dimension if unit else ()
    except NotationError:
        return ()


def within(ordered: Callable[[], list[Multiplier]], ratio: float, slack: float) -> list[Multiplier]:
    """The multipliers that are a ratio, but for so small a share of it."""
    if ratio <= 0:
        return []
    known = ordered()
    first = bisect_left(known, ratio * (1 - slack), key=lambda multiplier: multiplier.value)
    last = bisect_right(known, ratio * (1 + slack), key=lambda multiplier: multiplier.value)
    return known[first:last]


@cache
def ordered_multipliers() -> list[Multiplier]:
    return sorted(multipliers(), key=lambda multiplier: multiplier.value)


@cache
def ordered_roots() -> list[Multiplier]:
    return sorted(under_roots(), key=lambda multiplier: multiplier.value)


@dataclass
class Search:
    """All formulas of bounded size from some numbers, by the sets of numbers they use."""

    numbers: Sequence[FoundNumber]
    goal: Goal
    found: dict[str, FreeFormula] = field(default_factory=dict)
    steps: int = 0
    # the guard behind the steps, on the monotonic clock
    deadline: float = math.inf

    def results(self) -> list[FreeFormula]:
        """The formulas that give the answer, the simplest first."""
        self.units = {number.name: None if number.per else dimension_of(number.unit) for number in self.numbers}
        self.target = approximate(self.goal.value)
        self.dimension = dimension_of(self.goal.unit)
        count = len(self.numbers)
        self.table: dict[int, list[Candidate]] = {}
        for k, number in enumerate(self.numbers):
            self.table[1 << k] = sorted(leaves(number, self.units[number.name]), key=lambda leaf: leaf.cost)
        everything = (1 << count) - 1
        for size in range(1, count + 1):
            for chosen in combinations(range(count), size):
                group = sum(1 << k for k in chosen)
                if monotonic() > self.deadline:
                    self.steps = STEPS + 1
                if size > 1:
                    self.table[group] = self.combined(group, keep=size < count)
                self.try_all(group)
                if size <= 2 or group == everything:
                    self.try_scaled(group)
        return sorted(self.found.values(), key=lambda formula: (formula.cost, len(formula.text)))

    def combined(self, group: int, keep: bool) -> list[Candidate]:
        """What can be made of a set of numbers by joining two parts of it."""
        best: dict[tuple[float, Dimension | None], Candidate] = {}
        # one or two liberties beside the plainest formula of so many numbers
        limit = 1.9 * group.bit_count() - 0.9 + 2.2
        half = (group - 1) & group
        while half:
            other = group ^ half
            if half < other:
                for left in self.table[half]:
                    for right in self.table[other]:
                        if left.cost + right.cost > limit:
                            # the rest is dearer still
                            break
                        self.steps += 1
                        if self.steps > STEPS:
                            break
                        for made in joined(left, right):
                            place = (significant(made.value), made.dimension)
                            known = best.get(place)
                            if known is None or made.cost < known.cost:
                                best[place] = made
            half = (half - 1) & group
        # a number may be used twice, as the time in u t + a t^2/2
        if group.bit_count() in {2, 3} and len(self.numbers) <= 4:
            self.twice(group, best)
        made_of = sorted(best.values(), key=lambda candidate: candidate.cost)
        kept = made_of[:KEPT] if keep else made_of[: 12 * KEPT]
        kept += [root for candidate in kept[:80] for root in roots(candidate)]
        return sorted(kept, key=lambda candidate: candidate.cost)

    def twice(self, group: int, best: dict[tuple[float, Dimension | None], Candidate]) -> None:
        parts = [1 << k for k in range(len(self.numbers)) if group >> k & 1]
        for shared in parts:
            rest = group ^ shared
            firsts = [rest] if group.bit_count() == 2 else [rest ^ part for part in parts if part != shared]
            for first in firsts:
                second = group if group.bit_count() == 2 else (group ^ first)
                if second not in self.table or (first | shared) not in self.table:
                    continue
                left_group = first | shared if group.bit_count() == 3 else first
                for left in self.table[left_group][:60]:
                    if self.steps > STEPS:
                        break
                    for right in self.table[second][:60]:
                        self.steps += 1
                        for made in joined(left, right, sums_only=True):
                            dearer = Candidate(made.value, made.dimension, made.text, made.cost + 1.2, made.level)
                            place = (significant(made.value), made.dimension)
                            if place not in best or dearer.cost < best[place].cost:
                                best[place] = dearer

    def try_all(self, group: int) -> None:
        for candidate in self.table[group]:
            self.consider(candidate, group)

    def try_scaled(self, group: int) -> None:
        """Formulas with a factor or a known constant in front: those whose ratio to the answer is one."""
        count = group.bit_count()
        slack = self.width() / max(abs(self.target), 1e-300) + 1e-9
        for candidate in self.table[group]:
            if candidate.level == 0 and count > 2 and self.near(candidate.value / count):
                # a mean
                self.consider(over_text(candidate, count, str(count), 0.1), group)
            if not candidate.value:
                continue
            for multiplier in within(ordered_multipliers, self.target / candidate.value, slack):
                self.consider(multiplier.applied(candidate), group)
            if candidate.value > 0 and self.target > 0:
                for multiplier in within(ordered_roots, self.target**2 / candidate.value, 2 * slack):
                    for root in roots(multiplier.applied(candidate)):
                        self.consider(root, group)

    def width(self) -> float:
        return min(self.goal.slack * 1.0002, 0.06 * abs(self.target) + 1e-300)

    def near(self, value: float) -> bool:
        """Whether a value is the answer once it is rounded as the answer is."""
        return abs(value - self.target) <= self.width() + 1e-12 * abs(self.target)

    def consider(self, candidate: Candidate, group: int) -> None:
        """Keep a formula that gives the answer."""
        if not self.near(candidate.value) or candidate.text in self.found:
            return
        possible = None if candidate.dimension is None else candidate.dimension == self.dimension
        self.found[candidate.text] = FreeFormula(candidate.text, candidate.cost, group, possible, candidate.value)


def significant(value: float) -> float:
    return float(f"{value:.9g}")


def leaves(number: FoundNumber, dimension: Dimension | None) -> Iterator[Candidate]:
    """A number by itself and in the guises that formulas give it."""
    value, name = approximate(number.value), number.name
    yield Candidate(value, dimension, name, 1)
    yield Candidate(value**2, scaled(dimension, 2), f"{name}^2", 1.7)
    yield Candidate(value**2 / 2, scaled(dimension, 2), f"{name}^2/2", 2.1, 1)
    if number.unit in {"%", "percent"}:
        yield Candidate(value / 100, (), f"{name}/100", 1.2, 1)
        yield Candidate(1 + value / 100, (), f"(1 + {name}/100)", 1.3)
        yield Candidate(1 - value / 100, (), f"(1 - {name}/100)", 1.4)
    elif number.unit in {"°", "deg", "degrees"}:
        for function in ("sin", "cos", "tan"):
            yield Candidate(getattr(math, function)(math.radians(value)), (), f"{function}({name})", 1.5)
    elif number.unit == "°C":
        yield Candidate(value + 273, dimension, f"({name} + 273)", 1.9)
    elif abs(value) < 1000:
        yield Candidate(value**3, scaled(dimension, 3), f"{name}^3", 2.4)


PRODUCT_OF_SQUARES = re.compile(r"\w+\^2(?:/2)?(?:[*/]\w+\^2(?:/2)?)*")


def scaled(dimension: Dimension | None, power: int) -> Dimension | None:
    return None if dimension is None else tuple((base, count * power) for base, count in dimension)


def merged(left: Dimension | None, right: Dimension | None, sign: int) -> Dimension | None:
    if left is None or right is None:
        return None
    if not right:
        return left
    powers = dict(left)
    for base, count in right:
        powers[base] = powers.get(base, 0) + sign * count
    return tuple(sorted((base, count) for base, count in powers.items() if count))


def joined(left: Candidate, right: Candidate, sums_only: bool = False) -> Iterator[Candidate]:
    """Two formulas joined by the four operations, as far as their units allow."""
    cost = left.cost + right.cost
    if left.dimension == right.dimension or left.dimension is None or right.dimension is None:
        yield Candidate(left.value + right.value, left.dimension, f"{left.text} + {right.text}", cost + 0.7, 0)
        yield Candidate(left.value - right.value, left.dimension, f"{left.text} - {inner(right, 1)}", cost + 1, 0)
        yield Candidate(right.value - left.value, left.dimension, f"{right.text} - {inner(left, 1)}", cost + 1, 0)
    if sums_only:
        return
    alike = left.dimension == right.dimension and left.level == right.level == 2 and left.value + right.value
    if alike:
        # two in parallel
        both = f"{left.text}*{right.text}/({left.text} + {right.text})"
        yield Candidate(left.value * right.value / (left.value + right.value), left.dimension, both, cost + 2.2, 1)
    for base, exponent in ((left, right), (right, left)):
        if (
            base.text.startswith("(1 ")
            and exponent.cost == 1
            and not exponent.dimension
            and exponent.value in range(2, 41)
        ):
            # growth over so many years
            yield Candidate(base.value**exponent.value, (), f"{base.text}^{exponent.text}", cost + 0.6)
    product = merged(left.dimension, right.dimension, 1)
    yield Candidate(left.value * right.value, product, f"{inner(left, 1)}*{inner(right, 1)}", cost + 0.8, 1)
    if right.value:
        ratio = merged(left.dimension, right.dimension, -1)
        yield Candidate(left.value / right.value, ratio, f"{inner(left, 1)}/{inner(right, 2)}", cost + 0.9, 1)
    if left.value:
        ratio = merged(right.dimension, left.dimension, -1)
        yield Candidate(right.value / left.value, ratio, f"{inner(right, 1)}/{inner(left, 2)}", cost + 0.9, 1)


def inner(candidate: Candidate, level: int) -> str:
    """The text of a formula inside another, in brackets where it binds more loosely."""
    return candidate.text if candidate.level >= level else f"({candidate.text})"


def roots(candidate: Candidate) -> Iterator[Candidate]:
    dimension = candidate.dimension
    if PRODUCT_OF_SQUARES.fullmatch(candidate.text):
        return
    if candidate.value > 0 and dimension is not None and all(count % 2 == 0 for _, count in dimension):
        halved = tuple((base, count // 2) for base, count in dimension)
        yield Candidate(math.sqrt(candidate.value), halved, f"sqrt({candidate.text})", candidate.cost + 1.1)


def over_text(candidate: Candidate, size: float, text: str, cost: float) -> Candidate:
    return Candidate(
        candidate.value / size, candidate.dimension, f"{inner(candidate, 1)}/{text}", candidate.cost + cost, 1
    )
