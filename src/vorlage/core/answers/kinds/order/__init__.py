"""Items to be put in order."""

from ...kind import Kind
from .document import OrderAnswer

KINDS = (
    Kind("order", "ordering", OrderAnswer, ({"items": [{"text": "–"}, {"text": "– –"}]}, {"items": ["a", "b", "c"]})),
)

__all__ = ["KINDS", "OrderAnswer"]
