"""Tidying what drawn values cause: no ``1x``, no ``+ −3``, no ``0x``, no ``x^1``, no ``3/1``.

Only places where a drawn value stands are touched; what the author typed stays as typed.
"""

from __future__ import annotations

from fractions import Fraction

from .rebuild import rebuild
from .tree import Drawn, Neg, Node, Number, Power, Product, Quotient, Sum


def literal(value: Fraction, decimals: int | None = None) -> Node:
    """The tree that shows a rational value: a whole number, a decimal that ends soon, or a fraction.

    With ``decimals`` the value must be exact to so many places; they are all shown.

    >>> literal(Fraction(-5, 4))
    Neg(operand=Number(value=Fraction(5, 4), decimals=2, exponent=None))
    """
    if value < 0:
        return Neg(literal(-value, decimals))
    if decimals is not None:
        return Number(value, decimals)
    places = terminating_places(value)
    if places is not None and places <= 6:
        return Number(value, places)
    return fraction(value)


def fraction(value: Fraction) -> Node:
    """A rational value as a fraction in lowest terms, or a whole number."""
    if value < 0:
        return Neg(fraction(-value))
    if value.denominator == 1:
        return Number(value)
    return Quotient(Number(Fraction(value.numerator)), Number(Fraction(value.denominator)))


def terminating_places(value: Fraction) -> int | None:
    """How many decimals the value has, or None when its decimals never end."""
    rest, twos, fives = value.denominator, 0, 0
    while rest % 2 == 0:
        rest, twos = rest // 2, twos + 1
    while rest % 5 == 0:
        rest, fives = rest // 5, fives + 1
    return max(twos, fives) if rest == 1 else None


def tidy(node: Node) -> Node:
    """The tree with the traces of drawing smoothed away, inside first."""
    inner = node if isinstance(node, Drawn) else rebuild(node, tidy)
    if isinstance(inner, Neg) and isinstance(inner.operand, Neg) and not isinstance(node.operand, Neg):  # type: ignore[attr-defined]
        return inner.operand.operand
    rule = RULES.get(type(inner))
    return rule(inner) if rule else inner


def drawn_value(node: Node) -> Fraction | None:
    """The number that a drawn value is, or None."""
    if not isinstance(node, Drawn):
        return None
    return plain_value(node.value)


def plain_value(node: Node) -> Fraction | None:
    if isinstance(node, Number):
        return node.value
    if isinstance(node, Neg):
        inner = plain_value(node.operand)
        return None if inner is None else -inner
    if isinstance(node, Quotient):
        top, bottom = plain_value(node.numerator), plain_value(node.denominator)
        return None if top is None or not bottom else top / bottom
    return None


def opposite(node: Node) -> Node:
    """A drawn negative value without its sign."""
    assert isinstance(node, Drawn)
    return Drawn(node.value.operand, node.name) if isinstance(node.value, Neg) else node


def is_negative(node: Node) -> bool:
    return isinstance(node, Drawn) and isinstance(node.value, Neg)


def tidy_sum(node: Node) -> Node:
    assert isinstance(node, Sum)
    terms = [tidy_neg(Neg(opposite(term))) if is_negative(term) else term for term in node.terms]
    kept = [term for term in terms if not is_zero(term)]
    if not kept:
        return terms[0].operand if isinstance(terms[0], Neg) else terms[0]
    if any(isinstance(bare_drawn(term), Sum) for term in kept):
        kept = [piece for term in kept for piece in spread(term)]
    return kept[0] if len(kept) == 1 else Sum(tuple(kept))


def bare_drawn(node: Node) -> Node:
    return node.value if isinstance(node, Drawn) else node


def spread(term: Node) -> tuple[Node, ...]:
    """A drawn sum inside a sum needs no brackets when it is added."""
    if isinstance(term, Drawn) and isinstance(term.value, Sum):
        return tuple(
            Neg(Drawn(piece.operand, term.name)) if isinstance(piece, Neg) else Drawn(piece, term.name)
            for piece in term.value.terms
        )
    return (term,)


def is_zero(node: Node) -> bool:
    return drawn_value(node.operand if isinstance(node, Neg) else node) == 0


def tidy_neg(node: Node) -> Node:
    assert isinstance(node, Neg)
    inner = node.operand
    if is_negative(inner):
        return opposite(inner)
    if isinstance(inner, Neg) and has_drawn(inner):
        return inner.operand
    return inner if drawn_value(inner) == 0 else node


def has_drawn(node: Node) -> bool:
    if isinstance(node, Drawn):
        return True
    if isinstance(node, Neg):
        return has_drawn(node.operand)
    if isinstance(node, Product):
        return isinstance(node.factors[0], Drawn)
    return isinstance(node, Quotient) and has_drawn(node.numerator)


def is_figure(node: Node) -> bool:
    """Whether a factor shows as figures, so that a 1 beside it means something."""
    return isinstance(node, Number) or drawn_value(node) is not None


def tidy_product(node: Node) -> Node:
    assert isinstance(node, Product)
    factors, signs = list(node.factors), list(node.signs)
    if all(is_figure(factor) for factor in factors):
        return node
    for factor in factors:
        if drawn_value(factor) == 0:
            return factor
    negative = is_negative(factors[0])
    if negative:
        factors[0] = opposite(factors[0])
    elif isinstance(factors[0], Neg) and has_drawn(factors[0]):
        negative, factors[0] = True, factors[0].operand
    k = 0
    while k < len(factors):
        # a 1 goes unless the figures beside it need it to be read
        if drawn_value(factors[k]) == 1 and len(factors) > 1 and not all(map(is_figure, factors)):
            del factors[k]
            del signs[max(0, k - 1)]
        else:
            k += 1
    inner = factors[0] if len(factors) == 1 else Product(tuple(factors), tuple(signs))
    return tidy_neg(Neg(inner)) if negative else inner


def tidy_power(node: Node) -> Node:
    assert isinstance(node, Power)
    if drawn_value(node.exponent) == 1:
        return node.base
    return node


def tidy_quotient(node: Node) -> Node:
    assert isinstance(node, Quotient)
    if drawn_value(node.denominator) == 1:
        return node.numerator
    if drawn_value(node.numerator) == 0 and not isinstance(node.denominator, Number):
        return node.numerator
    if is_negative(node.numerator):
        return Neg(Quotient(opposite(node.numerator), node.denominator))
    if isinstance(node.numerator, Neg) and has_drawn(node.numerator):
        return Neg(Quotient(node.numerator.operand, node.denominator))
    return node


RULES = {
    Sum: tidy_sum,
    Neg: tidy_neg,
    Product: tidy_product,
    Power: tidy_power,
    Quotient: tidy_quotient,
}
