"""Spoken words, for alternative text: what a teacher would read out."""

from __future__ import annotations

from ..tree import (
    Call,
    Chemical,
    Collection,
    Constant,
    Interval,
    Logic,
    Matrix,
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
from .base import AND, ATOM, PLUS_MINUS, POWER, PRODUCT, RELATION, SIGN, SUM, Printer, bare, needs_times

RELATIONS = {
    "=": "equals", "<": "is less than", ">": "is greater than", "≤": "is at most", "≥": "is at least",
    "≠": "is not equal to", "in": "is in",
}  # fmt: skip
FUNCTIONS = {
    "sqrt": "the square root of", "abs": "the absolute value of", "sin": "sine of", "cos": "cosine of",
    "tan": "tangent of", "ln": "natural log of", "exp": "e to the power", "asin": "inverse sine of",
    "acos": "inverse cosine of", "atan": "inverse tangent of",
}  # fmt: skip
POSTFIXES = {"!": "factorial", "%": "percent", "°": "degrees"}


class SpokenPrinter(Printer):
    levels = Printer.levels | {Call: POWER}

    def bracketed(self, shown: str) -> str:
        return f"open bracket {shown} close bracket"

    def print_Number(self, node: Number) -> str:
        shown = self.digits(node.mantissa, node.decimals)
        if node.exponent is None:
            return shown
        sign = "minus " if node.exponent < 0 else ""
        return f"{shown} times 10 to the power {sign}{abs(node.exponent)}"

    def print_Mixed(self, node: Mixed) -> str:
        return f"{self.show(node.whole)} and {self.show(node.numerator)} over {self.show(node.denominator)}"

    def print_Name(self, node: Name) -> str:
        stem, _, subscript = node.name.partition("_")
        return f"{stem} sub {subscript}" if subscript else stem

    def print_Constant(self, node: Constant) -> str:
        return node.name

    def print_Text(self, node: Text) -> str:
        return node.text

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(term, Neg):
                shown += " minus " + self.fitted(term.operand, PRODUCT)
            else:
                shown += " plus " + self.fitted(term, PRODUCT)
        return shown

    def print_Neg(self, node: Neg) -> str:
        return "minus " + self.fitted(node.operand, PRODUCT)

    def print_PlusMinus(self, node: PlusMinus) -> str:
        left = "" if node.left is None else self.fitted(node.left, PLUS_MINUS) + " "
        return f"{left}plus or minus {self.fitted(node.right, SUM)}"

    def print_Product(self, node: Product) -> str:
        shown = self.fitted(node.factors[0], POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            shown += (" times " if needs_times(left, right, sign) else " ") + self.fitted(right, POWER)
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        top, bottom = self.fitted(node.numerator, POWER), self.fitted(node.denominator, POWER)
        return f"{top} over {bottom}"

    def print_Power(self, node: Power) -> str:
        base, exponent = self.fitted(node.base, ATOM), bare(node.exponent)
        if isinstance(exponent, Number) and exponent.form == "integer" and exponent.value in (2, 3):
            return f"{base} {'squared' if exponent.value == 2 else 'cubed'}"
        return f"{base} to the power {self.fitted(node.exponent, SIGN)}"

    def print_Postfix(self, node: Postfix) -> str:
        return f"{self.fitted(node.operand, ATOM)} {POSTFIXES[node.sign]}"

    def print_Call(self, node: Call) -> str:
        if node.function == "log" and len(node.arguments) == 2:
            return f"log base {self.show(node.arguments[1])} of {self.fitted(node.arguments[0], ATOM)}"
        if node.function == "root":
            return f"the root of order {self.show(node.arguments[0])} of {self.fitted(node.arguments[1], ATOM)}"
        name = FUNCTIONS.get(node.function, f"{node.function} of")
        if len(node.arguments) == 1:
            return f"{name} {self.fitted(node.arguments[0], PRODUCT)}"
        return f"{name} {' and '.join(map(self.show, node.arguments))}"

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {RELATIONS[sign]} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return f" {node.word} ".join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        return f"the {node.kind} {', '.join(map(self.show, node.items))}"

    def print_Matrix(self, node: Matrix) -> str:
        return "the matrix with rows " + "; ".join(", ".join(map(self.show, row)) for row in node.rows)

    def print_Interval(self, node: Interval) -> str:
        low, high = (
            "included" if node.low_closed else "left out",
            "included" if node.high_closed else "left out",
        )
        return f"the interval from {self.show(node.low)}, {low}, to {self.show(node.high)}, {high}"

    def print_Quantity(self, node: Quantity) -> str:
        return f"{self.show(node.amount)} {node.unit}"

    def print_Chemical(self, node: Chemical) -> str:
        return " ".join(text.strip() for _, text in node.pieces)


def speak(node: Node) -> str:
    """The words for a formula, for a picture's or an equation's alternative text."""
    return SpokenPrinter().show(node)
