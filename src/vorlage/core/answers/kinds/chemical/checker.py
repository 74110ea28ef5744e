"""Answers that are a chemical formula or equation."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING

from ....algebra import Certainty, EvaluationError, Values, value_tree
from ....notation import Chemical, Node, NotationError, Settings, Text, read_chemical
from ...answer import DrawnAnswer, of_field
from ...checking import checked
from ...typed import plain_answer
from ...verdict import NOTHING, RIGHT, WRONG, Verdict, of_share, unread
from .reactions import Reaction, Species, read_reaction

if TYPE_CHECKING:
    from .document import ChemicalAnswer

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")


class ChemicalChecker:
    """A chemical answer, read once; its key may be a parameter whose values are formulas."""

    def __init__(self, answer: ChemicalAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        self.varies = answer.key.strip() in settings.names
        with of_field("key"):
            self.fixed = None if self.varies else read_reaction(answer.key)
        with of_field("slips"):
            self.slips = [read_reaction(slip.key) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnChemical:
        """The answer for one draw. Raises ``EvaluationError`` when its key is no formula there."""
        if self.fixed is not None:
            return DrawnChemical(self, self.fixed, self.answer.key)
        name = self.answer.key.strip()
        tree = value_tree(values[name]) if name in values else None
        if not isinstance(tree, Text):
            raise EvaluationError("no_formula", f"{name} is no chemical formula: write its values in quotation marks.")
        try:
            return DrawnChemical(self, read_reaction(tree.text), tree.text)
        except NotationError as problem:
            raise EvaluationError(problem.code, problem.message) from problem


@dataclass(frozen=True, slots=True)
class DrawnChemical(DrawnAnswer):
    """A chemical answer for one draw."""

    checker: ChemicalChecker
    key: Reaction
    written: str

    def key_tree(self) -> Chemical:
        """The key as it is printed."""
        return read_chemical(self.written.removeprefix("chem:").strip())

    def closeness(self) -> str:
        """What else counts as the key, in words."""
        return "any multiple" if self.checker.answer.multiple else "in any order"

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        try:
            return replace(self.judged(response), tree=shown(response))
        except NotationError as problem:
            return unread(problem)

    def judged(self, response: str) -> Verdict:
        """The verdict for what was typed. Raises ``NotationError`` when it is no formula or equation."""
        answer, key = self.checker.answer, self.key
        given = read_reaction(plain_answer(response))
        if key.is_equation and not given.is_equation:
            raise NotationError("chemical", "An equation is asked for here, with an arrow ->.")
        if given.is_equation and not key.is_equation:
            raise NotationError("chemical", "A formula is asked for here, without an arrow.")
        reading = " ".join(response.split())
        factor = common_factor(key, given, answer.states)
        if factor == 1 or (factor is not None and answer.multiple and factor > 0):
            return Verdict(RIGHT, Fraction(1), reading, (), "every atom and charge", PROVED)
        if answer.states and common_factor(key, given, False) == 1 and not contradicts(key, given):
            lacking = "States such as (aq) are missing."
            return Verdict(of_share(answer.share), answer.share, reading, (lacking,), "the states asked for", PROVED)
        for slip, expected in sorted(zip(answer.slips, self.checker.slips), key=lambda pair: -pair[0].share):
            if common_factor(expected, given, answer.states) == 1:
                told = (slip.feedback,) if slip.feedback else ()
                return Verdict(of_share(slip.share), slip.share, reading, told, f"slip {slip.key}", PROVED)
        return Verdict(WRONG, Fraction(0), reading, self.feedback(key, given, factor), "another formula", REFUTED)

    def feedback(self, key: Reaction, given: Reaction, factor: Fraction | None) -> tuple[str, ...]:
        if factor is not None:
            return ("Balanced, but not with the numbers asked for.",)
        if given.is_equation:
            culprit = given.unbalanced()
            if culprit:
                return (f"{the(culprit)} does not balance.",)
            if self.checker.answer.states and common_factor(key, given, False) == 1:
                return ("Check the states.",)
            return ()
        return self.formula_feedback(key, given)

    def formula_feedback(self, key: Reaction, given: Reaction) -> tuple[str, ...]:
        """What one formula has that the other has not."""
        if len(key.left) != 1 or len(given.left) != 1:
            return ()
        wanted, typed = key.left[0][0], given.left[0][0]
        if wanted.atoms == typed.atoms:
            return ("Check the charge.",) if wanted.charge != typed.charge else ("Check the state.",)
        names = {element for element, _ in wanted.atoms ^ typed.atoms}
        return (f"Check the number of {', '.join(sorted(names))}.",) if len(names) == 1 else ()


def shown(response: str) -> Node | None:
    """What was typed, to be shown typeset; None where only the checker can read it."""
    try:
        return read_chemical(response.removeprefix("chem:").strip())
    except NotationError:
        return None


def the(culprit: str) -> str:
    return f"The {culprit}" if culprit in {"charge", "mass number", "atomic number"} else culprit


def contradicts(key: Reaction, given: Reaction) -> bool:
    """Whether a state that was given is another than the key's."""
    wanted = {*key.side(False, True), *key.side(True, True)}
    typed = {*given.side(False, True), *given.side(True, True)}
    return any(species.state and species not in wanted for species in typed)


def common_factor(key: Reaction, given: Reaction, states: bool) -> Fraction | None:
    """By what the given coefficients are multiples of the key's; None when they are not."""
    if key.is_equation != given.is_equation:
        return None
    factor: Fraction | None = None
    for right in (False, True):
        wanted: dict[Species, Fraction] = key.side(right, states)
        typed = given.side(right, states)
        if wanted.keys() != typed.keys():
            return None
        for species, coefficient in wanted.items():
            if not coefficient:
                return None
            ratio = typed[species] / coefficient
            if factor is not None and ratio != factor:
                return None
            factor = ratio
    return factor
