"""The keys of a frozen set as a table to take away: numbers are number cells."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from fractions import Fraction

from vorlage.core.forms import plain_amount
from vorlage.core.plans import Boundaries
from vorlage.web.design.tables import Cell

from .models import FormSet, ItemKey

HEADS = ("Form", "Question", "Title", "Answer", "Unit", "Accepted", "Marks")


def key_rows(found: FormSet, code: str = "") -> Iterator[tuple[Cell, ...]]:
    """A row for every answer of every form, or of the one with this code, as they stand on its paper, below the heads
    of the columns."""
    yield HEADS
    revisions = {each.pk: each.revision for place in found.ordered for each in place.all_candidates}
    keys = ItemKey.objects.filter(item__form__form_set=found).order_by("item__form__position", "item__position")
    keys = keys.filter(item__form__code=code) if code else keys
    where = keys.values_list("item__form__code", "item__position", "item__candidate", "parts")
    for code, position, candidate, parts in where.iterator(chunk_size=500):
        revision = revisions[candidate]
        for part, key in zip(revision.parts, parts):
            if key["key"]:
                amount = plain_amount(key["key"])
                answer, unit = (Decimal(amount[0]), amount[1]) if amount else (key["key"].strip('"'), "")
                label = f"{position + 1} {part['label']}".strip()
                marks = Fraction(key["marks"])
                yield code, label, revision.title, answer, unit or key["after"], key["tolerance"], decimal(marks)


def boundary_rows(found: FormSet) -> Iterator[tuple[Cell, ...]]:
    """A row for every grade: from which share of the marks on it is given, and from how many; none without grades."""
    total = Fraction(found.maximum) if found.maximum else sum((each.counted for each in found.ordered), Fraction(0))
    for number, grade in enumerate(Boundaries.of(found.boundaries).grades(total)):
        if not number:
            yield "Grade", "From per cent", f"From marks, of {decimal(total):f}"
        yield grade.name, decimal(grade.share * 100), decimal(grade.marks)


def decimal(value: Fraction) -> Decimal:
    """As a decimal, to as many figures as a spreadsheet keeps."""
    return Decimal(value.numerator) / Decimal(value.denominator)
