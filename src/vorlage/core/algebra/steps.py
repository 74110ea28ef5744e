"""Counting work, so that a bound means the same on every machine, however busy it is.

A step is about what it takes to work out one sign of a formula with rational values (half a microsecond where this was
measured); what takes longer counts for so many more.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from ..budget import BUDGET, charge
from ..notation import Node, walk

# A sign in ball arithmetic, and what each bit of the working precision adds to it.
STEPS_OF_BALL = 8
BITS_A_STEP = 128


class OutOfSteps(Exception):
    """The work that was allowed is used up. It is no error of a formula, so nothing that passes those over stops it."""


@dataclass
class Allowance:
    """The steps that are left."""

    left: int

    def spend(self, steps: int) -> None:
        self.left -= steps
        if self.left < 0:
            raise OutOfSteps


ALLOWANCE: ContextVar[Allowance | None] = ContextVar("allowance", default=None)


@contextmanager
def allowed(steps: int) -> Iterator[Allowance]:
    """Allow so many steps for what is done inside; ``OutOfSteps`` is raised where they are used up.

    >>> with allowed(100):
    ...     spend(60)
    ...     spend(60)
    Traceback (most recent call last):
    vorlage.core.algebra.steps.OutOfSteps
    """
    outer = ALLOWANCE.get()
    allowance = Allowance(steps)
    token = ALLOWANCE.set(allowance)
    try:
        yield allowance
    finally:
        ALLOWANCE.reset(token)
        if outer is not None:
            # what was done inside was done outside as well
            outer.left -= steps - max(0, allowance.left)


def spend(steps: int) -> None:
    """Count some work, where there is a bound on it."""
    allowance = ALLOWANCE.get()
    if allowance is not None:
        allowance.spend(steps)
    charge(steps)


def spend_on_balls(signs: int, bits: int) -> None:
    """Count so many signs that were worked out in ball arithmetic, where there is a bound on it."""
    spend(signs * (STEPS_OF_BALL + bits // BITS_A_STEP))


def spend_on_tree(tree: Node) -> None:
    """Count each sign of a formula once, where there is a bound on it."""
    if ALLOWANCE.get() is not None or BUDGET.get() is not None:
        spend(size(tree))


def size(tree: Node) -> int:
    """How many signs a formula has: the nodes of its tree."""
    return sum(1 for _ in walk(tree))
