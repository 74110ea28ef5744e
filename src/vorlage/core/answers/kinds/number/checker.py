"""Answers that are a number."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING

from flint import fmpq

from ....algebra import (
    ANGULAR,
    Certainty,
    Compiled,
    EvaluationError,
    Exact,
    Real,
    Values,
    Worked,
    equivalent,
    program,
    rounded,
    rounded_significant,
    to_fraction,
)
from ....draws import Shown, shown_value
from ....notation import (
    Call,
    Collection,
    Logic,
    Mixed,
    Neg,
    Node,
    NotationError,
    Number,
    PlusMinus,
    Postfix,
    Relation,
    Settings,
    line,
    literal,
    names_in,
    plain_value,
    read,
    read_authored,
    terminating_places,
    walk,
)
from ....quantities import split_quantity
from ...answer import DrawnAnswer, Less, of_field
from ...checking import checked
from ...near_misses import NEAR_MISSES, Attempt
from ...printed import exact_key
from ...tolerance import CompiledTolerance, DrawnTolerance
from ...typed import answerable, plain_number, without_name
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, of_share, unread
from ...written import unmet

if TYPE_CHECKING:
    from .document import NumberAnswer

PROVED = Certainty("proved")
REFUTED = Certainty("refuted")
# a share, a test, why in words, what is said, and the code
Candidate = tuple[Fraction, Callable[[], bool], str, str, str]


class NumberChecker:
    """A number answer, its formulas read once."""

    def __init__(self, answer: NumberAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        with of_field("key"):
            self.key_tree = read_authored(answer.key, settings)
            self.key = program(self.key_tree, settings.angle)
        with of_field("tolerance"):
            self.tolerance = CompiledTolerance(answer.tolerance, settings)
        with of_field("bands"):
            self.bands = [(band, CompiledTolerance(band.tolerance, settings)) for band in answer.bands]
        with of_field("slips"):
            self.slips = [(slip, program(read_authored(slip.key, settings), settings.angle)) for slip in answer.slips]
        self.other_angle: Compiled | Worked | None = None
        wanted = {recognised.name for recognised in answer.recognise}
        if "angle_unit" in wanted and has_angle(self.key_tree):
            self.other_angle = program(self.key_tree, "degrees" if settings.angle == "radians" else "radians")

    def drawn(self, values: Values) -> DrawnNumber:
        """The answer for one draw. Raises ``EvaluationError`` when its key has no value there."""
        slips = [value_or_none(formula, values) for _, formula in self.slips]
        other = value_or_none(self.other_angle, values) if self.other_angle else None
        tolerance = self.tolerance.drawn(values)
        bands = tuple(compiled.drawn(values) for _, compiled in self.bands)
        return DrawnNumber(
            self,
            self.key.value(values),
            tolerance,
            bands,
            tuple(slips),
            other,
            self.tolerance.words or tolerance.words,
            tuple(compiled.words or band.words for (_, compiled), band in zip(self.bands, bands)),
        )


def value_or_none(formula: Compiled | Worked, values: Values) -> Exact | None:
    try:
        return formula.value(values)
    except EvaluationError:
        return None


def has_angle(tree: Node) -> bool:
    return any(isinstance(node, Call) and node.function in ANGULAR for node in walk(tree))


@dataclass(frozen=True, slots=True)
class DrawnNumber(DrawnAnswer):
    """A number answer with the values of one draw."""

    takes_numbers = True

    checker: NumberChecker
    key: Exact
    tolerance: DrawnTolerance
    bands: tuple[DrawnTolerance, ...]
    slips: tuple[Exact | None, ...]
    other_angle: Exact | None
    # the tolerance in words, and those of the bands
    words: str
    band_words: tuple[str, ...]

    @property
    def number(self) -> DrawnNumber:
        return self

    @property
    def worth(self) -> Exact:
        return self.key

    def key_tree(self) -> Node:
        """The key as it is printed: as close as the tolerance and the demand on writing ask."""
        return printed_key(self.key, self.tolerance, self.checker.answer, self.checker.settings.angle)

    def closeness(self) -> str:
        """How close is close enough, in words."""
        return self.words

    def earning_less(self) -> Sequence[Less]:
        checker = self.checker
        bands = [
            Less(band.share, words, band.feedback) for (band, _), words in zip(checker.bands, self.band_words) if words
        ]
        slips = [
            Less(slip.share, printed_key(value, self.tolerance, checker.answer, checker.settings.angle), slip.feedback)
            for (slip, _), value in zip(checker.slips, self.slips)
            if value is not None
        ]
        return bands + slips

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        settings = self.checker.settings
        try:
            tree = answerable(without_name(read(plain_number(response, settings), settings)))
        except NotationError as problem:
            return unread(problem)
        known = plain_value(tree)
        try:
            value: Exact
            if known is not None:
                value = fmpq(known.numerator, known.denominator)
            else:
                value = Compiled(tree, settings.angle).value({})
            return replace(self.judged(value, tree), value=value)
        except EvaluationError as problem:
            verdict = unread(problem, "it has no value", reading=line(tree), tree=tree)
            return replace(verdict, feedback=(no_number(tree, problem, typed_unit(response, settings)),))

    def judged(self, value: Exact, tree: Node) -> Verdict:
        reading = line(tree)
        if self.tolerance.admits(value, self.key):
            return self.accepted(value, tree, reading)
        best: tuple[Fraction, str, str, str] | None = None
        for share, fits, because, feedback, code in self.candidates(value, tree):
            if (best is None or share > best[0]) and fits():
                best = (share, because, feedback, code)
                if share == 1:
                    break
        if best is None:
            told = self.in_percent(value, tree)
            return Verdict(WRONG, Fraction(0), reading, told, self.words, REFUTED, tree=tree)
        share, because, feedback, code = best
        told = (feedback,) if feedback else ()
        return Verdict(of_share(share), share, reading, told, because, PROVED, code, tree=tree)

    def in_percent(self, value: Exact, tree: Node) -> tuple[str, ...]:
        """What is said of 25 % where 25 is asked for."""
        if not (isinstance(tree, Postfix) and tree.sign == "%" and isinstance(value, fmpq)):
            return ()
        hundredfold = value * 100
        if not self.tolerance.admits(hundredfold, self.key):
            return ()
        plain = line(tree.operand)
        return (f"{plain} % is {line(literal(to_fraction(value)))}; here {plain} is asked for, without the sign.",)

    def accepted(self, value: Exact, tree: Node, reading: str) -> Verdict:
        demand = self.checker.answer.written
        certainty = self.certainty(value, tree)
        if demand is not None:
            lacking = unmet(tree, demand)
            if lacking:
                share = demand.share
                return Verdict(
                    PARTLY if 0 < share < 1 else of_share(share), share, reading, (lacking,), "how it is written",
                    certainty, "written", tree=tree,
                )  # fmt: skip
        return Verdict(RIGHT, Fraction(1), reading, (), self.words, certainty, tree=tree)

    def certainty(self, value: Exact, tree: Node) -> Certainty:
        if self.tolerance.mode == "exact" and isinstance(self.key, Real) and isinstance(value, Real):
            return equivalent(self.key.tree, value.tree, (), self.checker.settings.angle)
        return PROVED

    def candidates(self, value: Exact, tree: Node) -> list[Candidate]:
        """What may earn a share, in the order bands, slips, near-misses."""
        answer = self.checker.answer
        found: list[Candidate] = []
        for band, tolerance, words in zip(answer.bands, self.bands, self.band_words):
            fits = partial(tolerance.admits, value, self.key)
            found.append((band.share, fits, f"band {words}", band.feedback, "band"))
        for slip, slip_key in zip(answer.slips, self.slips):
            if slip_key is not None:
                fits = partial(self.tolerance.admits, value, slip_key)
                found.append((slip.share, fits, f"slip {slip.key}", slip.feedback, "slip"))
        if answer.recognise:
            attempt = Attempt(value, tree, self.key, self.tolerance, self.other_angle)
            for recognised in answer.recognise:
                miss = NEAR_MISSES[recognised.name]
                words = recognised.name.replace("_", " ")
                found.append((recognised.share, partial(miss.test, attempt), words, miss.told, recognised.name))
        return found


def typed_unit(response: str, settings: Settings) -> str:
    """The unit after a number; empty when there is none."""
    if len(response) > 80:
        return ""
    try:
        return split_quantity(response, settings)[1]
    except NotationError:
        return ""


def no_number(tree: Node, problem: EvaluationError, unit: str) -> str:
    """Why a response that can be read is no number."""
    if unit:
        return f"A plain number is asked for here: leave out “{unit}”."
    if isinstance(tree, Logic | Relation | Collection | PlusMinus):
        return "One number is asked for here."
    return f"A number is asked for here: {problem.message}" if names_in(tree) else problem.message


def as_mixed(key: Exact) -> Node:
    """A mixed number where there is a whole part and a rest."""
    if not isinstance(key, fmpq) or key.q == 1 or abs(key.p) < key.q:
        return shown_value(key, Shown("fraction"))
    whole, rest = divmod(abs(int(key.p)), int(key.q))
    mixed = Mixed(Number(Fraction(whole)), Number(Fraction(rest)), Number(Fraction(int(key.q))))
    return Neg(mixed) if key < 0 else mixed


def as_percent(key: Exact) -> Node:
    hundredfold = shown_value(key * 100) if isinstance(key, fmpq) else shown_value(key)
    if isinstance(hundredfold, Neg):
        return Neg(Postfix("%", hundredfold.operand))
    return Postfix("%", hundredfold)


# How a key is printed when a way of writing is demanded.
WAYS: dict[str, Callable[[Exact, int | None], Node]] = {
    "fraction": lambda key, figures: shown_value(key, Shown("fraction")),
    "mixed": lambda key, figures: as_mixed(key),
    "percent": lambda key, figures: as_percent(key),
    "standard_form": lambda key, figures: in_standard_form(key, figures),
}


def in_standard_form(key: Exact, figures: int | None) -> Node:
    """The key in standard form: to so many figures, else to four and without zeros at the end."""
    if figures is None:
        near = rounded_significant(key, 4)
        figures = next(count for count in range(1, 5) if rounded_significant(near, count) == near)
    return shown_value(key, Shown("standard_form", figures))


def printed_key(key: Exact, tolerance: DrawnTolerance, answer: NumberAnswer, angle: str) -> Node:
    """The key in figures for the marker: rounded as asked, else exact when short, else to four figures more
    closely than the tolerance can tell."""
    written = answer.written
    if written is not None and written.form in WAYS:
        return WAYS[written.form](key, written.significant_figures)
    places = written.decimal_places if written else None
    figures = written.significant_figures if written else None
    if tolerance.mode == "decimal_places":
        places = int(tolerance.value.p)
    if tolerance.mode == "significant_figures":
        figures = int(tolerance.value.p)
    if places is not None and tolerance.admits(rounded(key, places), key):
        return shown_value(key, Shown("decimal_places", places))
    if figures is not None and tolerance.admits(rounded_significant(key, figures), key):
        return shown_value(key, Shown("significant_figures", figures))
    if isinstance(key, fmpq):
        exact = to_fraction(key)
        ending = terminating_places(exact)
        short = ending is not None and len(str(abs(int(exact * 10**ending)))) <= 4
        if short or tolerance.mode == "exact":
            return literal(exact) if ending is not None else shown_value(key, Shown("fraction"))
    elif tolerance.mode == "exact":
        return exact_key(key.tree, angle)
    for digits in range(4, 16):
        if tolerance.admits(rounded_significant(key, digits), key):
            return shown_value(key, Shown("significant_figures", digits))
    return shown_value(key)
