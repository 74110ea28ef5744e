"""Content MathML, for exchange with programs that compute: what is meant, not how it looks."""

from __future__ import annotations

from html import escape

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
from .base import Printer, by_cases

CONSTANTS = {"pi": "<pi/>", "e": "<exponentiale/>", "i": "<imaginaryi/>", "infinity": "<infinity/>"}
RELATIONS = {"=": "eq", "<": "lt", ">": "gt", "≤": "leq", "≥": "geq", "≠": "neq", "≈": "approx", "in": "in"}
# Our functions whose element has another name.
ELEMENTS = {
    "asin": "arcsin", "acos": "arccos", "atan": "arctan", "asinh": "arcsinh", "acosh": "arccosh", "atanh": "arctanh",
    "ceil": "ceiling", "mod": "rem", "stdev": "sdev",
}  # fmt: skip
KNOWN = frozenset(
    "abs exp ln floor ceiling min max gcd lcm rem sin cos tan sec csc cot sinh cosh tanh sech csch coth arcsin arccos "
    "arctan arcsinh arccosh arctanh mean median variance sdev".split()
)
CLOSURES = {(True, True): "closed", (True, False): "closed-open", (False, True): "open-closed", (False, False): "open"}


def applied(operator: str, *arguments: str) -> str:
    return f"<apply>{operator}{''.join(arguments)}</apply>"


class ContentPrinter(Printer):
    """Needs no brackets: the tree is written out as it is."""

    def bracketed(self, shown: str) -> str:
        return shown

    def print_Number(self, node: Number) -> str:
        digits = self.digits(node.mantissa, node.decimals)
        if node.exponent is not None:
            return f'<cn type="e-notation">{digits}<sep/>{node.exponent}</cn>'
        return f'<cn type="integer">{digits}</cn>' if node.form == "integer" else f"<cn>{digits}</cn>"

    def print_Mixed(self, node: Mixed) -> str:
        fraction = applied("<divide/>", self.show(node.numerator), self.show(node.denominator))
        return applied("<plus/>", self.show(node.whole), fraction)

    def print_Name(self, node: Name) -> str:
        return f"<ci>{escape(node.name)}</ci>"

    def print_Constant(self, node: Constant) -> str:
        return CONSTANTS[node.name]

    def print_Text(self, node: Text) -> str:
        return f"<cs>{escape(node.text)}</cs>"

    def print_Sum(self, node: Sum) -> str:
        if len(node.terms) == 2 and isinstance(node.terms[1], Neg):
            return applied("<minus/>", self.show(node.terms[0]), self.show(node.terms[1].operand))
        return applied("<plus/>", *map(self.show, node.terms))

    def print_Neg(self, node: Neg) -> str:
        return applied("<minus/>", self.show(node.operand))

    def print_PlusMinus(self, node: PlusMinus) -> str:
        terms = [node.right] if node.left is None else [node.left, node.right]
        return applied("<csymbol>plus-minus</csymbol>", *map(self.show, terms))

    def print_Product(self, node: Product) -> str:
        return applied("<times/>", *map(self.show, node.factors))

    def print_Quotient(self, node: Quotient) -> str:
        return applied("<divide/>", self.show(node.numerator), self.show(node.denominator))

    def print_Power(self, node: Power) -> str:
        return applied("<power/>", self.show(node.base), self.show(node.exponent))

    def print_Postfix(self, node: Postfix) -> str:
        inner = self.show(node.operand)
        if node.sign == "!":
            return applied("<factorial/>", inner)
        if node.sign == "%":
            return applied("<divide/>", inner, '<cn type="integer">100</cn>')
        turned = applied("<divide/>", "<pi/>", '<cn type="integer">180</cn>')
        return applied("<times/>", inner, turned)

    def named_call(self, node: Call) -> str:
        arguments = [self.show(argument) for argument in node.arguments]
        if node.function == "log":
            base = arguments[1] if len(arguments) == 2 else '<cn type="integer">10</cn>'
            return applied("<log/>", f"<logbase>{base}</logbase>", arguments[0])
        name = ELEMENTS.get(node.function, node.function)
        return applied(f"<{name}/>" if name in KNOWN else f"<csymbol>{name}</csymbol>", *arguments)

    def call_sqrt(self, inner: Node) -> str:
        return applied("<root/>", self.show(inner))

    def call_root(self, order: Node, inner: Node) -> str:
        return applied("<root/>", f"<degree>{self.show(order)}</degree>", self.show(inner))

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        return self.running_call("int", inner, letter, *bounds)

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.running_call("sum", inner, letter, low, high)

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.running_call("product", inner, letter, low, high)

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        return self.running_call("limit", inner, letter, target)

    def running_call(self, name: str, inner: Node, letter: Node, *bounds: Node) -> str:
        limits = zip(("lowlimit", "uplimit"), bounds)
        ends = [f"<{limit}>{self.show(bound)}</{limit}>" for limit, bound in limits]
        return applied(f"<{name}/>", f"<bvar>{self.show(letter)}</bvar>", *ends, self.show(inner))

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        degree = "" if times is None else f"<degree>{self.show(times)}</degree>"
        return applied("<diff/>", f"<bvar>{self.show(letter)}{degree}</bvar>", self.show(inner))

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        pieces = "".join(f"<piece>{self.show(shown)}{self.show(where)}</piece>" for shown, where in cases)
        return f"<piecewise>{pieces}<otherwise>{self.show(rest)}</otherwise></piecewise>"

    def print_Relation(self, node: Relation) -> str:
        terms = [self.show(term) for term in node.terms]
        pairs = [
            applied(f"<{RELATIONS[sign]}/>", left, right) for sign, left, right in zip(node.signs, terms, terms[1:])
        ]
        return pairs[0] if len(pairs) == 1 else applied("<and/>", *pairs)

    def print_Logic(self, node: Logic) -> str:
        return applied(f"<{node.word}/>", *map(self.show, node.terms))

    def print_Collection(self, node: Collection) -> str:
        element = {"point": "vector", "vector": "vector", "set": "set", "list": "list"}[node.kind]
        return f"<{element}>{''.join(map(self.show, node.items))}</{element}>"

    def print_Matrix(self, node: Matrix) -> str:
        rows = "".join(f"<matrixrow>{''.join(map(self.show, row))}</matrixrow>" for row in node.rows)
        return f"<matrix>{rows}</matrix>"

    def print_Interval(self, node: Interval) -> str:
        closure = CLOSURES[node.low_closed, node.high_closed]
        return f'<interval closure="{closure}">{self.show(node.low)}{self.show(node.high)}</interval>'

    def print_Quantity(self, node: Quantity) -> str:
        return applied("<times/>", self.show(node.amount), f"<csymbol>{escape(node.unit)}</csymbol>")

    def print_Chemical(self, node: Chemical) -> str:
        return f"<cs>{escape(''.join(text for _, text in node.pieces))}</cs>"
