"""What an author ought to know about the draws of a question before a student sees them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from flint import fmpq

from ..algebra import Compiled, EvaluationError, Exact, approximate, sign, to_fraction
from ..answers import DrawnAnswer
from ..answers.kinds.number import DrawnNumber
from ..budget import at
from ..notation import NotationError, line, literal, read, read_authored, substitute, terminating_places, tidy
from ..text import HTML, lone_span
from .cautions import Caution
from .document import Trial
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion
from .giveaways import THOROUGH, given_away
from .question import CompiledQuestion
from .remedies import nearly_nothing, remedy
from .unmeant import unmeant
from .working import solution_faults
from .writing import written

# An author's own tests run in so many draws.
TRIED = 8
HUGE = fmpq(10) ** 7
SPAN = re.compile(r"\$([^$]+)\$")
# A parameter alone in a span, and a plural after it.
COUNTED_WORD = re.compile(r"\$([A-Za-z_0-9]+)\$ ([a-z]{2,}[^s\W]s)\b")


def part_label(question: CompiledQuestion, part: int) -> str:
    return question.document.labels[part].full or "The answer"


def diagnose(question: CompiledQuestion, drawn: Sequence[DrawnQuestion]) -> list[Caution]:
    """The warnings for some draws of a question."""
    found = Diagnosis(question)
    for item in drawn:
        found.look_at(item)
    return found.warnings


class Diagnosis:
    """The warnings for some draws of a question, which are looked at one after the other."""

    def __init__(self, question: CompiledQuestion) -> None:
        self.question = question
        self.drawn: list[DrawnQuestion] = []
        # the draws in which something is wrong, by its code, the message and the cure
        self.found: dict[tuple[str, str, str], list[int]] = {}
        # what the texts show that they should not: what is said of one draw is said of the first that shows it, with
        # the others' numbers
        self.in_texts: dict[tuple[str, str], Caution] = {}

    def look_at(self, item: DrawnQuestion) -> None:
        for code, message, *cure in draw_warnings(self.question, item):
            self.found.setdefault((code, message, "".join(cure)), []).append(item.draw.number)
        self.look_at_texts(item)
        self.drawn.append(item)

    def look_at_texts(self, item: DrawnQuestion) -> None:
        """Formulas that cannot be worked out, the answer itself, solutions that are not true."""
        number = item.draw.number
        for where, formula, reason in unworked(item):
            message = f"{formula} in {where} cannot be worked out: {reason}"
            self.note(Caution("not_worked_out", message, (number,)), where + formula)
        for given in given_away(item, len(self.drawn) < THOROUGH):
            self.note(Caution("given_away", given.message, (number,), given.cure, given.demand), given.alike)
        for part in range(len(item.answers)):
            at("parts", part, "solution")
            for code, message, span in solution_faults(item, part):
                label = part_label(item.question, part)
                self.note(Caution(code, f"{label}: {message}", (number,)), label + span)

    def note(self, warning: Caution, alike: str) -> None:
        known = self.in_texts.get((warning.code, alike))
        draws = (*known.draws, *warning.draws) if known else warning.draws
        self.in_texts[warning.code, alike] = replace(known or warning, draws=tuple(dict.fromkeys(draws)))

    @property
    def warnings(self) -> list[Caution]:
        found = [Caution(code, message, tuple(draws), cure) for (code, message, cure), draws in self.found.items()]
        return [*found, *self.in_texts.values(), *question_warnings(self.question, self.drawn)]


def unworked(item: DrawnQuestion, solutions: bool = True) -> list[tuple[str, str, str]]:
    """(where, formula, reason) for what the question's texts ask to be worked out and cannot be; with or without the
    solutions, which no student reads before answering."""
    texts = item.question.sheet_texts
    if solutions:
        texts = [
            *texts,
            *(
                (f"the solution of {part_label(item.question, k)}", text)
                for k, text in enumerate(item.question.solutions)
            ),
        ]
    return [(where, formula, reason) for where, text in texts for formula, reason in item.not_worked_out(text)]


def draw_warnings(question: CompiledQuestion, item: DrawnQuestion) -> list[tuple[str, ...]]:
    """(code, message) or (code, message, cure) for everything that is wrong with one draw."""
    found: list[tuple[str, ...]] = []
    for name, reason in item.draw.problems.items():
        formula = question.parameters.computed[name].formula
        cure = "" if formula is None else remedy(formula, item.values, angle_of(question))
        found.append(("no_value", f"{name} has no value: {reason}", cure))
    for label, divisor in question.divisors:
        cure = nearly_nothing(divisor, item.values, angle_of(question))
        if cure:
            found.append(("nearly_nothing", f"{label} divides by nearly nothing: {line(divisor)}.", cure))
    found += one_of_many(question, item)
    for name, figure in item.figures.items():
        if isinstance(figure, EvaluationError):
            found.append(("no_figure", f"Figure {name} cannot be drawn: {figure.message}"))
        else:
            found += [
                ("off_frame", f"Figure {name}: line {number} runs off its frame.", cure) for number, cure in figure.off
            ]
    for part, answer in enumerate(item.answers):
        at("parts", part, "answer", "key")
        label = part_label(question, part)
        if answer is None:
            if part in item.failures:
                cure = key_remedy(question, item, part)
                found.append(("no_key", f"{label} has no value: {item.failures[part]}", cure))
            continue
        plain = answer.number
        if plain is not None:
            key = plain.checker.answer.key
            usable = not question.uses[part]
            for code, message in number_warnings(plain):
                cure = CURES[code].format(key=key) if usable and code in CURES else ""
                found.append((code, f"{label} {message}", cure))
            found.extend(slip_warnings(plain, label, key if usable else ""))
        alike = options_alike(item, part)
        if alike:
            found.append(("options_alike", f"{label}: {alike[0]} and {alike[1]} look the same.", alike[2]))
        found += [(code, f"{label}: {message}", "") for code, message in answer.troubles()]
        if all_permitted_are_right(answer):
            found.append(("all_right", f"{label}: every answer that may be typed is right.", ""))
        failure = answer.fault()
        if failure:
            found.append(("key_fails", f"{label}: the key does not pass its own check ({failure})."))
    return found


# The condition that ends a kind of trouble.
CURES = {"zero": "{key} != 0", "negative": "{key} > 0", "huge": "abs({key}) < 10^7"}


def slip_warnings(answer: DrawnNumber, label: str, key: str) -> list[tuple[str, ...]]:
    """Slips that the key's tolerance takes for the key: whoever makes them gets full marks in this draw."""
    found: list[tuple[str, ...]] = []
    for slip, value in zip(answer.checker.answer.slips, answer.slips):
        if value is not None and answer.tolerance.admits(value, answer.key):
            cure = f"{key} != {slip.key}" if key else ""
            found.append(("slip_hidden", f"{label}: the slip {slip.key} counts as right here.", cure))
    return found


def one_of_many(question: CompiledQuestion, item: DrawnQuestion) -> list[tuple[str, ...]]:
    """``1 crates``: a drawn 1 before a word that speaks of several."""
    found: list[tuple[str, ...]] = []
    sources = [question.document.wording, *(part.wording for part in question.document.parts)]
    for source in sources:
        for name, word in COUNTED_WORD.findall(source):
            if item.values.get(name) == 1:
                found.append(("grammar", f"“1 {word}” is read here.", f"{name} != 1"))
    return found


def angle_of(question: CompiledQuestion) -> str:
    return question.settings.angle


def key_remedy(question: CompiledQuestion, item: DrawnQuestion, part: int) -> str:
    """The condition that would give the key of a part a value."""
    answer = question.document.parts[part].answer
    key = getattr(answer, "key", "")
    if not key or question.uses[part]:
        return ""
    try:
        return remedy(read_authored(key, question.settings), item.values, angle_of(question))
    except NotationError:
        return ""


def options_alike(item: DrawnQuestion, part: int) -> tuple[str, str, str] | None:
    """The letters of two options that look the same in a draw, and the condition that parts them; None when all
    differ."""
    seen: dict[str, tuple[str, str]] = {}
    for letter, text in item.offered(part):
        shown = written(item, text, HTML)
        if shown in seen and not letter.isdecimal():
            other, source = seen[shown]
            sides = sorted(span[0] for span in (lone_span(source), lone_span(text.source)) if span)
            cure = " != ".join(sides) if len(sides) == 2 else ""
            return other, letter, cure if item.question.parameters.names else ""
        seen.setdefault(shown, (letter, text.source))
    return None


def number_warnings(answer: DrawnNumber) -> list[tuple[str, str]]:
    key = answer.key
    found = []
    size = sign(key)
    if size == 0:
        found.append(("zero", "is zero."))
    elif size < 0:
        found.append(("negative", "is negative."))
    written = answer.checker.answer.written
    in_standard_form = written is not None and written.form == "standard_form"
    if abs(approximate(key)) >= approximate(HUGE) and not in_standard_form:
        found.append(("huge", "is huge."))
    if answer.tolerance.mode == "exact" and not (written and written.form) and too_long(key):
        found.append(("decimals", "has more decimals than anybody will write; a tolerance would help."))
    return found


def too_long(key: Exact) -> bool:
    if not isinstance(key, fmpq):
        return False
    exact = to_fraction(key)
    places = terminating_places(exact)
    return (places is not None and places > 4) or (places is None and exact.denominator > 200)


# How many answers between the ends of a limit are tried.
PERMITTED = 60


def all_permitted_are_right(answer: DrawnAnswer) -> bool:
    """Whether limits leave nothing that is wrong: all whole numbers between two ends, or some numbers between them."""
    limits = answer.specification.limits_set if answer.specification is not None else ()
    between = [limit for limit in limits if limit.rule == "between" and limit.low and limit.high]
    if not between or not answer.takes_numbers:
        return False
    try:
        low, high = (Compiled(read_authored(end)).value({}) for end in (between[0].low, between[0].high))
    except (NotationError, EvaluationError):
        return False
    if not isinstance(low, fmpq) or not isinstance(high, fmpq) or low > high:
        return False
    tried = [low + (high - low) * k / PERMITTED for k in range(PERMITTED + 1)]
    if any(limit.rule == "whole" for limit in limits):
        first, last = int(-((-low).floor())), int(high.floor())
        if last - first > PERMITTED:
            return False
        tried = [fmpq(value) for value in range(first, last + 1)]
    return bool(tried) and all(
        answer.check(answer.written_out(literal(to_fraction(value)))).outcome == "right" for value in tried
    )


@dataclass(frozen=True, slots=True)
class TrialResult:
    """What became of one of the author's own tests: the draws in which it came out otherwise."""

    part: int
    trial: Trial
    # (draw, outcome) where it is not as it was kept
    others: tuple[tuple[int, str], ...]


def run_trials(question: CompiledQuestion, drawn: Sequence[DrawnQuestion]) -> list[TrialResult]:
    """Rerun the author's own tests: those with parameters in every draw given, the others in draw 1."""
    results = []
    for k, part in enumerate(question.document.parts):
        for trial in part.trials:
            others = []
            for item in drawn:
                answer = item.answers[k]
                if answer is None or (item.draw.number != 1 and not SPAN.search(trial.response)):
                    continue
                outcome = answer.check(with_values_of(item, trial.response)).outcome
                if outcome != trial.outcome:
                    others.append((item.draw.number, outcome))
            results.append(TrialResult(k, trial, tuple(others)))
    return results


def trial_warnings(question: CompiledQuestion, drawn: Sequence[DrawnQuestion]) -> list[Caution]:
    """The author's own tests that do not come out as they were kept."""
    found = []
    for result in run_trials(question, drawn):
        if result.others:
            outcomes = " or ".join(dict.fromkeys(outcome for _, outcome in result.others))
            message = f"your sample answer “{result.trial.response}” is {outcomes}, and not {result.trial.outcome}."
            draws = tuple(number for number, _ in result.others)
            found.append(Caution("trial", f"{part_label(question, result.part)}: {message}", draws))
    return found


def with_values_of(item: DrawnQuestion, response: str) -> str:
    """A tried answer with ``$m$``, ``$value(m*g)$`` and the like put in from a draw."""

    def shown(span: re.Match[str]) -> str:
        try:
            tree = item.computed(read(span[1], item.question.settings))
            return line(tidy(substitute(tree, item.shown_values)))
        except NotationError:
            return span[0]

    return SPAN.sub(shown, response)


def pinned_draws(drawing: QuestionDrawing) -> list[tuple[DrawnQuestion, list[str]]]:
    """Every pinned draw, and what has broken it since it was pinned."""
    found = []
    for place in range(len(drawing.question.document.pins)):
        item, objections = drawing.pinned(place)
        failures = (answer.fault() for answer in item.answers if answer is not None)
        told = [f"the key fails its own check ({failure})" for failure in failures if failure]
        found.append((item, [*objections, *told]))
    return found


def question_warnings(question: CompiledQuestion, drawn: Sequence[DrawnQuestion]) -> list[Caution]:
    found = unmeant(question)
    count, share = question.parameters.count, question.parameters.share_kept
    if not question.document.parameters:
        found.append(Caution("fixed", "Nothing varies yet: every paper will have the same question."))
    elif count is not None and count < 30:
        found.append(Caution("few", f"Only {count} different draw{'' if count == 1 else 's'}; "
                             f"more forms than that will repeat numbers."))  # fmt: skip
    if share is not None and share < 0.05:
        found.append(Caution("rejecting", f"The conditions reject nearly everything: {share:.1%} is kept."))
    found += trial_warnings(question, drawn[:TRIED])
    for k, asked in enumerate(question.document.parts):
        for code, message in asked.answer.doubts(asked.marks):
            found.append(Caution(code, f"{part_label(question, k)}: {message}"))
    if question.document.parameters and len(drawn) > 1:
        for part in range(len(question.document.parts)):
            if not question.document.parts[part].answer.varied:
                continue
            keys = {line(tree) for item in drawn if (tree := item.key_tree(part)) is not None}
            if len(keys) == 1:
                found.append(Caution("same", f"{part_label(question, part)} is the same in every draw shown."))
    return found
