"""What all printers share: binding strengths, brackets, and how a number's digits are set."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..tree import (
    Call,
    Chemical,
    Collection,
    Constant,
    Drawn,
    Logic,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    PlusMinus,
    Postfix,
    Power,
    Product,
    Quantity,
    Quotient,
    Relation,
    Sum,
    Text,
)

OR, AND, RELATION, PLUS_MINUS, SUM, SIGN, PRODUCT, POWER, POSTFIX, ATOM = range(10)


# What functions are called in print, and what those of the tangent are called where it is tg.
INVERSES = {"asin": "arcsin", "acos": "arccos", "atan": "arctan"}
TANGENTS = {"tan": "tg", "cot": "ctg", "atan": "arctg", "acot": "arcctg"}


@dataclass(frozen=True, slots=True)
class Style:
    """How the reader of the print wants it."""

    decimal_mark: str = "point"
    # whether drawn values are marked for the author's eye; never for students
    show_drawn: bool = False
    # what parts the thousands: "space" or "apostrophe"
    thousands: str = "space"
    # the sign between factors that need one: "cross" or "dot"
    times: str = "cross"
    # whether the tangent is called tg
    tg: bool = False
    # the language in which it is read aloud
    language: str = "en"

    @property
    def mark(self) -> str:
        """The sign before the decimals."""
        return "," if self.decimal_mark == "comma" else "."

    def name_of(self, function: str) -> str:
        """What a function is called in print."""
        return (TANGENTS if self.tg else INVERSES).get(function, INVERSES.get(function, function))


# Functions whose power stands at their name: sin²(x). The power −1 would mean another function.
RAISED_AT_NAME = frozenset("sin cos tan sec csc cot sinh cosh tanh ln".split())
# Calls that are set as signs with what they run over; nothing may follow them closely.
RUNNING = frozenset(["integral", "sum", "product", "limit", "diff"])


class Printer:
    """Walks a tree; subclasses hold one ``print_Kind`` method for each kind of node, and a ``call_name`` method
    for each function that is set in a way of its own."""

    # The functions that are set as running signs here.
    running: frozenset[str] = frozenset()

    # Two-dimensional printers set a fraction with a bar, which brackets for itself.
    levels: dict[type[Node], int] = {
        PlusMinus: PLUS_MINUS, Relation: RELATION, Sum: SUM, Neg: SIGN, Product: PRODUCT,
        Quotient: PRODUCT, Mixed: PRODUCT, Power: POWER, Postfix: POSTFIX, Quantity: POSTFIX,
    }  # fmt: skip

    def __init__(self, style: Style = Style()) -> None:
        self.style = style

    def show(self, node: Node) -> str:
        shown: str = getattr(self, f"print_{type(node).__name__}")(node)
        return shown

    def level(self, node: Node) -> int:
        if isinstance(node, Drawn):
            return self.level(node.value)
        if isinstance(node, Logic):
            return OR if node.word == "or" else AND
        if isinstance(node, Call) and node.function in self.running:
            return PRODUCT
        return self.levels.get(type(node), ATOM)

    def fitted(self, node: Node, level: int) -> str:
        """The node, in brackets when it binds more loosely than ``level``."""
        shown = self.show(node)
        return shown if self.level(node) >= level else self.bracketed(shown)

    def bracketed(self, shown: str) -> str:
        raise NotImplementedError

    def factor(self, node: Node, last: bool) -> str:
        """A factor of a product; a running sign needs no brackets where nothing follows it."""
        open_ended = last and isinstance(node, Call) and node.function in self.running
        return self.show(node) if open_ended else self.fitted(node, POWER)

    def print_Call(self, node: Call) -> str:
        own = getattr(self, f"call_{node.function}", None)
        shown: str = self.named_call(node) if own is None else own(*node.arguments)
        return shown

    def named_call(self, node: Call) -> str:
        """A function by its name with its arguments in brackets."""
        raise NotImplementedError

    def print_Drawn(self, node: Drawn) -> str:
        """A drawn value looks like any other, except where a printer marks it for authors."""
        return self.show(node.value)

    @property
    def times_sign(self) -> str:
        return "·" if self.style.times == "dot" else "×"

    def group(self, space: str) -> str:
        """What parts the thousands of a number, where a space would otherwise do it."""
        return "’" if self.style.thousands == "apostrophe" else space

    def separator(self) -> str:
        return "; " if self.style.decimal_mark == "comma" else ", "

    def digits(self, value: Fraction, decimals: int, group: str = "") -> str:
        """The digits of a value that is not negative, with so many decimals (exact when they suffice)."""
        whole = value.numerator * 10**decimals // value.denominator
        text = str(whole).rjust(decimals + 1, "0")
        before, after = (text[:-decimals], text[-decimals:]) if decimals else (text, "")
        if group and len(before) > 4:
            head = len(before) % 3 or 3
            before = group.join([before[:head], *(before[k : k + 3] for k in range(head, len(before), 3))])
        return f"{before}{self.style.mark}{after}" if after else before


def by_cases(condition: Node, value: Node, otherwise: Node) -> tuple[list[tuple[Node, Node]], Node]:
    """The cases of a formula, (value, condition) each, and what is left over."""
    cases = [(value, condition)]
    while isinstance(otherwise, Call) and otherwise.function == "if":
        condition, value, otherwise = otherwise.arguments
        cases.append((value, condition))
    return cases, otherwise


def raised_call(node: Power) -> tuple[Call, Number] | None:
    """The call and the power of a function that has the power at its name, as in sin²(x); None for other powers."""
    base, power = bare(node.base), bare(node.exponent)
    if not isinstance(base, Call) or base.function not in RAISED_AT_NAME or len(base.arguments) != 1:
        return None
    if not isinstance(power, Number) or power.form != "integer" or not 2 <= power.value <= 9:
        return None
    return base, power


def bare(node: Node) -> Node:
    """The node without the mark of having been drawn."""
    while isinstance(node, Drawn):
        node = node.value
    return node


def starts_with_digit(node: Node) -> bool:
    """Whether the print of a factor begins with a figure, so that no factor may stand close before it."""
    node = bare(node)
    if isinstance(node, Number | Mixed):
        return True
    if isinstance(node, Power):
        return starts_with_digit(node.base)
    if isinstance(node, Product):
        return starts_with_digit(node.factors[0])
    if isinstance(node, Quotient):
        return starts_with_digit(node.numerator)
    if isinstance(node, Postfix | Quantity):
        return starts_with_digit(node.operand if isinstance(node, Postfix) else node.amount)
    return False


def is_numeric(node: Node) -> bool:
    """Whether a factor is made of figures alone."""
    node = bare(node)
    if isinstance(node, Quotient):
        return is_numeric(node.numerator) and is_numeric(node.denominator)
    if isinstance(node, Neg):
        return is_numeric(node.operand)
    if isinstance(node, Power):
        return is_numeric(node.base)
    return isinstance(node, Number | Mixed)


def needs_times(left: Node, right: Node, sign: str) -> bool:
    """Whether two factors need a sign between them to be read aright when typeset."""
    left, right = bare(left), bare(right)
    if isinstance(right, Neg):
        return sign == "*" and is_numeric(left)
    if starts_with_digit(right) or isinstance(left, Quantity | Text) or isinstance(right, Text):
        return True
    if isinstance(right, Quotient):
        return is_numeric(left) and is_numeric(right)
    if isinstance(left, Call) and isinstance(right, Name | Constant) and left.function not in {"sqrt", "abs", "root"}:
        return sign == "*"
    return isinstance(right, Chemical | Collection)
