"""Small helpers for the desk's templates."""

from __future__ import annotations

from django import template
from django.utils.html import escape, format_html, format_html_join
from django.utils.safestring import SafeString

from vorlage.core.questions import TrialResult
from vorlage.web.questions.preview import Message, Preview
from vorlage.web.questions.rows import KINDS

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
def trials_of(preview: Preview, uid: str) -> list[TrialResult]:
    """What became of a part's own tests."""
    return preview.trials.get(uid, [])


@register.filter
def kind_words(kinds: str) -> str:
    """The kinds of answer of a question as the desk calls them."""
    words = {value: label for value, label, _ in KINDS}
    return ", ".join(words.get(kind.strip(), kind.strip()) for kind in kinds.split(","))


@register.filter
def code_spans(text: str) -> SafeString:
    """The text with what stands between backticks set as code."""
    pieces = [
        format_html("<code>{}</code>", piece) if number % 2 else escape(piece)
        for number, piece in enumerate(text.split("`"))
    ]
    return format_html_join("", "{}", [(piece,) for piece in pieces])
