"""Line maths by the habits of a place: what is typed there, what a document has, and back."""

from django.test import SimpleTestCase as TestCase
from hypothesis import given
from hypothesis import strategies as st

from vorlage.core.notation import (
    Habits,
    NotationError,
    Settings,
    from_document,
    in_figure,
    in_spans,
    line,
    mathml,
    read,
    read_authored,
    to_document,
    told,
    typst,
)
from vorlage.core.quantities import as_document, as_read
from vorlage.core.questions import CompiledQuestion, DrawnQuestion, QuestionDrawing, load_document, written_part
from vorlage.core.text import HTML

COMMA = Habits("comma", colon=True)
# as it is typed, as a document has it, and as that is shown again where it differs
LINES = [
    ("0,5..4 step 0,25", "0.5..4 step 0.25", None),
    ("-1,5..1,5 except 0", "-1.5..1.5 except 0", None),
    ("one of 3,5; 7", "one of 3.5, 7", None),
    ("one of 3, 5, 7", "one of 3, 5, 7", "one of 3; 5; 7"),
    ('one of "2,5 m"; "3; 4"', 'one of "2,5 m", "3; 4"', None),
    ("normal(20; 4,5)", "normal(20, 4.5)", None),
    ("1.200", "1'200", "1'200"),
    ("1.234.500,5", "1'234'500.5", "1'234'500,5"),
    ("12 500,5", "12 500.5", None),
    ("max(a;b)", "max(a,b)", None),
    ("max(a,2)", "max(a,2)", "max(a;2)"),
    ("matrix(1, 2; 3,5, 4)", "matrix(1, 2; 3.5, 4)", None),
    ("root(3; matrix(1,5; 2))", "root(3, matrix(1.5; 2))", None),
    ("stoff.dichte*2,5", "stoff.dichte*2.5", None),
    ("9,81 [m/s^2]", "9.81 [m/s^2]", None),
    ("[1,5; 3)", "[1.5, 3)", None),
    ("{1,5; -2}", "{1.5, -2}", None),
    ("12 : 4", "12 / 4", "12 / 4"),
    ("-,5 + x1", "-.5 + x1", None),
    ("3,2e-4*x", "3.2e-4*x", None),
    ("chem: CuSO4.5H2O", "chem: CuSO4.5H2O", None),
    ("pattern [0-9]+,[0-9]", "pattern [0-9]+,[0-9]", None),
    ("2,5%", "2.5%", None),
]
REFUSED = [
    ("3.5", "3,5"),
    ("m*9.81", "9,81"),
    ("0.125", "0,125"),
    ("3,5,7", "3; 5; 7"),
    ("(1.5; 2)", "1,5"),
    ("1,2.3", ""),
]


class Lines(TestCase):
    def test_what_is_typed_becomes_what_a_document_has_and_keeps_its_places(self) -> None:
        for typed, written, again in LINES:
            with self.subTest(typed):
                self.assertEqual(to_document(typed, COMMA), written)
                self.assertEqual(len(written), len(typed))
                self.assertEqual(from_document(written, COMMA), again or typed)

    def test_a_number_that_means_nothing_here_is_refused_at_its_place(self) -> None:
        for typed, meant in REFUSED:
            with self.subTest(typed), self.assertRaises(NotationError) as caught:
                to_document(typed, COMMA)
            problem = caught.exception
            self.assertEqual((problem.code, problem.instead), ("decimal_mark", meant))
            self.assertIn(typed[problem.place], "0123456789")

    def test_with_the_point_everything_stays(self) -> None:
        for typed, _, _ in LINES:
            self.assertEqual(to_document(typed, Habits()), typed)
            self.assertEqual(from_document(typed, Habits(thousands="apostrophe", tg=True)), typed)

    @given(st.recursive(
        st.decimals(-1000, 1000, places=2).map(str) | st.sampled_from(["a", "b_1", "pi"]),
        lambda inner: st.tuples(inner, inner).map(lambda pair: f"max({pair[0]}, {pair[1]})")
        | st.tuples(inner, inner).map(lambda pair: f"({pair[0]} + 2.5)/({pair[1]})"),
        max_leaves=6,
    ))  # fmt: skip
    def test_a_line_comes_back_and_is_read_as_the_same(self, written: str) -> None:
        shown = from_document(written, COMMA)
        self.assertEqual(to_document(shown, COMMA), written)
        self.assertEqual(read(shown, COMMA.reading(Settings())), read_authored(written))

    def test_texts_and_figures_are_turned_in_their_maths_alone(self) -> None:
        text = "Cost 2,5 and $5 or $6; $1,5 m$, $$max(a; 2,5)$$"
        turned = "Cost 2,5 and $5 or $6; $1.5 m$, $$max(a, 2.5)$$"
        self.assertEqual(in_spans(text, COMMA, to_document), turned)
        figure = 'frame 0..2,5; -1..1\ntext (1,5; 0) "1,5 is $1,5$"'
        self.assertEqual(in_figure(figure, COMMA, to_document), 'frame 0..2.5, -1..1\ntext (1.5, 0) "1,5 is $1.5$"')
        with self.assertRaises(NotationError) as caught:
            in_figure("frame 0..2; 0..1\npoint (1.5; 0)", COMMA, to_document)
        self.assertIn("Line 2", caught.exception.message)

    def test_quantities_in_prose_are_turned_and_other_numbers_stay(self) -> None:
        for written, read_here in [
            ("Take 9.81 N/kg, or 4.18 kJ/(kg K).", "Take 9,81 N/kg, or 4,18 kJ/(kg K)."),
            ("At 10.30 a boat of 2.5 m, and 12.5 % of it.", "At 10.30 a boat of 2,5 m, and 12,5 % of it."),
            ("See chapter 2.5; $2.5 m$ stays.", "See chapter 2.5; $2.5 m$ stays."),
            ("(0.5\u202fmol/L)", "(0,5\u202fmol/L)"),
        ]:
            with self.subTest(written):
                self.assertEqual(as_read(written, COMMA), read_here)
                self.assertEqual(as_document(read_here, COMMA), written)
                self.assertEqual(as_read(written, Habits()), written)

    def test_sentences_are_read_as_they_are_written_here(self) -> None:
        self.assertEqual(told("Draw 3 has 2.75; write `max(a, 0.5)`.", COMMA), "Draw 3 has 2,75; write `max(a; 0,5)`.")
        self.assertEqual(told("from 2..9, version 1.2.3", COMMA), "from 2..9, version 1.2.3")


class Printed(TestCase):
    def test_every_habit_is_seen_in_print(self) -> None:
        tree = read("tan(x)*1234567.5*3")
        style = Habits("comma", "apostrophe", "dot", tg=True).style
        self.assertIn("<mi>tg</mi>", mathml(tree, style))
        self.assertIn("<mn>1’234’567,5</mn><mo>·</mo><mn>3</mn>", mathml(tree, style))
        self.assertIn('op("tg")', typst(tree, style))
        self.assertIn('"1’234’567,5" dot "3"', typst(tree, style))
        self.assertEqual(line(tree, style), "tan(x)*1234567,5*3")

    def test_a_colon_divides_where_it_is_the_habit(self) -> None:
        self.assertEqual(read("12 : 4", COMMA.reading(Settings())), read("12/4"))
        with self.assertRaises(NotationError):
            read("12 : 4")


class Answered(TestCase):
    RAW = {
        "format": "vorlage-question-3", "title": "Tide", "wording": "$h$",
        "parameters": [{"name": "h", "definition": "2.5"}],
        "figures": [{"name": "gauge", "lines": 'frame 0..2, 0..1\naxes\ntext (1, 0.5) "$h$"'}],
        "parts": [
            {"wording": "![tide](figure:gauge)", "gives": "d",
             "answer": {"kind": "number", "key": "2*h", "bands": [
                 {"tolerance": {"mode": "relative", "value": "10%"}, "share": "1/2"}]}},
            {"answer": {"kind": "point", "key": "(d/2, 0.5)"}},
            {"answer": {"kind": "choice", "options": [{"text": "$0.5$", "share": "1"}, {"text": "$1.5$"}]}},
        ],
    }  # fmt: skip

    def drawn(self, habits: Habits) -> DrawnQuestion:
        return QuestionDrawing(CompiledQuestion(load_document(self.RAW), habits), "tide", 1).draw(1)

    def test_what_is_typed_is_read_by_the_habits_and_the_key_proves_itself_all_the_same(self) -> None:
        drawn = self.drawn(COMMA)
        first, second, third = drawn.check(["5,0", "(2,5; 0,5)", "A"])
        self.assertEqual([each.outcome for each in (first, second)], ["right", "right"])
        self.assertIn(third.outcome, {"right", "wrong"})
        self.assertEqual([answer.fault() for answer in drawn.answers], ["", "", ""])
        self.assertEqual(drawn.verdict(0, "5.0").outcome, "unreadable")
        self.assertEqual(drawn.verdict(0, "5,25").because, "band within 10 %")
        self.assertEqual(drawn.verdict(1, "(4,5 : 2; 0,5)", {"d": drawn.verdict(0, "4,5").value}).outcome, "right")

    def test_a_figure_has_the_mark_of_the_place(self) -> None:
        for habits, label in ((Habits(), "2.5"), (COMMA, "2,5")):
            shown = written_part(self.drawn(habits), 0, HTML)
            self.assertIn(f"<tspan>{label}</tspan>", shown)
            self.assertIn(f"<tspan>{label[0].replace('2', '0')}{label[1]}5</tspan>", shown)
