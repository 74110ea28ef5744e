"""Answers that are a number, in a question that says "complex"."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING

from flint import acb, arb, ctx, fmpq

from ....algebra import Certainty, EvaluationError, Values, complex_value, equal_as_complex, rounded, value_tree
from ....notation import Node, NotationError, Settings, line, names_in, read, read_authored, substitute
from ...answer import DrawnAnswer, of_field
from ...checking import checked
from ...printed import complex_key
from ...tolerance import CompiledTolerance, DrawnTolerance
from ...typed import answerable, plain_number, without_name
from ...verdict import NOTHING, RIGHT, WRONG, Verdict, of_share, unread
from ...written import unmet

if TYPE_CHECKING:
    from .document import NumberAnswer

BITS = 256
PROVED, REFUTED = Certainty("proved"), Certainty("refuted")


class ComplexChecker:
    """A number answer among the complex numbers, its formulas read once."""

    def __init__(self, answer: NumberAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        with of_field("key"):
            self.key_tree = read_authored(answer.key, settings)
        with of_field("tolerance"):
            self.tolerance = CompiledTolerance(answer.tolerance, settings)
        with of_field("bands"):
            self.bands = [CompiledTolerance(band.tolerance, settings) for band in answer.bands]
        with of_field("slips"):
            self.slips = [read_authored(slip.key, settings) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnComplex:
        """The answer for one draw."""
        named = {name: value_tree(value) for name, value in values.items()}
        key = substitute(self.key_tree, named)
        return DrawnComplex(
            self,
            key,
            complex_value(key, {}),
            self.tolerance.drawn(values),
            tuple(band.drawn(values) for band in self.bands),
            tuple(complex_value(substitute(slip, named), {}) for slip in self.slips),
        )


@dataclass(frozen=True, slots=True)
class DrawnComplex(DrawnAnswer):
    """A complex number for one draw."""

    checker: ComplexChecker
    tree: Node
    key: acb
    tolerance: DrawnTolerance
    bands: tuple[DrawnTolerance, ...]
    slips: tuple[acb, ...]

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return complex_key(self.tree)

    def closeness(self) -> str:
        """How close is close enough, in words."""
        return self.tolerance.words

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        try:
            read_tree = read(plain_number(response, self.checker.settings), self.checker.settings)
            tree = answerable(without_name(read_tree))
            if names := sorted(names_in(tree)):
                raise EvaluationError("unknown_name", f"{names[0]} has no value.")
            value = complex_value(tree, {})
        except (NotationError, EvaluationError) as problem:
            return unread(problem)
        reading = line(tree)
        if near(value, self.key, self.tolerance) and (self.tolerance.mode != "exact" or same(self.tree, tree)):
            # exactness is shown only where both are known exactly; otherwise they agree to 256 bits
            shown = self.tolerance.mode != "exact" or (value - self.key).is_zero()
            certainty = PROVED if shown else Certainty("agrees", 1)
            demand = self.checker.answer.written
            lacking = unmet(tree, demand) if demand is not None else None
            if demand is not None and lacking:
                outcome, share = of_share(demand.share), demand.share
                return Verdict(
                    outcome, share, reading, (lacking,), "how it is written", certainty, "written", tree=tree
                )
            return Verdict(RIGHT, Fraction(1), reading, (), self.tolerance.words, certainty, tree=tree)
        answer = self.checker.answer
        candidates = [
            (band.share, near(value, self.key, tolerance), f"band {tolerance.words}", band.feedback, "band")
            for band, tolerance in zip(answer.bands, self.bands)
        ]
        candidates += [
            (slip.share, near(value, key, self.tolerance), f"slip {slip.key}", slip.feedback, "slip")
            for slip, key in zip(answer.slips, self.slips)
        ]
        for share, fits, because, feedback, code in sorted(candidates, key=lambda candidate: -candidate[0]):
            if fits:
                told = (feedback,) if feedback else ()
                return Verdict(of_share(share), share, reading, told, because, PROVED, code, tree=tree)
        return Verdict(WRONG, Fraction(0), reading, (), self.tolerance.words, REFUTED, tree=tree)


def same(key: Node, response: Node) -> bool:
    """Whether two numbers that 256 bits cannot tell apart are equal."""
    return equal_as_complex(key, response).holds


def near(value: acb, key: acb, tolerance: DrawnTolerance) -> bool:
    """By the distance in the plane, or part by part where rounding is asked for."""
    with ctx.workprec(BITS):
        if tolerance.mode in {"decimal_places", "significant_figures"}:
            places = int(tolerance.value.p)
            return all(
                rounded(middle(one), places) == rounded(middle(other), places)
                for one, other in ((value.real, key.real), (value.imag, key.imag))
            )
        distance = abs(value - key)
        if tolerance.mode == "exact":
            return bool(distance.contains(0))
        allowed = arb(tolerance.value) * (abs(key) if tolerance.mode == "relative" else 1)
        # what cannot be told from the edge is in
        return not bool(distance > allowed)


def middle(ball: arb) -> fmpq:
    mantissa, exponent = ball.mid().man_exp()
    return fmpq(mantissa) * fmpq(2) ** int(exponent)
