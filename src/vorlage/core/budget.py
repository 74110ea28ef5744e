"""What one request may use up, whatever it is made of: so that nothing that a person types holds up anybody else.

Work is counted in steps (about a microsecond each), which are the same on every machine and however busy it is. What
is not counted well enough is stopped by the time of the processor that this thread has used; waiting for others and
other people's work do not count.

Whoever begins a piece of work says what it belongs to (``at``), so that the message stands at the row that costs.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache, wraps
from time import thread_time
from typing import TypeVar

Path = tuple[str | int, ...]
Loaded = TypeVar("Loaded")
# The clock is looked at after so many steps.
LOOKED_AT_EVERY = 5_000


class OutOfBudget(Exception):
    """The request has used up what it may. It is no error of a formula, so nothing that passes those over stops it.

    ``path`` leads to the field of the document whose work took most; empty where nobody said what was worked on.
    """

    def __init__(self, path: Path) -> None:
        super().__init__("This takes too long to be worked out.")
        self.path = path


class Budget:
    """The steps and the seconds of the processor that are left, and what they went to."""

    def __init__(self, steps: int, seconds: float, outer: Budget | None = None) -> None:
        self.outer = outer
        self.steps = self.left = steps
        self.deadline = thread_time() + seconds
        self.unseen = 0
        self.spent: dict[Path, int] = {}
        self.path: Path = ()

    def charge(self, steps: int) -> None:
        """Count some work. Raises ``OutOfBudget``."""
        self.left -= steps
        self.spent[self.path] = self.spent.get(self.path, 0) + steps
        self.unseen += steps
        if self.left < 0:
            raise OutOfBudget(self.costliest)
        if self.unseen > LOOKED_AT_EVERY:
            self.unseen = 0
            if thread_time() > self.deadline:
                raise OutOfBudget(self.costliest)

    @property
    def costliest(self) -> Path:
        """The field that most went to, of those that were named."""
        named = {path: steps for path, steps in self.spent.items() if path}
        return max(named, key=lambda path: named[path]) if named else ()


BUDGET: ContextVar[Budget | None] = ContextVar("budget", default=None)


@contextmanager
def budgeted(steps: int, seconds: float) -> Iterator[Budget]:
    """Allow so much for what is done inside, and never more than is left outside.

    >>> with budgeted(100, 1.0):
    ...     at("parts", 0, "answer", "key")
    ...     charge(60)
    ...     charge(60)
    Traceback (most recent call last):
    vorlage.core.budget.OutOfBudget: This takes too long to be worked out.
    """
    outer = BUDGET.get()
    if outer is not None:
        steps = min(steps, max(0, outer.left))
        seconds = min(seconds, outer.deadline - thread_time())
    budget = Budget(steps, seconds, outer)
    token = BUDGET.set(budget)
    try:
        yield budget
    finally:
        BUDGET.reset(token)
        if outer is not None:
            # what was done inside was done outside as well
            outer.left -= steps - budget.left
            for path, spent in budget.spent.items():
                outer.spent[path] = outer.spent.get(path, 0) + spent


def loaded_once(load: Callable[[], Loaded]) -> Callable[[], Loaded]:
    """What everybody needs, loaded when it is first asked for; whoever happens to be the first does not pay for it."""

    @cache
    def apart() -> Loaded:
        began, token = thread_time(), BUDGET.set(None)
        try:
            return load()
        finally:
            BUDGET.reset(token)
            budget, took = BUDGET.get(), thread_time() - began
            while budget is not None:
                budget.deadline += took
                budget = budget.outer

    return wraps(load)(apart)


def charge(steps: int) -> None:
    """Count some work, where there is a budget."""
    budget = BUDGET.get()
    if budget is not None:
        budget.charge(steps)


def at(*path: str | int) -> None:
    """Say which field of the document the work that follows belongs to, where there is a budget."""
    budget = BUDGET.get()
    if budget is not None:
        budget.path = path
