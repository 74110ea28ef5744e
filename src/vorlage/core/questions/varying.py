"""From a fixed question to a varying one: which numbers could vary, and which formulas give the answer.

The search builds formulas from the numbers of the text, simplest first. Units guide it: only what has the same
dimension is added, and a formula whose dimension is not the answer's counts as much less likely. It is bounded in
size; what it offers is checked exactly before it is shown.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cache
from itertools import combinations

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Exact, approximate, enclosures, equivalent
from ..draws import readable
from ..notation import Node, NotationError, Settings, line, literal, read
from ..quantities import read_unit

NUMBER = re.compile(r"(?<![\w.,^])[-−]?(?:\d{1,3}(?:[ \u00a0\u202f]\d{3})+|\d+)(?:[.,]\d+)?(?![\d])")
UNIT_AFTER = re.compile(
    r"[ \u00a0\u202f]?((?:[kM]?W h|[kM]?N m|°C|°F|°|%|[A-Za-zΩµμ]+)(?:(?:\^-?\d|[⁻]?[²³¹]|\*\*\d))?"
    r"(?:(?:/|·|\*| (?=[A-Za-zΩ]{1,3}\^-?\d))\(?[A-Za-zΩ°]+(?:\^-?\d|[⁻]?[²³¹])?(?: [A-Za-z]{1,2}\))?\)?)*)"
)
# Words that look like units and are none in a sentence.
WORDS = frozenset("a at in as is to so of or on by we he it do d h year years week weeks month months".split())
NAMES = {
    "kg": "m", "g": "m", "mg": "m", "t": "m", "m": "d", "cm": "l", "mm": "w", "km": "s", "s": "t", "min": "t",
    "hours": "t", "minutes": "t", "seconds": "t", "days": "t", "h": "t", "m/s": "v", "km/h": "v", "m/s^2": "a",
    "m/s²": "a", "°C": "T", "K": "T", "N": "F", "kN": "F", "J": "E", "kJ": "E", "MJ": "E", "W": "P", "kW": "P",
    "V": "U", "A": "I", "mA": "I", "Ω": "R", "L": "V", "l": "V", "mL": "V", "cm^3": "V", "cm³": "V", "m^3": "V",
    "m³": "V", "m^2": "A", "m²": "A", "cm^2": "A", "cm²": "A", "mol": "n", "Pa": "p", "kPa": "p", "%": "p",
    "°": "alpha", "Hz": "f", "N/m": "k", "mol/L": "c", "mol/dm^3": "c", "g/mol": "M", "kg/m^3": "rho",
    "kg/m³": "rho", "C": "Q",
}  # fmt: skip
SPARE = "abcdkqruxyz"
MOST_NUMBERS = 6
KEPT = 130
OFFERED = 6
Dimension = tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class FoundNumber:
    """A number of the text: where it stands with its unit, and how it could vary."""

    start: int
    end: int
    written: str
    unit: str
    value: fmpq
    decimals: int
    name: str
    definition: str
    # years and other numbers that had better stay
    stays: bool = False


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
class FoundFormula:
    """A formula that gives the answer, with the value it gives."""

    formula: str
    value: str
    cost: float
    unused: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a fixed question could become."""

    numbers: tuple[FoundNumber, ...]
    formulas: tuple[FoundFormula, ...]
    wording: str
    unit: str = ""
    decimals: int = 0
    # what is said when nothing, or more than one thing, was found
    note: str = ""


class Unusable(ValueError):
    """A text or an answer that nothing can be made of."""


def found_numbers(text: str, mark: str = "point") -> list[FoundNumber]:
    """The numbers of a question's text, each with its unit and a proposed range."""
    found: list[FoundNumber] = []
    taken: set[str] = set()
    for match in NUMBER.finditer(text):
        if (found and match.start() < found[-1].end) or text[match.end() : match.end() + 1] == ":":
            # a power of the unit before, or the 1 of a scale
            continue
        written = match[0]
        plain = re.sub(r"[ \u00a0\u202f]", "", written).replace("−", "-")
        if plain.count(",") == 1 and mark == "point":
            plain = plain.replace(",", "." if len(plain.split(",")[1]) != 3 else "")
        plain = plain.replace(",", ".")
        decimals = len(plain.partition(".")[2])
        exact = Fraction(plain)
        value = fmpq(exact.numerator, exact.denominator)
        unit, end = unit_after(text, match.end())
        year = not unit and decimals == 0 and 1500 <= exact <= 2100 and len(plain) == 4
        name = next_name(unit, taken)
        taken.add(name)
        found.append(
            FoundNumber(
                match.start(), end, written, unit, value, decimals, name, proposed_range(exact, decimals, unit), year
            )
        )
    return found


def unit_after(text: str, place: int) -> tuple[str, int]:
    """The unit that stands after a number, and where it ends."""
    found = UNIT_AFTER.match(text, place)
    if not found:
        return "", place
    # the longest beginning that is a unit
    pieces = [found[1][:end] for end in range(len(found[1]), 0, -1)]
    for piece in pieces:
        follows = text[found.start(1) + len(piece) :][:1]
        if piece in WORDS - {"h", "d"} or follows.isalpha() or (piece in {"h", "d"} and follows not in "., \n;:?"):
            continue
        if piece[-1] in "/·* (":
            continue
        try:
            read_unit(piece)
        except NotationError:
            continue
        return piece, found.start(1) + len(piece)
    return "", place


def next_name(unit: str, taken: set[str]) -> str:
    """A letter that suits the unit, with a number behind it when it is taken already."""
    wanted = NAMES.get(unit)
    if wanted is None:
        return next((letter for letter in SPARE if letter not in taken), f"a_{len(taken)}")
    if wanted not in taken:
        return wanted
    return next(name for k in range(1, 30) if (name := f"{wanted}_{k}") not in taken)


def proposed_range(value: Fraction, decimals: int, unit: str) -> str:
    """From about half to about one and a half times the value, in some twenty round steps that meet it."""
    if value == 0:
        return "0..5"
    least = Fraction(1, 10**decimals)
    step = max(least, round_step(abs(value) / 20))
    # the steps meet the value: a multiple of the step where the value is one
    offset = value % step
    below, above = abs(value) / 2, abs(value) * Fraction(3, 2)
    low = value - (below - below % step)
    high = value + (above - abs(value) - (above - abs(value)) % step)
    if unit == "%" and high > 100:
        high = Fraction(100) - (100 - offset) % step
    if high - low < 3 * step:
        low, high = max(step, value - 3 * step) if value > 0 else value - 3 * step, value + 5 * step
    texts = [line(literal(number)) for number in (low, high, step)]
    return f"{texts[0]}..{texts[1]}" + ("" if step == 1 else f" step {texts[2]}")


def round_step(size: Fraction) -> Fraction:
    """The largest of 1, 2 or 5 times a power of ten that is not above a size."""
    power = Fraction(10) ** math.floor(math.log10(size))
    return max((power * digit for digit in (1, 2, 5) if power * digit <= size), default=power)


def propose(text: str, answer: str, settings: Settings = Settings()) -> Proposal:  # noqa: B008 (frozen)
    """How a fixed question with its answer could vary. Raises ``Unusable`` with what to do about it."""
    numbers = found_numbers(text, settings.decimal_mark)
    if not numbers:
        raise Unusable("There is no number in this question that could vary.")
    given = found_numbers(answer, settings.decimal_mark)
    if len(given) != 1:
        raise Unusable("Write the answer as one number, with its unit if it has one, such as 22 kJ.")
    goal = given[0]
    usable = [number for number in numbers if not number.stays][:MOST_NUMBERS]
    formulas = Search(usable, goal).results()
    note = ""
    if not formulas:
        note = "No formula was found that gives this answer from these numbers: write it yourself on the desk."
    elif len(formulas) > 1:
        note = "More than one formula gives this answer: pick the one that is meant."
    return Proposal(tuple(numbers), tuple(formulas), varied(text, numbers), goal.unit, goal.decimals, note)


def varied(text: str, numbers: Iterable[FoundNumber]) -> str:
    """The text with a maths span in the place of every number that varies, its unit with it."""
    for number in sorted(numbers, key=lambda found: -found.start):
        if not number.stays:
            text = f"{text[: number.start]}${number.name}${text[number.end :]}"
    return text


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

    numbers: list[FoundNumber]
    goal: FoundNumber
    found: dict[str, FoundFormula] = field(default_factory=dict)

    def results(self) -> list[FoundFormula]:
        """The formulas that give the answer, the simplest first."""
        self.units = {number.name: dimension_of(number.unit) for number in self.numbers}
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
                unused = count - size
                if size > 1:
                    self.table[group] = self.combined(group, keep=size < count)
                self.try_all(group, unused)
                if size <= 2 or group == everything:
                    self.try_scaled(group, unused)
        ordered = sorted(self.found.values(), key=lambda formula: (formula.cost, len(formula.formula)))
        return distinct(ordered)

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
                    for right in self.table[second][:60]:
                        for made in joined(left, right, sums_only=True):
                            dearer = Candidate(made.value, made.dimension, made.text, made.cost + 1.2, made.level)
                            place = (significant(made.value), made.dimension)
                            if place not in best or dearer.cost < best[place].cost:
                                best[place] = dearer

    def try_all(self, group: int, unused: int) -> None:
        for candidate in self.table[group]:
            self.consider(candidate, group, unused)

    def try_scaled(self, group: int, unused: int) -> None:
        """Formulas with a factor or a known constant in front: those whose ratio to the answer is one."""
        count = group.bit_count()
        slack = min(0.5001 * 10.0**-self.goal.decimals, 0.06 * abs(self.target)) / max(abs(self.target), 1e-12) + 1e-9
        for candidate in self.table[group]:
            if candidate.level == 0 and count > 2 and self.near(candidate.value / count):
                # a mean
                self.consider(over_text(candidate, count, str(count), 0.1), group, unused)
            if not candidate.value:
                continue
            for multiplier in within(ordered_multipliers, self.target / candidate.value, slack):
                self.consider(multiplier.applied(candidate), group, unused)
            if candidate.value > 0 and self.target > 0:
                for multiplier in within(ordered_roots, self.target**2 / candidate.value, 2 * slack):
                    for root in roots(multiplier.applied(candidate)):
                        self.consider(root, group, unused)

    def near(self, value: float) -> bool:
        """Whether a value is the answer once it is rounded as the answer is."""
        width = 0.5001 * 10.0**-self.goal.decimals
        return abs(value - self.target) <= min(width, 0.06 * abs(self.target) + 1e-12)

    def consider(self, candidate: Candidate, group: int, unused: int) -> None:
        """Keep a formula that gives the answer, after working it out exactly."""
        if not self.near(candidate.value) or candidate.text in self.found:
            return
        cost = candidate.cost + 3.6 * unused
        if candidate.dimension is not None and candidate.dimension != self.dimension and any(self.units.values()):
            cost += 5 if self.goal.unit and all(number.unit for number in self.numbers) else 3
        exact = self.worked_out(candidate.text)
        if exact is None:
            return
        if not self.is_exact(exact):
            # an answer with decimals has been rounded, most likely; a whole number has not
            cost += 0.8 if self.goal.decimals else 2.5
        names = tuple(number.name for k, number in enumerate(self.numbers) if not group >> k & 1)
        shown = line(readable(exact))
        if not isinstance(exact, fmpq) or len(shown) > 12:
            shown = f"{approximate(exact):.6g}"
        self.found[candidate.text] = FoundFormula(candidate.text, shown, round(cost, 2), names)

    def worked_out(self, text: str) -> Exact | None:
        names = frozenset(number.name for number in self.numbers)
        try:
            tree = read(text, Settings(angle="degrees", names=names))
            return Compiled(tree, "degrees").value({number.name: number.value for number in self.numbers})
        except (NotationError, EvaluationError):
            return None

    def is_exact(self, value: Exact) -> bool:
        if isinstance(value, fmpq):
            return bool(value == self.goal.value)
        return all(a.overlaps(b) for a, b in enclosures(value, self.goal.value))


def significant(value: float) -> float:
    return float(f"{value:.9g}")


def leaves(number: FoundNumber, dimension: Dimension) -> Iterator[Candidate]:
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


def joined(
    left: Candidate, right: Candidate, sums_only: bool = False, products_only: bool = False
) -> Iterator[Candidate]:
    """Two formulas joined by the four operations, as far as their units allow."""
    cost = left.cost + right.cost
    if not products_only and (left.dimension == right.dimension or left.dimension is None or right.dimension is None):
        yield Candidate(left.value + right.value, left.dimension, f"{left.text} + {right.text}", cost + 0.7, 0)
        yield Candidate(left.value - right.value, left.dimension, f"{left.text} - {inner(right, 1)}", cost + 1, 0)
        yield Candidate(right.value - left.value, left.dimension, f"{right.text} - {inner(left, 1)}", cost + 1, 0)
    if sums_only:
        return
    alike = left.dimension == right.dimension and left.level == right.level == 2 and left.value + right.value
    if alike and not products_only:
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


def times_text(candidate: Candidate, size: float, text: str, cost: float) -> Candidate:
    return Candidate(
        candidate.value * size, candidate.dimension, f"{text}*{inner(candidate, 1)}", candidate.cost + cost, 1
    )


def over_text(candidate: Candidate, size: float, text: str, cost: float) -> Candidate:
    return Candidate(
        candidate.value / size, candidate.dimension, f"{inner(candidate, 1)}/{text}", candidate.cost + cost, 1
    )


def distinct(ordered: list[FoundFormula]) -> list[FoundFormula]:
    """The simplest formulas, each once however it is written; far less likely ones are left out."""
    kept: list[FoundFormula] = []
    for formula in ordered[:60]:
        if kept and formula.cost > kept[0].cost + 2.6:
            break
        tree = read_named(formula.formula)
        if any(equivalent(read_named(known.formula), tree, (), "degrees").holds for known in kept):
            continue
        kept.append(formula)
        if len(kept) == OFFERED:
            break
    return kept


def read_named(text: str) -> Node:
    names = frozenset(re.findall(r"[a-zA-Z]+(?:_\d+)?", text)) - {"sqrt", "sin", "cos", "tan", "pi"}
    return read(text, Settings(angle="degrees", names=names))
