"""Making a changed copy of a tree."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from .tree import Drawn, Name, Node, fields_of


def rebuild(node: Node, change: Callable[[Node], Node]) -> Node:
    """A copy of ``node`` in which ``change`` has been applied to everything directly inside it."""
    altered = _altered([getattr(node, field) for field in fields_of(node)], change)
    return node if altered is None else type(node)(*altered)


def _altered(held: Sequence[object], change: Callable[[Node], Node]) -> list[object] | None:
    """What is held with everything in it changed; nothing where all of it stays, so that no node is put together anew
    without need: much of the time of making forms goes here."""
    altered: list[object] | None = None
    for place, item in enumerate(held):
        fresh = item
        if isinstance(item, Node):
            fresh = change(item)
        elif type(item) is tuple and (inner := _altered(item, change)) is not None:
            fresh = tuple(inner)
        if fresh is not item:
            altered = list(held) if altered is None else altered
            altered[place] = fresh
    return altered


def substitute(node: Node, values: Mapping[str, Node], mark: bool = False) -> Node:
    """Put trees in the place of names; with ``mark`` each is wrapped in ``Drawn``.

    >>> from vorlage.core.notation import read, line
    >>> line(substitute(read("a x + b"), {"a": read("3"), "b": read("-2")}))
    '3 x - 2'
    """

    def change(piece: Node) -> Node:
        if isinstance(piece, Name):
            value = values.get(piece.name)
            if value is None:
                return piece
            return Drawn(value, piece.name) if mark else value
        return rebuild(piece, change)

    return change(node)


def shared(*trees: Node) -> tuple[Node, ...]:
    """The trees with equal pieces as one and the same node, so that what is worked out of one serves all.

    >>> from vorlage.core.notation import read
    >>> tree, = shared(read("sin(x)^2 + sin(x)"))
    >>> tree.terms[0].base is tree.terms[1]
    True
    """
    pool: dict[object, Node] = {}

    def pooled(node: Node) -> Node:
        inner = rebuild(node, pooled)
        held = (identity(getattr(inner, field)) for field in fields_of(inner))
        return pool.setdefault((type(inner), *held), inner)

    return tuple(map(pooled, trees))


def identity(held: object) -> object:
    """What tells a field of a node apart, its own pieces being shared already."""
    if isinstance(held, Node):
        return id(held)
    return tuple(map(identity, held)) if isinstance(held, tuple) else held
