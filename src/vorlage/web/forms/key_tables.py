"""The keys of a frozen set as a table to take away: numbers are number cells."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from fractions import Fraction

from vorlage.core.notation import Neg, Node, NotationError, Number, Quantity, Settings, read
from vorlage.web.files.tables import Cell

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


def amount(key: str) -> tuple[Cell, str]:
    """A key as a number with its unit where it is one, and else as it is typed."""
    try:
        tree: Node = read(key, Settings())
    except NotationError:
        return key.strip('"'), ""
    unit = tree.unit if isinstance(tree, Quantity) else ""
    tree = tree.amount if isinstance(tree, Quantity) else tree
    inside = tree.operand if isinstance(tree, Neg) else tree
    if not isinstance(inside, Number):
        return key.strip('"'), ""
    return decimal(-inside.value if isinstance(tree, Neg) else inside.value), unit


def decimal(value: Fraction) -> Decimal:
    """As a decimal, to as many figures as a spreadsheet keeps."""
    return Decimal(value.numerator) / Decimal(value.denominator)
