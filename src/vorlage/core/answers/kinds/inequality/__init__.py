"""A set of real numbers, as an inequality or as an interval."""

from ...kind import InGap, Kind
from .document import InequalityAnswer

KINDS = (
    Kind("inequality", "inequality", InequalityAnswer, ({"key": "x>1"},), in_gap=InGap("x > 2")),
    Kind("interval", "interval", InequalityAnswer, ({"key": "[1, 3)"},), in_gap=InGap("[1, 3)"), example="[1, 3)"),
)

__all__ = ["KINDS", "InequalityAnswer"]
