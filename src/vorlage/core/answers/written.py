"""Demands on how a number is written, apart from its value."""

from __future__ import annotations

from math import gcd

from ..notation import Call, Constant, Mixed, Node, Number, Postfix, Product, Quotient, Sum, unsigned, walk
from .specification import Written


def unmet(tree: Node, demand: Written) -> str | None:
    """What the writing lacks, as a sentence for the student; None when nothing does."""
    if demand.form is not None and not FORMS[demand.form](unsigned(tree)):
        return f"Write the answer as {NAMES[demand.form]}."
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
FORMS = {
    "integer": is_whole,
    "fraction": is_fraction,
    "mixed": is_mixed,
    "decimal": lambda tree: isinstance(tree, Number) and tree.exponent is None,
    "percent": lambda tree: isinstance(tree, Postfix) and tree.sign == "%",
    "standard_form": is_standard_form,
    "surd": is_surd,
    "cartesian": is_cartesian,
}
NAMES = {
    "integer": "a whole number",
    "fraction": "a fraction",
    "mixed": "a mixed number",
    "decimal": "a decimal",
    "percent": "a percentage",
    "standard_form": "a number in standard form",
    "surd": "an exact value with roots",
    "cartesian": "a + b i, multiplied out",
}
