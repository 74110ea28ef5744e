"""Checking answers: an answer specification, the values of a draw and a response give a verdict.

One module for each kind of answer; ``check`` is the register. The rules are written in
``docs/how-answers-are-checked.md``.
"""

from .check import CaseError, Checker, DrawnAnswer, check_case, checker_for
from .formula import DrawnFormula
from .number import DrawnNumber
from .specification import (
    Answer,
    Band,
    FormulaAnswer,
    NumberAnswer,
    Recognised,
    Slip,
    Strict,
    Tolerance,
    Written,
    to_share,
)
from .verdict import Verdict

__all__ = [
    "Answer", "Band", "CaseError", "Checker", "DrawnAnswer", "DrawnFormula", "DrawnNumber", "FormulaAnswer",
    "NumberAnswer", "Recognised", "Slip", "Strict", "Tolerance", "Verdict", "Written", "check_case",
    "checker_for", "to_share",
]  # fmt: skip
