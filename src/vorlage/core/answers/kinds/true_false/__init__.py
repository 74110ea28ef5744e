"""True or false."""

from ...kind import InGap, Kind
from .document import TrueFalseAnswer

KINDS = (
    Kind("true_false", "true or false", TrueFalseAnswer, ({"key": "true"}, {"key": "1 < 2"}), in_gap=InGap("a > b")),
)

__all__ = ["KINDS", "TrueFalseAnswer"]
