"""A ratio of two whole numbers."""

from ...kind import InGap, Kind
from .document import RatioAnswer

KINDS = (Kind("ratio", "ratio", RatioAnswer, ({"key": "1 : 2"},), in_gap=InGap("2 : 3")),)
