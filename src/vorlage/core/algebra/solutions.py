"""Whether two equations have the same solutions over the reals."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import chain, islice, pairwise

from flint import arb, ctx, fmpq, fmpz_mpoly

from ..notation import (
    Call,
    Constant,
    Logic,
    Name,
    Neg,
    Node,
    Number,
    PlusMinus,
    Power,
    Product,
    Quotient,
    Relation,
    Sum,
    literal,
    names_in,
    plain_value,
    rebuild,
    substitute,
    walk,
)
from ..notation import line as written
from .balls import Balls, ball
from .equivalence import Certainty, Comparison, admitted, equal_up_to, equivalent, fractions
from .errors import EvaluationError
from .evaluation import Condition
from .rationals import NotRational, RationalReader, univariate
from .realsets import described, same_set
from .regions import Point
from .roots import BITS, Root, fraction_of, holds, roots_of
from .trials import SPARE_BITS, Chance, height, small_points, trials
from .values import to_fraction

PROVED, REFUTED, UNDECIDED = Certainty("proved"), Certainty("refuted"), Certainty("undecided")
SMALL_POINTS = 8
# How many small values are given to the other letters of equations, and how many that nobody chose.
SLICES = 3
ZERO, ONE, TWO, TEN = (Number(Fraction(n)) for n in (0, 1, 2, 10))


@dataclass(frozen=True, slots=True)
class Branch:
    """One way to write a letter by the others, and the relations under which it is a solution."""

    value: Node
    conditions: tuple[Relation, ...] = ()


def equations_of(tree: Node) -> list[Relation] | None:
    """The equations of which one has to hold: ``x = 2 or x = -2`` and ``x = ±2`` are two. None for anything else."""
    if isinstance(tree, Logic) and tree.word == "or":
        parts = [equations_of(term) for term in tree.terms]
        return None if None in parts else [equation for part in parts for equation in part or ()]
    if not isinstance(tree, Relation) or tree.signs != ("=",):
        return None
    if not any(isinstance(node, PlusMinus) for node in walk(tree)):
        return [tree]
    both = [with_sign(tree, positive) for positive in (True, False)]
    return [equation for equation in both if isinstance(equation, Relation)]


def with_sign(tree: Node, positive: bool) -> Node:
    """The tree with every ± read as + or as −."""
    if isinstance(tree, PlusMinus):
        right = with_sign(tree.right, positive)
        signed = right if positive else Neg(right)
        return signed if tree.left is None else Sum((with_sign(tree.left, positive), signed))
    return rebuild(tree, lambda inner: with_sign(inner, positive))


def zero_side(equations: Sequence[Relation]) -> Node:
    """left − right, the product of them for several equations."""
    sides = tuple(Sum((equation.terms[0], Neg(equation.terms[1]))) for equation in equations)
    return sides[0] if len(sides) == 1 else Product(sides, ("*",) * (len(sides) - 1))


def same_solutions(key: Node, response: Node, where: tuple[Node, ...] = (), angle: str = "radians") -> Certainty:
    """Whether two equations, or two alternatives of equations, have the same solutions.

    Between rational functions the irreducible factors decide: multiplicities and factors that are never zero
    over the reals do not matter. Others are compared by a letter that both can be solved for, up to a factor, or by
    their solutions, each put into the other. The kind is ``undecided`` where neither a proof nor a solution that one
    side has alone is found.

    >>> from vorlage.core.notation import read
    >>> same_solutions(read("y = e^x"), read("ln y = x")).kind
    'proved'
    """
    wanted, given = equations_of(key), equations_of(response)
    if wanted is None or given is None:
        return REFUTED
    if wanted == given:
        return PROVED
    first, second = zero_side(wanted), zero_side(given)
    names = sorted(names_in(first) | names_in(second))
    reader = RationalReader(names)
    try:
        a, b = reader.of(first).reduced().top, reader.of(second).reduced().top
    except NotRational:
        found = by_a_letter(wanted, given, where, angle)
        if found is not None and (found.holds or found.witness):
            return found
        if len(names) == 1 and same_numbers(key, response, angle):
            return PROVED
        multiple = equal_up_to(Comparison(first, second, where, angle), "multiple")
        if multiple.kind == "proved":
            return PROVED
        agreeing = multiple if multiple.holds else None
        return by_solutions(wanted, given, where, angle) or agreeing or UNDECIDED
    except EvaluationError:
        return by_solutions(wanted, given, where, angle) or UNDECIDED
    if a.is_zero() or b.is_zero():
        return PROVED if a.is_zero() and b.is_zero() else REFUTED
    if real_factors(a) == real_factors(b):
        # what is cancelled had no value where it vanished: x (x - 3)/x = 0 has one solution
        divided = len(names) == 1 and any(map(divides, (*wanted, *given)))
        holes = by_solutions(wanted, given, where, angle) if divided else None
        return holes if holes is not None and holes.witness else PROVED
    found = (by_a_letter(wanted, given, where, angle) if where else None) or by_solutions(wanted, given, where, angle)
    # the zeros of a polynomial in one letter are all known
    return found or (REFUTED if len(names) == 1 else UNDECIDED)


def divides(tree: Node) -> bool:
    """Whether a formula divides by a letter."""
    return any(isinstance(node, Quotient) and names_in(node.denominator) for node in walk(tree))


def same_numbers(key: Node, response: Node, angle: str) -> bool:
    """Whether two statements in one letter describe the same numbers, by sets that are exactly known."""
    try:
        wanted, given = described(key, angle), described(response, angle)
    except EvaluationError:
        return False
    return wanted.exact and given.exact and same_set(wanted.numbers, given.numbers)


def by_solutions(
    wanted: list[Relation], given: list[Relation], where: tuple[Node, ...], angle: str
) -> Certainty | None:
    """The comparison by solutions: each one of either side is put into the other. A sure solution of one that surely is
    none of the other refutes; None where nothing can be said.

    With several letters all but one have values given to them, one after the other.
    """
    names = sorted(set.union(*({*names_in(equation)} for equation in (*wanted, *given))))
    chance = Chance("\n".join(written(equation) for equation in (*wanted, *given)))
    agreed, unclear = 0, False
    for name in names:
        others = [other for other in names if other != name]
        small = [(point, not others) for point in islice(small_points(others), SLICES)]
        for point, generic in (
            *small,
            *((generic_point(others, chance), True) for _ in range(SLICES if others else 0)),
        ):
            met = along(name, point, wanted, given, where, angle)
            if isinstance(met, Certainty):
                return met
            # at small points formulas that are not the same often agree
            agreed += generic and met.count(True)
            unclear = unclear or None in met
    return Certainty("agrees", agreed) if agreed and not unclear else None


def generic_point(names: Sequence[str], chance: Chance) -> Point:
    """Values that nobody chose, from a hundredth to ten in size, of either sign."""
    return {name: (chance.unit() * 10 + fmpq(1, 100)) * (1 - 2 * chance.whole(2)) for name in names}


def along(
    name: str, point: Point, wanted: list[Relation], given: list[Relation], where: tuple[Node, ...], angle: str
) -> Certainty | list[bool | None]:
    """Whether each solution of either side, in one letter beside values of the others, is one of the other side: True
    or None for each, or the refutation by the first that surely is none."""
    values = {other: literal(to_fraction(value)) for other, value in point.items()}
    sides = [[put(equation, values) for equation in equations] for equations in (wanted, given)]
    within = [Condition(substitute(relation, values), angle) for relation in where]
    found: list[bool | None] = []
    for one, other, of_key in ((sides[1], sides[0], False), (sides[0], sides[1], True)):
        for root in (root for equation in one for root in roots_of(equation, name, angle)):
            if not admitted(within, {name: root.middle}):
                continue
            met = [holds(each, name, root, angle) for each in other]
            if root.sure and not any(each is not False for each in met):
                return at_a_solution(name, root, point, of_key)
            found.append(True if True in met else None)
    return found


def put(equation: Relation, values: Mapping[str, Node]) -> Relation:
    found = substitute(equation, dict(values))
    assert isinstance(found, Relation)
    return found


def at_a_solution(name: str, root: Root, point: Point, of_key: bool) -> Certainty:
    """The refutation by a solution of the key, or of the response, that the other side has not."""
    witness = (*fractions(point), (name, fraction_of(root)))
    met, missed = "holds", "does not hold"
    return Certainty("refuted", 0, witness, met if of_key else missed, missed if of_key else met)


def telling_apart(key: Node, response: Node, angle: str = "radians") -> Certainty | None:
    """The refutation of one inequality in several letters by another: a point at which one of them surely holds and the
    other surely does not. None where none is found.

    Points are taken on the border of either and beside it, in one letter after the other.
    """
    if not isinstance(key, Relation) or not isinstance(response, Relation):
        return None
    names = sorted(names_in(key) | names_in(response))
    turned = {sign: other for pair in (("<", "≥"), (">", "≤"), ("=", "≠")) for sign, other in (pair, pair[::-1])}
    for name in names:
        for others in islice(small_points([other for other in names if other != name]), 2 * SLICES):
            values = {other: literal(to_fraction(value)) for other, value in others.items()}
            borders = (Relation(put(tree, values).terms, ("=",)) for tree in (key, response))
            places = sorted(root.middle for border in borders for root in roots_of(border, name, angle))
            between = [(low + high) / 2 for low, high in pairwise(places)]
            beyond = [places[0] - 1, places[-1] + 1] if places else [fmpq(0)]
            for place in (*beyond, *between, *places):
                point = {**others, name: place}
                held = [surely(tree, point, angle) for tree in (key, response)]
                missed = [
                    surely(Relation(tree.terms, (turned[tree.signs[0]],)), point, angle) for tree in (key, response)
                ]
                if (held[0] and missed[1]) or (held[1] and missed[0]):
                    said = ("holds", "does not hold") if held[0] else ("does not hold", "holds")
                    return Certainty("refuted", 0, fractions(point), *said)
    return None


def surely(relation: Relation, point: Point, angle: str) -> bool:
    """Whether a relation surely holds at a point."""
    try:
        with ctx.workprec(BITS):
            return Balls(point, angle).holds(relation)
    except EvaluationError:
        return False


def everywhere_or_nowhere(tree: Node, angle: str = "radians", complex_numbers: bool = False) -> str:
    """``everywhere`` for equations that hold for all values of their letters, ``nowhere`` for those that surely hold
    for none over the reals; empty for all others, which alone can be keys.

    >>> from vorlage.core.notation import read
    >>> [everywhere_or_nowhere(read(equation)) for equation in ("2*8 = 16", "x^2 = -1", "x = 1")]
    ['everywhere', 'nowhere', '']
    """
    equations = equations_of(tree)
    if not equations:
        return ""
    kinds = {one_everywhere_or_nowhere(equation, angle, complex_numbers) for equation in equations}
    return "everywhere" if "everywhere" in kinds else kinds.pop() if len(kinds) == 1 else ""


def one_everywhere_or_nowhere(equation: Relation, angle: str, complex_numbers: bool) -> str:
    side = zero_side([equation])
    names = sorted(names_in(side))
    try:
        top = RationalReader(names).of(side).reduced().top
    except NotRational:
        left, right = equation.terms
        if equivalent(left, right, (), angle).holds and equivalent(ZERO, side, (), angle).holds:
            return "everywhere"
        if not names:
            return "nowhere"
        for name in names:
            branches = solved(equation, name)
            if branches is not None and all(is_impossible(branch, angle) for branch in branches):
                return "nowhere"
        return ""
    except EvaluationError:
        return "nowhere"
    if top.is_zero():
        return "everywhere"
    if top.is_constant():
        return "nowhere"
    return "" if complex_numbers or real_factors(top) else "nowhere"


def is_impossible(branch: Branch, angle: str) -> bool:
    """Whether a condition without letters is not met, or a value without letters is none."""
    conditions = [Condition(relation, angle) for relation in branch.conditions if not names_in(relation)]
    if any(not admitted([condition], {}) for condition in conditions):
        return True
    if names_in(branch.value):
        return False
    try:
        ball(branch.value, {}, 128, angle)
    except EvaluationError:
        return True
    return False


def real_factors(polynomial: fmpz_mpoly) -> frozenset[str]:
    """The irreducible factors that have zeros, up to sign."""
    found = set()
    for factor, _ in polynomial.factor()[1]:
        if factor.leading_coefficient() < 0:
            factor = -factor
        if has_real_zero(factor):
            found.add(str(factor))
    return frozenset(found)


def has_real_zero(factor: fmpz_mpoly) -> bool:
    """For one letter by its real roots; in several letters a sum of positive squares has none."""
    poly = univariate(factor)
    if poly is None:
        squares = all(all(int(power) % 2 == 0 for power in powers) for powers in factor.monoms())
        has_constant = any(not any(powers) for powers in factor.monoms())
        return not (squares and has_constant and all(coefficient > 0 for coefficient in factor.coeffs()))
    return any(root.imag.is_zero() for root, _ in poly.complex_roots())


def by_a_letter(wanted: list[Relation], given: list[Relation], where: tuple[Node, ...], angle: str) -> Certainty | None:
    """The comparison of both sides solved for one letter; None when there is none that both can be solved for."""
    names = set.union(*({*names_in(equation)} for equation in (*wanted, *given)))
    for name in sorted(names, key=lambda name: (not any(Name(name) in equation.terms for equation in wanted), name)):
        key_branches, branches = solved_for(wanted, name, where), solved_for(given, name, where)
        if key_branches is not None and branches is not None:
            others = tuple(relation for relation in where if name not in names_in(relation))
            return same_branches(name, key_branches, branches, others, angle)
    return None


def same_branches(
    name: str, key: list[Branch], response: list[Branch], where: tuple[Node, ...], angle: str
) -> Certainty | None:
    """Whether two lists of branches are the same points, by proof where there are no conditions, else by trying."""
    certainty = tried(name, key, response, where, angle, at_small_points_only=True)
    if certainty is not None and certainty.kind == "refuted":
        return certainty
    return proved(key, response, where, angle) or tried(name, key, response, where, angle)


def proved(key: list[Branch], response: list[Branch], where: tuple[Node, ...], angle: str) -> Certainty | None:
    """A proof that single branches are the same points, or None."""
    if len(key) != 1 or len(response) != 1:
        return None
    if key == response:
        return PROVED
    implied = (*where, *key[0].conditions)
    proof = equivalent(key[0].value, response[0].value, implied, angle)
    back = equivalent(response[0].value, key[0].value, (*where, *response[0].conditions), angle)
    if proof.kind != "proved" or back.kind != "proved":
        return None
    # conditions have been tried at points only, unless they follow from what is known; where there are no other
    # letters, that one point is all
    constant = not names_in(key[0].value) | names_in(response[0].value)
    if constant or all(follows(branch, where, angle) for branch in (key[0], response[0])):
        return PROVED
    return None


def follows(branch: Branch, where: tuple[Node, ...], angle: str) -> bool:
    """Whether the conditions of a branch follow from what is known: v ≥ 0 does when |v| is v by proof."""
    for relation in branch.conditions:
        if relation.signs not in {("<",), (">",), ("≤",), ("≥",)}:
            return False
        low, high = relation.terms if relation.signs[0] in {"<", "≤"} else reversed(relation.terms)
        value = high if low == ZERO else Sum((high, Neg(low)))
        if equivalent(value, Call("abs", (value,)), where, angle).kind != "proved":
            return False
    return True


def tried(
    name: str,
    key: list[Branch],
    response: list[Branch],
    where: tuple[Node, ...],
    angle: str,
    at_small_points_only: bool = False,
) -> Certainty | None:
    """The values of the letter at points of the others; a difference at two points, or in value, refutes. At small
    points only, None where nothing refutes."""
    names = sorted(set.union(*({*names_in(branch.value)} for branch in (*key, *response))))
    within = [relation for relation in where if names_in(relation) <= set(names)]
    known = [Condition(relation, angle) for relation in within]
    trees = [tree for branch in (*key, *response) for tree in (branch.value, *branch.conditions)]
    bits = SPARE_BITS + 2 * height(*trees)
    agreed, missing = 0, Certainty("agrees")
    small = islice(small_points(names), SMALL_POINTS)
    found = () if at_small_points_only else trials([*trees, *within], names, angle).pieces
    for point in chain(small, *found):
        if not admitted(known, point):
            continue
        first, second = values_at(key, point, angle, bits), values_at(response, point, angle, bits)
        if not first and not second:
            continue
        of_key, of_response = unmatched(first, second), unmatched(second, first)
        strange = of_response if of_key is None else of_key
        if strange is None:
            agreed += 1
            continue
        refutation = at_a_solution(name, Root(strange, None, True), point, of_key is not None)
        if (first and second) or missing.kind == "refuted" or not names:
            return refutation
        # one side alone has no value here: a hole of one point does not matter, two are a region
        missing = refutation
    if at_small_points_only:
        return None
    return Certainty("agrees", agreed) if agreed else missing if missing.kind == "refuted" else REFUTED


def unmatched(values: list[arb], others: list[arb]) -> arb | None:
    """A value that none of the others can be."""
    return next((value for value in values if not any(value.overlaps(other) for other in others)), None)


def values_at(branches: list[Branch], point: Point, angle: str, bits: int) -> list[arb]:
    found = []
    for branch in branches:
        try:
            if admitted([Condition(relation, angle) for relation in branch.conditions], point):
                found.append(ball(branch.value, point, bits, angle))
        except EvaluationError:
            continue
    return found


def solved_for(equations: list[Relation], name: str, where: tuple[Node, ...]) -> list[Branch] | None:
    """Every equation solved for a letter, with what is known of that letter; None when one cannot be."""
    found: list[Branch] = []
    for equation in equations:
        branches = solved(equation, name)
        if branches is None:
            return None
        for branch in branches:
            known = (substitute(tree, {name: branch.value}) for tree in where if name in names_in(tree))
            conditions = tuple(tree for tree in known if isinstance(tree, Relation))
            found.append(Branch(branch.value, (*branch.conditions, *conditions)))
    return found


def solved(equation: Relation, name: str) -> list[Branch] | None:
    """An equation in which a letter stands once, solved for it by undoing one operation after the other."""
    left, right = equation.terms
    if sum(node == Name(name) for node in walk(equation)) != 1:
        return None
    side, other = (left, right) if name in names_in(left) else (right, left)
    return undone(side, Branch(other), name)


def undone(side: Node, other: Branch, name: str) -> list[Branch] | None:
    """The branches of ``side = other``, or None when an operation has no inverse here."""
    if side == Name(name):
        return [other]
    steps = Undoing(other, name).of(side)
    if steps is None:
        return None
    found: list[Branch] = []
    for inner, branch in steps:
        branches = undone(inner, branch, name)
        if branches is None:
            return None
        found += branches
    return found


# what is left to be solved, with each value that it can have
Steps = list[tuple[Node, Branch]]


class Undoing:
    """The outermost operation undone in ``side = other``."""

    def __init__(self, other: Branch, name: str) -> None:
        self.other = other
        self.value = other.value
        self.name = name

    def step(self, inner: Node, value: Node, sign: str = "") -> tuple[Node, Branch]:
        """``inner = value``, under the condition that the other side is > 0 or ≥ 0 when a sign is given."""
        conditions = (Relation((self.value, ZERO), (sign,)),) if sign else ()
        return inner, Branch(value, (*self.other.conditions, *conditions))

    def both_signs(self, inner: Node, size: Node) -> Steps:
        return [self.step(inner, size, "≥"), self.step(inner, Neg(size), "≥")]

    def of(self, side: Node) -> Steps | None:
        if isinstance(side, Neg):
            return [self.step(side.operand, Neg(self.value))]
        if isinstance(side, Sum):
            inner, rest = self.apart(side.terms)
            return [self.step(inner, Sum((self.value, *(Neg(term) for term in rest))))]
        if isinstance(side, Product):
            inner, rest = self.apart(side.factors)
            divisor = rest[0] if len(rest) == 1 else Product(rest, ("*",) * (len(rest) - 1))
            return [self.step(inner, Quotient(self.value, divisor))]
        if isinstance(side, Quotient):
            if self.name in names_in(side.numerator):
                return [self.step(side.numerator, Product((self.value, side.denominator), ("*",)))]
            return [self.step(side.denominator, Quotient(side.numerator, self.value))]
        if isinstance(side, Power):
            return self.exponent(side) if self.name in names_in(side.exponent) else self.power(side)
        return self.call(side) if isinstance(side, Call) else None

    def apart(self, parts: tuple[Node, ...]) -> tuple[Node, tuple[Node, ...]]:
        inner = next(part for part in parts if self.name in names_in(part))
        return inner, tuple(part for part in parts if part is not inner)

    def exponent(self, side: Power) -> Steps | None:
        if side.base == Constant("e"):
            return [self.step(side.exponent, Call("ln", (self.value,)), ">")]
        base = plain_value(side.base)
        if base is None or base <= 0 or base == 1:
            return None
        return [self.step(side.exponent, Call("log", (self.value, side.base)), ">")]

    def power(self, side: Power) -> Steps | None:
        exponent = plain_value(side.exponent)
        if exponent is None or exponent == 0:
            return None
        value = self.value if exponent > 0 else Quotient(ONE, self.value)
        order = abs(exponent)
        if order == 1:
            return [self.step(side.base, value)]
        if order.denominator == 1:
            root = Call("sqrt", (value,)) if order == 2 else Call("root", (Number(order), value))
            return self.both_signs(side.base, root) if order % 2 == 0 else [self.step(side.base, root)]
        if order.numerator == 1:
            # x^(1/n) is the root that is not negative
            return [self.step(side.base, Power(value, Number(Fraction(order.denominator))), "≥")]
        return None

    def call(self, side: Call) -> Steps | None:
        inner, value = side.arguments[0], self.value
        if side.function == "ln":
            return [self.step(inner, Power(Constant("e"), value))]
        if side.function == "exp":
            return [self.step(inner, Call("ln", (value,)), ">")]
        if side.function == "log":
            base = side.arguments[1] if len(side.arguments) > 1 else TEN
            return None if plain_value(base) is None else [self.step(inner, Power(base, value))]
        if side.function == "sqrt":
            return [self.step(inner, Power(value, TWO), "≥")]
        return self.both_signs(inner, value) if side.function == "abs" else None
