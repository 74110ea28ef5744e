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

RELATIONS = {
    "=": "equals", "<": "is less than", ">": "is greater than", "≤": "is at most", "≥": "is at least",
    "≠": "is not equal to", "≈": "is about", "in": "is in",
}  # fmt: skip
FUNCTIONS = {
    "sin": "sine of", "cos": "cosine of",
    "tan": "tangent of", "ln": "natural log of", "exp": "e to the power", "asin": "inverse sine of",
    "acos": "inverse cosine of", "atan": "inverse tangent of", "sinh": "hyperbolic sine of",
    "cosh": "hyperbolic cosine of", "tanh": "hyperbolic tangent of", "sec": "secant of", "csc": "cosecant of",
    "cot": "cotangent of", "floor": "the whole number at or below", "ceil": "the whole number at or above",
    "sgn": "the sign of", "max": "the greatest of", "min": "the least of", "mean": "the mean of",
    "median": "the median of",
    "gcd": "the greatest common divisor of", "lcm": "the least common multiple of", "mod": "the remainder of",
    "stdev": "the standard deviation of", "variance": "the variance of",
    "sample_stdev": "the sample standard deviation of", "sample_variance": "the sample variance of",
    "total": "the total of", "count": "the number of values in",
}  # fmt: skip
FRACTIONS = dict(enumerate("half third quarter fifth sixth seventh eighth ninth tenth".split(), start=2))
CHEMICAL_WORDS = {"→": "gives", "⇌": "is in equilibrium with", "+": "plus", "−": "minus", "·": "with"}
UNIT_PIECE = re.compile(r"(?P<slash>/)|(?P<symbol>[^\s/^()·*\d-]+)(?:\^\(?(?P<power>-?\d+)\)?)?|.")
# The name of one; after a stroke that of several, where it does not end in s.
UNIT_NAMES = {
    "m": "metre", "s": "second", "g": "gram", "A": "ampere", "K": "kelvin/kelvin", "mol": "mole", "cd": "candela",
    "N": "newton", "J": "joule", "W": "watt", "V": "volt", "Ω": "ohm", "Pa": "pascal", "Hz": "hertz/hertz",
    "C": "coulomb", "F": "farad", "T": "tesla", "Wb": "weber", "H": "henry/henries", "L": "litre", "l": "litre",
    "h": "hour", "min": "minute", "d": "day", "a": "year", "°C": "degree Celsius/degrees Celsius", "°": "degree",
    "deg": "degree", "rad": "radian", "%": "percent/percent", "eV": "electronvolt", "t": "tonne", "bar": "bar",
    "Bq": "becquerel", "Wh": "watt hour",
}  # fmt: skip
PREFIXES = {
    "k": "kilo", "M": "mega", "G": "giga", "T": "tera", "m": "milli", "c": "centi", "d": "deci", "h": "hecto",
    "µ": "micro", "μ": "micro", "u": "micro", "n": "nano", "p": "pico",
}  # fmt: skip
# A comma that closes a piece is left out at the end, and where another one follows.
TIDY = re.compile(r",(?=\s*$)|,(?=\s*,)")
POINT = Style()
POSTFIXES = {"!": "factorial", "%": "percent", "°": "degrees"}


class SpokenPrinter(Printer):
    running = RUNNING
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
            times = needs_times(left, right, sign) or isinstance(bare(left), Call | Quotient)
            times = times or isinstance(bare(right), Call)
            shown += (" times " if times else " ") + self.factor(right, right is node.factors[-1])
        return shown

    def print_Quotient(self, node: Quotient) -> str:
        named = named_fraction(node)
        if named:
            return named
        top, bottom = (self.show(piece) for piece in (node.numerator, node.denominator))
        if isinstance(bare(node.denominator), Quotient) and self.level(node.denominator) < ATOM:
            bottom = f"the fraction {bottom}, end of fraction,"
        if self.level(node.numerator) < POWER or self.level(node.denominator) < POWER:
            return f"the fraction {top} over {bottom}, end of fraction,"
        return f"{top} over {bottom}"

    def level(self, node: Node) -> int:
        return ATOM if named_fraction(bare(node)) else super().level(node)

    def print_Power(self, node: Power) -> str:
        base, exponent = self.fitted(node.base, ATOM), bare(node.exponent)
        if isinstance(exponent, Number) and exponent.form == "integer" and exponent.value in (2, 3):
            return f"{base} {'squared' if exponent.value == 2 else 'cubed'}"
        plain = exponent.operand if isinstance(exponent, Neg) else exponent
        shown = self.show(node.exponent)
        return f"{base} to the power {shown if self.level(plain) >= ATOM else self.bracketed(shown)}"

    def print_Postfix(self, node: Postfix) -> str:
        return f"{self.fitted(node.operand, ATOM)} {POSTFIXES[node.sign]}"

    def named_call(self, node: Call) -> str:
        if node.function == "log" and len(node.arguments) == 2:
            return f"log base {self.show(node.arguments[1])} of {self.fitted(node.arguments[0], ATOM)}"
        name = FUNCTIONS.get(node.function, f"{node.function.replace('_', ' ')} of")
        if len(node.arguments) == 1:
            return f"{name} {self.fitted(node.arguments[0], PRODUCT)}"
        return f"{name} {listed([self.show(argument) for argument in node.arguments])}"

    def call_sqrt(self, inner: Node) -> str:
        return f"the square root of {self.enclosed(inner, 'root')}"

    def call_root(self, order: Node, inner: Node) -> str:
        which = {2: "square", 3: "cube"}.get(bare(order).value if isinstance(bare(order), Number) else 0)  # type: ignore[attr-defined]
        if which:
            return f"the {which} root of {self.enclosed(inner, 'root')}"
        return f"the root of order {self.show(order)} of {self.enclosed(inner, 'root')}"

    def call_abs(self, inner: Node) -> str:
        return f"the absolute value of {self.enclosed(inner, 'absolute value')}"

    def enclosed(self, inner: Node, what: str) -> str:
        """What stands under a root or between bars, with a word for where it ends unless it is short."""
        shown = self.show(inner)
        return shown if self.level(inner) >= ATOM else f"{shown}, end of {what},"

    def call_binomial(self, top: Node, bottom: Node) -> str:
        return f"{self.fitted(top, ATOM)} choose {self.fitted(bottom, ATOM)}"

    def call_integral(self, inner: Node, letter: Node, *bounds: Node) -> str:
        ends = f" from {self.show(bounds[0])} to {self.show(bounds[1])}" if len(bounds) == 2 else ""
        return f"the integral{ends} of {self.show(inner)} with respect to {self.show(letter)}"

    def call_sum(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = f"{self.show(letter)} from {self.show(low)} to {self.show(high)}"
        return f"the sum, for {ends}, of {self.fitted(inner, PRODUCT)}"

    def call_product(self, inner: Node, letter: Node, low: Node, high: Node) -> str:
        ends = f"{self.show(letter)} from {self.show(low)} to {self.show(high)}"
        return f"the product, for {ends}, of {self.fitted(inner, PRODUCT)}"

    def call_limit(self, inner: Node, letter: Node, target: Node) -> str:
        return f"the limit, as {self.show(letter)} tends to {self.show(target)}, of {self.fitted(inner, PRODUCT)}"

    def call_diff(self, inner: Node, letter: Node, times: Node | None = None) -> str:
        order = {2: "second ", 3: "third "}.get(int(times.value), "") if isinstance(times, Number) else ""
        if times is not None and not order:
            order = f"order {self.show(times)} "
        return f"the {order}derivative, with respect to {self.show(letter)}, of {self.fitted(inner, PRODUCT)}"

    def call_if(self, condition: Node, value: Node, otherwise: Node) -> str:
        cases, rest = by_cases(condition, value, otherwise)
        shown = [f"{self.show(result)} if {self.show(where)}" for result, where in cases]
        return ", ".join([*shown, f"otherwise {self.show(rest)}"])

    def print_Relation(self, node: Relation) -> str:
        shown = self.fitted(node.terms[0], RELATION + 1)
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {RELATIONS[sign]} {self.fitted(term, RELATION + 1)}"
        return shown

    def print_Logic(self, node: Logic) -> str:
        level = AND if node.word == "or" else RELATION
        return f" {node.word} ".join(self.fitted(term, level) for term in node.terms)

    def print_Collection(self, node: Collection) -> str:
        if not node.items:
            return f"the empty {node.kind}"
        items = [self.show(item) for item in node.items]
        return f"the {node.kind} {listed(items) if node.kind in {'set', 'list'} else ', '.join(items)}"

    def print_Matrix(self, node: Matrix) -> str:
        rows = [", ".join(map(self.show, row)) for row in node.rows]
        return f"the matrix with the rows {'; '.join(rows)}"

    def print_Interval(self, node: Interval) -> str:
        low, high = (
            "included" if node.low_closed else "left out",
            "included" if node.high_closed else "left out",
        )
        return f"the interval from {self.show(node.low)}, {low}, to {self.show(node.high)}, {high}"

    def print_Quantity(self, node: Quantity) -> str:
        return f"{self.show(node.amount)} {spoken_unit(node.unit, self.show(node.amount) == '1')}"

    def print_Chemical(self, node: Chemical) -> str:
        shown = []
        for style, text in node.pieces:
            for sign, word in CHEMICAL_WORDS.items():
                text = text.replace(sign, f" {word} ")
            shown.append(f"with charge {text}" if style == "super" and ("plus" in text or "minus" in text) else text)
        return " ".join(" ".join(shown).split())


def named_fraction(node: Node) -> str:
    """Half, third, quarter: a fraction of small whole numbers by its name, or nothing."""
    if not isinstance(node, Quotient):
        return ""
    top, bottom = bare(node.numerator), bare(node.denominator)
    if not isinstance(top, Number) or not isinstance(bottom, Number):
        return ""
    if top.form != "integer" or bottom.form != "integer" or not 0 < top.value < 20:
        return ""
    name = FRACTIONS.get(int(bottom.value), "")
    if not name or top.value == 1:
        return name and f"one {name}"
    return f"{top.value} {'halves' if name == 'half' else name + 's'}"


def listed(items: list[str]) -> str:
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"


def spoken_unit(unit: str, single: bool) -> str:
    """A unit in words: ``m/s^2`` is metres per second squared, ``J kg^-1 K^-1`` joules per kilogram per kelvin."""
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
        name = unit_name(found["symbol"], plural=not single and not divides and not words)
        raised = {"2": " squared", "3": " cubed"}.get(power.lstrip("-"), "")
        if power.lstrip("-") not in {"", "1"} and not raised:
            raised = f" to the power {power.lstrip('-')}"
        words.append(("per " if divides else "") + name + raised)
    return " ".join(words)


def unit_name(symbol: str, plural: bool) -> str:
    """The name of a unit, with its prefix; a symbol that is not known here stays as it is."""
    found, prefix = UNIT_NAMES.get(symbol), ""
    if found is None and symbol[:1] in PREFIXES and symbol[1:] in UNIT_NAMES:
        prefix, found = PREFIXES[symbol[0]], UNIT_NAMES[symbol[1:]]
    if found is None:
        return symbol
    one, _, many = found.partition("/")
    return prefix + ((many or one + "s") if plural else one)


def speak(node: Node, style: Style = POINT) -> str:
    """The words for a formula, for a picture's or an equation's alternative text."""
    return TIDY.sub("", SpokenPrinter(style).show(node))
