"""Answers that are a number with a unit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING

from flint import fmpq

from ....algebra import Compiled, EvaluationError, Exact, Real, Values, to_fraction, value_tree
from ....notation import (
    Constant,
    Node,
    NotationError,
    Power,
    Product,
    Quantity,
    Settings,
    Sum,
    line,
    literal,
    read,
    visible,
)
from ....quantities import Unit, read_unit, refuse_run_together, split_quantity
from ...answer import DrawnAnswer, Less, of_field
from ...checking import checked
from ...typed import answerable, plain_number, without_name
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, of_share, unread
from ..number import DrawnNumber, NumberAnswer, NumberChecker

if TYPE_CHECKING:
    from .document import QuantityAnswer

IN_TWO_UNITS = re.compile(
    r"\s*(?P<most>\d+)\s*(?P<large>[A-Za-z]+)\s+(?P<rest>\d+(?:[.,]\d+)?)\s*(?P<small>[A-Za-z]+)\s*"
)

# what a number without a unit counts in
ONE = Unit(fmpq(1), ())


class QuantityChecker:
    """A quantity answer; its unit's dimension is worked out once, so that a draw costs arithmetic only."""

    def __init__(self, answer: QuantityAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        shared = {name: getattr(answer, name) for name in NumberAnswer.model_fields if name != "kind"}
        self.number = NumberChecker(NumberAnswer.model_construct(**shared), settings)
        with of_field("unit"):
            self.unit = read_unit(answer.unit)

    @property
    def key_tree(self) -> object:
        return self.number.key_tree

    def drawn(self, values: Values) -> DrawnQuantity:
        """The answer for one draw."""
        return DrawnQuantity(self, self.number.drawn(values))


@dataclass(frozen=True, slots=True)
class DrawnQuantity(DrawnAnswer):
    """A quantity answer with the values of one draw."""

    takes_numbers = True

    checker: QuantityChecker
    amount: DrawnNumber

    @property
    def number(self) -> DrawnNumber:
        return self.amount

    @property
    def worth(self) -> Exact:
        return self.key

    def written_out(self, number: Node) -> str:
        return f"{line(number)} {self.checker.answer.unit}"

    @property
    def key(self) -> Exact:
        """The key in its own unit."""
        return self.amount.key

    def key_tree(self) -> Quantity:
        """The key with its unit, as it is printed."""
        return Quantity(self.amount.key_tree(), self.checker.answer.unit)

    def closeness(self) -> str:
        """How close is close enough, in words."""
        return self.amount.closeness()

    def earning_less(self) -> Sequence[Less]:
        unit = self.checker.answer.unit
        found = self.amount.earning_less()
        return [each if isinstance(each.what, str) else replace(each, what=Quantity(each.what, unit)) for each in found]

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        response, settings = visible(response), self.checker.settings
        both = self.in_two_units(response)
        if both is not None:
            return both
        try:
            amount_text, unit_text = split_quantity(without_left_side(plain_number(response, settings)), settings)
            unit = read_unit(unit_text) if unit_text else None
            tree = answerable(without_name(read(amount_text, settings)))
            value = Compiled(tree, settings.angle).value({})
            if unit is not None and not unit.measures_as(self.checker.unit):
                refuse_run_together(unit_text, self.checker.unit, self.checker.answer.unit)
        except (NotationError, EvaluationError) as problem:
            return unread(problem)
        reading = f"{line(tree)} [{unit_text}]" if unit_text else line(tree)
        verdict = self.judged(value, unit, tree, unit_text)
        kept = value
        if unit is not None and unit != self.checker.unit and unit.measures_as(self.checker.unit):
            kept = self.in_key_unit(value, unit)
        shown = Quantity(tree, unit_text) if unit_text else tree
        return replace(verdict, reading=reading, tree=shown, value=kept)

    def in_two_units(self, response: str) -> Verdict | None:
        """The verdict for ``1 h 30 min``: so much of a unit and so much of a smaller one. None for anything else."""
        found = IN_TWO_UNITS.fullmatch(response)
        if not found:
            return None
        settings = self.checker.settings
        try:
            units = [read_unit(found[name]) for name in ("large", "small")]
            amounts = [read(found[name], settings) for name in ("most", "rest")]
            values = [Compiled(amount, settings.angle).value({}) for amount in amounts]
        except (NotationError, EvaluationError):
            return None
        same = units[0].dimension == units[1].dimension == self.checker.unit.dimension
        if not same or units[0].factor <= units[1].factor or any(unit.offset or unit.pi for unit in units):
            return None
        if not isinstance(values[0], fmpq) or not isinstance(values[1], fmpq):
            return None
        tree = Sum((Quantity(amounts[0], found["large"]), Quantity(amounts[1], found["small"])))
        value = values[0] + values[1] * units[1].factor / units[0].factor
        verdict = self.judged(value, units[0], tree, found["large"])
        return replace(verdict, reading=line(tree), tree=tree, value=self.in_key_unit(value, units[0]))

    def judged(self, value: Exact, unit: Unit | None, tree: object, unit_text: str) -> Verdict:
        answer, key_unit = self.checker.answer, self.checker.unit
        if unit is None and key_unit.is_share:
            # 0.45 is 45 %
            divided = self.amount.judged(self.in_key_unit(value, ONE), tree)  # type: ignore[arg-type]
            if divided.share:
                return divided
        if unit is None:
            plain = self.amount.judged(value, tree)  # type: ignore[arg-type]
            if answer.unit_rule != "required" or plain.share == 0:
                return plain
            share = plain.share * answer.share
            told = ("The unit is missing.", *plain.feedback)
            return replace(
                plain,
                outcome=of_share(share),
                share=share,
                feedback=told,
                because="the unit is missing",
                code="unit_missing",
            )
        if not unit.measures_as(key_unit):
            kept = self.amount.tolerance.admits(value, self.amount.key)
            told = ("The number is right, but this unit measures something else." if kept
                    else "This unit measures something else.",)  # fmt: skip
            if unit_text == "C" and key_unit.offset:
                told = ("C stands for coulomb: write °C for degrees Celsius.", *told)
            return Verdict(WRONG, feedback=told, because="the unit has the wrong dimension", code="dimension")
        same = unit == key_unit
        if same:
            return self.amount.judged(value, tree)  # type: ignore[arg-type]
        if not answer.convert:
            return Verdict(
                WRONG, feedback=(f"The answer is asked for in {answer.unit}.",), because="the unit", code="unit"
            )
        converted = self.in_key_unit(value, unit)
        verdict = self.amount.judged(converted, tree)  # type: ignore[arg-type]
        if verdict.outcome == PARTLY and verdict.because == "how it is written":
            # places and figures are asked for in the key's unit; in another they cannot be compared
            return replace(verdict, outcome=RIGHT, share=Fraction(1), feedback=(), because=self.closeness(), code="")
        if verdict.share == 0 and self.amount.tolerance.admits(value, self.amount.key):
            told = ("The number is right, but the unit is not.",)
            return replace(verdict, feedback=told, because="the unit", code="unit")
        return verdict

    def in_key_unit(self, value: Exact, unit: Unit) -> Exact:
        """So much of a unit, in the key's unit; temperatures go through their zero, angles keep their π."""
        key_unit = self.checker.unit
        factor = unit.factor / key_unit.factor
        shift = (unit.offset - key_unit.offset) / key_unit.factor
        if isinstance(value, fmpq) and unit.pi == key_unit.pi:
            return value * factor + shift
        pi = Power(Constant("pi"), literal(Fraction(unit.pi - key_unit.pi)))
        converted = Product((value_tree(value), literal(to_fraction(factor)), pi), ("*", "*"))
        return Real(Sum((converted, literal(to_fraction(shift)))), self.checker.settings.angle)


def without_left_side(response: str) -> str:
    """``F = 12 N`` answers with 12 N."""
    left, sign, right = response.partition("=")
    return right if sign and left.strip().replace("_", "").isalnum() and right.strip() else response
