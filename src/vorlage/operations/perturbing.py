"""Right answers with one thing in them made wrong, to see that none is accepted: ``./vorlage fuzz`` and the tests.

A perturbed answer counts as wrong when floats show so at some place: another piece of code than the one that decides
about answers, which may overlook a difference but hardly invent one.
"""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction

from vorlage.core.algebra import EvaluationError
from vorlage.core.algebra.floats import NoFloats, quick
from vorlage.core.answers import check_case
from vorlage.core.notation import (
    Call,
    Name,
    Neg,
    Node,
    Number,
    Power,
    Product,
    Quotient,
    Sum,
    line,
    literal,
    names_in,
    read,
    rebuild,
    substitute,
    walk,
)

KEYS = """
325 sin(100 pi t); 230 sqrt(2) sin(100 pi t + pi/6); e^(-t) cos(10 pi t); 12 e^(-t/4) sin(3 t - 1); 5 cos(0.2 x) + 3
|x + 4|; |2x - 7| + x; |x| + |x - 3|; |x^2 - 5|; x |x|
|sin(x)|; |ln(x)|; |e^x - 2|; |x - y|; sqrt(x^2 + 9); sqrt(4 - x^2)
floor(x); ceil(2x) + 1; round(x/3); mod(x, 7); max(x, 3); min(x, y); max(x, -x, 2); sgn(x - 2) x; if(x < 2, x^2, 3x)
ln(|x|); ln(x^2 + 1); ln(x + 2) - ln(x); x ln(x) - x; log(x) + 2; log_2(x^4); e^(2x) - 3e^x; 2^(x + 1); 10^(-x); x^x
x^2 - 5x + 6; (x + 1)(x - 2); (2x - 3)^3; x^3 - 3x + 1
(a + b)^2; a^2 - b^2; 3(x - 2)^2 + 5; (x^2 - 1)/(x + 2); 1/x + 1/(x + 1)
x/(x^2 + 1); (3x + 2)/(x - 4); 1/(R + S); a b/(a + b); u + a t; u t + a t^2/2; m g h; 1/2 m v^2; G M m/r^2; k q/r^2
sqrt(x); 3 sqrt(x - 2); x^(2/3); x^(1/2) + x^(1/3); root(3, x + 1); sqrt(a^2 + b^2); 1/sqrt(x); (x + sqrt(x))/2
sin(2x); 2 sin(x) cos(x); cos(x)^2; tan(x) + 1; sin(x)/x
sin(x + pi/3); cos(3x) - cos(x); 1/cos(x); asin(x/2); atan(3x) + x
sin(x + y); cos(x) cos(y); A sin(w t + p); A e^(-k t)
n!; binomial(n, 2); n (n + 1)/2; P (1 + r/100)^n; a (1 - q^n)/(1 - q)
sinh(x); cosh(2x); tanh(x/2); (e^x + e^-x)/2; x e^(-x^2)
sin(x)^2/(1 + cos(x)); x^20 - x^19; (2x + 1)^50; x + 10^-30; 10^40 x
"""
# Units of several symbols; those of one are in the table.
UNITS = "m m^2 m^3 kg g s N N/m N/m^2 Pa J W V A V/m kg/m^3 m/s m/s^2 J/(kg·K) mol L V·m N·m A·s V·s kg·m/s".split()
LETTERS = "abcdhkmnpqrtuvwxyz"
PLACES = 60


def keys() -> list[str]:
    """The right answers that are perturbed."""
    return [key.strip() for text in KEYS.strip().splitlines() for key in text.split(";") if key.strip()]


def exchanged(tree: Node, old: Node, new: Node) -> Node:
    """The tree with one node (that very object) exchanged."""
    return new if tree is old else rebuild(tree, lambda inner: exchanged(inner, old, new))


def number(value: Fraction | int) -> Node:
    return literal(Fraction(value))


def times(factor: Fraction | int, node: Node) -> Node:
    return Product((number(factor), node), ("*",))


FACTORS = [Fraction(2), Fraction(3), Fraction(10), Fraction(1, 2), Fraction(999, 1000)]
SHIFTS = [Fraction(1), Fraction(-1), Fraction(1, 10), Fraction(1, 1000)]


def altered(node: Node, chance: random.Random) -> Node:
    """One node with something in it made wrong."""
    anywhere: list[Callable[[], Node]] = [
        lambda: Neg(node),
        lambda: times(chance.choice(FACTORS), node),
        lambda: Sum((node, number(chance.choice(SHIFTS)))),
        lambda: Call("abs", (node,)),
        lambda: Call("sqrt", (Power(node, number(2)),)),
        lambda: Power(node, number(2)),
    ]
    ways: list[Callable[[], Node]] = []
    if isinstance(node, Number):
        value = node.value
        ways = [lambda: number(value + 1), lambda: number(value * 10), lambda: number(value + Fraction(1, 100)),
                lambda: number(value * Fraction(1001, 1000)), lambda: number(abs(value - 1))]  # fmt: skip
    elif isinstance(node, Name):
        ways = [lambda: Name(chance.choice(LETTERS))]
    elif isinstance(node, Sum):
        terms = list(node.terms)
        place = chance.randrange(len(terms))
        turned = [Neg(term) if k == place else term for k, term in enumerate(terms)]
        kept = terms[:place] + terms[place + 1 :]
        ways = [lambda: Sum(tuple(turned)), lambda: kept[0] if len(kept) == 1 else Sum(tuple(kept))]
    elif isinstance(node, Product):
        place = chance.randrange(len(node.factors))
        rest = node.factors[:place] + node.factors[place + 1 :]
        ways = [lambda: rest[0] if len(rest) == 1 else Product(rest, ("*",) * (len(rest) - 1))]
    elif isinstance(node, Quotient):
        ways = [lambda: Quotient(node.denominator, node.numerator), lambda: node.numerator]
    elif isinstance(node, Power):
        ways = [lambda: node.base, lambda: Power(node.base, Sum((node.exponent, number(1)))),
                lambda: Power(node.base, Neg(node.exponent))]  # fmt: skip
    elif isinstance(node, Neg):
        ways = [lambda: node.operand]
    elif isinstance(node, Call):
        first, *more = node.arguments
        ways = [lambda: first,
                lambda: Call(node.function, (times(chance.choice([2, 3, 10, 50]), first), *more)),
                lambda: Call(node.function, (Sum((first, number(Fraction(1, 2)))), *more)),
                lambda: Call(OTHERS.get(node.function, node.function), node.arguments)]  # fmt: skip
        if node.function == "if":
            ways = [lambda: node.arguments[1], lambda: node.arguments[2]]
    return chance.choice(ways * 2 + anywhere)()


OTHERS = {"sin": "cos", "cos": "sin", "ln": "log", "log": "ln", "floor": "ceil", "ceil": "floor", "max": "min",
          "min": "max", "sinh": "cosh", "cosh": "sinh", "tan": "sin", "round": "floor", "abs": "sgn", "exp": "ln",
          "asin": "acos", "atan": "tan", "sqrt": "abs"}  # fmt: skip


def differs(key: Node, answer: Node, chance: random.Random) -> bool:
    """Whether floats show that an answer is not the key: at some place the key has a value and the answer another, by
    much more than floats lose; or, beside such a place, none."""
    names = sorted(names_in(key) | names_in(answer))
    if not names:
        return False
    whole = "!" in line(key) or "binomial" in line(key)
    for k in range(PLACES):
        size = chance.choice([0.01, 0.3, 1, 3, 20]) if not whole else 1
        values = {
            name: Fraction(chance.randint(2, 9)) if whole else Fraction(round(size * chance.uniform(-1, 1), 9))
            for name in names
        }
        if k % 2:
            values = {name: abs(value) for name, value in values.items()}
        last = names[-1]
        others = {name: literal(value) for name, value in values.items() if name != last}
        try:
            first, second = (quick(substitute(tree, others), "radians") for tree in (key, answer))
        except (NoFloats, EvaluationError, ZeroDivisionError, OverflowError):
            continue
        place = float(values[last])
        a, b = first(place), second(place)
        if a is None or abs(a) > 1e100:
            continue
        if b is None:
            # a hole of one place does not matter
            beside = [second(place * (1 + step)) for step in (1e-7, -1e-7, 3e-7)]
            if first(place * (1 + 1e-7)) is not None and beside == [None] * 3:
                return True
        elif abs(a - b) > max(1e-9, 1e-6 * max(abs(a), abs(b))) and steady(first, place) and steady(second, place):
            return True
    return False


def steady(function: Callable[[float], float | None], place: float) -> bool:
    """Whether a value hardly changes beside a place: at a jump, and far out where waves turn, floats show nothing."""
    here, beside = function(place), [function(place + step * max(1e-9, abs(place) * 1e-9)) for step in (-1, 1)]
    return here is not None and all(
        other is not None and abs(other - here) <= 1e-4 * max(1e-6, abs(here)) for other in beside
    )


@dataclass(frozen=True, slots=True)
class Perturbed:
    """A case whose response is wrong, as ``check_case`` takes it."""

    answer: dict[str, str]
    response: str


def formulas(chance: random.Random) -> Iterator[Perturbed]:
    """Perturbed formulas for ever."""
    trees = [(key, read(key)) for key in keys()]
    while True:
        text, tree = chance.choice(trees)
        places = list(walk(tree))
        old = chance.choice(places)
        answer = exchanged(tree, old, altered(old, chance))
        if answer != tree and differs(tree, answer, chance):
            yield Perturbed({"kind": "formula", "key": text}, line(answer))


def equations(chance: random.Random) -> Iterator[Perturbed]:
    """Perturbed formulas as the right side of an equation, for ever."""
    for case in formulas(chance):
        if "y" not in case.answer["key"] and "y" not in case.response:
            yield Perturbed({"kind": "equation", "key": f"y = {case.answer['key']}"}, f"y = {case.response}")


def quantities(chance: random.Random) -> Iterator[Perturbed]:
    """Right numbers with the unit made wrong, for ever: another prefix, another symbol, another power of ten. What is
    wrong is known from a table by hand, in which the reader of units has no part."""
    from tests.unit_table import DECIDED, ENTRIES, POWERS

    entries = list(ENTRIES.values())
    prefixed = [entry for entry in entries if entry.prefixes]
    prefixes = {entry.symbol: ["", *sorted(entry.prefixes)] for entry in entries}
    while True:
        if chance.random() < 0.4:
            unit = chance.choice(UNITS)
            place = chance.choice([found.start() for found in re.finditer("[A-Za-z]+", unit)])
            prefix, bare = chance.choice(sorted(POWERS)), unit[place:]
            other = unit[:place] + prefix + (unit[place + 1 :] if bare.startswith("kg") else bare)
            if other != unit:
                yield Perturbed({"kind": "quantity", "key": "12.5", "unit": unit}, f"12.5 {other}")
        elif chance.random() < 0.5:
            entry = chance.choice(prefixed)
            meant, written = (chance.choice(prefixes[entry.symbol]) for _ in range(2))
            if POWERS.get(meant, 0) != POWERS.get(written, 0):
                key = f"12.5*10^({POWERS.get(meant, 0)})"
                yield Perturbed({"kind": "quantity", "key": key, "unit": entry.symbol}, f"12.5 {written}{entry.symbol}")
        else:
            one, other_entry = chance.choice(entries), chance.choice(entries)
            before, after = chance.choice(prefixes[one.symbol]), chance.choice(prefixes[other_entry.symbol])
            same = one.with_prefix(before), one.dimension
            if same != (other_entry.with_prefix(after), other_entry.dimension):
                unit, response = before + one.symbol, f"12.5 {after}{other_entry.symbol}"
                # the letters of kilotonne are those of knots
                if not {unit, after + other_entry.symbol} & set(DECIDED):
                    yield Perturbed({"kind": "quantity", "key": "12.5", "unit": unit}, response)


@dataclass(frozen=True, slots=True)
class Fault:
    """A verdict on a perturbed answer that is not as it should be, and what is wrong with it."""

    case: Perturbed
    what: str


def faults(count: int, seed: int) -> list[Fault]:
    """Among so many perturbed answers those that were accepted all the same, with how sure the check was, and those
    whose witness shows nothing to an evaluator of its own."""
    from tests.core.second_opinion import NotCovered, fault_of_refutation

    chance = random.Random(seed)
    wrong = formulas(chance), quantities(chance), equations(chance)
    found = []
    for k in range(count):
        case = next(wrong[1 if k % 10 == 9 else 2 if k % 10 == 8 else 0])
        verdict = check_case({"answer": case.answer, "response": case.response})
        certainty, kind = verdict.certainty, case.answer["kind"]
        if verdict.outcome in {"right", "partly"}:
            found.append(Fault(case, f"accepted ({certainty.kind if certainty else 'unsaid'})"))
        elif kind != "quantity" and certainty is not None and certainty.witness:
            assert verdict.tree is not None
            try:
                fault = fault_of_refutation(kind, read(case.answer["key"]), verdict.tree, certainty, False)
            except NotCovered:
                continue
            if fault:
                found.append(Fault(case, fault))
    return found
