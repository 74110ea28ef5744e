"""The syntax tree of line maths: plain, frozen, and the same for every reader and printer.

A node says what was written, not what it is worth: ``2.50`` and ``5/2`` are different trees.
Behaviour lives in classes that walk the tree (see ``printers``), never in the nodes.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction


@dataclass(frozen=True, slots=True)
class Node:
    """Any piece of a formula."""


@dataclass(frozen=True, slots=True)
class Number(Node):
    """A literal without a sign: its exact value, and how it was written.

    ``decimals`` counts the digits after the decimal mark (of the mantissa in standard form);
    ``exponent`` is the power of ten of standard form, ``None`` otherwise.
    """

    value: Fraction
    decimals: int = 0
    exponent: int | None = None

    @property
    def form(self) -> str:
        """``integer``, ``decimal`` or ``standard_form``."""
        if self.exponent is not None:
            return "standard_form"
        return "decimal" if self.decimals else "integer"

    @property
    def mantissa(self) -> Fraction:
        """The value with the power of ten taken out."""
        if self.exponent is None:
            return self.value
        return self.value / Fraction(10) ** self.exponent

    @property
    def significant_figures(self) -> int:
        """Figures from the first that is not zero; trailing zeros after the mark count.

        >>> Number(Fraction(5, 2), decimals=2).significant_figures
        3
        """
        digits = str(int(self.mantissa * 10**self.decimals))
        if digits == "0":
            return self.decimals + 1 if self.decimals else 1
        if self.decimals == 0 and self.exponent is None:
            return len(digits.rstrip("0"))
        return len(digits)


@dataclass(frozen=True, slots=True)
class Mixed(Node):
    """A mixed number such as ``2 1/2``."""

    whole: Number
    numerator: Number
    denominator: Number


@dataclass(frozen=True, slots=True)
class Name(Node):
    """A letter, a subscripted letter (``v_0``) or a declared longer name."""

    name: str


@dataclass(frozen=True, slots=True)
class Constant(Node):
    """``pi``, ``e``, ``i`` or ``infinity``."""

    name: str


@dataclass(frozen=True, slots=True)
class Text(Node):
    """Words inside a formula, shown as they are."""

    text: str


@dataclass(frozen=True, slots=True)
class Sum(Node):
    """Two or more terms; a subtracted term is a ``Neg``."""

    terms: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Neg(Node):
    operand: Node


@dataclass(frozen=True, slots=True)
class PlusMinus(Node):
    """``left ± right``; ``left`` is ``None`` for a leading sign."""

    left: Node | None
    right: Node


@dataclass(frozen=True, slots=True)
class Product(Node):
    """Two or more factors; ``signs[k]`` stands before factor k+1: ``*`` or empty for side by side."""

    factors: tuple[Node, ...]
    signs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Quotient(Node):
    numerator: Node
    denominator: Node


@dataclass(frozen=True, slots=True)
class Power(Node):
    base: Node
    exponent: Node


@dataclass(frozen=True, slots=True)
class Postfix(Node):
    """``!``, ``%`` or ``°`` after its operand."""

    sign: str
    operand: Node


@dataclass(frozen=True, slots=True)
class Call(Node):
    """A function and its arguments; ``abs`` prints as bars, ``sqrt`` as a root."""

    function: str
    arguments: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Relation(Node):
    """A chain such as ``1 < x <= 3``: one more term than there are signs."""

    terms: tuple[Node, ...]
    signs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Logic(Node):
    """Statements joined by ``and`` or ``or``."""

    word: str
    terms: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Collection(Node):
    """Items between brackets: ``point``, ``vector``, ``set`` or ``list``."""

    kind: str
    items: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Matrix(Node):
    rows: tuple[tuple[Node, ...], ...]


@dataclass(frozen=True, slots=True)
class Interval(Node):
    """An interval with at least one square bracket; ``(1, 3)`` reads as a point."""

    low: Node
    high: Node
    low_closed: bool
    high_closed: bool


@dataclass(frozen=True, slots=True)
class Quantity(Node):
    """An amount with a unit in square brackets."""

    amount: Node
    unit: str


@dataclass(frozen=True, slots=True)
class Chemical(Node):
    """A chemical formula as written after ``chem:``, cut into (style, text) pieces.

    Styles are ``plain``, ``sub`` and ``super``.
    """

    pieces: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Drawn(Node):
    """A value that a draw put in the place of a parameter; only printing cares about it."""

    value: Node
    name: str


def fields_of(node: Node) -> tuple[str, ...]:
    """The names of a node's fields, in reading order."""
    return type(node).__match_args__


def children(node: Node) -> Iterator[Node]:
    """The nodes directly inside a node, in reading order."""
    for field in fields_of(node):
        held = getattr(node, field)
        if isinstance(held, Node):
            yield held
        elif isinstance(held, tuple):
            for item in held:
                if isinstance(item, Node):
                    yield item
                elif isinstance(item, tuple):
                    yield from (cell for cell in item if isinstance(cell, Node))


def walk(node: Node) -> Iterator[Node]:
    """A node and everything inside it, outermost first."""
    waiting = [node]
    while waiting:
        current = waiting.pop()
        yield current
        waiting.extend(reversed(list(children(current))))


def names_in(node: Node) -> frozenset[str]:
    """The names a formula speaks of."""
    found: set[str] = set()
    waiting: list[object] = [node]
    while waiting:
        current = waiting.pop()
        kind = type(current)
        if kind is Name:
            found.add(current.name)  # type: ignore[attr-defined]
        elif kind is tuple:
            waiting.extend(current)  # type: ignore[arg-type]
        elif kind is not Number and isinstance(current, Node):
            waiting.extend([getattr(current, field) for field in kind.__match_args__])  # type: ignore[attr-defined]
    return frozenset(found)


def unsigned(node: Node) -> Node:
    """The tree without the minus signs before it."""
    while isinstance(node, Neg):
        node = node.operand
    return node
