"""Papers, keys and the archive of a form set, typeset by Typst.

User text reaches Typst only as quoted strings and through the printers, so it cannot become markup,
read a file or include another.
"""

from __future__ import annotations

import base64
import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from decimal import Decimal
from fractions import Fraction
from functools import cache, cached_property, lru_cache
from itertools import zip_longest
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Lock

import typst

from ..answers import LETTERS, Items, Options, Pairs, Ruled, Scale, Words, shown_marks
from ..figures import framed
from ..forms import KeyEntry, MadeForm, MadeItem, plain_amount
from ..notation import Habits, Node, NotationError, Style, quoted, read_authored, told
from ..notation import typst as typst_equation
from ..plans import Boundaries, Grade, Plan, Section
from ..quantities import is_unit
from ..questions import (
    CompiledQuestion,
    DrawnQuestion,
    QuestionDrawing,
    key_picture,
    thaw,
    written,
    written_part,
    written_solution,
)
from ..text import NARROW, TYPST, printable
from .filling import NO_MORE, STEP, STEPS, Extra, Rooms, Spot, read_spots, shared_out
from .look import Look, look_markup
from .page_codes import PageCode
from .pages import page_count

FOLDER = Path(__file__).parent
LAYOUT = (FOLDER / "layout.typ").read_text(encoding="utf-8")
# Millimetres of a page that are left for what stands above and below the room for working.
BESIDE_ROOM = 60
# A unit with more letters has its own width behind the answer line.
WIDE = 10
# A figure is surely not higher than so many millimetres.
FIGURE_HEIGHT = 125
MEASURED = "paper.typ"
UPLOADED = re.compile(r"picture:([0-9a-f]{64})")
FIXED_TIME = datetime(2026, 1, 1, tzinfo=UTC)
# A figure in a paragraph of its own, and the words of a text as markup: as many letters are worth a figure beside them.
A_FIGURE = "#picture("
ONE_FIGURE = re.compile(r'#block\[#(picture\("(?:[^"\\]|\\.)*", "(?:[^"\\]|\\.)*"(?:, number: \d+)?\));\]\s*')
TOLD = re.compile(r'"((?:[^"\\]|\\.)*)"')
LONG_ENOUGH = 120


USUAL_LOOK, NO_BOUNDARIES = Look(), Boundaries()


@dataclass(frozen=True, slots=True)
class Emblem:
    """The mark of a school: the hash of its picture, which is so many points wide and high."""

    digest: str
    width: int
    height: int
    school: str


@dataclass(frozen=True, slots=True)
class Heading:
    """What stands at the top of every paper of a form set."""

    title: str
    department: str = ""
    instructions: str = ""
    # the number by which the code on each page names the set; without one there are no codes
    form_set: int | None = None
    look: Look = USUAL_LOOK
    boundaries: Boundaries = NO_BOUNDARIES
    # what the marks are scaled to when they are added up
    maximum: Fraction | None = None
    # the mark of the school
    emblem: Emblem | None = None

    def total(self, plan: Plan) -> Fraction:
        """What all marks of a test are told as when they are added up."""
        return plan.marks if self.maximum is None else self.maximum

    def grades(self, plan: Plan) -> Sequence[Grade]:
        return self.boundaries.grades(self.total(plan))


@dataclass(frozen=True, slots=True)
class Holder:
    """Whose a paper is, where it is printed for somebody."""

    # the number by which the code on each page names them
    student: int
    name: str
    school_class: str = ""
    # where they sit
    seat: str = ""


@cache
def compiler() -> typst.Compiler:
    """The Typst compiler with the fonts that ship with the application, and no others."""
    return typst.Compiler(font_paths=[str(FOLDER / "fonts")], ignore_system_fonts=True)


def load_compiler() -> None:
    """Load the fonts and the layout now; otherwise the first paper does."""
    compiled(f"\n#setup({quoted('Vorlage')}, [])\n")


# One compiler remembers what it has laid out, and works for one thread at a time.
TYPESETTING = Lock()


def compiled(source: str, look: Look = USUAL_LOOK) -> bytes:
    """The PDF of a Typst document; the same source gives the same bytes."""
    with TYPESETTING:
        finished = compiler().compile(
            (look_markup(look) + LAYOUT + source).encode(), format="pdf", pdf_standards=["ua-1"], timestamp=FIXED_TIME
        )
    assert isinstance(finished, bytes)
    return finished


@cache
def measuring() -> tuple[TemporaryDirectory[str], typst.Compiler]:
    """A compiler that is asked where things stand, and the folder with what it reads."""
    folder = TemporaryDirectory()
    Path(folder.name, MEASURED).write_text("")
    fonts = [str(FOLDER / "fonts")]
    return folder, typst.Compiler(
        str(Path(folder.name, MEASURED)), root=folder.name, font_paths=fonts, ignore_system_fonts=True
    )


def spots(source: str, look: Look) -> list[Spot]:
    """Where the questions of a document begin and end."""
    with TYPESETTING:
        folder, asked = measuring()
        Path(folder.name, MEASURED).write_text(look_markup(look) + LAYOUT + source, encoding="utf-8")
        return read_spots(json.loads(asked.query("<spot>", field="value")))


def said(switch: bool) -> str:
    """A switch as Typst has it."""
    return str(switch).lower()


def tallest(source: str) -> int:
    """A height in millimetres that a text surely does not exceed: short lines, and every line a tall one."""
    return sum(11 * (1 + len(line) // 45) for line in source.splitlines() if line.strip())


def content(text: str) -> str:
    """A text as it stands; what no font has a sign for is left out, since nothing else could be printed then."""
    return f"[#{quoted(printable(text))};]"


def held_by(holder: Holder | None) -> str:
    """Whose a paper is, as arguments of its markup."""
    if holder is None:
        return ""
    named = {"name": holder.name, "class": holder.school_class, "seat": holder.seat}
    return "".join(f"{each}: {content(text)}, " for each, text in named.items() if text)


def instructed(text: str) -> str:
    return content(text) if text.strip() else "[]"


def in_gap(number: int, offered: int) -> str:
    """Where the answer of a gap goes on the answer sheet."""
    if not offered:
        return f"#line-boxes(({content(str(number))},))"
    letters = "".join(content(letter) + ", " for letter in LETTERS[:offered])
    return f"#strong({content(str(number))})#h(3mm)#letter-boxes(({letters}))"


RAISED = re.compile(r"\^([-−]?\d+)")


def words_or_unit(text: str) -> str:
    """What stands after an answer space, as text: the powers of a unit are raised."""
    shown = ""
    for k, piece in enumerate(RAISED.split(text.replace("*", "·")) if "^" in text else [text]):
        shown += f"#super[#{quoted(piece.replace('-', '−'))};]" if k % 2 else f"#{quoted(piece)};"
    return f"[{shown}]"


@lru_cache(maxsize=256)
def unit_after(text: str) -> str:
    """What stands behind a key: a unit as close as in a formula, words as far as words."""
    return f"#{quoted(NARROW if is_unit(text) else ' ')};#{words_or_unit(text)}" if text else ""


class Printing:
    """The documents of one form set, from what its forms froze."""

    def __init__(self, plan: Plan, heading: Heading, picture: Callable[[str], bytes] | None = None) -> None:
        self.plan = plan
        self.options = "options-across" if plan.across else "options"
        # the content of an uploaded picture (PNG or JPEG) by its hash
        self.picture = picture
        self.known = {source.digest for place in plan.questions for source in place.question.document.pictures}
        if heading.emblem is not None:
            self.known.add(heading.emblem.digest)
        self.heading = heading
        self.drawings = {
            (number, k): QuestionDrawing(each.question, each.key, each.revision)
            for number, place in enumerate(plan.places)
            for k, each in enumerate(place.candidates)
        }
        self.thawed: dict[str, list[DrawnQuestion]] = {}
        # so many pages have codes until a paper has more
        self.most_pages = 1

    def drawn(self, form: MadeForm) -> list[DrawnQuestion]:
        """The questions of a form with its numbers; the same for its paper and its key."""
        if form.code not in self.thawed:
            self.thawed[form.code] = [thaw(self.drawings[item.place, item.candidate], item.draw) for item in form.items]
        return self.thawed[form.code]

    def marks(self, marks: Fraction) -> str:
        """Marks as they are printed."""
        return quoted(self.told_marks(marks))

    def told_marks(self, marks: Fraction) -> str:
        return told(str(shown_marks(marks)), self.plan.habits)

    # papers

    def papers(self, forms: Sequence[MadeForm], holders: Sequence[Holder] = ()) -> bytes:
        """One PDF with the papers of these forms, each beginning on a page of its own; ``holders`` say whose they
        are."""
        while True:
            source, pairs = "", list(zip_longest(forms, holders))
            extra: list[Extra] = [NO_MORE] * len(forms)
            if self.heading.look.fill:
                source = "\n".join(self.paper(form, holder) for form, holder in pairs)
                measured = spots(self.document(self.heading.title, source), self.heading.look)
                extra = list(shared_out(measured, [self.rooms(form) for form in forms], self.heading.look))
            source = "\n".join(self.paper(form, holder, more) for (form, holder), more in zip(pairs, extra))
            finished = compiled(self.document(self.heading.title, source), self.heading.look)
            # how many pages there are is known when they are made: a paper has these at most
            most = page_count(finished) - len(forms) + 1 if self.heading.form_set is not None else 0
            if most <= self.most_pages:
                return finished
            self.most_pages = most

    def document(self, title: str, body: str) -> str:
        return f"\n#setup({quoted(title)}, [\n{UPLOADED.sub(self.content, body)}\n])\n"

    def content(self, found: re.Match[str]) -> str:
        """An uploaded picture in place of its hash, as a data address."""
        if found[1] not in self.known or self.picture is None:
            return found[0]
        raw = self.picture(found[1])
        kind = "png" if raw.startswith(b"\x89PNG") else "jpeg"
        return f"data:image/{kind};base64,{base64.b64encode(raw).decode()}"

    def codes(self, form: MadeForm, holder: Holder | None) -> str:
        """The codes of the pages of a paper, as a Typst array of pictures."""
        made_of = self.heading.form_set
        if made_of is None:
            return "()"
        student = None if holder is None else holder.student
        pages = range(1, self.most_pages + 1)
        return "(" + "".join(quoted(PageCode(made_of, form.code, page, student).svg()) + ", " for page in pages) + ")"

    def paper(self, form: MadeForm, holder: Holder | None = None, extra: Extra = NO_MORE) -> str:
        """The paper of a form as Typst markup; ``extra`` is what parts have for working beyond their own."""
        heading, look, body, before = self.heading, self.heading.look, "", -1
        for number, (drawn, item) in enumerate(zip(self.drawn(form), form.items), start=1):
            section = self.plan.section_of(item.place)
            if section != before:
                body += self.section(self.plan.sections[section], number)
                before = section
            own = {part: more for (place, part), more in extra.items() if place == number}
            body += self.question(number, drawn, item, own) + "\n"
        covered = f"covered: true, {self.cover(form)}" if look.cover else ""
        long = "long: true, " if "#long-question(" in body else ""
        sheet = f"sheet: ({self.sheet(form)}), " if look.sheet else ""
        held = f"{held_by(holder)}{self.emblem}{covered}{long}{sheet}"
        return (
            f"#paper(title: {content(heading.title)}, department: {content(heading.department)}, "
            f"code: {content(form.code)}, codes: {self.codes(form, holder)}, {held}"
            f"marks: {self.marks(self.plan.marks)}, instructions: {instructed(heading.instructions)}, [\n{body}])"
        )

    def rooms(self, form: MadeForm) -> list[Rooms]:
        """The room for working of every part of every question that has some, and by what it can grow."""
        found: list[Rooms] = []
        for drawn, item in zip(self.drawn(form), form.items):
            step = STEPS.get(self.plan.places[item.place].room.kind or self.heading.look.working, STEP)
            rooms = {k: self.room(drawn, item, k) for k in range(len(drawn.question.document.parts))}
            found.append({k: (room, step) for k, room in rooms.items() if room})
        return found

    @cached_property
    def emblem(self) -> str:
        """The mark of the school as an argument of the markup."""
        mark = self.heading.emblem
        if mark is None:
            return ""
        drawn = framed(f"picture:{mark.digest}", mark.width, mark.height, "")
        return f"emblem: ({quoted(drawn)}, {quoted(printable(mark.school))}), "

    def sheet(self, form: MadeForm) -> str:
        """What stands on the answer sheet: for every answer what it is called, and where it goes."""
        rows = ""
        for number, drawn in enumerate(self.drawn(form), start=1):
            document = drawn.question.document
            for k, (part, label) in enumerate(zip(document.parts, document.labels)):
                if part.answer.asks:
                    called = f"{number} {label.full}".strip()
                    rows += f"({content(called)}, [{self.field(drawn, k)}]), "
        return rows

    def field(self, drawn: DrawnQuestion, part: int) -> str:
        """Where the answer of a part goes on the answer sheet."""
        match drawn.space(part):
            case Options(shown):
                return f"#letter-boxes(({''.join(content(letter) + ', ' for letter, _ in shown)}))"
            case Words(words):
                return f"#letter-boxes(({''.join(f'[{word}], ' for word in words)}))"
            case Items() as items:
                return f"#order-boxes({len(items.entries)})"
            case Pairs(lefts):
                return f"#line-boxes(({''.join(content(number) + ', ' for number, _ in lefts)}))"
            case Scale(steps, low, high):
                return f"#scale-boxes({steps}, {content(low)}, {content(high)})"
            case _ if gaps := drawn.in_gaps(part):
                return "#h(6mm)".join(in_gap(number, len(offered)) for number, offered in enumerate(gaps, start=1))
            case _ if self.answers_on_line(drawn, part):
                after = words_or_unit(drawn.question.document.parts[part].printed_after)
                return f"#answer-line({after})"
        return "#emph(w.on-paper)"

    def cover(self, form: MadeForm) -> str:
        """What the cover says, as arguments of its markup: facts, and the marks of every question."""
        look, words = self.heading.look, self.heading.look.words
        tools = {section.calculator for section in self.plan.sections if self.has_places(section)}
        allowed = {True: words["allowed"], False: words["not-allowed"], None: ""}
        facts = [
            (words["time"], words["minutes"].format(look.minutes) if look.minutes else ""),
            (words["marks"].capitalize(), self.told_marks(self.plan.marks)),
            (words["calculator"], allowed[tools.pop()] if len(tools) == 1 else words["by-part"] if tools else ""),
            (words["materials"], look.materials),
        ]
        rows = []
        for number, item in enumerate(form.items, start=1):
            worth = sum((key.marks for key in item.keys), Fraction(0))
            beyond = "+" if self.plan.places[item.place].bonus else ""
            rows.append((str(number), beyond + self.told_marks(worth)))
        said = "".join(f"({content(name)}, {content(text)}), " for name, text in facts if text)
        table = "".join(f"({content(name)}, {content(text)}), " for name, text in rows)
        return f"facts: ({said}), rows: ({table}), "

    def has_places(self, section: Section) -> bool:
        return any(self.plan.sections[self.plan.section_of(k)] is section for k in range(len(self.plan.places)))

    def section(self, section: Section, number: int) -> str:
        """What stands above the questions of a section, whose first has this number; nothing where nothing is said."""
        words = self.heading.look.words
        tools = {True: words["calculator-allowed"], False: words["no-calculator"], None: ""}[section.calculator]
        turned = str(section.new_page and number > 1).lower()
        if not (section.title or section.text or tools or section.new_page):
            return ""
        said = ", ".join(content(each) if each else "none" for each in (section.title, section.text, tools))
        return f"#section({said}, turned: {turned})\n"

    def question(self, number: int, drawn: DrawnQuestion, item: MadeItem, extra: Mapping[int, float]) -> str:
        """A question as markup; ``extra`` is what its parts have for working beyond their own, in millimetres."""
        document, look = drawn.question.document, self.heading.look
        labels = document.labels
        body = "#beyond\n" if self.plan.places[item.place].bonus else ""
        stem = bool(document.wording.strip())
        body += (
            f"#asked[{self.set_beside(written(drawn, drawn.question.wording, TYPST, self.style(drawn)))}]\n"
            if stem
            else ""
        )
        height: float = tallest(document.wording) + FIGURE_HEIGHT * len(drawn.question.wording.figures)
        parts, together = [], list[tuple[bool, list[int]]]()
        for k, part in enumerate(document.parts):
            wording, room = drawn.question.part_wordings[k], self.room(drawn, item, k)
            offers, tall = self.offers(drawn, k)
            tall += FIGURE_HEIGHT * len(wording.figures)
            height += room + 16 + tallest(part.wording) + tall
            parts.append(self.part(drawn, item, k, (room, extra.get(k, 0.0)), offers))
            if not together or together[-1][0] != bool(labels[k].numeral):
                together.append((bool(labels[k].numeral), []))
            together[-1][1].append(k)
        fits = height * look.scale**2 < look.page_height
        for n, (under, numbers) in enumerate(together):
            if not labels[numbers[0]].letter:
                body += f"#block(width: 100%, above: 4mm, {parts[0]})\n"
                continue
            named = ", ".join(f"[{labels[k].short}]" for k in numbers)
            place = f"under: {said(under)}, first: {said(not n and not stem)}, together: {said(fits)}"
            body += f"#parts({place}, ({named},), {', '.join(parts[k] for k in numbers)})\n"
        marked = [key.marks for key in item.keys if key.marks]
        if len(marked) > 1:
            body += f"#total-of({number}, {self.marks(sum(marked, Fraction(0)))})\n"
        titled = self.plan.sections and self.plan.sections[self.plan.section_of(item.place)].title
        level = "level: 3, " if titled else ""
        return f"#{'question' if fits else 'long-question'}({number}, {level}[\n{body}\n])"

    def part(self, drawn: DrawnQuestion, item: MadeItem, k: int, room: tuple[float, float], offers: str) -> str:
        """A part as a call of the layout: what it asks, its room, with what it has beyond its own, and its line."""
        part, space = drawn.question.document.parts[k], drawn.space(k)
        answers = self.answers_on_line(drawn, k)
        wide = said(len(part.printed_after) > WIDE)
        kind = f"kind: {quoted(wished)}, " if (wished := self.plan.places[item.place].room.kind) else ""
        after = f"after: {words_or_unit(part.printed_after)}, wide: {wide}, answer: {said(answers)}"
        if isinstance(space, Items):
            after += f", ordered: {len(space.entries)}"
        space_for = f"room: {room[0]:g}mm" + (f", more: {room[1]:g}mm" if room[1] else "")
        text = self.set_beside(written_part(drawn, k, TYPST, self.style(drawn))) + offers
        return f"part(marks: {self.marks(item.keys[k].marks)}, {kind}{space_for}, {after}, [{text}])"

    def style(self, drawn: DrawnQuestion) -> Style:
        """How formulas are printed on the paper, and read aloud in its language."""
        return replace(drawn.question.style, language=self.heading.look.language)

    def answers_on_line(self, drawn: DrawnQuestion, part: int) -> bool:
        """Whether a part is answered on a line below it."""
        space = drawn.space(part)
        return space is not None and space.has_line and not drawn.question.part_wordings[part].has_blank

    def set_beside(self, text: str) -> str:
        """A text with its only figure beside it, where papers have them so and the text is long enough."""
        if self.heading.look.figures != "beside" or text.count(A_FIGURE) != 1:
            return text
        found = ONE_FIGURE.search(text)
        rest = text[: found.start()] + text[found.end() :] if found else ""
        if found is None or sum(map(len, TOLD.findall(rest))) < LONG_ENOUGH or "#table(" in rest:
            return text
        return f"#with-figure([{rest}], {found[1]})"

    def room(self, drawn: DrawnQuestion, item: MadeItem, part: int) -> float:
        """The millimetres for working below a part: by hand, or by its marks."""
        wished = self.plan.places[item.place].room
        if wished.kind == "none" or not self.answers_on_line(drawn, part) or isinstance(drawn.space(part), Items):
            return 0.0
        if wished.height is not None:
            # the wording and the answer line stand on the same page
            return min(wished.height, self.heading.look.page_height - BESIDE_ROOM)
        return min(70.0, max(14.0, 11 * float(item.keys[part].marks))) * self.heading.look.scale

    def offers(self, drawn: DrawnQuestion, k: int) -> tuple[str, int]:
        """What is laid before the student in a part, and a height in millimetres that it surely does not exceed."""
        shown = {
            label: f"({content(label)}, [{written(drawn, text, TYPST, self.style(drawn), inline=text.is_line)}]), "
            for label, text in drawn.offered(k)
        }
        height = sum(tallest(text.source) for _, text in drawn.offered(k))
        match drawn.space(k):
            case Options():
                return f"#{self.options}({''.join(shown.values())})", height
            case Items():
                return f"#items({''.join(shown.values())})", height
            case Pairs(lefts, rights):
                left, right = ("".join(shown[label] for label, _ in side) for side in (lefts, rights))
                return f"#pairs(({left}), ({right}))", height
            case Words(words):
                return f"#{self.options}({''.join(f'([], [{word}]), ' for word in words)})", 7 * len(words)
            case Scale(steps, low, high):
                return f"#scale({steps}, {content(low)}, {content(high)})", 14
            case Ruled(lines):
                return f"#ruled({lines})", 8 * lines + 12
        return "", 0

    # keys

    def key(self, forms: Sequence[MadeForm], count: int = 0, continued: bool = False) -> bytes:
        """The key of these forms: answers with what is accepted, then the worked solutions. ``count`` says of how many
        forms they are a part, ``continued`` that others come before them."""
        title = f"{self.heading.title}: key"
        body = "\n".join(
            self.key_of(form, title, "" if continued or place else self.key_title(title, count or len(forms)))
            for place, form in enumerate(forms)
        )
        return compiled(self.document(title, body), self.heading.look.of_keys)

    def short_key(self, forms: Sequence[MadeForm], count: int = 0) -> bytes:
        """The answers alone: a row for every form, on as few pages as can be. ``count`` says of how many forms they are
        a part."""
        count = count or len(forms)
        title = f"{self.heading.title}: answers"
        tables = ""
        answers = [{label: (entry, asked) for label, entry, asked in labels_of(form, self.plan)} for form in forms]
        labels = sorted({label for row in answers for label in row})
        for start in range(0, len(labels), SHORT_COLUMNS):
            some, rows = labels[start : start + SHORT_COLUMNS], ""
            for form, row in zip(forms, answers):
                cells = [short_answer(*row[label]) if label in row else "[]" for label in some]
                rows += f"strong({content(form.code)}), {', '.join(cells)},\n"
            heads = ", ".join(f"strong({content(label)})" for _, _, label in some)
            tables += f"#short-key({len(some)}, ({heads},), (\n{rows}))\n"
        codes = f"{forms[0].code} to {forms[-1].code} · " if len(forms) < count else ""
        marks = f"{codes}{count} form{'' if count == 1 else 's'} · {self.told_marks(self.plan.marks)} marks each"
        for grade in self.heading.grades(self.plan):
            marks += f" · {grade.name} from {self.told_marks(grade.marks)}"
        said = f"title: {content(title)}, subtitle: {content(marks)}"
        return compiled(self.document(title, f"#answers({said}, [\n{tables}])"), self.heading.look.of_keys)

    def earning_less(self, drawn: DrawnQuestion, part: int, entry: KeyEntry) -> str:
        """What earns a part of the marks, below what is accepted for all of them."""
        answer, found = drawn.answers[part], ""
        for each in () if answer is None else answer.earning_less():
            if isinstance(each.what, str):
                shown = content(told(each.what, self.plan.habits))
            else:
                shown = f"[{equation_of(each.what, drawn.question)}]"
            said = content(each.feedback) if each.feedback.strip() else "none"
            found += f"#less({shown}, {self.marks(entry.marks * each.share)}, {said})"
        return found

    def key_title(self, title: str, count: int) -> str:
        marks = self.told_marks(self.plan.marks)
        subtitle = f"Key to {count} form{'' if count == 1 else 's'} · {marks} marks each"
        return f"#key-title({content(title)}, {content(subtitle)}){self.grades()}"

    def grades(self) -> str:
        """The grade boundaries as a small table; nothing where there are none."""
        grades, rows = self.heading.grades(self.plan), ""
        for grade in grades:
            share = f"{self.told_marks(grade.share * 100)} %"
            rows += f"({content(grade.name)}, {content(share)}, {content(self.told_marks(grade.marks))}), "
        total = self.told_marks(self.heading.total(self.plan))
        return f"#grades({content(total)}, ({rows}))" if grades else ""

    def key_of(self, form: MadeForm, title: str, before: str) -> str:
        """The key of a form as Typst markup; ``before`` stands above it."""
        rows, solutions = "", ""
        for number, (drawn, item) in enumerate(zip(self.drawn(form), form.items), start=1):
            labels = drawn.question.document.labels
            for k, entry in enumerate(item.keys):
                specification = drawn.question.document.parts[k].answer
                if not specification.asks:
                    continue
                label = f"{number} {labels[k].full}".strip()
                answer = key_markup(entry.key, drawn.question)
                after = unit_after(entry.after)
                close = f"#{content(told(entry.tolerance, self.plan.habits))}" + self.earning_less(drawn, k, entry)
                rows += f"{content(label)}, [{answer}{after}], [{close}], [#{self.marks(entry.marks)}],\n"
                solutions += rubric_markup(label, specification.rubric_rows, self.plan.habits)
                outlined = key_picture(drawn, k, TYPST)
                if outlined:
                    solutions += f"#solution({content(label)}, [{outlined}])\n"
                text = drawn.question.solutions[k]
                if text.source.strip():
                    solutions += f"#solution({content(label)}, [{written_solution(drawn, k, TYPST)}])\n"
        worked = f"#block(above: 6mm, below: 3mm, strong[Worked solutions])\n{solutions}" if solutions else ""
        return (
            f"#key-form(title: {content(title)}, code: {content(form.code)}, before: [{before}], "
            f"[#key-table(\n{rows})\n{worked}])"
        )


# Where an answer stands on a paper: the number of its question, that of its part from 0, and what it is called.
Answered = tuple[int, int, str]


def labels_of(form: MadeForm, plan: Plan) -> Iterator[tuple[Answered, KeyEntry, CompiledQuestion]]:
    """Every answer that is asked for on a paper, with its key and its question."""
    for number, item in enumerate(form.items, start=1):
        question = plan.places[item.place].candidates[item.candidate].question
        for k, (part, label, entry) in enumerate(zip(question.document.parts, question.document.labels, item.keys)):
            if part.answer.asks:
                yield (number, k, f"{number} {label.full}".strip()), entry, question


def rubric_markup(label: str, rubric: Iterable[tuple[str, Sequence[tuple[Decimal, str]]]], habits: Habits) -> str:
    """A rubric: every criterion, and its levels with their marks; nothing where there is none."""
    rows = ""
    for name, levels in rubric:
        cells = "".join(f"({content(told(str(marks), habits))}, {content(text)}), " for marks, text in levels)
        rows += f"({content(name)}, ({cells})), "
    return f"#rubric({content(label)}, {rows})\n" if rows else ""


# What makes a formula higher than a line.
TALL = ("frac(", "vec(", "mat(")


def key_markup(key: str, question: CompiledQuestion) -> str:
    """A frozen key, typeset."""
    try:
        return equation_of(read_authored(key, question.settings), question)
    except NotationError:
        return f"#{quoted(key)};"


def equation_of(tree: Node, question: CompiledQuestion) -> str:
    """A formula in a table."""
    equation = typst_equation(tree, question.style)
    return f"#alone[{equation};];" if any(each in equation for each in TALL) else equation + ";"


# So many answers stand beside each other in the short key.
SHORT_COLUMNS = 12


def short_answer(entry: KeyEntry, question: CompiledQuestion) -> str:
    """A key with what stands after it. A plain number is set as text, which takes a tenth of the memory of a formula:
    there are very many of them."""
    after = unit_after(entry.after)
    plain = plain_amount(entry.key)
    if plain is None:
        return f"[{key_markup(entry.key, question)}{after}]"
    number = told(plain[0], question.habits).replace("-", "−")
    unit = unit_after(plain[1])
    return f"[#{quoted(number)};{unit}{after}]"
