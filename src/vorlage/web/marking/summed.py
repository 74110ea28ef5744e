"""What everybody reached in each section and under each topic."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from vorlage.core.marking import earned, sum_of
from vorlage.web.bank.models import Filed
from vorlage.web.design.tables import Cell
from vorlage.web.sittings.models import Sitting

from .results import Result, Results, exact


@dataclass(frozen=True)
class Share:
    """A part of the test that has a total of its own: its name, and which of the asked parts are in it."""

    name: str
    parts: frozenset[int]


def shares_of(sitting: Sitting, found: Results) -> list[Share]:
    """The sections and topics of a sitting, where there are several of them."""
    sections: dict[str, set[int]] = {}
    topics: dict[str, set[int]] = {}
    titles = {
        each.pk: each.section.title or f"section {each.section.position + 1}"
        for each in sitting.form_set.places.select_related("section")
    }
    questions = {each.candidate.revision.question_id for each in found.asked}
    first: dict[int, str] = {}
    for filed in Filed.objects.filter(question__in=questions).select_related("topic"):
        first.setdefault(filed.question_id, filed.topic.name)
    for k, each in enumerate(found.asked):
        sections.setdefault(titles[each.candidate.place_id], set()).add(k)
        if topic := first.get(each.candidate.revision.question_id):
            topics.setdefault(topic, set()).add(k)
    return [
        Share(name, frozenset(parts)) for among in (sections, topics) if len(among) > 1 for name, parts in among.items()
    ]


def sums_of(row: Result, shares: Sequence[Share], sitting: Sitting) -> list[tuple[Fraction, Fraction] | None]:
    """What somebody reached in each, out of how many marks, before anything is scaled; None where they had none."""
    counting = sitting.counted_by
    had = {
        k: (earned(mark.held, counting).marks, Fraction(0) if mark.beyond else mark.held.most)
        for k, mark in enumerate(row.marks)
        if mark is not None
    }
    own = [[had[k] for k in share.parts if k in had] for share in shares]
    return [(sum_of(of for of, _ in each), sum_of(of for _, of in each)) if each else None for each in own]


def summed_table(sitting: Sitting, found: Results, named: bool) -> list[list[Cell]]:
    """A row for everybody, with what they reached in each section and topic and out of how many; no rows where the test
    has one of each. Without names in an order that tells nothing."""
    shares = shares_of(sitting, found)
    if not shares:
        return []
    rows: Sequence[Result] = found.rows if named else sorted(found.rows, key=lambda row: row.taking.receipt)
    head: list[Cell] = ["Student" if named else "Number"]
    table = [head + [words for each in shares for words in (each.name, f"{each.name}, out of")]]
    for number, row in enumerate(rows, start=1):
        cells: list[Cell] = [row.taking.who if named else str(number)]
        for sums in sums_of(row, shares, sitting):
            cells += ["", ""] if sums is None else [exact(sums[0]), exact(sums[1])]
        table.append(cells)
    return table
