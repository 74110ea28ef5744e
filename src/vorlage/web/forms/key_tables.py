"""The keys of a frozen set as a table to take away: numbers are number cells."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from fractions import Fraction

from vorlage.core.forms import plain_amount
from vorlage.web.design.tables import Cell

from .models import FormSet, ItemKey

HEADS = ("Form", "Question", "Title", "Answer", "Unit", "Accepted", "Marks")


def key_rows(found: FormSet) -> Iterator[tuple[Cell, ...]]:
    """A row for every answer of every form, as they stand on its paper, below the heads of the columns."""
    yield HEADS
    revisions = {each.pk: each.revision for place in found.ordered for each in place.all_candidates}
    keys = ItemKey.objects.filter(item__form__form_set=found).order_by("item__form__position", "item__position")
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


def decimal(value: Fraction) -> Decimal:
    """As a decimal, to as many figures as a spreadsheet keeps."""
    return Decimal(value.numerator) / Decimal(value.denominator)
