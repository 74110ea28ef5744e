"""Questions of a text or a table as they would be: a sheet of each with its key, before anything is kept."""

from __future__ import annotations

import re
import time
import uuid
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.draws import DrawError
from vorlage.core.errors import CoreError
from vorlage.core.exchange.drafted import Drafted, Remark
from vorlage.core.exchange.office import OfficeError, is_office, text_of
from vorlage.core.exchange.plain import Place, TooMuch, read_plain
from vorlage.core.exchange.tables import QUESTIONS, NoQuestions, head_of, read_table
from vorlage.core.notation import Habits, Settings
from vorlage.core.questions import (
    CompiledQuestion,
    Filing,
    QuestionDocument,
    QuestionDrawing,
    VaryingError,
    varied_by,
    written_paths,
)
from vorlage.core.tables import TableError, as_text, decoded, read_file, read_text
from vorlage.web.desk.form import Desk
from vorlage.web.desk.local import by_habits
from vorlage.web.desk.models import Draft
from vorlage.web.desk.preview import Preview
from vorlage.web.desk.sheet import sheet_of
from vorlage.web.people.models import Department, User

# What a sheet may take, in steps and seconds of the processor, and all of them together, in seconds.
STEPS, SECONDS, ALTOGETHER = 300_000, 0.5, 4.0
# A remark that so many questions have is said once.
OFTEN = 3


class Unread(ValueError):
    """A text in which no question was found, with what to do about it."""


@dataclass(eq=False)
class Looked:
    """A question as it lies in the preview: its number, what was read, and its sheet."""

    number: int
    drafted: Drafted
    document: QuestionDocument | None = None
    filing: Filing = field(default_factory=Filing)
    preview: Preview | None = None
    # what keeps it from being drawn
    trouble: str = ""
    guesses: list[Remark] = field(default_factory=list)

    @property
    def topics(self) -> str:
        """Where it would be filed."""
        return written_paths(self.filing.topics)

    @property
    def takeable(self) -> bool:
        return self.document is not None

    @property
    def whole(self) -> bool:
        """Whether it can go into the bank as it is."""
        return self.document is not None and not self.drafted.lacking and not self.trouble


@dataclass
class Found:
    """What stands in a text: whether that is a table, its questions, what belongs to none, and what is said of many."""

    text: str
    tabular: bool
    questions: list[Looked]
    unread: list[Remark]
    often: list[tuple[str, int]] = field(default_factory=list)


def place_of(department: Department) -> Place:
    return Place(department.habits, tuple(department.level_names), tuple(name for _, name in department.demands))


def is_table(text: str) -> bool:
    """Whether the first line is the heads of a table of questions."""
    first = next((line for line in text.splitlines() if line.strip()), "")
    return any(
        len(cells) > 1 and "wording" in (heads := [head_of(cell.strip('" ')) for cell in cells]) and "answer" in heads
        for cells in (first.split(sign) for sign in "\t;,|")
    )


def text_in(content: bytes) -> str:
    """The text of a file: a table as one that can be mended. Raises ``Unread``."""
    try:
        if content.startswith(b"PK"):
            return text_of(content) if is_office(content) else as_text(read_file(content, QUESTIONS))
        text, _ = decoded(content, QUESTIONS)
    except (TableError, OfficeError) as problem:
        raise Unread(problem.message) from None
    return text


def found_in(text: str, department: Department) -> Found:
    """The questions of a text that was pasted or came in a file. Raises ``Unread``."""
    if not text.strip():
        raise Unread("Paste some questions, or choose a file.")
    tabular = is_table(text)
    try:
        if tabular:
            drafted, unread = read_table(read_text(text, QUESTIONS), place_of(department)), list[Remark]()
        else:
            reading = read_plain(text, place_of(department))
            drafted, unread = reading.questions, reading.unread
    except (TooMuch, TableError, NoQuestions) as problem:
        raise Unread(str(problem)) from None
    if not drafted:
        raise Unread("No question was found in this. A question begins with its number, such as “1.”.")
    found = Found(text, tabular, [Looked(number, each) for number, each in enumerate(drafted, 1)], unread)
    said_once(found)
    for looked in found.questions:
        load(looked, department.habits)
    return found


def load(looked: Looked, habits: Habits) -> None:
    loaded = looked.drafted.loaded(habits)
    if loaded is not None:
        looked.document, looked.filing = loaded


def said_once(found: Found) -> None:
    """Guesses that many questions have are said once, above all."""
    counts = Counter(words for each in found.questions for words in {guess.words for guess in each.drafted.guesses})
    often = {words for words, count in counts.items() if count >= OFTEN}
    found.often = [(words, counts[words]) for words in sorted(often)]
    for each in found.questions:
        each.guesses = [guess for guess in each.drafted.guesses if guess.words not in often]


def vary(looked: Looked, formula: str, habits: Habits) -> None:
    """The question with the numbers of a formula drawn. Raises ``VaryingError``."""
    if looked.document is None or not looked.drafted.answer:
        raise VaryingError("This question has no number as its answer.")
    found = varied_by(looked.drafted.asked, looked.drafted.answer, formula, habits.reading(Settings()))
    raw: dict[str, Any] = looked.document.model_dump(mode="json")
    part = raw["parts"][0]
    raw["wording"], part["wording"] = "", found.wording
    if any(each.written.split()[0] in raw["title"] for each in found.numbers):
        # what varies is not in the title
        raw["title"] = re.sub(r"\s*\$[^$]*\$", " …", " ".join(found.wording.split()[:9]))
    raw["parameters"] = [
        {"name": each.name, "definition": each.definition, "unit": each.unit, "shown": each.shown or "exact"}
        for each in found.numbers
    ]
    raw["conditions"] = [found.condition] if found.condition else []
    mode, close = found.close
    part["answer"] |= {"key": found.key, "tolerance": {"mode": mode, "value": close}}
    again = Drafted(looked.drafted.line, raw)
    loaded = again.loaded()
    if loaded is None:
        raise VaryingError(again.faults[0].words)
    looked.document = loaded[0]


def lay_out(questions: Iterable[Looked], habits: Habits) -> None:
    """Draw the sheet of each, as long as there is time for all of them."""
    until = time.monotonic() + ALTOGETHER
    for looked in questions:
        if looked.document is not None and time.monotonic() < until:
            lay_one(looked, habits)


def lay_one(looked: Looked, habits: Habits) -> None:
    if looked.document is None:
        return
    try:
        with budgeted(STEPS, SECONDS):
            # the options in the order in which they were brought, to be compared with what was
            compiled = CompiledQuestion(looked.document.in_order, habits)
            if compiled.problems:
                looked.trouble = compiled.problems[0].message
                return
            drawn = QuestionDrawing(compiled, f"preview-{looked.number}", 1).draw(1)
            looked.preview = Preview(sheet=sheet_of(drawn))
    except (OutOfBudget, DrawError, CoreError) as problem:
        looked.trouble = str(problem)


def desk_of(looked: Looked, habits: Habits) -> Desk:
    """The desk with a question on it; where an answer is missing there is an empty one."""
    if looked.document is None:
        raise ValueError("There is no question to lay on the desk.")
    desk = by_habits(Desk.from_document(looked.document, looked.filing), habits)
    for k in looked.drafted.lacking:
        desk.parts[k].kind, desk.parts[k].marks = "number", str(looked.drafted.raw["parts"][k].get("marks", "1"))
    return desk


def keep_drafts(user: User, department: Department, chosen: Iterable[Looked]) -> list[Draft]:
    """Keep questions as drafts of somebody."""
    drafts = []
    for looked in chosen:
        desk = desk_of(looked, department.habits)
        drafts.append(
            Draft(user=user, department=department, key=uuid.uuid4(), title=desk.title[:200], fields=desk.as_draft())
        )
    # the first of them is the one that was changed last, and stands first
    return Draft.objects.bulk_create(drafts[::-1])[::-1]
