"""Deciding whether an answer equals a key: proved, refuted with a witness, or agreeing where tried."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import chain, islice

from flint import arb, ctx, fmpq

from ..budget import charge
from ..notation import (
    Call,
    Constant,
    Logic,
    Neg,
    Node,
    Number,
    Quotient,
    Relation,
    Sum,
    literal,
    names_in,
    rebuild,
    shared,
    substitute,
    walk,
)
from ..notation import line as written
from .algebraic import same_number
from .balls import DECISIONS, Undefined, ball
from .canonical import Difference, NoCanonicalForm, canonical_difference
from .complexes import complex_value
from .errors import EvaluationError, Irrational
from .evaluation import Condition
from .kronecker import differing_values, identical
from .rationals import NotRational, Ratio, RationalReader, TooComplex, equal_powers
from .regions import Point
from .steps import OutOfSteps
from .trials import SIZES, SPARE_BITS, Chance, height, small_points, trials
from .values import to_fraction
from .waves import same_wave

POINTS_WANTED, POINTS_TRIED = 12, 80
# Points of a complex comparison.
COMPLEX_POINTS = 16
NEARBY = fmpq(1, 997)
# How many simple points are looked through for one that shows a difference.
WITNESSES = 16
# The working precision at breaks, how close to zero what vanishes there comes, and how close two values are that may be
# one: breaks are known to some 190 binary digits.
BREAK_BITS, BREAK_NEAR, BREAK_CLOSE = 320, arb(2) ** -100, arb(2) ** -80
JUMPING = frozenset(["if", "sgn", "floor", "ceil", "round", "mod"])
# Binary digits beyond the height that an agreement has to show.
SURE_BITS = 40
# What comparing two formulas takes at least, in steps.
STEPS_OF_COMPARING = 50
ONE = Number(Fraction(1))
# The longest denominator of a break that was looked for with floats and is taken to be a fraction.
SHORT = 720
# From here on a denominator is too long to be read.
LONG = 10_000


@dataclass(frozen=True, slots=True)
class Certainty:
    """How sure a comparison is.

    ``kind`` is ``proved``, ``refuted`` or ``agrees``, or ``undecided`` where a person has to look. A refutation carries
    its witness: a value for each letter, and what the two sides are there (``None`` for a side that has no value).
    ``points`` counts the points at which two formulas agreed.
    """

    kind: str
    points: int = 0
    witness: tuple[tuple[str, Fraction], ...] = ()
    key_value: str | None = None
    response_value: str | None = None

    @property
    def shown_witness(self) -> list[tuple[str, str]]:
        """The witness for people: short fractions as they are, others as decimals near them."""
        return [
            (name, str(value) if value.denominator < LONG else f"≈ {float(value):.6g}") for name, value in self.witness
        ]

    @property
    def holds(self) -> bool:
        return self.kind in {"proved", "agrees"}


PROVED = Certainty("proved")


@dataclass(frozen=True, slots=True)
class Comparison:
    """What is to be compared, and where."""

    key: Node
    response: Node
    # relations that the letters satisfy
    where: tuple[Node, ...] = ()
    angle: str = "radians"

    @property
    def pinned(self) -> bool:
        """Whether an equation holds between the letters, so that different formulas may be equal where it does."""
        return any("=" in node.signs for tree in self.where for node in walk(tree) if isinstance(node, Relation))


def equivalent(key: Node, response: Node, where: Sequence[Node] = (), angle: str = "radians") -> Certainty:
    """Whether ``response`` equals ``key`` wherever the key is defined over the reals, within ``where``.

    Isolated points at which only the response is undefined do not matter. Raises ``OutOfSteps`` where that takes
    more work than is allowed.

    >>> from vorlage.core.notation import read
    >>> equivalent(read("x + 1"), read("(x^2 - 1)/(x - 1)")).kind
    'proved'
    >>> equivalent(read("ln(x^2)"), read("2 ln x")).kind
    'refuted'
    """
    charge(STEPS_OF_COMPARING)
    same = identical(key, response)
    if same or key == response:
        return PROVED
    comparison = Comparison(key, response, tuple(where), angle)
    foreign = False
    if same is None:
        constants, foreign = strangers(key, response)
        if "i" in constants:
            return compared_as_complex(comparison)
    names = sorted(names_in(key) | names_in(response))
    too_high = False
    if same is None and not foreign:
        try:
            first, second = rational_pair(key, response, names)
            same = first.equals(second)
        except NotRational:
            pass
        except (TooComplex, EvaluationError):
            too_high = True
    if same:
        return PROVED
    if same is False and not comparison.pinned:
        return by_hand(comparison, names) or different(comparison, names)
    # most wrong answers are wrong at the first point that is tried
    met = compared_at_once(comparison, names)
    if isinstance(met, Certainty):
        return met
    same = (too_high and equal_powers(key, response, names)) or same_wave(key, response, angle)
    if same is False and not comparison.pinned:
        return different(comparison, names)
    if same is None:
        found = canonical_equality(comparison)
        if found is not None and (not found.domain_contained or single_values_open(key, response)):
            return sampled(comparison, names, equal=True)
        same = found is not None
    if not same and not names:
        same = same_number(key, response, angle)
        if same is False:
            return different(comparison, names)
    # a quotient of what is nothing by itself, which no form shows, has no value anywhere
    return PROVED if same and met else sampled(comparison, names, bool(same))


def has_jumps(*trees: Node) -> bool:
    """Whether anything in formulas jumps from one value to another."""
    return any(isinstance(node, Call) and node.function in JUMPING for tree in trees for node in walk(tree))


def single_values_open(key: Node, response: Node) -> bool:
    """Whether values at single places are not settled by canonical forms: a sign there is |u|/u, and a rounded number
    the whole number below u + 1/2."""
    found = [{node.function for node in walk(tree) if isinstance(node, Call)} for tree in (key, response)]
    return any("sgn" in each for each in found) or ("round" in found[0]) != ("round" in found[1])


def strangers(*trees: Node) -> tuple[set[str], bool]:
    """The constants that stand in formulas, and whether they are no rational functions for a reason seen at once."""
    constants: set[str] = set()
    foreign = False
    for tree in trees:
        for node in walk(tree):
            kind = type(node)
            if kind is Constant:
                constants.add(node.name)  # type: ignore[attr-defined]
            elif kind is Call:
                foreign = True
    return constants, foreign or bool(constants)


def equal_as_complex(key: Node, response: Node) -> Certainty:
    """Whether two formulas have the same values among the complex numbers."""
    same = identical(key, response)
    return PROVED if same or key == response else compared_as_complex(Comparison(key, response))


def compared_as_complex(comparison: Comparison) -> Certainty:
    """Formulas with the imaginary unit: proved when they are rational, compared at real points otherwise."""
    plain = all(not isinstance(node, Call) for tree in (comparison.key, comparison.response) for node in walk(tree))
    found = difference(comparison) if plain else None
    if found is not None and found.vanishes():
        return PROVED
    names = sorted(names_in(comparison.key) | names_in(comparison.response))
    chance = Chance(f"{written(comparison.key)}\n{written(comparison.response)}")
    bits = 2 * height(comparison.key, comparison.response) + 2 * SPARE_BITS
    agreed = 0
    for k in range(COMPLEX_POINTS if names else 1):
        size = SIZES[k % 3]
        point = {name: size * (chance.unit() + fmpq(1, 2)) * (1 - 2 * chance.whole(2)) for name in names}
        try:
            wanted = complex_value(comparison.key, point, bits)
        except EvaluationError:
            continue
        try:
            given = complex_value(comparison.response, point, bits)
        except EvaluationError:
            return Certainty("refuted", 0, fractions(point))
        if not wanted.overlaps(given):
            return Certainty("refuted", 0, fractions(point))
        agreed += 1
    return Certainty("agrees", agreed) if agreed else Certainty("refuted")


def fractions(point: Point) -> tuple[tuple[str, Fraction], ...]:
    return tuple((name, to_fraction(value)) for name, value in point.items())


def by_hand(comparison: Comparison, names: list[str]) -> Certainty | None:
    """A refutation at a point of small whole numbers, where there is nothing else to be minded."""
    if comparison.where:
        return None
    for whole in ((2, 3, 5, 7), (3, 1, 2, 5), (1, 2, 4, 3)):
        if len(names) > len(whole):
            return None
        point = dict(zip(names, whole))
        found = differing_values(comparison.key, comparison.response, point)
        if found is not None:
            witness = tuple((name, Fraction(value)) for name, value in point.items())
            return Certainty("refuted", 0, witness, *(short_fraction(*value) for value in found))
    return None


def short_fraction(top: int, bottom: int) -> str:
    """A fraction for people: as it is when it is short, else a decimal."""
    if max(top.bit_length(), bottom.bit_length()) <= 200:
        return str(Fraction(top, bottom))
    return shown(arb(fmpq(top, bottom)))


def rational_pair(key: Node, response: Node, names: list[str]) -> tuple[Ratio, Ratio]:
    reader = RationalReader(names)
    return reader.of(key), reader.of(response)


def difference(comparison: Comparison) -> Difference | None:
    try:
        return canonical_difference(
            comparison.key, comparison.response, not_negative(comparison.where), comparison.angle
        )
    except (NoCanonicalForm, TooComplex, EvaluationError):
        return None


def canonical_equality(comparison: Comparison) -> Difference | None:
    """The difference by canonical forms when it is zero wherever both sides are defined."""
    found = difference(comparison)
    try:
        return found if found is not None and found.vanishes() else None
    except (TooComplex, EvaluationError):
        return None


def not_negative(where: Sequence[Node]) -> list[Node]:
    """Formulas that the relations in ``where`` make positive or zero."""
    found: list[Node] = []
    for relation in where:
        if isinstance(relation, Relation):
            for sign, low, high in zip(relation.signs, relation.terms, relation.terms[1:]):
                if sign in {"<", "≤"}:
                    found.append(Sum((high, Neg(low))))
                elif sign in {">", "≥"}:
                    found.append(Sum((low, Neg(high))))
    return found


def compared_at_once(comparison: Comparison, names: list[str]) -> Certainty | bool:
    """A refutation at the first small point where both sides have a value; else whether there was such a point, or one
    at which they are only too large to be worked out."""
    conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
    beyond = False
    for point in small_points(names, 8):
        if not admitted(conditions, point):
            continue
        try:
            wanted = ball(comparison.key, point, 64, comparison.angle)
            given = ball(comparison.response, point, 64, comparison.angle)
        except EvaluationError as problem:
            beyond = beyond or problem.code == "too_large"
            continue
        return True if wanted.overlaps(given) else refuted(point, wanted, given)
    return beyond


def sampled(comparison: Comparison, names: list[str], equal: bool = False) -> Certainty:
    """Compare in every piece of the key's domain; a point where the two surely differ, or where only the answer has no
    value, refutes. ``equal`` says that they are known to be equal where both are defined: then only domains are in
    question, and where their breaks are known exactly this is a proof."""
    tried = Trial(comparison)
    found = trials((comparison.key, comparison.response, *comparison.where), names, comparison.angle)
    agreed = 0
    inside: list[Point] = []
    for piece in found.pieces:
        defined = decided = 0
        for point in piece:
            outcome = tried.at(point)
            if isinstance(outcome, Certainty):
                try:
                    return simplest(tried, names, outcome)
                except OutOfSteps:
                    # it is refuted all the same
                    return outcome
            defined += outcome is not None
            decided += outcome is True
        if defined and not decided:
            return Certainty("refuted")
        agreed += decided
        if defined:
            inside.append(piece[0])
    # what has no jumps is continuous: where both have a value at a break, it is that of the pieces beside it
    if has_jumps(comparison.key, comparison.response):
        fractions_near = ({names[0]: short(spot[names[0]])} for spot in found.spots if len(names) == 1)
        for spot in chain(found.spots, fractions_near):
            differing = at_break(tried, spot)
            if differing is not None:
                return differing
    if agreed:
        sure = found.exact and (equal or all(equal_in_piece(comparison, point) for point in inside))
        return PROVED if sure else Certainty("agrees", agreed)
    return at_small_points(tried, names)


def short(value: fmpq) -> fmpq:
    """A break that was looked for with floats as the short fraction that it may be."""
    return fmpq(*to_fraction(value).limit_denominator(SHORT).as_integer_ratio())


def at_break(tried: Trial, spot: Point) -> Certainty | None:
    """The refutation at a break, where both sides have values that surely are not the same; None where there is none.
    A hole of the answer is forgiven, another value is not."""
    if not tried.admits(spot):
        return None
    try:
        wanted, given = tried.value(tried.key, spot), tried.value(tried.response, spot)
        if not wanted.overlaps(given):
            return refuted(spot, wanted, given)
    except EvaluationError:
        pass
    try:
        wanted, given = (
            ball(snapped(tree, spot, tried.angle), spot, BREAK_BITS, tried.angle)
            for tree in (tried.key, tried.response)
        )
    except EvaluationError:
        return None
    apart = abs(wanted - given) > BREAK_CLOSE * (1 + abs(wanted.mid()))
    return refuted(spot, wanted, given) if apart else None


def snapped(tree: Node, spot: Point, angle: str) -> Node:
    """The formula with its jumps decided at a break that is known to many digits: what all but vanishes there vanishes,
    what all but is a whole number is one."""
    if isinstance(tree, Call):
        name, arguments = tree.function, tree.arguments
        if name == "if":
            return snapped(arguments[1 if met(arguments[0], spot, angle) else 2], spot, angle)
        inner = tuple(snapped(argument, spot, angle) for argument in arguments)
        if name in {"sgn", "floor", "ceil", "round", "sqrt", "abs"} and len(inner) == 1:
            value = ball(inner[0], spot, BREAK_BITS, angle)
            # halves are where rounding jumps
            near = Fraction(int((value * 2 + fmpq(1, 2)).mid().floor().unique_fmpz() or 0), 2)
            if abs(value - arb(fmpq(near.numerator, near.denominator))) < BREAK_NEAR:
                return Call(name, (literal(near),))
        if name == "mod":
            times = ball(Quotient(*inner), spot, BREAK_BITS, angle)
            if abs(times - (times + fmpq(1, 2)).mid().floor()) < BREAK_NEAR:
                return Number(Fraction(0))
        return Call(name, inner)
    return rebuild(tree, lambda inner: snapped(inner, spot, angle))


def met(condition: Node, spot: Point, angle: str) -> bool:
    """Whether a condition holds at a break that is known to many digits."""
    if isinstance(condition, Logic):
        results = [met(term, spot, angle) for term in condition.terms]
        return any(results) if condition.word == "or" else all(results)
    if not isinstance(condition, Relation):
        raise EvaluationError("no_relation", "A condition compares two things, such as a < b.")
    values = [ball(snapped(term, spot, angle), spot, BREAK_BITS, angle) for term in condition.terms]
    results = []
    for sign, left, right in zip(condition.signs, values, values[1:]):
        same = bool(abs(left - right) < BREAK_NEAR)
        results.append(sign in {"=", "≤", "≥"} if same else bool(DECISIONS[sign][0](left, right)))
    return all(results)


def equal_in_piece(comparison: Comparison, point: Point) -> bool:
    """Whether two formulas are one in the piece of a point, between breaks that are all known: there every bar, every
    case and every choice of the larger is the one that it is at the point."""
    try:
        key, response = (opened(tree, point, comparison.angle) for tree in (comparison.key, comparison.response))
    except EvaluationError:
        return False
    if key == comparison.key and response == comparison.response:
        return False
    try:
        first, second = rational_pair(key, response, sorted(names_in(key) | names_in(response)))
        return first.equals(second)
    except (NotRational, EvaluationError):
        return canonical_equality(replace(comparison, key=key, response=response)) is not None


def opened(tree: Node, point: Point, angle: str) -> Node:
    """The formula with its bars, signs, cases and choices decided as they are at a point."""
    if isinstance(tree, Call):
        name, arguments = tree.function, tree.arguments
        if name == "if":
            return opened(arguments[1 if Condition(arguments[0], angle).holds(point) else 2], point, angle)
        if name in {"abs", "sgn"}:
            inner = opened(arguments[0], point, angle)
            negative = ball(arguments[0], point, 256, angle) < 0
            if name == "sgn":
                return Neg(ONE) if negative else ONE
            return Neg(inner) if negative else inner
        if name in {"min", "max"} and len(arguments) > 1:
            values = [(ball(argument, point, 256, angle), argument) for argument in arguments]
            best = values[0]
            for each in values[1:]:
                if (each[0] < best[0]) == (name == "min"):
                    best = each
            return opened(best[1], point, angle)
    return rebuild(tree, lambda inner: opened(inner, point, angle))


def has_values(tree: Node, where: Sequence[Node] = (), angle: str = "radians") -> bool:
    """Whether a formula has a value somewhere within ``where``, as far as trying shows."""
    names = sorted(names_in(tree))
    conditions = [Condition(relation, angle) for relation in where]

    def somewhere(points: Iterable[Point]) -> bool:
        for point in points:
            if not admitted(conditions, point):
                continue
            try:
                ball(tree, point, 128, angle)
            except EvaluationError:
                continue
            return True
        return False

    return somewhere(small_points(names, 24)) or somewhere(chain(*trials((tree, *where), names, angle).pieces))


def at_small_points(tried: Trial, names: list[str]) -> Certainty:
    """For a key without values at generic points, or relations that hold on a line only. Nothing that could be tried
    speaks for the answer when there are none: it is not accepted on trust."""
    agreed = 0
    for point in small_points(names, POINTS_TRIED):
        outcome = tried.at(point, generic=False)
        if isinstance(outcome, Certainty):
            return outcome
        agreed += outcome is True
        if agreed == POINTS_WANTED:
            break
    return Certainty("agrees", agreed) if agreed else Certainty("refuted")


class Trial:
    """Two formulas, compared at one point after the other."""

    def __init__(self, comparison: Comparison) -> None:
        self.angle = comparison.angle
        self.conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
        self.key, self.response = shared(comparison.key, comparison.response)
        self.height = height(comparison.key, comparison.response)
        self.bits = 2 * self.height + SPARE_BITS

    def admits(self, point: Point) -> bool:
        return admitted(self.conditions, point)

    def value(self, tree: Node, point: Point) -> arb:
        """The value at the precision of this comparison; ``Undefined`` where there is none that it can tell."""
        try:
            return ball(tree, point, self.bits, self.angle)
        except Undefined:
            return ball(tree, point, 4 * self.bits, self.angle)

    def at(self, point: Point, generic: bool = True) -> Certainty | bool | None:
        """A refutation; whether they surely agree here; None when the key has no value here. At a point that is not
        generic the answer may have a hole."""
        if not self.admits(point):
            return None
        try:
            wanted = self.value(self.key, point)
        except EvaluationError:
            return None
        try:
            given = self.value(self.response, point)
        except EvaluationError:
            hole = not generic and isolated(self, point)
            return None if hole else refuted(point, wanted, None)
        if not wanted.overlaps(given):
            return refuted(point, wanted, given)
        if self.close(wanted, given):
            return True
        for more in (4, 16):
            try:
                wanted, given = (ball(tree, point, more * self.bits, self.angle) for tree in (self.key, self.response))
            except EvaluationError:
                return False
            if not wanted.overlaps(given):
                return refuted(point, wanted, given)
            if self.close(wanted, given):
                return True
        return False

    def close(self, wanted: arb, given: arb) -> bool:
        """Whether two enclosures are narrow enough for their overlap to speak for equality."""
        with ctx.workprec(64):
            size = abs(wanted.mid()) + abs(given.mid())
            width = wanted.rad() + given.rad()
            narrow = arb(2) ** -(self.height + SURE_BITS)
            return bool(width <= narrow * size) or bool(width <= narrow)


def admitted(conditions: list[Condition], point: Point) -> bool:
    try:
        return all(condition.holds(point) for condition in conditions)
    except (EvaluationError, Irrational):
        return False


def isolated(tried: Trial, point: Point) -> bool:
    """Whether the response has a value close by, where the key has one too."""
    if not point:
        return False
    for step in (NEARBY, -NEARBY):
        beside = {name: value + step * (2 * place + 1) for place, (name, value) in enumerate(point.items())}
        try:
            tried.value(tried.key, beside)
        except EvaluationError:
            continue
        try:
            tried.value(tried.response, beside)
        except EvaluationError:
            return False
    return True


def refuted(point: Point, wanted: arb, given: arb | None) -> Certainty:
    return Certainty("refuted", 0, fractions(point), shown(wanted), None if given is None else shown(given))


def simplest(tried: Trial, names: list[str], found: Certainty) -> Certainty:
    """The refutation at the simplest point that shows it: a small one, or the one that was found with fewer digits."""
    generic = {name: fmpq(value.numerator, value.denominator) for name, value in found.witness}
    rounded = ({name: rounded_places(value, places) for name, value in generic.items()} for places in range(5))
    for point in chain(islice(small_points(names), WITNESSES), rounded):
        if not point or not tried.admits(point):
            continue
        try:
            wanted = ball(tried.key, point, 64, tried.angle)
        except EvaluationError:
            continue
        try:
            given = ball(tried.response, point, 64, tried.angle)
        except EvaluationError:
            if found.response_value is None and not isolated(tried, point):
                return refuted(point, wanted, None)
            continue
        if not wanted.overlaps(given):
            return refuted(point, wanted, given)
    return found


def rounded_places(value: fmpq, places: int) -> fmpq:
    """The number cut to so many decimal places."""
    scale = fmpq(10) ** places
    return fmpq(int((value * scale).floor())) / scale


def different(comparison: Comparison, names: list[str]) -> Certainty:
    """The refutation of a formula that a complete method has found to be another: with a witness where one is found."""
    tried = Trial(comparison)
    for point in islice(small_points(names), WITNESSES):
        outcome = tried.at(point, generic=False)
        if isinstance(outcome, Certainty):
            return outcome
    found = trials((comparison.key, comparison.response, *comparison.where), names, comparison.angle)
    for point in chain(*found.pieces):
        outcome = tried.at(point)
        if isinstance(outcome, Certainty):
            return outcome
    return Certainty("refuted")


def shown(value: arb) -> str:
    """A short decimal for people; whole numbers as they are."""
    whole = value.unique_fmpz()
    if whole is not None and value.is_exact():
        return str(whole)
    return str(value.mid().str(6, radius=False))


def equal_up_to(comparison: Comparison, up_to: str) -> Certainty:
    """Equality up to an added ``constant``, a non-zero ``multiple``, or the ``sign``."""
    if up_to == "sign":
        straight = equivalent(comparison.key, comparison.response, comparison.where, comparison.angle)
        if straight.holds:
            return straight
        turned = equivalent(Neg(comparison.key), comparison.response, comparison.where, comparison.angle)
        return turned if turned.holds else straight
    letters = names_in(comparison.key)
    found = difference(comparison)
    if found is not None:
        try:
            if up_to == "multiple" and (found.left.top.is_zero() or found.right.top.is_zero()):
                both = found.left.top.is_zero() and found.right.top.is_zero()
                return PROVED if both else Certainty("refuted")
            if found.domain_contained and not found.depends_on(letters, up_to == "multiple"):
                return PROVED
        except (TooComplex, NoCanonicalForm, EvaluationError):
            pass
    return sampled_up_to(comparison, up_to)


def not_constant_at_once(comparison: Comparison, up_to: str) -> Certainty | None:
    """A refutation at the first two small points at which the differences (or the ratios) are apart, or None."""
    conditions = [Condition(relation, comparison.angle) for relation in comparison.where]
    constant: arb | None = None
    for point in small_points(sorted(names_in(comparison.key)), 6):
        if not admitted(conditions, point):
            continue
        try:
            wanted = ball(comparison.key, point, 64, comparison.angle)
            given = ball(comparison.response, point, 64, comparison.angle)
        except EvaluationError:
            continue
        if up_to == "multiple" and wanted.contains(0):
            continue
        with ctx.workprec(64):
            gap = given / wanted if up_to == "multiple" else given - wanted
        if constant is not None and not constant.overlaps(gap):
            return refuted(point, wanted, given)
        constant = gap
    return None


def sampled_up_to(comparison: Comparison, up_to: str) -> Certainty:
    """Whether the difference (or the ratio) is the same at every point; other letters are held still."""
    letters = sorted(names_in(comparison.key))
    others = sorted(names_in(comparison.response) - set(letters))
    chance = Chance(",".join(others))
    still = {name: chance.unit() + 1 for name in others}
    response = substitute(comparison.response, {name: literal(to_fraction(value)) for name, value in still.items()})
    comparison = replace(comparison, response=response)
    refutation = not_constant_at_once(comparison, up_to)
    if refutation is not None:
        return refutation
    tried = Trial(comparison)
    found = trials((comparison.key, response, *comparison.where), letters, comparison.angle)
    constant: arb | None = None
    agreed = 0
    for point in chain(*found.pieces):
        if not tried.admits(point):
            continue
        try:
            wanted = tried.value(tried.key, point)
        except EvaluationError:
            continue
        try:
            given = tried.value(tried.response, point)
        except EvaluationError:
            return refuted(point | still, wanted, None)
        if (up_to == "multiple" and wanted.contains(0)) or not tried.close(wanted, given):
            continue
        with ctx.workprec(tried.bits):
            gap = given / wanted if up_to == "multiple" else given - wanted
        constant = gap if constant is None else constant
        if not constant.overlaps(gap):
            return refuted(point | still, wanted, given)
        agreed += 1
    if constant is None or (up_to == "multiple" and constant.contains(0)):
        return Certainty("refuted")
    return Certainty("agrees", agreed)
