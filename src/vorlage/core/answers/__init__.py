"""Checking answers: an answer specification, the values of a draw and a response give a verdict.

One module for each kind of answer; ``check`` is the register. The rules are written in
``docs/how-answers-are-checked.md``.
"""

from .check import CaseError, Checker, DrawnAnswer, check_case, checker_for, with_carried
from .formula import DrawnFormula
from .marking import after_retries, better, total_share
from .number import DrawnNumber
from .quantity import DrawnQuantity
from .specification import (
    Answer,
    Band,
    ChemicalAnswer,
    CollectionAnswer,
    EquationAnswer,
    FormulaAnswer,
    InequalityAnswer,
    NumberAnswer,
    QuantityAnswer,
    Recognised,
    Slip,
    Strict,
    TextAnswer,
    Tolerance,
    Written,
    to_share,
)
from .verdict import Verdict
from .words import DrawnText

__all__ = [
    "Answer", "Band", "CaseError", "Checker", "ChemicalAnswer", "CollectionAnswer", "DrawnAnswer", "DrawnFormula",
    "DrawnNumber", "DrawnQuantity", "DrawnText", "EquationAnswer", "FormulaAnswer", "InequalityAnswer", "NumberAnswer",
    "QuantityAnswer", "Recognised", "Slip", "Strict", "TextAnswer", "Tolerance", "Verdict", "Written",
    "after_retries", "better", "check_case", "checker_for", "to_share", "total_share", "with_carried",
]  # fmt: skip
