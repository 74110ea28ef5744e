"""Making a changed copy of a tree."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from .tree import Drawn, Name, Node, fields_of


def rebuild(node: Node, change: Callable[[Node], Node]) -> Node:
    """A copy of ``node`` in which ``change`` has been applied to everything directly inside it."""
    altered: list[object] = []
    same = True
    for field in fields_of(node):
        held = getattr(node, field)
        fresh = _rebuilt(held, change)
        same = same and fresh is held
        altered.append(fresh)
    return node if same else type(node)(*altered)


def _rebuilt(held: object, change: Callable[[Node], Node]) -> object:
    if isinstance(held, Node):
        return change(held)
    if isinstance(held, tuple) and held and isinstance(held[0], Node | tuple):
        fresh = tuple(_rebuilt(item, change) for item in held)
        return held if all(a is b for a, b in zip(fresh, held)) else fresh
    return held


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
