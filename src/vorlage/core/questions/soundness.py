"""Whether a question may be kept: the one gate that every revision goes through, wherever it comes from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from ..draws import DrawError
from ..errors import CoreError
from .cautions import Caution
from .diagnostics import diagnose, pinned_draws
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion
from .question import CompiledQuestion, Problem
from .unmeant import unmeant

# So many draws are looked at before a question may be kept.
LOOKED_AT = 8
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
    drawing = QuestionDrawing(question, key, revision)
    first = min(LOOKED_AT, question.parameters.count or LOOKED_AT)
    numbers = dict.fromkeys([*range(1, first + 1), *further])
    try:
        found.drawn = [drawing.draw(number) for number in numbers]
    except DrawError as error:
        problem = question.draw_problem(error)
        if problem not in found.problems:
            found.problems.append(problem)
        found.warnings = unmeant(question)
        return found
    found.pinned = pinned_draws(drawing)
    found.warnings = diagnose(question, found.drawn)
    return found
