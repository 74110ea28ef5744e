"""Everything the desk shows that is computed: the sheet, the draw table, messages, the tried answer."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, field, replace
from decimal import Decimal

from django.urls import reverse
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.algebra import Compiled, EvaluationError, approximate
from vorlage.core.answers import (
    UNCHECKED,
    Answer,
    ChemicalAnswer,
    Criterion,
    DrawnNumber,
    DrawnQuantity,
    EssayAnswer,
    QuantityAnswer,
    ScaleAnswer,
    TrueFalseAnswer,
    Verdict,
    ruler,
)
from vorlage.core.documents import NO_LINE
from vorlage.core.draws import Choice, DrawError, Formula, Range, read_definition, readable
from vorlage.core.formulas import Fitting, fitting
from vorlage.core.notation import (
    Drawn,
    Name,
    Neg,
    Node,
    NotationError,
    Number,
    Quantity,
    Settings,
    Style,
    Text,
    line,
    mathml,
    noted,
    read_authored,
    read_chemical,
)
from vorlage.core.questions import (
    LOOKED_AT,
    DrawnQuestion,
    PartLabel,
    Problem,
    Question,
    TrialResult,
    Warning,
    run_trials,
    soundness,
)

from .desk_form import Desk
from .rows import ParameterRow

DRAWS = LOOKED_AT
MOST_ROWS = 200
# The last draw that can be asked for where there are more than can be counted.
FURTHEST = 1_000_000
UNKNOWN_NAME = re.compile(r"(\S+) is not a parameter of this question\.")
AUTHOR_STYLE = Style(show_drawn=True)
UPLOADED = re.compile(r'href="picture:([0-9a-f]{64})"')
FIGURE_SPACE, MARK_SPACE = "\u2007", "\u2008"


@dataclass(frozen=True)
class Message:
    """What is wrong with a field, and which of its characters are meant."""

    text: str
    before: str = ""
    marked: str = ""
    after: str = ""
    # a letter that could become a parameter
    offer: str = ""
    # the field in which the place is marked
    field: str = ""

    @property
    def place(self) -> int:
        return len(self.before)

    @property
    def length(self) -> int:
        return len(self.marked)

    @property
    def in_text(self) -> bool:
        """Whether the place lies in a text of several lines, which cannot be marked in its field."""
        return self.field.endswith(("wording", "solution"))


@dataclass(frozen=True)
class Column:
    """A column of the draw table."""

    head: SafeString
    unit: str
    cells: list[SafeString]
    varies: bool
    numeric: bool
    # what its cells are sorted by
    keys: list[tuple[int, float, str]]


@dataclass(frozen=True)
class DrawRow:
    """A draw in the table; a pinned one has a number below 0."""

    number: int
    cells: list[tuple[SafeString, Column]]
    warned: bool
    # what was drawn, to pin it
    values: str
    # what has broken a pinned draw
    broken: str = ""

    @property
    def pin(self) -> int:
        """Which pin it is, from 1; 0 for other draws."""
        return max(0, -self.number)


@dataclass(frozen=True)
class SheetPart:
    """A part as it lies on the sheet."""

    label: PartLabel
    wording: SafeString
    marks: Decimal
    after: str
    key: SafeString
    accepted: str
    solution: SafeString
    kind: str = "number"
    # what is offered for choosing: (letter, markup), and for pairs the lines at the left
    offers: list[tuple[str, SafeString]] = field(default_factory=list)
    lefts: list[tuple[str, SafeString]] = field(default_factory=list)
    steps: list[int] = field(default_factory=list)
    low: str = ""
    high: str = ""

    has_blank: bool = False
    rubric: tuple[Criterion, ...] = ()
    # the figure with the regions of the key
    key_picture: SafeString = field(default_factory=SafeString)
    spoken: list[str] = field(default_factory=list)

    @property
    def has_line(self) -> bool:
        return self.kind not in NO_LINE and not self.has_blank


@dataclass(frozen=True)
class RulerPicture:
    """The number line as it is drawn, 1000 wide; places outside stand at its ends."""

    part: int
    key: float
    key_text: str
    low: str
    high: str
    # left and width of the full marks; of each band also its share, its line on the desk, and what dragging
    # its edge changes
    full: tuple[float, float]
    bands: list[tuple[float, float, str, int, str]]
    # (place, share, words, row) of slips and of the answer that was tried
    slips: list[tuple[float, str, str]]
    tried: float | None
    # answers that were tried before: (place, words, outcome)
    earlier: list[tuple[float, str, str]]
    # what dragging an edge changes: "relative", "absolute" or nothing
    drags: str
    key_value: float
    scale: float

    @property
    def edges(self) -> list[tuple[float, float]]:
        """The edges of the full marks: where the handle begins, and where the edge is."""
        ends = (self.full[0], self.full[0] + self.full[1])
        return [(round(end - 5, 1), round(end, 1)) for end in ends]

    @property
    def band_edges(self) -> list[tuple[float, float, int, str]]:
        """The edges of the bands that can be dragged: handle, edge, line of the band, what it changes."""
        return [
            (round(end - 4, 1), round(end, 1), line, drags)
            for left, width, _, line, drags in self.bands
            for end in (left, left + width)
            if drags and 0 < end < 1000
        ]


def draggable(mode: str) -> str:
    return mode if mode in {"relative", "absolute"} else ""


def ruler_picture(
    part: int, answer: DrawnNumber, tried: float | None, earlier: list[tuple[float, str, str]]
) -> RulerPicture:
    found = ruler(answer)
    scale = 1000 / (found.high - found.low)

    def place(value: float) -> float:
        return round(min(1000.0, max(0.0, (value - found.low) * scale)), 1)

    def width(low: float, high: float) -> tuple[float, float]:
        return place(low), round(max(3.0, place(high) - place(low)), 1)

    return RulerPicture(
        part,
        place(found.key),
        found.key_text,
        f"{found.low:.4g}",
        f"{found.high:.4g}",
        width(found.full.low, found.full.high),
        [
            (*width(band.low, band.high), band.share, line, draggable(band.mode))
            for line, band in sorted(enumerate(found.bands), key=lambda each: each[1].low - each[1].high)
        ],
        [(place(slip.place), slip.share, slip.words) for slip in found.slips],
        None if tried is None else place(tried),
        [(place(value), words, outcome) for value, words, outcome in earlier],
        draggable(found.full.mode),
        found.key,
        scale,
    )


@dataclass
class Preview:
    """The computed half of the desk."""

    messages: dict[str, list[Message]] = field(default_factory=dict)
    # whether the question can be saved
    sound: bool = False
    marks: Decimal = Decimal(0)
    count: int | None = None
    counted: bool = False
    draw: int = 1
    wording: str = ""
    spoken: list[str] = field(default_factory=list)
    parts: list[SheetPart] = field(default_factory=list)
    columns: list[Column] = field(default_factory=list)
    rows: list[DrawRow] = field(default_factory=list)
    warnings: list[Warning] = field(default_factory=list)
    # what has broken pinned draws, by their numbers
    broken: dict[int, str] = field(default_factory=dict)
    # why there is no table, when there is none
    no_draws: str = ""
    # how many rows the draw table has, and the column it is sorted by ("" or a number, "-" before it: downwards)
    limit: int = DRAWS
    more: bool = False
    sort: str = ""
    # the part that is tried: information is passed over
    tried_part: int = 0
    # letters of the wording that could become parameters
    letters: list[str] = field(default_factory=list)
    tried_out: list[TrialResult] = field(default_factory=list)
    # how the answer of each part is read, by the part's row
    readings: dict[str, SafeString] = field(default_factory=dict)
    # formulas of the book for parts whose answer is still empty, by the part's row
    offers: dict[str, list[Fitting]] = field(default_factory=dict)
    # the author's own tests by the part's row: answer, what it has to be, and in which draws it is something else
    trials: dict[str, list[TrialResult]] = field(default_factory=dict)
    verdict: Verdict | None = None
    ruler: RulerPicture | None = None
    reading: str = ""

    @property
    def pin(self) -> int:
        """Which pinned draw lies on the sheet; 0 or less for other draws."""
        return -self.draw


def safe(markup: str) -> SafeString:
    """Markup that the core's printers and its sanitiser wrote; uploaded pictures get their addresses."""
    return mark_safe(UPLOADED.sub(lambda found: f'href="{reverse("picture", args=[found[1]])}"', markup))


@dataclass(frozen=True)
class Wish:
    """What the author wants to see of a question."""

    draw: int = 1
    tried: str = ""
    tried_part: int = 0
    rows: int = DRAWS
    sort: str = ""
    # answers that were tried before, marked on the ruler
    earlier: tuple[str, ...] = ()


def preview(desk: Desk, key: str, revision: int, wish: Wish = Wish()) -> Preview:
    """Compute all that the desk shows for its present fields."""
    shown = Preview(draw=wish.draw or 1, limit=max(DRAWS, min(MOST_ROWS, wish.rows)), sort=wish.sort)
    document, problems = desk.document()
    shown.offers = book_offers(desk)
    if document is None:
        shown.no_draws = "The draws appear as soon as the fields make a question."
        note_messages(shown, desk, problems)
        return shown
    question = Question(document)
    stood_in = {
        problem.path[1] for problem in problems if problem.path[:1] == ("parts",) and problem.path[2:3] == ("answer",)
    }
    for k in range(len(question.checkers)):
        if k in stood_in:
            # what stands in for an answer that cannot be used is not shown as one, and nothing is said of it
            question.checkers[k] = None
    problems += [
        problem
        for problem in question.problems
        if not (problem.path[:1] == ("parts",) and problem.path[1] in stood_in and problem.path[2:3] == ("answer",))
    ]
    shown.marks = document.marks
    shown.letters = question.letters[:6]
    asked = [k for k, part in enumerate(document.parts) if part.answer.kind != "none"]
    shown.tried_part = wish.tried_part if wish.tried_part in asked else (asked or [0])[0]
    shown.sound = not problems
    if not question.parameters.errors:
        shown.count, shown.counted = question.parameters.count, True
        draw_all(shown, question, key, revision, wish)
    else:
        shown.no_draws = "Mend the rows marked above; the draws appear at once."
        stand_in(shown, question)
    note_messages(shown, desk, problems)
    for result in shown.tried_out:
        if result.part < len(desk.parts):
            shown.trials.setdefault(desk.parts[result.part].uid, []).append(result)
    for row, part in zip(desk.parts, document.parts):
        if not row.key.strip():
            continue
        shown.readings[row.uid] = key_reading(part.answer, question.settings)
    return shown


def book_offers(desk: Desk) -> dict[str, list[Fitting]]:
    """What the formula book has for parts without an answer, from the parameters and the words of the question."""
    names = {row.name.strip(): row.unit.strip() for row in desk.parameters if row.name.strip() and is_number(row)}
    offers = {}
    for part in desk.parts:
        if part.kind in {"number", "quantity"} and not part.key.strip():
            unit = part.unit if part.kind == "quantity" else part.after
            offers[part.uid] = fitting(names, unit.strip(), f"{desk.wording} {part.wording}")
    return {uid: found for uid, found in offers.items() if found}


def is_number(row: ParameterRow) -> bool:
    """Whether a parameter is a number that is drawn or given, and not computed from others."""
    try:
        definition = read_definition(row.definition, Settings())
    except (DrawError, NotationError):
        return False
    if isinstance(definition, Formula):
        return not definition.names
    return isinstance(definition, Range) or (
        isinstance(definition, Choice) and not isinstance(definition.values[0], str)
    )


def key_reading(answer: Answer, settings: Settings) -> SafeString:
    """The key as it is read, and how it could be meant otherwise; nothing where it cannot be read."""
    key = getattr(answer, "key", "")
    if not key or isinstance(answer, TrueFalseAnswer):
        return SafeString("")
    try:
        with noted() as notes:
            tree = read_chemical(key) if isinstance(answer, ChemicalAnswer) else read_authored(key, settings)
    except NotationError:
        return SafeString("")
    otherwise = escape(" " + notes[0]) if notes else ""
    return safe(f"{mathml(tree)}{otherwise}")


def note_messages(shown: Preview, desk: Desk, problems: list[Problem]) -> None:
    for problem in problems:
        field_name, text = desk.input_of(problem.path)
        unknown = UNKNOWN_NAME.match(problem.message)
        offer = unknown[1] if unknown else ""
        words = problem.message
        if "gaps" in problem.path[:-1]:
            # the rows of the gaps have one place for messages together
            words = f"Gap {int(problem.path[problem.path.index('gaps') + 1]) + 1}: {words}"
        message = Message(words, offer=offer)
        start, end = problem.place, problem.place + problem.length
        if not problem.length and not field_name.endswith(("wording", "solution")):
            # all of the field is meant
            start, end = 0, len(text)
        if start < end <= len(text) and len(text) <= 200:
            message = Message(problem.message, text[:start], text[start:end], text[end:], offer, field_name)
        shown.messages.setdefault(desk.field_of(problem.path), []).append(message)


def stand_in(shown: Preview, question: Question) -> None:
    """The sheet without draws: names stand where values will."""
    style = AUTHOR_STYLE
    shown.wording = safe(question.wording.html(lambda tree, block: mathml(tree, style, block)))
    for k, part in enumerate(question.document.parts):
        wording = safe(question.part_wordings[k].html(lambda tree, block: mathml(tree, style, block)))
        empty = SafeString("")
        shown.parts.append(
            SheetPart(question.document.labels[k], wording, part.marks, part.printed_after, empty, "", empty)
        )


def part_label(question: Question, part: int) -> str:
    return question.document.labels[part].full


def draw_all(shown: Preview, question: Question, key: str, revision: int, wish: Wish) -> None:
    available = question.parameters.count or shown.limit
    limit = min(shown.limit, available)
    shown.more = available > limit and limit < MOST_ROWS
    shown.draw = min(shown.draw, max(limit, question.parameters.count or FURTHEST))
    if shown.draw < -len(question.document.pins):
        shown.draw = 1
    # a draw that was asked for stands below the others
    wanted = [*range(1, limit + 1), shown.draw] if shown.draw > 0 else range(1, limit + 1)
    judged = soundness(question, key, revision, wanted)
    if not judged.drawn:
        shown.no_draws = judged.problems[-1].message
        shown.sound = False
        stand_in(shown, question)
        return
    everything = [item for item, _ in judged.pinned] + judged.drawn
    chosen = next(item for item in everything if item.draw.number == shown.draw)
    shown.warnings, shown.broken = judged.warnings, judged.broken
    shown.sound = shown.sound and not (judged.fatal or judged.broken)
    lay_sheet(shown, chosen)
    fill_table(shown, question, everything)
    if wish.tried.strip():
        try_answer(shown, chosen, wish.tried, shown.tried_part)
    draw_ruler(shown, chosen, shown.tried_part, wish.earlier)
    shown.tried_out = run_trials(question, judged.drawn[:DRAWS])


def lay_sheet(shown: Preview, drawn: DrawnQuestion) -> None:
    question = drawn.question
    shown.wording = safe(drawn.html(question.wording, AUTHOR_STYLE))
    shown.spoken = drawn.spoken(question.wording)
    for k, part in enumerate(question.document.parts):
        tree, answer = drawn.key_tree(k), drawn.answers[k]
        offered = [(label, safe(drawn.html(text, AUTHOR_STYLE))) for label, text in drawn.offered(k)]
        scale = part.answer if isinstance(part.answer, ScaleAnswer) else None
        shown.parts.append(
            SheetPart(
                question.document.labels[k],
                safe(drawn.part_html(k, AUTHOR_STYLE)),
                part.marks,
                part.printed_after,
                safe(mathml(Drawn(tree, "key"), AUTHOR_STYLE)) if tree is not None else SafeString("–"),
                "" if answer is None else answer.closeness(),
                safe(drawn.solution_html(k, AUTHOR_STYLE)),
                part.answer.kind,
                [pair for pair in offered if not pair[0].isdecimal()],
                [pair for pair in offered if pair[0].isdecimal()],
                list(range(scale.steps)) if scale else [],
                scale.low if scale else "",
                scale.high if scale else "",
                question.part_wordings[k].has_blank,
                part.answer.rubric if isinstance(part.answer, EssayAnswer) else (),
                safe(drawn.key_picture(k)),
                drawn.spoken(question.part_wordings[k]),
            )
        )


def fill_table(shown: Preview, question: Question, drawn: list[DrawnQuestion]) -> None:
    for name in question.parameters.names:
        columns = question.parameters.columns_of(name)
        # a drawn row is known by its first cell
        trees = [item.shown_values.get(f"{name}.{columns[0].name}" if columns else name) for item in drawn]
        readables = [
            readable(item.values[name])
            if not columns and question.shown[name].way == "exact" and name in item.values
            else tree
            for item, tree in zip(drawn, trees)
        ]
        head = safe(mathml(name_tree(name)))
        shown.columns.append(column(head, question.units.get(name, ""), readables))
    for k, part in enumerate(question.document.parts):
        if part.answer.kind in UNCHECKED:
            continue
        head = escape(part_label(question, k) or "Answer")
        keys = [item.key_tree(k) for item in drawn]
        if isinstance(part.answer, QuantityAnswer):
            # the unit stands in the head, so that the numbers can be compared
            amounts = [key.amount if isinstance(key, Quantity) else key for key in keys]
            shown.columns.append(column(head, part.answer.unit, amounts))
        else:
            shown.columns.append(column(head, part.after, keys))
    warned = {number for warning in shown.warnings for number in warning.draws}
    for place, item in enumerate(drawn):
        number = item.draw.number
        cells = [(col.cells[place], col) for col in shown.columns]
        values = json.dumps(question.parameters.drawn_values(item.values))
        shown.rows.append(DrawRow(number, cells, number in warned, values, shown.broken.get(number, "")))
    place = shown.sort.removeprefix("-")
    if place.isdecimal() and int(place) < len(shown.columns):
        ordered = sorted(range(len(drawn)), key=shown.columns[int(place)].keys.__getitem__)
        shown.rows = [shown.rows[k] for k in (reversed(ordered) if shown.sort.startswith("-") else ordered)]


def name_tree(name: str) -> Node:
    return Name(name) if len(name.partition("_")[0]) == 1 else Text(name)


def column(head: SafeString | str, unit: str, trees: list[Node | None]) -> Column:
    """Plain numbers are aligned on their decimal mark by spaces as wide as a figure and a mark."""
    texts = [line(tree) if tree is not None else "–" for tree in trees]
    numeric = all(tree is None or is_plain(tree) for tree in trees)
    varies = len(set(texts)) > 1
    if numeric:
        most = max((decimals(text) for text in texts), default=0)
        cells = [escape(padded(text.replace("-", "−"), most)) for text in texts]
    else:
        cells = [safe(mathml(tree)) if tree is not None else SafeString("–") for tree in trees]
    keys = [sort_key(tree, text) for tree, text in zip(trees, texts)]
    return Column(SafeString(head), unit, cells, varies, numeric, keys)


def sort_key(tree: Node | None, text: str) -> tuple[int, float, str]:
    """Numbers by size, before words by the alphabet."""
    try:
        return (0, approximate(Compiled(tree).value({})), "") if tree is not None else (2, 0.0, "")
    except EvaluationError:
        return 1, 0.0, text


def is_plain(tree: Node) -> bool:
    if isinstance(tree, Neg):
        tree = tree.operand
    return isinstance(tree, Number) and tree.exponent is None


def decimals(text: str) -> int:
    return len(text.partition(".")[2])


def padded(text: str, most: int) -> str:
    missing = most - decimals(text)
    mark = MARK_SPACE if most and "." not in text else ""
    return text + mark + FIGURE_SPACE * missing


def draw_ruler(shown: Preview, drawn: DrawnQuestion, part: int, earlier: tuple[str, ...]) -> None:
    """The number line of the part that is tried, when its answer is a number."""
    answer = drawn.answers[part]
    number = answer.number if isinstance(answer, DrawnQuantity) else answer
    if answer is None or not isinstance(number, DrawnNumber):
        return
    before = []
    for words in earlier:
        verdict = answer.check(words[:200])
        place = place_of(verdict)
        if place is not None:
            before.append((place, words, verdict.outcome))
    shown.ruler = ruler_picture(part, number, place_of(shown.verdict), before)


def place_of(verdict: Verdict | None) -> float | None:
    """Where a tried answer lies on the number line; None where it is no number."""
    value = verdict.value if verdict is not None else None
    return None if value is None or isinstance(value, str | Node) else approximate(value)


def try_answer(shown: Preview, drawn: DrawnQuestion, tried: str, part: int) -> None:
    answer = drawn.answers[part]
    if answer is None:
        return
    shown.verdict = answer.check(tried[:4000])
    said = drawn.question.document.parts[part].feedback.of(shown.verdict.outcome)
    if said:
        shown.verdict = replace(shown.verdict, feedback=(*shown.verdict.feedback, said))
    if shown.verdict.tree is not None:
        shown.reading = safe(mathml(shown.verdict.tree))
