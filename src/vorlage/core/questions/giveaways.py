"""What a question says that is already its answer: every span of maths on the sheet, put through the checker."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ..algebra import equivalent, stripped
from ..answers import Answer, DrawnAnswer
from ..budget import charge
from ..notation import (
    Call,
    Name,
    Node,
    NotationError,
    Number,
    Relation,
    line,
    names_in,
    read_authored,
    unsigned,
    walk,
)
from .drawn import DrawnQuestion

# Answers that are no numbers are tried in so many draws.
THOROUGH = 3
# What trying a span as an answer takes at least, in steps.
STEPS_OF_COPYING = 100
# Functions whose value is one of their arguments.
SELECTING = frozenset(["median", "min", "max", "quantile"])


@dataclass(frozen=True, slots=True)
class Demand:
    """What could be asked of an answer: the part, words for it, and fields of its specification with the values that
    they would have, as JSON."""

    part: int
    words: str
    changes: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class GivenAway:
    """A span that earns marks as it stands: what is said, a condition that ends it, or what could be asked for."""

    message: str
    cure: str = ""
    demand: Demand | None = None
    # the same for all draws in which the same span of the same text earns something
    alike: str = ""


@dataclass(frozen=True, slots=True)
class Said:
    """A span on the sheet: where it stands, as it was written, and with the values of a draw."""

    where: str
    written: Node
    shown: Node


def said_on_sheet(item: DrawnQuestion) -> Iterator[Said]:
    """Every span of maths that a student reads before answering."""
    question = item.question
    for where, text in question.sheet_texts:
        for tree in text.trees.values():
            yield Said(where, tree, item.shown(tree))
    for name, figure in question.figures.items():
        for tree in figure.spoken_labels:
            yield Said(f"figure {name}", tree, item.shown(tree))


def given_away(item: DrawnQuestion, thorough: bool = True) -> list[GivenAway]:
    """The spans that earn marks when they are typed as an answer. Only numbers are tried unless ``thorough``."""
    said = list(said_on_sheet(item))
    found: dict[str, GivenAway] = {}
    for k, answer in enumerate(item.answers):
        for specification, gap, typed, label in typed_answers(item, k, answer):
            if not thorough and not specification.numeric:
                continue
            which = f"{k} {gap} {line(typed.key_tree())}"
            for each in said:
                told = tried(item, k, specification, which, typed, label, each)
                if told is not None:
                    found.setdefault(told.message, told)
    return list(found.values())


def typed_answers(
    item: DrawnQuestion, part: int, answer: DrawnAnswer | None
) -> Iterator[tuple[Answer, int, DrawnAnswer, str]]:
    """The answers of a part that are typed: specification, which gap (0: no gap), answer, and its label."""
    if answer is None:
        return
    label = item.question.document.labels[part].full or "The answer"
    within = answer.inner() or [(0, item.question.document.parts[part].answer, answer)]
    for number, specification, drawn in within:
        if specification.typed and specification.checked:
            yield specification, number, drawn, f"{label}, gap {number}" if number else label


def tried(
    item: DrawnQuestion, part: int, specification: Answer, which: str, answer: DrawnAnswer, label: str, said: Said
) -> GivenAway | None:
    """What a span earns as an answer; None where it earns nothing."""
    after = item.question.document.parts[part].after
    for tree in pieces(said.shown):
        charge(STEPS_OF_COPYING)
        response = specification.copied(tree, after)
        if response is None:
            continue
        verdict = item.question.tried(answer, which, response)
        if verdict.share > 0 and not is_selected(item, part, said.written):
            right = verdict.share == 1
            earns = "is itself the answer" if right else f"earns {verdict.share} of the marks as it stands"
            cure = condition(item, part, answer, said.written, verdict.code)
            copied = verdict.tree if isinstance(verdict.tree, Node) else tree
            demand = None if cure else demanded(item, part, answer, copied, right)
            message = f"{label}: {line(stripped(tree))} in {said.where} {earns}{told(demand)}"
            return GivenAway(message, cure, demand, f"{label} {said.where} {line(said.written)} {cure}")
    return None


def is_selected(item: DrawnQuestion, part: int, written: Node) -> bool:
    """Whether an answer picks one of the values in the text, such as their median: it cannot but stand there."""
    key = getattr(item.question.document.parts[part].answer, "key", "")
    try:
        tree = read_authored(key, item.question.settings)
    except NotationError:
        return False
    picks = [node for node in walk(tree) if isinstance(node, Call) and node.function in SELECTING]
    return any(names_in(written) <= names_in(node) for node in picks)


def told(demand: Demand | None) -> str:
    return f": {demand.words[0].lower()}{demand.words[1:]}." if demand else "."


def pieces(tree: Node) -> list[Node]:
    """A span, and the sides of an equation, which a student may copy alone; not the 0 of every equation."""
    if isinstance(tree, Relation) and set(tree.signs) <= {"=", "≈"}:
        return [
            stripped(tree),
            *(stripped(term) for term in tree.terms if not isinstance(unsigned(term), Name | Number)),
        ]
    return [stripped(tree)]


def condition(item: DrawnQuestion, part: int, answer: DrawnAnswer, written: Node, code: str) -> str:
    """The condition on the parameters that keeps a number in the text away from the answer; empty where none is
    seen."""
    if not item.question.document.parts[part].answer.numeric or answer.number is None:
        return ""
    specification = answer.number.checker.answer
    names = names_in(written)
    if not names or not names <= item.values.keys() or item.question.uses[part]:
        return ""
    if any(isinstance(node, Call) and node.function == "value" for node in walk(written)):
        return ""
    key, said = specification.key, line(written)
    settings = item.question.settings
    if code == "slip" or equivalent(read_authored(key, settings), written, (), settings.angle).holds:
        return ""
    mode, amount = specification.tolerance.mode, specification.tolerance.value
    widest = [band.tolerance for band in specification.bands] if code == "band" else []
    for each in widest:
        mode, amount = each.mode, each.value
    if mode == "relative":
        return f"abs({key} - {said}) > {amount}*abs({key})"
    if mode == "absolute":
        return f"abs({key} - {said}) > {amount}"
    if mode == "decimal_places":
        return f"abs({key} - {said}) > 10^-{amount}"
    return f"{key} != {said}"


def demanded(item: DrawnQuestion, part: int, answer: DrawnAnswer, tree: Node, right: bool) -> Demand | None:
    """What could be asked for so that the span does not do; None where nothing is seen."""
    specification = item.question.document.parts[part].answer
    found = None if right else specification.lenient()
    found = found or specification.demand(stripped(answer.key_tree()), tree, item.question.settings)
    return None if found is None else Demand(part, found.words, found.changes)
