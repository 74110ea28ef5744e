"""A formula."""

from ...kind import InGap, Kind
from .checker import DrawnFormula
from .document import FormulaAnswer

KINDS = (
    Kind(
        "formula",
        "formula",
        FormulaAnswer,
        (
            {"key": "0"},
            {"key": "x^2"},
            {"key": "sin(x)", "up_to": "constant"},
            {"key": "x^2-1", "form": "factorised"},
            {"key": "|x|", "where": ["x > -9"]},
        ),
        beside=True,
        in_gap=InGap("2x + 1"),
    ),
)

__all__ = ["KINDS", "DrawnFormula", "FormulaAnswer"]
