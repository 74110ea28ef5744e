"""Sets of real numbers as unions of intervals, and the relations in one letter that describe them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
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
    Product,
    Quotient,
    Relation,
    Sum,
    names_in,
    rebuild,
    walk,
)
from .balls import DECISIONS, Balls, ball
from .breaks import breaks_of
from .errors import EvaluationError
from .evaluation import Compiled
from .rationals import NotRational, RationalReader, univariate
from .roots import MAXIMUM_ROOTS, real_roots, roots_of
from .steps import size, spend
from .trials import scales_of
from .values import enclosure, to_fraction

BITS = 320
OPPOSITE = {"<": ">", ">": "<", "≤": "≥", "≥": "≤", "=": "=", "≠": "≠"}


MAXIMUM_POINTS = 60
# The binary digits of a short denominator, and of the room that is left around a place with more.
SHORT, ROOM = 40, 34
# What solving a relation in a cell takes.
STEPS_OF_A_CELL = 900
ZERO = Number(Fraction(0))


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


@dataclass(frozen=True, slots=True)
class Described:
    """The numbers that a statement describes; ``exact`` unless the ends of some piece were found by searching."""

    numbers: RealSet
    exact: bool


def described(tree: Node, angle: str = "radians") -> Described:
    """The numbers that a statement in one letter describes.

    Raises ``NoRealSet`` or ``EvaluationError`` where they cannot be worked out.
    """
    with ctx.workprec(BITS):
        reader = Reader(angle)
        return Described(reader.of(tree), reader.exact)


def separating(left: RealSet, right: RealSet) -> tuple[Fraction, bool, bool] | None:
    """A place, as simple as can be, that lies in one of two sets only, and whether it lies in each; very close to such
    a place where that is an end which is no short fraction. None where the sets are one."""
    with ctx.workprec(BITS):
        ends = sorted_ends(end for piece in (*left, *right) for end in (piece.low, piece.high) if end is not None)
        between = [middle_of(Piece(low, False, high, False)) for low, high in pairwise([None, *ends, None])]
        for place in (*between, *ends):
            inside = [any(piece.contains(place) for piece in pieces) for pieces in (left, right)]
            if inside[0] == inside[1]:
                continue
            others = [abs(place - end) for end in ends if not end.overlaps(place)]
            is_end = any(end.overlaps(place) for end in ends)
            room = None if is_end else min(map(float, map(arb.lower, others)), default=1.0)
            return simple_near(place, room), inside[0], inside[1]
    return None


def simple_near(place: arb, room: float | None) -> Fraction:
    """The fraction with the smallest denominator that lies less than ``room`` from a place; one very close to it where
    there is no room."""
    mantissa, exponent = place.mid().man_exp()
    exact = to_fraction(fmpq(mantissa) * fmpq(2) ** int(exponent))
    if room is None:
        return exact.limit_denominator(10**12)
    near = (exact.limit_denominator(most) for most in (1, 2, 4, 10, 100, 10**4, 10**8, 10**12))
    return next((simple for simple in near if abs(simple - exact) < room), exact)


def holds_at(tree: Node, found: RealSet, name: str, place: Fraction, angle: str) -> bool:
    """Whether a statement surely holds at a place: by itself where it is made of relations, by the set that it
    describes where it is an interval or a list of numbers."""
    at = fmpq(place.numerator, place.denominator)
    with ctx.workprec(BITS):
        if isinstance(tree, Logic):
            every = any if tree.word == "or" else all
            return every(holds_at(term, found, name, place, angle) for term in tree.terms)
        if isinstance(tree, Interval | Collection) or (isinstance(tree, Relation) and tree.signs == ("in",)):
            return any(piece.contains(arb(at)) for piece in found)
        try:
            return Balls({name: at}, angle).holds(tree)
        except EvaluationError:
            return False


class Reader:
    """Turns statements into sets."""

    def __init__(self, angle: str) -> None:
        self.angle = angle
        self.exact = True

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
        if any(isinstance(node, Call) and node.function == "abs" for node in walk(difference)):
            return self.by_cells(left, sign, right, EVERYTHING[0])
        names = sorted(names_in(difference))
        if len(names) > 1:
            raise NoRealSet("This speaks of more than one letter.")
        try:
            ratio = RationalReader(names).of(difference).reduced()
        except NotRational:
            try:
                return self.monotone(difference, sign)
            except NoRealSet:
                return self.by_search(left, sign, right, names[0])
        return self.rational(ratio.top, ratio.bottom, sign)

    def by_cells(self, left: Node, sign: str, right: Node, cell: Piece) -> RealSet:
        """A relation with bars, solved cell by cell between the places where what stands in the innermost bars changes
        its sign; in each |u| is u or −u, and bars around bars split the cell again."""
        inner = innermost_bars(Sum((left, right)))
        if not inner:
            return combine([(cell,), self.relation(left, sign, right)], "and")
        signs = size(left) + size(right)
        spend(STEPS_OF_A_CELL + signs * len(inner))
        positive = [self.relation(bars.arguments[0], ">", ZERO) for bars in inner]
        ends = [end for pieces in positive for piece in pieces for end in (piece.low, piece.high) if end is not None]
        found: list[Piece] = []
        for low, high in pairwise([None, *sorted_ends(ends), None]):
            part = combine([(cell,), (Piece(low, low is not None, high, False),)], "and")
            for piece in part:
                spend(STEPS_OF_A_CELL + 14 * signs)
                sample = middle_of(piece)
                opened: dict[Node, Node] = {
                    bars: bars.arguments[0] if any(each.contains(sample) for each in pieces) else Neg(bars.arguments[0])
                    for bars, pieces in zip(inner, positive)
                }
                found += self.by_cells(put(left, opened), sign, put(right, opened), piece)
        return normal(found)

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

    def by_search(self, left: Node, sign: str, right: Node, name: str) -> RealSet:
        """A relation between any formulas in a letter, by the zeros and breaks that a wide search finds: between them
        the difference keeps its sign."""
        self.exact = False
        roots = roots_of(Relation((left, right), ("=",)), name, self.angle)
        if len(roots) >= MAXIMUM_ROOTS:
            raise NoRealSet("This holds on more pieces than can be worked out.")
        difference = Sum((left, Neg(right)))
        found = breaks_of([difference], name, scales_of([difference], [name], name, self.angle), self.angle)
        ends = sorted_ends([*(root.place for root in roots), *map(around_break, found.places)])
        surely = DECISIONS[sign][0]

        def holds(point: arb) -> bool:
            if any(root.place.overlaps(point) for root in roots):
                return sign in {"=", "≤", "≥"}
            try:
                values = [ball(term, {name: point}, BITS, self.angle) for term in (left, right)]
            except EvaluationError:
                return False
            return surely(*values)

        return from_cells(ends, holds)

    def monotone(self, difference: Node, sign: str) -> RealSet:
        """``3x + 1 < sqrt(2)``: linear in the letter, with any numbers."""
        slope, shift = self.linear(difference)
        if not slope > 0 and not slope < 0:
            raise NoRealSet
        end = -shift / slope
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

    def linear(self, tree: Node) -> tuple[arb, arb]:
        """The slope and the shift of a formula that is linear in its letter."""
        if not names_in(tree):
            value = self.end(tree)
            if value is None:
                raise NoRealSet
            return arb(0), value
        if isinstance(tree, Name):
            return arb(1), arb(0)
        if isinstance(tree, Neg):
            slope, shift = self.linear(tree.operand)
            return -slope, -shift
        if isinstance(tree, Sum):
            parts = [self.linear(term) for term in tree.terms]
            return sum((slope for slope, _ in parts), arb(0)), sum((shift for _, shift in parts), arb(0))
        if isinstance(tree, Product):
            total = arb(0), arb(1)
            for factor in tree.factors:
                slope, shift = self.linear(factor)
                if not (slope.is_zero() or total[0].is_zero()):
                    raise NoRealSet
                total = total[0] * shift + total[1] * slope, total[1] * shift
            return total
        if isinstance(tree, Quotient) and not names_in(tree.denominator):
            slope, shift = self.linear(tree.numerator)
            below = self.linear(tree.denominator)[1]
            if below.contains(0):
                raise NoRealSet
            return slope / below, shift / below
        raise NoRealSet


def around_break(place: fmpq) -> arb:
    """A break as it is where it is a short fraction, else with room for what its many digits leave out."""
    return (
        arb(place)
        if int(place.q).bit_length() < SHORT
        else arb(arb(place).mid(), arb(2) ** -ROOM * (1 + abs(arb(place).mid())))
    )


def innermost_bars(tree: Node) -> list[Call]:
    """The absolute values without others in them, each once."""
    bars = [node for node in walk(tree) if isinstance(node, Call) and node.function == "abs"]
    inner = [
        each
        for each in dict.fromkeys(bars)
        if not any(isinstance(node, Call) and node.function == "abs" for node in walk(each.arguments[0]))
    ]
    if len(inner) > MAXIMUM_POINTS:
        raise NoRealSet("There are more absolute values here than can be worked out.")
    return inner


def sorted_ends(ends: Iterable[arb]) -> list[arb]:
    """Ends from left to right, those that no precision can tell apart once."""
    found: list[arb] = []
    for end in sorted(ends, key=lambda end: float(end.mid())):
        if not found or not end.overlaps(found[-1]):
            found.append(end)
    return found


def middle_of(piece: Piece) -> arb:
    """A place in a piece, inside it unless it is one place only."""
    if piece.low is None:
        return arb(0) if piece.high is None else piece.high - 1
    return piece.low + 1 if piece.high is None else (piece.low + piece.high) / 2


def put(tree: Node, new: Mapping[Node, Node]) -> Node:
    """The tree with some absolute values exchanged."""
    if isinstance(tree, Call) and tree in new:
        return new[tree]
    return rebuild(tree, lambda inner: put(inner, new))


def at(polynomial: fmpz_poly, point: arb) -> arb:
    total = arb(0)
    for coefficient in reversed(polynomial.coeffs()):
        total = total * point + arb(coefficient)
    return total
