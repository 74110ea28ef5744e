"""The question document: one JSON object that holds everything a question is.

A revision of a question is such a document. ``schema()`` is its JSON Schema.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from ..answers import (
    HOLDS_LINE,
    KINDS,
    LETTERS,
    AnyAnswer,
    Holds,
    Identity,
    Line,
    Marks,
    Said,
    Share,
    Strict,
    total_marks,
)
from ..draws import read_shown
from ..errors import CoreError
from ..text import put_right
from .filing import Filing
from .upgrades import FORMAT, UnknownFormat, upgraded


class Parameter(Strict):
    """A named value that varies from draw to draw."""

    id: Identity = ""
    name: str = Field(max_length=40)
    definition: Line
    unit: str = Field(default="", max_length=40)
    shown: str = Field(default="exact", max_length=20)
    note: str = Field(default="", max_length=500)

    @field_validator("shown")
    @classmethod
    def known_way(cls, text: str) -> str:
        if read_shown(text) is None:
            raise ValueError("Shown as: exact, fraction, surd, 2 dp, 3 sf or standard 3 sf.")
        return text or "exact"


class TableColumn(Strict):
    """A column of a data table."""

    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,29}$")
    unit: str = Field(default="", max_length=40)


class DataTable(Strict):
    """Rows of data that a parameter can draw from, as they were pasted from a spreadsheet."""

    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,29}$")
    columns: tuple[TableColumn, ...] = Field(min_length=1, max_length=20)
    rows: tuple[tuple[Annotated[str, Holds("cell")], ...], ...] = Field(min_length=1, max_length=500)

    @model_validator(mode="after")
    def rectangular(self) -> DataTable:
        for number, row in enumerate(self.rows, start=1):
            if len(row) != len(self.columns):
                raise ValueError(f"Row {number} has {len(row)} cells and not {len(self.columns)}.")
        names = [column.name for column in self.columns]
        if len(set(names)) < len(names):
            raise ValueError("Two columns have the same name.")
        return self


class FigureSource(Strict):
    """A figure of the question: its name and its lines."""

    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,29}$")
    lines: Annotated[str, Holds("figure")] = Field(min_length=1, max_length=5_000)


class PictureSource(Strict):
    """An uploaded picture: its name in the question, the hash of its content, its size in pixels."""

    name: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,29}$")
    digest: str = Field(pattern=r"^[0-9a-f]{64}$")
    width: int = Field(ge=1, le=10_000)
    height: int = Field(ge=1, le=10_000)


class Hint(Strict):
    """A help that may be asked for, and what it costs."""

    text: Said = Field(min_length=1, max_length=2000)
    cost: Share = Fraction(0)


class Feedback(Strict):
    """What is said to everybody with an outcome, after what is said of the answer itself."""

    right: Said = Field(default="", max_length=2000)
    partly: Said = Field(default="", max_length=2000)
    wrong: Said = Field(default="", max_length=2000)

    def of(self, outcome: str) -> str:
        return str(getattr(self, outcome, ""))


class Trial(Strict):
    """An answer that the author tried, and the outcome that it has to have in the first draw."""

    response: str = Field(min_length=1, max_length=500)
    outcome: Literal["right", "partly", "wrong", "unreadable", "waiting"]


class Pin(Strict):
    """A draw that has to stay possible, by its drawn values as line maths."""

    values: dict[str, Annotated[str, Field(max_length=500)]] = Field(max_length=60)


class Part(Strict):
    """One thing that is asked, with its answer."""

    id: Identity = ""
    wording: Said = Field(default="", max_length=10_000)
    answer: AnyAnswer
    marks: Marks = Decimal(1)
    # what stands before the answer space in place of "Answer", such as x =; on paper each piece between semicolons has
    # a line of its own
    before: str = Field(default="", max_length=60)
    # what stands after the answer space, such as a unit
    after: str = Field(default="", max_length=40)
    # the name by which later parts take this part's answer; a wrong one is carried on
    gives: str = Field(default="", max_length=40)
    # stands under the lettered part before it, as (i), (ii) and so on
    under: bool = False
    # whether it has to be answered before a student may hand in, while there is time
    required: bool = False
    hints: tuple[Hint, ...] = Field(default=(), max_length=5)
    feedback: Feedback = Feedback()
    # the author's own tests, with line maths in them that may use parameters between dollar signs
    trials: tuple[Trial, ...] = Field(default=(), max_length=30)
    solution: Said = Field(default="", max_length=10_000)

    @model_validator(mode="before")
    @classmethod
    def unmarked(cls, given: Any) -> Any:
        """A kind that earns no marks has none, whatever is said."""
        answer = given.get("answer") if isinstance(given, dict) else None
        name = answer.get("kind") if isinstance(answer, dict) else getattr(answer, "kind", "")
        kind = KINDS.get(name) if isinstance(name, str) else None
        return given if kind is None or kind.document.marked else {**given, "marks": 0}

    @property
    def lines_before(self) -> tuple[str, ...]:
        """What stands before each line to write on; nothing for the usual word."""
        return tuple(piece.strip() for piece in self.before.split(";") if piece.strip())

    @property
    def printed_after(self) -> str:
        """What is printed after the answer space: a unit that is given, or else what the author wrote there."""
        return self.answer.unit_given or self.after


ROMAN = "i ii iii iv v vi vii viii ix x xi xii xiii xiv xv xvi xvii xviii xix xx".split()


@dataclass(frozen=True, slots=True)
class PartLabel:
    """How a part is called: ``(b)``, or ``(ii)`` where it stands under one with a letter."""

    letter: str = ""
    numeral: str = ""

    @property
    def short(self) -> str:
        """As it stands before the part."""
        return f"({self.numeral or self.letter})" if self.letter else ""

    @property
    def full(self) -> str:
        """As it is spoken of elsewhere: ``(b)(ii)``."""
        return self.short if not self.numeral else f"({self.letter})({self.numeral})"


class QuestionDocument(Strict):
    """A question as it is written, kept and exchanged."""

    format: Literal["vorlage-question-3"] = FORMAT
    title: str = Field(min_length=1, max_length=200)
    wording: Said = Field(default="", max_length=20_000)
    parameters: tuple[Parameter, ...] = Field(default=(), max_length=60)
    conditions: tuple[Annotated[str, HOLDS_LINE], ...] = Field(default=(), max_length=40)
    tables: tuple[DataTable, ...] = Field(default=(), max_length=10)
    figures: tuple[FigureSource, ...] = Field(default=(), max_length=10)
    pictures: tuple[PictureSource, ...] = Field(default=(), max_length=10)
    parts: tuple[Part, ...] = Field(min_length=1, max_length=20)
    # draws that no change may break
    pins: tuple[Pin, ...] = Field(default=(), max_length=20)
    angle: Literal["radians", "degrees"] = "degrees"
    # whether i is the imaginary unit
    complex: bool = False
    # whether students are not offered the signs to type
    no_signs: bool = False

    @property
    def marks(self) -> Decimal:
        return total_marks(part.marks for part in self.parts)

    @property
    def in_order(self) -> QuestionDocument:
        """The same question with its options as they are written, whatever it says of them."""
        parts = tuple(
            part.model_copy(update={"answer": part.answer.model_copy(update={"shuffle": False})})
            if getattr(part.answer, "shuffle", False)
            else part
            for part in self.parts
        )
        return self.model_copy(update={"parts": parts})

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of its answers, each once, in the order of the parts."""
        return tuple(dict.fromkeys(part.answer.kind for part in self.parts))

    @property
    def labels(self) -> tuple[PartLabel, ...]:
        """The label of every part; a question with one part has none."""
        if len(self.parts) == 1:
            return (PartLabel(),)
        labels: list[PartLabel] = []
        letter, numeral = 0, 0
        for k, part in enumerate(self.parts):
            if part.under and k:
                numeral += 1
                labels.append(PartLabel(LETTERS[letter - 1].lower(), ROMAN[numeral - 1]))
            else:
                letter, numeral = letter + 1, 0
                labels.append(PartLabel(LETTERS[letter - 1].lower()))
        return tuple(labels)


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong with a document: the path to the field, a code, and words; which characters of the field are meant
    and what could stand in their place, where that is known."""

    path: tuple[str | int, ...]
    code: str
    message: str
    place: int = 0
    length: int = 0
    instead: str = ""


class DocumentError(CoreError, ValueError):
    """A document that is not a question; ``faults`` says where and what."""

    def __init__(self, faults: list[Fault]) -> None:
        first = faults[0]
        super().__init__(first.code, f"{' ▸ '.join(str(step) for step in first.path)}: {first.message}")
        self.faults = faults


class FiledDocument(QuestionDocument):
    """A question as it leaves one installation for another: the document, and where it was filed."""

    filing: Filing = Filing()

    def parted(self) -> tuple[QuestionDocument, Filing]:
        """What the question says, and where it is filed."""
        said = {name: getattr(self, name) for name in QuestionDocument.model_fields}
        return QuestionDocument.model_construct(**said), self.filing


def put_right_in(raw: Any) -> Any:
    """A document's JSON object with all its texts put right."""
    if isinstance(raw, str):
        return put_right(raw)
    if isinstance(raw, dict):
        return {key: put_right_in(value) for key, value in raw.items()}
    if isinstance(raw, list | tuple):
        return [put_right_in(value) for value in raw]
    return raw


def load_filed(raw: Any) -> tuple[QuestionDocument, Filing]:
    """The document and its filing from their JSON object, of this format or an older one. Raises ``DocumentError``."""
    if not isinstance(raw, dict):
        raise DocumentError([Fault((), "no_object", "A question document is a JSON object.")])
    try:
        return FiledDocument.model_validate(put_right_in(upgraded(raw))).parted()
    except UnknownFormat as problem:
        raise DocumentError([Fault(("format",), problem.code, problem.message)]) from None
    except ValidationError as problem:
        errors = problem.errors()
        # a list whose members are wrong is reported as too short as well
        told = [error for error in errors if error["type"] != "too_short"] or errors
        faults = [Fault(plain_place(error["loc"]), error["type"], plain_message(error)) for error in told]
        raise DocumentError(faults) from problem


def load_document(raw: Any) -> QuestionDocument:
    """The document from its JSON object, wherever it is filed. Raises ``DocumentError``."""
    return load_filed(raw)[0]


def plain_place(place: tuple[str | int, ...]) -> tuple[str | int, ...]:
    """The place without the names of the kinds of answer that were tried."""
    before = ("", *place)
    return tuple(step for last, step in zip(before, place) if not (last == "answer" and step in KINDS))


MESSAGES = {
    "missing": "This is needed.",
    "extra_forbidden": "This is not part of a question document.",
    "string_too_short": "Nothing is written here yet.",
    "int_parsing": "A whole number is needed here.",
    "int_from_float": "A whole number is needed here.",
    "string_type": "Text is needed here.",
    "union_tag_invalid": "This kind of answer is not known.",
    "union_tag_not_found": "The kind of answer is missing.",
}


FEW = {
    "parts": "part is", "options": "options are", "pairs": "pairs are", "items": "items are", "gaps": "gap is",
    "accept": "accepted answer is", "columns": "column is", "rows": "row below the heads is",
    "regions": "region is",
}  # fmt: skip
NUMBER_WORDS = {1: "one", 2: "two"}


def plain_message(error: Any) -> str:
    known: str | None = MESSAGES.get(error["type"])
    if known:
        return known
    message = str(error["msg"]).removeprefix("Value error, ")
    limits = error.get("ctx", {})
    if error["type"] == "too_short":
        what = FEW.get(str(error["loc"][-1]), "of them")
        return f"At least {NUMBER_WORDS.get(limits['min_length'], limits['min_length'])} {what} needed."
    if error["type"] == "string_too_long":
        return f"At most {limits['max_length']:,} characters."
    if error["type"] == "string_pattern_mismatch":
        return "A name begins with a letter and has letters, figures and low lines only."
    if error["type"] in {"less_than_equal", "greater_than_equal"}:
        return f"This has to be {'at most' if 'le' in limits else 'at least'} {limits.get('le', limits.get('ge'))}."
    return message


def schema() -> dict[str, Any]:
    """The JSON Schema of question documents, with their filing."""
    return FiledDocument.model_json_schema()
