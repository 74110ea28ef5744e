"""Several values: a set, a list, a point, a vector, a matrix."""

from ...kind import Kind, close_gap
from .checker import worked_out
from .document import CollectionAnswer


def by_place(name: str, words: str, example: str, beside: bool = False) -> Kind:
    """A kind whose values stand in places of their own."""
    return Kind(name, words, CollectionAnswer, ({"key": example},), beside, close_gap(example), example)


KINDS = (
    Kind(
        "set",
        "set of values",
        CollectionAnswer,
        ({"key": "{0}"}, {"key": "{1,x}"}, {"key": "{(1,2)}"}),
        beside=True,
        in_gap=close_gap("{2, -5}"),
    ),
    by_place("list", "list of values", "1, 4, 9", beside=True),
    by_place("point", "point", "(3, 4)"),
    by_place("vector", "vector", "vec(1, 2)"),
    by_place("matrix", "matrix", "matrix(1, 2; 3, 4)"),
)

__all__ = ["KINDS", "CollectionAnswer", "worked_out"]
