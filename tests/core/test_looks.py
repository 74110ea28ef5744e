"""How papers look: read back page by page, in every look, with a reader that knows nothing of how they are made."""

from __future__ import annotations

import re
from dataclasses import replace
from decimal import Decimal
from itertools import chain
from unittest import TestCase

import numpy as np
import pypdfium2
import typst

from vorlage.core.documents import CHOICES, ROOMS, Heading, Look, Printing, typesetting
from vorlage.core.documents.look import WORDS
from vorlage.core.forms import make_forms
from vorlage.core.plans import Place, Plan, Room, Section
from vorlage.core.questions import CompiledQuestion, load_document
from vorlage.library import bank, ready_questions, samples

DEPARTMENT = "Physics · Sandhaven Harbour School"
LOOKS = [
    Look(),
    Look(working="squares", language="de", cover=True, minutes=60, materials="Lineal", even=True, header="centred"),
    Look(paper="us-letter", letters="large", face="plain", working="lines", cover=True, even=True),
    Look(working="lines", fill=True, sheet=True, figures="beside", header="band", face="plain"),
    Look(paper="us-letter", working="squares", fill=True, figures="beside", even=True),
]
POINTS = 72 / 25.4
UNIT = r"(?:kg|g|m|cm|mm|km|s|min|h|N|J|kJ|W|kW|V|A|Ω|mol|Hz|°C|%)"


def places_of(*names: str) -> list[Place]:
    there = {**samples(), **bank()}
    return [Place(CompiledQuestion(there[name][0]), name, 1) for name in names]


def plan_of(*names: str) -> Plan:
    return Plan("Quay", places_of(*names))


def paper(plan: Plan, look: Look, instructions: str = "Show your working.") -> pypdfium2.PdfDocument:
    form = make_forms(plan, 1, "seed").forms[0]
    heading = Heading("Harbour science", DEPARTMENT, instructions, 7, look)
    return pypdfium2.PdfDocument(Printing(plan, heading).papers([form]))


def words(document: pypdfium2.PdfDocument) -> list[str]:
    return [" ".join(page.get_textpage().get_text_range().split()) for page in document]


def misplaced(page: pypdfium2.PdfPage) -> list[str]:
    """Characters outside the margins, those that lie over others, and numbers that are parted from their units."""
    text = page.get_textpage()
    signs, places = [], []
    for k in range(text.count_chars()):
        sign, (left, bottom, right, top) = text.get_text_range(k, 1), text.get_charbox(k)
        if sign.strip("\u2060").strip() and right > left and top > bottom:
            signs.append(sign)
            places.append((left, bottom, right, top))
    if not places:
        return []
    boxes, (width, height) = np.array(places), page.get_size()
    outside = (boxes[:, 0] < 19 * POINTS) | (boxes[:, 2] > width - 15 * POINTS)
    outside |= (boxes[:, 1] < 9 * POINTS) | (boxes[:, 3] > height - 9 * POINTS)
    found = [f"{signs[k]} is outside" for k in np.flatnonzero(outside)]
    both = np.minimum(boxes[:, None, 2:], boxes[None, :, 2:]) - np.maximum(boxes[:, None, :2], boxes[None, :, :2])
    shared = np.clip(both, 0, None).prod(axis=2)
    areas = (boxes[:, 2:] - boxes[:, :2]).prod(axis=1)
    over = np.argwhere(np.triu(shared > 0.25 * np.minimum(areas[:, None], areas[None, :]), 1))
    # letters that are one sign together have one place
    found += [f"{signs[a]} lies over {signs[b]}" for a, b in over if b - a > 2]
    parted = re.findall(rf"\d\s*\r?\n\s*{UNIT}(?![A-Za-z])", text.get_text_range().split(WORDS["en"]["sheet"])[0])
    return found + [f"parted: {each!r}" for each in parted]


class Looks(TestCase):
    def test_nothing_lies_over_anything_or_leaves_the_page(self) -> None:
        ready = {name: each.document for name, each in ready_questions().items()}
        documents = {**{name: document for name, (document, _) in {**samples(), **bank()}.items()}, **ready}
        self.assertGreater(len(documents), 180)
        questions = [Place(CompiledQuestion(each), name, 1) for name, each in documents.items()]
        for number, look in enumerate(LOOKS):
            # every question in one of the looks here; whoever changes the layout tries them all in each
            for start in range(number * 8, len(questions), len(LOOKS) * 8):
                some = questions[start : start + 8]
                with self.subTest(look=number, titles=[each.called for each in some]):
                    pages = paper(Plan("Quay", some), look)
                    self.assertEqual(list(chain.from_iterable(map(misplaced, pages))), [])

    def test_a_cover_says_what_is_allowed_and_has_a_table_that_adds_up(self) -> None:
        *others, last = places_of("foghorn", "catch-mean", "lock-gate")
        last = replace(last, bonus=True, marks=Decimal("1.5"))
        plan = Plan("Quay", [*others, last], sections=[Section(0, "Part A", "", True)])
        cover, *rest = words(paper(plan, replace(LOOKS[1], language="en")))
        for each in (
            "60 minutes",
            "You need Lineal",
            "Calculator allowed",
            "Show your working.",
            "Do not turn this page",
        ):
            self.assertIn(each, cover)
        table = cover[cover.index("For the marker") :]
        self.assertIn("Question 1 2 3 Total Out of 2 3 +1.5 5 Marks", table)
        self.assertIn("Candidate number", cover)
        self.assertNotIn("foghorn", cover)
        self.assertIn("foghorn", rest[0])
        # without one the head stands above the first question
        first = words(paper(plan, Look()))[0]
        self.assertIn("of 5 marks", first)
        self.assertIn("foghorn", first)
        mixed = replace(plan, sections=[Section(0, calculator=True), Section(1, calculator=False)])
        self.assertIn("Calculator see each part", words(paper(mixed, LOOKS[2]))[0])

    def test_pages_say_what_follows_and_where_the_questions_end(self) -> None:
        names = ["lock-gate", "harbour-crane", "foghorn", "lighthouse-lamps", "ice-plant"]
        pages = words(paper(plan_of(*names), Look()))
        self.assertEqual(len(pages), 2)
        self.assertEqual(["Turn over" in page for page in pages], [True, False])
        self.assertEqual(["End of the questions" in page for page in pages], [False, True])
        self.assertIn("Total for question 1: 4 marks", pages[0])
        # a page that is left blank is none to turn to
        pages = words(paper(plan_of("foghorn"), Look(even=True)))
        self.assertEqual((len(pages), "Turn over" in pages[0]), (2, False))
        self.assertEqual(["End of the questions" in page for page in pages], [True, False])
        self.assertIn("This page is left blank.", pages[1])
        self.assertIn("2 of 2", pages[1])
        for look in (each for each in LOOKS if each.even):
            self.assertEqual(len(paper(plan_of(*names), look)) % 2, 0)

    def test_the_end_of_the_questions_takes_no_page(self) -> None:
        """However full the last page is, its words stand on the page of the last question."""
        plan, counts = plan_of("foghorn", "lighthouse-lamps"), set()
        for millimetres in range(40, 140, 4):
            first = replace(plan.places[0], room=Room("blank", millimetres))
            with self.subTest(millimetres):
                pages = words(paper(replace(plan, places=[first, plan.places[1]]), Look()))
                self.assertIn("Total for question 2", pages[-1])
                self.assertEqual(
                    ["End of the questions" in page for page in pages], [False] * (len(pages) - 1) + [True]
                )
                counts.add(len(pages))
        self.assertEqual(counts, {1, 2})

    def test_the_typesetting_comes_to_rest(self) -> None:
        """What is decided about a page must not move what it was decided by."""
        for look in [*LOOKS, Look(even=True)]:
            for names in [("foghorn",), ("lock-gate", "harbour-crane", "foghorn", "lighthouse-lamps", "ice-plant")]:
                plan = plan_of(*names)
                printing = Printing(plan, Heading("Harbour science", DEPARTMENT, "", 7, look))
                body = printing.paper(make_forms(plan, 1, "seed").forms[0])
                _, warnings = typst.compile_with_warnings(
                    typesetting.files(printing.document("Quay", body), look),
                    root=str(typesetting.LAYOUTS),
                    font_paths=[str(typesetting.FONTS)],
                    ignore_system_fonts=True,
                )
                with self.subTest(look, questions=len(names)):
                    self.assertEqual([each.message for each in warnings], [])

    def test_the_paper_speaks_one_language(self) -> None:
        self.assertEqual(WORDS.keys(), CHOICES["language"].keys())
        english, german = WORDS["en"], WORDS["de"]
        self.assertEqual(english.keys(), german.keys())
        for name, each in english.items():
            self.assertEqual(each.count("{}"), german[name].count("{}"), name)
        text = " ".join(words(paper(plan_of("lock-gate"), Look(language="de", cover=True, minutes=45))))
        for name in ("answer", "marks", "name", "date", "class", "closed", "marker", "end"):
            self.assertIn(german[name], text)
            if english[name].casefold() != german[name].casefold():
                self.assertNotIn(english[name], text)

    def test_letters_and_paper_are_as_large_as_was_chosen(self) -> None:
        def height(document: pypdfium2.PdfDocument) -> float:
            text = document[0].get_textpage()
            at = text.get_text_range().index("keeper")
            _, bottom, _, top = text.get_charbox(at)
            return top - bottom

        usual, large = (paper(plan_of("lock-gate"), Look(letters=each)) for each in CHOICES["letters"])
        self.assertAlmostEqual(height(large) / height(usual), 17 / 11, places=2)
        sizes = [
            tuple(map(round, paper(plan_of("foghorn"), Look(paper=each))[0].get_size())) for each in CHOICES["paper"]
        ]
        self.assertEqual(sizes, [(595, 842), (612, 792)])

    def test_a_place_has_room_of_its_own(self) -> None:
        names, kinds = ["foghorn", "ice-plant", "catch-price"], [("axes", 60), ("none", None), ("", 30)]
        places = [replace(each, room=Room(*kind)) for each, kind in zip(places_of(*names), kinds)]
        printing = Printing(Plan("Quay", places), Heading("Quay", look=Look(working="lines")))
        forms = make_forms(printing.plan, 1, "seed").forms
        markup = printing.paper(forms[0])
        rooms = re.findall(r'(?:kind: "(\w+)", )?room: (\d+)mm', markup)
        self.assertEqual(rooms, [("axes", "60"), ("none", "0"), ("", "30")])
        page = pypdfium2.PdfDocument(printing.papers(forms))[0]
        text = page.get_textpage()
        whole = text.get_text_range()
        lines = [text.get_charbox(found.start())[1] for found in re.finditer("Answer", whole)]
        starts = [text.get_charbox(whole.index(word))[1] for word in ("Work out the", "How much heat", "What does")]
        for start, line, (_, wished) in zip(starts, lines, rooms, strict=True):
            self.assertGreater((start - line) / POINTS, int(wished))
            self.assertLess((start - line) / POINTS, int(wished) + 25)
        self.assertEqual(misplaced(page), [])
        # the highest room leaves the question on one page
        (high,) = places_of("foghorn")
        high = replace(high, room=Room("box", 200))
        for paper_size in CHOICES["paper"]:
            pages = paper(Plan("Quay", [high]), Look(paper=paper_size))
            self.assertEqual([found for page in pages for found in misplaced(page)], [])
        self.assertEqual(ROOMS.keys() - {"", "box", "axes", "none"}, CHOICES["working"].keys())

    def test_the_marks_stand_in_a_column_of_their_own(self) -> None:
        text = paper(plan_of("lock-gate", "foghorn"), Look())[0].get_textpage()
        whole = text.get_text_range()
        lefts = {round(text.get_charbox(found.start())[0]) for found in re.finditer(r"\d marks?\s*\r?\n", whole)}
        start = whole.index("The lock keeper")
        rights = [text.get_charbox(k)[2] for k in range(start, whole.index("\r", start) - 1)]
        self.assertEqual(len(lefts), 1)
        self.assertLess(max(rights), lefts.pop())

    def test_a_key_says_what_earns_less(self) -> None:
        number = {"kind": "number", "key": "3*a", "tolerance": {"mode": "relative", "value": "1%"},
            "bands": [{"tolerance": {"mode": "relative", "value": "10%"}, "share": "1/2"}],
            "slips": [{"key": "a/3", "share": "1/4", "feedback": "Turned upside down."}]}  # fmt: skip
        quantity = {**number, "kind": "quantity", "unit": "m/s"}
        formula = {
            "kind": "formula",
            "key": "a*x + 1",
            "slips": [{"key": "x + a", "share": "0", "feedback": "Where is a?"}],
        }
        equation = {"kind": "equation", "key": "y = a*x", "slips": [{"key": "y = x", "share": "1/2"}]}
        for answer, expected in [
            (number, ["within 1 % within 10 %: 2 marks 2: 1 mark; Turned upside down."]),
            (quantity, ["18 m/s", "within 10 %: 2 marks 2 m/s: 1 mark; Turned upside down."]),
            (formula, ["any equal formula 𝑥 + 6: 0 marks; Where is a?"]),
            (equation, ["𝑦 = 𝑥: 2 marks"]),
        ]:
            raw = {"title": "Less", "parameters": [{"name": "a", "definition": "6"}], "wording": "$a$",
                "parts": [{"marks": "4", "answer": answer}]}  # fmt: skip
            plan = Plan("Quay", [Place(CompiledQuestion(load_document(raw)), "less", 1)])
            forms = make_forms(plan, 1, "seed").forms
            (page,) = words(pypdfium2.PdfDocument(Printing(plan, Heading("Quay")).key(forms)))
            for each in expected:
                with self.subTest(kind=answer["kind"]):
                    self.assertIn(each, page)

    def test_very_many_answers_stand_below_each_other(self) -> None:
        names = [
            "lock-gate",
            "harbour-crane",
            "foghorn",
            "lighthouse-lamps",
            "ice-plant",
            "catch-mean",
            "ferry-bearing",
        ]
        plan = plan_of(*names, "quay-curve" if "quay-curve" in samples() else "crates-equation")
        made = make_forms(plan, 6, "seed")
        pages = words(pypdfium2.PdfDocument(Printing(plan, Heading("Quay")).short_key(made.forms)))
        self.assertEqual(len(pages), 1)
        self.assertIn("6 forms", pages[0])
        for form in made.forms:
            # once for the first twelve answers, and once for the others
            self.assertEqual(pages[0].count(form.code), 2)

    def test_answers_stand_in_the_order_of_their_parts(self) -> None:
        part = {"marks": "1", "wording": "Again.", "answer": {"kind": "number", "key": "a"}}
        raw = {"title": "Many", "parameters": [{"name": "a", "definition": "2..90"}], "wording": "$a$",
            "parts": [part, *[{**part, "under": True}] * 10]}  # fmt: skip
        asked = CompiledQuestion(load_document(raw))
        labels = [f"1 {label.full}" for label in asked.document.labels]
        # as words (ix) stands before (v)
        self.assertNotEqual(labels, sorted(labels))
        plan = Plan("Quay", [Place(asked, "many", 1)])
        made = make_forms(plan, 2, "seed")
        sheet = words(pypdfium2.PdfDocument(Printing(plan, Heading("Quay")).short_key(made.forms)))[0]
        self.assertIn(" ".join(labels), sheet)

    def test_what_is_kept_of_another_version_is_as_usual(self) -> None:
        kept = {"paper": "parchment", "letters": "large", "unknown": 1, "minutes": 30}
        self.assertEqual(Look.of(kept), Look(letters="large", minutes=30))
        self.assertEqual(Look.of(kept).kept, {"letters": "large", "minutes": 30})
        self.assertEqual([Look.of(each.kept) for each in LOOKS], LOOKS)
