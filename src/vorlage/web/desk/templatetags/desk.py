"""Small helpers for the desk's templates."""

from __future__ import annotations

import json

from django import template
from django.template import Context
from django.utils.html import escape, format_html, format_html_join
from django.utils.safestring import SafeString

from vorlage.core.answers import GAP_KINDS, Input, Kind
from vorlage.core.formulas import Fitting
from vorlage.core.questions import Demand, TrialResult
from vorlage.web.design.context import habits_in
from vorlage.web.desk.answer_form import AnswerFields, AnswerRow, answer_fields, row_of
from vorlage.web.desk.field_messages import Message
from vorlage.web.desk.form import Desk
from vorlage.web.desk.helping import DRAWN_SHAPES
from vorlage.web.desk.preview import Preview
from vorlage.web.desk.rows import PartRow
from vorlage.web.desk.trying import Tried
from vorlage.web.desk.typed import INPUTS
from vorlage.web.desk.uids import FRESH_LINE

register = template.Library()


@register.simple_tag
def messages_for(preview: Preview, field: str) -> list[Message]:
    """What is wrong with a field."""
    return preview.messages.get(field, [])


@register.simple_tag
def message_look(preview: Preview, message: Message) -> str:
    """How loudly a message is said: what is still to be written is no fault before somebody wants to save."""
    if message.empty and not preview.strict:
        return "field-wanted"
    return "field-doubt" if message.mild else "field-error"


@register.simple_tag
def reading_of(preview: Preview, uid: str) -> SafeString:
    """How the answer of a part is read, typeset."""
    return preview.readings.get(uid, SafeString(""))


@register.simple_tag
def offers_of(preview: Preview, uid: str) -> list[Fitting]:
    """What the formula book has for a part without an answer."""
    return preview.offers.get(uid, [])


@register.simple_tag
def tried_of(preview: Preview, uid: str) -> Tried:
    """What became of the answer that is tried in a part."""
    return preview.tries.get(uid, Tried())


@register.simple_tag
def trials_of(preview: Preview, uid: str) -> list[TrialResult]:
    """What became of a part's own tests."""
    return preview.trials.get(uid, [])


@register.simple_tag
def demand_fields(demand: Demand, desk: Desk) -> str:
    """The inputs of a part that a demand fills in, with what they show, as JSON; boxes are ticked with "on"."""
    part = desk.parts[demand.part]
    shown: dict[str, str] = {}
    for name, value in demand.changes.items():
        asked = part.answer_kind.asks(name)
        if asked is not None:
            shown |= asked.write(value)
    return as_fields({f"part-{part.uid}-{name}": value for name, value in shown.items()})


@register.simple_tag
def shapes_to_draw() -> list[tuple[str, str, str]]:
    """The regions that can be drawn by hand: the shape, its words, and how it is done."""
    return DRAWN_SHAPES


@register.filter
def as_fields(fields: dict[str, str]) -> str:
    """Inputs by their names with what is to stand in them, as a button carries them."""
    return json.dumps(fields, ensure_ascii=False)


@register.simple_tag
def one_field(name: str, value: str) -> str:
    """One input with what is to stand in it, as a button carries it."""
    return as_fields({name: value})


@register.filter
def rubric_rows(text: str) -> str:
    """The criteria of a kept rubric as cells of rows, as a list offers them."""
    return json.dumps(INPUTS["rubric"].rows_of(text), ensure_ascii=False)


@register.simple_tag
def gap_kinds() -> list[Kind]:
    """The kinds of answer that can stand in a gap of a text."""
    return list(GAP_KINDS.values())


@register.simple_tag(takes_context=True)
def fresh_row(context: Context, entry: Input) -> AnswerRow:
    """An empty row of a list of an answer, for the template that new rows are made from."""
    return row_of(entry, {"id": FRESH_LINE}, habits_in(context))


@register.simple_tag(takes_context=True)
def answer_of(context: Context, row: PartRow) -> AnswerFields:
    """What the kind of a part's answer asks for."""
    return answer_fields(row, habits_in(context))


@register.filter
def code_spans(text: str) -> SafeString:
    """The text with what stands between backticks set as code."""
    pieces = [
        format_html("<code>{}</code>", piece) if number % 2 else escape(piece)
        for number, piece in enumerate(text.split("`"))
    ]
    return format_html_join("", "{}", [(piece,) for piece in pieces])
