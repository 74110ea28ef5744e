"""What would surprise a student: formulas that only authors read, texts that give the answer away, solutions that are
not true, keys that are not worked out. Each warning with a question that shows it and one that does not."""

from typing import Any
from unittest import TestCase

from tests.core.test_questions import question
from vorlage.core.forms import KeyFailure, make_forms
from vorlage.core.notation import line
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import (
    Caution,
    CompiledQuestion,
    DrawnQuestion,
    QuestionDrawing,
    diagnose,
    written,
    written_solution,
)
from vorlage.core.text import HTML, PRINTERS


def asked(wording: str, answer: dict[str, Any] | str, **part: Any) -> CompiledQuestion:
    """A question of one part about whole numbers a, b and r < s."""
    spelled = answer if isinstance(answer, dict) else {"kind": "number", "key": answer}
    rows = {"a": "3..7", "b": "8..12", "r": "1..4", "s": "5..9", "f": "expand((x - r)(x - s))"}
    parameters = part.pop("parameters", [{"name": name, "definition": text} for name, text in rows.items()])
    changes = {name: part.pop(name) for name in ("figures", "complex", "angle", "conditions") if name in part}
    made = question(wording=wording, parameters=parameters, parts=[{"answer": spelled, **part}], **changes)
    assert not made.problems, made.problems
    return made


def told(made: CompiledQuestion, code: str, draws: int = 8) -> list[Caution]:
    drawn = [QuestionDrawing(made, "surprises", 1).draw(number) for number in range(1, draws + 1)]
    return [warning for warning in diagnose(made, drawn) if warning.code == code]


def first(made: CompiledQuestion) -> DrawnQuestion:
    return QuestionDrawing(made, "surprises", 1).draw(1)


class AuthorsWords(TestCase):
    def test_what_only_authors_write_is_worked_out_wherever_it_stands(self) -> None:
        figure = {
            "name": "g",
            "lines": 'frame 0..9, 0..9\ntext (2, 2) "$expand((x + 1)^2)$"\npoint (1, 1) "$mean(a, a)$"',
        }
        sources = [
            "$h = expand((x - r)(x - s))$", "$factor(f)$", "$value(factor(f))$", "$solve(f = 0, x)$", "$mean(a, b)$",
            "$substitute(f, x, a)$", "$simplify(f/(x - r))$", "$value(diff(f, x))$", "$stdev(a, b)$",
            "$if(a > 0, a, b)$", "$value(gcd(a, 12))$", "$value(round(a/7, 2))$", "$value(2*f)$",
        ]  # fmt: skip
        for source in [*sources, "![g](figure:g)"]:
            for field in ("wording", "solution", "hint"):
                with self.subTest(source, field=field):
                    part: dict[str, Any] = {"figures": [figure]}
                    if field == "solution":
                        part["solution"] = source
                    if field == "hint":
                        part["hints"] = [{"text": source}]
                    made = asked(source if field == "wording" else "Show $f$.", "a + b + 100", **part)
                    item = first(made)
                    texts = [*made.hints[0], made.wording, made.solutions[0]]
                    shown = " ".join(written(item, text, printer) for printer in PRINTERS for text in texts)
                    for word in (
                        "expand",
                        "factor",
                        "solve",
                        "mean",
                        "substitute",
                        "simplify",
                        "stdev",
                        "value",
                        "gcd",
                    ):
                        self.assertNotIn(f"{word}(", shown.replace("<mo>", "").replace("</mi>", ""))
                        self.assertNotIn(f">{word}<", shown)
                    self.assertEqual(told(made, "not_worked_out", 3), [])

    def test_what_cannot_be_worked_out_is_told_and_never_printed(self) -> None:
        made = asked("Think of $value(1/(a - a))$.", "a + b")
        (warning,) = told(made, "not_worked_out")
        self.assertIn("value(1/(a - a)) in the wording cannot be worked out", warning.message)
        self.assertEqual(len(warning.draws), 8)
        self.assertEqual(told(asked("Think of $value(1/a)$.", "a + b"), "not_worked_out"), [])
        plan = Plan("Test", (Place(made, "surprises", 1),))
        with self.assertRaises(KeyFailure):
            make_forms(plan, 2, b"seed")

    def test_dollar_signs(self) -> None:
        for text, shown, doubts in [
            ("$a/b = value(a/b)$ dm³", 1, 0), ("$a$ is 5", 1, 0), ("$5 and $6", 0, 0), ("Take $a and $b$.", 1, 1),
            ("It costs \\$5 or $a$.", 1, 0), ("Take $ a $.", 0, 1), ("A crate for 5 $ or 6 $.", 0, 0),
            ("3$a$ and 4$b$", 2, 0), ("$a\n* b$ is 12", 0, 1), ("$a *\nb$ is 12", 1, 0), ("*$a$* **$b$**", 2, 0),
        ]:  # fmt: skip
            with self.subTest(text):
                made = asked(text, "a*b + 500")
                self.assertEqual((len(made.wording.trees), len(told(made, "unclosed"))), (shown, doubts))


class GivenAway(TestCase):
    def test_a_formula_in_the_wording_that_is_accepted(self) -> None:
        for answer, wording, offered in [
            ({"kind": "formula", "key": "(x - r)(x - s)"}, "Factorise $f$.", {"form": "factorised", "share": "0"}),
            ({"kind": "formula", "key": "(x - r)(x - s)", "form": "factorised"}, "Factorise $y = f$.", {"share": "0"}),
            ({"kind": "formula", "key": "f"}, "Multiply out $(x - r)(x - s)$.", {"form": "expanded", "share": "0"}),
            ({"kind": "equation", "key": "y = a x + b"}, "Write $y - a x = b$ with $y$ alone.", {"subject": "y", "share": "0"}),
            ({"kind": "inequality", "key": "x > b/a"}, "Solve $a x > b$.", {"form": "solved", "share": "0"}),
            ({"kind": "number", "key": "sin(60)"}, "Write $sin(60°)$ exactly.", {"written": {"form": "surd", "share": "0"}}),
            ({"kind": "number", "key": "a*b"}, "Work out $a*b$.", {"written": {"form": "integer", "share": "0"}}),
        ]:  # fmt: skip
            with self.subTest(wording):
                (warning,) = told(asked(wording, answer, angle="degrees"), "given_away", 3)
                self.assertEqual(warning.demand and warning.demand.changes, offered)
                self.assertEqual(warning.draws, (1, 2, 3))
                # what is offered ends it
                mended = answer | offered
                self.assertEqual(told(asked(wording, mended, angle="degrees"), "given_away", 3), [])

    def test_complex_numbers(self) -> None:
        answer: dict[str, Any] = {"kind": "number", "key": "(a + b i)(r - i)"}
        (warning,) = told(asked("Work out $(a + b i)(r - i)$.", answer, complex=True), "given_away", 3)
        self.assertEqual(warning.demand and warning.demand.words, "Ask for the form a + b i")
        mended = answer | {"written": {"form": "cartesian", "share": "0"}}
        made = asked("Work out $(a + b i)(r - i)$.", mended, complex=True)
        self.assertEqual(told(made, "given_away", 3), [])
        drawn = QuestionDrawing(made, "surprises", 1).draw(1).answers[0]
        assert drawn is not None
        printed = line(drawn.key_tree())
        self.assertEqual(drawn.check(printed).outcome, "right")
        self.assertNotEqual(drawn.check(f"({printed}) * 1").outcome, "unreadable")

    def test_numbers_that_are_the_answer_in_some_draws(self) -> None:
        made = asked("From $a$ and $b$ take $r$.", "b - a")
        (warning, *_) = told(made, "given_away", 30)
        self.assertIn("is itself the answer", warning.message)
        self.assertIn(warning.cure, ["b - a != a", "b - a != b", "b - a != r"])
        cures = ["b - a != a", "b - a != b", "b - a != r"]
        self.assertEqual(told(asked("From $a$ and $b$ take $r$.", "b - a", conditions=cures), "given_away", 30), [])

    def test_other_units_and_values_that_are_picked_are_no_gift(self) -> None:
        metres = [{"name": "a", "definition": "3..7", "unit": "m"}, {"name": "n", "definition": "3..7", "unit": ""}]
        self.assertEqual(told(asked("$n$ nets of $a$.", "n*a", after="m", parameters=metres), "given_away", 30), [])
        quantity = {"kind": "quantity", "key": "n*a/4", "unit": "m"}
        self.assertTrue(told(asked("$n$ nets of $a$.", quantity, parameters=metres), "given_away", 30))
        self.assertEqual(told(asked("Of $a$, $b$ and $r$ find the median.", "median(a, b, r)"), "given_away", 30), [])

    def test_options_hints_and_labels_are_looked_at(self) -> None:
        label = {"name": "g", "lines": 'frame 0..9, 0..20\ntext (2, 2) "$value(a + b)$"'}
        made = asked("Add. ![g](figure:g)", "a + b", figures=[label])
        self.assertIn("figure g", told(made, "given_away")[0].message)
        hint = {"hints": [{"text": "It is $value(a + b)$."}]}
        self.assertIn("a hint", told(asked("Add.", "a + b", **hint), "given_away")[0].message)
        self.assertEqual(told(asked("Add.", "a + b", hints=[{"text": "Not $value(a - b)$."}]), "given_away"), [])

    def test_the_name_of_an_axis_keeps_its_letters(self) -> None:
        lines = 'frame 0..9, 0..9\naxes "$a$ / s" "$a/s$"\npoint (a, 1) "$a$"'
        made = asked("![g](figure:g)", "a + b", figures=[{"name": "g", "lines": lines}])
        drawn = first(made)
        figure: Any = drawn.figures["g"]
        names = [[(run.text, run.italic) for run in name] for name in figure.axes]
        self.assertEqual(names, [[("a", True), (" / s", False)], [("a", True), ("/", False), ("s", True)]])
        self.assertEqual([run.text for run in figure.outlines[0].runs], [f"{drawn.values['a']}"])


class Solutions(TestCase):
    def test_every_equals_sign_is_true_to_the_digits_shown(self) -> None:
        rows = [
            {"name": "U", "definition": "48"}, {"name": "R", "definition": "11"}, {"name": "S", "definition": "20"},
            {"name": "P", "definition": "R*S/(R + S)", "shown": "3 sf"},
        ]  # fmt: skip
        answer = {"kind": "number", "key": "U/P", "tolerance": {"mode": "relative", "value": "2%"}}
        for solution, said in [
            ("$U/value(P) = value(U/P)$", "48/7.10 = 6.764, but 48/7.10 is 6.76056"),
            ("$U*(R + S)/(R*S) = value(U/P)$", ""),
            ("$U/value(P) ≈ value(U/P)$", ""),
            ("$I = U/value(P) = 7$", "48/7.10 = 7, but 48/7.10 is 6.76056"),
            ("$U/value(P) ≈ 8$", "48/7.10 ≈ 8, but 48/7.10 is 6.76056"),
            ("$2 + 3 = 6$", "2 + 3 = 6"),
            ("$2 + 3 = 5 = 10/2$", ""),
            ("$1/3 = 0.333$", ""),
            ("$1/3 = 0.334$", "1/3 = 0.334"),
            ("$2 pi R = value(2 pi R)$", ""),
            ("$x + 2 = 7$ gives $x = 5$", ""),
        ]:
            with self.subTest(solution):
                found = told(asked("Find it.", answer, parameters=rows, solution=solution), "untrue", 1)
                self.assertEqual(bool(found), bool(said), found)
                if said:
                    self.assertIn(said, found[0].message)

    def test_a_solution_ends_in_the_form_of_the_key(self) -> None:
        fraction = {"kind": "number", "key": "r/s", "written": {"form": "fraction", "lowest_terms": True}}
        made = asked("Share.", fraction, solution="$r/s = value(r/s)$")
        item = first(made)
        self.assertIn("mfrac", written_solution(item, 0, HTML))
        self.assertEqual(told(made, "solution_form"), [])
        (warning,) = told(asked("Share.", fraction, solution="So $1/2 = 0.5$", conditions=["2r = s"]), "solution_form")
        self.assertIn("Write the answer as a fraction.", warning.message)
        # money to the cent, and a figure more than the key on the way
        rows = [{"name": "p", "definition": "55"}, {"name": "q", "definition": "15"}]
        money = {"kind": "number", "key": "p*(1 - q/100)*2/3", "tolerance": {"mode": "decimal_places", "value": "2"}}
        made = asked("Pay.", money, parameters=rows, solution="$value(p*2/3)$ and $value(p*(1 - q/100)*2/3)$")
        item = first(made)
        shown = [line(item.shown(tree, 0)) for tree in made.solutions[0].trees.values()]
        self.assertEqual(shown, ["36.667", "31.17"])

    def test_earlier_answers_stand_in_later_solutions(self) -> None:
        made = question(
            parts=[
                {"answer": {"kind": "quantity", "key": "m*10", "unit": "N"}, "gives": "W"},
                {"answer": {"kind": "quantity", "key": "W*h", "unit": "J"}, "solution": "$W*h = value(W*h)$ and $W$"},
            ],
            parameters=[
                {"name": "m", "definition": "20", "unit": "kg"}, {"name": "h", "definition": "3", "unit": "m"},
            ],
        )  # fmt: skip
        item = first(made)
        shown = [line(item.shown(tree, 1)) for tree in made.solutions[1].trees.values()]
        self.assertEqual(shown, ["200*3 = 600", "200"])


class Keys(TestCase):
    def test_keys_are_worked_out_in_print(self) -> None:
        rows = [{"name": name, "definition": text} for name, text in {"a": "4", "b": "3", "c": "1", "d": "-2"}.items()]
        for kind, key, printed in [
            ("vector", "vec(a + b, c + d)", "vec(7, -1)"), ("point", "(a/2, b/2)", "(2, 3/2)"),
            ("matrix", "matrix(a*b, a*c; d*d, 0)", "matrix(12, 4; 4, 0)"), ("set", "{a + b, a - b}", "{7, 1}"),
            ("formula", "6*x^b/b", "2 x^3"), ("formula", "a*x^3/3", "4 x^3/3"), ("formula", "(x - a)(x + b)", "(x - 4) (x + 3)"),
            ("formula", "a*x + b + c", "4 x + 4"), ("formula", "2*a*sqrt(x)/4", "2 sqrt(x)"),
            ("formula", "0.5*a*x", "2 x"), ("formula", "x^(b - 2)", "x"), ("formula", "a*pi*b", "12 pi"),
            ("equation", "y = a*b*x", "y = 12 x"), ("inequality", "x > a/b + c", "x > 7/3"),
            ("number", "sin(30)", "1/2"), ("number", "4*cos(30)", "2 sqrt(3)"), ("number", "tan(35)", "tan(35°)"),
            ("number", "sqrt(a*b)", "2 sqrt(3)"), ("formula", "mean(a, b) + c", "9/2"), ("set", "{binomial(a, b), gcd(a, 6)}", "{4, 2}"),
            ("list", "if(a > b, a, b), max(a, b)", "list(4, 4)"),
        ]:  # fmt: skip
            with self.subTest(key):
                made = asked("Go.", {"kind": kind, "key": key}, parameters=rows, angle="degrees")
                answer = first(made).answers[0]
                assert answer is not None
                self.assertEqual(line(answer.key_tree()), printed)
                self.assertEqual(answer.check(printed).outcome, "right")

    def test_standard_form_has_no_zeros_at_its_end(self) -> None:
        for key, printed in [("11*10^12", "1.1e13"), ("123456", "1.235e5"), ("4*10^-3", "4e-3")]:
            written = {"kind": "number", "key": key, "written": {"form": "standard_form"},
                       "tolerance": {"mode": "relative", "value": "1%"}}  # fmt: skip
            answer = first(asked("Go.", written)).answers[0]
            assert answer is not None
            self.assertEqual(line(answer.key_tree()), printed)
