"""Plans, forms and form sets: equal papers with different numbers, each key proved before it is frozen."""

from .form_set import (
    MAXIMUM_FORMS,
    Form,
    FormItem,
    FormSet,
    KeyEntry,
    KeyFailure,
    make_forms,
    shared_answers,
)
from .plan import Place, Plan

__all__ = [
    "MAXIMUM_FORMS", "Form", "FormItem", "FormSet", "KeyEntry", "KeyFailure", "Place", "Plan", "make_forms",
    "shared_answers",
]  # fmt: skip
