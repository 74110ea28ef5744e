"""Written at length, and marked by hand."""

from ...kind import Kind
from .document import Criterion, EssayAnswer, read_rubric, rubric_lines

KINDS = (Kind("essay", "essay", EssayAnswer, ({}, {"words": 90, "rubric": "Method | 0 | 2 complete"})),)

__all__ = ["KINDS", "Criterion", "EssayAnswer", "read_rubric", "rubric_lines"]
