"""A question document, compiled: ready to be drawn, shown and checked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ..algebra import Compiled, EvaluationError, Value, with_values
from ..answers import Checker, DrawnAnswer, FormulaAnswer, NumberAnswer, checker_for
from ..draws import Draw, DrawError, Drawing, Parameters, Row, Shown, read_shown, readable, shown_value
from ..notation import (
    Call,
    Drawn,
    Name,
    Node,
    NotationError,
    Quantity,
    Settings,
    Style,
    mathml,
    names_in,
    rebuild,
    substitute,
    tidy,
    typst,
)
from .document import QuestionDocument
from .text import QuestionText

Path = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Problem:
    """Something that keeps a question from being used.

    ``path`` leads to the field in the document, such as ``("parameters", 2, "definition")``; ``place`` and
    ``length`` say which of its characters are meant.
    """

    path: Path
    message: str
    place: int = 0
    length: int = 0


class Question:
    """A document whose formulas have been read; ``problems`` is empty when it can be drawn."""

    def __init__(self, document: QuestionDocument) -> None:
        self.document = document
        self.problems: list[Problem] = []
        rows = [Row(parameter.name, parameter.definition) for parameter in document.parameters]
        self.parameters = Parameters(rows, document.conditions, Settings(angle=document.angle))
        self.settings = self.parameters.settings
        for error in self.parameters.errors:
            self.problems.append(self.draw_problem(error))
        self.units: dict[str, str] = {}
        self.shown: dict[str, Shown] = {}
        for name, parameter in zip(self.parameters.names, document.parameters):
            self.units[name] = parameter.unit
            self.shown[name] = read_shown(parameter.shown) or Shown()
        self.wording = self.read_text(document.wording, ("wording",))
        self.part_wordings = [
            self.read_text(part.wording, ("parts", k, "wording")) for k, part in enumerate(document.parts)
        ]
        self.solutions = [
            self.read_text(part.solution, ("parts", k, "solution")) for k, part in enumerate(document.parts)
        ]
        self.checkers = [self.make_checker(k, part.answer) for k, part in enumerate(document.parts)]

    def draw_problem(self, error: DrawError) -> Problem:
        kind, row = error.row
        path: Path = ("parameters", row, error.field) if kind == "parameter" else ("conditions", row)
        return Problem(path, error.message, error.place, error.length)

    def read_text(self, source: str, path: Path) -> QuestionText:
        text = QuestionText(source, self.settings)
        self.problems.extend(Problem(path, found.message, found.place, found.length) for found in text.problems)
        return text

    def make_checker(self, k: int, answer: NumberAnswer | FormulaAnswer) -> Checker | None:
        path: Path = ("parts", k, "answer")
        try:
            checker = checker_for(answer, self.settings)
        except NotationError as problem:
            field_name, text = self.blame(answer, problem)
            self.problems.append(
                Problem((*path, field_name), problem.message, min(problem.place, len(text)), problem.length)
            )
            return None
        except EvaluationError as problem:
            self.problems.append(Problem((*path, "key"), problem.message))
            return None
        if isinstance(answer, NumberAnswer) and not self.parameters.errors:
            unknown = sorted(names_in(checker.key_tree) - self.parameters.definitions.keys())  # type: ignore[union-attr]
            if unknown:
                message = f"{unknown[0]} is not a parameter of this question."
                place = max(0, answer.key.find(unknown[0]))
                self.problems.append(Problem((*path, "key"), message, place, len(unknown[0])))
                return None
        return checker

    def blame(self, answer: NumberAnswer | FormulaAnswer, problem: NotationError) -> tuple[str, str]:
        """Which field of an answer cannot be read."""
        fields: list[tuple[str, str]] = [("key", answer.key)]
        if isinstance(answer, NumberAnswer):
            fields += [("tolerance", text) for text in (answer.tolerance.value, answer.tolerance.low,
                                                        answer.tolerance.high)]  # fmt: skip
            fields += [("bands", band.tolerance.value) for band in answer.bands]
        else:
            fields += [("where", relation) for relation in answer.where]
        fields += [("slips", slip.key) for slip in answer.slips]
        for name, text in fields:
            if not text:
                continue
            try:
                QuestionText(f"${text}$", self.settings)
                checker_for(type(answer)(key=text), self.settings)
            except (NotationError, EvaluationError) as found:
                if getattr(found, "message", "") == problem.message:
                    return name, text
        return fields[0]

    def drawing(self, key: str, revision: int) -> QuestionDrawing:
        """Draws of this question under an identity that is kept with it."""
        return QuestionDrawing(self, key, revision)


class QuestionDrawing:
    """The draws of one revision."""

    def __init__(self, question: Question, key: str, revision: int) -> None:
        self.question = question
        self.drawing = Drawing(question.parameters, key, revision)

    def draw(self, number: int) -> DrawnQuestion:
        """Draw ``number`` (from 1). Raises ``DrawError`` when nothing admissible is found."""
        return DrawnQuestion(self.question, self.drawing.draw(number))


@dataclass
class DrawnQuestion:
    """A question with the values of one draw."""

    question: Question
    draw: Draw
    # why a part's key has no value in this draw
    failures: dict[int, str] = field(default_factory=dict)

    @property
    def values(self) -> Mapping[str, Value]:
        return self.draw.values

    @cached_property
    def shown_values(self) -> dict[str, Node]:
        """The tree that shows each parameter, as its row asks."""
        shown = self.question.shown
        return {name: shown_value(value, shown.get(name, Shown())) for name, value in self.values.items()}

    @cached_property
    def answers(self) -> list[DrawnAnswer | None]:
        """The answer of each part; None, with the reason in ``failures``, where it has no value."""
        drawn: list[DrawnAnswer | None] = []
        for k, checker in enumerate(self.question.checkers):
            try:
                drawn.append(None if checker is None else checker.drawn(self.values))
            except EvaluationError as problem:
                self.failures[k] = problem.message
                drawn.append(None)
        return drawn

    def key_tree(self, part: int) -> Node | None:
        """The key of a part as it is printed."""
        answer = self.answers[part]
        return None if answer is None else answer.key_tree()

    def shown(self, tree: Node) -> Node:
        """A maths span with this draw's values in it.

        A parameter that stands alone brings its unit; ``value(…)`` computes.
        """
        if isinstance(tree, Name) and self.question.units.get(tree.name) and tree.name in self.shown_values:
            return Quantity(Drawn(self.shown_values[tree.name], tree.name), self.question.units[tree.name])
        computed = self.computed(tree)
        return tidy(substitute(computed, self.shown_values, mark=True))

    def computed(self, node: Node) -> Node:
        """The tree with every ``value(…)`` worked out."""
        if isinstance(node, Call) and node.function == "value":
            return Drawn(self.worth(node.arguments[0]), "value")
        return rebuild(node, self.computed)

    def worth(self, tree: Node) -> Node:
        if isinstance(tree, Name) and tree.name in self.shown_values:
            return self.shown_values[tree.name]
        try:
            if names_in(tree) <= self.values.keys():
                return readable(Compiled(tree, self.question.settings.angle).value(self.values))
            return with_values(tree, self.values)
        except EvaluationError:
            return tree

    def html(self, text: QuestionText, style: Style = Style()) -> str:  # noqa: B008 (frozen)
        """A text of the question with this draw's values, as sanitised HTML."""
        return text.html(lambda tree, block: mathml(self.shown(tree), style, block))

    def typst(self, text: QuestionText, style: Style = Style()) -> str:  # noqa: B008 (frozen)
        """A text of the question with this draw's values, as Typst markup."""
        return text.typst(lambda tree, block: typst(self.shown(tree), style, block))
