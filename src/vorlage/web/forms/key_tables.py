"""The keys of a frozen set as a table to take away: numbers are number cells."""

from __future__ import annotations

import re
from collections.abc import Iterator
from decimal import Decimal
from fractions import Fraction

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
                answer, unit = amount(key["key"])
                label = f"{position + 1} {part['label']}".strip()
                marks = Fraction(key["marks"])
                yield code, label, revision.title, answer, unit or key["after"], key["tolerance"], decimal(marks)


NUMBER = re.compile(r"(-?\d+(?:\.\d+)?)(?: \[(.*)\])?")


def amount(key: str) -> tuple[Cell, str]:
    """A key as a number, with as many places as it is printed with, and its unit; what is none as it is typed."""
    found = NUMBER.fullmatch(key)
    return (Decimal(found[1]), found[2] or "") if found else (key.strip('"'), "")


def decimal(value: Fraction) -> Decimal:
    """As a decimal, to as many figures as a spreadsheet keeps."""
    return Decimal(value.numerator) / Decimal(value.denominator)
