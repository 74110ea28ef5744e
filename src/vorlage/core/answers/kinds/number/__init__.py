"""A number, real or complex, within a tolerance."""

from ...kind import Kind, close_gap
from .checker import DrawnNumber, NumberChecker
from .complex import near
from .document import NumberAnswer, lines_of_number, strictly_written

KINDS = (
    Kind(
        "number",
        "number",
        NumberAnswer,
        (
            {"key": "0"},
            {"key": "3"},
            {
                "key": "sqrt(2)",
                "recognise": ["rounding", "truncation", "sign", "power_of_ten", "digit_swap"],
            },
            {"key": "12", "limits": ["whole", {"rule": "between", "low": "0", "high": "99"}]},
        ),
        beside=True,
        in_gap=close_gap("m*g"),
    ),
)

__all__ = ["KINDS", "DrawnNumber", "NumberAnswer", "NumberChecker", "lines_of_number", "near", "strictly_written"]
