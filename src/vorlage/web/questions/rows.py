"""The rows of the desk: what stands in their fields, and what the fields offer to be chosen."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from .gap_rows import GapRow
from .uids import new_uid

# value, what it is called, what an answer looks like
KINDS = [
    ("number", "number", "m*g*h/1000"),
    ("quantity", "number with a unit", "m*g*h"),
    ("formula", "formula", "(x + 1)(x - 2)"),
    ("equation", "equation", "y = 2x + 1"),
    ("inequality", "inequality", "1 < x <= 3"),
    ("interval", "interval", "[1, 3)"),
    ("set", "set of values", "{2, -5}"),
    ("list", "list of values", "1, 4, 9"),
    ("point", "point", "(3, 4)"),
    ("vector", "vector", "vec(1, 2)"),
    ("matrix", "matrix", "matrix(1, 2; 3, 4)"),
    ("conditions", "whatever meets conditions", "28"),
    ("chemical", "chemistry", "2 H2 + O2 -> 2 H2O"),
    ("text", "words", ""),
    ("blanks", "gaps in the text", ""),
    ("hotspot", "place in a figure", ""),
    ("choice", "choice", ""),
    ("true_false", "true or false", "true"),
    ("match", "pairs", ""),
    ("order", "order", ""),
    ("essay", "written at length", ""),
    ("scale", "scale without marks", ""),
    ("none", "information only", ""),
]
COLLECTIONS = frozenset(["set", "list", "point", "vector", "matrix"])
NEAR_MISSES = [
    ("rounding", "rounded too far or not at all"),
    ("truncation", "cut off instead of rounded"),
    ("sign", "wrong sign"),
    ("power_of_ten", "decimal point misplaced"),
    ("digit_swap", "two digits swapped"),
    ("digit", "one digit wrong"),
    ("angle_unit", "degrees for radians"),
]
MODES = [
    ("exact", "exactly"),
    ("relative", "within, of the key"),
    ("absolute", "within, plus or minus"),
    ("decimal_places", "to decimal places"),
    ("significant_figures", "to significant figures"),
    ("between", "anywhere in"),
]
FORMS = [
    ("any", "any equal formula"),
    ("expanded", "multiplied out"),
    ("factorised", "factorised"),
    ("lowest_terms", "in lowest terms"),
    ("single_fraction", "a single fraction"),
    ("completed_square", "completed square"),
    ("rationalised", "no root in a denominator"),
    ("no_brackets", "without brackets"),
    ("as_key", "written as the key"),
]
EQUATION_FORMS = [
    ("any", "any equation with these solutions"),
    ("slope_intercept", "written y = m x + c"),
    ("standard", "written a x + b y = c"),
]
UNIT_RULES = [
    ("required", "the unit has to be given"),
    ("given", "the unit is printed after the space"),
    ("any", "the unit may be left out"),
]
MATCHES = [
    ("whole", "the whole answer"),
    ("contains", "somewhere in the answer"),
    ("pattern", "by a pattern"),
]
CHOOSE = [("one", "one option is chosen"), ("many", "every right option is chosen")]
ITEM_FORMS = [("any", "written in any way"), ("product", "written as a product"), ("sum", "written as a sum")]
SCORES = [("run", "by the longest part in order"), ("position", "by the items in their places")]
UP_TO = [("", "nothing"), ("constant", "an added constant"), ("multiple", "a factor"), ("sign", "the sign")]
WRITTEN_FORMS = {
    "whole number": "integer",
    "fraction": "fraction",
    "mixed number": "mixed",
    "decimal": "decimal",
    "percent": "percent",
    "standard form": "standard_form",
    "surd": "surd",
    "a + b i": "cartesian",
}


@dataclass
class ParameterRow:
    name: str = ""
    definition: str = ""
    unit: str = ""
    shown: str = ""
    note: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.definition.strip())


@dataclass
class ConditionRow:
    text: str = ""
    uid: str = field(default_factory=new_uid)


@dataclass
class OptionRow:
    """An option, a pair, or an item to be put in order."""

    text: str = ""
    # the right side of a pair
    pair: str = ""
    share: str = ""
    feedback: str = ""
    fixed: str = ""
    uid: str = field(default_factory=new_uid)


@dataclass
class TableRow:
    """A data table as it was pasted."""

    name: str = ""
    text: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.text.strip())


@dataclass
class FigureRow:
    """A figure of the question, its lines as they are typed."""

    name: str = ""
    lines: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.lines.strip())


@dataclass
class PictureRow:
    """An uploaded picture and its name in the question."""

    name: str = ""
    digest: str = ""
    width: str = "0"
    height: str = "0"
    uid: str = field(default_factory=new_uid)

    def raw(self) -> dict[str, Any]:
        width, height = number_or_text(self.width), number_or_text(self.height)
        return {"name": self.name.strip(), "digest": self.digest, "width": width, "height": height}


@dataclass
class PinRow:
    """A pinned draw: its values as JSON."""

    values: str = ""
    uid: str = field(default_factory=new_uid)

    def raw(self) -> dict[str, Any]:
        try:
            values = json.loads(self.values)
        except ValueError:
            values = {}
        return {"values": values if isinstance(values, dict) else {}}


@dataclass
class PartRow:
    wording: str = ""
    kind: str = "number"
    key: str = ""
    mode: str = "exact"
    tolerance: str = ""
    written: str = ""
    form: str = "any"
    up_to: str = ""
    where: str = ""
    bands: str = ""
    slips: str = ""
    # name or "name|share", as the document has it
    recognise: list[str] = field(default_factory=list)
    marks: str = "1"
    after: str = ""
    solution: str = ""
    share: str = ""
    unit: str = ""
    unit_rule: str = "required"
    # what a right number without its unit earns
    unit_share: str = ""
    # boxes that are ticked send "on"
    same_unit: str = ""
    # an inequality: whether the letter has to stand alone
    solved: str = ""
    equation_form: str = "any"
    subject: str = ""
    partial: str = ""
    cost: str = ""
    # conditions: one a line, how many values, whether two may be alike, how each is written
    relations: str = ""
    count: str = "1"
    alike: str = ""
    item_form: str = "any"
    # what may be typed at all, a limit a line
    limits: str = ""
    multiple: str = ""
    states: str = ""
    accept: str = ""
    match: str = "whole"
    case: str = ""
    spacing: str = ""
    gives: str = ""
    under: str = ""
    hints: str = ""
    said_right: str = ""
    said_partly: str = ""
    said_wrong: str = ""
    trials: str = ""
    choose: str = "one"
    keep_order: str = ""
    score: str = "run"
    words: str = ""
    rubric: str = ""
    steps: str = "5"
    low: str = ""
    high: str = ""
    options: list[OptionRow] = field(default_factory=list)
    gaps: list[GapRow] = field(default_factory=list)
    figure: str = ""
    regions: str = ""
    # the identities of what stands in lines: regions, or the criteria of a rubric
    known: str = ""
    clicks: str = "1"
    uid: str = field(default_factory=new_uid)

    @property
    def hint(self) -> str:
        """What an answer of this kind looks like."""
        return next((hint for value, _, hint in KINDS if value == self.kind), "")

    @property
    def near_misses(self) -> list[tuple[str, str, bool]]:
        """(value, words, whether it is on) for each near-miss, those that are on first and in their order."""
        words = dict(NEAR_MISSES)
        chosen = {value.partition("|")[0]: value for value in self.recognise}
        on = [(value, words[name], True) for name, value in chosen.items() if name in words]
        return on + [(name, said, False) for name, said in NEAR_MISSES if name not in chosen]

    @property
    def has_more(self) -> bool:
        """Whether anything stands in what is folded away."""
        folded = (
            self.written, self.bands, self.slips, self.recognise, self.where, self.up_to, self.gives, self.hints,
            self.said_right, self.said_partly, self.said_wrong, self.trials, self.limits,
        )  # fmt: skip
        return any(folded)


# What a browser leaves out when nothing is chosen.
CHOSEN = {
    "kind": "number",
    "mode": "exact",
    "unit_rule": "required",
    "equation_form": "any",
    "match": "whole",
    "form": "any",
    "choose": "one",
    "score": "run",
    "steps": "5",
    "clicks": "1",
    "count": "1",
    "item_form": "any",
}


def number_or_text(text: str) -> int | str:
    return int(text) if text.strip().isdecimal() and len(text) < 9 else text
