"""What every check of a typed answer has around it: its limits, its steps, and what is said of another reading."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import wraps
from typing import Any

from ..algebra import ALLOWANCE, Allowance, OutOfSteps
from ..notation import NOTES, Node, Style, line
from .limits import refused
from .verdict import TOO_COSTLY, UNREADABLE, Verdict

# The work that checking one response may take, in steps; about a thirtieth of a second where it was measured.
STEPS_OF_A_CHECK = 100_000


def checked(check: Callable[..., Verdict]) -> Callable[..., Verdict]:
    """A check whose work is bounded in steps, so that the same response always gets the same verdict, and which says
    when a line could be meant otherwise than it was read."""

    @wraps(check)
    def bounded(self: Any, response: Any) -> Verdict:
        checker = self.checker
        if checker.answer.limits:
            outside = refused(checker.answer.limits, response, checker.settings) if response.strip() else None
            if outside is not None:
                return outside
        # by hand and not by context managers, which would take longer than many a check
        notes: list[str] = []
        outer, allowance = ALLOWANCE.get(), Allowance(STEPS_OF_A_CHECK)
        before, noting = ALLOWANCE.set(allowance), NOTES.set(notes)
        try:
            verdict = check(self, response)
        except OutOfSteps:
            return TOO_COSTLY
        finally:
            ALLOWANCE.reset(before)
            NOTES.reset(noting)
            if outer is not None:
                outer.left -= STEPS_OF_A_CHECK - max(0, allowance.left)
        if notes and verdict.outcome != UNREADABLE:
            verdict = replace(verdict, ambiguity=notes[0])
        mark = checker.settings.decimal_mark
        if mark != "point" and isinstance(verdict.tree, Node):
            verdict = replace(verdict, reading=line(verdict.tree, Style(decimal_mark=mark)))
        return verdict

    return bounded
