"""The part of the desk that depends on the kind of answer: a form made of what the kind asks for."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any

from django import forms
from django.forms.boundfield import BoundField
from django.utils.safestring import SafeString

from vorlage.core.answers import GAP_KINDS, KINDS, Asked, Input, Kind, as_rows
from vorlage.core.notation import USUAL, Habits, from_document, in_spans, told

from .rows import HINTS, TRIALS, PartRow
from .typed import INPUTS, member_of
from .uids import FRESH_SLIP, new_uid


def django_field(entry: Input, in_row: bool = False) -> forms.Field:
    """The form field of an input, with its limit and its help; in a row it is a cell."""
    attributes: dict[str, Any] = {"class": classes(entry)}
    if in_row and entry.way != "tick":
        attributes["data-cell"] = entry.name
    if entry.example:
        attributes["placeholder"] = entry.example
    if entry.help:
        attributes["title"] = entry.help
    if entry.words and entry.way != "tick":
        attributes["aria-label"] = entry.words
    if entry.maths or entry.mono:
        attributes["spellcheck"] = "false"
    if entry.maths:
        attributes |= {"data-maths": True, "autocapitalize": "off"}
    if entry.name == "key":
        attributes["data-key"] = True
    match entry.way:
        case "lines":
            return forms.CharField(required=False, widget=forms.Textarea(attributes | {"rows": False, "cols": False}))
        case "choice":
            return forms.ChoiceField(required=False, choices=entry.choices, widget=forms.Select(attributes))
        case "tick":
            return forms.BooleanField(required=False, widget=forms.CheckboxInput(attributes))
        case "hidden":
            return forms.CharField(required=False, widget=forms.HiddenInput)
    if entry.width == "tiny" and (entry.default or entry.example).isdecimal():
        attributes["inputmode"] = "numeric"
    return forms.CharField(required=False, max_length=entry.longest, widget=forms.TextInput(attributes))


def classes(entry: Input) -> str:
    kinds = {"choice": "form-select", "tick": "form-check-input"}
    mono = ["mono"] if entry.maths or entry.mono else []
    width = {"short": ["short"], "tiny": ["marks"], "level": ["level"]}.get(entry.width, [])
    return " ".join([kinds.get(entry.way, "form-control"), *mono, *width])


class InputForm(forms.Form):
    """A form whose inputs are called as the desk calls them."""

    use_required_attribute = False

    def __init__(self, stem: str, typed: Mapping[str, Any]) -> None:
        super().__init__(prefix=stem, auto_id="%s", initial=dict(typed))


@cache
def shown_here(entries: tuple[Input, ...], habits: Habits) -> tuple[Input, ...]:
    """Inputs with their examples and their help as they are written in a place."""
    return tuple(
        replace(
            each,
            example=in_spans(each.example, habits, from_document)
            if each.holds == "text"
            else from_document(each.example, habits),
            help=told(each.help, habits),
        )
        for each in entries
    )


@cache
def form_class(entries: tuple[Input, ...], in_row: bool = False) -> type[InputForm]:
    """The form of these inputs, or of the cells of a row."""
    made = {entry.name: django_field(entry, in_row) for entry in entries if not entry.is_list and entry.way != "ticks"}
    return type("AnswerForm", (InputForm,), made)


@dataclass(frozen=True)
class Cell:
    """An input where it stands; ``described`` is where the messages about it are."""

    entry: Input
    bound: BoundField | None = None
    described: str = ""
    # of ticks: value, words, whether it is on
    ticks: list[tuple[str, str, bool]] = field(default_factory=list)
    # of a list: its rows
    rows: list[AnswerRow] = field(default_factory=list)

    @property
    def heads(self) -> list[tuple[str, str]]:
        """The heads of the columns of a list: how wide each is, and its words."""
        shown = [column for column in self.entry.columns if column.way != "tick" and column.width != "level"]
        return [(width_of(column), column.words) for column in shown]

    @property
    def widget(self) -> SafeString:
        """Its markup."""
        if self.bound is None:
            return SafeString()
        described: dict[str, str | bool] = {"aria-describedby": self.described} if self.described else {}
        return self.bound.as_widget(attrs=described)


def width_of(entry: Input) -> str:
    """How wide the cells of a column are."""
    if entry.way == "choice":
        return "choice"
    return {"tiny": "marks", "short": "short"}.get(entry.width, "full")


@dataclass(frozen=True)
class AnswerRow:
    """A row of a list: its identity and the inputs in it."""

    uid: str
    member: str
    cells: list[Cell] = field(default_factory=list)
    # of a gap: what stands in its columns, and its kind
    shown: Mapping[str, str] = field(default_factory=dict)

    @property
    def slips(self) -> list[AnswerRow]:
        """The rows of the slips of a gap."""
        rows = [{"id": new_uid(), **row} for row in as_rows(self.shown.get("slips", ""))]
        return [row_of(GAP_SLIPS, row) for row in rows]

    @property
    def fresh_slip(self) -> AnswerRow:
        """An empty one, for the template that new ones are made from."""
        return row_of(GAP_SLIPS, {"id": FRESH_SLIP})

    @property
    def has_slips(self) -> bool:
        """Whether its kind of answer has slips."""
        return self.kind.asks("slips") is not None

    @property
    def kind(self) -> Kind:
        """The kind of a gap."""
        return GAP_KINDS.get(self.shown.get("kind", ""), KINDS["number"])


GAP_SLIPS = replace(INPUTS["slips"], name="gapslips")


@dataclass(frozen=True)
class Line:
    """A label and the inputs behind it."""

    label: str
    cells: list[Cell]

    @property
    def note(self) -> str:
        return next((cell.entry.note for cell in self.cells if cell.entry.note), "")

    @property
    def first(self) -> Cell:
        return self.cells[0]


@dataclass(frozen=True)
class AnswerFields:
    """All that is asked for the answer of a part, in its places."""

    row: PartRow
    answer: list[Line]
    accepted: list[Cell]
    more: list[Line]
    # what waits until the part turns back, as JSON
    waiting: str
    habits: Habits = USUAL

    @property
    def kind(self) -> Kind:
        return self.row.answer_kind

    @property
    def marked(self) -> bool:
        return self.kind.document.marked

    @property
    def pointed(self) -> bool:
        return self.kind.document.pointed

    @property
    def gives(self) -> bool:
        return self.kind.document.gives

    @property
    def hints(self) -> Line:
        return self.rows_of(HINTS, self.row.hints)

    @property
    def trials(self) -> Line:
        return self.rows_of(TRIALS, self.row.trials)

    def rows_of(self, entry: Input, rows: list[dict[str, str]]) -> Line:
        return Line(entry.label, [Cell(entry, rows=[row_of(entry, each, self.habits) for each in rows])])

    @property
    def has_more(self) -> bool:
        """Whether anything stands in what is folded away."""
        entries = (cell.entry for line in self.more for cell in line.cells)
        return bool(self.row.gives or self.row.before) or any(entry.filled(self.row.typed) for entry in entries)


def answer_fields(row: PartRow, habits: Habits = USUAL) -> AnswerFields:
    """What the kind of a part's answer asks for, with what is typed in it."""
    kind = row.answer_kind
    defaults = {entry.name: entry.default for entry in kind.inputs}
    form = form_class(shown_here(kind.inputs, habits))(f"part-{row.uid}", defaults | row.typed)
    places: dict[str, list[Line]] = {"answer": [], "accepted": [], "more": []}
    for asked in kind.asked:
        add_lines(places[asked.place], asked, form, row, habits)
    rest = {name: value for name, value in row.typed.items() if name not in kind.names}
    accepted = [cell for line in places["accepted"] for cell in line.cells]
    return AnswerFields(row, places["answer"], accepted, places["more"], json.dumps(rest) if rest else "", habits)


def add_lines(lines: list[Line], asked: Asked, form: InputForm, row: PartRow, habits: Habits) -> None:
    """Put the inputs of a field into lines: one with a label begins a line, another stands beside the one before."""
    for entry in asked.inputs:
        place = "more" if asked.place == "more" else "key"
        cell = cell_of(entry, form, row, f"message-part-{row.uid}-{place}", habits)
        if entry.label or not lines:
            lines.append(Line(entry.label, [cell]))
        else:
            lines[-1].cells.append(cell)


def cell_of(entry: Input, form: InputForm, row: PartRow, described: str, habits: Habits) -> Cell:
    typed = row.typed.get(entry.name)
    if entry.is_list:
        rows = typed if isinstance(typed, list) else []
        return Cell(entry, rows=[row_of(entry, each, habits) for each in rows])
    if entry.way == "ticks":
        return Cell(entry, ticks=ticks(entry, str(typed or "")))
    return Cell(entry, form[entry.name], "" if entry.way == "hidden" else described)


def ticks(entry: Input, typed: str) -> list[tuple[str, str, bool]]:
    """(value, words, whether it is on), those that are on first and in their order."""
    words = dict(entry.choices)
    chosen = {value.partition("|")[0]: value for value in typed.splitlines()}
    on = [(value, words[name], True) for name, value in chosen.items() if name in words]
    return on + [(name, said, False) for name, said in entry.choices if name not in chosen]


def row_of(entry: Input, row: Mapping[str, str], habits: Habits = USUAL) -> AnswerRow:
    """A row of a list, ready to be shown."""
    uid, member = row.get("id") or new_uid(), member_of(entry)
    if entry.way == "gaps":
        return AnswerRow(uid, member, shown=row)
    form = form_class(shown_here(entry.columns, habits), True)(f"{member}-{uid}", row)
    return AnswerRow(uid, member, [Cell(column, form[column.name]) for column in entry.columns], row)
