"""Answers that are tried on the sheet, each in the answer space of its part."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field

from django.utils.safestring import SafeString

from vorlage.core.algebra import Compiled, EvaluationError, Value, approximate
from vorlage.core.answers import Verdict
from vorlage.core.notation import Collection, Drawn, Node, mathml
from vorlage.core.questions import DrawnQuestion
from vorlage.web.bank.markup import safe

from .ruler import RulerPicture, ruler_of
from .sheet import author_style

# A tried answer is no longer.
LONGEST_ANSWER = 4000


@dataclass(frozen=True)
class Tried:
    """What became of the answer that was tried in a part."""

    text: str = ""
    verdict: Verdict | None = None
    # how it was read
    reading: SafeString = field(default_factory=SafeString)
    ruler: RulerPicture | None = None
    # the key that the answers tried in earlier parts lead to
    carried: SafeString = field(default_factory=SafeString)
    earlier: tuple[str, ...] = ()
    # the places in a figure that it names, as JSON
    places: str = ""

    @property
    def before(self) -> str:
        """The answers that were tried before, a line each."""
        return "\n".join(self.earlier)


def tried_on(
    drawn: DrawnQuestion, tried: Mapping[str, str], earlier: Mapping[str, tuple[str, ...]], active: str
) -> dict[str, Tried]:
    """What became of the answers tried in a draw, by the identities of the parts. What is tried in a part that gives
    its answer to later ones is carried on to them; the part that is worked on has its ruler without an answer."""
    found: dict[str, Tried] = {}
    given: dict[str, Value] = {}
    for k, part in enumerate(drawn.question.document.parts):
        text, before = tried.get(part.id, "")[:LONGEST_ANSWER], earlier.get(part.id, ())
        verdict = drawn.verdict(k, text, given) if text.strip() else None
        carried = carried_key(drawn, k, given) if verdict is not None else SafeString()
        ruler = ruler_of(drawn, k, verdict, before) if verdict is not None or part.id == active else None
        tree = verdict.tree if verdict is not None else None
        reading = safe(mathml(tree, drawn.question.style)) if tree is not None else SafeString()
        if verdict is not None or ruler is not None or before:
            places = places_of(tree) if part.answer.pointed else ""
            found[part.id] = Tried(text, verdict, reading, ruler, carried, before, places)
        name = drawn.question.given[k]
        if name and verdict is not None and verdict.value is not None:
            given[name] = verdict.value
    return found


def places_of(tree: Node | None) -> str:
    """The coordinates of a place, or of several, as JSON."""
    points = tree.items if isinstance(tree, Collection) and tree.kind == "list" else (tree,)
    found = []
    for point in points:
        if isinstance(point, Collection) and point.kind == "point":
            found.append([approximate(Compiled(each).value({})) for each in point.items])
    return json.dumps(found) if found else ""


def carried_key(drawn: DrawnQuestion, part: int, given: Mapping[str, Value]) -> SafeString:
    """The key of a part with the answers that were given before it, where it uses one of them."""
    checker = drawn.question.checkers[part]
    if checker is None or not drawn.question.uses[part] & given.keys():
        return SafeString()
    try:
        tree = checker.drawn({**drawn.values, **drawn.worked, **given}).key_tree()
    except EvaluationError:
        return SafeString()
    return safe(mathml(Drawn(tree, "key"), author_style(drawn.question))) if tree is not None else SafeString()
