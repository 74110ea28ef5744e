"""A formula of a text, ready to be worked out for many draws."""

from __future__ import annotations

from collections.abc import Mapping

from ..algebra import Compiled, EvaluationError, Value, is_symbolic, symbolic_value
from ..notation import Node, names_in


class Computation:
    """A formula that stands in a text to be worked out: by arithmetic where it can be, symbolically where it must."""

    def __init__(self, tree: Node, angle: str) -> None:
        self.tree, self.angle = tree, angle
        self.names = names_in(tree)
        self.compiled = None if is_symbolic(tree) else Compiled(tree, angle)

    def value(self, known: Mapping[str, Value]) -> Value:
        """The value with these values of its names. Raises ``EvaluationError``."""
        if self.compiled is None or not self.names <= known.keys():
            return symbolic_value(self.tree, known, self.angle)
        try:
            return self.compiled.value(known)
        except EvaluationError as problem:
            # a parameter can be a formula
            if not any(isinstance(known[name], Node) for name in self.names):
                raise problem
            return symbolic_value(self.tree, known, self.angle)
