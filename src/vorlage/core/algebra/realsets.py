"""Sets of real numbers as unions of intervals, and the relations in one letter that describe them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from flint import arb, ctx, fmpq, fmpz_mpoly, fmpz_poly

from ..notation import (
    Call,
    Collection,
    Constant,
    Interval,
    Logic,
    Name,
    Neg,
    Node,
    Number,
    PlusMinus,
    Relation,
    Sum,
    names_in,
    rebuild,
    walk,
)
from .errors import EvaluationError
from .evaluation import Compiled
from .rationals import NotRational, RationalReader, univariate
from .values import enclosure

BITS = 320
OPPOSITE = {"<": ">", ">": "<", "≤": "≥", "≥": "≤", "=": "=", "≠": "≠"}


MAXIMUM_POINTS = 60


class NoRealSet(EvaluationError):
    """The statement does not describe a set of real numbers that can be worked out."""

    def __init__(self, message: str = "This does not describe a set of numbers that can be worked out.") -> None:
        super().__init__("no_set", message)


@dataclass(frozen=True, slots=True)
class Piece:
    """An interval; ``None`` for an end that lies at infinity."""

    low: arb | None
    low_closed: bool
    high: arb | None
    high_closed: bool

    def contains(self, point: arb) -> bool:
        """Whether a point that is no end lies inside; an end counts when it is closed."""
        if self.low is not None and (point < self.low or (point.overlaps(self.low) and not self.low_closed)):
            return False
        return not (
            self.high is not None and (point > self.high or (point.overlaps(self.high) and not self.high_closed))
        )


RealSet = tuple[Piece, ...]
EVERYTHING: RealSet = (Piece(None, False, None, False),)


def normal(pieces: Iterable[Piece]) -> RealSet:
    """Disjoint pieces from left to right, none touching the next."""
    ends: list[arb] = []
    listed = list(pieces)
    for piece in listed:
        for end in (piece.low, piece.high):
            if end is not None and not any(end.overlaps(known) for known in ends):
                ends.append(end)
    ends.sort(key=lambda end: float(end.mid()))
    return from_cells(ends, lambda point: any(piece.contains(point) for piece in listed))


def from_cells(ends: list[arb], test: Callable[[arb], bool]) -> RealSet:
    """The set that is constant between the ends, given by a test at the ends and between them."""
    cells: list[tuple[arb | None, arb | None, bool]] = []
    if not ends:
        return EVERYTHING if test(arb(0)) else ()
    cells.append((None, ends[0], test(ends[0] - 1)))
    for low, high in pairwise(ends):
        cells.append((low, low, test(low)))
        cells.append((low, high, test((low + high) / 2)))
    cells.append((ends[-1], ends[-1], test(ends[-1])))
    cells.append((ends[-1], None, test(ends[-1] + 1)))
    return joined(cells)


def joined(cells: list[tuple[arb | None, arb | None, bool]]) -> RealSet:
    """Neighbouring cells that belong to the set, as one piece each run."""
    pieces = []
    run: list[tuple[arb | None, arb | None, bool]] = []
    for cell in [*cells, (None, None, False)]:
        if cell[2]:
            run.append(cell)
            continue
        if run:
            first, last = run[0], run[-1]
            pieces.append(Piece(first[0], is_point(first), last[1], is_point(last)))
            run = []
    return tuple(pieces)


def is_point(cell: tuple[arb | None, arb | None, bool]) -> bool:
    return cell[0] is not None and cell[0] is cell[1]


def combine(sets: list[RealSet], word: str) -> RealSet:
    """The union (``or``) or the intersection (``and``) of sets."""
    ends: list[arb] = []
    for pieces in sets:
        for piece in pieces:
            for end in (piece.low, piece.high):
                if end is not None and not any(end.overlaps(known) for known in ends):
                    ends.append(end)
    ends.sort(key=lambda end: float(end.mid()))
    every = any if word == "or" else all

    def holds(point: arb) -> bool:
        return every(any(piece.contains(point) for piece in pieces) for pieces in sets)

    return from_cells(ends, holds)


def same_set(left: RealSet, right: RealSet, ends_matter: bool = True) -> bool:
    """Whether two sets are one; without ``ends_matter`` whether they are but for their ends."""
    if len(left) != len(right):
        return False
    for a, b in zip(left, right):
        if not same_end(a.low, b.low) or not same_end(a.high, b.high):
            return False
        if ends_matter and (a.low_closed, a.high_closed) != (b.low_closed, b.high_closed):
            return False
    return True


def same_end(left: arb | None, right: arb | None) -> bool:
    if left is None or right is None:
        return left is right
    return bool(left.overlaps(right))


def real_set(tree: Node, angle: str = "radians") -> RealSet:
    """The numbers that a statement in one letter describes.

    Raises ``NoRealSet`` or ``EvaluationError`` where it cannot be worked out.
    """
    with ctx.workprec(BITS):
        return Reader(angle).of(tree)


class Reader:
    """Turns statements into sets."""

    def __init__(self, angle: str) -> None:
        self.angle = angle

    def of(self, tree: Node) -> RealSet:
        if isinstance(tree, Logic):
            return combine([self.of(term) for term in tree.terms], tree.word)
        if isinstance(tree, Relation):
            return self.chain(tree)
        return self.plain_set(tree)

    def plain_set(self, tree: Node) -> RealSet:
        """An interval, a set of numbers, or a pair in round brackets read as an open interval."""
        if isinstance(tree, Interval):
            low, high = self.end(tree.low), self.end(tree.high)
            return self.interval(low, tree.low_closed, high, tree.high_closed)
        if isinstance(tree, Collection) and tree.kind == "point" and len(tree.items) == 2:
            return self.interval(self.end(tree.items[0]), False, self.end(tree.items[1]), False)
        if isinstance(tree, Collection) and tree.kind == "set":
            if len(tree.items) > MAXIMUM_POINTS:
                raise NoRealSet("These are more values than can be meant here.")
            points = [self.end(item) for item in tree.items]
            if any(point is None for point in points):
                raise NoRealSet
            return normal(Piece(point, True, point, True) for point in points)
        raise NoRealSet

    def interval(self, low: arb | None, low_closed: bool, high: arb | None, high_closed: bool) -> RealSet:
        if low is not None and high is not None:
            if low > high:
                raise NoRealSet("The smaller end of an interval comes first.")
            if low.overlaps(high) and not (low_closed and high_closed):
                return ()
        return (Piece(low, low_closed and low is not None, high, high_closed and high is not None),)

    def end(self, tree: Node) -> arb | None:
        inner = tree.operand if isinstance(tree, Neg) else tree
        if inner == Constant("infinity"):
            return None
        return enclosure(Compiled(tree, self.angle).value({}), BITS)

    def chain(self, tree: Relation) -> RealSet:
        if tree.signs == ("in",):
            if not isinstance(tree.terms[0], Name):
                raise NoRealSet
            return self.plain_set(tree.terms[1])
        pairs = zip(tree.signs, tree.terms, tree.terms[1:])
        sets = [self.relation(left, sign, right) for sign, left, right in pairs]
        return sets[0] if len(sets) == 1 else combine(sets, "and")

    def relation(self, left: Node, sign: str, right: Node) -> RealSet:
        if sign not in OPPOSITE:
            raise NoRealSet
        if isinstance(right, PlusMinus) and right.left is None and sign == "=":
            minus = Relation((left, Neg(right.right)), ("=",))
            return combine([self.relation(left, "=", right.right), self.chain(minus)], "or")
        difference = Sum((left, Neg(right)))
        bars = next((node for node in walk(difference) if isinstance(node, Call) and node.function == "abs"), None)
        if bars is not None:
            return self.without_bars(left, sign, right, bars)
        names = sorted(names_in(difference))
        if len(names) > 1:
            raise NoRealSet("This speaks of more than one letter.")
        try:
            ratio = RationalReader(names).of(difference).reduced()
        except NotRational:
            return self.monotone(left, sign, right)
        return self.rational(ratio.top, ratio.bottom, sign)

    def without_bars(self, left: Node, sign: str, right: Node, bars: Call) -> RealSet:
        """|u| is u where u is not negative and −u elsewhere."""
        inner = bars.arguments[0]
        zero = Number(Fraction(0))
        cases = []
        for side, value in (("≥", inner), ("<", Neg(inner))):
            opened = [put(tree, bars, value) for tree in (left, right)]
            cases.append(combine([self.relation(inner, side, zero), self.relation(opened[0], sign, opened[1])], "and"))
        return combine(cases, "or")

    def rational(self, top: fmpz_mpoly, bottom: fmpz_mpoly, sign: str) -> RealSet:
        """Where a rational function has this sign, by its zeros and poles."""
        numerator, denominator = univariate(top), univariate(bottom)
        if numerator is None or denominator is None:
            raise NoRealSet
        poles = real_roots(denominator)
        ends = sorted([*real_roots(numerator), *poles], key=lambda end: float(end.mid()))

        def holds(point: arb) -> bool:
            if any(point.overlaps(pole) for pole in poles):
                return False
            at_zero = any(point.overlaps(root) for root in ends)
            value = arb(0) if at_zero else at(numerator, point) / at(denominator, point)
            return bool({
                "<": value < 0, ">": value > 0, "≤": value <= 0, "≥": value >= 0, "=": value.is_zero(),
                "≠": not value.contains(0),
            }[sign])  # fmt: skip

        return from_cells(ends, holds)

    def monotone(self, left: Node, sign: str, right: Node) -> RealSet:
        """``3x + 1 < sqrt(2)``: a multiple of the letter on one side, a number on the other."""
        if names_in(left) and not names_in(right):
            slope, shift = linear(left)
            end = self.end(right)
        elif names_in(right) and not names_in(left):
            slope, shift = linear(right)
            end, sign = self.end(left), OPPOSITE[sign]
        else:
            raise NoRealSet
        if end is None:
            raise NoRealSet
        end = (end - arb(shift)) / arb(slope)
        sign = sign if slope > 0 else OPPOSITE[sign]
        pieces = {
            "<": [Piece(None, False, end, False)],
            "≤": [Piece(None, False, end, True)],
            ">": [Piece(end, False, None, False)],
            "≥": [Piece(end, True, None, False)],
            "=": [Piece(end, True, end, True)],
            "≠": [Piece(None, False, end, False), Piece(end, False, None, False)],
        }
        return tuple(pieces[sign])


def linear(tree: Node) -> tuple[fmpq, fmpq]:
    """The slope and the shift of a linear formula in one letter."""
    names = sorted(names_in(tree))
    try:
        ratio = RationalReader(names).of(tree).reduced()
    except NotRational:
        raise NoRealSet from None
    poly = univariate(ratio.top)
    if len(names) != 1 or poly is None or poly.degree() != 1 or not ratio.bottom.is_constant():
        raise NoRealSet
    bottom = int(ratio.bottom.leading_coefficient())
    return fmpq(int(poly[1]), bottom), fmpq(int(poly[0]), bottom)


def put(tree: Node, old: Node, new: Node) -> Node:
    """The tree with one piece exchanged."""
    return new if tree == old else rebuild(tree, lambda inner: put(inner, old, new))


def at(polynomial: fmpz_poly, point: arb) -> arb:
    total = arb(0)
    for coefficient in reversed(polynomial.coeffs()):
        total = total * point + arb(coefficient)
    return total


def real_roots(polynomial: fmpz_poly) -> list[arb]:
    """The real zeros, rational ones exactly."""
    found: list[arb] = []
    for factor, _ in polynomial.factor()[1]:
        if factor.degree() == 1:
            found.append(arb(fmpq(-int(factor[0]), int(factor[1]))))
        elif factor.degree() > 1:
            found.extend(root.real for root, _ in factor.complex_roots() if root.imag.is_zero())
    return found
