"""Counting the work of SymPy, in the helper process: what it builds, looks up and shortens.

The time that SymPy takes is nearly proportional to this count, and the count is the same on every machine: its caches
are emptied, its random numbers begin anew, and the process is started with a fixed order of sets.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import sympy.core.random
from sympy.core.basic import Basic
from sympy.core.cache import clear_cache
from sympy.polys import densebasic, galoistools

# What one is worth: an expression that is built, one that is looked up, a polynomial that is shortened.
BUILT, LOOKED_UP, SHORTENED = 32, 1, 8


class OutOfSympySteps(BaseException):
    """The steps are used up. SymPy passes over errors of many kinds, but not over this."""


class Count:
    """The steps of the work under way, and how many it may take."""

    steps = 0
    most = 0

    @classmethod
    def add(cls, steps: int) -> None:
        cls.steps += steps
        if cls.steps > cls.most:
            raise OutOfSympySteps


@contextmanager
def counted(most: int) -> Iterator[type[Count]]:
    """Count what is done inside, from nothing. Raises ``OutOfSympySteps`` after so many steps."""
    clear_cache()
    sympy.core.random.seed(0)
    Count.steps, Count.most = 0, most
    try:
        yield Count
    finally:
        Count.most = sys.maxsize


def install() -> None:
    """Have SymPy count from now on; once in a process."""
    plain_new = Basic.__new__

    def new(cls: type[Basic], *arguments: Any) -> Any:
        Count.add(BUILT)
        return plain_new(cls, *arguments)

    def hashed(self: Any) -> int:
        # as Basic.__hash__, which keeps what it has worked out
        Count.add(LOOKED_UP)
        found: int | None = self._mhash
        if found is None:
            found = self._mhash = hash((type(self).__name__, *self._hashable_content()))
        return found

    Count.most = sys.maxsize
    Basic.__new__, Basic.__hash__ = new, hashed
    shorteners: dict[Any, Callable[..., Any]] = {
        plain: shortening(plain) for plain in (densebasic.dup_strip, galoistools.gf_strip)
    }
    # each module of the polynomials has the function under a name of its own
    for module in [each for path, each in sys.modules.items() if path.startswith("sympy.polys")]:
        for plain, counting in shorteners.items():
            name = plain.__name__
            if module.__dict__.get(name) is plain:
                setattr(module, name, counting)


def shortening(plain: Callable[..., Any]) -> Callable[..., Any]:
    """A function of SymPy's polynomials that counts how often it is called."""

    def counting(*arguments: Any) -> Any:
        Count.add(SHORTENED)
        return plain(*arguments)

    return counting
