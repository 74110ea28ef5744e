"""Formulas built freely, simplest first, from the parameters, the constants of the key and the pieces of it: for what
no alteration of the key explains."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..notation import Call, Constant, Name, Neg, Node, Number, Power, Quotient, Sum, names_in, walk
from .alterations import ONE, TWO, number, product
from .columns import Column, Columns

# Building blocks, and how many formulas of two of them go on to three.
MOST_BLOCKS, GO_ON = 26, 420
# What stands in front of a formula of one or two blocks.
FACTORS = ("2", "3", "4", "10", "60", "100", "1000", "3600")
# A step further down the list for every block, every operation and every factor.
OPERATION, FACTOR, LEAST = 0.4, 0.8, 1.2


@dataclass(frozen=True, slots=True)
class Block:
    """A piece that formulas are built of."""

    tree: Node
    column: Column
    cost: float


@dataclass(frozen=True, slots=True)
class Built:
    """Formulas that were built alike: a row of values for each, and how it is made of those it was built of."""

    columns: NDArray[np.float64]
    costs: NDArray[np.float64]
    left: Sequence[Node]
    right: Sequence[Node]
    # by row: which of each, and by which operation
    made: NDArray[np.int_]

    def tree(self, row: int) -> Node:
        first, second, operation = self.made[row]
        return joined(self.left[first], self.right[second], int(operation))


def blocks(tree: Node, columns: Columns, names: Sequence[str]) -> list[Block]:
    """What formulas are built of: the parameters and their powers, constants of the key, pieces of it."""
    found = dict[Node, float]()
    for name in names:
        found[Name(name)] = 0.6
    for name in names:
        found[Power(Name(name), TWO)] = 1.1
        found[Call("sqrt", (Name(name),))] = 1.6
    for node in walk(tree):
        constant = (isinstance(node, Number) and node != ONE) or (
            isinstance(node, Constant) and node.name in {"pi", "e"}
        )
        if constant or names_in(node):
            found.setdefault(node, 0.8)
    ordered = sorted(found.items(), key=lambda each: each[1])[:MOST_BLOCKS]
    return [Block(node, columns.of(node), cost) for node, cost in ordered]


def joined(left: Node, right: Node, operation: int) -> Node:
    if operation == 0:
        return Sum((left, right))
    if operation == 1:
        return Sum((left, Neg(right)))
    if operation == 2:
        return Sum((right, Neg(left)))
    if operation == 3:
        return product(left, right)
    return Quotient(left, right) if operation == 4 else Quotient(right, left)


def pairs(left: Sequence[Block], right: Sequence[Block], same: bool) -> Built:
    """All that is made of one of each, by the four operations."""
    a, b = np.array([each.column for each in left]), np.array([each.column for each in right])
    costs = np.add.outer([each.cost for each in left], [each.cost for each in right]) + OPERATION
    first, second = np.triu_indices(len(left)) if same else tuple(np.indices(costs.shape).reshape(2, -1))
    one, other = a[first], b[second]
    with np.errstate(all="ignore"):
        values = [one + other, one - other, other - one, one * other, one / other, other / one]
    made = [np.column_stack([first, second, np.full(len(first), k)]) for k in range(len(values))]
    return Built(
        np.concatenate(values), np.tile(costs[first, second], len(values)), [each.tree for each in left],
        [each.tree for each in right], np.concatenate(made),
    )  # fmt: skip


def built(tree: Node, columns: Columns, names: Sequence[str]) -> Iterator[Built]:
    """Formulas of two blocks, with a factor in front, and of three."""
    single = blocks(tree, columns, names)
    if not single:
        return
    two = pairs(single, single, same=True)
    yield two
    kept = distinct(two)
    of_two = [Block(two.tree(row), two.columns[row], float(two.costs[row])) for row in kept[:GO_ON]]
    scales = [Block(number(text), np.full(len(columns.rows), float(text)), FACTOR) for text in FACTORS]
    yield pairs([*single, *of_two], scales, same=False)
    yield pairs(of_two, single, same=False)


def distinct(found: Built) -> list[int]:
    """The cheapest of those that have the same values everywhere, the cheapest first."""
    with np.errstate(all="ignore"):
        finite = np.atleast_1d(np.isfinite(found.columns).all(axis=1))
    seen, kept = set[bytes](), list[int]()
    for row in np.argsort(found.costs, kind="stable"):
        if finite[row] and (held := same_values(found.columns[row])) not in seen:
            seen.add(held)
            kept.append(int(row))
    return kept


def same_values(column: Column) -> bytes:
    """What two columns have in common that are the same but for the last figures of a float."""
    return np.float32(column).tobytes()
