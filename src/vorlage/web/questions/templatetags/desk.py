"""Small helpers for the desk's templates."""

from __future__ import annotations

import json

from django import template
from django.utils.html import escape, format_html, format_html_join
from django.utils.safestring import SafeString

from vorlage.core.formulas import Fitting
from vorlage.core.questions import Demand, TrialResult
from vorlage.web.questions.preview import Message, Preview
from vorlage.web.questions.rows import KINDS, WRITTEN_FORMS

register = template.Library()


@register.simple_tag
def messages_for(preview: Preview, field: str) -> list[Message]:
    """What is wrong with a field."""
    return preview.messages.get(field, [])


@register.simple_tag
def reading_of(preview: Preview, uid: str) -> SafeString:
    """How the answer of a part is read, typeset."""
    return preview.readings.get(uid, SafeString(""))


@register.simple_tag
def offers_of(preview: Preview, uid: str) -> list[Fitting]:
    """What the formula book has for a part without an answer."""
    return preview.offers.get(uid, [])


@register.simple_tag
def trials_of(preview: Preview, uid: str) -> list[TrialResult]:
    """What became of a part's own tests."""
    return preview.trials.get(uid, [])


@register.filter
def kind_words(kinds: list[str]) -> str:
    """The kinds of answer of a question as the desk calls them."""
    words = {value: label for value, label, _ in KINDS}
    return ", ".join(words.get(kind, kind) for kind in kinds)


@register.filter
def desk_fields(demand: Demand) -> str:
    """The fields of a part that a demand fills in, with what they show, as JSON; boxes are ticked with "on"."""
    shown = {}
    for name, value in demand.changes:
        if name == "written":
            value = next(words for words, form in WRITTEN_FORMS.items() if form == value)
        shown.update({"solved": "on"} if (name, value) == ("form", "solved") else {name: value})
    return json.dumps(shown)


@register.filter
def code_spans(text: str) -> SafeString:
    """The text with what stands between backticks set as code."""
    pieces = [
        format_html("<code>{}</code>", piece) if number % 2 else escape(piece)
        for number, piece in enumerate(text.split("`"))
    ]
    return format_html_join("", "{}", [(piece,) for piece in pieces])
