"""The formula book: what school mathematics, physics and chemistry print, each formula with what its letters stand for.

The book is ``book.toml`` beside this file. A formula gives its left side; whatever letter stands in it once is given
by it as well, by undoing one operation after another.
"""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cache, cached_property
from pathlib import Path
from typing import Any

from flint import fmpq

from ..algebra import Compiled, EvaluationError, approximate, to_fraction
from ..algebra.floats import Builder, NoFloats
from ..budget import loaded_once
from ..notation import (
    Call,
    Name,
    Neg,
    Node,
    Number,
    Power,
    Product,
    Quotient,
    Relation,
    Settings,
    Sum,
    children,
    names_in,
    read,
    walk,
)
from ..quantities import Unit, read_unit

FILE = Path(__file__).with_name("book.toml")
TAG = re.compile(r"(?P<meaning>[^:]+):\s*(?P<words>.*?)\s*\[(?P<kinds>[^\]]*)\]\s*\Z")
RAISED = re.compile(r"\^(-?\d)")
SUPERSCRIPTS = str.maketrans("0123456789-", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻")
# Formulas are written for degrees, as school books have them.
ANGLE = "degrees"
ONE, TWO = Number(Fraction(1)), Number(Fraction(2))


@dataclass(frozen=True, slots=True)
class Kind:
    """What sort of number may stand for a letter.

    ``way`` is ``unit`` (a quantity, taken in the coherent unit), ``raw`` (a quantity, as a number in just this unit),
    ``plain``, ``percent``, ``angle``, ``difference`` and ``absolute`` for temperatures, or ``any``, where ``name`` says
    which letters have to be of one sort.
    """

    way: str
    unit: Unit | None = None
    name: str = ""


@dataclass(frozen=True, slots=True)
class Letter:
    """What a letter of a formula stands for."""

    name: str
    meaning: str
    kinds: tuple[Kind, ...]
    # the unit as the book writes it
    unit: str
    # the stems of the words that say something
    roles: frozenset[str]
    constant: bool = False

    @property
    def shown_unit(self) -> str:
        """The unit as a reader is told; empty for what has none of its own."""
        first = self.unit.split("|")[0].removesuffix("!")
        if first.startswith("?") or first in {"1", "#"}:
            return ""
        return RAISED.sub(
            lambda power: power[1].translate(SUPERSCRIPTS), {"°": "degrees", "ohm": "Ω"}.get(first, first)
        )


@dataclass(frozen=True, slots=True)
class Constant:
    """A constant of nature or of a school's tables, with the values that are in use."""

    name: str
    meaning: str
    unit: str
    values: tuple[str, ...]

    @property
    def letter(self) -> Letter:
        return Letter(
            self.name, self.meaning, kinds_of(self.unit), self.unit, frozenset(stems(self.meaning)) - EMPTY, True
        )


@dataclass(frozen=True)
class Solved:
    """A formula solved for one of its letters."""

    formula: Formula
    unknown: str
    tree: Node
    # whether this is the formula as the book has it
    printed: bool

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The letters it needs, in a fixed order."""
        return tuple(sorted(names_in(self.tree)))

    @cached_property
    def function(self) -> Callable[[Sequence[float]], float | None]:
        """The value from those of the letters in the order of ``names``; None where there is none."""
        return quick_function(self.tree, self.names)

    @cached_property
    def differences(self) -> tuple[Callable[[Sequence[float]], float | None], ...]:
        """The values of what is one letter less another in it, each as ``function``."""
        sums = (node for node in walk(self.tree) if isinstance(node, Sum))
        found = (node for node in sums if any(isinstance(term, Neg) for term in node.terms))
        return tuple(quick_function(node, self.names) for node in found)


@dataclass(frozen=True)
class Formula:
    """A formula of the book."""

    topic: str
    subject: str
    title: str
    # as it is printed
    text: str
    words: frozenset[str]
    letters: Mapping[str, Letter]
    equations: tuple[Relation, ...]

    @cached_property
    def solved(self) -> tuple[Solved, ...]:
        """Solved for every letter for which it can be; letters that stand for a constant are none to be sought."""
        found: dict[str, Solved] = {}
        for place, equation in enumerate(self.equations):
            name = equation.terms[0]
            assert isinstance(name, Name)
            found[name.name] = Solved(self, name.name, equation.terms[1], place == 0)
        first = self.equations[0]
        for letter, described in self.letters.items():
            if letter not in found and not described.constant:
                tree = isolated(first, letter)
                if tree is not None:
                    found[letter] = Solved(self, letter, tree, False)
        return tuple(found.values())

    @cached_property
    def has_units(self) -> bool:
        """Whether a letter has to be a quantity with a dimension."""
        return any(all(kind.way == "unit" for kind in letter.kinds) for letter in self.letters.values())

    @property
    def in_order(self) -> tuple[str, ...]:
        """The letters of the printed formula, the one it gives first, without those that stand for a constant."""
        first = [node.name for node in walk(self.equations[0]) if isinstance(node, Name)]
        return tuple(name for name in dict.fromkeys(first) if not self.letters[name].constant)


@dataclass(frozen=True)
class Book:
    """All formulas, in the order of their topics, and the constants they use."""

    formulas: tuple[Formula, ...]
    constants: Mapping[str, Constant]

    @cached_property
    def weights(self) -> Mapping[str, float]:
        """How much a word says: the rarer it is in the book, the more."""
        count: dict[str, int] = {}
        for formula in self.formulas:
            for word in formula.words:
                count[word] = count.get(word, 0) + 1
        return {word: math.log(len(self.formulas) / number) for word, number in count.items()}


STEM = re.compile(r"(?:ing|ed|es|s|ly)\Z")


@cache
def stem(word: str) -> str:
    """A word without its ending, so that forms of one word are one.

    >>> stem("Speeds"), stem("dropped"), stem("melting"), stem("gas")
    ('speed', 'drop', 'melt', 'gas')
    """
    word = word.lower()
    if len(word) > 4:
        word = STEM.sub("", word)
        if len(word) > 3 and word[-1] == word[-2] and word[-1] not in "lse":
            word = word[:-1]
    if len(word) > 4 and word[-1] in "ey":
        word = word[:-1]
    return word


def stems(text: str) -> tuple[str, ...]:
    return tuple(stem(word) for word in re.findall(r"[^\W\d_]+", text))


# Words that say nothing about which formula is meant.
EMPTY = frozenset(
    stems("a an the of is are was were to in on at and or it its by for with what how much many find does do be long "
          "that this there then from into as which each has have per will would can one after all")
)  # fmt: skip


@cache
def kinds_of(tag: str) -> tuple[Kind, ...]:
    """The sorts of number that a tag such as ``m/s``, ``1|s``, ``%`` or ``?1`` allows."""
    ways = {"1": "plain", "#": "counted", "%": "percent", "°": "angle", "°C": "difference", "K": "absolute"}
    found = []
    for piece in tag.split("|"):
        if piece in ways:
            found.append(Kind(ways[piece]))
        elif piece.startswith("?"):
            found.append(Kind("any", name=piece))
        elif piece.endswith("!"):
            found.append(Kind("raw", read_unit(piece[:-1])))
        else:
            found.append(Kind("unit", read_unit(piece)))
    return tuple(found)


def letter_of(name: str, described: str) -> Letter:
    found = TAG.match(described)
    if not found:
        raise ValueError(f"{name}: {described!r} is not “meaning: words [unit]”.")
    spoken = frozenset(stems(found["words"])) - EMPTY
    return Letter(name, found["meaning"].strip(), kinds_of(found["kinds"]), found["kinds"], spoken)


@loaded_once
def book() -> Book:
    """The formula book, read once."""
    raw = tomllib.loads(FILE.read_text("utf-8"))
    constants = {
        name: Constant(name, meaning, unit, tuple(values)) for name, (meaning, unit, values) in raw["constants"].items()
    }
    formulas = [made(topic, constants, *entry) for topic in raw["topic"] for entry in topic["formulas"]]
    return Book(tuple(formulas), constants)


def made(
    topic: Mapping[str, Any],
    constants: Mapping[str, Constant],
    title: str,
    text: str,
    words: str,
    others: Mapping[str, str] | None = None,
) -> Formula:
    """A formula from its entry."""
    described = {**topic["letters"], **(others or {})}
    names = frozenset(described) | frozenset(constants)
    equations = []
    for piece in text.split(";"):
        equation = read(piece.strip(), Settings(angle=ANGLE, names=names))
        if not isinstance(equation, Relation) or not isinstance(equation.terms[0], Name):
            raise ValueError(f"{title}: {piece} does not give a letter.")
        equations.append(equation)
    used = frozenset().union(*(names_in(equation) for equation in equations))
    letters = {}
    for name in sorted(used):
        if name in described:
            letters[name] = letter_of(name, described[name])
        elif name in constants:
            letters[name] = constants[name].letter
        else:
            raise ValueError(f"{title}: nobody says what {name} is.")
    spoken = frozenset(stems(f"{title} {words}"))
    printed = text.partition(";")[0].strip()
    return Formula(topic["name"], topic["subject"], title, printed, spoken, letters, tuple(equations))


def load_book() -> None:
    """Read the book and solve its formulas now, which takes about a second; otherwise the first search does."""
    for formula in book().formulas:
        for solved in formula.solved:
            _ = solved.function


def search_book(words: str) -> list[Formula]:
    """The formulas that some words speak of, the ones that fit best first; every word has to fit, the last one may be
    unfinished."""
    asked = [stem(word) for word in re.findall(r"[^\W\d_]+", words)]
    found = []
    for place, formula in enumerate(book().formulas):
        title = frozenset(stems(formula.title))
        known = formula.words | title | frozenset(stems(formula.topic))
        known |= frozenset(word for letter in formula.letters.values() for word in letter.roles)
        last = bool(asked) and any(word.startswith(asked[-1]) for word in known)
        if asked and last and all(word in known or (k == len(asked) - 1) for k, word in enumerate(asked)):
            fit = sum(3 if word in title else 1 if word in formula.words else 0 for word in asked)
            found.append((-fit, len(formula.title), place, formula))
    return [formula for _, _, _, formula in sorted(found, key=lambda each: each[:3])]


# solving for a letter


def isolated(equation: Relation, letter: str) -> Node | None:
    """The right side of ``letter = …`` from an equation in which the letter stands once; None where it cannot be made.

    Of two values the positive one is taken, as for lengths and times.
    """
    left, right = equation.terms
    if occurrences(right, letter) != 1:
        return None
    inside, outside = right, left
    while not (isinstance(inside, Name) and inside.name == letter):
        undone = undo(inside, outside, letter)
        if undone is None:
            return None
        inside, outside = undone
    return outside


def occurrences(tree: Node, letter: str) -> int:
    if isinstance(tree, Name):
        return int(tree.name == letter)
    return sum(occurrences(child, letter) for child in children(tree))


def undo(inside: Node, outside: Node, letter: str) -> tuple[Node, Node] | None:
    """One step of solving ``inside = outside``: the outermost operation of the inside is undone."""

    def has(tree: Node) -> bool:
        return occurrences(tree, letter) > 0

    if isinstance(inside, Neg):
        return inside.operand, negated(outside)
    if isinstance(inside, Sum):
        term = next(term for term in inside.terms if has(term))
        others = [
            other.operand if isinstance(other, Neg) else Neg(other) for other in inside.terms if other is not term
        ]
        return term, Sum((outside, *others))
    if isinstance(inside, Product):
        factor = next(factor for factor in inside.factors if has(factor))
        rest = tuple(other for other in inside.factors if other is not factor)
        return factor, Quotient(outside, rest[0] if len(rest) == 1 else Product(rest, ("*",) * (len(rest) - 1)))
    if isinstance(inside, Quotient):
        if has(inside.numerator):
            return inside.numerator, Product((outside, inside.denominator), ("*",))
        return inside.denominator, Quotient(inside.numerator, outside)
    if isinstance(inside, Power):
        if has(inside.exponent):
            return inside.exponent, Quotient(Call("ln", (outside,)), Call("ln", (inside.base,)))
        if isinstance(inside.exponent, Number) and inside.exponent.value == 2:
            return inside.base, Call("sqrt", (outside,))
        if isinstance(inside.exponent, Number) and inside.exponent.value == 3:
            return inside.base, Call("root", (inside.exponent, outside))
        return inside.base, Power(outside, Quotient(ONE, inside.exponent))
    if isinstance(inside, Call) and len(inside.arguments) == 1:
        return undo_call(inside, outside)
    return None


def negated(tree: Node) -> Node:
    """The opposite of a tree, without a bracket where a sum can be turned round."""
    if isinstance(tree, Neg):
        return tree.operand
    if isinstance(tree, Sum):
        turned = [term.operand if isinstance(term, Neg) else Neg(term) for term in tree.terms]
        return Sum(tuple(sorted(turned, key=lambda term: isinstance(term, Neg))))
    return Neg(tree)


def undo_call(inside: Call, outside: Node) -> tuple[Node, Node] | None:
    argument = inside.arguments[0]
    inverses = {"sin": "asin", "cos": "acos", "tan": "atan", "asin": "sin", "acos": "cos", "atan": "tan", "ln": "exp",
                "exp": "ln"}  # fmt: skip
    if inside.function == "sqrt":
        return argument, Power(outside, TWO)
    if inside.function == "log":
        return argument, Power(Number(Fraction(10)), outside)
    if inside.function in inverses:
        return argument, Call(inverses[inside.function], (outside,))
    return None


# values


class Letters(Builder):
    """Quick functions of several letters: of a sequence of floats, in a fixed order."""

    def __init__(self, angle: str, names: Sequence[str]) -> None:
        super().__init__(angle)
        self.places = {name: place for place, name in enumerate(names)}

    def of(self, node: Node) -> Any:
        if isinstance(node, Name):
            place = self.places[node.name]
            return lambda values: values[place]
        return super().of(node)


def quick_function(tree: Node, names: Sequence[str]) -> Callable[[Sequence[float]], float | None]:
    """A function of floats from a tree; None where it has no value."""
    try:
        inner = Letters(ANGLE, names).of(tree)
    except NoFloats:
        return slow_function(tree, names)

    def value(values: Sequence[float]) -> float | None:
        try:
            found = inner(values)
        except (ValueError, OverflowError, ZeroDivisionError, TypeError):
            return None
        return found if isinstance(found, float) and math.isfinite(found) else None

    return value


def slow_function(tree: Node, names: Sequence[str]) -> Callable[[Sequence[float]], float | None]:
    """As ``quick_function`` for what has no quick one: factorials, choices, divisors."""
    program = Compiled(tree, ANGLE)

    def value(values: Sequence[float]) -> float | None:
        exact = {
            name: fmpq(*Fraction(number).limit_denominator(10**6).as_integer_ratio())
            for name, number in zip(names, values)
        }
        if any(abs(number) > 10_000 for number in exact.values()):
            return None
        try:
            found = program.value(exact)
        except EvaluationError:
            return None
        return None if isinstance(found, str | Node) else approximate(found)

    return value


def constant_value(text: str) -> tuple[Node, Fraction | float]:
    """A constant's value as a tree and as a number."""
    tree = read(text, Settings())
    value = Compiled(tree).value({})
    assert not isinstance(value, str | Node)
    return tree, to_fraction(value) if isinstance(value, fmpq) else approximate(value)
