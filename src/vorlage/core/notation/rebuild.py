"""Making a changed copy of a tree."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from .tree import Drawn, Name, Node, fields_of


def rebuild(node: Node, change: Callable[[Node], Node]) -> Node:
    """A copy of ``node`` in which ``change`` has been applied to everything directly inside it."""
    # this is where most of the time of making forms goes: a node that stays is not put together anew
    altered: list[object] | None = None
    fields = fields_of(node)
    for place, field in enumerate(fields):
        held = getattr(node, field)
        if isinstance(held, Node):
            fresh: object = change(held)
        elif type(held) is tuple:
            fresh = _rebuilt(held, change)
        else:
            continue
        if fresh is not held:
            if altered is None:
                altered = [getattr(node, each) for each in fields]
            altered[place] = fresh
    return node if altered is None else type(node)(*altered)


def _rebuilt(held: tuple[object, ...], change: Callable[[Node], Node]) -> tuple[object, ...]:
    altered: list[object] | None = None
    for place, item in enumerate(held):
        if isinstance(item, Node):
            fresh: object = change(item)
        elif type(item) is tuple:
            fresh = _rebuilt(item, change)
        else:
            continue
        if fresh is not item:
            if altered is None:
                altered = list(held)
            altered[place] = fresh
    return held if altered is None else tuple(altered)


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
