"""The formula book against the numbers of a fixed question: which formulas give the printed answer.

Numbers are given to letters by their dimension, then by the words about them; constants of the book fill their letters.
Two formulas are combined where one gives what the other needs, and two figures where their areas or volumes are added
or one is taken from the other. What gives the answer within its rounding is a
candidate; how likely it is, is said by the words of the formula and of its letters in the text, by whether every number
is used, and by its size. The work is counted in steps and ends.
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cache
from time import monotonic

from ..algebra import approximate
from ..notation import Call, Name, Neg, Node, Number, Power, Product, Quotient, Relation, Sum, line, literal, substitute
from ..quantities import Unit, read_unit
from .book import EMPTY, Book, Formula, Kind, Letter, Solved, book, constant_value, kinds_of, quick_function, stems
from .fixed import CALENDAR, NUMBER_WORDS, FoundNumber, Goal, unit_after, unit_of

Dimension = tuple[tuple[str, int], ...]
TIME: Dimension = (("second", 1),)
TEMPERATURE: Dimension = (("kelvin", 1),)
# What a search may take at most, in numbers given to letters.
STEPS = 25_000
# So many formulas are tried as a first step of two, and so many of what they give is kept.
FIRST_STEPS, KEPT_STEPS, ALIKE_STEPS = 160, 220, 40
CANDIDATES = 60
# A formula that costs no more is meant: nothing further is sought.
CLEAR = 2.5
# Words of so much weight speak for a formula.
SUPPORT = 4.0
# Topics whose formulas go with no other.
LAST_STEPS = frozenset(["Numbers", "Units"])
# What it costs that one number stands for two letters.
TWICE = 0.9
# What a second step costs.
SECOND = 1.6
# what each difference costs that comes out negative though nothing in the text does
BACKWARD = 1.2
ONE = Number(Fraction(1))
IN_ONE = re.compile(r"\b(?:in|per|during|within|every|for) (?:an?|one) (second|minute|hour|day|week)\b", re.IGNORECASE)
HALVES_MORE = re.compile(r"\b(?:one|time|once) and a half\b", re.IGNORECASE)
SUBTRACTED = re.compile(r"[a-z\d)²³]\s*[-−–]\s*\Z")
ORDINALS = {"third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "seventh": 7, "eighth": 8, "tenth": 10}
FRACTION_WORDS = {"half": 2, "third": 3, "quarter": 4, "fifth": 5, "tenth": 10}
# Figures are put together whose words are heard at all; so many ways to measure them are looked at.
FIGURES = frozenset(["Plane figures", "Circles", "Solids"])
HEARD, MOST_FIGURES = 1.5, 160
# Pairs of figures that are looked at in the time of one step.
PAIRS_A_STEP = 20
MEASURES = frozenset([(("meter", 2),), (("meter", 3),)])
# Words by which one figure is taken away from another.
TAKEN_AWAY = frozenset(
    stems(
        "hole cut drilled bored removed left remains remain shaded waste hollow missing punched "
        "wall window door pond path grass lawn"
    )
)
ADDED = frozenset(stems("consists top joined attached mounted together made shape shaped ends roof tower silo"))
# Words by which one number of the text stands for two things.
EACH = frozenset(stems("each both equal identical same two pair"))


@dataclass(frozen=True, slots=True)
class Given:
    """A number that may stand for a letter: one of the text, two of it as a fraction, a word, or what was worked out.

    ``value`` is as it is written, in ``unit``; of what was worked out, in coherent units.
    """

    tree: Node
    value: float
    unit: Unit | None
    # percent, angle, celsius, or empty
    sort: str
    # which numbers of the text it uses
    mask: int
    context: tuple[tuple[str, float], ...] = ()
    cost: float = 0.0
    # a number without any unit may still be a length in a text that leaves units out
    bare: bool = False
    worked: bool = False
    calendar: str = ""
    # the formula that gave it
    source: Formula | None = None


# what stands for a letter: the number, its value and its tree in the letter's terms, and what that costs
Choice = tuple[Given, float, Node, float]


@dataclass(frozen=True, slots=True)
class Match:
    """A formula that gives the answer: its tree in the numbers' names, how unlikely it is, and where it is from."""

    tree: Node
    cost: float
    mask: int
    formula: Formula
    # whether words of the text speak for it
    supported: bool


@dataclass
class Matching:
    """One search through the book."""

    numbers: Sequence[FoundNumber]
    goal: Goal
    text: str
    # the guard behind the steps, on the monotonic clock
    deadline: float = math.inf
    steps: int = 0
    found: list[Match] = field(default_factory=list)
    known: dict[int, list[Choice]] = field(default_factory=dict)

    def matches(self) -> list[Match]:
        """The formulas that give the answer, the likeliest first."""
        self.book: Book = book()
        self.said = frozenset(stems(self.text)) - EMPTY
        self.asked = frozenset(stems(question_of(self.text)))
        self.everything = (1 << len(self.numbers)) - 1
        self.varying = sum(1 << k for k, number in enumerate(self.numbers) if not number.stays)
        self.no_units = not any(number.unit for number in self.numbers) and not self.goal.unit
        self.given = list(self.givens())
        self.goals = list(goals(self.goal, self.no_units))
        self.speaks = {id(formula): self.spoken_for(formula) for formula in self.book.formulas}
        # the likeliest first, so that the steps do not end before they are tried
        for solved, cost in sorted(self.solving(), key=lambda pair: pair[1]):
            self.try_formula(solved, cost)
        if not self.is_clear():
            self.try_figures()
        if not self.is_clear():
            self.try_two_steps()
        return sorted(self.found, key=lambda match: match.cost)[:CANDIDATES]

    def is_clear(self) -> bool:
        """Whether a formula was found that is meant."""
        return any(match.cost < CLEAR and match.supported for match in self.found)

    # the numbers

    def givens(self) -> Iterator[Given]:
        """Everything in the text that may stand for a letter."""
        for k, number in enumerate(self.numbers):
            value, unit, sort = approximate(number.value), unit_of(number.unit), sort_of(number.unit)
            name = Name(number.name)
            yield Given(name, value, unit, sort, 1 << k, number.context, 0.0, not number.unit, False, number.calendar)
            if not number.unit and value > 0 and SUBTRACTED.search(self.text[: number.start]):
                # x^2 - 7x: the coefficient is -7
                yield Given(Neg(name), -value, None, "", 1 << k, number.context, -0.2, True)
            if number.per and number.per not in CALENDAR and not sort:
                by = unit_of(f"{number.unit}/{number.per}" if number.unit else f"1/{number.per}")
                if by is not None:
                    yield Given(name, value, by, "", 1 << k, number.context, 0.15)
        for (j, one), (k, other) in zip(enumerate(self.numbers), enumerate(self.numbers[1:], start=1)):
            yield from self.together(one, other, (1 << j) | (1 << k))
        # a word stands for one letter only, as a number does: bits beyond those of the numbers
        bits = itertools.count(len(self.numbers))
        for match in re.finditer(r"[A-Za-z]+", self.text):
            word = match[0].lower()
            if word == "twice":
                yield Given(Number(Fraction(2)), 2.0, None, "", 1 << next(bits), (), 0.6, True)
            if NUMBER_WORDS.get(word, 13) < 13:
                count = NUMBER_WORDS[word]
                said, _ = unit_after(self.text, match.end())
                bit = 1 << next(bits)
                yield Given(Number(Fraction(count)), float(count), unit_of(said), sort_of(said), bit, (), 0.7, not said)
            if word in ORDINALS:
                place = ORDINALS[word]
                yield Given(Number(Fraction(place)), float(place), None, "", 1 << next(bits), (), 0.6, True)
            if word in FRACTION_WORDS:
                parts = FRACTION_WORDS[word]
                yield Given(Quotient(ONE, Number(Fraction(parts))), 1 / parts, None, "", 1 << next(bits), (), 0.5, True)
        for _ in HALVES_MORE.finditer(self.text):
            yield Given(literal(Fraction(3, 2)), 1.5, None, "", 1 << next(bits), (("time", 1.0),), 0.3, True)
        for match in IN_ONE.finditer(self.text):
            # how much flows in a minute
            yield Given(ONE, 1.0, read_unit(match[1].lower()), "", 0, ((match[1].lower(), 1.0),), 0.4)

    def together(self, one: FoundNumber, other: FoundNumber, mask: int) -> Iterator[Given]:
        """Two numbers that are one: 3/8; 2 h 30 min."""
        between = self.text[one.end : other.start]
        if between == "/" and other.value:
            tree = Quotient(Name(one.name), Name(other.name))
            value = approximate(one.value / other.value)
            yield Given(tree, value, unit_of(other.unit), "", mask, one.context, 0.0, True)
        big, small = unit_of(one.unit), unit_of(other.unit)
        if between.strip() in {"", "and"} and big and small and big.dimension == small.dimension and big.dimension:
            ratio = float(big.factor / small.factor)
            if ratio > 1 and not sort_of(one.unit):
                whole = Sum((Name(one.name), scaled_tree(Name(other.name), 1 / ratio)))
                yield Given(
                    whole, approximate(one.value) + approximate(other.value) / ratio, big, "", mask, one.context
                )

    # the formulas

    def spoken_for(self, formula: Formula) -> float:
        """How much of a formula's words the text has, weighed by how rare they are in the book."""
        weights = self.book.weights
        return min(sum(weights.get(word, 0.0) for word in formula.words & self.said), 14.0)

    def solving(self) -> Iterator[tuple[Solved, float]]:
        """The formulas that give something of the answer's sort, with what they cost."""
        for formula in self.book.formulas:
            if self.no_units and formula.has_units and self.speaks[id(formula)] < SUPPORT / 2:
                # numbers without units are lengths or masses only where words say so
                continue
            for solved in formula.solved:
                letter = formula.letters[solved.unknown]
                if any(fits(goal, kind) for goal in self.goals for kind in letter.kinds):
                    yield solved, self.price(solved)

    def price(self, solved: Solved) -> float:
        """How unlikely a formula is before any number stands in it."""
        formula = solved.formula
        price = 4.0 - 0.42 * self.speaks[id(formula)] + 0.12 * len(formula.letters)
        letter = formula.letters[solved.unknown]
        if letter.roles & (self.asked | (self.said if len(self.asked) < 3 else frozenset())):
            price -= 0.8
        return price if solved.printed else price + 0.35

    def try_formula(self, solved: Solved, price: float, derived: Given | None = None) -> None:
        """Give the numbers to the letters in every way that their sorts allow."""
        formula = solved.formula
        letters = [formula.letters[name] for name in solved.names]
        choices = [self.choices(letter) for letter in letters]
        if derived is not None:
            more = [self.choice(letter, derived) for letter in letters]
            if not any(more):
                return
            choices = [[*found, extra] if extra else found for found, extra in zip(choices, more)]
        if not all(choices):
            return
        order = sorted(range(len(letters)), key=lambda k: len(choices[k]))
        Assignment(self, solved, letters, choices, order, price, derived is not None).run()

    def choices(self, letter: Letter) -> list[Choice]:
        """What of the text, and which constant, may stand for a letter."""
        if id(letter) in self.known:
            return self.known[id(letter)]
        found = [choice for each in self.given if (choice := self.choice(letter, each))]
        if letter.constant:
            for place in range(len(self.book.constants[letter.name].values)):
                tabled = constant_choice(letter.name, place)
                found.append(tabled)
                for each in self.given:
                    # "one mole fills 24 dm^3": the number of the table, whatever unit it has here
                    if each.mask and each.value == tabled[0].value and not any(choice[0] is each for choice in found):
                        factor = constant_factor(self.book.constants[letter.name].unit)
                        found.append((each, tabled[1], scaled_tree(each.tree, factor), 0.35))
        self.known[id(letter)] = found
        return found

    def choice(self, letter: Letter, each: Given) -> Choice | None:
        """A number as it would stand for a letter; None where it cannot."""
        for kind in letter.kinds:
            taken = taken_as(each, kind, self.no_units)
            if taken is None:
                continue
            value, tree, cost = taken
            if letter.constant and not is_near(value, letter.name):
                continue
            heard = sum(weight for word, weight in each.context if word in letter.roles)
            return each, value, tree, cost + each.cost - min(1.2, 0.6 * heard)
        return None

    def weigh(
        self, solved: Solved, letters: list[Letter], chosen: Sequence[Choice], mask: int, bound: dict[str, object],
        cost: float,
    ) -> None:  # fmt: skip
        """Keep an assignment that gives the answer."""
        value = solved.function([each[1] for each in chosen])
        if value is None:
            return
        unknown = solved.formula.letters[solved.unknown]
        for goal in self.goals:
            kind = next((kind for kind in unknown.kinds if fits(goal, kind)), None)
            if kind is None or (kind.way == "any" and bound.get(kind.name, goal.sort) != goal.sort):
                continue
            scale = goal.scale if kind.way in {"unit", "any"} else goal.raw_scale(kind)
            result = (value - goal.shift) / scale
            off = abs(result - goal.target)
            if off > goal.loose + 1e-12 * abs(goal.target):
                continue
            tree = written(solved, letters, chosen, scale, goal.shift)
            price = cost + goal.cost + self.rounding(off, result) + self.unused(mask)
            if (
                isinstance(solved.tree, Call)
                and solved.tree.function in {"ceil", "floor"}
                and is_whole_anyway(solved, chosen)
            ):
                price += 2.0
            price += self.backward(solved, [each[1] for each in chosen])
            supported = self.speaks[id(solved.formula)] > SUPPORT
            self.found.append(Match(tree, price, mask, solved.formula, supported))

    def backward(self, solved: Solved, values: Sequence[float]) -> float:
        """What it costs that a larger number is taken from a smaller one on the way: nobody has 2 - 7 tickets."""
        if self.goal.value < 0 or min(values, default=0.0) < 0:
            return 0.0
        return BACKWARD * sum(1 for difference in solved.differences if (difference(values) or 0.0) < 0)

    def rounding(self, off: float, result: float) -> float:
        """What it costs that the answer is only met after rounding: a printed 3.03 has been rounded, 150 hardly."""
        goal = self.goal
        if off <= 1e-9 * max(abs(result), 1e-30):
            return 0.0
        if goal.fraction:
            return 9.0
        price = 0.3 if goal.decimals or goal.exponent is not None else 0.9
        if off > goal.slack * (1 + 1e-9):
            price += 0.6
        # the fewer figures, the more is met by chance
        return price + {1: 2.2, 2: 0.9}.get(goal.figures, 0.0)

    def unused(self, mask: int) -> float:
        left = self.varying & ~mask
        stays = self.everything & ~self.varying & ~mask
        return 3.0 * left.bit_count() + 0.5 * stays.bit_count()

    # two steps

    def try_two_steps(self) -> None:
        """What one formula gives from the text is what another needs."""
        spoken = [
            formula
            for formula in self.book.formulas
            if self.speaks[id(formula)] > 1.5 and formula.topic not in LAST_STEPS
        ]
        ranked = sorted(spoken, key=lambda formula: -self.speaks[id(formula)])[:FIRST_STEPS]
        steps = [step for formula in ranked for solved in formula.solved for step in self.first_steps(solved)]
        kept: dict[tuple[float, int], Given] = {}
        for step in sorted(steps, key=lambda step: step.cost):
            kept.setdefault((float(f"{step.value:.9g}"), step.mask), step)
        alike: dict[object, list[Given]] = {}
        for step in list(kept.values())[:KEPT_STEPS]:
            alike.setdefault(sort_key(step), []).append(step)
        allowed = {id(formula) for formula in ranked}
        forms = sorted((pair for pair in self.solving() if id(pair[0].formula) in allowed), key=lambda pair: pair[1])
        for solved, price in forms:
            for each in alike.values():
                if not any(self.choice(solved.formula.letters[name], each[0]) for name in solved.names):
                    continue
                for step in each[:ALIKE_STEPS]:
                    if self.steps > STEPS:
                        return
                    if step.source is solved.formula:
                        continue
                    self.try_formula(solved, price + SECOND, step)

    def first_steps(self, solved: Solved) -> list[Given]:
        """What a formula gives from numbers of the text and constants."""
        kind = solved.formula.letters[solved.unknown].kinds[0]
        if kind.way not in {"unit", "plain", "percent", "angle"} or len(solved.names) > 4:
            return []
        sort = {"percent": "percent", "angle": "angle"}.get(kind.way, "")
        found = []
        for way in self.ways(solved, most=6):
            taken = {name: each[2] for name, each in zip(solved.names, way.chosen)}
            tree = substitute(solved.tree, taken)
            found.append(
                Given(
                    tree, way.value, kind.unit, sort, way.mask, (), max(0.0, way.cost), False, True, "", solved.formula
                )
            )
        return found

    def ways(self, solved: Solved, most: int) -> Iterator[Way]:
        """The ways to give numbers of the text and constants to the letters of a formula, each with what it gives."""
        letters = [solved.formula.letters[name] for name in solved.names]
        choices = [self.choices(letter) for letter in letters]
        if not all(choices):
            return
        price = self.price(solved) - 2.0
        assignment = Assignment(self, solved, letters, choices, list(range(len(letters))), price, False, most=most)
        for chosen, mask, cost in assignment.all():
            value = solved.function([each[1] for each in chosen])
            if value is not None and mask & self.everything:
                yield Way(solved, letters, chosen, mask, cost, value)

    # two figures

    def try_figures(self) -> None:
        """The areas or the volumes of two figures, added, or one taken away from the other."""
        for goal in self.goals:
            alike: dict[object, list[Way]] = {}
            for formula in self.book.formulas:
                if formula.topic not in FIGURES or self.speaks[id(formula)] < HEARD:
                    continue
                # as it is printed: what a figure has, not what follows from it
                solved = formula.solved[0]
                if len(solved.names) > 3:
                    continue
                kind = formula.letters[solved.unknown].kinds[0]
                if kind.unit is not None and kind.unit.dimension in MEASURES and fits(goal, kind):
                    alike.setdefault(kind.unit.dimension, []).extend(self.ways(solved, most=30))
            for ways in alike.values():
                likely = sorted(ways, key=lambda way: way.cost)[:MOST_FIGURES]
                several = [more for way in likely for more in self.several(way)]
                self.put_together(goal, likely, [*likely, *several])

    def several(self, way: Way) -> Iterator[Way]:
        """A figure so many times, by each small whole number of the text that is not in it."""
        formula = way.solved.formula
        count = Letter("n", "how many", kinds_of("1"), "1", frozenset())
        for each in self.given:
            if each.unit or each.sort or each.mask & way.mask or not each.mask or each.value not in range(2, 21):
                continue
            if "n" in formula.letters:
                return
            tree = Product((Name("n"), way.solved.tree), ("*",))
            equation = Relation((Name(way.solved.unknown), tree), ("=",))
            title = f"So many times {formula.title[0].lower()}{formula.title[1:]}"
            more = replace(formula, title=title, letters={**formula.letters, "n": count}, equations=(equation,))
            self.speaks[id(more)] = self.speaks[id(formula)]
            solved = Solved(more, way.solved.unknown, tree, True)
            chosen = dict(zip(way.solved.names, way.chosen)) | {"n": (each, each.value, each.tree, 0.0)}
            yield Way(
                solved,
                [more.letters[name] for name in solved.names],
                [chosen[name] for name in solved.names],
                way.mask | each.mask,
                way.cost + each.cost,
                way.value * each.value,
            )

    def put_together(self, goal: Target, ways: list[Way], others: list[Way]) -> None:
        """Weigh each two whose sum or difference is the answer and uses every number."""
        target = goal.target * goal.scale
        loose = goal.loose * goal.scale + 1e-12 * abs(target)
        taken = bool(TAKEN_AWAY & self.said)
        added = bool(ADDED & self.said)
        for k, one in enumerate(ways):
            self.steps += len(others) // PAIRS_A_STEP
            if self.steps > STEPS or monotonic() > self.deadline:
                return
            for j, other in enumerate(others):
                if self.varying & ~(one.mask | other.mask) or one.mask == other.mask:
                    continue
                shared = (one.mask & other.mask & self.everything).bit_count()
                if shared > 2:
                    continue
                price = max(0.0, one.cost) + max(0.0, other.cost) + SECOND / 2 + TWICE / 2 * shared
                if k < j and abs(one.value + other.value - target) <= loose:
                    self.weigh_both(one, other, 1, price + (0.0 if added else 1.5 if taken else 1.0))
                if abs(one.value - other.value - target) <= loose:
                    self.weigh_both(one, other, -1, price + (0.0 if taken else 1.5))

    def weigh_both(self, one: Way, other: Way, sign: int, cost: float) -> None:
        """Keep two figures as one formula."""
        first, second = one.solved.formula, other.solved.formula
        names = {name: name if name not in first.letters else f"{name}_2" for name in other.solved.names}
        part = substitute(other.solved.tree, {name: Name(new) for name, new in names.items()})
        tree = Sum((one.solved.tree, Neg(part) if sign < 0 else part))
        title = f"{first.title} {'less' if sign < 0 else 'and'} {second.title[0].lower()}{second.title[1:]}"
        equation = Relation((Name(one.solved.unknown), tree), ("=",))
        letters = {**first.letters, **{new: replace(second.letters[name], name=new) for name, new in names.items()}}
        formula = Formula(first.topic, first.subject, title, line(equation), first.words, letters, (equation,))
        chosen = dict(zip([*one.solved.names, *names.values()], [*one.chosen, *other.chosen]))
        solved = Solved(formula, one.solved.unknown, tree, True)
        self.speaks[id(formula)] = min(self.speaks[id(first)], self.speaks[id(second)])
        described = [letters[name] for name in solved.names]
        self.weigh(solved, described, [chosen[name] for name in solved.names], one.mask | other.mask, {}, cost)


@dataclass(frozen=True, slots=True)
class Way:
    """One way to give numbers to the letters of a formula, with its value in coherent units."""

    solved: Solved
    letters: list[Letter]
    chosen: Sequence[Choice]
    mask: int
    cost: float
    value: float


@dataclass
class Assignment:
    """The ways to give numbers to the letters of one formula."""

    matching: Matching
    solved: Solved
    letters: list[Letter]
    choices: list[list[Choice]]
    order: list[int]
    price: float
    # whether one letter at least has to take what was worked out
    needs_worked: bool
    most: int = 1_000_000
    gathered: list[tuple[list[Choice], int, float]] = field(default_factory=list)
    gathers: bool = False

    def run(self) -> None:
        """Weigh every way."""
        self.assign(0, [None] * len(self.letters), 0, {}, self.price, self.needs_worked)

    def all(self) -> list[tuple[list[Choice], int, float]]:
        """The first ways, with the numbers that each uses and what it costs."""
        self.gathers = True
        self.run()
        return self.gathered

    def assign(
        self, at: int, picked: list[Choice | None], mask: int, bound: dict[str, object], cost: float, needed: bool,
        again: bool = False,
    ) -> None:  # fmt: skip
        matching = self.matching
        if matching.steps > STEPS or len(self.gathered) >= self.most:
            return
        matching.steps += 1
        if matching.steps % 512 == 0 and monotonic() > matching.deadline:
            matching.steps = STEPS + 1
        if at == len(self.order):
            chosen = [each for each in picked if each is not None]
            if self.gathers:
                self.gathered.append((chosen, mask, cost))
            elif not needed:
                matching.weigh(self.solved, self.letters, chosen, mask, bound, cost)
            return
        place = self.order[at]
        # what no kind settles is settled by the first number that stands for it
        free = next((kind.name for kind in self.letters[place].kinds if kind.way == "any"), "")
        for choice in self.choices[place]:
            each, twice = choice[0], bool(choice[0].mask & mask)
            # two ships of so many tonnes each
            if twice and (again or not may_stand_twice(each, picked, mask)):
                continue
            if needed and not each.worked and at == len(self.order) - 1:
                continue
            fresh = bound
            if free:
                sort = sort_key(each)
                if bound.get(free, sort) != sort:
                    continue
                fresh = {**bound, free: sort}
            picked[place] = choice
            price = cost + choice[3]
            if twice:
                price += TWICE if any(word in EACH for word, _ in each.context) else 2 * TWICE
            self.assign(
                at + 1, picked, mask | each.mask, fresh, price, needed and not each.worked, again or twice
            )  # fmt: skip
        picked[place] = None


def may_stand_twice(each: Given, picked: Sequence[Choice | None], mask: int) -> bool:
    """Whether a number may stand for two letters: said of each, or once on the way to what was worked out."""
    if not each.worked and each.mask.bit_count() == 1 and any(word in EACH for word, _ in each.context):
        return True
    shared = each.mask & mask
    worked = each.mask if each.worked else 0
    for choice in picked:
        worked |= choice[0].mask if choice is not None and choice[0].worked else 0
    return shared.bit_count() == 1 and not shared & ~worked


# sorts of numbers


@dataclass(frozen=True, slots=True)
class Target:
    """One way to take the printed answer: its number, and what a coherent value is divided by to give it."""

    target: float
    loose: float
    unit: Unit | None
    sort: object
    scale: float = 1.0
    shift: float = 0.0
    cost: float = 0.0
    way: str = "plain"

    def raw_scale(self, kind: Kind) -> float:
        if kind.way == "raw" and kind.unit is not None and self.unit is not None:
            return float(self.unit.factor / kind.unit.factor)
        return 1.0


def goals(goal: Goal, no_units: bool) -> Iterator[Target]:
    """The ways in which an answer can be taken."""
    value = approximate(goal.value)
    loose = min(goal.loose, 0.04 * abs(value)) if value else goal.loose
    sort = sort_of(goal.unit)
    if sort in {"percent", "angle"}:
        yield Target(value, loose, None, sort, way=sort)
        return
    if sort == "celsius":
        yield Target(value, loose, None, "celsius", way="difference")
        yield Target(value, loose, None, "celsius", shift=273.0, way="absolute")
        return
    unit = unit_of(goal.unit)
    if unit is not None and unit.dimension:
        if unit.dimension == TEMPERATURE:
            yield Target(value, loose, unit, unit.dimension, way="absolute")
            yield Target(value, loose, unit, unit.dimension, way="difference")
        yield Target(value, loose, unit, unit.dimension, float(unit.factor), way="unit")
        return
    yield Target(value, loose, None, (), way="plain")
    if goal.calendar:
        yield Target(value, loose, read_unit("s"), TIME, float(CALENDAR[goal.calendar]), way="unit")
    if no_units:
        yield Target(value, loose, None, (), cost=0.3, way="bare")


def fits(goal: Target, kind: Kind) -> bool:
    """Whether a letter of a kind can be the answer."""
    if kind.way == "any":
        return goal.way != "bare"
    if kind.way == "counted":
        return goal.way == "plain"
    same = kind.unit is not None and goal.unit is not None and goal.unit.dimension == kind.unit.dimension
    if kind.way == "raw":
        return same
    if goal.way == "bare":
        return kind.way in {"unit", "angle"}
    return goal.way == "unit" and same if kind.way == "unit" else kind.way == goal.way


def sort_of(unit: str) -> str:
    if unit in {"%", "percent", "per cent"}:
        return "percent"
    if unit in {"°", "deg"}:
        return "angle"
    return "celsius" if unit in {"°C", "℃", "degC"} else ""


def sort_key(each: Given) -> object:
    """What numbers have to share to stand for letters of one kind."""
    return each.sort or (each.unit.dimension if each.unit is not None else ())


def taken_as(each: Given, kind: Kind, no_units: bool) -> tuple[float, Node, float] | None:
    """(value, tree, cost) of a number in the terms of a kind; None where it is none of that kind."""
    unit, sort = each.unit, each.sort
    as_it_is = each.value, each.tree, 0.0
    kelvin = unit is not None and not sort and unit.dimension == TEMPERATURE
    match kind.way:
        case "any":
            factor = 1.0 if unit is None or sort else float(unit.factor)
            return coherent(each, factor)
        case "percent":
            return as_it_is if sort == "percent" else None
        case "angle":
            if sort == "angle":
                return as_it_is
            return (each.value, each.tree, 0.6) if each.bare and no_units else None
        case "counted":
            return (each.value, each.tree, 0.1 if each.bare else 0.3) if not sort and not each.worked else None
        case "plain":
            if sort:
                return None
            if unit is None or not unit.dimension:
                return as_it_is
            # so many hours at so many crowns an hour
            return (each.value, each.tree, 0.35) if unit.dimension == TIME and not each.worked else None
        case "difference":
            return as_it_is if sort == "celsius" or kelvin else None
        case "absolute":
            if sort == "celsius":
                return each.value + 273, Sum((each.tree, Number(Fraction(273)))), 0.0
            return as_it_is if kelvin else None
    return taken_as_quantity(each, kind, no_units)


def taken_as_quantity(each: Given, kind: Kind, no_units: bool) -> tuple[float, Node, float] | None:
    """``taken_as`` for kinds with a unit."""
    unit, sort = each.unit, each.sort
    assert kind.unit is not None
    if unit is not None and not sort and unit.dimension == kind.unit.dimension:
        return coherent(each, float(unit.factor / kind.unit.factor) if kind.way == "raw" else float(unit.factor))
    if kind.way == "raw":
        return (each.value, each.tree, 0.4) if each.bare and not sort else None
    if each.calendar and kind.unit.dimension == TIME:
        return coherent(each, float(CALENDAR[each.calendar]))
    return (each.value, each.tree, 0.5) if each.bare and no_units and unit is None and not sort else None


def coherent(each: Given, factor: float) -> tuple[float, Node, float]:
    """A number in coherent units; what was worked out is in them already."""
    if each.worked:
        return each.value, each.tree, 0.0
    return each.value * factor, scaled_tree(each.tree, factor), 0.0


def is_whole_anyway(solved: Solved, chosen: Sequence[Choice]) -> bool:
    """Whether what is rounded up or down comes out whole: then nobody would write the rounding."""
    assert isinstance(solved.tree, Call)
    inner = solved.tree.arguments[0]
    value = quick_function(inner, solved.names)([each[1] for each in chosen])
    return value is not None and abs(value - round(value)) < 1e-9


def as_taken(moved: float, raw: float, value: float) -> float:
    """What another number would have been taken as: in kelvin where this one was, else by the same factor."""
    if abs(value - raw - 273) < 1e-9:
        return moved + 273
    return moved * (value / raw) if raw else moved


@cache
def constant_factor(unit: str) -> float:
    return float(read_unit(unit).factor)


def constant_choice(name: str, place: int = 0) -> Choice:
    """A constant of the book as it stands for its letter, with one of the values that tables give it."""
    constant = book().constants[name]
    factor = constant_factor(constant.unit)
    tree, number = constant_value(constant.values[place])
    value = float(number)
    return Given(tree, value, None, "", 0), value * factor, scaled_tree(tree, factor), 0.25 + 0.12 * place


def is_near(value: float, name: str) -> bool:
    """Whether a number of the text can be what a constant is called for: within a few per cent."""
    constant = book().constants[name]
    factor = constant_factor(constant.unit)
    return any(abs(value / (float(constant_value(text)[1]) * factor) - 1) < 0.05 for text in constant.values)


# trees


def written(
    solved: Solved, letters: Sequence[Letter], chosen: Sequence[Choice], scale: float, shift: float = 0.0
) -> Node:
    """A formula in the names of the numbers that stand for its letters, less ``shift`` and over ``scale``.

    Where the units only bring a factor, it stands once, behind the formula; elsewhere each number is converted.
    """
    raw = [each[0].value for each in chosen]
    values = [each[1] for each in chosen]
    first, full = solved.function(raw), solved.function(values)
    if first and full is not None and not shift:
        factor = full / scale / first
        stays = raw == values or all(stays_a_factor(solved, raw, values, scale, factor, by) for by in (1.07, 0.91))
        if stays and in_few_figures(factor):
            plain = {letter.name: each[0].tree for letter, each in zip(letters, chosen)}
            return scaled_tree(substitute(solved.tree, plain), factor)
    tree = substitute(solved.tree, {letter.name: each[2] for letter, each in zip(letters, chosen)})
    return scaled_tree(Sum((tree, negative(shift))) if shift else tree, 1 / scale)


def stays_a_factor(
    solved: Solved, raw: list[float], values: list[float], scale: float, factor: float, by: float
) -> bool:
    """Whether other numbers differ by the same factor when their units are left out."""
    moved_raw = [number * (by + 0.013 * k) for k, number in enumerate(raw)]
    moved = [as_taken(number, before, after) for number, before, after in zip(moved_raw, raw, values)]
    one, other = solved.function(moved_raw), solved.function(moved)
    if not one or not factor or other is None:
        return False
    return abs(other / scale / one / factor - 1) < 1e-9


def scaled_tree(tree: Node, factor: float) -> Node:
    """A tree times a factor, written as a school writes it: ``/1000``, ``*3.6``."""
    if abs(factor - 1) < 1e-12:
        return tree
    times, over = as_number(factor), as_number(1 / factor)
    if times is not None and (over is None or factor > 1):
        return multiplied(tree, times)
    if over is not None:
        return Quotient(tree, over)
    near, power = in_few_figures(factor) or (Fraction(factor).limit_denominator(100_000), 0)
    above, below = near.numerator * 10 ** max(0, power), near.denominator * 10 ** max(0, -power)
    return Quotient(multiplied(tree, whole_number(above)), whole_number(below))


def multiplied(tree: Node, factor: Node) -> Node:
    """A product with one factor more."""
    if isinstance(tree, Product):
        return Product((*tree.factors, factor), (*tree.signs, "*"))
    return Product((tree, factor), ("*",))


def in_few_figures(factor: float) -> tuple[Fraction, int] | None:
    """A factor as a short fraction times a power of ten; None for one that is none, such as a root."""
    power = math.floor(math.log10(abs(factor)))
    near = Fraction(factor / 10.0**power).limit_denominator(1000)
    return (near, power) if abs(factor / 10.0**power / float(near) - 1) < 1e-11 else None


def whole_number(value: int) -> Node:
    return as_number(value) or Number(Fraction(value))


def as_number(factor: float) -> Node | None:
    """A factor in figures, where it has few: 3.6, 1000, 10^6."""
    power, size = Fraction(1), 0
    while factor / float(power) >= 99_999.5:
        power *= 10
        size += 1
    near = Fraction(factor / float(power)).limit_denominator(1000)
    if not near or abs(factor / float(power) / float(near) - 1) > 1e-11:
        return None
    whole = near * power
    if size and whole.denominator == 1:
        zeros = len(str(whole.numerator)) - len(str(whole.numerator).rstrip("0"))
        head = whole / Fraction(10) ** zeros
        ten = Power(Number(Fraction(10)), Number(Fraction(zeros)))
        return ten if head == 1 else Product((literal(head), ten), ("*",))
    shown = literal(whole)
    return shown if isinstance(shown, Number) else None


def negative(shift: float) -> Node:
    return Neg(Number(Fraction(shift).limit_denominator(100)))


ASKING = re.compile(r"(?:Find|Work out|Calculate|Determine|Give|What|How|By|In|After|From|At)\b")


def question_of(text: str) -> str:
    """The sentence that asks: the last with a question mark, or the last that begins with what is to be done."""
    sentences = [piece for piece in re.split(r"(?<=[.?!])\s+", text.strip()) if piece]
    asking = [piece for piece in sentences if piece.endswith("?") or ASKING.match(piece)]
    return asking[-1] if asking else (sentences[-1] if sentences else "")
