"""Where two formulas are tried that no proof decides: generic points in every piece between the breaks.

A formula is analytic between its breaks, and two analytic functions that agree at a generic point, to a precision
above the height of their coefficients, almost surely agree on the whole piece. So the breaks are listed (``breaks``),
and points are taken from a keyed hash of the formulas: the same for ever, with many digits, in every piece including
the outermost, and at the sizes that the formula's own rates ask for. Several letters run along generic lines, and each
line is a formula in one letter.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from itertools import chain, islice, pairwise

from flint import arb, fmpq

from ..notation import (
    Call,
    Constant,
    Drawn,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    Power,
    Product,
    Quotient,
    Sum,
    children,
    literal,
    names_in,
    substitute,
    walk,
)
from ..notation import line as written
from .balls import TRIGONOMETRIC, ball
from .breaks import breaks_of, is_whole_only
from .errors import EvaluationError
from .regions import Point, inner_places
from .steps import OutOfSteps, spend
from .values import to_fraction

HASH_KEY = b"vorlage: points of trial, 1"
PARAMETER = "t"
LINES = 6
MAXIMUM_SCALES = 4
RAPID = frozenset("sinh cosh tanh sech csch coth exp atan asinh".split())
MAXIMUM_PIECES = 48
MAXIMUM_ANCHORS = 16
# Working precision beyond the height of a formula.
SPARE_BITS = 128
MAXIMUM_HEIGHT = 60_000
# Distances from the outermost breaks, and from 0 where there are no breaks.
SIZES = (fmpq(3, 10), fmpq(3, 2), fmpq(9), fmpq(130))
WHOLE_POINTS = 60
SMALL = [fmpq(*value) for value in (
    (2, 1), (3, 1), (1, 1), (5, 1), (-1, 1), (4, 1), (-2, 1), (1, 2), (-3, 1), (0, 1), (7, 1), (-1, 2), (3, 2),
    (1, 3), (-5, 1), (6, 1), (1, 4), (-1, 3), (10, 1), (9, 10), (-7, 1), (1, 10), (-9, 10),
)]  # fmt: skip


class Chance:
    """Numbers that nobody chose: a keyed hash of a text, the same on every machine."""

    def __init__(self, text: str) -> None:
        self.seed = blake2b(text.encode(), key=HASH_KEY, digest_size=16).digest()
        self.count = 0

    def unit(self) -> fmpq:
        """A dyadic number in (0, 1) with 44 binary digits."""
        self.count += 1
        digest = blake2b(self.count.to_bytes(4, "big"), key=self.seed, digest_size=8).digest()
        return fmpq((int.from_bytes(digest, "big") >> 21) * 2 + 1, 1 << 44)

    def whole(self, below: int) -> int:
        """A whole number from 0 that is smaller than ``below``."""
        return int((self.unit() * below).floor())


def small_points(names: Sequence[str], tried: int = 160) -> Iterator[Point]:
    """Small points, spread so that no two letters march in step: a teacher checks a witness by hand."""
    count = len(SMALL)
    for k in range(tried):
        yield {
            name: SMALL[(k * (1 + 2 * place) + 3 * place + (k // count) * (place + 1)) % count]
            + (k // count) * fmpq(place + 1, 7)
            for place, name in enumerate(names)
        }
        if not names:
            return


@dataclass(frozen=True, slots=True)
class Trials:
    """The points at which formulas are tried, piece by piece."""

    # a list of points for each piece, to be gone through once
    pieces: Iterable[list[Point]]
    # whether the breaks are all there are: zeros of polynomials, and none left out
    exact: bool
    # the breaks themselves, once the pieces have been gone through
    spots: list[Point]


def trials(trees: Sequence[Node], names: Sequence[str], angle: str) -> Trials:
    """The points for formulas (and the relations that bound them) in these letters."""
    if not names:
        return Trials([[{}]], True, [])
    chance = Chance("\n".join(written(tree) for tree in trees))
    if any(is_whole_only(tree) for tree in trees):
        return Trials([whole_points(names, chance)], False, [])
    if len(names) == 1:
        name = names[0]
        pieces, exact, ends = pieces_of([substitute(tree, {name: Name(PARAMETER)}) for tree in trees], chance, angle)
        spots = [{name: place} for place in ends]
        return Trials([[{name: value} for value in piece] for piece in pieces], exact, spots)
    spots = []
    return Trials(pieces_along(trees, names, chance, angle, spots), False, spots)


def pieces_along(
    trees: Sequence[Node], names: Sequence[str], chance: Chance, angle: str, spots: list[Point]
) -> Iterator[list[Point]]:
    """The pieces of generic lines, one line after the other: most wrong answers are refuted on the first. The breaks of
    each line are added to the ``spots``."""
    for start, slope in chain(lines(trees, names, chance, angle), anchored(trees, names, chance, angle)):
        along = {
            name: Sum(
                (
                    literal(to_fraction(start[name])),
                    Product((literal(to_fraction(slope[name])), Name(PARAMETER)), ("",)),
                )
            )
            for name in names
        }
        pieces, _, ends = pieces_of([substitute(tree, along) for tree in trees], chance, angle)
        for piece in pieces:
            yield [{name: start[name] + slope[name] * value for name in names} for value in piece]
        spots += [{name: start[name] + slope[name] * value for name in names} for value in ends]


def anchored(trees: Sequence[Node], names: Sequence[str], chance: Chance, angle: str) -> Iterator[tuple[Point, Point]]:
    """Generic lines through places inside the regions that formulas in several letters are cut into: one line in the
    plane misses a small disc, unless it is laid through it."""
    for place in islice(inner_places(trees, names, angle), MAXIMUM_ANCHORS):
        yield place, {name: (chance.unit() + fmpq(1, 5)) * (1 - 2 * chance.whole(2)) for name in names}


def whole_points(names: Sequence[str], chance: Chance) -> list[Point]:
    """Whole numbers, for formulas that take nothing else: small ones first, then any below 60."""
    found = [{name: fmpq(value) for name in names} for value in (0, 1, 2, 3)]
    for k in range(WHOLE_POINTS):
        found.append({name: fmpq(chance.whole(8 if k < WHOLE_POINTS // 2 else 60)) for name in names})
    return found


def lines(trees: Sequence[Node], names: Sequence[str], chance: Chance, angle: str) -> Iterator[tuple[Point, Point]]:
    """Generic lines: where they start and where they go. The first starts with everything positive, the others with
    the signs that a hash gives; every second one is as short as the fastest thing in the formulas."""
    lengths = {name: scales_of(trees, names, name, angle) for name in names}
    for k in range(LINES):
        size = {name: lengths[name][k % len(lengths[name])] for name in names}
        sign = {name: -1 if k and chance.whole(2) else 1 for name in names}
        start = {name: sign[name] * size[name] * (chance.unit() * 2 + fmpq(1, 5)) for name in names}
        slope = {name: size[name] * (chance.unit() + fmpq(1, 5)) * (1 - 2 * chance.whole(2)) for name in names}
        yield start, slope


def scales_of(trees: Sequence[Node], names: Sequence[str], name: str, angle: str) -> list[fmpq]:
    """The lengths over which waves and exponentials change with a letter, as powers of 2, and 1; the shortest first."""
    found = {fmpq(1)}
    for argument, turns in {pair for tree in trees for pair in arguments(tree) if name in names_in(pair[0])}:
        for base in (fmpq(0), fmpq(1)):
            point = {other: fmpq(1) for other in names} | {name: base}
            try:
                here = ball(argument, point, 64, angle)
                there = ball(argument, point | {name: base + fmpq(1, 1024)}, 64, angle)
            except EvaluationError:
                continue
            change = abs(there - here) * (16 if turns and angle == "degrees" else 1024)
            if change > arb(2) ** -60:
                found.add(
                    fmpq(2) ** -max(-60, min(4000, int((change.log() / arb(2).log()).mid().floor().unique_fmpz() or 0)))
                )
                break
    return sorted(found)[:MAXIMUM_SCALES]


def arguments(tree: Node) -> Iterator[tuple[Node, bool]]:
    """What waves and exponentials are taken of, and whether it is an angle."""
    for node in walk(tree):
        if isinstance(node, Call) and (node.function in TRIGONOMETRIC or node.function in RAPID):
            yield node.arguments[0], node.function in TRIGONOMETRIC
        elif isinstance(node, Power) and names_in(node.exponent):
            yield node.exponent, False


def pieces_of(trees: Sequence[Node], chance: Chance, angle: str) -> tuple[list[list[fmpq]], bool, list[fmpq]]:
    """Points for every piece of formulas in the one letter ``t``, whether all breaks are known, and the breaks."""
    scales = scales_of(trees, [PARAMETER], PARAMETER, angle)
    found = breaks_of(trees, PARAMETER, scales, angle)
    ends, exact = found.places, found.exact
    if len(ends) > MAXIMUM_PIECES:
        middle = len(ends) // 2
        ends = ends[middle - MAXIMUM_PIECES // 2 : middle + MAXIMUM_PIECES // 2]
        exact = False
    if not ends:
        return (
            [
                [
                    side * scale * size * (chance.unit() + fmpq(1, 2))
                    for scale in scales
                    for size in SIZES
                    for side in (1, -1)
                ]
            ],
            exact,
            [],
        )
    pieces = [[ends[0] - scale * size * (chance.unit() + fmpq(1, 2)) for scale in scales for size in SIZES]]
    for low, high in pairwise(ends):
        count = 2 if len(ends) < 8 else 1
        pieces.append([low + (high - low) * (chance.unit() * fmpq(9, 10) + fmpq(1, 20)) for _ in range(count)])
    pieces.append([ends[-1] + scale * size * (chance.unit() + fmpq(1, 2)) for scale in scales for size in SIZES])
    spend(40 * len(pieces))
    return pieces, exact, ends


def height(*trees: Node) -> int:
    """A bound on the binary digits that the literals of formulas may cancel or hide; ``OutOfSteps`` where there are
    more than an answer is given."""
    total = sum(map(heights, trees))
    if total > MAXIMUM_HEIGHT:
        raise OutOfSteps
    return total


def heights(node: Node) -> int:
    if isinstance(node, Number):
        return node.value.numerator.bit_length() + node.value.denominator.bit_length()
    if isinstance(node, Name | Constant):
        return 0
    if isinstance(node, Neg | Drawn):
        return heights(node.operand if isinstance(node, Neg) else node.value)
    if isinstance(node, Sum):
        return sum(map(heights, node.terms))
    if isinstance(node, Product):
        return sum(map(heights, node.factors))
    if isinstance(node, Quotient):
        return heights(node.numerator) + heights(node.denominator)
    if isinstance(node, Mixed):
        return heights(node.whole) + heights(node.numerator) + heights(node.denominator)
    if isinstance(node, Power):
        size = heights(node.base)
        try:
            exponent = ball(node.exponent, {}, 64)
        except EvaluationError:
            return size + heights(node.exponent)
        times = abs(exponent).upper()
        if not times < MAXIMUM_HEIGHT:
            return MAXIMUM_HEIGHT + 1 if size else 0
        return size * (int(times.ceil().unique_fmpz() or 0) + 1)
    if isinstance(node, Call):
        return sum(map(heights, node.arguments)) + 1
    return sum(heights(child) for child in children(node)) + 1
