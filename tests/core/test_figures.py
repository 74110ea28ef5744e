"""Figures: their lines, what is drawn, and regions that are pointed at."""

from __future__ import annotations

import io
import re
from copy import deepcopy
from typing import Any
from unittest import TestCase
from xml.etree import ElementTree

from flint import fmpq
from pypdf import PdfReader

from vorlage.core.algebra import EvaluationError
from vorlage.core.documents import Heading, Printing
from vorlage.core.figures import Figure, Region, moved_region, svg
from vorlage.core.figures.lettering import maths_runs
from vorlage.core.figures.svg import Canvas, multiples, nice_step, tick
from vorlage.core.forms import make_forms
from vorlage.core.notation import POINT, NotationError, Settings, Style, line, read
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import (
    CompiledQuestion,
    DocumentError,
    QuestionDrawing,
    diagnose,
    key_picture,
    load_document,
    spoken,
    written,
    written_part,
)
from vorlage.core.text import HTML, PRINTERS, TYPST

SETTINGS = Settings(names=frozenset(["a", "h"]))
FRAME = "frame 0..8, 0..6\n"
# a line that cannot be used, and what is said of it
REFUSED = [
    ("square (0, 0)", "`square` is not known"),
    ("line (0, 0)", "needs at least 2 places"),
    ("line (0, 0) 3", "`3` is no place"),
    ("line (0, 0) (1, 2, 3)", "is no place"),
    ("polygon (0, 0) (1, 1)", "needs at least 3 places"),
    ("circle (0, 0)", "a place and a radius"),
    ("point (1, 2) (3, 4)", "needs 1 place,"),
    ("point (1, q)", "q is not a parameter of this question."),
    ("point (1, 2", "A bracket is missing."),
    ('text (1, 2) "P', "A quotation mark is missing."),
    ("text (1, 2)", "Words stand between quotation marks"),
    ("curve x = 3", "A curve is written as"),
    ("frame 0..8", "A frame is written as"),
    ("point (1, 2 +)", ""),
    ('axes "a" "b" "c"', "Axes have two names at most"),
    ('text (1, 1) "$a +$"', ""),
    ("picture <b>", "A picture is named"),
    ('point ("oak", 1)', "have no value"),
    ("line (0, 0) ([1, 2], 3)", ""),
]


def figure(lines: str, known: str = "ah") -> Figure:
    return Figure(FRAME + lines, SETTINGS, frozenset(known))


def numbers(lines: str, a: int = 2, h: int = 3) -> str:
    from flint import fmpq

    drawn = figure(lines).drawn({"a": fmpq(a), "h": fmpq(h)}, lambda tree: tree)
    return svg(drawn, "what it shows")


class Figures(TestCase):
    def test_lines_that_cannot_be_used_are_named(self) -> None:
        for source, said in REFUSED:
            with self.subTest(source):
                problems = figure(source).problems
                self.assertEqual([problem.line for problem in problems], [2])
                self.assertIn(said, problems[0].message)
        self.assertIn("has one frame", Figure("point (1, 2)", SETTINGS, frozenset()).problems[0].message)
        self.assertIn("at most 60 lines", figure("grid 1\n" * 80).problems[0].message)

    def test_places_are_to_scale(self) -> None:
        picture = ElementTree.fromstring(numbers("box (0, 0) (a, h)\ncircle (4, 3) 1"))
        path = next(each for each in picture if each.tag.endswith("path")).attrib["d"]
        corners = [tuple(map(float, pair)) for pair in re.findall(r"([\d.]+) ([\d.]+)", path)]
        wide, high = corners[1][0] - corners[0][0], corners[0][1] - corners[2][1]
        self.assertAlmostEqual(wide / high, 2 / 3, places=2)
        round_one = next(each for each in picture if each.tag.endswith("ellipse")).attrib
        # without axes shapes are kept true
        self.assertEqual(round_one["rx"], round_one["ry"])

    def test_every_word_is_drawn(self) -> None:
        lines = (
            'grid 1, 2\naxes "$t$ / s" "$v$"\ndashed line (0, 0) (a, h) (4, 1)\narrow (1, 1) (2, 2) "$F$"\nthick polygon (0, 0) (1, 0) (0, 1)\n'
            'filled box (5, 4) (6, 5)\ncircle (4, 3) a/2\npoint (a, h) "P"\ntext (1, 5) "$a$ < 3 & <b>"\ncurve y = 1/(x - a) from 0 to 6'
        )
        written = numbers(lines)
        picture = ElementTree.fromstring(written)
        self.assertEqual(picture.attrib["aria-label"], "what it shows")
        self.assertIn("&lt; 3 &amp; &lt;b&gt;", written)
        self.assertIn("stroke-dasharray", written)
        # the curve is cut where it has no value
        self.assertGreaterEqual(sum(each.tag.endswith("path") for each in picture.iter()), 8)

    def test_what_leaves_the_frame_is_noticed(self) -> None:
        for source, off in [("point (a, 7a)", ((2, "7 a <= 6"),)), ("point (a, 6)", ()), ("circle (a, 3) 2", ((2, "a - 2 >= 0"),)), ("circle (4, 3) 4a", ((2, "3 + 4 a <= 6"),)), ("circle (4, 3) 3", ()), ("curve y = 20 + x", ((2, ""),)), ("curve y = x", ()), ("curve y = 5 + x", ((2, ""),)), ("curve y = x from 0 to 7", ((2, ""),)), ("curve y = x from 0 to 5", ()), ("point (1, 7)", ((2, ""),))]:  # fmt: skip
            with self.subTest(source):
                self.assertEqual(figure(source).drawn({"a": fmpq(1)}, lambda tree: tree).off, off)

    def test_a_curve_ends_at_the_edge_of_its_frame(self) -> None:
        (run,) = figure("curve y = 3x").drawn({}, lambda tree: tree).outlines
        self.assertEqual((run.places[0], run.places[-1]), ((0.0, 0.0), (2.0, 6.0)))

    def test_what_is_closed_is_named_in_its_middle(self) -> None:
        for source, place in [('polygon (0, 0) (4, 0) (4, 4) (0, 4) "A"', (2, 2)), ('circle (3, 3) 1 "A"', (3, 3))]:
            drawn = figure(source).drawn({}, lambda tree: tree)
            found = re.search(r'<text x="([\d.]+)" y="([\d.]+)"[^>]*><tspan>A', svg(drawn, "named"))
            assert found is not None
            x, y = Canvas(drawn).at(place)
            self.assertEqual((float(found[1]), float(found[2])), (x, y + 4))


class Regions(TestCase):
    def test_a_region_is_moved_with_its_formulas_kept(self) -> None:
        for line_of_region, shifts, moved in [
            ("circle (2, 3) 0.5", {0: 0.5, 1: -1}, "circle (2.5, 2) 0.5"),
            ("circle (a, b/2) r", {0: 0.32, 1: -1, 2: 0.1}, "circle (a + 0.3, b/2 - 1) r + 0.1"),
            ("circle (a + 0.3, 2) 1", {0: -0.3}, "circle (a, 2) 1"),
            ("box (0, 0) (a - 1, b)", {2: 0.5, 3: 0.5}, "box (0, 0) (a - 0.5, b + 0.5)"),
            ("box (0, 0) (max(a + 1), b)", {2: 1}, "box (0, 0) (max(a + 1) + 1, b)"),
            ("polygon (0, 0) (1, 0) (0, 1)", {4: 0.27}, "polygon (0, 0) (1, 0) (0.3, 1)"),
            ("nonsense (1", {0: 1}, "nonsense (1"),
            ("circle (1, 2", {0: 1}, "circle (1, 2"),
        ]:
            with self.subTest(line_of_region):
                self.assertEqual(moved_region(line_of_region, shifts, 0.1), moved)

    def test_what_lies_inside(self) -> None:
        bent = "polygon (0, 0) (4, 0) (4, 4) (3, 4) (3, 1) (0, 1)"
        for region, inside, outside in [
            ("circle (2, 3) 1", [(2, 3), (3, 3), (2.7, 3.7)], [(3.01, 3), (2.8, 3.8)]),
            ("box (1, 1) (3, 2)", [(1, 1), (2, 1.5), (3, 2), (2, 2)], [(0.9, 1.5), (2, 2.1)]),
            (bent, [(3.5, 3.5), (1, 0.5), (3, 4), (3, 2)], [(1, 3), (2.9, 2), (4.1, 0)]),
        ]:
            drawn = Region(region, SETTINGS, frozenset()).drawn({})
            for place in inside:
                self.assertTrue(drawn.holds(place), (region, place))
            for place in outside:
                self.assertFalse(drawn.holds(place), (region, place))
            self.assertTrue(drawn.holds(drawn.middle), region)

    def test_what_is_no_region(self) -> None:
        for source in ("point (1, 2)", "circle (1, 2)", "nonsense", ""):
            with self.subTest(source), self.assertRaises(NotationError):
                Region(source, SETTINGS, frozenset())


QUESTION: dict[str, Any] = {
    "title": "Path",
    "wording": "See.\n\n![A path from $h$](figure:path)",
    "parameters": [{"name": "h", "definition": "2..4", "unit": "m"}],
    "figures": [{"name": "path", "lines": "frame 0..8, 0..6\ncurve y = h + x\npoint (1, 2h - 1)"}],
    "parts": [{"wording": "Mark it.", "answer": {"kind": "hotspot", "figure": "path", "regions": [{"region": "circle (1, h) 0.5"}]}}],
}  # fmt: skip


class FiguresInQuestions(TestCase):
    def test_a_figure_is_shown_read_aloud_and_printed(self) -> None:
        question = CompiledQuestion(load_document(QUESTION))
        self.assertEqual(question.problems, [])
        drawn = QuestionDrawing(question, "figures", 1).draw(1)
        shown = written(drawn, question.wording, HTML)
        self.assertIn('<svg xmlns="http://www.w3.org/2000/svg" class="figure" role="img"', shown)
        self.assertRegex(shown, r'aria-label="A path from [234] metres"')
        self.assertRegex(spoken(drawn, question.wording)[0], "A path from [234] metres")
        self.assertIn("#picture(", written(drawn, question.wording, TYPST))
        self.assertIn('class="region"', key_picture(drawn, 0, HTML))

    def test_what_runs_off_its_frame_is_said_with_the_draws(self) -> None:
        question = CompiledQuestion(load_document(QUESTION))
        drawn = [QuestionDrawing(question, "figures", 1).draw(number) for number in (1, 2, 3)]
        told = [warning for warning in diagnose(question, drawn) if warning.code == "off_frame"]
        # the point leaves it with h = 4; of the curve less than half lies inside with 3 and 4
        self.assertEqual(
            {
                warning.message[-26:]: sorted(item.values["h"] for item in drawn if item.draw.number in warning.draws)
                for warning in told
            },
            {"line 2 runs off its frame.": [3, 4], "line 3 runs off its frame.": [4]},
        )

    def test_a_region_that_never_decides_is_told(self) -> None:
        for second, told in [
            ("circle (1, h) 0.4", True),
            ("circle (1, h) 0.5", True),
            ("circle (1, h) 2", False),
            ("circle (5, 1) 0.4", False),
        ]:
            part = deepcopy(QUESTION["parts"][0])
            part["answer"]["regions"] = [
                {"region": "circle (1, h) 0.5", "share": "1"},
                {"region": second, "share": "1/2"},
            ]
            question = CompiledQuestion(load_document({**QUESTION, "parts": [part]}))
            codes = {warning.code for warning in diagnose(question, [QuestionDrawing(question, "figures", 1).draw(1)])}
            self.assertEqual("region_covered" in codes, told, second)

    def test_what_is_missing_is_named(self) -> None:
        part = QUESTION["parts"][0]
        for change, said in [
            ({"figures": []}, "There is no figure called path."),
            ({"wording": "See."}, "Show the figure in the wording"),
            ({"wording": "![](figure:path)"}, "Say between the square brackets"),
            ({"wording": "![x](https://sandhaven.example/a.png)"}, "Only what belongs to the question"),
            ({"wording": "![x](image:harbour) ![x](figure:path)"}, "There is no picture called harbour."),
            ({"figures": [{"name": "path", "lines": "frame 0..8, 0..6\npicture harbour"}]}, "There is no picture called harbour."),
            ({"parts": [{**part, "answer": {**part["answer"], "regions": [{"region": "circle (1, q) 2"}]}}]}, "q is not a parameter"),
        ]:  # fmt: skip
            with self.subTest(said):
                messages = " ".join(
                    problem.message for problem in CompiledQuestion(load_document({**QUESTION, **change})).problems
                )
                self.assertIn(said, messages)
        with self.assertRaises(DocumentError):
            load_document({**QUESTION, "figures": [{"name": "two words", "lines": "frame 0..1, 0..1"}]})


class Axes(TestCase):
    def test_steps_are_round_and_far_enough_apart(self) -> None:
        for length, pixels, least, step in [
            (10, 300, 38, 2),
            (1, 300, 38, 0.2),
            (0.04, 300, 38, 0.01),
            (700, 300, 38, 100),
            (6, 180, 26, 1),
        ]:
            self.assertAlmostEqual(nice_step(length, pixels, least), step)
            self.assertGreaterEqual(pixels * step / length, least)

    def test_marks_lie_on_the_multiples(self) -> None:
        self.assertEqual(multiples(-1, 2.5, 0.5), [-1, -0.5, 0, 0.5, 1, 1.5, 2, 2.5])
        self.assertEqual(multiples(0.1, 0.9, 1), [])
        # a grid that nobody could tell apart is left out
        self.assertEqual(multiples(0, 1000, 1), [])

    def test_every_axis_has_its_numbers_and_its_name(self) -> None:
        written = numbers('axes "$t$ / s" "v" 2, 3')
        words = re.findall(r"<tspan[^>]*>([^<]*)</tspan>", written)
        self.assertEqual([word for word in words if word.isdecimal()], ["2", "4", "6", "8", "3", "6", "0"])
        self.assertIn('<tspan font-style="italic">t</tspan><tspan> / s</tspan>', written)

    def test_numbers_at_axes_are_written_as_in_a_text(self) -> None:
        comma = Style("comma", thousands="apostrophe")
        for value, style, expected in [
            (0.5, POINT, "0.5"), (-0.25, comma, "−0,25"), (20000.0, POINT, "20\u202f000"), (20000.0, comma, "20’000"),
            (1500.0, POINT, "1500"), (2e7, POINT, "2 × 10^7"), (-5e-5, comma, "−5 × 10^−5"), (0.0, POINT, "0"),
        ]:  # fmt: skip
            shown = "".join("^" + run.text if run.shift else run.text for run in tick(value, style))
            self.assertEqual(shown, expected)

    def test_maths_in_labels_is_lettered(self) -> None:
        for typed, expected in [
            ("x^2 + y^2 = 9", "_x^2 + _y^2 = 9"), ("rho", "_ρ"), ("v_0", "_v~0"), ("2*pi*r", "2π_r"), ("3*4", "3 × 4"),
            ("m*s^-2", "_m_s^−2"), ("a - b", "_a − _b"), ("3.2e-4", "3.2 × 10^−4"), ("-x", "−_x"),
        ]:  # fmt: skip
            runs = maths_runs(read(typed), POINT)
            marks = {0: "", 1: "^", -1: "~"}
            self.assertEqual(
                "".join(("_" if each.italic else "") + marks[each.shift] + each.text for each in runs), expected
            )

    def test_what_is_empty_is_cut_away_but_where_places_are_answered(self) -> None:
        lines = "frame 0..10, 0..100\nbox (1, 2) (9, 6)"
        drawn = Figure(lines, SETTINGS, frozenset()).drawn({}, lambda tree: tree)
        heights = [
            float(re.search(r'height="([\d.]+)"', svg(drawn, "a box", whole=whole))[1]) for whole in (True, False)
        ]
        self.assertEqual(heights[0], 440.0)
        self.assertLess(heights[1], 200.0)
        # clicks are read by what the picture says of its frame
        self.assertIn('data-frame="0.0 10.0 ', svg(drawn, "a box"))
        self.assertNotIn('data-frame="0.0 10.0 0.0 100.0"', svg(drawn, "a box", whole=False))

    def test_a_frame_that_does_not_begin_at_nought(self) -> None:
        drawn = Figure("frame -4..-1, 2..5\naxes\npoint (-2, 3)", SETTINGS, frozenset()).drawn({}, lambda tree: tree)
        picture = ElementTree.fromstring(svg(drawn, "x"))
        width, height = float(picture.attrib["width"]), float(picture.attrib["height"])
        for dot in picture.iter("{http://www.w3.org/2000/svg}circle"):
            self.assertTrue(0 < float(dot.attrib["cx"]) < width and 0 < float(dot.attrib["cy"]) < height)

    def test_a_frame_the_wrong_way_round_has_no_room(self) -> None:
        turned = Figure("frame 8..0, 0..6", SETTINGS, frozenset())
        with self.assertRaisesRegex(EvaluationError, "no room"):
            turned.drawn({}, lambda tree: tree)
        nowhere = figure("point (a, 1/(h - 3))")
        with self.assertRaises(EvaluationError):
            nowhere.drawn({"a": fmpq(1), "h": fmpq(3)}, lambda tree: tree)
        for value, said in [("oak", "a is a word"), (fmpq(10) ** 30, "Line 2 of the figure has no place in it")]:
            with self.assertRaisesRegex(EvaluationError, said):
                figure("point (a, 1)").drawn({"a": value}, lambda tree: tree)


class OnPaper(TestCase):
    """Gaps, rubric, steps and figures, read back from the PDF by another reader."""

    def test_a_paper_and_its_key(self) -> None:
        gaps = [{"answer": {"kind": "choice", "shuffle": False, "options": [{"text": "rises", "share": "1"}, {"text": "falls"}]}},
                {"answer": {"kind": "number", "key": "2h"}}]  # fmt: skip
        raw = {
            **QUESTION,
            "parts": [
                {"wording": "It ___ by ___.", "marks": 2, "answer": {"kind": "blanks", "gaps": gaps}},
                {"wording": "Look at it.", "answer": {"kind": "none"}},
                {"under": True, "wording": "Mark it.", "answer": QUESTION["parts"][0]["answer"]},
                {
                    "under": True,
                    "wording": "Explain.",
                    "marks": 2,
                    "answer": {"kind": "essay", "rubric": "Method | 0 none | 2 complete"},
                },
            ],
        }
        question = CompiledQuestion(load_document(raw))
        self.assertEqual(question.problems, [])
        plan = Plan("Paths", [Place(question, "paths", 1)], "")
        made = make_forms(plan, 1, "paths")
        printing = Printing(plan, Heading("Paths"))
        paper = "".join(page.extract_text() for page in PdfReader(io.BytesIO(printing.papers(made.forms))).pages)
        for words in ("A rises", "B falls", "(i)", "(ii)", "5 marks"):
            self.assertIn(words, " ".join(paper.split()))
        key = " ".join(
            "".join(page.extract_text() for page in PdfReader(io.BytesIO(printing.key(made.forms))).pages).split()
        )
        drawn = QuestionDrawing(question, "paths", 1).draw(made.forms[0].items[0].draw.number)
        self.assertIn(f"A, {line(drawn.worth(read('2*h', question.settings)))}", key)
        for words in ("1 (a)", "1 (b)(i)", "1 (b)(ii)", "Method", "complete", "anywhere in the region"):
            self.assertIn(words, key)
        # information has no key
        self.assertNotIn("1 (b) ", key)


class SpansByThemselves(TestCase):
    def test_options_with_places_or_figures_in_them_leave_no_sign_behind(self) -> None:
        options = [{"text": "rises ___ ![a path](figure:path)", "share": "1"}, {"text": "falls"}]
        part = {
            "wording": "It ___.",
            "answer": {"kind": "blanks", "gaps": [{"answer": {"kind": "choice", "options": options}}]},
        }
        drawn = QuestionDrawing(CompiledQuestion(load_document({**QUESTION, "parts": [part]})), "signs", 1).draw(1)
        for printer in PRINTERS:
            markup = written_part(drawn, 0, printer)
            self.assertFalse({"\ue000", "\ue001", "\ue002"} & set(markup), printer.name)
