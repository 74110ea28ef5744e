"""A question with other marks: those of its parts, scaled exactly."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from ..answers import plain_marks
from .document import QuestionDocument


def worth(document: QuestionDocument, marks: Decimal) -> QuestionDocument | None:
    """The question with these marks altogether, shared among its parts as they are now; None where that cannot be done
    with two decimal places, or nothing of it earns marks.

    >>> from .document import load_document
    >>> part = {"answer": {"kind": "true_false", "key": "true"}}
    >>> two = load_document({"title": "Two", "parts": [{**part, "marks": 1}, {**part, "marks": 2}]})
    >>> [str(part.marks) for part in worth(two, Decimal("4.5")).parts], worth(two, Decimal(4))
    (['1.5', '3'], None)
    """
    total = document.marks
    if not total:
        return None
    factor = Fraction(marks) / Fraction(total)
    parts = []
    for part in document.parts:
        scaled = Fraction(part.marks) * factor
        if (scaled * 100).denominator != 1 or scaled > 100:
            return None
        exact = plain_marks(Decimal(scaled.numerator) / Decimal(scaled.denominator))
        parts.append(part.model_copy(update={"marks": exact}))
    return document.model_copy(update={"parts": tuple(parts)})
