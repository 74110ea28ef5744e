"""What a question says that is already its answer: every span of maths on the sheet, put through the checker."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..algebra import equivalent, stripped
from ..answers import (
    DrawnAnswer,
    DrawnBlanks,
    DrawnNumber,
    DrawnQuantity,
    EquationAnswer,
    FormulaAnswer,
    InequalityAnswer,
    NumberAnswer,
    QuantityAnswer,
    Written,
    WrittenForm,
    lacking_form,
    unmet,
)
from ..notation import (
    Call,
    Chemical,
    Name,
    Node,
    NotationError,
    Number,
    Quantity,
    Relation,
    Text,
    line,
    names_in,
    read_authored,
    unsigned,
    walk,
)
from ..quantities import read_unit
from .drawn import DrawnQuestion

# Forms that could be asked for, the most telling first.
FORMS = ("factorised", "completed_square", "expanded", "lowest_terms", "single_fraction", "rationalised")
FORM_NAMES = {
    "factorised": "factorised", "completed_square": "completed square", "expanded": "multiplied out",
    "lowest_terms": "lowest terms", "single_fraction": "a single fraction", "rationalised": "no root below",
    "slope_intercept": "y = m x + c", "surd": "exact, with roots", "integer": "a whole number",
    "fraction": "a fraction", "decimal": "a decimal", "cartesian": "a + b i", "solved": "solved",
}  # fmt: skip
# Answers that are no numbers are tried in so many draws.
THOROUGH = 3
# Functions whose value is one of their arguments.
SELECTING = frozenset(["median", "min", "max", "quantile"])
# Kinds that are chosen and not typed are passed over.
TYPED = frozenset(
    "number quantity formula equation inequality interval set list point vector matrix conditions chemical text".split()
)


@dataclass(frozen=True, slots=True)
class Demand:
    """What could be asked of an answer: the part, words for it, and fields of its specification with their values."""

    part: int
    words: str
    changes: tuple[tuple[str, str], ...]


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
        for kind, gap, typed, label in typed_answers(item, k, answer):
            if not thorough and kind not in {"number", "quantity"}:
                continue
            which = f"{k} {gap} {line(typed.key_tree())}"
            for each in said:
                told = tried(item, k, kind, which, typed, label, each)
                if told is not None:
                    found.setdefault(told.message, told)
    return list(found.values())


def typed_answers(
    item: DrawnQuestion, part: int, answer: DrawnAnswer | None
) -> Iterator[tuple[str, int, DrawnAnswer, str]]:
    """The answers of a part that are typed: kind, which gap (0: no gap), answer, and its label."""
    specification = item.question.document.parts[part].answer
    label = item.question.document.labels[part].full or "The answer"
    if isinstance(answer, DrawnBlanks):
        for number, gap in enumerate(answer.gaps, start=1):
            kind = answer.answer.gaps[number - 1].answer.kind
            if kind in TYPED:
                yield kind, number, gap, f"{label}, gap {number}"
    elif answer is not None and specification.kind in TYPED:
        yield specification.kind, 0, answer, label


def tried(
    item: DrawnQuestion, part: int, kind: str, which: str, answer: DrawnAnswer, label: str, said: Said
) -> GivenAway | None:
    """What a span earns as an answer; None where it earns nothing."""
    for tree in pieces(said.shown):
        response = response_of(item, part, kind, tree)
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


def response_of(item: DrawnQuestion, part: int, kind: str, tree: Node) -> str | None:
    """A span as a student would copy it into the answer space; None where nobody would."""
    document = item.question.document.parts[part]
    if isinstance(tree, Text):
        return tree.text if kind == "text" else None
    if isinstance(tree, Chemical):
        return line(tree).removeprefix("chem: ") if kind in {"chemical", "text"} else None
    if kind in {"number", "quantity"} and names_in(tree):
        return None
    if isinstance(tree, Quantity):
        if kind == "quantity":
            return f"{line(tree.amount)} {tree.unit}"
        return line(tree.amount) if kind == "number" and same_unit(tree.unit, document.after) else None
    if kind == "quantity" or (kind == "number" and is_unit(document.after)):
        # a bare number beside an answer with a unit is another thing
        return None
    return line(tree)


def is_unit(text: str) -> bool:
    """Whether the words after the answer space are a unit with a dimension."""
    try:
        return bool(text) and bool(read_unit(text).dimension)
    except NotationError:
        return False


def same_unit(unit: str, after: str) -> bool:
    try:
        one, other = read_unit(unit), read_unit(after)
    except NotationError:
        return False
    return (one.dimension, one.factor, one.pi) == (other.dimension, other.factor, other.pi)


def condition(item: DrawnQuestion, part: int, answer: DrawnAnswer, written: Node, code: str) -> str:
    """The condition on the parameters that keeps a number in the text away from the answer; empty where none is
    seen."""
    specification = item.question.document.parts[part].answer
    number = answer.number if isinstance(answer, DrawnQuantity) else answer
    if not isinstance(specification, NumberAnswer | QuantityAnswer) or not isinstance(number, DrawnNumber):
        return ""
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
    if not right and getattr(specification, "share", None) is not None and has_demand(specification):
        return Demand(part, "Let another form earn nothing", (("share", "0"),))
    wanted = ""
    field = "form"
    key = stripped(answer.key_tree())
    if isinstance(specification, FormulaAnswer):
        wanted = next(
            (
                form
                for form in FORMS
                if lacking_form(key, key, form) is None and lacking_form(tree, key, form) is not None
            ),
            "",
        )
    elif isinstance(specification, EquationAnswer) and isinstance(key, Relation):
        subject = key.terms[0]
        if isinstance(subject, Name) and not specification.subject:
            return Demand(part, f"Ask for {subject.name} alone", (("subject", subject.name), ("share", "0")))
    elif isinstance(specification, InequalityAnswer) and specification.form == "any":
        wanted = "solved"
    elif isinstance(specification, NumberAnswer) and not specification.written:
        field = "written"
        ways: tuple[WrittenForm, ...] = ("integer", "fraction", "decimal", "surd")
        ways = ("cartesian",) if item.question.document.complex else ways
        wanted = next((way for way in ways if not unmet_by(key, way) and unmet_by(tree, way)), "")
    if not wanted:
        return None
    return Demand(part, f"Ask for the form {FORM_NAMES[wanted]}", ((field, wanted), ("share", "0")))


def unmet_by(tree: Node, way: WrittenForm) -> bool:
    return unmet(tree, Written(form=way)) is not None


def has_demand(specification: object) -> bool:
    """Whether a form or a way of writing is asked for already."""
    asked = getattr(specification, "form", "any") != "any" or bool(getattr(specification, "subject", ""))
    return asked or getattr(specification, "written", None) is not None
