"""Several answers inside one text."""

from ...kind import Kind
from .checker import DrawnBlanks
from .document import BlanksAnswer

KINDS = (
    Kind(
        "blanks",
        "gaps in the text",
        BlanksAnswer,
        (
            {"gaps": [{"answer": {"kind": "number", "key": "0"}}]},
            {
                "gaps": [
                    {"answer": {"kind": "number", "key": "3"}},
                    {"answer": {"kind": "formula", "key": "x^2"}},
                    {"answer": {"kind": "choice", "options": [{"text": "a", "share": "1"}, {"text": "b"}]}},
                ]
            },
        ),
    ),
)

__all__ = ["KINDS", "BlanksAnswer", "DrawnBlanks"]
