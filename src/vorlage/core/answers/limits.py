"""Limits on what is typed: about the form of an answer, told at once, and without any cost."""

from __future__ import annotations

from functools import lru_cache

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Exact, compare
from ..notation import NotationError, Settings, authored, read, read_authored, visible
from ..quantities import split_quantity
from .patterns import pattern
from .records import Limit
from .typed import plain_number, without_name
from .verdict import UNREADABLE, Verdict

# A number with its unit is never longer.
LONGEST_NUMBER = 80
WORDS = {
    "whole": "A whole number is asked for here.",
    "between": "The answer has to lie {ends}.",
    "length": "The answer has to be {ends} characters long.",
    "pattern": "The answer does not have the form that is asked for.",
}


def refused(limits: tuple[Limit, ...], response: str, settings: Settings) -> Verdict | None:
    """The verdict for a response outside the limits; None when it keeps them, or cannot be read as a number anyway."""
    for limit in limits:
        if not keeps(limit, response, settings):
            told = limit.words or WORDS[limit.rule].format(ends=ends(limit))
            return Verdict(UNREADABLE, feedback=(told,), because="outside what may be typed", code="limit")
    return None


def ends(limit: Limit) -> str:
    if limit.low and limit.high:
        return f"from {limit.low} to {limit.high}"
    return f"at least {limit.low}" if limit.low else f"at most {limit.high}"


def keeps(limit: Limit, response: str, settings: Settings) -> bool:
    if limit.rule == "pattern":
        return bool(pattern(limit.pattern).fullmatch(visible(response).strip()))
    if limit.rule == "length":
        return within(fmpq(len(visible(response).strip())), limit, settings)
    value = typed_value(response, settings)
    if value is None:
        return True
    if limit.rule == "whole":
        return isinstance(value, fmpq) and bool(value.q == 1)
    return within(value, limit, settings)


def within(value: Exact, limit: Limit, settings: Settings) -> bool:
    low, high = (end_value(end, settings) for end in (limit.low, limit.high))
    return (low is None or compare(value, low) >= 0) and (high is None or compare(value, high) <= 0)


@lru_cache(maxsize=256)
def end_value(text: str, settings: Settings) -> Exact | None:
    """An end of a limit. Raises ``NotationError`` or ``EvaluationError`` where it is no number."""
    return Compiled(read_authored(text, settings), settings.angle).value({}) if text.strip() else None


def typed_value(response: str, settings: Settings) -> Exact | None:
    """The number in a response, its unit left out; None where there is none."""
    if len(response) > LONGEST_NUMBER:
        return None
    try:
        amount, _ = split_quantity(plain_number(visible(response), settings), settings)
        return Compiled(without_name(read(amount, settings)), settings.angle).value({})
    except (NotationError, EvaluationError):
        return None


def check_limits(limits: tuple[Limit, ...], settings: Settings) -> None:
    """Raise ``NotationError`` or ``EvaluationError`` where a limit cannot be used."""
    for limit in limits:
        if limit.rule == "pattern":
            pattern(limit.pattern)
        elif limit.rule != "whole":
            for end in (limit.low, limit.high):
                end_value(end, authored(settings))
