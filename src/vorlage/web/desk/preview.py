"""Everything the desk shows that is computed: the sheet, the draw table, messages, the tried answer."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from django.utils.html import escape
from django.utils.safestring import SafeString

from vorlage.core.answers import Answer
from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.draws import DrawError, read_definition
from vorlage.core.formulas import Fitting, fitting
from vorlage.core.notation import Habits, NotationError, Settings, from_document, mathml, noted, to_document, told
from vorlage.core.questions import (
    LOOKED_AT,
    Caution,
    CompiledQuestion,
    Problem,
    TrialResult,
    run_trials,
    soundness,
    too_costly,
    unmeant,
)
from vorlage.web.bank.markup import safe

from .draw_table import DrawTable, draw_table
from .field_messages import Message, in_place, messages_of
from .form import Desk
from .rows import ParameterRow
from .sheet import Sheet, sheet_of, sheet_without_draws
from .trying import Tried, tried_on

DRAWS = LOOKED_AT
MOST_ROWS = 200
# The last draw that can be asked for where there are more than can be counted.
FURTHEST = 1_000_000
# So many letters are offered to become parameters.
LETTERS = 6
# What all that is shown may take, in steps and in seconds of the processor.
MAXIMUM_STEPS, MAXIMUM_SECONDS = 2_200_000, 2.0


@dataclass(frozen=True)
class Wish:
    """What the author wants to see of a question."""

    draw: int = 1
    # the answers that are tried, and those that were tried before, by the rows of their parts
    tried: Mapping[str, str] = field(default_factory=dict)
    earlier: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    # the row of the part that is worked on
    active: str = ""
    rows: int = DRAWS
    sort: str = ""


@dataclass
class Preview:
    """The computed half of the desk."""

    messages: dict[str, list[Message]] = field(default_factory=dict)
    # whether the fields make a document at all
    readable: bool = True
    # whether it was to be saved: then what is still to be written is told as loudly as what is wrong
    strict: bool = False
    # whether the question can be saved
    sound: bool = False
    marks: Decimal = Decimal(0)
    count: int | None = None
    counted: bool = False
    draw: int = 1
    sheet: Sheet = field(default_factory=Sheet)
    table: DrawTable = field(default_factory=DrawTable)
    warnings: list[Caution] = field(default_factory=list)
    # why there is no table, when there is none
    no_draws: str = ""
    # how many rows the draw table has, and whether there could be more
    limit: int = DRAWS
    more: bool = False
    # letters of the wording that could become parameters
    letters: list[str] = field(default_factory=list)
    # how the answer of each part is read, by the part's row
    readings: dict[str, SafeString] = field(default_factory=dict)
    # formulas of the book for parts whose answer is still empty, by the part's row
    offers: dict[str, list[Fitting]] = field(default_factory=dict)
    # the author's own tests by the part's row: answer, what it has to be, and in which draws it is something else
    trials: dict[str, list[TrialResult]] = field(default_factory=dict)
    # the row of the part that is worked on, and what became of the answers that are tried
    active: str = ""
    tries: dict[str, Tried] = field(default_factory=dict)

    @property
    def general(self) -> list[Caution]:
        """What is to be said of the draws, and of no single field."""
        return [warning for warning in self.warnings if not warning.path]

    @property
    def pin(self) -> int:
        """Which pinned draw lies on the sheet; 0 or less for other draws."""
        return -self.draw


def preview(desk: Desk, key: str, revision: int, wish: Wish = Wish()) -> Preview:
    """Compute all that the desk shows for its present fields."""
    shown = Preview(draw=wish.draw or 1, limit=max(DRAWS, min(MOST_ROWS, wish.rows)))
    shown.tries = {uid: Tried(text, earlier=wish.earlier.get(uid, ())) for uid, text in wish.tried.items()}
    try:
        with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
            compute(shown, desk, key, revision, wish)
    except OutOfBudget as problem:
        # the fields themselves take longer than all that is shown of them may
        found = too_costly(problem)
        shown.sound, shown.no_draws = False, told(found.message, desk.habits)
        shown.messages = messages_of(desk, [*desk.read.problems, *in_place([found], desk.habits)])
    return shown


def compute(shown: Preview, desk: Desk, key: str, revision: int, wish: Wish) -> None:
    """Everything that is shown. Raises ``OutOfBudget``."""
    document, problems = desk.read.document, list(desk.read.problems)
    shown.offers = book_offers(desk)
    if document is None:
        shown.no_draws = "The draws appear as soon as the fields make a question."
        shown.readable = False
        shown.messages = messages_of(desk, problems)
        return
    question = CompiledQuestion(document, desk.habits)
    problems += problems_of_fields(question, problems, desk.habits)
    shown.marks = document.marks
    shown.letters = question.letters[:LETTERS]
    asked = [part.id for part in document.parts if part.answer.asks]
    shown.active = wish.active if wish.active in asked else next(iter(asked), "")
    shown.sound = not problems
    if not question.parameters.errors:
        shown.count, shown.counted = question.parameters.count, True
        problems += show_draws(shown, desk, question, key, revision, wish)
    else:
        shown.no_draws = "Mend the rows marked above; the draws appear at once."
        shown.warnings = in_place(unmeant(question), desk.habits)
        shown.sheet = sheet_without_draws(question)
    shown.messages = messages_of(desk, problems, shown.warnings)
    for row, part in zip(desk.parts, document.parts):
        if row.key.strip():
            shown.readings[row.uid] = key_reading(part.answer, question)


def problems_of_fields(question: CompiledQuestion, known: list[Problem], habits: Habits) -> list[Problem]:
    """The problems of a question whose fields could all be used.

    What stands in for an answer that could not be used is not shown as one, and nothing is said of it; nor is anything
    said a second time of a field.
    """
    stood_in = {problem.path[1] for problem in known if is_of_answer(problem)}
    for k in range(len(question.checkers)):
        if k in stood_in:
            question.checkers[k] = None
    said = {problem.path for problem in known}
    fresh = [problem for problem in question.problems if not said & {problem.path[:k] for k in range(1, 9)}]
    found = [problem for problem in fresh if not (is_of_answer(problem) and problem.path[1] in stood_in)]
    return in_place(found, habits)


def is_of_answer(problem: Problem) -> bool:
    return problem.path[:1] == ("parts",) and problem.path[2:3] == ("answer",)


def show_draws(
    shown: Preview, desk: Desk, question: CompiledQuestion, key: str, revision: int, wish: Wish
) -> list[Problem]:
    """The draws that are wanted, what is to be said of them, and the one that lies on the sheet; the problems that
    turned up only then."""
    available = question.parameters.count or shown.limit
    limit = min(shown.limit, available)
    shown.more = available > limit and limit < MOST_ROWS
    shown.draw = min(shown.draw, max(limit, question.parameters.count or FURTHEST))
    if shown.draw < -len(question.document.pins):
        shown.draw = 1
    # a draw that was asked for stands below the others
    wanted = [*range(1, limit + 1), shown.draw] if shown.draw > 0 else range(1, limit + 1)
    judged = soundness(question, key, revision, wanted)
    further = in_place([each for each in judged.problems if each not in question.problems], desk.habits)
    if not judged.drawn:
        shown.warnings = in_place(judged.warnings, desk.habits)
        shown.no_draws = told(judged.problems[-1].message, desk.habits)
        shown.sound = False
        shown.sheet = sheet_without_draws(question)
        return further
    everything = [item for item, _ in judged.pinned] + judged.drawn
    chosen = next((item for item in everything if item.draw.number == shown.draw), judged.drawn[0])
    shown.draw = chosen.draw.number
    shown.warnings = in_place(judged.warnings, desk.habits)
    shown.sound = shown.sound and not (judged.fatal or judged.broken or further)
    shown.sheet = sheet_of(chosen)
    warned = {number for warning in judged.warnings for number in warning.draws}
    broken = {number: told(words, desk.habits) for number, words in judged.broken.items()}
    shown.table = draw_table(question, everything, warned, broken, wish.sort)
    shown.tries |= tried_on(chosen, wish.tried, wish.earlier, shown.active)
    for result in run_trials(question, judged.drawn[:DRAWS]):
        typed = result.trial.model_copy(update={"response": from_document(result.trial.response, desk.habits)})
        shown.trials.setdefault(desk.parts[result.part].uid, []).append(replace(result, trial=typed))
    return further


def book_offers(desk: Desk) -> dict[str, list[Fitting]]:
    """What the formula book has for parts without an answer, from the parameters and the words of the question."""
    habits = desk.habits
    usable = [row for row in desk.parameters if row.name.strip() and is_number(row, habits)]
    names = {row.name.strip(): row.unit.strip() for row in usable}
    offers = {}
    for part in desk.parts:
        if part.answer_kind.document.numeric and not part.key.strip():
            offers[part.uid] = fitting(names, part.unit.strip(), f"{desk.wording} {part.wording}")
    return {
        uid: [replace(each, text=from_document(each.text, habits)) for each in found]
        for uid, found in offers.items()
        if found
    }


def is_number(row: ParameterRow, habits: Habits) -> bool:
    """Whether a parameter is a number that is drawn or given, and not computed from others."""
    try:
        return read_definition(to_document(row.definition, habits), Settings()).is_number
    except (DrawError, NotationError):
        return False


def key_reading(answer: Answer, question: CompiledQuestion) -> SafeString:
    """The key as it is read, and how it could be meant otherwise; nothing where it cannot be read."""
    try:
        with noted() as notes:
            tree = answer.key_as_read(question.settings)
    except NotationError:
        tree = None
    if tree is None:
        return SafeString("")
    otherwise = escape(" " + told(notes[0], question.habits)) if notes else ""
    return safe(f"{mathml(tree, question.style)}{otherwise}")
