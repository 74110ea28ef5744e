"""What papers can have beside their questions: a head, an answer sheet, room that is left over, bookmarks, grades."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from itertools import chain
from unittest import TestCase

import numpy as np
import pikepdf
import pypdfium2
from PIL import Image

from vorlage.core.documents import (
    CHOICES,
    Emblem,
    Heading,
    Look,
    Printing,
    ReturnedPart,
    ReturnedWork,
    returned_pdf,
)
from vorlage.core.documents.filling import Spot, of_paper
from vorlage.core.forms import make_forms
from vorlage.core.notation import Habits
from vorlage.core.plans import Boundaries, Place, Plan, Section
from vorlage.core.questions import CompiledQuestion, QuestionDrawing, load_document, written
from vorlage.core.text import HTML

from .test_looks import DEPARTMENT, POINTS, misplaced, paper, places_of, plan_of, words

NAMES = ("ferry-bearing", "brine-dilution", "who-eats-whom", "names-of-ions", "rope-slope", "crates-equation")


def lines_in(page: pypdfium2.PdfPage) -> list[float]:
    """Where long horizontal lines lie, in millimetres from the top."""
    height = page.get_size()[1]
    found = []
    for each in page.get_objects(filter=[pypdfium2.raw.FPDF_PAGEOBJ_PATH]):
        left, bottom, right, top = each.get_bounds()
        if right - left > 100 * POINTS and top - bottom < 2:
            found.append((height - top) / POINTS)
    return sorted(found)


def elements(kids: object) -> Iterator[pikepdf.Object]:
    for each in kids if isinstance(kids, pikepdf.Array) else [kids]:
        if isinstance(each, pikepdf.Dictionary) and "/S" in each:
            yield each
            yield from elements(each.get("/K"))


class Heads(TestCase):
    def test_every_head_says_the_same_and_has_the_mark(self) -> None:
        drawn = io.BytesIO()
        Image.new("RGB", (60, 40), "black").save(drawn, "PNG")
        emblem = Emblem("a" * 64, 60, 40, "Sandhaven Harbour School")
        plan = plan_of("rope-slope")
        forms = make_forms(plan, 1, "seed").forms
        for header in CHOICES["header"]:
            for cover in (False, True):
                with self.subTest(header=header, cover=cover):
                    heading = Heading("Quay", DEPARTMENT, "", 7, Look(header=header, cover=cover), emblem=emblem)
                    made = Printing(plan, heading, lambda digest: drawn.getvalue()).papers(forms)
                    first = words(pypdfium2.PdfDocument(made))[0]
                    for word in ("Quay", DEPARTMENT, forms[0].code, "Name", "Date", "Class"):
                        self.assertIn(word, first)
                    with pikepdf.open(io.BytesIO(made)) as pdf:
                        said = [str(each.get("/Alt", "")) for each in elements(pdf.Root.StructTreeRoot.K)]
                    self.assertIn("The mark of Sandhaven Harbour School", said)


class Sheets(TestCase):
    def test_an_answer_sheet_has_a_field_for_every_answer(self) -> None:
        plan = plan_of(*NAMES, "water-into-the-cell", "why-ships-carry-blocks-of-zinc", "parts-of-a-cell")
        for look in (Look(sheet=True), Look(sheet=True, even=True, cover=True)):
            pages = words(paper(plan, look))
            number = next(k for k, page in enumerate(pages) if "Answer sheet" in page)
            sheet = pages[number]
            self.assertEqual([k for k, page in enumerate(pages) if "Answer sheet" in page], [number])
            # it can be taken off: where papers are printed on both sides, nothing else is on its leaf
            self.assertTrue(not look.even or (number % 2 == 0 and len(pages) % 2 == 0))
            for called in ("1 (a)", "1 (b)", "2", "3", "4", "5 (a)", "5 (b)", "6", "7", "8", "9"):
                self.assertIn(f" {called} ", sheet)
            self.assertIn("on the paper", sheet)
            self.assertIn("km", sheet)
            # what is written there is written nowhere else
            self.assertFalse(any(re.search(r"Answer (?!sheet)", page) for page in pages))

    def test_choices_have_boxes_under_the_letters_that_the_paper_has(self) -> None:
        plan = plan_of("a-test-for-a-gas")
        form = make_forms(plan, 1, "seed").forms[0]
        printing = Printing(plan, Heading("Quay", look=Look(sheet=True)))
        letters = re.findall(r'\(\[#"([A-Z])";\], \[', printing.paper(form).split("#options")[1])
        self.assertGreater(len(letters), 1)
        self.assertIn("#letter-boxes((" + "".join(f'[#"{each}";], ' for each in letters) + "))", printing.paper(form))


class Filling(TestCase):
    def test_what_is_left_of_a_page_is_given_to_working(self) -> None:
        plan = plan_of(*NAMES)
        for working in ("blank", "lines", "squares"):
            usual, filled = (paper(plan, Look(working=working, fill=fill)) for fill in (False, True))
            # nothing moves to another page
            pages = [[re.sub(r"\d of \d", "", page) for page in words(each)] for each in (usual, filled)]
            self.assertEqual(*pages)
            if working == "lines":
                before, after = (len(lines_in(each[0])) for each in (usual, filled))
                self.assertGreater(after, before)

    def test_no_page_gets_more_than_it_has(self) -> None:
        look = Look(working="lines", fill=True)
        spots = [(Spot(True, 1, 40.0), Spot(False, 1, 120.0)), (Spot(True, 1, 130.0), Spot(False, 1, 230.0))]
        rooms = [{0: (16.0, 8.0), 1: (16.0, 8.0)}, {0: (32.0, 8.0)}]
        last = [(Spot(True, 2, 18.0), Spot(False, 2, 90.0), {0: (16.0, 8.0)})]
        extra = of_paper([*((*pair, room) for pair, room in zip(spots, rooms)), *last], look)
        first = {where: more for where, more in extra.items() if where[0] < 3}
        self.assertLessEqual(sum(first.values()), look.bottom - 230)
        self.assertGreater(sum(first.values()), look.bottom - 230 - 16)
        self.assertEqual({more % 8 for more in extra.values()}, {0.0})
        # a page of one short question is not filled with lines from top to bottom
        self.assertEqual(extra[3, 0], 32.0)
        # a question that goes on to the next page leaves nothing on its first
        broken = [(Spot(True, 1, 40.0), Spot(False, 2, 60.0), {0: (16.0, 8.0)})]
        self.assertEqual(of_paper(broken, look), {})


class Figures(TestCase):
    def test_a_figure_stands_beside_a_text_that_is_long_enough(self) -> None:
        plan = plan_of(*NAMES)
        for look, beside in ((Look(), False), (Look(figures="beside"), True)):
            printing = Printing(plan, Heading("Quay", look=look))
            figure = '#block[#picture("<svg/>", "a crane");]\n\n'
            long, short = f'#block[#"{"a word " * 30}";]\n\n{figure}', f'#block[#"A word.";]\n\n{figure}'
            self.assertEqual("#with-figure(" in printing.set_beside(long), beside)
            self.assertEqual(printing.set_beside(short), short)
            self.assertEqual(printing.set_beside(long + figure), long + figure)


class Structure(TestCase):
    def test_questions_are_headings_with_bookmarks_and_parts_are_lists(self) -> None:
        sections = [Section(0, "First"), Section(2, "Second")]
        plain, parted = Plan("Quay", places_of(*NAMES)), Plan("Quay", places_of(*NAMES), sections=sections)
        for plan, language, nested in ((plain, "en", False), (parted, "en", True), (plain, "de", False)):
            form = make_forms(plan, 1, "seed").forms[0]
            made = Printing(plan, Heading("Quay", DEPARTMENT, look=Look(language=language))).papers([form])
            called = [f"{'Aufgabe' if language == 'de' else 'Question'} {k}" for k in range(1, len(NAMES) + 1)]
            with pikepdf.open(io.BytesIO(made)) as pdf:
                with pdf.open_outline() as outline:
                    tree = [(item.title, [each.title for each in item.children]) for item in outline.root]
                flat = [(name, list[str]()) for name in called]
                self.assertEqual(tree, [("First", called[:2]), ("Second", called[2:])] if nested else flat)
                kinds = [str(each.S) for each in elements(pdf.Root.StructTreeRoot.K)]
                # a sentence is one paragraph, with its formulas in it
                stems = [each for each in elements(pdf.Root.StructTreeRoot.K) if str(each.S) == "/P"]
                inside = [str(kid.S) for each in stems for kid in elements(each.get("/K", [])) if "/S" in kid]
                self.assertIn("/Formula", inside)
                self.assertGreaterEqual(len(stems), len(NAMES))
                # no level is left out
                headings = [kind for kind in kinds if re.fullmatch("/H[1-9]", kind)]
                level = "/H3" if nested else "/H2"
                self.assertEqual(headings.count(level), len(NAMES))
                self.assertEqual(headings[0], "/H1")
                lists = [each for each in elements(pdf.Root.StructTreeRoot.K) if str(each.S) == "/L"]
                of_each = [len([kid for kid in each.K if str(kid.S) == "/LI"]) for each in lists]
                # two parts of a question are one list, and so are the items that are put in order
                self.assertIn(2, of_each)
                self.assertIn(4, of_each)

    def test_the_paper_shows_the_number_alone(self) -> None:
        page = words(paper(plan_of("rope-slope"), Look()))[0]
        self.assertNotIn("Question 1", page.replace("Total for question 1", ""))


class Grades(TestCase):
    def test_boundaries_in_share_and_in_marks(self) -> None:
        least = (("distinction", Decimal("85")), ("merit", Decimal("62.5")), ("pass", Decimal("0")))
        share, marks = Boundaries("share", least), Boundaries("marks", (("merit", Decimal("7.5")),))
        self.assertEqual([each.marks for each in share.grades(Fraction(18))], [Fraction(153, 10), Fraction(45, 4), 0])
        self.assertEqual([each.share for each in marks.grades(Fraction(10))], [Fraction(3, 4)])
        for each in (share, marks, Boundaries()):
            self.assertEqual(Boundaries.of(each.kept), each)
        self.assertEqual(share.wrong(Fraction(18)), {})

    def test_what_cannot_stand_is_said_of_each(self) -> None:
        falling = Boundaries("share", (("merit", Decimal(70)), ("pass", Decimal(70)), ("fail", Decimal(101))))
        self.assertEqual(falling.wrong(Fraction(18)), {1: "It has to be less than 70, where merit begins.",
                                                       2: "From 0 to 100 per cent."})  # fmt: skip
        marks = Boundaries("marks", (("merit", Decimal("18.5")),))
        self.assertEqual(marks.wrong(Fraction(18)), {0: "From 0 to 18 marks of this test."})

    def test_every_key_says_them(self) -> None:
        plan = plan_of("rope-slope", "crates-equation")
        forms = make_forms(plan, 2, "seed").forms
        boundaries = Boundaries("share", (("distinction", Decimal("85")), ("pass", Decimal("50"))))
        heading = Heading("Quay", boundaries=boundaries)
        for maximum, distinction in ((None, "5.95"), (Fraction(40), "34")):
            printing = Printing(plan, replace(heading, maximum=maximum))
            key = words(pypdfium2.PdfDocument(printing.key(forms)))
            self.assertIn(f"distinction 85 % {distinction}", key[0])
            self.assertFalse(any("distinction" in page for page in key[1:]))
            short = words(pypdfium2.PdfDocument(printing.short_key(forms)))[0]
            self.assertIn(f"distinction from {distinction}", short)


class Texts(TestCase):
    def made(self, wording: str, asked: str = "Say it.", *later: str) -> bytes:
        parts = [{"wording": each, "answer": {"kind": "number", "key": "3"}} for each in (asked, *later)]
        document = load_document({"title": "Wide", "wording": wording, "parts": parts})
        plan = Plan("Quay", [Place(CompiledQuestion(document), "wide", 1)])
        return Printing(plan, Heading("Quay")).papers(make_forms(plan, 1, "seed").forms)

    def returned(self, wording: str) -> bytes:
        part = {"wording": "Say it.", "answer": {"kind": "number", "key": "3"}}
        document = load_document({"title": "Wide", "wording": wording, "parts": [part]})
        drawn = QuestionDrawing(CompiledQuestion(document), "wide", 1).draw(1)
        return returned_pdf(ReturnedWork("Quay", "Mara Quill", (), [(drawn, [ReturnedPart([])], "")]), Habits())

    def test_a_table_has_heads_and_its_columns_sides(self) -> None:
        made = self.made("Data:\n\n| name | value |\n|:--|--:|\n| sand | $1/2$ |\n| gravel | 22.25 |")
        with pikepdf.open(io.BytesIO(made)) as pdf:
            kinds = [str(each.S) for each in elements(pdf.Root.StructTreeRoot.K)]
        self.assertEqual([kinds.count(kind) for kind in ("/TH", "/TD", "/THead")], [2, 4, 1])
        text = pypdfium2.PdfDocument(made)[0].get_textpage()
        whole = text.get_text_range()
        ends = [text.get_charbox(whole.index(word) + len(word) - 1)[2] for word in ("value", "22.25", "gravel", "sand")]
        self.assertAlmostEqual(ends[0], ends[1], delta=0.6)
        self.assertGreater(ends[2] - ends[3], 5)

    def test_tall_formulas_in_lines_that_follow_each_other_do_not_meet(self) -> None:
        page = pypdfium2.PdfDocument(self.made("By $vec(1, 2)$, $vec(3, 4)$ or $(a/b)/(c/d)$, " * 15))[0]
        text = page.get_textpage()
        signs = [(text.get_text_range(k, 1), text.get_charbox(k)) for k in range(text.count_chars())]
        boxes = np.array([box for sign, box in signs if sign.strip() and box[2] > box[0]])
        self.assertGreater(len({round(bottom) for sign, (_, bottom, _, _) in signs if sign == "1"}), 4)
        both = np.minimum(boxes[:, None, 2:], boxes[None, :, 2:]) - np.maximum(boxes[:, None, :2], boxes[None, :, :2])
        over = np.argwhere(np.triu((both > 0.1).all(axis=2), 1))
        # the brackets of a vector close around it
        self.assertEqual([(a, b) for a, b in over if b - a > 4], [])

    def test_a_question_has_its_number_on_its_first_line(self) -> None:
        tall, filled = "$vec(1, 2, 3)$ and $(a/b)/(c/d)$", "while the tide comes in over the flats, " * 3
        for wording in ("By noon.", f"By {tall}.", f"By {tall}, {filled}", f"By noon, {filled} and {tall}."):
            lettered = self.made("", wording, "Say why.")
            for made in (self.made(wording), self.made("", wording), lettered, self.returned(wording)):
                text = pypdfium2.PdfDocument(made)[0].get_textpage()
                line = text.get_charbox(text.search("By").get_next()[0])[1]
                signs = [(text.get_text_range(k, 1), text.get_charbox(k)) for k in range(text.count_chars())]
                numbers = [box[1] for sign, box in signs if sign == "1" and box[0] < 22 * POINTS]
                self.assertEqual(len(numbers), 1)
                self.assertAlmostEqual(numbers[0], line, delta=0.4, msg=wording)

    def test_what_stands_beside_a_tall_key_is_on_its_line(self) -> None:
        part = {"wording": "Say it.", "after": "m", "answer": {"kind": "number", "key": "44/7"}}
        document = load_document({"title": "Beside", "parts": [part]})
        plan = Plan("Quay", [Place(CompiledQuestion(document), "beside", 1)])
        text = pypdfium2.PdfDocument(Printing(plan, Heading("Quay")).key(make_forms(plan, 1, "seed").forms, 1))[
            0
        ].get_textpage()
        whole = text.get_text_range()
        self.assertIn("Key to 1 form · 1 mark each", whole)
        row = whole.index("Marks") + len("Marks\r\n")
        lines = [text.get_charbox(row + whole[row:].index(sign))[1] for sign in ("1", "m", "x")]
        self.assertLess(max(lines) - min(lines), 0.4)
        # the line of the fraction lies above it
        self.assertGreater(text.get_charbox(row + whole[row:].index("44"))[1], lines[0] + 3)

    def test_the_blanks_of_pairs_stand_on_the_line_of_their_words(self) -> None:
        pairs = [{"left": each, "right": each.upper(), "share": "1/3"} for each in ("buoy", "barge", "rudder")]
        part = {"wording": "Match them.", "answer": {"kind": "match", "pairs": pairs}}
        document = load_document({"title": "Pairs", "parts": [part]})
        plan = Plan("Quay", [Place(CompiledQuestion(document), "pairs", 1)])
        made = Printing(plan, Heading("Quay")).papers(make_forms(plan, 1, "seed").forms)
        page = pypdfium2.PdfDocument(made)[0]
        text = page.get_textpage()
        words = [text.get_charbox(text.search(each).get_next()[0])[1] for each in ("buoy", "barge", "rudder")]
        drawn = [each.get_bounds() for each in page.get_objects(filter=[pypdfium2.raw.FPDF_PAGEOBJ_PATH])]
        blanks = [(low + high) / 2 for left, low, right, high in drawn if 10 < (right - left) / POINTS < 12]
        self.assertEqual(len(blanks), 3)
        for blank, word in zip(sorted(blanks), sorted(words)):
            self.assertAlmostEqual(blank, word, delta=0.8)

    def test_no_formula_runs_off_its_line(self) -> None:
        terms = " + ".join(f"{k}*a^{k}*b^{9 - k}" for k in range(2, 9))
        for maths in (f"c = {terms} + {terms}", f"({terms} + {terms})/(2*x)", f"sqrt({terms} + {terms})"):
            page = pypdfium2.PdfDocument(self.made(f"It is\n\n$${maths}$$\n\nas you see."))[0]
            text = page.get_textpage()
            above, below = (text.get_charbox(text.search(word).get_next()[0])[1] for word in ("It is", "as you"))
            boxes = [text.get_charbox(k) for k in range(text.count_chars())]
            formula = [box for box in boxes if below + 12 < box[1] < above - 1 and box[2] > box[0]]
            self.assertGreater(len(formula), 50)
            # the column of the marks stays free
            self.assertLess(max(box[2] for box in formula), page.get_size()[0] - 34 * POINTS)
            self.assertGreater(min(box[0] for box in formula), 27 * POINTS)

    def test_what_stands_before_the_answer_space(self) -> None:
        answer = {"kind": "point", "key": "(2, 3)"}
        part = {"wording": "Solve them.", "answer": answer, "before": "x =; y =", "after": "m"}
        plan = Plan("Quay", [Place(CompiledQuestion(load_document({"title": "Two", "parts": [part]})), "two", 1)])
        forms = make_forms(plan, 1, "seed").forms
        for look in (Look(), Look(sheet=True)):
            whole = " ".join(words(pypdfium2.PdfDocument(Printing(plan, Heading("Quay", look=look)).papers(forms))))
            self.assertRegex(whole, r"x = m .*y = m")
            self.assertNotRegex(whole, r"Answer(?! sheet)")

    def test_a_part_that_is_taller_than_a_page_goes_on(self) -> None:
        lines = "frame 0..10, 0..12 equal\nbox (0, 0) (10, 12)"
        figures = [{"name": name, "lines": lines} for name in "abc"]
        wording = "\n\n".join(f"Look at {name}.\n\n![{name}](figure:{name})" for name in "abc")
        answer = {"kind": "number", "key": "3"}
        for parts in ([wording], [wording, "And then?"]):
            part = [{"wording": each, "answer": answer} for each in parts]
            document = load_document({"title": "Tall", "wording": "Three.", "figures": figures, "parts": part})
            plan = Plan("Quay", [Place(CompiledQuestion(document), "tall", 1)])
            for look in (Look(), Look(letters="large"), Look(fill=True, working="lines")):
                made = Printing(plan, Heading("Quay", look=look)).papers(make_forms(plan, 1, "seed").forms)
                pages = pypdfium2.PdfDocument(made)
                self.assertEqual(list(chain.from_iterable(map(misplaced, pages))), [])
                bottoms = [each.get_bounds()[1] for page in pages for each in page.get_objects()]
                self.assertGreater(min(bottoms), 8 * POINTS)
                # what stands before the parts is not alone on its page
                self.assertIn("Look at a.", words(pages)[0])

    def test_a_page_sets_them_alike(self) -> None:
        part = {"wording": "Say it.", "answer": {"kind": "number", "key": "3"}}
        wording = "It is $(x + 6)(x - 2)$.\n\n| a | b | c |\n|--|--:|:-:|\n| 1 | 2 | 3 |"
        question = CompiledQuestion(load_document({"title": "Web", "wording": wording, "parts": [part]}))
        markup = written(QuestionDrawing(question, "web", 1).draw(1), question.wording, HTML)
        # brackets that need not grow stand as close as letters do
        self.assertEqual(markup.count('<mo stretchy="false">'), 4)
        self.assertEqual([markup.count(f'class="at-{side}"') for side in ("left", "right", "center")], [0, 2, 2])
        self.assertNotIn("style=", markup)
