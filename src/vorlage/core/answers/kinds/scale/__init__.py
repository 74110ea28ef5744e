"""An opinion on a scale, without marks."""

from ...kind import Kind
from .document import ScaleAnswer

KINDS = (Kind("scale", "scale without marks", ScaleAnswer, ({},)),)

__all__ = ["KINDS", "ScaleAnswer"]
