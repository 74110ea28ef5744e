"""Whether a question may be kept: the one gate that every revision goes through, wherever it comes from."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from dataclasses import dataclass, field

from ..budget import OutOfBudget, budgeted
from ..draws import DrawError
from ..errors import CoreError
from ..memory import Memory
from .cautions import Caution
from .diagnostics import diagnose, pinned_draws
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion
from .question import CompiledQuestion, Problem
from .unmeant import unmeant

# So many draws are looked at before a question may be kept.
LOOKED_AT = 8
# What looking at a question may take, in steps and in seconds of the processor.
MAXIMUM_STEPS, MAXIMUM_SECONDS = 1_500_000, 1.2
# What was found out lately: an answer that is tried, and saving, leave the question as it is. In draws looked at.
JUDGED: Memory[Hashable, Soundness] = Memory(300)
# What no student could do anything with.
FATAL = frozenset(["no_value", "no_key", "key_fails", "no_figure", "not_worked_out"])


@dataclass
class Soundness:
    """What was found out about a question: its problems, the draws that were looked at, and what is to be said of
    them."""

    problems: list[Problem]
    drawn: list[DrawnQuestion] = field(default_factory=list)
    # pinned draws, each with what has broken it
    pinned: list[tuple[DrawnQuestion, list[str]]] = field(default_factory=list)
    warnings: list[Caution] = field(default_factory=list)

    @property
    def fatal(self) -> list[Caution]:
        """The warnings that keep the question from being used."""
        return [warning for warning in self.warnings if warning.code in FATAL]

    @property
    def broken(self) -> dict[int, str]:
        """What has broken pinned draws, by their numbers, which are below 0."""
        return {drawn.draw.number: "; ".join(said) for drawn, said in self.pinned if said}

    @property
    def sound(self) -> bool:
        """Whether the question may be kept."""
        return not (self.problems or self.fatal or self.broken)

    @property
    def reasons(self) -> list[str]:
        """Why it may not, in words."""
        pins = [f"Pinned draw {-number}: {words}." for number, words in self.broken.items()]
        return [*(each.message for each in self.problems), *(each.message for each in self.fatal), *pins]


class Unsound(CoreError, ValueError):
    """A question that may not be kept, with the reasons in words."""

    def __init__(self, reasons: list[str]) -> None:
        super().__init__("unsound", " ".join(reasons))
        self.reasons = reasons


def soundness(question: CompiledQuestion, key: str, revision: int, further: Iterable[int] = ()) -> Soundness:
    """What the first draws, the pinned ones and further ones that are asked for say of a question.

    ``key`` is the identity under which the draws are made, ``revision`` the number that it would be kept as.
    A question with problems that still can be drawn is drawn, so that its author sees something.
    """
    found = Soundness(list(question.problems))
    if question.parameters.errors:
        found.warnings = unmeant(question)
        return found
    first = min(LOOKED_AT, question.parameters.count or LOOKED_AT)
    numbers = tuple(dict.fromkeys([*range(1, first + 1), *further]))
    same = question.document.model_dump_json(), question.habits, key, revision, numbers
    known = JUDGED.get(same)
    if known is not None:
        return known
    try:
        with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
            look_at(found, question, QuestionDrawing(question, key, revision), numbers)
    except OutOfBudget as problem:
        # a busy machine may have been to blame: it is looked at again
        found.problems.append(too_costly(problem))
        return found
    JUDGED.keep(same, found, len(numbers))
    return found


def look_at(found: Soundness, question: CompiledQuestion, drawing: QuestionDrawing, numbers: Iterable[int]) -> None:
    """Draw, and note what is to be said; what was drawn before the budget is used up stays."""
    try:
        for number in numbers:
            drawn = drawing.draw(number)
            # all that it takes is worked out now, so that what cannot be is no draw
            _ = drawn.answers, drawn.figures
            found.drawn.append(drawn)
    except DrawError as error:
        found.drawn.clear()
        problem = question.draw_problem(error)
        if problem not in found.problems:
            found.problems.append(problem)
        found.warnings = unmeant(question)
        return
    found.pinned = pinned_draws(drawing)
    found.warnings = diagnose(question, found.drawn)


# What takes too long, by the first word of the path to its field, and what helps there.
COSTLY = {
    "parameters": ("This definition", "make it simpler, or draw from fewer values"),
    "conditions": ("This condition", "make it simpler, or draw from fewer values"),
    "figures": ("This figure", "take lines out, or give them simpler formulas"),
    "parts": ("This part", "make it simpler, or split the question"),
    "wording": ("This text", "make it shorter, or show fewer figures and formulas"),
}


def too_costly(problem: OutOfBudget) -> Problem:
    """What is said at the field that took most when the work on a question was ended."""
    kind = "wording" if problem.path[-1:] in {("wording",), ("solution",)} else next(iter(problem.path), "")
    what, cure = COSTLY.get(str(kind), ("This question", "make it simpler, or split it"))
    return Problem(problem.path, "too_costly", f"{what} takes too long to be worked out: {cure}.")
