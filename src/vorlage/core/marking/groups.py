"""Groups of answers to one part across draws: equal are those that are the same relative to their own key.

A group is described by what decided, a slip, a band, a near-miss, an option, else by one wrong formula of the
parameters that gives all of its numbers, else by what was written: in the same draw by its value, words whatever the
draw.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any

from ..answers import NEAR_MISSES, RIGHT, Attempt, DrawnAnswer, Verdict
from ..mistakes import Claim, Observed, find_mistakes, observed
from ..notation import Name, Node, Quantity, substitute, walk
from ..questions import DrawnQuestion
from ..text import raised_apart

# Near-misses that say more than a formula would, and those that say less.
BEFORE_FORMULAS = ("angle_unit", "sign", "rounding", "truncation", "power_of_ten")
AFTER_FORMULAS = ("digit_swap", "digit")
# So long is the name of a group at most.
MOST_IN_KEY = 200
# Units stand in brackets in line maths, and beside their number where people read it.
BARE = str.maketrans("", "", "[]")
# A formula with more pieces than this is not looked into for what was done with it.
MOST_PIECES = 60
# What these verdicts were given for is one thing in every draw.
BY_RULE = {
    "slip": "slip",
    "band": "band",
    "written": "demand",
    "unit_missing": "unit",
    "unit": "unit",
    "dimension": "unit",
}


@dataclass(frozen=True, slots=True)
class Answered:
    """An answer to one part: the part as it was drawn, what was answered, and its verdict. ``draw`` is the same for
    those who had the same numbers."""

    draw: Hashable
    drawn: DrawnAnswer | None
    verdict: Verdict | None
    # what was chosen, by the texts of the document, in an order that does not depend on the draw; empty where one types
    chosen: str = ""
    # the answer as it was typed
    typed: str = ""


@dataclass(frozen=True, slots=True)
class Group:
    """Answers that are one answer: what kind of group it is, what they have in common in words, and their numbers.

    The kinds: ``right``, ``blank``, ``unreadable``, ``hand`` (at length), ``slip``, ``band``, ``demand``, ``unit``,
    ``near`` (a near-miss), ``formula`` (one formula of the parameters), ``option``, ``words``, ``value`` (the same in
    the same draw), ``one`` (like no other).
    """

    kind: str
    words: str
    members: tuple[int, ...]
    # the formula that gives all of them, where one does
    formula: str = ""
    # what tells it from the other groups of the part, in every class
    key: str = ""


def answered(drawn: DrawnQuestion, part: int, responses: Sequence[Any], draw: Hashable) -> Answered:
    """The answer to a part, from the answers to all parts of its question, with earlier ones carried on."""
    responses = ["" if each is None else each for each in responses]
    verdict = drawn.check(responses[: part + 1])[part]
    response = responses[part]
    typed = response if isinstance(response, str) else ""
    return Answered(draw, drawn.answers[part], verdict, chosen_words(drawn, part, response), typed)


def chosen_words(drawn: DrawnQuestion, part: int, response: Any) -> str:
    """What was chosen, as the document has it, so that it is the same in every draw; empty where nothing is offered."""
    offered = {label: text.source for label, text in drawn.offered(part)}
    if not offered or not response:
        return ""
    if isinstance(response, Mapping):
        pairs = [(offered.get(str(left), ""), offered.get(str(right), "")) for left, right in response.items()]
        return "; ".join(f"{left} – {right}" for left, right in sorted(pairs) if right)
    in_order = isinstance(response, str) and "," in response
    items = response if isinstance(response, list) else response.split(",")
    found = [offered.get(str(item).strip(), "") for item in items]
    return ", ".join(found if in_order else sorted(found))


def folded(text: str) -> str:
    """Words as they are compared: case, spaces, accents of width and what ends them forgiven.

    >>> folded("  The Anode. "), folded("the  anode")
    ('the anode', 'the anode')
    """
    plain = " ".join(unicodedata.normalize("NFKC", raised_apart(text)).split()).lower()
    return re.sub(r"[.!;,]+\Z", "", plain)


def key_formula(drawn: DrawnQuestion, part: int) -> tuple[Node, frozenset[str]] | None:
    """The formula of a part's key in what was drawn, parameters that are computed replaced by their formulas, and the
    names that it can speak of; None where it is none or is too long to be looked into."""
    question = drawn.question
    answer = question.document.parts[part].answer
    if not answer.numeric:
        return None
    tree = answer.key_as_read(question.settings)
    computed: dict[str, Node] = {
        name: found.formula for name, found in question.parameters.definitions.items() if found.formula is not None
    }
    for _ in range(8):
        names = {node.name for node in walk(tree) if isinstance(node, Name)} if tree is not None else set()
        if tree is None or sum(1 for _ in walk(tree)) > MOST_PIECES:
            return None
        if not names & computed.keys():
            known = frozenset({**drawn.values, **drawn.worked}.keys() - computed.keys())
            return tree, known | names
        tree = substitute(tree, computed)
    return None


def group_answers(
    answered: Sequence[Answered], formula: Node | None = None, angle: str = "radians",
    values: Sequence[Mapping[str, object]] = (),
) -> list[Group]:  # fmt: skip
    """The groups of answers to one part, the largest first; what is right last, for nobody has to look at it.

    ``formula`` is the key's, ``values`` those of each answer's draw, as far as a formula may speak of them.
    """
    described = [described_by_rule(each) for each in answered]
    rows = [
        observed(values[k], each.drawn, each.verdict)
        if values and described[k] is None and each.drawn is not None and each.verdict is not None
        else None
        for k, each in enumerate(answered)
    ]
    claims = claims_of(rows, formula, angle, values)
    explained = {k: claim for claim in reversed(claims) for k in claim.explains}
    found: dict[tuple[str, str, str], list[int]] = {}
    because: dict[tuple[str, str, str], str] = {}
    for k, each in enumerate(answered):
        place = described[k]
        if place is None and k in explained:
            place = "formula", explained[k].formula, ""
            because[place] = explained[k].because
        place = place or described_alone(each)
        found.setdefault(place, []).append(k)
    groups = [made(place, members, because.get(place, "")) for place, members in found.items()]
    return sorted(groups, key=lambda each: (each.kind == "right", -len(each.members), each.members))


def made(place: tuple[str, str, str], members: list[int], because: str) -> Group:
    kind, words, draw = place
    # what was typed may be long, and what tells groups apart stands in addresses
    key = f"{kind}:{words}:{draw}".rstrip(":")
    key = key if len(key) <= MOST_IN_KEY else f"{kind}:{blake2b(key.encode(), digest_size=12).hexdigest()}"
    if kind == "formula":
        return Group(kind, because, tuple(members), words, key)
    if kind in {"value", "words", "unreadable"} and len(members) == 1:
        kind = "one" if kind == "value" else kind
    return Group(kind, words, tuple(members), "", key)


def claims_of(
    rows: Sequence[Observed | None], formula: Node | None, angle: str, values: Sequence[Mapping[str, object]]
) -> list[Claim]:
    """The claims about what no rule describes, with the answers by their numbers among all."""
    if formula is None:
        return []
    numbers = [k for k, row in enumerate(rows) if row is not None]
    claims = find_mistakes(formula, angle, [row for row in rows if row is not None], values)
    return [Claim(each.formula, tuple(numbers[k] for k in each.explains), each.because) for each in claims]


def described_by_rule(each: Answered) -> tuple[str, str, str] | None:
    """What the rules of the question, or its options, say of an answer; None where they say no more than wrong."""
    verdict = each.verdict
    if verdict is None:
        return "hand", "", ""
    if verdict.outcome in {"blank", RIGHT}:
        return verdict.outcome, "", ""
    if verdict.outcome == "unreadable":
        return "unreadable", folded(each.typed), ""
    if verdict.outcome == "waiting":
        return "hand", folded(each.typed), ""
    if each.chosen:
        return "option", each.chosen, ""
    if verdict.code in BY_RULE:
        return BY_RULE[verdict.code], verdict.because, ""
    if verdict.code in NEAR_MISSES:
        return "near", NEAR_MISSES[verdict.code].words, ""
    return near_miss(each, BEFORE_FORMULAS)


def described_alone(each: Answered) -> tuple[str, str, str]:
    """What is left to say of an answer that neither a rule nor a formula describes."""
    verdict = each.verdict
    assert verdict is not None
    if near := near_miss(each, AFTER_FORMULAS):
        return near
    answer = each.drawn.specification if each.drawn is not None else None
    if answer is not None and not answer.line_maths:
        return "words", folded(each.typed), ""
    return "value", (verdict.reading or folded(each.typed)).translate(BARE), str(each.draw)


def near_miss(each: Answered, names: Sequence[str]) -> tuple[str, str, str] | None:
    """A near-miss of a number, whether or not its question looks for it."""
    number = each.drawn.number if each.drawn is not None else None
    verdict = each.verdict
    if number is None or verdict is None or verdict.value is None or isinstance(verdict.value, str | Node):
        return None
    tree = verdict.tree.amount if isinstance(verdict.tree, Quantity) else verdict.tree
    if tree is None:
        return None
    attempt = Attempt(verdict.value, tree, number.key, number.tolerance, number.other_angle)
    for name in names:
        if NEAR_MISSES[name].test(attempt):
            return "near", NEAR_MISSES[name].words, ""
    return None
