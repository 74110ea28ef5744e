"""The form a formula is written in: expanded, factorised, in lowest terms and so on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import gcd

from ..algebra import EvaluationError, NotRational, RationalReader
from ..notation import (
    Call,
    Drawn,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Sum,
    fields_of,
    names_in,
    unsigned,
    walk,
)


def lacking_form(response: Node, key: Node, form: str) -> str | None:
    """What is missing to be in the form asked for, as a sentence for the student; None when nothing is."""
    if form == "any":
        return None
    if form == "as_key":
        return None if shape(response) == shape(key) else "This is equal, but not in the form asked for."
    asked = FORMS[form]
    return None if asked.test(response) else asked.lacking


def terms_of(tree: Node) -> tuple[Node, ...]:
    """The terms of a sum without their signs."""
    terms = tree.terms if isinstance(tree, Sum) else (tree,)
    return tuple(unsigned(term) for term in terms)


def factors_of(tree: Node) -> tuple[Node, ...]:
    tree = unsigned(tree)
    if isinstance(tree, Product):
        return tuple(factor for piece in tree.factors for factor in factors_of(piece))
    return (tree,)


def has_brackets(tree: Node) -> bool:
    """Whether a sum stands where it would have to be multiplied out."""
    for node in walk(tree):
        if isinstance(node, Product) and any(isinstance(unsigned(factor), Sum) for factor in node.factors):
            return True
        if isinstance(node, Power) and isinstance(unsigned(node.base), Sum | Product):
            return True
        if isinstance(node, Neg) and isinstance(unsigned(node.operand), Sum):
            return True
        if isinstance(node, Sum) and any(isinstance(unsigned(term), Sum) for term in node.terms):
            return True
    return False


def is_collected(term: Node) -> bool:
    """Whether a term has one number and each letter once: 6x² and not 2x·3x."""
    factors = factors_of(term)
    numbers = sum(isinstance(factor, Number) for factor in factors)
    bases = [factor.base if isinstance(factor, Power) else factor for factor in factors if names_in(factor)]
    return numbers <= 1 and len(bases) == len(set(bases))


def is_expanded(tree: Node) -> bool:
    if has_brackets(tree) or not all(map(is_collected, terms_of(tree))):
        return False
    try:
        ratio = RationalReader(sorted(names_in(tree))).of(tree).reduced()
    except (NotRational, EvaluationError):
        return True
    if not ratio.bottom.is_constant():
        return True
    return len(terms_of(tree)) == max(1, len(ratio.top))


def is_factorised(tree: Node) -> bool:
    """Completely, over the integers: every factor with a letter is irreducible and has no common number."""
    for factor in factors_of(tree):
        base = factor.base if isinstance(factor, Power) else factor
        if isinstance(factor, Quotient):
            if not is_factorised(factor.numerator) or not is_factorised(factor.denominator):
                return False
            continue
        try:
            ratio = RationalReader(sorted(names_in(base))).of(unsigned(base)).reduced()
        except (NotRational, EvaluationError):
            continue
        if ratio.top.is_constant():
            if isinstance(unsigned(base), Sum):
                return False
            continue
        content, factors = ratio.top.factor()
        if abs(content) != 1 or len(factors) != 1 or factors[0][1] != 1 or not ratio.bottom.is_one():
            return False
    return True


def has_inner_fraction(tree: Node) -> bool:
    return any(isinstance(node, Quotient | Mixed) for node in walk(tree)) or any(
        isinstance(node, Power) and isinstance(node.exponent, Neg) for node in walk(tree)
    )


def is_single_fraction(tree: Node) -> bool:
    tree = unsigned(tree)
    if isinstance(tree, Quotient):
        return not has_inner_fraction(tree.numerator) and not has_inner_fraction(tree.denominator)
    return not has_inner_fraction(tree)


def is_in_lowest_terms(tree: Node) -> bool:
    tree = unsigned(tree)
    if not isinstance(tree, Quotient):
        return not has_inner_fraction(tree)
    if not is_single_fraction(tree):
        return False
    reader = RationalReader(sorted(names_in(tree)))
    try:
        top, bottom = reader.of(tree.numerator), reader.of(tree.denominator)
    except (NotRational, EvaluationError):
        return True
    if not top.bottom.is_one() or not bottom.bottom.is_one():
        return False
    common = top.top.gcd(bottom.top)
    numbers = gcd(int(top.top.content()), int(bottom.top.content()))
    return bool(common.is_constant()) and numbers == 1 and not bottom.top.is_one()


def is_completed_square(tree: Node) -> bool:
    """a(x + h)² + k: one square of a linear bracket, and otherwise only numbers."""
    squares = 0
    for term in terms_of(tree):
        if not names_in(term):
            continue
        with_letters = [factor for factor in factors_of(term) if names_in(factor)]
        if len(with_letters) != 1:
            return False
        square = with_letters[0]
        if isinstance(square, Quotient) and not names_in(square.denominator):
            square = unsigned(square.numerator)
        if not isinstance(square, Power) or not isinstance(square.exponent, Number) or square.exponent.value != 2:
            return False
        if not is_linear(square.base):
            return False
        squares += 1
    return squares == 1


def is_linear(tree: Node) -> bool:
    try:
        ratio = RationalReader(sorted(names_in(tree))).of(tree)
    except (NotRational, EvaluationError):
        return False
    return bool(ratio.bottom.is_constant()) and int(ratio.top.total_degree()) <= 1


def is_rationalised(tree: Node) -> bool:
    """No root below a fraction bar."""
    for node in walk(tree):
        below = node.denominator if isinstance(node, Quotient) else None
        if isinstance(node, Power) and isinstance(node.exponent, Neg):
            if isinstance(unsigned(node.exponent), Quotient):
                return False
            below = node.base
        if below is None:
            continue
        for inner in walk(below):
            if isinstance(inner, Call) and inner.function in {"sqrt", "root"}:
                return False
            if isinstance(inner, Power) and isinstance(unsigned(inner.exponent), Quotient):
                return False
    return True


Shape = tuple[object, ...]


def shape(tree: Node) -> Shape:
    """The form of a formula up to the order of terms and of factors."""
    if isinstance(tree, Drawn):
        return shape(tree.value)
    if isinstance(tree, Sum):
        return ("sum", *sorted(map(shape, tree.terms), key=repr))
    if isinstance(tree, Product):
        return ("product", *sorted((shape(factor) for factor in factors_of(tree)), key=repr))
    if isinstance(tree, Number):
        return ("number", tree.value)
    if isinstance(tree, Name):
        return ("name", tree.name)
    if isinstance(tree, Postfix):
        return (tree.sign, shape(tree.operand))
    if isinstance(tree, Call):
        return (tree.function, *map(shape, tree.arguments))
    held = [getattr(tree, name) for name in fields_of(tree)]
    return (type(tree).__name__, *(shape(piece) if isinstance(piece, Node) else piece for piece in held))


@dataclass(frozen=True, slots=True)
class WrittenForm:
    """A form in which a formula can be asked for."""

    test: Callable[[Node], bool]
    # what a student is told that has not got it
    lacking: str
    # what an author chooses, what a key says, and how it is proposed to an author
    words: str
    said: str
    proposed: str


# The register of forms, the most telling first.
FORMS = {
    "factorised": WrittenForm(
        is_factorised, "This is equal, but not completely factorised.", "factorised", "factorised", "factorised"
    ),
    "completed_square": WrittenForm(
        is_completed_square, "This is equal, but not in completed square form.", "completed square",
        "in completed square form", "completed square",
    ),
    "expanded": WrittenForm(
        is_expanded, "This is equal, but not multiplied out and collected.", "multiplied out", "multiplied out",
        "multiplied out",
    ),
    "lowest_terms": WrittenForm(
        is_in_lowest_terms, "This is equal, but not in its lowest terms.", "in lowest terms", "in lowest terms",
        "lowest terms",
    ),
    "single_fraction": WrittenForm(
        is_single_fraction, "This is equal, but not written as a single fraction.", "a single fraction",
        "as a single fraction", "a single fraction",
    ),
    "rationalised": WrittenForm(
        is_rationalised, "This is equal, but a root is left in the denominator.", "no root in a denominator",
        "without roots in the denominator", "no root below",
    ),
    "no_brackets": WrittenForm(
        lambda tree: not has_brackets(tree), "This is equal, but there are still brackets in it.", "without brackets",
        "without brackets", "",
    ),
}  # fmt: skip
