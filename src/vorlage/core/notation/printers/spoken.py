"""Spoken words, for alternative text: what a teacher would read out."""

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
from .base import (
    AND,
    ATOM,
    PLUS_MINUS,
    POWER,
    PRODUCT,
    RELATION,
    RUNNING,
    SIGN,
    SUM,
    Printer,
    Style,
    bare,
    by_cases,
    needs_times,
)
from .wordings import ENGLISH, WORDINGS, Wording

UNIT_PIECE = re.compile(r"(?P<slash>/)|(?P<symbol>[^\s/^()·*\d-]+)(?:\^\(?(?P<power>-?\d+)\)?)?|.")
# What is raised before its name: an area is square metres.
LENGTHS = ("m",)
# A comma that closes a piece is left out at the end, and where another one follows.
TIDY = re.compile(r",(?=\s*$)|,(?=\s*,)")
POINT = Style()
POSTFIXES = {"!": "factorial", "%": "percent", "°": "degrees"}
# What a factor before it is said to be times.
NAMED = Call | Matrix | Collection | Interval


class SpokenPrinter(Printer):
    running = RUNNING
    levels = Printer.levels | {Call: POWER}

    def __init__(self, style: Style) -> None:
        super().__init__(style)
        self.words = WORDINGS[style.language]

    def say(self, what: str, *read: str) -> str:
        """A phrase of the language with what is read in it."""
        return self.words.phrases[what].format(*read)

    def bracketed(self, shown: str) -> str:
        return self.say("brackets", shown)

    def print_Number(self, node: Number) -> str:
        shown = self.digits(node.mantissa, node.decimals)
        if node.exponent is None:
            return shown
        power = str(abs(node.exponent))
        return self.say("power_of_ten", shown, self.say("minus", power) if node.exponent < 0 else power)

    def print_Mixed(self, node: Mixed) -> str:
        return self.say("mixed", self.show(node.whole), self.show(node.numerator), self.show(node.denominator))

    def print_Name(self, node: Name) -> str:
        stem, _, subscript = node.name.partition("_")
        return self.say("sub", stem, subscript) if subscript else stem

    def print_Constant(self, node: Constant) -> str:
        return node.name

    def print_Text(self, node: Text) -> str:
        return node.text

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            if isinstance(term, Neg):
                shown = self.say("less", shown, self.fitted(term.operand, PRODUCT))
            else:
                shown = self.say("plus", shown, self.fitted(term, PRODUCT))
        return shown

    def print_Neg(self, node: Neg) -> str:
        return self.say("minus", self.fitted(node.operand, PRODUCT))

    def print_PlusMinus(self, node: PlusMinus) -> str:
        left = "" if node.left is None else self.fitted(node.left, PLUS_MINUS) + " "
        return left + self.say("plus_minus", self.fitted(node.right, SUM))

    def print_Product(self, node: Product) -> str:
        shown = self.fitted(node.factors[0], POWER)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            times = needs_times(left, right, sign) or isinstance(bare(left), Call | Quotient)
            times = times or isinstance(bare(right), NAMED)
            between = f" {self.say('times')} " if times else " "
            shown += between + self.factor(right, right is node.factors[-1])
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        named = self.named_fraction(node)
        if named:
            return named
        top, bottom = (self.show(piece) for piece in (node.numerator, node.denominator))
        if isinstance(bare(node.denominator), Quotient) and self.level(node.denominator) < ATOM:
            bottom = self.say("inner_fraction", bottom)
        if self.level(node.numerator) < POWER or self.level(node.denominator) < POWER:
            return self.say("fraction", top, bottom)
        return self.say("over", top, bottom)

    def named_fraction(self, node: Node) -> str:
        """Half, third, quarter: a fraction of small whole numbers by its name, or nothing."""
        if not isinstance(node, Quotient):
            return ""
        top, bottom = bare(node.numerator), bare(node.denominator)
        if not isinstance(top, Number) or not isinstance(bottom, Number):
            return ""
        if top.form != "integer" or bottom.form != "integer" or not 0 < top.value < 20 or bottom.value < 2:
            return ""
        one, _, several = self.words.fractions.get(int(bottom.value), "").partition("/")
        if not one:
            return ""
        return f"{self.words.fractions[1]} {one}" if top.value == 1 else f"{top.value} {several}"

    def level(self, node: Node) -> int:
        return ATOM if self.named_fraction(bare(node)) else super().level(node)

    def print_Power(self, node: Power) -> str:
        base, exponent = self.fitted(node.base, ATOM), bare(node.exponent)
        if isinstance(exponent, Number) and exponent.form == "integer" and exponent.value in (2, 3):
            return self.say("squared" if exponent.value == 2 else "cubed", base)
        plain = exponent.operand if isinstance(exponent, Neg) else exponent
        shown = self.show(node.exponent)
        return self.say("power", base, shown if self.level(plain) >= ATOM else self.bracketed(shown))

    def print_Postfix(self, node: Postfix) -> str:
        return self.say(POSTFIXES[node.sign], self.fitted(node.operand, ATOM))

    def named_call(self, node: Call) -> str:
        if node.function == "log" and len(node.arguments) == 2:
            return self.say("log", self.show(node.arguments[1]), self.fitted(node.arguments[0], ATOM))
        name = self.words.functions.get(node.function) or self.say("call", node.function.replace("_", " "))
        if len(node.arguments) == 1:
            return f"{name} {self.fitted(node.arguments[0], PRODUCT)}"
        return f"{name} {self.listed([self.show(argument) for argument in node.arguments])}"

    def call_sqrt(self, inner: Node) -> str:
        return self.say("square_root", self.enclosed(inner, "end_of_root"))

    def call_root(self, order: Node, inner: Node) -> str:
        plain = bare(order)
        which = {2: "square_root", 3: "cube_root"}.get(int(plain.value) if isinstance(plain, Number) else 0)
        if which:
            return self.say(which, self.enclosed(inner, "end_of_root"))
        return self.say("root", self.show(order), self.enclosed(inner, "end_of_root"))

    def call_abs(self, inner: Node) -> str:
        return self.say("absolute", self.enclosed(inner, "end_of_absolute"))

    def enclosed(self, inner: Node, ends: str) -> str:
        """What stands under a root or between bars, with a word for where it ends unless it is short."""
        shown = self.show(inner)
        return shown if self.level(inner) >= ATOM else self.say(ends, shown)

    def call_binomial(self, top: Node, bottom: Node) -> str:
        return self.say("choose", self.fitted(top, ATOM), self.fitted(bottom, ATOM))

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        ends = [self.show(each) for each in bounds] if len(bounds) == 2 else []
        return self.say("integral_from" if ends else "integral", *ends, self.show(inner), self.show(letter))

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.say("sum", self.run(letter, low, high), self.fitted(inner, PRODUCT))

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        return self.say("product", self.run(letter, low, high), self.fitted(inner, PRODUCT))

    def run(self, letter: Node, low: Node, high: Node) -> str:
        return self.say("from_to", self.show(letter), self.show(low), self.show(high))

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        return self.say("limit", self.show(letter), self.show(target), self.fitted(inner, PRODUCT))

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        read = self.show(letter), self.fitted(inner, PRODUCT)
        order = int(times.value) if isinstance(times, Number) else 0
        if times is None or order in (2, 3):
            return self.say(f"derivative_{order}" if order else "derivative", *read)
        return self.say("derivative_n", self.show(times), *read)

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        shown = [self.say("if", self.show(result), self.show(where)) for result, where in cases]
        return ", ".join([*shown, self.say("otherwise", self.show(rest))])

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {self.words.relations[sign]} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return f" {self.say(node.word)} ".join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        if not node.items:
            return self.say("empty", self.say(node.kind))
        items = [self.show(item) for item in node.items]
        shown = self.listed(items) if node.kind in {"set", "list"} else ", ".join(items)
        return self.say("held", self.say(node.kind), shown)

    def print_Matrix(self, node: Matrix) -> str:
        rows = [", ".join(map(self.show, row)) for row in node.rows]
        return self.say("matrix", "; ".join(rows))

    def print_Interval(self, node: Interval) -> str:
        low, high = (self.say("included" if closed else "left_out") for closed in (node.low_closed, node.high_closed))
        return self.say("interval", self.show(node.low), low, self.show(node.high), high)

    def print_Quantity(self, node: Quantity) -> str:
        shown = self.show(node.amount)
        return f"{shown} {spoken_unit(node.unit, shown == '1', self.words)}"

    def print_Chemical(self, node: Chemical) -> str:
        shown = []
        for style, text in node.pieces:
            charged = style == "super" and ("+" in text or "−" in text)
            for sign, word in self.words.chemical.items():
                text = text.replace(sign, f" {word} ")
            shown.append(self.say("charge", text) if charged else text)
        return " ".join(" ".join(shown).split())

    def listed(self, items: list[str]) -> str:
        return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} {self.say('and')} {items[-1]}"


def spoken_unit(unit: str, single: bool, wording: Wording = ENGLISH) -> str:
    """A unit in words: ``m/s^2`` is metres per second squared, ``kg/m^3`` kilograms per cubic metre."""
    words: list[str] = []
    below = False
    for found in UNIT_PIECE.finditer(unit):
        if found["slash"]:
            below = True
            continue
        if not found["symbol"]:
            continue
        power = found["power"] or ""
        divides = below or power.startswith("-")
        name, length = unit_name(found["symbol"], not single and not divides and not words, wording)
        words.append(
            (f"{wording.phrases['per']} " if divides else "") + raised(name, power.lstrip("-"), length, wording)
        )
    return " ".join(words)


def raised(name: str, power: str, length: bool, wording: Wording) -> str:
    """The name of a unit with its power: square metres, seconds squared, metres to the power 4."""
    if power in {"", "1"}:
        return name
    known = (wording.raised_length if length else wording.raised).get(power)
    if known is None:
        return f"{name} {wording.phrases['to_the_power']} {power}"
    # a word that is put before a name has the capital letter of both
    return known.format(name.lower() if not known.endswith(" {}") and known.endswith("{}") else name)


def unit_name(symbol: str, plural: bool, wording: Wording) -> tuple[str, bool]:
    """The name of a unit, with its prefix, and whether it is a length; a symbol that is not known stays as it is."""
    found, prefix, stem = wording.units.get(symbol), "", symbol
    if found is None and symbol[:1] in wording.prefixes and symbol[1:] in wording.units:
        prefix, stem = wording.prefixes[symbol[0]], symbol[1:]
        found = wording.units[stem]
    if found is None:
        return symbol, False
    one, _, many = found.partition("/")
    name = (many or wording.several.format(one)) if plural else one
    return prefix + (name.lower() if prefix and prefix[0].isupper() else name), stem in LENGTHS


def speak(node: Node, style: Style = POINT) -> str:
    """The words for a formula, for a picture's or an equation's alternative text."""
    return TIDY.sub("", SpokenPrinter(style).show(node))
