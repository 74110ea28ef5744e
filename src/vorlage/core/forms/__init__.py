"""Plans, forms and form sets: equal papers with different numbers, each key proved before it is frozen."""

from .form_set import (
    MAXIMUM_FORMS,
    KeyEntry,
    KeyFailure,
    MadeForm,
    MadeItem,
    MadeSet,
    drawn_forms,
    key_as_json,
    make_forms,
    repeated,
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
    "drawn_forms",
    "key_as_json",
    "make_forms",
    "repeated",
    "shared_answers",
    "shown_key",
]  # fmt: skip
