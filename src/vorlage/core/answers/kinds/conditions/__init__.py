"""Whatever meets conditions."""

from ...kind import Kind
from .document import ConditionsAnswer

KINDS = (
    Kind(
        "conditions",
        "whatever meets conditions",
        ConditionsAnswer,
        (
            {"key": "0", "relations": [{"relation": "r = 0"}]},
            {"key": "28", "relations": ["r mod 7 = 0", "20 < r < 40"]},
            {"key": "2*8, 4*4", "relations": ["r = 16"], "count": 2, "form": "product"},
        ),
    ),
)

__all__ = ["KINDS", "ConditionsAnswer"]
