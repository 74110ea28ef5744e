"""Line maths, as it is typed: reading what this prints gives the same tree."""

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
from .base import (
    AND,
    ATOM,
    PLUS_MINUS,
    POSTFIX,
    POWER,
    PRODUCT,
    RELATION,
    SIGN,
    SUM,
    Printer,
    bare,
    starts_with_digit,
)

ASCII_RELATIONS = {"≤": "<=", "≥": ">=", "≠": "!="}


class LinePrinter(Printer):
    def bracketed(self, shown: str) -> str:
        return f"({shown})"

    def print_Number(self, node: Number) -> str:
        if node.exponent is None:
            return self.digits(node.value, node.decimals)
        return f"{self.digits(node.mantissa, node.decimals)}e{node.exponent}"

    def print_Mixed(self, node: Mixed) -> str:
        return f"{self.show(node.whole)} {self.show(node.numerator)}/{self.show(node.denominator)}"

    def print_Name(self, node: Name) -> str:
        return node.name

    def print_Constant(self, node: Constant) -> str:
        return node.name

    def print_Text(self, node: Text) -> str:
        return f'"{node.text}"'

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(bare(term), Neg):
                shown += " - " + self.fitted(bare(term).operand, PRODUCT)  # type: ignore[attr-defined]
            else:
                shown += " + " + self.fitted(term, PRODUCT)
        return shown

    def print_Neg(self, node: Neg) -> str:
        return "-" + self.fitted(node.operand, PRODUCT)

    def print_PlusMinus(self, node: PlusMinus) -> str:
        right = self.fitted(node.right, SUM)
        return f"±{right}" if node.left is None else f"{self.fitted(node.left, PLUS_MINUS)} ± {right}"

    def print_Product(self, node: Product) -> str:
        first = node.factors[0]
        shown = self.fitted(first, PRODUCT if isinstance(bare(first), Quotient | Mixed) else POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            factor = self.fitted(right, POWER)
            close = starts_with_digit(right) and not factor.startswith("(") and not shown.endswith(")")
            if sign or close:
                if self.could_be_standard_form(left, right):
                    factor = self.bracketed(factor)
                shown += "*" + factor
            else:
                shown += " " + factor
        return shown

    def could_be_standard_form(self, left: Node, right: Node) -> bool:
        right = bare(right)
        return isinstance(bare(left), Number) and isinstance(right, Power) and self.show(right.base) == "10"

    def print_Quotient(self, node: Quotient) -> str:
        top = bare(node.numerator)
        level = PRODUCT if isinstance(top, Product | Quotient) else POWER
        return f"{self.fitted(node.numerator, level)}/{self.fitted(node.denominator, POWER)}"

    def print_Power(self, node: Power) -> str:
        base = self.show(node.base)
        number = bare(node.base)
        if self.level(node.base) < POSTFIX or (isinstance(number, Number) and number.exponent is not None):
            base = self.bracketed(base)
        exponent = node.exponent
        if isinstance(bare(exponent), Neg):
            return f"{base}^-{self.fitted(bare(exponent).operand, POWER)}"  # type: ignore[attr-defined]
        shown = self.fitted(exponent, POWER)
        return f"{base}^{self.bracketed(shown) if isinstance(bare(exponent), Collection) else shown}"

    def print_Postfix(self, node: Postfix) -> str:
        return self.fitted(node.operand, POSTFIX) + node.sign

    def named_call(self, node: Call) -> str:
        return f"{node.function}({self.separator().join(map(self.show, node.arguments))})"

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {ASCII_RELATIONS.get(sign, sign)} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return f" {node.word} ".join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        items = self.separator().join(map(self.show, node.items))
        opening, closing = {
            "point": ("(", ")"),
            "vector": ("vec(", ")"),
            "set": ("{", "}"),
            "list": ("list(", ")"),
        }[node.kind]
        return f"{opening}{items}{closing}"

    def print_Matrix(self, node: Matrix) -> str:
        return "matrix(" + "; ".join(", ".join(map(self.show, row)) for row in node.rows) + ")"

    def print_Interval(self, node: Interval) -> str:
        opening, closing = "[" if node.low_closed else "(", "]" if node.high_closed else ")"
        return f"{opening}{self.show(node.low)}{self.separator()}{self.show(node.high)}{closing}"

    def print_Quantity(self, node: Quantity) -> str:
        return f"{self.fitted(node.amount, ATOM)} [{node.unit}]"

    def print_Chemical(self, node: Chemical) -> str:
        shown = "chem: "
        for style, text in node.pieces:
            text = text.replace("−", "-").replace("→", "->").replace("⇌", "<=>")
            shown += {"plain": text, "sub": text, "super": f"^{text}"}[style]
        return shown
