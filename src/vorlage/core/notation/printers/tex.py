"""TeX mathematics, for exchange; what this prints can be pasted and is read again."""

from __future__ import annotations

import re

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
from ..vocabulary import GREEK
from .base import (
    AND,
    ATOM,
    PLUS_MINUS,
    POSTFIX,
    POWER,
    PRODUCT,
    RELATION,
    RUNNING,
    SIGN,
    SUM,
    Printer,
    bare,
    by_cases,
    needs_times,
)

SPECIAL = str.maketrans({
    "\\": r"\textbackslash{}", "{": r"\{", "}": r"\}", "$": r"\$", "%": r"\%", "&": r"\&", "#": r"\#", "_": r"\_",
    "^": r"\textasciicircum{}", "~": r"\textasciitilde{}",
})  # fmt: skip
UNIT_SIGNS = str.maketrans({
    "%": r"\%", "°": r"{}^{\circ}", "µ": r"\mu ", "μ": r"\mu ", "Ω": r"\Omega ", "·": r"\cdot ", "*": r"\cdot ",
})  # fmt: skip
POWERS_OF_UNITS = re.compile(r"\^(-?\d+)")
COMMANDS = frozenset("sin cos tan cot sec csc sinh cosh tanh coth ln log exp min max gcd".split())
INVERSES = {"asin": r"\arcsin", "acos": r"\arccos", "atan": r"\arctan"}
RELATIONS = {"≤": r"\le", "≥": r"\ge", "≠": r"\ne", "≈": r"\approx", "in": r"\in"}
CONSTANTS = {"pi": r"\pi", "e": r"e", "i": "i", "infinity": r"\infty"}


def escaped(text: str) -> str:
    """Words in which no character is a command."""
    return text.translate(SPECIAL)


class TeXPrinter(Printer):
    running = RUNNING
    levels = Printer.levels | {Quotient: POWER, Mixed: POWER}

    def bracketed(self, shown: str) -> str:
        return rf"\left({shown}\right)"

    def print_Number(self, node: Number) -> str:
        shown = self.digits(node.mantissa, node.decimals)
        shown = shown.replace(",", "{,}")
        return shown if node.exponent is None else rf"{shown} \times 10^{{{node.exponent}}}"

    def print_Mixed(self, node: Mixed) -> str:
        return rf"{self.show(node.whole)} \frac{{{self.show(node.numerator)}}}{{{self.show(node.denominator)}}}"

    def print_Name(self, node: Name) -> str:
        stem, _, subscript = node.name.partition("_")
        shown = rf"\{stem}" if stem in GREEK else stem if len(stem) == 1 else rf"\mathrm{{{escaped(stem)}}}"
        if not subscript:
            return shown
        below = subscript if len(subscript) == 1 or subscript.isdigit() else rf"\mathrm{{{escaped(subscript)}}}"
        return f"{shown}_{{{below}}}"

    def print_Constant(self, node: Constant) -> str:
        return CONSTANTS[node.name]

    def print_Text(self, node: Text) -> str:
        return rf"\text{{{escaped(node.text)}}}"

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(term, Neg):
                shown += " - " + self.fitted(term.operand, PRODUCT)
            else:
                shown += " + " + self.fitted(term, PRODUCT)
        return shown

    def print_Neg(self, node: Neg) -> str:
        return "-" + self.fitted(node.operand, PRODUCT)

    def print_PlusMinus(self, node: PlusMinus) -> str:
        left = "" if node.left is None else self.fitted(node.left, PLUS_MINUS) + " "
        return rf"{left}\pm {self.fitted(node.right, SUM)}"

    def print_Product(self, node: Product) -> str:
        shown = self.fitted(node.factors[0], POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            times = r" \times " if needs_times(left, right, sign) else " "
            shown += times + self.factor(right, right is node.factors[-1])
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        return rf"\frac{{{self.show(node.numerator)}}}{{{self.show(node.denominator)}}}"

    def print_Power(self, node: Power) -> str:
        base = bare(node.base)
        level = ATOM if isinstance(base, Quotient | Mixed) else POSTFIX
        shown = self.show(node.base)
        if self.level(node.base) < level or (isinstance(base, Number) and base.exponent is not None):
            shown = self.bracketed(shown)
        return f"{shown}^{{{self.show(node.exponent)}}}"

    def print_Postfix(self, node: Postfix) -> str:
        sign = {"%": r"\%", "°": r"^{\circ}"}.get(node.sign, node.sign)
        return f"{self.fitted(node.operand, POSTFIX)}{sign}"

    def named_call(self, node: Call) -> str:
        inner: tuple[Node, ...] = node.arguments
        name = INVERSES.get(node.function)
        if name is None:
            name = rf"\{node.function}" if node.function in COMMANDS else rf"\operatorname{{{escaped(node.function)}}}"
        if node.function == "log" and len(node.arguments) == 2:
            name, inner = f"{name}_{{{self.show(node.arguments[1])}}}", node.arguments[:1]
        return f"{name}{self.bracketed(self.separator().join(map(self.show, inner)))}"

    def call_sqrt(self, inner: Node) -> str:
        return rf"\sqrt{{{self.show(inner)}}}"

    def call_root(self, order: Node, inner: Node) -> str:
        return rf"\sqrt[{self.show(order)}]{{{self.show(inner)}}}"

    def call_abs(self, inner: Node) -> str:
        return rf"\left|{self.show(inner)}\right|"

    def call_floor(self, inner: Node) -> str:
        return rf"\left\lfloor {self.show(inner)}\right\rfloor"

    def call_ceil(self, inner: Node) -> str:
        return rf"\left\lceil {self.show(inner)}\right\rceil"

    def call_binomial(self, top: Node, bottom: Node) -> str:
        return rf"\binom{{{self.show(top)}}}{{{self.show(bottom)}}}"

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        ends = rf"_{{{self.show(bounds[0])}}}^{{{self.show(bounds[1])}}}" if len(bounds) == 2 else ""
        return rf"\int{ends} {self.fitted(inner, PRODUCT)} \,\mathrm{{d}}{self.show(letter)}"

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = rf"_{{{self.show(letter)} = {self.show(low)}}}^{{{self.show(high)}}}"
        return rf"\sum{ends} {self.fitted(inner, PRODUCT)}"

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = rf"_{{{self.show(letter)} = {self.show(low)}}}^{{{self.show(high)}}}"
        return rf"\prod{ends} {self.fitted(inner, PRODUCT)}"

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        return rf"\lim_{{{self.show(letter)} \to {self.show(target)}}} {self.fitted(inner, PRODUCT)}"

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        raised = "" if times is None else f"^{{{self.show(times)}}}"
        fraction = rf"\frac{{\mathrm{{d}}{raised}}}{{\mathrm{{d}}{self.show(letter)}{raised}}}"
        return f"{fraction} {self.fitted(inner, PRODUCT)}"

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        rows = [f"{self.show(shown)} & {self.show(where)}" for shown, where in cases]
        rows.append(rf"{self.show(rest)} & \text{{otherwise}}")
        return r"\begin{cases}" + r" \\ ".join(rows) + r"\end{cases}"

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {RELATIONS.get(sign, sign)} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return rf" \text{{ {node.word} }} ".join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        if node.kind == "vector":
            return r"\begin{pmatrix}" + r" \\ ".join(map(self.show, node.items)) + r"\end{pmatrix}"
        opening, closing = {"point": (r"\left(", r"\right)"), "set": (r"\{", r"\}"), "list": ("", "")}[node.kind]
        return f"{opening}{self.separator().join(map(self.show, node.items))}{closing}"

    def print_Matrix(self, node: Matrix) -> str:
        rows = r" \\ ".join(" & ".join(map(self.show, row)) for row in node.rows)
        return rf"\begin{{pmatrix}}{rows}\end{{pmatrix}}"

    def print_Interval(self, node: Interval) -> str:
        opening, closing = "[" if node.low_closed else "(", "]" if node.high_closed else ")"
        return rf"\left{opening}{self.show(node.low)}{self.separator()}{self.show(node.high)}\right{closing}"

    def print_Quantity(self, node: Quantity) -> str:
        unit = POWERS_OF_UNITS.sub(r"^{\1}", node.unit.translate(UNIT_SIGNS)).replace(" ", r"\,")
        return rf"{self.fitted(node.amount, POWER)}\,\mathrm{{{unit}}}"

    def print_Chemical(self, node: Chemical) -> str:
        shown = ""
        for style, text in node.pieces:
            words = escaped(text).replace("→", r"}\rightarrow\mathrm{").replace("⇌", r"}\rightleftharpoons\mathrm{")
            piece = rf"\mathrm{{{words}}}"
            shown += piece if style == "plain" else f"{'_' if style == 'sub' else '^'}{{{piece}}}"
        return shown
