"""How a value is shown: exactly, as a fraction, to so many places or figures, in standard form."""

from __future__ import annotations

import re
from dataclasses import dataclass

from flint import fmpq

from ..algebra import Real, Value, magnitude, rounded, rounded_significant, to_fraction
from ..notation import Neg, Node, Number, Text, fraction, literal, terminating_places

SHOWN = re.compile(r"(?:(exact|fraction|surd)|(\d{1,2}) ?(dp|sf)|standard(?: form)?(?: (\d{1,2}) ?sf)?)\Z")


@dataclass(frozen=True, slots=True)
class Shown:
    """``way`` is exact, fraction, surd, decimal_places, significant_figures or standard_form."""

    way: str = "exact"
    figures: int = 0


def read_shown(text: str) -> Shown | None:
    """The way to show a value from its short name: ``2 dp``, ``3 sf``, ``fraction``, ``standard 3 sf``.

    >>> read_shown("3 sf")
    Shown(way='significant_figures', figures=3)
    """
    text = " ".join(text.split())
    if not text:
        return Shown()
    found = SHOWN.match(text)
    if not found:
        return None
    if found[1]:
        return Shown(found[1])
    if found[2]:
        way = "decimal_places" if found[3] == "dp" else "significant_figures"
        return Shown(way, int(found[2])) if int(found[2]) or way == "decimal_places" else None
    return Shown("standard_form", int(found[4] or 3))


def signed(value: fmpq, decimals: int, exponent: int | None = None) -> Node:
    number = Number(abs(to_fraction(value)), decimals, exponent)
    return Neg(number) if value < 0 else number


def shown_value(value: Value, shown: Shown = Shown()) -> Node:
    """The tree that shows a value.

    An exact value whose decimals end within six places is shown with them; other rationals as a fraction;
    other reals as the formula that gives them.
    """
    if isinstance(value, str):
        return Text(value)
    if isinstance(value, Node):
        return value
    if shown.way == "decimal_places":
        return signed(rounded(value, shown.figures), shown.figures)
    if shown.way == "significant_figures":
        return to_figures(value, shown.figures)
    if shown.way == "standard_form":
        return standard_form(value, shown.figures)
    if isinstance(value, Real):
        return value.tree
    if shown.way == "fraction":
        return fraction(to_fraction(value))
    return literal(to_fraction(value))


def to_figures(value: fmpq | Real, figures: int) -> Node:
    """So many significant figures, in standard form where the zeros of a large number would mislead."""
    near = rounded_significant(value, figures)
    return signed(near, max(0, figures - 1 - magnitude(near)))


def standard_form(value: fmpq | Real, figures: int) -> Node:
    near = rounded_significant(value, figures)
    return signed(near, figures - 1, magnitude(near))


def readable(value: Value, figures: int = 4) -> Node:
    """A value for a table of draws: exact when short, to four figures otherwise."""
    if isinstance(value, fmpq):
        exact = to_fraction(value)
        places = terminating_places(exact)
        if places is not None and places <= 6 and len(str(abs(exact.numerator))) <= 9:
            return literal(exact)
        if places is None and exact.denominator < 100 and abs(exact.numerator) < 1000:
            return fraction(exact)
        return shortened(value, figures)
    return shortened(value, figures) if isinstance(value, Real) else shown_value(value)


def to_decimals(value: fmpq | Real, figures: int) -> Node:
    """A value as a decimal: exact when it has so many figures at most, rounded to them otherwise, but to four or more
    in any case."""
    figures = max(figures, 4)
    if isinstance(value, fmpq):
        exact = to_fraction(value)
        places = terminating_places(exact)
        if places is not None and len(str(abs(int(exact * 10**places))).strip("0")) <= figures:
            return literal(exact, max(0, places))
    return shortened(value, figures)


def shortened(value: fmpq | Real, figures: int) -> Node:
    size = magnitude(value)
    if -4 <= size < 9:
        return to_figures(value, max(figures, size + 1) if size < 9 else figures)
    return standard_form(value, figures)
