"""The words of a figure: maths in a label as pieces in upright or sloping letters, raised and lowered."""

from __future__ import annotations

import re
from typing import NamedTuple

from ..notation import Node, Style
from ..notation.printers.base import ATOM, PRODUCT, SIGN, bare, needs_times
from ..notation.printers.line import LinePrinter
from ..notation.tree import Constant, Name, Neg, Number, Power, Product, Quantity, Relation, Sum, Text
from ..notation.vocabulary import GREEK


class Run(NamedTuple):
    """A piece of a label; ``shift`` is 1 for what is raised, −1 for what is lowered."""

    text: str
    italic: bool = False
    shift: int = 0


# How the printer says what a piece is, until the pieces are parted.
ITALIC, RAISED, LOWERED, END = "\ue010", "\ue011", "\ue012", "\ue013"
PIECE = re.compile(
    rf"([{ITALIC}{RAISED}{LOWERED}])([^{ITALIC}{RAISED}{LOWERED}{END}]*){END}|([^{ITALIC}{RAISED}{LOWERED}{END}]+)"
)
POWER_OF_UNIT = re.compile(r"\^\(?([-−]?\d+)\)?")
# So wide is a letter of the size of labels, roughly, against that size.
LETTER = 0.56


class LabelPrinter(LinePrinter):
    """Maths in one line as it is lettered in a figure."""

    def print_Number(self, node: Number) -> str:
        shown = self.digits(node.mantissa, node.decimals, self.group("\u202f"))
        if node.exponent is None:
            return shown
        return f"{shown} {self.times_sign} 10{raised(str(node.exponent))}"

    def print_Name(self, node: Name) -> str:
        stem, _, index = node.name.partition("_")
        letter = GREEK.get(stem, stem)
        shown = f"{ITALIC}{letter}{END}" if len(letter) == 1 else letter
        return shown + (f"{LOWERED}{GREEK.get(index, index)}{END}" if index else "")

    def print_Constant(self, node: Constant) -> str:
        return {"pi": "π"}.get(node.name, node.name)

    def print_Text(self, node: Text) -> str:
        return node.text

    def print_Neg(self, node: Neg) -> str:
        return "−" + self.fitted(node.operand, PRODUCT)

    def print_Sum(self, node: Sum) -> str:
        shown = self.fitted(node.terms[0], SIGN)
        for term in node.terms[1:]:
            plain = bare(term)
            negative = isinstance(plain, Neg)
            operand = plain.operand if isinstance(plain, Neg) else term
            shown += (" − " if negative else " + ") + self.fitted(operand, PRODUCT)
        return shown

    def print_Product(self, node: Product) -> str:
        times = f" {self.times_sign} "
        shown = self.fitted(node.factors[0], PRODUCT)
        for sign, left, right in zip(node.signs, node.factors, node.factors[1:]):
            shown += (times if needs_times(left, right, sign) else "") + self.fitted(right, PRODUCT + 1)
        return shown

    def print_Power(self, node: Power) -> str:
        return self.fitted(node.base, ATOM) + raised(plain(self.show(node.exponent)))

    def print_Quantity(self, node: Quantity) -> str:
        unit = POWER_OF_UNIT.sub(lambda found: raised(found[1]), node.unit)
        return f"{self.fitted(node.amount, ATOM)}\u202f{unit}"

    def print_Relation(self, node: Relation) -> str:
        shown = self.show(node.terms[0])
        for sign, term in zip(node.signs, node.terms[1:]):
            shown += f" {sign} {self.show(term)}"
        return shown


def raised(text: str) -> str:
    return f"{RAISED}{text.replace('-', '−')}{END}"


def plain(shown: str) -> str:
    """What was printed, its pieces no longer told apart."""
    return "".join(run.text for run in runs_of(shown))


def runs_of(shown: str) -> list[Run]:
    found = []
    for mark, held, rest in PIECE.findall(shown):
        found.append(Run(held, mark == ITALIC, {RAISED: 1, LOWERED: -1}.get(mark, 0)) if mark else Run(rest))
    return found


def maths_runs(tree: Node, style: Style) -> list[Run]:
    """Maths as the pieces of a label."""
    return runs_of(LabelPrinter(style).show(tree))


def width_of(runs: tuple[Run, ...] | list[Run], size: float) -> float:
    """About how wide a label is, in the unit of its size."""
    return sum(len(run.text) * LETTER * size * (0.75 if run.shift else 1) for run in runs)
