"""An opinion on a scale, without marks."""

from ...kind import Kind
from .document import ScaleAnswer

KINDS = (Kind("scale", "rating scale", ScaleAnswer, ({},)),)

__all__ = ["KINDS", "ScaleAnswer"]
