"""A fresh draw of one question for one student, laid out for them."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from typing import Any

from vorlage.core.forms import fresh_item, values_text
from vorlage.core.notation import Habits
from vorlage.core.plans import Place
from vorlage.core.questions import FrozenDraw
from vorlage.core.sittings import student_sheet
from vorlage.web.forms.models import FormItem, FormSetCandidate

from .questions import compiled, drawn_of


def fresh_columns(candidate: FormSetCandidate, before: Iterable[Any]) -> dict[str, Any]:
    """The columns of ``Fresh`` for a draw that is on no form of the set, and whose values are none of those ``before``;
    ``candidate`` has its place and the set. Raises ``NoFreshDraw``."""
    form_set = candidate.place.form_set
    question, key, number = compiled(candidate.revision_id, Habits(**form_set.habits), form_set.in_order)
    on_forms = FormItem.objects.filter(candidate=candidate).values_list("values", flat=True)
    had = {values_text(FrozenDraw(0, values, {}, {})) for values in (*on_forms, *before)}
    place = Place(question, key, number, marks=candidate.place.marks)
    found = fresh_item(place, secrets.token_hex(8), had)
    item = found.item
    sheet = student_sheet(drawn_of(form_set, candidate.revision_id, item.draw), [each.marks for each in item.keys])
    return {
        "candidate": candidate, "draw": item.draw.number, "values": item.draw.values, "orders": item.draw.orders,
        "texts": item.draw.texts, "repeats": found.repeats, "shown": sheet.shown, "readers": sheet.kept_readers,
        "hints": sheet.kept_hints, "worth": [str(each.marks) for each in item.keys],
    }  # fmt: skip
