"""Plans, forms and form sets: equal papers with different numbers, each key proved before it is frozen."""

from .form_set import (
    MAXIMUM_FORMS,
    KeyEntry,
    KeyFailure,
    MadeForm,
    MadeItem,
    MadeSet,
    drawn_forms,
    kept_key,
    key_as_json,
    make_forms,
    marks_text,
    outlined,
    shared_answers,
    shown_key,
)
from .outlines import Basis, Chosen, Evenness, Outlines

__all__ = [
    "MAXIMUM_FORMS",
    "Basis",
    "Chosen",
    "Evenness",
    "KeyEntry",
    "KeyFailure",
    "MadeForm",
    "MadeItem",
    "MadeSet",
    "Outlines",
    "drawn_forms",
    "kept_key",
    "key_as_json",
    "make_forms",
    "marks_text",
    "outlined",
    "shared_answers",
    "shown_key",
]  # fmt: skip
