"""Demands on how a number is written, apart from its value."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import gcd
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field

from ..notation import Call, Constant, Mixed, Node, Number, Postfix, Product, Quotient, Sum, unsigned, walk
from .records import HALF, Share, Strict


def unmet(tree: Node, demand: Written) -> str | None:
    """What the writing lacks, as a sentence for the student; None when nothing does."""
    if demand.form is not None and not WAYS[demand.form].test(unsigned(tree)):
        return f"Write the answer as {WAYS[demand.form].told}."
    if demand.lowest_terms and not in_lowest_terms(unsigned(tree)):
        return "Write the fraction in its lowest terms."
    number = unsigned(tree)
    if demand.decimal_places is not None and not has_places(number, demand.decimal_places):
        return f"Give the answer to {counted(demand.decimal_places, 'decimal place')}."
    if demand.significant_figures is not None and not has_figures(number, demand.significant_figures):
        return f"Give the answer to {counted(demand.significant_figures, 'significant figure')}."
    return None


def counted(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def has_places(tree: Node, places: int) -> bool:
    return isinstance(tree, Number) and tree.exponent is None and tree.decimals == places


def has_figures(tree: Node, figures: int) -> bool:
    """Zeros at the end of a whole number may or may not count; the student gets the doubt."""
    if not isinstance(tree, Number):
        return False
    least = tree.significant_figures
    most = len(str(int(tree.value))) if tree.form == "integer" else least
    return least <= figures <= most


def is_whole(tree: Node) -> bool:
    return isinstance(tree, Number) and tree.form == "integer"


def is_fraction(tree: Node) -> bool:
    if isinstance(tree, Quotient):
        return is_whole(unsigned(tree.numerator)) and is_whole(unsigned(tree.denominator))
    return is_whole(tree)


def in_lowest_terms(tree: Node) -> bool:
    if isinstance(tree, Mixed):
        proper = tree.numerator.value < tree.denominator.value
        return proper and gcd(int(tree.numerator.value), int(tree.denominator.value)) == 1
    if isinstance(tree, Quotient):
        top, bottom = unsigned(tree.numerator), unsigned(tree.denominator)
        if not isinstance(top, Number) or not isinstance(bottom, Number):
            return False
        return gcd(int(top.value), int(bottom.value)) == 1 and bottom.value != 1
    return is_whole(tree)


def is_standard_form(tree: Node) -> bool:
    return isinstance(tree, Number) and tree.exponent is not None and 1 <= tree.mantissa < 10


def is_surd(tree: Node) -> bool:
    """Roots are left standing and nothing has been turned into decimals."""
    return not any(isinstance(node, Number) and node.form != "integer" for node in walk(tree)) and not any(
        isinstance(node, Call) and node.function not in {"sqrt", "root"} for node in walk(tree)
    )


def is_mixed(tree: Node) -> bool:
    """A whole part with a fraction below one, or a whole number."""
    return is_whole(tree) or (isinstance(tree, Mixed) and tree.numerator.value < tree.denominator.value)


def is_cartesian(tree: Node) -> bool:
    """``a + b i``: at most a real term and a multiple of i, multiplied out."""
    parts = [sorted_out(term) for term in (tree.terms if isinstance(tree, Sum) else (tree,))]
    return None not in parts and len(set(parts)) == len(parts)


def sorted_out(term: Node) -> str | None:
    """Whether a term is ``real`` or ``imaginary``; None where it has still to be multiplied out."""
    term = unsigned(term)
    if isinstance(term, Quotient) and contains_i(term.numerator) and not contains_i(term.denominator):
        return sorted_out(term.numerator) and "imaginary"
    if not contains_i(term):
        return None if any(isinstance(piece, Sum) for piece in walk(term)) else "real"
    factors = term.factors if isinstance(term, Product) else (term,)
    i = [factor for factor in factors if factor == IMAGINARY]
    rest = [factor for factor in factors if factor != IMAGINARY]
    plain = not any(contains_i(factor) or isinstance(piece, Sum) for factor in rest for piece in walk(factor))
    return "imaginary" if len(i) == 1 and plain and len(rest) <= 2 else None


def contains_i(tree: Node) -> bool:
    return any(node == IMAGINARY for node in walk(tree))


IMAGINARY = Constant("i")


@dataclass(frozen=True, slots=True)
class Way:
    """A way in which a number can be demanded to be written."""

    test: Callable[[Node], bool]
    # how a student is told, how an author types it, and how it is proposed to an author
    told: str
    typed: str
    proposed: str = ""


# The register of ways of writing.
WAYS = {
    "integer": Way(is_whole, "a whole number", "whole number", "a whole number"),
    "fraction": Way(is_fraction, "a fraction", "fraction", "a fraction"),
    "mixed": Way(is_mixed, "a mixed number", "mixed number"),
    "decimal": Way(
        lambda tree: isinstance(tree, Number) and tree.exponent is None, "a decimal", "decimal", "a decimal"
    ),
    "percent": Way(lambda tree: isinstance(tree, Postfix) and tree.sign == "%", "a percentage", "percent"),
    "standard_form": Way(is_standard_form, "a number in standard form", "standard form"),
    "surd": Way(is_surd, "an exact value with roots", "surd", "exact, with roots"),
    "cartesian": Way(is_cartesian, "a + b i, multiplied out", "a + b i", "a + b i"),
}
if TYPE_CHECKING:
    WrittenForm = str
else:
    WrittenForm = Literal[tuple(WAYS)]


class Written(Strict):
    """A demand on how a number is written, apart from its value."""

    decimal_places: int | None = Field(default=None, ge=0, le=30)
    significant_figures: int | None = Field(default=None, ge=1, le=30)
    form: WrittenForm | None = None
    lowest_terms: bool = False
    share: Share = HALF


def read_written(typed: str, share: str) -> dict[str, Any] | None:
    """``2 dp``, ``3 sf``, ``fraction``, ``fraction in lowest terms``, ``standard form``, …; None for nothing."""
    words = " ".join(typed.lower().split())
    if not words:
        return None
    demand: dict[str, Any] = {"share": share} if share else {}
    if words.endswith("in lowest terms"):
        demand["lowest_terms"] = True
        words = words.removesuffix("in lowest terms").strip()
    count, _, unit = words.partition(" ")
    if count.isdecimal() and unit in {"dp", "sf"}:
        demand["decimal_places" if unit == "dp" else "significant_figures"] = int(count)
    elif words:
        demand["form"] = next((name for name, way in WAYS.items() if way.typed == words), words)
    return demand


def written_words(demand: Mapping[str, Any]) -> str:
    """A demand as ``read_written`` reads it."""
    if demand.get("decimal_places") is not None:
        return f"{demand['decimal_places']} dp"
    if demand.get("significant_figures") is not None:
        return f"{demand['significant_figures']} sf"
    form = demand.get("form")
    words = WAYS[form].typed if form else ""
    return f"{words} in lowest terms".strip() if demand.get("lowest_terms") else words
