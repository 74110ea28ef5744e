"""Marking: what every answer of a student earns and by which rule, and what it comes to.

Marks are exact; they are rounded where they are shown, once, half up.
"""

from .attempts import NO_TRY, best_of_times, best_of_tries, best_question, is_settled, share_of, that_counts, tries_used
from .by_hand import MarkRefused, read_given_marks
from .classes import FEWEST, ClassResult, class_result
from .groups import Answered, Group, answered, folded, group_answers, key_formula
from .records import RULES_VERSION, PartMark, less, mark_of, marked, went
from .totals import STOPS, Counted, Counting, Total, earned, sum_of, total_of

__all__ = [
    "FEWEST",
    "NO_TRY",
    "RULES_VERSION",
    "STOPS",
    "Answered",
    "ClassResult",
    "Counted",
    "Counting",
    "Group",
    "MarkRefused",
    "PartMark",
    "Total",
    "answered",
    "best_of_times",
    "best_of_tries",
    "best_question",
    "class_result",
    "earned",
    "folded",
    "group_answers",
    "is_settled",
    "key_formula",
    "less",
    "mark_of",
    "marked",
    "read_given_marks",
    "share_of",
    "sum_of",
    "that_counts",
    "total_of",
    "tries_used",
    "went",
]
