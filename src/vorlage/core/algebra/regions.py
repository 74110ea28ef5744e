"""Places inside the regions into which breaks cut the space of several letters.

Bars, choices and cases in several letters cut space into regions, and some are small: a disc, a box. A place inside is
looked for where what vanishes on the border is largest and where it is smallest, letter by letter; and where no single
formula has all the letters, at the combinations of the cells of each.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import islice, pairwise, product

from flint import fmpq

from ..notation import Call, Logic, Neg, Node, Relation, Sum, literal, names_in, substitute, walk
from .breaks import breaks_of, candidates, grid
from .errors import EvaluationError
from .floats import NoFloats, quick
from .values import to_fraction

Point = dict[str, fmpq]

MAXIMUM_BORDERS, MAXIMUM_CELLS = 8, 4
# How often all letters are gone through in the search for a largest value.
ROUNDS = 3
SMALLEST_BEND = 1e-9
LARGEST_PLACE = 2.0**8
PLACES = sorted({place for place in grid([fmpq(1)]) if abs(place) <= LARGEST_PLACE} | set(map(float, range(-40, 41))))


def inner_places(trees: Sequence[Node], names: Sequence[str], angle: str) -> Iterator[Point]:
    """Places inside the regions of formulas in several letters."""
    borders = list(dict.fromkeys(border for tree in trees for name in names for border, _ in candidates(tree, name)))
    joint = [border for border in borders if len(names_in(border)) > 1]
    conditions = [
        node.arguments[0] for tree in trees for node in walk(tree) if isinstance(node, Call) and node.function == "if"
    ]
    for margin in [
        *islice(joint, MAXIMUM_BORDERS),
        *map(margin_of, islice(dict.fromkeys(conditions), MAXIMUM_BORDERS)),
    ]:
        if len(names_in(margin)) > 1:
            for sign in (1, -1):
                yield from furthest(margin, names, sign, angle)
    cells = {
        name: cells_of([border for border in borders if names_in(border) == {name}], name, angle) for name in names
    }
    if sum(len(cell) > 1 for cell in cells.values()) > 1:
        # the middle cells first: what is small lies between breaks
        for values in product(*cells.values()):
            yield dict(zip(cells, values))


def cells_of(borders: Sequence[Node], name: str, angle: str) -> list[fmpq]:
    """A place between any two neighbouring breaks in one letter, and 1 where there are none."""
    ends = breaks_of(borders, name, [fmpq(1)], angle).places if borders else []
    if not ends:
        return [fmpq(1)]
    between = [(low + high) / 2 for low, high in pairwise(ends)]
    return [*between, ends[-1] + 1, ends[0] - 1][:MAXIMUM_CELLS]


def margin_of(condition: Node) -> Node:
    """What is positive where a condition holds: the least margin of all relations that have to hold."""
    if isinstance(condition, Logic):
        return Call("max" if condition.word == "or" else "min", tuple(map(margin_of, condition.terms)))
    if isinstance(condition, Relation):
        margins = tuple(
            Sum((right, Neg(left)) if sign in {"<", "≤"} else (left, Neg(right)))
            for sign, (left, right) in zip(condition.signs, pairwise(condition.terms))
        )
        return margins[0] if len(margins) == 1 else Call("min", margins)
    return condition


def furthest(border: Node, names: Sequence[str], sign: int, angle: str) -> Iterator[Point]:
    """Where a formula is largest (or smallest, with the sign −1), found letter by letter."""
    here: Point = {name: fmpq(1) for name in names}
    letters = [name for name in names if name in names_in(border)]
    for _ in range(ROUNDS):
        before = dict(here)
        for name in letters:
            value = along(border, name, here, angle)
            if value is None:
                return
            likely = [*PLACES, *vertex(value)]
            found = [(sign * each, -abs(place), place) for place in likely if (each := value(place)) is not None]
            if found:
                here[name] = fmpq(*max(found)[2].as_integer_ratio())
        if here == before:
            break
    yield here


def vertex(value: Callable[[float], float | None]) -> list[float]:
    """Where the parabola through three values turns: far out as well, discs are found at once."""
    low, middle, high = value(-1.0), value(0.0), value(1.0)
    if low is None or middle is None or high is None:
        return []
    bend = low - 2 * middle + high
    return [(low - high) / (2 * bend)] if abs(bend) > SMALLEST_BEND else []


def along(border: Node, name: str, here: Mapping[str, fmpq], angle: str) -> Callable[[float], float | None] | None:
    others = {other: literal(to_fraction(value)) for other, value in here.items() if other != name}
    try:
        return quick(substitute(border, others), angle)
    except (NoFloats, EvaluationError):
        return None
