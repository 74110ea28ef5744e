"""How far the marking of a sitting is: by question, by student, by form; and what needs an eye."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from django.db.models import QuerySet

from vorlage.core.answers import KINDS
from vorlage.core.plans import numbers_in
from vorlage.web.forms.models import FormItem, FormSetCandidate
from vorlage.web.sittings.models import Mark, Similar, Sitting, Taking
from vorlage.web.sittings.releasing import open_marks

from .columns import Column, takings_in
from .models import SentToAnEye

# What is looked at first comes first.
REASONS = {
    "unreadable": "cannot be read", "waiting": "waits for a mark", "agrees": "agrees and is not proved",
    "near": "near the key and outside the tolerance",
}  # fmt: skip
OUTCOMES = ("right", "partly", "wrong", "blank", "unreadable", "waiting")


@dataclass(frozen=True, slots=True)
class Row:
    """The mark of an answer, as much of it as lists need."""

    taking: int
    position: int
    part: str
    outcome: str
    certainty: str
    by: int | None
    marks: Fraction
    most: Fraction


def last_marks(takings: Iterable[Taking]) -> list[Row]:
    """The last mark of every answer of these attempts."""
    latest = Mark.objects.filter(taking__in=[each.pk for each in takings])
    latest = latest.order_by("taking_id", "position", "part", "-pk").distinct("taking_id", "position", "part")
    columns = latest.values_list("taking", "position", "part", "outcome", "certainty", "by", "marks", "most")
    return [
        Row(taking, position, part, outcome, certainty, by, Fraction(marks), Fraction(most))
        for taking, position, part, outcome, certainty, by, marks, most in columns.iterator()
    ]


@dataclass
class Asked:
    """A part of a question of a sitting, and how far its answers are marked."""

    candidate: FormSetCandidate
    number: str
    title: str
    label: str
    part: str
    kind: str
    most: Fraction = Fraction(0)
    counts: Counter[str] = field(default_factory=Counter)
    reached: Fraction = Fraction(0)
    eye: int = 0

    @property
    def name(self) -> str:
        """How it is spoken of: ``3 (b)``."""
        return f"{self.number} {self.label}".strip()

    @property
    def count(self) -> int:
        return sum(self.counts.values())

    @property
    def marked(self) -> int:
        return self.count - self.counts["waiting"]

    @property
    def mean(self) -> Fraction | None:
        """The mean share of those that are marked."""
        return self.reached / self.marked if self.marked else None

    @property
    def stretches(self) -> list[tuple[str, int, float, float]]:
        """Outcome, count, and from where to where it goes on a line of 100."""
        found, at = [], 0.0
        for outcome in OUTCOMES:
            if count := self.counts[outcome]:
                width = 100 * count / self.count
                found.append((outcome, count, round(at, 2), round(width, 2)))
                at += width
        return found


def asked_in(sitting: Sitting) -> list[Asked]:
    """The parts of the questions of a sitting that are answered, in the order of the plan."""
    places = sitting.form_set.places.order_by("position").prefetch_related(
        "candidates__revision__question", "candidates__place"
    )
    found = []
    for place, numbers in zip(places, numbers_in((each.take, len(each.all_candidates)) for each in places)):
        for candidate, called in zip(place.all_candidates, numbers):
            for part in candidate.revision.parts:
                if KINDS[part["kind"]].document.marked:
                    title = candidate.revision.title
                    found.append(Asked(candidate, called, title, part["label"], part["id"], part["kind"]))
    return found


def candidates_at(sitting: Sitting, takings: Sequence[Taking]) -> Mapping[tuple[int, int], int]:
    """Which question stands where, by attempt and position."""
    forms = {each.form_id for each in takings}
    items: dict[int, list[tuple[int, int]]] = {}
    for form, position, candidate in FormItem.objects.filter(form__in=forms).values_list(
        "form", "position", "candidate"
    ):
        items.setdefault(form, []).append((position, candidate))
    found = {(each.pk, position): to for each in takings for position, to in items.get(each.form_id or 0, ())}
    if sitting.held.similar:
        rows = Similar.objects.filter(taking__in=takings).values_list("taking", "position", "candidate")
        found |= {(taking, position): candidate for taking, position, candidate in rows}
    return found


def sent(sitting: Sitting) -> SentToAnEye:
    """What is sent to an eye in a sitting."""
    return SentToAnEye.objects.filter(sitting=sitting).first() or SentToAnEye(sitting=sitting)


def needs_eye(outcome: str, certainty: str, by: int | None, rule: SentToAnEye, near: float | None = None) -> str:
    """Why somebody has to look at an answer, by ``REASONS``; empty where nobody has to."""
    if outcome == "waiting":
        return "waiting"
    if by is not None:
        return ""
    if outcome == "unreadable":
        return "unreadable"
    if rule.agrees and certainty == "agrees":
        return "agrees"
    close = rule.near is not None and near is not None and near <= rule.near
    return "near" if close and outcome in {"wrong", "partly"} else ""


@dataclass
class Whole:
    """A sitting by question, by student and by form."""

    asked: list[Asked]
    takings: list[Taking]
    eye: Counter[str]
    # by attempt: what waits, and what of the marks is there so far
    waiting: Counter[int]
    reached: dict[int, Fraction]
    most: dict[int, Fraction]
    # the answers of each attempt that need an eye: question, part and place on the form
    open: dict[int, list[tuple[int, str, int]]]


def overview(sitting: Sitting, columns: Mapping[tuple[int, str], Column] | None = None) -> Whole:
    """How far the marking is; ``columns``, as far as they are worked out, say which answers are near their keys."""
    takings = takings_in(sitting)
    rule, where = sent(sitting), candidates_at(sitting, takings)
    asked = asked_in(sitting)
    by_part = {(each.candidate.pk, each.part): each for each in asked}
    near = {
        (entry.taking, entry.position, part): entry.near
        for (_, part), column in (columns or {}).items()
        for entry in column.entries
        if entry.near is not None
    }
    whole = Whole(asked, takings, Counter(), Counter(), {}, {}, {})
    for row in last_marks(takings):
        candidate = where.get((row.taking, row.position), 0)
        found = by_part.get((candidate, row.part))
        if found is None:
            continue
        found.counts[row.outcome] += 1
        found.most = row.most
        if row.outcome != "waiting" and row.most:
            found.reached += row.marks / row.most
        whole.reached[row.taking] = whole.reached.get(row.taking, Fraction(0)) + row.marks
        whole.most[row.taking] = whole.most.get(row.taking, Fraction(0)) + row.most
        # of a survey there is nothing to mark
        reason = row.most and needs_eye(
            row.outcome, row.certainty, row.by, rule, near.get((row.taking, row.position, row.part))
        )
        if reason:
            found.eye += 1
            whole.eye[reason] += 1
            whole.waiting[row.taking] += 1
            whole.open.setdefault(row.taking, []).append((candidate, row.part, row.position))
    order = {(each.candidate.pk, each.part): k for k, each in enumerate(asked)}
    for own in whole.open.values():
        own.sort(key=lambda each: (each[2], order[each[0], each[1]]))
    return whole


def waiting_counts(sittings: QuerySet[Sitting]) -> dict[int, tuple[int, int]]:
    """How many answers wait and how many cannot be read, by sitting."""
    found: dict[int, list[int]] = {}
    for sitting, outcome in open_marks(sittings).values_list("taking__sitting", "outcome"):
        found.setdefault(sitting, [0, 0])[outcome == "unreadable"] += 1
    return {sitting: (waiting, unreadable) for sitting, (waiting, unreadable) in found.items()}
