"""A number with a unit."""

from ...kind import GapRow, InGap, Kind, read_close, write_close
from .checker import DrawnQuantity
from .document import QuantityAnswer


def read_gap(row: GapRow, kept: dict[str, object]) -> dict[str, object]:
    return read_close(row, kept) | {"unit": row.get("unit", "")}


def write_gap(answer: dict[str, object]) -> dict[str, str]:
    return write_close(answer) | {"unit": str(answer.pop("unit"))}


KINDS = (
    Kind(
        "quantity",
        "number with a unit",
        QuantityAnswer,
        ({"key": "0", "unit": "m"}, {"key": "1", "unit": "m"}),
        in_gap=InGap("m*g", "2% or 1 dp", unit=True, read=read_gap, write=write_gap),
    ),
)

__all__ = ["KINDS", "DrawnQuantity", "QuantityAnswer"]
