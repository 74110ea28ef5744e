"""Papers, typeset by Typst.

User text reaches Typst only as quoted strings and through the printers, so it cannot become markup,
read a file or include another.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from functools import cached_property
from itertools import zip_longest

from ..answers import LETTERS, Items, Options, Pairs, Ruled, Scale, Words
from ..figures import framed
from ..forms import MadeForm, MadeItem
from ..notation import Style, quoted
from ..plans import Section
from ..questions import DrawnQuestion, written, written_part
from ..text import TYPST, printable
from .drawings import Drawings
from .filling import NO_MORE, STEP, STEPS, Extra, Rooms, shared_out
from .heading import Holder
from .markup import content, first_line, letters_set, said, words_or_unit
from .page_codes import PageCode
from .pages import page_count
from .typesetting import compiled, spots

# Millimetres of a page that are left for what stands above and below the room for working.
BESIDE_ROOM = 60
# A unit with more letters has its own width behind the answer line.
WIDE = 10
# A figure is surely not higher than so many millimetres.
FIGURE_HEIGHT = 125
# A figure in a paragraph of its own, and the words of a text as markup: as many letters are worth a figure beside them.
A_FIGURE = "#picture("
ONE_FIGURE = re.compile(r'#block\[#(picture\("(?:[^"\\]|\\.)*", "(?:[^"\\]|\\.)*"(?:, number: \d+)?\));\]\s*')
TOLD = re.compile(r'"((?:[^"\\]|\\.)*)"')
LONG_ENOUGH = 120


def tallest(source: str) -> int:
    """A height in millimetres that a text surely does not exceed: short lines, and every line a tall one."""
    return sum(11 * (1 + len(line) // 45) for line in source.splitlines() if line.strip())


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


class Papers(Drawings):
    """The papers of a form set."""

    # so many pages have codes until a paper has more
    most_pages = 1

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
        match drawn.laid(part):
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
                asked = drawn.question.document.parts[part]
                before = "".join(letters_set(printable(each)) + ", " for each in asked.lines_before)
                return f"#answer-lines(({before}), {words_or_unit(asked.printed_after)})"
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
        before = self.set_beside(written(drawn, drawn.question.wording, TYPST, self.style(drawn))) if stem else ""
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
        body += f"#{'asked' if fits else 'stem'}[{before}]\n" if stem else ""
        for n, (under, numbers) in enumerate(together):
            if not labels[numbers[0]].letter:
                body += f"#block(width: 100%, above: 4mm, {parts[0]})\n" if fits else f"#kept({parts[0]})\n"
                continue
            named = ", ".join(f"[{labels[k].short}]" for k in numbers)
            place = f"under: {said(under)}, first: {said(not n and not stem)}, together: {said(fits)}"
            body += f"#parts({place}, ({named},), {', '.join(parts[k] for k in numbers)})\n"
        marked = [key.marks for key in item.keys if key.marks]
        if len(marked) > 1:
            body += f"#total-of({number}, {self.marks(sum(marked, Fraction(0)))})\n"
        titled = self.plan.sections and self.plan.sections[self.plan.section_of(item.place)].title
        level = "level: 3, " if titled else ""
        head = ""
        if body.startswith(f"#{'asked' if fits else 'stem'}["):
            head = first_line(before)
        elif not body.startswith("#beyond"):
            head = first_line(self.set_beside(written_part(drawn, 0, TYPST, self.style(drawn))))
        return f"#{'question' if fits else 'long-question'}({number}, {level}{head}[\n{body}\n])"

    def part(self, drawn: DrawnQuestion, item: MadeItem, k: int, room: tuple[float, float], offers: str) -> str:
        """A part as a call of the layout: what it asks, its room, with what it has beyond its own, and its line."""
        part, space = drawn.question.document.parts[k], drawn.laid(k)
        answers = self.answers_on_line(drawn, k)
        wide = said(len(part.printed_after) > WIDE)
        kind = f"kind: {quoted(wished)}, " if (wished := self.plan.places[item.place].room.kind) else ""
        after = f"after: {words_or_unit(part.printed_after)}, wide: {wide}, answer: {said(answers)}"
        if part.lines_before:
            after += f", before: ({''.join(letters_set(printable(each)) + ', ' for each in part.lines_before)})"
        if isinstance(space, Items):
            after += f", ordered: {len(space.entries)}"
        space_for = f"room: {room[0]:g}mm" + (f", more: {room[1]:g}mm" if room[1] else "")
        text = self.set_beside(written_part(drawn, k, TYPST, self.style(drawn))) + offers
        return f"part(marks: {self.marks(item.keys[k].marks)}, {kind}{space_for}, {after}, [{text}])"

    def style(self, drawn: DrawnQuestion) -> Style:
        """How formulas are printed on the paper, and read aloud in its language."""
        style, language = drawn.question.style, self.heading.look.language
        return style if style.language == language else replace(style, language=language)

    def answers_on_line(self, drawn: DrawnQuestion, part: int) -> bool:
        """Whether a part is answered on a line below it."""
        space = drawn.laid(part)
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
        if wished.kind == "none" or not self.answers_on_line(drawn, part) or isinstance(drawn.laid(part), Items):
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
        match drawn.laid(k):
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
