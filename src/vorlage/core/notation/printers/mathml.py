"""MathML Core for the web: no script, selectable, read aloud by screen readers."""

from __future__ import annotations

import re
from html import escape

from ..tree import (
    Call,
    Chemical,
    Collection,
    Constant,
    Drawn,
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

CONSTANTS = {"pi": "π", "e": "e", "i": "i", "infinity": "∞"}
APPLY = "<mo>&#x2061;</mo>"
INVISIBLE_TIMES = "<mo>&#x2062;</mo>"
THIN = '<mspace width="0.17em"/>'
UPRIGHT_D = '<mi mathvariant="normal">d</mi>'


# What is higher than a line of letters: brackets around it grow with it.
TALL = re.compile(r"<m(?:frac|table|under|over|underover|subsup)\b")


def enclosed(opening: str, inner: str, closing: str) -> str:
    """Something in brackets. Those that could grow stand in wider room, so that only those that have to may."""
    grows = "" if TALL.search(inner) else ' stretchy="false"'
    first, last = (f"<mo{grows}>{sign}</mo>" if sign else "" for sign in (opening, closing))
    return f"<mrow>{first}{inner}{last}</mrow>"


RAISED = re.compile(r"(?P<base>[^\s·/()^]*)\^(?P<power>[-−]?\d+)")


def unit_markup(unit: str) -> str:
    """A unit as MathML, upright, each power above its own symbol.

    >>> unit_markup("m s^-2")
    '<mtext>m&#xA0;</mtext><msup><mtext>s</mtext><mn>−2</mn></msup>'
    """
    unit, shown, end = unit.replace("*", "·"), "", 0

    def words(text: str) -> str:
        # a browser drops spaces at the ends
        inner = escape(text.strip(" "))
        before, behind = ("&#xA0;" if edge == " " else "" for edge in (text[:1], text[-1:]))
        return f"<mtext>{before}{inner}{behind if inner else ''}</mtext>" if text else ""

    for found in RAISED.finditer(unit):
        power = found["power"].replace("-", "−")
        shown += f"{words(unit[end : found.start()])}<msup>{words(found['base'])}<mn>{power}</mn></msup>"
        end = found.end()
    return shown + words(unit[end:])


class MathMLPrinter(Printer):
    running = RUNNING
    levels = Printer.levels | {Quotient: POWER, Mixed: POWER}

    def whole(self, node: Node, alternative: str = "", block: bool = False) -> str:
        """A complete ``math`` element."""
        label = f' aria-label="{escape(alternative)}"' if alternative else ""
        display = ' display="block"' if block else ""
        return f"<math{display}{label}><mrow>{self.show(node)}</mrow></math>"

    def bracketed(self, shown: str) -> str:
        return enclosed("(", shown, ")")

    def row(self, node: Node) -> str:
        return f"<mrow>{self.show(node)}</mrow>"

    def print_Number(self, node: Number) -> str:
        shown = f"<mn>{self.digits(node.mantissa, node.decimals, group=self.group('&#x202F;'))}</mn>"
        if node.exponent is None:
            return shown
        sign = "<mo>−</mo>" if node.exponent < 0 else ""
        raised = f"<mrow>{sign}<mn>{abs(node.exponent)}</mn></mrow>"
        return f"<mrow>{shown}<mo>{self.times_sign}</mo><msup><mn>10</mn>{raised}</msup></mrow>"

    def print_Mixed(self, node: Mixed) -> str:
        fraction = f"<mfrac>{self.show(node.numerator)}{self.show(node.denominator)}</mfrac>"
        return f"<mrow>{self.show(node.whole)}{fraction}</mrow>"

    def print_Name(self, node: Name) -> str:
        stem, _, subscript = node.name.partition("_")
        letter = GREEK.get(stem, stem)
        upright = ' mathvariant="normal"' if letter in {"Ω", "Δ"} else ""
        shown = f"<mi{upright}>{escape(letter)}</mi>"
        if not subscript:
            return shown
        below = f"<mn>{subscript}</mn>" if subscript.isdigit() else f"<mtext>{escape(subscript)}</mtext>"
        if len(subscript) == 1 and subscript.isalpha():
            below = f"<mi>{escape(subscript)}</mi>"
        return f"<msub>{shown}{below}</msub>"

    def print_Constant(self, node: Constant) -> str:
        return f'<mi mathvariant="normal">{CONSTANTS[node.name]}</mi>'

    def print_Text(self, node: Text) -> str:
        return f"<mtext>{escape(node.text)}</mtext>"

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(term, Neg):
                shown += "<mo>−</mo>" + self.fitted(term.operand, PRODUCT)
            else:
                shown += "<mo>+</mo>" + self.fitted(term, PRODUCT)
        return shown

    def print_Neg(self, node: Neg) -> str:
        return '<mo form="prefix">−</mo>' + self.fitted(node.operand, PRODUCT)

    def print_PlusMinus(self, node: PlusMinus) -> str:
        left = "" if node.left is None else self.fitted(node.left, PLUS_MINUS)
        return f"{left}<mo>±</mo>{self.fitted(node.right, SUM)}"

    def print_Product(self, node: Product) -> str:
        shown = self.fitted(node.factors[0], POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            times = f"<mo>{self.times_sign}</mo>" if needs_times(left, right, sign) else INVISIBLE_TIMES
            printed = self.factor(right, right is node.factors[-1])
            plain = bare(right)
            named = isinstance(plain, Call) and printed.startswith("<mrow><mi>")
            if times is INVISIBLE_TIMES and (named or (isinstance(plain, Power) and raised_call(plain))):
                # F s cos α: the name of a function is not run together with a letter
                times += '<mspace width="0.17em"></mspace>'
            shown += times + printed
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        return f"<mfrac>{self.row(node.numerator)}{self.row(node.denominator)}</mfrac>"

    def print_Power(self, node: Power) -> str:
        if raised := raised_call(node):
            call, power = raised
            name = f"<msup><mi>{self.style.name_of(call.function)}</mi>{self.row(power)}</msup>"
            return f"<mrow>{name}{APPLY}{self.bracketed(self.show(call.arguments[0]))}</mrow>"
        base = bare(node.base)
        level = ATOM if isinstance(base, Quotient | Mixed) else POSTFIX
        shown = self.show(node.base)
        if self.level(node.base) < level or (isinstance(base, Number) and base.exponent is not None):
            shown = self.bracketed(shown)
        return f"<msup><mrow>{shown}</mrow>{self.row(node.exponent)}</msup>"

    def print_Postfix(self, node: Postfix) -> str:
        return f"<mrow>{self.fitted(node.operand, POSTFIX)}<mo>{node.sign}</mo></mrow>"

    def named_call(self, node: Call) -> str:
        inner: tuple[Node, ...] = node.arguments
        name = f"<mi>{self.style.name_of(node.function)}</mi>"
        if node.function == "log" and len(node.arguments) == 2:
            name, inner = f"<msub>{name}{self.row(node.arguments[1])}</msub>", node.arguments[:1]
        items = f"<mo>{self.separator().strip()}</mo>".join(map(self.show, inner))
        return f"<mrow>{name}{APPLY}{self.bracketed(items)}</mrow>"

    def call_sqrt(self, inner: Node) -> str:
        return f"<msqrt>{self.row(inner)}</msqrt>"

    def call_root(self, order: Node, inner: Node) -> str:
        return f"<mroot>{self.row(inner)}{self.row(order)}</mroot>"

    def call_abs(self, inner: Node) -> str:
        return enclosed("|", self.show(inner), "|")

    def call_floor(self, inner: Node) -> str:
        return f"<mrow><mo>⌊</mo>{self.show(inner)}<mo>⌋</mo></mrow>"

    def call_ceil(self, inner: Node) -> str:
        return f"<mrow><mo>⌈</mo>{self.show(inner)}<mo>⌉</mo></mrow>"

    def call_exp(self, inner: Node) -> str:
        return f'<msup><mi mathvariant="normal">e</mi>{self.row(inner)}</msup>'

    def call_binomial(self, top: Node, bottom: Node) -> str:
        stacked = f'<mfrac linethickness="0">{self.row(top)}{self.row(bottom)}</mfrac>'
        return f"<mrow><mo>(</mo>{stacked}<mo>)</mo></mrow>"

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        sign = "<mo>∫</mo>"
        if len(bounds) == 2:
            sign = f"<msubsup>{sign}{self.row(bounds[0])}{self.row(bounds[1])}</msubsup>"
        return f"<mrow>{sign}{self.fitted(inner, PRODUCT)}{THIN}{UPRIGHT_D}{self.show(letter)}</mrow>"

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.running_sign("∑", inner, letter, low, high)

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.running_sign("∏", inner, letter, low, high)

    def running_sign(self, sign: str, inner: Node, letter: Node, low: Node, high: Node) -> str:
        below = f"<mrow>{self.show(letter)}<mo>=</mo>{self.show(low)}</mrow>"
        signed = f"<munderover><mo>{sign}</mo>{below}{self.row(high)}</munderover>"
        return f"<mrow>{signed}{self.fitted(inner, PRODUCT)}</mrow>"

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        below = f"<mrow>{self.show(letter)}<mo>→</mo>{self.show(target)}</mrow>"
        return f"<mrow><munder><mi>lim</mi>{below}</munder>{THIN}{self.fitted(inner, PRODUCT)}</mrow>"

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        top, below = UPRIGHT_D, self.show(letter)
        if times is not None:
            top, below = (f"<msup>{piece}{self.row(times)}</msup>" for piece in (top, below))
        fraction = f"<mfrac>{top}<mrow>{UPRIGHT_D}{below}</mrow></mfrac>"
        return f"<mrow>{fraction}{THIN}{self.fitted(inner, PRODUCT)}</mrow>"

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        pairs = [(self.show(shown), f"<mtext>if&#xA0;</mtext>{self.show(where)}") for shown, where in cases]
        pairs.append((self.show(rest), "<mtext>otherwise</mtext>"))
        rows = "".join(
            f'<mtr><mtd class="left">{shown}</mtd><mtd class="left"><mrow>{where}</mrow></mtd></mtr>'
            for shown, where in pairs
        )
        return f"<mrow><mo>{{</mo><mtable>{rows}</mtable></mrow>"

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f"<mo>{escape('∈' if sign == 'in' else sign)}</mo>{self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        word = f"<mtext>&#xA0;{node.word}&#xA0;</mtext>"
        return word.join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        comma = f"<mo>{self.separator().strip()}</mo>"
        if node.kind == "vector":
            rows = "".join(f"<mtr><mtd>{self.show(item)}</mtd></mtr>" for item in node.items)
            return f"<mrow><mo>(</mo><mtable>{rows}</mtable><mo>)</mo></mrow>"
        opening, closing = {"point": ("(", ")"), "set": ("{", "}"), "list": ("", "")}[node.kind]
        items = comma.join(map(self.show, node.items))
        return enclosed(opening, items, closing)

    def print_Matrix(self, node: Matrix) -> str:
        rows = "".join(
            "<mtr>" + "".join(f"<mtd>{self.show(cell)}</mtd>" for cell in row) + "</mtr>" for row in node.rows
        )
        return f"<mrow><mo>(</mo><mtable>{rows}</mtable><mo>)</mo></mrow>"

    def print_Interval(self, node: Interval) -> str:
        opening, closing = "[" if node.low_closed else "(", "]" if node.high_closed else ")"
        comma = f"<mo>{self.separator().strip()}</mo>"
        return enclosed(opening, f"{self.show(node.low)}{comma}{self.show(node.high)}", closing)

    def print_Quantity(self, node: Quantity) -> str:
        return f"<mrow>{self.fitted(node.amount, POWER)}{unit_markup(f' {node.unit}')}</mrow>"

    def print_Chemical(self, node: Chemical) -> str:
        shown = ""
        for style, text in node.pieces:
            piece = f"<mtext>{escape(text).replace(' ', '&#xA0;')}</mtext>"
            if style == "plain":
                shown += piece
            else:
                shown += f"<m{style[:3]}><mrow></mrow>{piece}</m{style[:3]}>"
        return f"<mrow>{shown}</mrow>"

    def print_Drawn(self, node: Drawn) -> str:
        shown = self.show(node.value)
        return f'<mrow class="drawn">{shown}</mrow>' if self.style.show_drawn else shown
