"""The answers to one part of a question in a sitting: each beside the key of its own draw, in groups across draws.

Working them out takes some milliseconds an answer, so they are kept until an answer comes or goes.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from django.db.models import Count, Max

from vorlage.core.algebra import approximate
from vorlage.core.answers import stretch
from vorlage.core.marking import RULES_VERSION, Answered, Group, answered, group_answers, key_formula
from vorlage.core.notation import Node, mathml
from vorlage.core.questions import DrawnQuestion, FrozenDraw
from vorlage.web.forms.models import FormItem, FormSetCandidate
from vorlage.web.sittings.marking import said
from vorlage.web.sittings.models import Response, Similar, Sitting, Taking
from vorlage.web.sittings.questions import answers_in, drawn_item, drawn_of

from .models import Grouped

# The version of what is worked out here: another one makes what was kept out of date.
WORKED = 2
# So far from the key, in widths of the tolerance, answers have their own place on the ruler.
REACH = 4.0


@dataclass(frozen=True, slots=True)
class Entry:
    """An answer: whose, where it stands on their form, as it was given and as it was read, and the key of its draw.

    ``read`` and ``key`` are markup. ``off`` is how far it is from the key, in widths of the tolerance, where it is a
    number; ``near`` how far in per cent of the key.
    """

    taking: int
    position: int
    typed: str
    read: str
    key: str
    outcome: str
    off: float | None = None
    near: float | None = None

    @property
    def place(self) -> str:
        """Its name in an address."""
        return f"{self.taking}-{self.position}"


@dataclass(frozen=True)
class Column:
    """All answers to a part, in an order that tells nothing of whose they are, and their groups by their places."""

    entries: Sequence[Entry]
    groups: Sequence[Group] = field(default_factory=tuple)

    def group(self, key: str) -> Group | None:
        return next((each for each in self.groups if each.key == key), None)


def takings_in(sitting: Sitting) -> list[Taking]:
    """The attempts that are handed in and have a form; what teachers tried is not among them."""
    found = sitting.takings.counted().exclude(handed_in=None).exclude(form=None)
    return list(found.select_related("student", "form").order_by("pk"))


def version_of(sitting: Sitting) -> str:
    """What tells whether answers have come or gone since something was worked out."""
    handed_in = sitting.takings.counted().exclude(handed_in=None)
    counts = handed_in.aggregate(Count("pk"), Max("handed_in"))
    last = Response.objects.filter(taking__in=handed_in, counts=True).aggregate(last=Max("pk"))["last"]
    told = [WORKED, RULES_VERSION, counts["pk__count"], counts["handed_in__max"], last, sitting.changed.get("answers")]
    return hashlib.blake2b(json.dumps(told, default=str, sort_keys=True).encode(), digest_size=20).hexdigest()


def column_of(sitting: Sitting, candidate: FormSetCandidate, part: str) -> Column:
    """The answers to a part, as they are kept; worked out anew, for all parts of the question, where they changed."""
    version = version_of(sitting)
    kept = Grouped.objects.filter(sitting=sitting, candidate=candidate, part=part).first()
    if kept is None or kept.version != version:
        for found in worked_out(sitting, candidate, version):
            Grouped.objects.update_or_create(
                sitting=sitting, candidate=candidate, part=found.part,
                defaults={"version": version, "entries": found.entries, "groups": found.groups},
            )  # fmt: skip
            kept = found if found.part == part else kept
    if kept is None:
        return Column([])
    entries = [Entry(**each) for each in kept.entries]
    return Column(entries, [Group(**{**each, "members": tuple(each["members"])}) for each in kept.groups])


@dataclass(frozen=True)
class Had:
    """A question as a student had it, with their answers to its parts."""

    taking: Taking
    position: int
    drawn: DrawnQuestion
    # what tells its numbers from those of other draws
    draw: tuple[int, str]
    responses: Sequence[Any]


def numbers_of(draw: FrozenDraw) -> str:
    """What was drawn, so that it is the same for whoever has the same numbers: they may have been drawn twice."""
    return json.dumps(draw.values, sort_keys=True, default=str)


def had_by_all(sitting: Sitting, candidate: FormSetCandidate, changed: Mapping[str, Any] | None = None) -> list[Had]:
    """A question as all who handed in had it, those who had it as a similar one among them; with ``changed`` in place
    of what was changed of the sitting."""
    takings = takings_in(sitting)
    items = FormItem.objects.filter(candidate=candidate, form__in={each.form_id for each in takings})
    by_form: dict[int, list[FormItem]] = {}
    for item in items.select_related("form__form_set", "candidate"):
        by_form.setdefault(item.form_id, []).append(item)
    similar: dict[int, list[Similar]] = {}
    if sitting.held.similar:
        for row in Similar.objects.filter(candidate=candidate, taking__in=takings):
            similar.setdefault(row.taking_id, []).append(row)
    changed = sitting.changed if changed is None else changed
    answers, other = answers_of(takings), answers_in(changed).get(candidate.pk)
    drawn: dict[int, DrawnQuestion] = {}
    found = []
    for taking in takings:
        places: list[tuple[int, DrawnQuestion, str]] = []
        for item in by_form.get(taking.form_id or 0, ()):
            # many may have the same form
            if item.pk not in drawn:
                drawn[item.pk] = drawn_item(item, other)
            places.append((item.position, drawn[item.pk], numbers_of(item.frozen_draw)))
        for row in similar.get(taking.pk, ()):
            if row.form_id == taking.form_id:
                question = drawn_of(sitting.form_set, candidate.revision_id, row.frozen_draw, other)
                places.append((row.position, question, numbers_of(row.frozen_draw)))
        for position, question, draw in places:
            own = answers.get(taking.pk, {})
            parts = question.question.document.parts
            given = [own.get((position, each.id)) for each in parts]
            found.append(Had(taking, position, question, (candidate.revision_id, draw), given))
    return sorted(found, key=lambda each: mixed(candidate.pk, each.taking.pk, each.position))


def answers_of(takings: Sequence[Taking]) -> dict[int, dict[tuple[int, str], Any]]:
    """The answers that count, by attempt, question and part."""
    since = {each.pk: each.since for each in takings}
    rows = Response.objects.filter(taking__in=takings, counts=True).order_by("taking_id", "position", "part", "-pk")
    found: dict[int, dict[tuple[int, str], Any]] = {}
    last = rows.distinct("taking_id", "position", "part").values_list("pk", "taking", "position", "part", "response")
    for pk, taking, position, part, response in last:
        if pk > since[taking]:
            found.setdefault(taking, {})[position, part] = response
    return found


def mixed(*what: int) -> bytes:
    """An order that tells nothing, and is the same for everybody who marks."""
    return hashlib.blake2b(repr(what).encode(), digest_size=8).digest()


def worked_out(sitting: Sitting, candidate: FormSetCandidate, version: str) -> list[Grouped]:
    """The answers to every part of a question, with their keys and groups."""
    had = had_by_all(sitting, candidate)
    if not had:
        return []
    first = had[0].drawn
    found = []
    for k, part in enumerate(first.question.document.parts):
        if not part.answer.asks:
            continue
        rows = [answered(each.drawn, k, each.responses, each.draw) for each in had]
        groups = grouped(had, k, rows)
        entries = [entry_of(each, k, row) for each, row in zip(had, rows)]
        found.append(
            Grouped(
                sitting=sitting, candidate=candidate, part=part.id, version=version,
                entries=[asdict(each) for each in entries], groups=[asdict(each) for each in groups],
            )
        )  # fmt: skip
    return found


def grouped(had: Sequence[Had], part: int, rows: Sequence[Answered]) -> list[Group]:
    formula = key_formula(had[0].drawn, part)
    if formula is None:
        return group_answers(rows)
    tree, names = formula
    values = [
        {name: value for name, value in {**each.drawn.values, **each.drawn.worked}.items() if name in names}
        for each in had
    ]
    return group_answers(rows, tree, had[0].drawn.question.settings.angle, values)


def entry_of(had: Had, part: int, row: Answered) -> Entry:
    style = had.drawn.question.style
    tree, verdict = had.drawn.key_tree(part), row.verdict
    after = had.drawn.question.document.parts[part].printed_after
    read = mathml(verdict.tree, style) if verdict is not None and isinstance(verdict.tree, Node) else ""
    off, near = distance(row)
    key = f"{mathml(tree, style)} {after}".strip() if tree is not None else ""
    response = had.responses[part]
    typed = row.chosen or said(response)
    outcome = verdict.outcome if verdict is not None else "waiting"
    return Entry(had.taking.pk, had.position, typed, read, key, outcome, off, near)


def distance(row: Answered) -> tuple[float | None, float | None]:
    """How far a number is from its key: in widths of the tolerance, and in per cent of the key."""
    number = row.drawn.number if row.drawn is not None else None
    verdict = row.verdict
    if number is None or verdict is None or verdict.value is None or isinstance(verdict.value, str | Node):
        return None, None
    key, answer = approximate(number.key), approximate(verdict.value)
    admitted = stretch(number.key, number.tolerance, "1")
    width = (admitted.high - admitted.low) / 2 or abs(key) / 100 or 1.0
    off = max(-REACH, min(REACH, (answer - key) / width))
    return round(off, 3), round(100 * abs(answer - key) / abs(key), 3) if key else None
