"""Marking: what every answer of a student earns and by which rule, and what it comes to.

Marks are exact; they are rounded where they are shown, once, half up.
"""

from .classes import FEWEST, ClassResult, class_result
from .records import RULES_VERSION, PartMark, mark_of, marked, waits, went, with_hints
from .totals import Total, total_of

__all__ = [
    "FEWEST",
    "RULES_VERSION",
    "ClassResult",
    "PartMark",
    "Total",
    "class_result",
    "mark_of",
    "marked",
    "total_of",
    "waits",
    "went",
    "with_hints",
]
