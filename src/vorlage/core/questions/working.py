"""Worked solutions, checked: every ``=`` between values is true to the digits shown, and the end has the form that is
asked for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

from ..algebra import Compiled, EvaluationError, approximate, stripped
from ..notation import (
    Constant,
    Drawn,
    Neg,
    Node,
    Number,
    Postfix,
    Product,
    Quantity,
    Relation,
    Style,
    line,
    names_in,
)
from .drawn import DrawnQuestion

# A difference that may come from rounding, as a share of the larger side.
NEARLY = 0.02
# What ``≈`` may hide, as a share of the larger side.
ABOUT = 0.05
# Figures from which a whole number may have been rounded.
ROUNDED = 3


def solution_faults(item: DrawnQuestion, part: int) -> list[tuple[str, str, str]]:
    """(code, message, span) for each fault of a part's worked solution in a draw; the message goes on after the label,
    and the span is the source in which the fault stands."""
    found = []
    text = item.question.solutions[part]
    last: Node | None = None
    for span, source in text.trees.items():
        tree = item.shown(source, part)
        if isinstance(tree, Relation):
            # the signs are the author's: one that is set as ≈ by itself hides nothing
            signs = source.signs if isinstance(source, Relation) else tree.signs
            found += [("untrue", message, span) for message in untrue(item, replace(tree, signs=signs))]
        last = tree.terms[-1] if isinstance(tree, Relation) else tree
    told = in_another_form(item, part, last) if last is not None else ""
    if told:
        found.append(("solution_form", told, ""))
    return found


def untrue(item: DrawnQuestion, chain: Relation) -> Iterator[str]:
    """What is not true in a chain of equal values."""
    angle = item.question.settings.angle
    for sign, left, right in zip(chain.signs, chain.terms, chain.terms[1:]):
        if sign not in {"=", "≈"}:
            continue
        one, other = worth_as_shown(left, angle), worth_as_shown(right, angle)
        if one is None or other is None:
            continue
        apart, size = abs(one - other), max(abs(one), abs(other))
        if sign == "≈" and apart > ABOUT * size:
            yield f"the solution says {said(left)} ≈ {said(right)}, but {said(left)} is {one:.6g}."
        elif sign == "=" and apart > max(half_a_digit(left), half_a_digit(right)) * (1 + 1e-9) + 1e-12 * size:
            advice = ": show more digits, or write ≈" if apart < NEARLY * size else ""
            yield f"the solution says {said(left)} = {said(right)}, but {said(left)} is {one:.6g}{advice}."


def said(tree: Node) -> str:
    return line(stripped(tree), Style())


def worth_as_shown(tree: Node, angle: str) -> float | None:
    """The value of what is printed, digits as they stand; None where there is none, or letters are left."""
    plain = stripped(tree)
    if isinstance(plain, Quantity):
        plain = plain.amount
    if names_in(plain):
        return None
    try:
        value = Compiled(plain, angle).value({})
    except EvaluationError:
        return None
    return None if isinstance(value, str | Node) else approximate(value)


def half_a_digit(tree: Node) -> float:
    """How far a number that stands alone, or beside π, may lie from what it was rounded from; 0 for a formula, whose
    numbers are taken at their word."""
    if isinstance(tree, Quantity):
        return half_a_digit(tree.amount)
    if isinstance(tree, Neg):
        return half_a_digit(tree.operand)
    if isinstance(tree, Postfix) and tree.sign == "%":
        return half_a_digit(tree.operand) / 100
    if isinstance(tree, Product):
        constants = [factor for factor in tree.factors if isinstance(stripped(factor), Constant)]
        rest = [factor for factor in tree.factors if factor not in constants]
        beside = 1.0
        for factor in constants:
            beside *= worth_as_shown(factor, "radians") or 1.0
        return half_a_digit(rest[0]) * beside if len(rest) == 1 else 0.0
    drawn = isinstance(tree, Drawn)
    number = stripped(tree)
    if isinstance(number, Neg):
        number = number.operand
    if not isinstance(number, Number):
        return 0.0
    if number.form == "integer":
        # 147.6 may be shown as 148, and 23 456 as 23 500
        figures = str(int(number.value))
        zeros = len(figures) - len(figures.rstrip("0"))
        return 0.5 * 10**zeros if drawn and len(figures) - zeros >= ROUNDED else 0.0
    return float(Fraction(1, 2) * Fraction(10) ** ((number.exponent or 0) - number.decimals))


def in_another_form(item: DrawnQuestion, part: int, end: Node) -> str:
    """What is said when a solution ends in the right value, but not as the answer has to be written."""
    answer = item.answers[part]
    plain = stripped(end)
    if answer is None or isinstance(plain, Quantity) or answer.specification is None:
        return ""
    written = line(plain)
    verdict = answer.check(answer.written_out(plain))
    if verdict.code not in {"written", "form"} or verdict.outcome == "right":
        return ""
    wanted = verdict.feedback[0] if verdict.feedback else ""
    return f"the solution ends in {written}, which is not how the answer has to be written. {wanted}".strip()
