"""Pairs to be found."""

from ...kind import Kind
from .document import MatchAnswer

KINDS = (
    Kind(
        "match",
        "matching",
        MatchAnswer,
        (
            {"pairs": [{"left": "–", "right": "–"}, {"left": "– –", "right": "– –"}]},
            {"pairs": [{"left": "a", "right": "1"}, {"left": "b", "right": "2"}], "distractors": ["3"]},
        ),
    ),
)

__all__ = ["KINDS", "MatchAnswer"]
