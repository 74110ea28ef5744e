"""Typst mathematics for print; everything a person typed is escaped or quoted here."""

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
    raised_call,
)

# A sixth of the size, where no line is broken.
THIN = "\u2006"


def quoted(text: str) -> str:
    """A Typst string that holds exactly this text."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


CONSTANTS = {"pi": "upright(π)", "e": "upright(e)", "i": "upright(i)", "infinity": "∞"}


def unit_source(unit: str) -> str:
    """A unit as Typst maths, its powers raised."""
    shown = ""
    for k, word in enumerate(unit.replace("*", "·").split("^")):
        digits = len(word) - len(word.lstrip("-0123456789")) if k else 0
        raised, rest = word[:digits].replace("-", "−"), word[digits:]
        shown += f"^({quoted(raised)})" if k else ""
        shown += quoted(rest) if rest or not k else ""
    return shown


class TypstPrinter(Printer):
    running = RUNNING
    levels = Printer.levels | {Quotient: POWER, Mixed: POWER}

    def whole(self, node: Node, alternative: str, block: bool = False) -> str:
        """A complete equation with its alternative text, to stand in Typst markup."""
        inner = self.show(node)
        return f"#math.equation(block: {str(block).lower()}, alt: {quoted(alternative)}, ${inner}$)"

    def figures(self, node: Node) -> str:
        """A number that is nothing but figures and a decimal mark, as text: it is read as it stands, and a paper with
        many of them is made in less time. Empty for anything else."""
        node = bare(node)
        if not isinstance(node, Number) or node.exponent is not None:
            return ""
        shown = self.print_Number(node)
        return f"#{shown}" if shown.strip('"').replace(self.style.mark, "", 1).isdecimal() else ""

    def bracketed(self, shown: str) -> str:
        return f"lr(\\( {shown} \\))"

    def print_Number(self, node: Number) -> str:
        shown = quoted(self.digits(node.mantissa, node.decimals, group=self.group("\u202f")))
        if node.exponent is None:
            return shown
        return f'{shown} {self.times_source} "10"^({"-" if node.exponent < 0 else ""} "{abs(node.exponent)}")'

    def print_Mixed(self, node: Mixed) -> str:
        return f"{self.show(node.whole)} frac({self.show(node.numerator)}, {self.show(node.denominator)})"

    def print_Name(self, node: Name) -> str:
        stem, _, subscript = node.name.partition("_")
        letter = GREEK.get(stem, stem)
        shown = letter if len(letter) == 1 else f"italic({quoted(letter)})"
        if not subscript:
            return shown
        below = subscript if len(subscript) == 1 and subscript.isalpha() else quoted(subscript)
        return f"{shown}_({below})"

    def print_Constant(self, node: Constant) -> str:
        return CONSTANTS[node.name]

    def print_Text(self, node: Text) -> str:
        return quoted(node.text)

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(term, Neg):
                shown += " - " + self.fitted(term.operand, PRODUCT)
            else:
                shown += " + " + self.fitted(term, PRODUCT)
        return shown

    def print_Neg(self, node: Neg) -> str:
        return "- " + self.fitted(node.operand, PRODUCT)

    def print_PlusMinus(self, node: PlusMinus) -> str:
        left = "" if node.left is None else self.fitted(node.left, PLUS_MINUS)
        return f"{left} ± {self.fitted(node.right, SUM)}"

    def print_Product(self, node: Product) -> str:
        shown = self.fitted(node.factors[0], POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            times = f" {self.times_source} " if needs_times(left, right, sign) else " "
            shown += times + self.factor(right, right is node.factors[-1])
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        return f"frac({self.show(node.numerator)}, {self.show(node.denominator)})"

    def print_Power(self, node: Power) -> str:
        if raised := raised_call(node):
            call, power = raised
            return f"{self.name(call)}^({self.show(power)}) {self.bracketed(self.show(call.arguments[0]))}"
        base = bare(node.base)
        level = ATOM if isinstance(base, Quotient | Mixed) else POSTFIX
        shown = self.show(node.base)
        if self.level(node.base) < level or (isinstance(base, Number) and base.exponent is not None):
            shown = self.bracketed(shown)
        return f"{shown}^({self.show(node.exponent)})"

    def print_Postfix(self, node: Postfix) -> str:
        return f"{self.fitted(node.operand, POSTFIX)}{quoted(node.sign)}"

    def name(self, node: Call) -> str:
        return f"op({quoted(self.style.name_of(node.function))})"

    def named_call(self, node: Call) -> str:
        inner: tuple[Node, ...] = node.arguments
        name = self.name(node)
        if node.function == "log" and len(node.arguments) == 2:
            name, inner = f"{name}_({self.show(node.arguments[1])})", node.arguments[:1]
        items = self.comma().join(map(self.show, inner))
        return f"{name} {self.bracketed(items)}"

    def call_sqrt(self, inner: Node) -> str:
        return f"sqrt({self.show(inner)})"

    def call_root(self, order: Node, inner: Node) -> str:
        return f"root({self.show(order)}, {self.show(inner)})"

    def call_abs(self, inner: Node) -> str:
        return f"lr(| {self.show(inner)} |)"

    def call_floor(self, inner: Node) -> str:
        return f"floor({self.show(inner)})"

    def call_ceil(self, inner: Node) -> str:
        return f"ceil({self.show(inner)})"

    def call_exp(self, inner: Node) -> str:
        return f"upright(e)^({self.show(inner)})"

    def call_binomial(self, top: Node, bottom: Node) -> str:
        return f"binom({self.show(top)}, {self.show(bottom)})"

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        ends = f"_({self.show(bounds[0])})^({self.show(bounds[1])})" if len(bounds) == 2 else ""
        return f"integral{ends} {self.fitted(inner, PRODUCT)} thin dif {self.show(letter)}"

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = f"_({self.show(letter)} = {self.show(low)})^({self.show(high)})"
        return f"sum{ends} {self.fitted(inner, PRODUCT)}"

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = f"_({self.show(letter)} = {self.show(low)})^({self.show(high)})"
        return f"product{ends} {self.fitted(inner, PRODUCT)}"

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        return f"lim_({self.show(letter)} -> {self.show(target)}) {self.fitted(inner, PRODUCT)}"

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        raised = "" if times is None else f"^({self.show(times)})"
        return f"frac(dif{raised}, dif {self.show(letter)}{raised}) {self.fitted(inner, PRODUCT)}"

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        rows = [f'{self.show(shown)} & "if" {self.show(where)}' for shown, where in cases]
        return f'cases({", ".join(rows)}, {self.show(rest)} & "otherwise")'

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {'∈' if sign == 'in' else sign} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return f' " {node.word} " '.join(self.fitted(term, level) for term in node.terms)

    @property
    def times_source(self) -> str:
        return "dot" if self.style.times == "dot" else "times"

    def comma(self) -> str:
        return f" \\{self.separator().strip()} "

    def print_Collection(self, node: Collection) -> str:
        if node.kind == "vector":
            return f"vec({', '.join(map(self.show, node.items))})"
        opening, closing = {"point": ("\\(", "\\)"), "set": ("\\{", "\\}"), "list": ("", "")}[node.kind]
        return f"{opening} {self.comma().join(map(self.show, node.items))} {closing}"

    def print_Matrix(self, node: Matrix) -> str:
        return "mat(" + "; ".join(", ".join(map(self.show, row)) for row in node.rows) + ")"

    def print_Interval(self, node: Interval) -> str:
        opening, closing = "\\[" if node.low_closed else "\\(", "\\]" if node.high_closed else "\\)"
        return f"{opening} {self.show(node.low)}{self.comma()}{self.show(node.high)} {closing}"

    def print_Quantity(self, node: Quantity) -> str:
        figures, unit = self.figures(node.amount), unit_source(node.unit)
        if figures:
            # one text, with a space as wide as the thin one of maths: every piece by itself takes time
            return figures.removeprefix("#").removesuffix('"') + THIN + unit.removeprefix('"')
        return f"{self.fitted(node.amount, POWER)} thin {unit}"

    def print_Chemical(self, node: Chemical) -> str:
        shown = ""
        for style, text in node.pieces:
            shown += {"plain": "", "sub": "_", "super": "^"}[style] + quoted(text)
        return f'""{shown}' if node.pieces[0][0] != "plain" else shown
