"""What students do with a formula: each thing once, wherever in it that can be done, as another formula.

The cost of an alteration says how far down the list of what students do it stands: 1 for what every teacher sees every
week. It orders claims and says how many formulas were tried before one fitted.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

from ..notation import (
    Call,
    Constant,
    Name,
    Neg,
    Node,
    NotationError,
    Number,
    Power,
    Product,
    Quotient,
    Settings,
    Sum,
    line,
    names_in,
    read_authored,
    rebuild,
    substitute,
    walk,
)

ONE, TWO, HUNDRED = Number(Fraction(1)), Number(Fraction(2)), Number(Fraction(100))
PI = Constant("pi")
HALF_TURN = Number(Fraction(180))
ZERO_CELSIUS = Number(Fraction(273))


@dataclass(frozen=True, slots=True)
class Altered:
    """A formula that somebody works with instead of the key, how far down the list of mistakes it stands, and why."""

    tree: Node
    cost: float
    because: str


Put = Callable[[Node], Node]
# an alteration of one place: what stands there then, its cost, and why
Change = tuple[Node, float, str]


def places(node: Node, put: Put = lambda fresh: fresh) -> Iterator[tuple[Node, Put]]:
    """Every node of a formula, with what makes the whole of it with something else there."""
    yield node, put
    if isinstance(node, Neg):
        yield from places(node.operand, lambda fresh: put(Neg(fresh)))
    elif isinstance(node, Quotient):
        yield from places(node.numerator, lambda fresh: put(replace(node, numerator=fresh)))
        yield from places(node.denominator, lambda fresh: put(replace(node, denominator=fresh)))
    elif isinstance(node, Power):
        yield from places(node.base, lambda fresh: put(replace(node, base=fresh)))
        if names_in(node.exponent):
            yield from places(node.exponent, lambda fresh: put(replace(node, exponent=fresh)))
    elif isinstance(node, Sum):
        yield from places_among(node.terms, lambda held: put(Sum(held)))
    elif isinstance(node, Product):
        yield from places_among(node.factors, lambda held: put(replace(node, factors=held)))
    elif isinstance(node, Call):
        yield from places_among(node.arguments, lambda held: put(Call(node.function, held)))


def places_among(held: tuple[Node, ...], whole: Callable[[tuple[Node, ...]], Node]) -> Iterator[tuple[Node, Put]]:
    """The same of nodes that stand side by side; ``whole`` makes the formula with others in their places."""
    for k, inner in enumerate(held):
        yield from places(inner, partial(with_other, held, k, whole))


def with_other(held: tuple[Node, ...], k: int, whole: Callable[[tuple[Node, ...]], Node], fresh: Node) -> Node:
    return whole((*held[:k], fresh, *held[k + 1 :]))


def alterations(tree: Node, names: Sequence[str], angle: str) -> list[Altered]:
    """Everything that is done at one place of a formula, the likeliest first; ``names`` are those of the draw that
    stand for numbers."""
    found = [
        Altered(put(fresh), cost, because)
        for node, put in places(tree)
        for rule in RULES
        for fresh, cost, because in rule(node)
    ]
    found += of_names(tree, names)
    found += of_the_whole(tree, names)
    found += of_angles(tree, angle)
    found += without_brackets(tree, angle)
    return sorted(found, key=lambda each: each.cost)


def product(*factors: Node) -> Node:
    return factors[0] if len(factors) == 1 else Product(factors, ("*",) * (len(factors) - 1))


def total(*terms: Node) -> Node:
    return terms[0] if len(terms) == 1 else Sum(terms)


def without(held: Sequence[Node], k: int) -> tuple[Node, ...]:
    return (*held[:k], *held[k + 1 :])


def opposite(node: Node) -> Node:
    return node.operand if isinstance(node, Neg) else Neg(node)


def of_sums(node: Node) -> Iterator[Change]:
    if not isinstance(node, Sum):
        return
    terms = node.terms
    for k, term in enumerate(terms):
        bare = line(term.operand if isinstance(term, Neg) else term)
        if k or len(terms) == 2:
            words = "added instead of subtracted" if isinstance(term, Neg) else "subtracted instead of added"
            turned = Sum((*terms[:k], opposite(term), *terms[k + 1 :]))
            yield turned, 1 if k else 1.6, f"{bare} was {words}"
            yield Call("abs", (turned,)), 2, f"{bare} was {words}, the smaller from the larger"
        yield total(*without(terms, k)), 1.4, f"{bare} was left out"
    plain = [term.operand if isinstance(term, Neg) else term for term in terms]
    if len(terms) == 2:
        yield product(*plain), 1.3, "multiplied instead of added"
        if any(isinstance(term, Neg) for term in terms):
            yield Call("abs", (node,)), 1.5, "the smaller from the larger, whichever it was"
        yield Quotient(plain[0], plain[1]), 2, "divided instead of added or subtracted"
        yield Quotient(plain[1], plain[0]), 2.2, "divided instead of added or subtracted"
        # what belongs to one term is used with both, and what belongs to both with one
        first, second = terms
        if isinstance(second, Product):
            head, rest = second.factors[0], second.factors[1:]
            yield product(Sum((first, head)), *rest), 2, "brackets where there are none"
        if isinstance(second, Quotient):
            yield Quotient(Sum((first, second.numerator)), second.denominator), 2, "brackets where there are none"
        if isinstance(first, Product):
            rest, head = first.factors[:-1], first.factors[-1]
            yield product(*rest, Sum((head, second))), 2, "brackets where there are none"


def of_products(node: Node) -> Iterator[Change]:
    if not isinstance(node, Product):
        return
    factors = node.factors
    for k, factor in enumerate(factors):
        rest = without(factors, k)
        cost = 0.9 if not names_in(factor) else 1.4
        yield product(*rest), cost, f"the factor {line(factor)} was left out"
        yield Quotient(product(*rest), factor), 1.2, f"divided by {line(factor)} instead of multiplied"
        if names_in(factor):
            yield product(*rest, factor, factor), 2, f"{line(factor)} was used twice"
        if isinstance(factor, Sum):
            first = (product(*rest, factor.terms[0]), *factor.terms[1:])
            yield Sum(first), 1.6, "only the first term in the brackets was multiplied"
            last = product(*rest, factor.terms[-1])
            yield Sum((*factor.terms[:-1], last)), 1.9, "only the last term in the brackets was multiplied"
    yield Sum(factors), 1 if len(factors) == 2 else 2, "added instead of multiplied"
    named = tuple(factor for factor in factors if names_in(factor))
    if 2 <= len(named) < len(factors):
        constants = tuple(factor for factor in factors if not names_in(factor))
        yield product(Sum(named), *constants), 1.5, "added instead of multiplied"
    if len(factors) == 2:
        yield Sum((factors[0], Neg(factors[1]))), 2, "subtracted instead of multiplied"


def of_quotients(node: Node) -> Iterator[Change]:
    if not isinstance(node, Quotient):
        return
    top, bottom = node.numerator, node.denominator
    yield Quotient(bottom, top), 1, f"divided the wrong way round: {line(Quotient(bottom, top))}"
    yield product(top, bottom), 1.1, f"multiplied by {line(bottom)} instead of divided"
    yield top, 0.9 if not names_in(bottom) else 1.4, f"not divided by {line(bottom)}"
    if top != ONE:
        yield Quotient(ONE, bottom), 2, f"{line(top)} was left out"
    yield Sum((top, Neg(bottom))), 1.8, "subtracted instead of divided"
    for part, words in ((top, "divided"), (bottom, "put below")):
        if isinstance(part, Sum) and part is top:
            for k in (0, -1):
                inner = list(part.terms)
                inner[k] = Quotient(inner[k], bottom)
                which = "first" if k == 0 else "last"
                yield Sum(tuple(inner)), 1.6, f"only the {which} term in the brackets was {words}"
        elif isinstance(part, Sum):
            yield Sum((Quotient(top, part.terms[0]), *part.terms[1:])), 1.8, "the brackets below were left out"
            parts = tuple(
                Neg(Quotient(top, each.operand)) if isinstance(each, Neg) else Quotient(top, each)
                for each in part.terms
            )
            yield Sum(parts), 1.9, "divided by each term instead of by their sum"
        elif isinstance(part, Product) and part is bottom:
            for k, factor in enumerate(part.factors):
                moved = product(Quotient(top, product(*without(part.factors, k))), factor)
                yield moved, 1.5, f"multiplied by {line(factor)} instead of divided"
                less = Quotient(top, product(*without(part.factors, k)))
                yield less, 1.5, f"not divided by {line(factor)}"


def of_powers(node: Node) -> Iterator[Change]:
    if isinstance(node, Power):
        base, exponent = node.base, node.exponent
        what = "the square" if exponent == TWO else "the power"
        yield base, 1, f"{what} was left out: {line(base)} instead of {line(node)}"
        yield product(exponent, base), 1.2, f"multiplied by {line(exponent)} instead of raised to it"
        yield Power(base, opposite(exponent)), 1.9, "the wrong sign of the exponent"
        if not names_in(exponent):
            for other in (2, 3, 4):
                if exponent != Number(Fraction(other)):
                    yield Power(base, Number(Fraction(other))), 1.8, f"raised to {other} instead of {line(exponent)}"
            yield Call("sqrt", (base,)), 1.9, "the root instead of the power"
        else:
            for step in (ONE, Neg(ONE)):
                yield Power(base, Sum((exponent, step))), 1.4, f"one step {'more' if step is ONE else 'less'}"
            yield Power(exponent, base), 1.9, "base and exponent changed places"
            if isinstance(base, Sum) and base.terms[0] == ONE:
                rest = total(*base.terms[1:])
                yield Sum((ONE, product(rest, exponent))), 1, "the same added every time instead of multiplied"
        if isinstance(base, Sum) and not names_in(exponent):
            each = tuple(
                Neg(Power(term.operand, exponent)) if isinstance(term, Neg) else Power(term, exponent)
                for term in base.terms
            )
            yield Sum(each), 1.5, "each term was raised instead of their sum"
        elif isinstance(base, Product | Quotient):
            parts = base.factors if isinstance(base, Product) else (base.numerator, base.denominator)
            for k, part in enumerate(parts):
                powered = [*parts]
                powered[k] = Power(part, exponent)
                made = product(*powered) if isinstance(base, Product) else Quotient(*powered)
                yield made, 1.6, f"only {line(part)} was raised to {line(exponent)}"


SWAPPED = {
    "sin": ("cos", "tan"), "cos": ("sin", "tan"), "tan": ("sin", "cos"),
    "asin": ("acos", "atan"), "acos": ("asin", "atan"), "atan": ("asin", "acos"),
    "ln": ("log",), "log": ("ln",), "lg": ("ln",), "floor": ("ceil", "round"), "ceil": ("floor", "round"),
    "mean": ("median", "total", "max", "min"), "median": ("mean",), "min": ("max",), "max": ("min",),
    "stdev": ("sample_stdev", "variance"), "sample_stdev": ("stdev", "sample_variance"),
    "variance": ("stdev", "sample_variance"), "sample_variance": ("variance", "sample_stdev"),
    "total": ("mean",), "lcm": ("gcd",), "gcd": ("lcm",), "sinh": ("cosh",), "cosh": ("sinh",),
}  # fmt: skip
UNDONE = {"sin": "asin", "cos": "acos", "tan": "atan", "asin": "sin", "acos": "cos", "atan": "tan", "exp": "ln",
          "ln": "exp"}  # fmt: skip


def of_functions(node: Node) -> Iterator[Change]:
    if not isinstance(node, Call):
        return
    name, arguments = node.function, node.arguments
    for other in SWAPPED.get(name, ()):
        yield Call(other, arguments), 1.1, f"{other} instead of {name}"
    if name in UNDONE:
        yield Call(UNDONE[name], arguments), 2, f"{UNDONE[name]} instead of {name}"
        yield Quotient(ONE, node), 2.2, f"one over {name}"
    if len(arguments) == 1 and name not in {"total", "mean"}:
        root = name == "sqrt"
        yield arguments[0], 1 if root else 1.8, "the root was not taken" if root else f"{name} was left out"
    if name == "sqrt":
        inner = arguments[0]
        yield Quotient(inner, TWO), 1.4, "halved instead of the root"
        yield Power(inner, TWO), 1.8, "squared instead of the root"
        if isinstance(inner, Sum):
            rooted = tuple(
                Neg(Call("sqrt", (term.operand,))) if isinstance(term, Neg) else Call("sqrt", (term,))
                for term in inner.terms
            )
            yield Sum(rooted), 1.3, "the root of each term instead of their sum"
        if isinstance(inner, Product | Quotient):
            parts = inner.factors if isinstance(inner, Product) else (inner.numerator, inner.denominator)
            for k, part in enumerate(parts):
                rooted_parts = [*parts]
                rooted_parts[k] = Call("sqrt", (part,))
                made = product(*rooted_parts) if isinstance(inner, Product) else Quotient(*rooted_parts)
                yield made, 1.6, f"the root of {line(part)} alone"
    if name in {"binomial", "choose"} and len(arguments) == 2:
        yield Power(*arguments), 1.8, "with the order counted and repeats"
        yield Quotient(product(arguments[0]), arguments[1]), 2, "divided"


# Constants that schools use in more than one way: what is worked with instead of each.
CONSTANTS: dict[Fraction, tuple[str, ...]] = {
    Fraction("9.81"): ("10", "9.8"), Fraction("9.8"): ("10", "9.81"), Fraction(10): ("9.81",),
    Fraction("273.15"): ("273",), Fraction(273): ("273.15",), Fraction("8.314"): ("8.31",),
    Fraction("4.18"): ("4.2",), Fraction("4.2"): ("4.18",), Fraction(360): ("180",), Fraction(180): ("360",),
    Fraction("3.6"): ("60", "36"), Fraction(60): ("100", "3600"), Fraction(3600): ("60", "100"),
    Fraction(1000): ("100", "10"), Fraction(100): ("10", "1000"), Fraction("22.4"): ("24",), Fraction(24): ("22.4",),
}  # fmt: skip


def number(text: str) -> Number:
    value = Fraction(text)
    return Number(value, len(text.partition(".")[2]))


def of_constants(node: Node) -> Iterator[Change]:
    if isinstance(node, Constant) and node.name == "pi":
        yield number("3.14"), 1.5, "π taken as 3.14"
        yield Quotient(number("22"), number("7")), 2, "π taken as 22/7"
        yield number("3"), 2.2, "π taken as 3"
    if not isinstance(node, Number):
        return
    for other in CONSTANTS.get(node.value, ()):
        yield number(other), 1.5, f"{other} instead of {line(node)}"
    if node.form == "integer" and 1 <= node.value <= 12:
        for whole in {int(node.value) - 1, int(node.value) + 1, 2, 3, 4} - {int(node.value), 0}:
            yield Number(Fraction(whole)), 2.1, f"{whole} instead of {line(node)}"


# What a value is multiplied by where it is in another unit than it should be.
UNITS = (("1000", 1.0), ("100", 1.1), ("10", 1.5), ("60", 1.2), ("3600", 1.4), ("3.6", 1.4), ("10^6", 1.6),
         ("10^4", 1.7), ("10^9", 2.0), ("24", 2.2), ("10^5", 2.2), ("12", 2.4))  # fmt: skip


def unit_factors() -> Iterator[tuple[Node, float, str]]:
    for text, cost in UNITS:
        base, _, exponent = text.partition("^")
        node: Node = Power(number(base), number(exponent)) if exponent else number(text)
        yield node, cost, text


def of_names(tree: Node, names: Sequence[str]) -> Iterator[Altered]:
    """What is done with a parameter, wherever it stands."""
    used = [name for name in names if name in names_in(tree)]
    for name in used:
        own = Name(name)

        def with_instead(fresh: Node, cost: float, because: str, name: str = name) -> Altered:
            return Altered(substitute(tree, {name: fresh}), cost, because)

        yield with_instead(product(TWO, own), 1, f"twice {name}, as the diameter for the radius")
        yield with_instead(Quotient(own, TWO), 1, f"half of {name}, as the radius for the diameter")
        yield with_instead(Power(own, TWO), 1.7, f"{name} was squared")
        yield with_instead(Call("sqrt", (own,)), 2.1, f"the root of {name}")
        yield with_instead(Quotient(ONE, own), 1.6, f"one over {name}")
        yield with_instead(Neg(own), 1.3, f"the wrong sign of {name}")
        for step, words in ((ONE, "one more than"), (Neg(ONE), "one less than")):
            yield with_instead(Sum((own, step)), 1.7, f"{words} {name}")
        for step, words in ((ZERO_CELSIUS, "273 added to"), (Neg(ZERO_CELSIUS), "273 taken off")):
            yield with_instead(Sum((own, step)), 1.6, f"{words} {name}, as kelvins and degrees Celsius were mixed up")
        for factor, cost, text in unit_factors():
            yield with_instead(product(own, factor), cost + 0.2, f"{name} in another unit: {text} times as much")
            yield with_instead(Quotient(own, factor), cost + 0.2, f"{name} in another unit: divided by {text}")
        for other in names:
            if other == name:
                continue
            alike = other.rpartition(".")[0] == name.rpartition(".")[0] != ""
            because = f"another column of the table: {other} instead of {name}" if alike else f"{other} for {name}"
            yield with_instead(Name(other), 1 if alike else 1.5, because)
            if other in used and name < other:
                both = substitute(tree, {name: Name(other), other: own})
                yield Altered(both, 1.2, f"{name} and {other} changed places")
        if (share := hundredth_of(tree, name)) is not None:
            yield Altered(share, 1.2, f"{name} was not divided by 100")


def hundredth_of(tree: Node, name: str) -> Node | None:
    """The formula with a percentage used as it stands; None where none is divided by 100."""
    wanted = Quotient(Name(name), HUNDRED)
    for node, put in places(tree):
        if node == wanted:
            return put(Name(name))
    return None


def of_the_whole(tree: Node, names: Sequence[str]) -> Iterator[Altered]:
    """What is done with the result."""
    yield Altered(opposite(tree), 0.8, "the wrong sign")
    yield Altered(product(TWO, tree), 1.3, "doubled")
    yield Altered(Quotient(tree, TWO), 1.1, "halved")
    yield Altered(Quotient(ONE, tree), 1.2, "one over it")
    yield Altered(Power(tree, TWO), 1.8, "squared")
    yield Altered(Call("sqrt", (tree,)), 1.6, "the root of it")
    yield Altered(Sum((ONE, Neg(tree))), 1.4, "one minus it")
    yield Altered(Sum((HUNDRED, Neg(tree))), 1.8, "what is left to 100")
    yield Altered(Sum((tree, ONE)), 1.6, "one more")
    yield Altered(Sum((tree, Neg(ONE))), 1.6, "one less")
    for angle in (90, 180, 360):
        yield Altered(Sum((Number(Fraction(angle)), Neg(tree))), 1.9, f"what is left to {angle}")
    for factor, cost, text in unit_factors():
        yield Altered(product(tree, factor), cost, f"another unit: {text} times as much")
        yield Altered(Quotient(tree, factor), cost, f"another unit: divided by {text}")
    for name in names:
        own = Name(name)
        yield Altered(product(tree, own), 1.7, f"multiplied by {name} in the end")
        yield Altered(Quotient(tree, own), 1.7, f"divided by {name} in the end")
        yield Altered(Sum((tree, own)), 1.4, f"{name} was added in the end")
        yield Altered(Sum((tree, Neg(own))), 1.4, f"{name} was subtracted in the end")
        yield Altered(Sum((own, Neg(tree))), 1.6, f"subtracted from {name} in the end")
    seen = {tree}
    for node in walk(tree):
        # it was stopped on the way
        if node not in seen and names_in(node) and not isinstance(node, Name):
            seen.add(node)
            yield Altered(node, 1.7, f"stopped at {line(node)}")
    for node, put in places(tree):
        if node is tree or not names_in(node) or isinstance(node, Name | Neg):
            continue
        for places_kept in (1, 2, 0, 3, -1, -2, 4):
            rounded = Call("round", (node, literal(places_kept)))
            to = {0: "a whole number", -1: "tens", -2: "hundreds"}.get(places_kept, f"{places_kept} decimals")
            cost = 1.2 + 0.1 * abs(places_kept - 1)
            yield Altered(put(rounded), cost, f"rounded too early: {line(node)} to {to}")


def literal(whole: int) -> Node:
    return Neg(Number(Fraction(-whole))) if whole < 0 else Number(Fraction(whole))


# A bracket that holds a formula, and not what a function is taken of.
OPENS = re.compile(r"(?<![\w.])\(")


def without_brackets(tree: Node, angle: str) -> Iterator[Altered]:
    """The formula as it is typed with one pair of brackets left out."""
    text, settings = line(tree), Settings("point", angle, False, names_in(tree))
    for found in OPENS.finditer(text):
        closed = closing(text, found.start())
        bare = text[: found.start()] + text[found.start() + 1 : closed] + text[closed + 1 :]
        try:
            yield Altered(read_authored(bare, settings), 1.4, f"without brackets around {text[found.end() : closed]}")
        except NotationError:
            continue


def closing(text: str, opened: int) -> int:
    """Where the bracket ends that begins at a place."""
    depth = 0
    for place in range(opened, len(text)):
        depth += {"(": 1, ")": -1}.get(text[place], 0)
        if not depth:
            return place
    return len(text) - 1


def of_angles(tree: Node, angle: str) -> Iterator[Altered]:
    """The calculator was set to the other unit of angles."""

    def turned(node: Node) -> Node:
        if isinstance(node, Call) and node.function in {"sin", "cos", "tan"}:
            (inner,) = node.arguments
            return Call(node.function, (product(inner, *to_other(angle)),))
        if isinstance(node, Call) and node.function in {"asin", "acos", "atan"}:
            return product(node, *to_other("radians" if angle == "degrees" else "degrees"))
        return node

    def whole(node: Node) -> Node:
        return turned(rebuild(node, whole))

    other = whole(tree)
    if other != tree:
        words = "radians instead of degrees" if angle == "degrees" else "degrees instead of radians"
        yield Altered(other, 0.9, f"the calculator was set to {words}")


def to_other(angle: str) -> tuple[Node, ...]:
    """What an angle is multiplied by where it is read in the other unit."""
    if angle == "degrees":
        return (Quotient(HALF_TURN, PI),)
    return (Quotient(PI, HALF_TURN),)


RULES: tuple[Callable[[Node], Iterator[Change]], ...] = (
    of_sums, of_products, of_quotients, of_powers, of_functions, of_constants,
)  # fmt: skip
