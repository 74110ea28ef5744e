"""Exact values, canonical forms, and equivalence with its certainty.

``Compiled`` and ``Condition`` work formulas out exactly for many draws; ``equivalent`` decides whether
two formulas are one; values that are not rational are enclosed by balls as closely as a comparison asks.
"""

from .balls import INVERSE_TRIGONOMETRIC, TRIGONOMETRIC, Undefined
from .complexes import complex_value
from .equivalence import Certainty, Comparison, equal_as_complex, equal_up_to, equivalent, has_values
from .errors import EvaluationError
from .evaluation import Compiled, Condition, Value, Values, value_tree
from .floats import NoFloats, quick
from .helper import TooCostly, start_helper
from .rationals import NotRational, RationalReader, univariate
from .realsets import Described, NoRealSet, RealSet, described, holds_at, same_set, separating
from .solutions import equations_of, everywhere_or_nowhere, same_solutions, telling_apart, with_sign
from .steps import ALLOWANCE, Allowance, OutOfSteps, allowed, size, spend
from .symbolic import Worked, is_symbolic, program, stripped, symbolic_value, with_values
from .values import (
    BITS,
    Exact,
    Real,
    approximate,
    compare,
    enclosure,
    enclosures,
    magnitude,
    rational,
    rounded,
    rounded_significant,
    sign,
    to_fraction,
)

# The functions whose value depends on the unit of angle.
ANGULAR = frozenset(TRIGONOMETRIC) | frozenset(INVERSE_TRIGONOMETRIC)

__all__ = [
    "ALLOWANCE",
    "ANGULAR",
    "BITS",
    "Allowance",
    "Certainty",
    "Comparison",
    "Compiled",
    "Condition",
    "Described",
    "EvaluationError",
    "Exact",
    "NoFloats",
    "NoRealSet",
    "NotRational",
    "OutOfSteps",
    "RationalReader",
    "Real",
    "RealSet",
    "TooCostly",
    "Undefined",
    "Value",
    "Values",
    "Worked",
    "allowed",
    "approximate",
    "compare",
    "complex_value",
    "described",
    "enclosure",
    "enclosures",
    "equal_as_complex",
    "equal_up_to",
    "equations_of",
    "equivalent",
    "everywhere_or_nowhere",
    "has_values",
    "holds_at",
    "is_symbolic",
    "magnitude",
    "program",
    "quick",
    "rational",
    "rounded",
    "rounded_significant",
    "same_set",
    "same_solutions",
    "separating",
    "sign",
    "size",
    "spend",
    "start_helper",
    "stripped",
    "symbolic_value",
    "telling_apart",
    "to_fraction",
    "univariate",
    "value_tree",
    "with_sign",
    "with_values",
]  # fmt: skip
