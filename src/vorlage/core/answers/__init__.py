"""Checking answers: an answer specification, the values of a draw and a response give a verdict.

One module for each kind of answer; ``check`` is the register. The rules are written in
``docs/how-answers-are-checked.md``.
"""

from .blanks import DrawnBlanks
from .check import CaseError, Checker, DrawnAnswer, check_case, checker_for, with_carried
from .choices import LETTERS, DrawnChoice, DrawnMatch, DrawnNoMarks, DrawnOrder, DrawnTrueFalse
from .conditions import DrawnConditions
from .formula import DrawnFormula
from .hotspot import DrawnHotspot
from .limits import check_limits
from .marking import after_retries, better, total_share
from .number import DrawnNumber
from .quantity import DrawnQuantity
from .ruler import Ruler, ruler
from .shape import lacking_form
from .specification import (
    UNCHECKED,
    Answer,
    Band,
    BlanksAnswer,
    ChemicalAnswer,
    ChoiceAnswer,
    CollectionAnswer,
    ConditionsAnswer,
    Criterion,
    EquationAnswer,
    EssayAnswer,
    FormulaAnswer,
    HotspotAnswer,
    Identity,
    InequalityAnswer,
    Marks,
    MatchAnswer,
    NoAnswer,
    NumberAnswer,
    OrderAnswer,
    QuantityAnswer,
    Recognised,
    ScaleAnswer,
    Share,
    Slip,
    Strict,
    TextAnswer,
    Tolerance,
    TrueFalseAnswer,
    Written,
    WrittenForm,
    plain_marks,
    read_rubric,
    rubric_lines,
    to_share,
    total_marks,
)
from .verdict import Verdict
from .words import DrawnText
from .written import unmet

__all__ = [
    "LETTERS",
    "UNCHECKED",
    "Answer",
    "Band",
    "BlanksAnswer",
    "CaseError",
    "Checker",
    "ChemicalAnswer",
    "ChoiceAnswer",
    "CollectionAnswer",
    "ConditionsAnswer",
    "Criterion",
    "DrawnAnswer",
    "DrawnBlanks",
    "DrawnChoice",
    "DrawnConditions",
    "DrawnFormula",
    "DrawnHotspot",
    "DrawnMatch",
    "DrawnNoMarks",
    "DrawnNumber",
    "DrawnOrder",
    "DrawnQuantity",
    "DrawnText",
    "DrawnTrueFalse",
    "EquationAnswer",
    "EssayAnswer",
    "FormulaAnswer",
    "HotspotAnswer",
    "Identity",
    "InequalityAnswer",
    "Marks",
    "MatchAnswer",
    "NoAnswer",
    "NumberAnswer",
    "OrderAnswer",
    "QuantityAnswer",
    "Recognised",
    "Ruler",
    "ScaleAnswer",
    "Share",
    "Slip",
    "Strict",
    "TextAnswer",
    "Tolerance",
    "TrueFalseAnswer",
    "Verdict",
    "Written",
    "WrittenForm",
    "after_retries",
    "better",
    "check_case",
    "check_limits",
    "checker_for",
    "lacking_form",
    "plain_marks",
    "read_rubric",
    "rubric_lines",
    "ruler",
    "to_share",
    "total_marks",
    "total_share",
    "unmet",
    "with_carried",
]  # fmt: skip
