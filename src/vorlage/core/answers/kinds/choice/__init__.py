"""One or many options out of several."""

from typing import Any

from ...kind import GapRow, InGap, Kind
from .document import ChoiceAnswer


def several(text: str) -> list[str]:
    return [piece.strip() for piece in text.split(";") if piece.strip()]


def read_gap(row: GapRow, kept: dict[str, Any]) -> dict[str, Any]:
    """The right options and, beside them, the others, with semicolons between."""
    right, others = several(row.get("key", "")), several(row.get("more", ""))
    options = kept.get("options", [])
    if sorted(option.get("text", "") for option in options) != sorted([*right, *others]):
        identities = {option.get("text"): option.get("id", "") for option in options}
        options = [
            {"id": identities.get(text, ""), "text": text, "share": "1" if text in right else "0"}
            for text in [*right, *others]
        ]
    return kept | {"options": options}


def write_gap(answer: dict[str, Any]) -> dict[str, str]:
    """The options stay in what is kept beside the row: their shares are more than the row shows."""
    shown: dict[bool, list[str]] = {True: [], False: []}
    for option in answer["options"]:
        shown[option["share"] == "1"].append(option["text"])
    return {"key": "; ".join(shown[True]), "more": "; ".join(shown[False])}


KINDS = (
    Kind(
        "choice",
        "choice",
        ChoiceAnswer,
        (
            {"options": [{"text": "–", "share": "1"}, {"text": "– –"}]},
            {"options": [{"text": "a", "share": "1"}, {"text": "b"}]},
            {
                "choose": "many",
                "options": [{"text": "a", "share": "1/2"}, {"text": "b", "share": "1/2"}, {"text": "c"}],
            },
        ),
        in_gap=InGap("rises", "falls; stays the same", holds="text", read=read_gap, write=write_gap),
    ),
)

__all__ = ["KINDS", "ChoiceAnswer"]
