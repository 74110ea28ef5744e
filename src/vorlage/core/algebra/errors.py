"""What is said when a formula has no value."""

from __future__ import annotations

from ..errors import CoreError


class EvaluationError(CoreError, ArithmeticError):
    """A formula that cannot be worked out."""


class Irrational(Exception):
    """The value is not known to be rational; work with balls instead."""
