"""Information: nothing is asked."""

from ...kind import Kind
from .document import NoAnswer

KINDS = (Kind("none", "information only", NoAnswer, ({},)),)

__all__ = ["KINDS", "NoAnswer"]
