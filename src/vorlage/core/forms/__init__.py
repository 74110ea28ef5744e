"""Plans, forms and form sets: equal papers with different numbers, each key proved before it is frozen."""

from .again import Repeats, next_form, repeats_in
from .form_set import (
    MAXIMUM_FORMS,
    MadeForm,
    MadeSet,
    drawn_forms,
    make_forms,
    outlined,
    shared_answers,
)
from .fresh import FreshItem, NoFreshDraw, fresh_item, values_text
from .items import KeyEntry, KeyFailure, MadeItem, kept_key, key_as_json, marks_text, plain_amount, shown_key
from .outlines import Basis, Chosen, Evenness, Outlines
from .seating import MOST_COLUMNS, MOST_ROWS, Costs, Nearness, Room, Seat, Written, give, neighbours

__all__ = [
    "MAXIMUM_FORMS",
    "MOST_COLUMNS",
    "MOST_ROWS",
    "Basis",
    "Chosen",
    "Costs",
    "Evenness",
    "FreshItem",
    "KeyEntry",
    "KeyFailure",
    "MadeForm",
    "MadeItem",
    "MadeSet",
    "Nearness",
    "NoFreshDraw",
    "Outlines",
    "Repeats",
    "Room",
    "Seat",
    "Written",
    "drawn_forms",
    "fresh_item",
    "give",
    "kept_key",
    "key_as_json",
    "make_forms",
    "marks_text",
    "neighbours",
    "next_form",
    "outlined",
    "plain_amount",
    "repeats_in",
    "shared_answers",
    "shown_key",
    "values_text",
]  # fmt: skip
