"""Checking answers: an answer specification, the values of a draw and a response give a verdict.

A kind of answer is a folder in ``kinds``; ``KINDS`` is the register. The rules are written in
``docs/how-answers-are-checked.md``.
"""

from .answer import LETTERS, Answer, Checker, Demanded, DrawnAnswer, Offering
from .asking import Asked, Input, Typed, as_rows, number_or_text, ticked, used_rows
from .check import CaseError, batch_checker, case_values, check_case
from .kind import InGap, Kind
from .kinds import GAP_KINDS, KINDS, AnyAnswer, chapters
from .kinds.essay import read_rubric
from .marking import after_retries, carried_on, total_share
from .near_misses import NEAR_MISSES, Attempt
from .reading import Reader, Reading, reader_of
from .records import (
    HOLDS_LINE,
    Holds,
    Identity,
    Line,
    Marks,
    Member,
    Said,
    Share,
    Strict,
    identity_of,
    plain_marks,
    read_plain,
    shown_marks,
    to_marks,
    to_share,
    told_marks,
    total_marks,
)
from .ruler import Ruler, ruler, stretch
from .spaces import LINE, Items, Options, Pairs, Ruled, Scale, Space, Words
from .spelling import tolerance_reaching
from .unmarked import DrawnUnmarked
from .verdict import RIGHT, Verdict, of_share

__all__ = [
    "GAP_KINDS",
    "HOLDS_LINE",
    "KINDS",
    "LETTERS",
    "LINE",
    "NEAR_MISSES",
    "RIGHT",
    "Answer",
    "AnyAnswer",
    "Asked",
    "Attempt",
    "CaseError",
    "Checker",
    "Demanded",
    "DrawnAnswer",
    "DrawnUnmarked",
    "Holds",
    "Identity",
    "InGap",
    "Input",
    "Items",
    "Kind",
    "Line",
    "Marks",
    "Member",
    "Offering",
    "Options",
    "Pairs",
    "Reader",
    "Reading",
    "Ruled",
    "Ruler",
    "Said",
    "Scale",
    "Share",
    "Space",
    "Strict",
    "Typed",
    "Verdict",
    "Words",
    "after_retries",
    "as_rows",
    "batch_checker",
    "carried_on",
    "case_values",
    "chapters",
    "check_case",
    "identity_of",
    "number_or_text",
    "of_share",
    "plain_marks",
    "read_plain",
    "read_rubric",
    "reader_of",
    "ruler",
    "shown_marks",
    "stretch",
    "ticked",
    "to_marks",
    "to_share",
    "told_marks",
    "tolerance_reaching",
    "total_marks",
    "total_share",
    "used_rows",
]
