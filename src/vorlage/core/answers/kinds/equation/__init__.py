"""An equation."""

from ...kind import InGap, Kind
from .document import EquationAnswer

KINDS = (
    Kind(
        "equation",
        "equation",
        EquationAnswer,
        ({"key": "y=x"}, {"key": "y=x", "form": "standard"}, {"key": "y=e^x"}),
        in_gap=InGap("y = 2x"),
    ),
)

__all__ = ["KINDS", "EquationAnswer"]
