"""Plans, forms and form sets: equal papers with different numbers, each key proved before it is frozen."""

from .form_set import (
    MAXIMUM_FORMS,
    KeyEntry,
    KeyFailure,
    MadeForm,
    MadeItem,
    MadeSet,
    key_as_json,
    make_forms,
    shared_answers,
    shown_key,
)
from .plan import Place, Plan

__all__ = [
    "MAXIMUM_FORMS",
    "KeyEntry",
    "KeyFailure",
    "MadeForm",
    "MadeItem",
    "MadeSet",
    "Place",
    "Plan",
    "key_as_json",
    "make_forms",
    "shared_answers",
    "shown_key",
]  # fmt: skip
