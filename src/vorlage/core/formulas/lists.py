"""What is asked of a list of numbers: their mean, median, range, sum, spread."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import product

from flint import fmpq

from ..algebra import Compiled, EvaluationError, approximate
from ..notation import Call, Name, Neg, Node, Number, Quotient, Sum
from .book import stems
from .fixed import FoundNumber, Goal, unit_of


@dataclass(frozen=True, slots=True)
class ListFormula:
    """A formula over a list that gives the answer."""

    title: str
    tree: Node
    cost: float
    mask: int
    supported: bool


def mean_of(names: tuple[Node, ...]) -> Node:
    return Quotient(Sum(names), Number(Fraction(len(names)))) if len(names) <= 6 else Call("mean", names)


# title, tree, words that ask for it
ASKED: list[tuple[str, Callable[[tuple[Node, ...]], Node], str]] = [
    ("Mean", mean_of, "mean average"),
    ("Median", lambda names: Call("median", names), "median middle"),
    ("Range", lambda names: Sum((Call("max", names), Neg(Call("min", names)))), "range spread"),
    ("Sum", lambda names: Sum(names), "sum total altogether together perimeter"),
    ("Greatest", lambda names: Call("max", names), "greatest largest highest most maximum"),
    ("Least", lambda names: Call("min", names), "least smallest lowest minimum"),
    ("Standard deviation", lambda names: Call("stdev", names), "standard deviation"),
    ("Variance", lambda names: Call("variance", names), "variance"),
    ("Greatest common divisor", lambda names: Call("gcd", names), "greatest common divisor factor"),
    ("Least common multiple", lambda names: Call("lcm", names), "least common multiple"),
]


def list_formulas(numbers: Sequence[FoundNumber], goal: Goal, text: str) -> list[ListFormula]:
    """What of a list gives the answer: of all varying numbers, or of all after the first, which counts them."""
    said = frozenset(stems(text))
    varying = [k for k, number in enumerate(numbers) if not number.stays]
    found = []
    for chosen, extra in ((varying, 0.0), (varying[1:], 0.6)):
        if len(chosen) < 3 or len(chosen) > 40 or len({sort_of_list(numbers[k]) for k in chosen}) != 1:
            continue
        values = {numbers[k].name: numbers[k].value for k in chosen}
        names = tuple(Name(numbers[k].name) for k in chosen)
        for title, made, words in ASKED:
            tree = made(names)
            try:
                value = Compiled(tree).value(values)
            except EvaluationError:
                continue
            off = abs(approximate(value) - approximate(goal.value))
            if off > goal.loose * (1 + 1e-9) + 1e-12:
                continue
            heard = bool(said & frozenset(stems(words)))
            exact = off <= 1e-9 * abs(approximate(goal.value)) + 1e-12
            cost = (
                (0.2 if heard else 3.0 if title == "Sum" else 4.5)
                + extra
                + (0.0 if exact else 0.6 if goal.decimals else 2.0)
            )
            mask = sum(1 << k for k in chosen)
            unused = len(varying) - len(chosen)
            found.append(ListFormula(title, tree, cost + 1.2 * unused, mask, heard and not unused))
    return [*found, *signed_sums(numbers, goal)]


def signed_sums(numbers: Sequence[FoundNumber], goal: Goal) -> list[ListFormula]:
    """What is added and what is taken away, where that gives just the answer."""
    varying = [k for k, number in enumerate(numbers) if not number.stays]
    if not 3 <= len(varying) <= 8 or len({sort_of_list(numbers[k]) for k in varying}) != 1:
        return []
    unit, wanted = unit_of(numbers[varying[0]].unit), unit_of(goal.unit)
    if any(numbers[k].unit != numbers[varying[0]].unit for k in varying) or unit != wanted:
        return []
    found = []
    for signs in product((1, -1), repeat=len(varying) - 1):
        total = numbers[varying[0]].value + sum(
            (sign * numbers[k].value for sign, k in zip(signs, varying[1:])), fmpq(0)
        )
        if total == goal.value and min(signs) < 0:
            names = [Name(numbers[k].name) for k in varying]
            terms = [names[0], *(name if sign > 0 else Neg(name) for sign, name in zip(signs, names[1:]))]
            mask = sum(1 << k for k in varying)
            found.append(ListFormula("Sum and difference", Sum(tuple(terms)), 2.4 + 0.3 * len(terms), mask, False))
    return found


def sort_of_list(number: FoundNumber) -> object:
    """What the numbers of a list share: their dimension, and whether they are shares, angles or temperatures."""
    unit = unit_of(number.unit)
    return (unit.dimension, number.unit in {"%", "°", "°C"}) if unit is not None else ()
