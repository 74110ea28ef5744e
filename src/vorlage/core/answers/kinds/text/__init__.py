"""Words."""

from typing import Any

from ...kind import GapRow, InGap, Kind
from .document import TextAnswer


def read_gap(row: GapRow, kept: dict[str, Any]) -> dict[str, Any]:
    """Accepted words with semicolons between them."""
    return kept | {"accept": [piece.strip() for piece in row.get("key", "").split(";") if piece.strip()]}


def write_gap(answer: dict[str, Any]) -> dict[str, str]:
    return {"key": "; ".join(answer.pop("accept"))}


KINDS = (
    Kind(
        "text",
        "words",
        TextAnswer,
        ({"accept": ["–"]}, {"accept": ["(a+)+b"], "match": "pattern"}),
        in_gap=InGap("rises; goes up", holds="text", read=read_gap, write=write_gap),
    ),
)

__all__ = ["KINDS", "TextAnswer"]
