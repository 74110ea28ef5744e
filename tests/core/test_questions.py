"""Question documents, question text, forms, and the papers and keys made of them."""

import io
import json
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

import jsonschema
from pypdf import PdfReader

from vorlage.core.answers.kinds.blanks import DrawnBlanks
from vorlage.core.documents import Heading, Printing, load_compiler
from vorlage.core.forms import KeyFailure, make_forms, shared_answers, shown_key
from vorlage.core.notation import Settings, Style, line, mathml, read
from vorlage.core.plans import Place, Plan, PlanError
from vorlage.core.questions import (
    CompiledQuestion,
    DocumentError,
    DrawnQuestion,
    QuestionDrawing,
    diagnose,
    load_document,
    schema,
    survey,
    written,
    written_part,
)
from vorlage.core.text import HTML, TYPST, QuestionText
from vorlage.library import samples

DEMO = Path(__file__).resolve().parents[2] / "demo/questions"


def document(**changes: Any) -> dict[str, Any]:
    """A small sound question with some things changed."""
    plain = {
        "title": "Crates",
        "wording": "A crate of mass $m$ is lifted by $h$.",
        "parameters": [
            {"name": "m", "definition": "10..60 step 5", "unit": "kg"},
            {"name": "h", "definition": "2..9", "unit": "m"},
        ],
        "parts": [
            {
                "wording": "Multiply.",
                "answer": {"kind": "number", "key": "m*h"},
                "marks": 2,
                "solution": "$m*h = value(m*h)$",
            }
        ],
    }
    return plain | changes


def question(**changes: Any) -> CompiledQuestion:
    return CompiledQuestion(load_document(document(**changes)))


class Documents(TestCase):
    def test_every_sample_question_is_sound_in_many_draws(self) -> None:
        found = samples()
        self.assertGreaterEqual(len(found), 14)
        subjects = {filing.topic[0] for _, filing in found.values()}
        self.assertEqual(subjects, {"Mathematics", "Physics", "Chemistry"})
        for name, (sample, _) in found.items():
            with self.subTest(name):
                compiled = CompiledQuestion(sample)
                drawing = QuestionDrawing(compiled, name, 1)
                drawn = [drawing.draw(number) for number in range(1, 41)]
                troubles = {warning.code for warning in diagnose(compiled, drawn)}
                self.assertFalse(troubles & {"no_value", "no_key", "key_fails", "few", "rejecting", "same"}, troubles)
                self.assertTrue(all(text.source for text in compiled.solutions))

    def test_the_schema_accepts_the_samples_and_refuses_others(self) -> None:
        validator = jsonschema.Draft202012Validator(schema())
        for path in DEMO.glob("*.json"):
            with self.subTest(path.name):
                validator.validate(json.loads(path.read_text("utf-8")))
        self.assertFalse(validator.is_valid(document(title="")))
        self.assertFalse(validator.is_valid(document(colour="red")))

    def test_a_document_that_is_no_question_says_where_and_what(self) -> None:
        for raw, place, said in [
            (document(title=""), ("title",), "Nothing is written"), (document(parts=[]), ("parts",), "At least one part"),
            (document(colour="red"), ("colour",), "not part of"), (document(level=9), ("filing", "level"), "at most 5"),
            (document(parts=[{"answer": {"kind": "number", "key": "1"}, "marks": "two"}]), ("parts", 0, "marks"), "Marks are a number"),
            (document(parts=[{"answer": {"kind": "riddle"}}]), ("parts", 0, "answer"), "not known"),
            (document(parameters=[{"name": "a", "definition": "1", "shown": "nicely"}]), ("parameters", 0, "shown"), "Shown as"),
        ]:  # fmt: skip
            with self.subTest(said):
                with self.assertRaises(DocumentError) as caught:
                    load_document(raw)
                self.assertEqual(caught.exception.faults[0].path, place)
                self.assertIn(said, caught.exception.faults[0].message)

    def test_formulas_that_cannot_be_used_are_named_with_their_field(self) -> None:
        for changes, path in [
            ({"wording": "See $2 3$."}, ("wording",)),
            ({"parts": [{"answer": {"kind": "number", "key": "m*k"}}]}, ("parts", 0, "answer", "key")),
            ({"parts": [{"answer": {"kind": "number", "key": "m", "tolerance": {"mode": "absolute", "value": "2+"}}}]},
             ("parts", 0, "answer", "tolerance")),
            ({"parts": [{"answer": {"kind": "formula", "key": "x", "slips": [{"key": "x +"}]}}]}, ("parts", 0, "answer", "slips")),
            ({"conditions": ["m <"]}, ("conditions", 0)),
        ]:  # fmt: skip
            with self.subTest(path):
                self.assertEqual([problem.path for problem in question(**changes).problems], [path])


class Text(TestCase):
    def show(self, source: str) -> str:
        text = QuestionText(source, Settings())
        return re.sub(r"<[^>]+>", "", HTML.text(text, lambda tree, block: line(tree)))

    def test_money_and_maths(self) -> None:
        for source, shown in [
            ("It costs $5 and $6.", "It costs $5 and $6."), ("$x^2$ is", "x^2 is"), (r"\$x$ y", "$x$ y"), ("a $ b $ c", "a $ b $ c"),
            ("$a$ and $b$", "a and b"), ("*so* **it** `is`", "so it is"),
        ]:  # fmt: skip
            with self.subTest(source):
                self.assertEqual(self.show(source).strip(), shown)

    def test_nothing_dangerous_gets_through(self) -> None:
        source = '<script>alert(1)</script> [x](javascript:alert(1)) ![y](http://z) <b onclick="x">b</b> $"</mtext><script>"$'
        shown = HTML.text(QuestionText(source, Settings()), lambda tree, block: mathml(tree))
        for forbidden in ("<script", "<a ", "<img", "<b "):
            self.assertNotIn(forbidden, shown)

    def test_drawn_values_are_marked_for_authors_and_never_for_students(self) -> None:
        drawn = QuestionDrawing(question(), "q", 1).draw(1)
        self.assertIn('class="drawn"', written(drawn, drawn.question.wording, HTML, Style(show_drawn=True)))
        self.assertNotIn("drawn", written(drawn, drawn.question.wording, HTML))


class Forms(TestCase):
    def plan(self, *questions: CompiledQuestion) -> Plan:
        return Plan(
            "At the quay", [Place(found, f"key-{k}", 1) for k, found in enumerate(questions)], "Show your working."
        )

    def test_forms_differ_and_every_key_is_the_answer(self) -> None:
        plan = self.plan(question(), question())
        made = make_forms(plan, 12, "seed")
        self.assertEqual(len({form.code for form in made.forms}), 12)
        self.assertEqual(made, make_forms(plan, 12, "seed"))
        self.assertNotEqual(made, make_forms(plan, 12, "another"))
        for place in range(2):
            self.assertEqual(len({form.items[place].draw.number for form in made.forms}), 12)
        drawings = [QuestionDrawing(found.question, found.key, 1) for found in plan.places]
        for form in made.forms:
            for drawing, item in zip(drawings, form.items):
                values = drawing.draw(item.draw.number).values
                self.assertEqual(item.keys[0].key, str(int(values["m"] * values["h"])))  # type: ignore[operator]

    def test_a_key_that_fails_its_own_check_stops_everything_and_names_the_draw(self) -> None:
        broken = question(parts=[{"answer": {"kind": "formula", "key": "m (x + h)", "form": "expanded"}}])
        with self.assertRaises(KeyFailure) as caught:
            make_forms(self.plan(question(), broken), 3, "seed")
        self.assertEqual((caught.exception.place, caught.exception.part), (1, 0))
        self.assertIn(f"in draw {caught.exception.draw} the key does not pass", str(caught.exception))
        nothing = question(parts=[{"answer": {"kind": "number", "key": "1/(m - m)"}}])
        with self.assertRaises(KeyFailure):
            make_forms(self.plan(nothing), 1, "seed")

    def test_a_key_is_shown_as_markup_and_nothing_in_it_becomes_any(self) -> None:
        self.assertIn("<mfrac>", shown_key("3/4"))
        for key in ("<b>x</b>", '"<b>"', "true & false", "A, C"):
            self.assertNotIn("<b>", shown_key(key))
            self.assertNotRegex(shown_key(key), r"&(?!amp;|lt;|gt;|quot;|#)")

    def test_a_question_that_cannot_be_used_is_named(self) -> None:
        unsound = question(parameters=[{"name": "m", "definition": "150.."}, {"name": "h", "definition": "2"}])
        with self.assertRaisesRegex(PlanError, "Question 2 cannot be used: "):
            make_forms(self.plan(question(), unsound), 2, "seed")

    def test_too_few_draws_are_reported_and_shared_answers_found(self) -> None:
        few = question(parameters=[{"name": "m", "definition": "1..2"}, {"name": "h", "definition": "5"}])
        made = make_forms(self.plan(few, question()), 4, "seed")
        self.assertEqual((made.outlines.repeats, made.outlines.shared), ((0,), {0: (0,)}))
        self.assertEqual(
            {triple for triple in shared_answers(made.forms) if triple[1] == 0}, {(form, 0, 0) for form in range(4)}
        )

    def test_work_can_be_cancelled(self) -> None:
        told = []

        def cancelled(made: int) -> None:
            told.append(made)
            if made == 3:
                raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            make_forms(self.plan(question()), 10, "seed", cancelled)
        self.assertEqual(told, [1, 2, 3])


class Papers(TestCase):
    def setUp(self) -> None:
        there = samples()
        names = ["harbour-crane", "ferry-bearing", "quay-quadratic", "brine-concentration", "catch-mean"]
        self.plan = Plan(
            "Sampler", [Place(CompiledQuestion(there[name][0]), name, 1) for name in names], "Show your working."
        )
        self.made = make_forms(self.plan, 3, "seed")
        self.printing = Printing(
            self.plan, Heading("Sampler", "Physics · Sandhaven Harbour School", "Show your working.")
        )

    def pages(self, content: bytes) -> list[str]:
        return [page.extract_text() for page in PdfReader(io.BytesIO(content)).pages]

    def test_a_paper_has_all_that_a_paper_needs(self) -> None:
        form = self.made.forms[0]
        pages = self.pages(self.printing.papers([form]))
        first = pages[0]
        for needed in (
            "Sampler",
            "Name",
            "Date",
            "Class",
            form.code,
            f"of {self.plan.marks} marks",
            "Show your working.",
        ):
            self.assertIn(needed, first)
        for number, page in enumerate(pages, start=1):
            self.assertIn(f"{number} of {len(pages)}", page)
        drawn = self.printing.drawn(form)[0]
        self.assertIn(f"{line(drawn.shown_values['m'])}", first)

    def test_the_compiler_can_be_loaded_before_there_is_a_paper(self) -> None:
        load_compiler()
        with mock.patch("vorlage.core.documents.typesetting.typst.Compiler", side_effect=AssertionError):
            self.assertTrue(self.printing.papers(self.made.forms[:1]))

    def test_no_answer_is_on_a_paper(self) -> None:
        form = self.made.forms[0]
        text = "\n".join(self.pages(self.printing.papers([form])))
        self.assertNotIn("Worked", text)
        self.assertNotIn(form.items[0].keys[0].key, text)

    def test_pages_are_counted_within_each_paper(self) -> None:
        pages = self.pages(self.printing.papers(self.made.forms))
        counts = [re.search(r"(\d) of (\d)\s*$", page.strip()) for page in pages]
        self.assertEqual(sum(found is not None and found[1] == "1" for found in counts), 3)

    def test_no_question_is_split_where_it_fits_on_one_page(self) -> None:
        for page in self.pages(self.printing.papers(self.made.forms)):
            starts = len(re.findall(r"\(a\)", page))
            ends = len(re.findall(r"\(b\)", page))
            self.assertEqual(starts, ends)

    def test_the_key_lists_every_answer_with_what_is_accepted(self) -> None:
        text = "\n".join(self.pages(self.printing.key(self.made.forms)))
        for form in self.made.forms:
            self.assertIn(f"Form {form.code}", text)
            self.assertIn(form.items[0].keys[0].key, text)
        self.assertIn("within 2 %", text)
        self.assertIn("Worked solutions", text)

    def test_the_same_forms_give_the_same_bytes(self) -> None:
        self.assertEqual(self.printing.papers(self.made.forms), self.printing.papers(self.made.forms))

    def test_user_text_reaches_print_as_text(self) -> None:
        hostile = question(wording='#read("/etc/passwd") *a* \\ ] #pagebreak() `$x` <q> @ref \\$5', title="#x]")
        plan = Plan('] #panic("x")', [Place(hostile, "k", 1)])
        printing = Printing(plan, Heading('] #panic("x")', "[#", "#eval"))
        text = "\n".join(self.pages(printing.papers(make_forms(plan, 1, "s").forms)))
        self.assertIn('#read("/etc/passwd")', text)
        self.assertIn("#pagebreak()", text)

    def test_every_sample_question_can_be_printed(self) -> None:
        plan = Plan("All", [Place(CompiledQuestion(sample), name, 1) for name, (sample, _) in samples().items()])
        made = make_forms(plan, 1, "seed")
        printing = Printing(plan, Heading("All"))
        self.assertGreater(len(self.pages(printing.papers(made.forms))), 5)
        self.assertTrue(self.pages(printing.key(made.forms)))

    def test_line_maths_in_keys_reads_back(self) -> None:
        for form in self.made.forms:
            for item in form.items:
                for key in item.keys:
                    self.assertEqual(line(read(key.key)), key.key)


class Surveys(TestCase):
    def test_extremes_and_spread_are_those_of_all_draws(self) -> None:
        document = {"title": "Sum", "parameters": [{"name": "a", "definition": "1..9"}, {"name": "b", "definition": "-3..3"}],
                    "parts": [{"wording": "$a$ crates", "answer": {"kind": "number", "key": "a*b", "slips": [{"key": "a*b^2"}]}}]}  # fmt: skip
        found = survey(QuestionDrawing(CompiledQuestion(load_document(document)), "sum", 1))
        (spread,) = found.spreads
        self.assertEqual((found.drawn, spread.least.answer, spread.greatest.answer), (63, "-27", "27"))
        self.assertEqual(
            (sum(spread.bars), spread.different), (63, len({a * b for a in range(1, 10) for b in range(-3, 4)}))
        )
        told = {warning.code: (len(warning.draws), warning.cure) for warning in found.warnings}
        self.assertEqual(told["zero"], (9, "a*b != 0"))
        self.assertEqual(told["negative"], (27, "a*b > 0"))
        self.assertEqual(told["slip_hidden"], (18, "a*b != a*b^2"))
        self.assertEqual(told["grammar"], (7, "a != 1"))


class Blanks(TestCase):
    def test_low_lines_are_a_place_for_the_answer(self) -> None:
        text = QuestionText("It weighs ____ N, and $F_net$ is not ___ N.", Settings())
        self.assertTrue(text.has_blank)
        self.assertEqual(HTML.text(text, lambda tree, block: "F").count('<span class="blank"></span>'), 2)
        self.assertEqual(TYPST.text(text, lambda tree, block: "F").count("#blank;"), 2)
        self.assertFalse(QuestionText("$v_0$ and __bold__", Settings()).has_blank)


class EarlierAnswers(TestCase):
    """A part that uses the answer of an earlier one."""

    def setUp(self) -> None:
        within = {"mode": "relative", "value": "1%"}
        self.document = {
            "title": "Lifting a crate",
            "parameters": [
                {"name": "m", "definition": "3", "unit": "kg"},
                {"name": "g", "definition": "9.81", "unit": "m/s^2"},
                {"name": "h", "definition": "2", "unit": "m"},
            ],
            "parts": [
                {"wording": "Its weight?", "answer": {"kind": "quantity", "key": "m*g", "unit": "N", "tolerance": within}, "gives": "W"},
                {"wording": "The work?", "answer": {"kind": "quantity", "key": "W*h", "unit": "J", "tolerance": within,
                 "slips": [{"key": "W/h", "share": "1/4"}]}, "solution": "$value(W*h)$"},
            ],
        }  # fmt: skip

    def verdicts(self, *responses: str) -> list[tuple[str, str, str]]:
        question = CompiledQuestion(load_document(self.document))
        self.assertEqual(question.problems, [])
        found = QuestionDrawing(question, "crate", 1).draw(1).check(responses)
        return [(v.outcome, str(v.share), v.because) for v in found if v is not None]

    def test_the_better_of_both_keys_counts_and_says_so(self) -> None:
        for first, second, expected in [
            ("29.43 N", "58.86 J", ("right", "1", "within 1 %")),
            ("20 N", "58.86 J", ("right", "1", "within 1 %")),
            ("20 N", "40 J", ("right", "1", "the earlier answer: within 1 %")),
            ("0.02 kN", "40 J", ("right", "1", "the earlier answer: within 1 %")),
            ("20 N", "10 J", ("partly", "1/4", "the earlier answer: slip W/h")),
            ("20 N", "7 J", ("wrong", "0", "within 1 %")),
            ("nothing", "40 J", ("wrong", "0", "within 1 %")),
            ("", "40 J", ("wrong", "0", "within 1 %")),
        ]:
            with self.subTest(f"{first}, {second}"):
                self.assertEqual(self.verdicts(first, second)[1], expected)

    def test_the_solution_can_show_what_was_worked_out(self) -> None:
        question = CompiledQuestion(load_document(self.document))
        self.assertIn("58.86", written(QuestionDrawing(question, "crate", 1).draw(1), question.solutions[1], HTML))

    def test_names_are_checked(self) -> None:
        for change, message in [
            ({"gives": "m"}, "m is taken already."),
            ({"gives": "2"}, "“2” is not a name: use a letter, such as a, v_0 or θ."),
            ({"gives": "W", "answer": {"kind": "text", "accept": ["x"]}},
             "Only a number, a quantity or a formula can be used in later parts."),
        ]:  # fmt: skip
            with self.subTest(message):
                self.document["parts"][0].update(change)
                self.assertIn(
                    message, [problem.message for problem in CompiledQuestion(load_document(self.document)).problems]
                )
        self.document["parts"] = [
            {"answer": {"kind": "number", "key": "2 W"}},
            {"answer": {"kind": "number", "key": "3"}, "gives": "W"},
        ]
        self.assertEqual(
            CompiledQuestion(load_document(self.document)).problems[0].message, "W is not known yet in this part."
        )


class UnitsCarryThrough(TestCase):
    """Dimensions are worked out once per question; what does not fit is an error that the author sees."""

    def said(self, key: str, unit: str, *conditions: str, **rows: str) -> list[str]:
        given = {"m": ("3..9", "kg"), "g": ("9.81", "m/s^2"), "h": ("2..5", "m"), "t": ("2..5", "s"), "c": ("2..5", "cm"),
                 "n": ("2..5", ""), "T": ("10..20", "°C")}  # fmt: skip
        parameters = [{"name": name, "definition": text, "unit": its} for name, (text, its) in given.items()]
        parameters += [{"name": name, "definition": text} for name, text in rows.items()]
        question = CompiledQuestion(load_document({
            "title": "Units", "parameters": parameters, "conditions": conditions,
            "parts": [{"answer": {"kind": "quantity", "key": key, "unit": unit}}],
        }))  # fmt: skip
        return [problem.message for problem in question.problems + question.doubts]

    def test_what_fits(self) -> None:
        for key, unit in [
            ("m*g", "N"), ("m g h/2 + m*g*h", "J"), ("sqrt(2 g h)", "m/s"), ("m*g*n", "N"), ("4 pi h^3/3", "m^3"), ("h/t", "m/s"),
            ("m*9.81", "N"), ("m*g*h/1000", "kJ"), ("h + c/100", "m"), ("T + 273", "K"), ("m*9.81 [m/s^2]", "N"), ("h + 3", "m"),
            ("max(h, 3 [m])", "m"), ("if(m < 5, h, 2h)", "m"), ("h sin(h/c)", "m"),
            ("h exp(-t/(2t))", "m"), ("atan(h/(2h))", "deg"), ("asin(m/(2m))", "rad"),
        ]:  # fmt: skip
            with self.subTest(key):
                self.assertEqual(self.said(key, unit), [])
        self.assertEqual(self.said("F*h", "J", "m*g < 60 [N]", "m < 8", F="m*g"), [])

    def test_what_does_not_fit(self) -> None:
        for key, unit, told in [
            ("m*g", "m", "The answer comes out in N (kg m s^-2), and not in m."),
            ("m + h", "kg", "kg and m are added here."),
            ("h + c", "m", "Different units of the same kind are added here: give them one unit."),
            ("sin(h)", "m", "sin is taken of a plain number, and this is in m."),
            ("h^n", "m^2", "Something in m is raised to a power that is not a plain number."),
            ("sqrt(h)", "m", "There is no root of something in m with a unit of its own."),
            ("m*g*c", "J", "The answer comes out in another unit than J: a factor is missing."),
            ("h/t", "km/h", "The answer comes out in another unit than km/h: a factor is missing."),
        ]:
            with self.subTest(key):
                self.assertIn(told, self.said(key, unit))
        self.assertEqual(self.said("m*g", "N", "m < t"), ["kg and s are compared here."])
        self.assertIn(
            "Different units of the same kind are compared here: give them one unit.",
            self.said("m*g", "N", "m*g < 0.5 [kN]"),
        )


class PartsOfAQuestion(TestCase):
    def labels(self, *under: bool) -> list[tuple[str, str]]:
        parts = [{"under": each, "answer": {"kind": "number", "key": "1"}} for each in under]
        return [(label.short, label.full) for label in load_document({"title": "Parts", "parts": parts}).labels]

    def test_letters_and_numerals(self) -> None:
        self.assertEqual(self.labels(True), [("", "")])
        self.assertEqual(
            self.labels(True, True, False, True, True, False),
            [("(a)", "(a)"), ("(i)", "(a)(i)"), ("(b)", "(b)"), ("(i)", "(b)(i)"), ("(ii)", "(b)(ii)"), ("(c)", "(c)")],
        )

    def test_information_earns_nothing(self) -> None:
        kinds = [{"kind": "none"}, {"kind": "scale"}, {"kind": "number", "key": "1"}]
        document = load_document({"title": "Parts", "parts": [{"answer": kind, "marks": 3} for kind in kinds]})
        self.assertEqual(([part.marks for part in document.parts], document.marks), ([0, 0, 3], 3))

    def test_a_rubric_is_read_and_its_marks_are_compared(self) -> None:
        raw = {
            "title": "Ice",
            "parts": [
                {"marks": 4, "answer": {"kind": "essay", "rubric": "Method | 0 none | 2 complete\nOrder | 1\nRemark"}}
            ],
        }
        question = CompiledQuestion(load_document(raw))
        answer = question.document.parts[0].answer
        self.assertEqual([(each.name, [(level.marks, level.text) for level in each.levels]) for each in answer.rubric],
                         [("Method", [(0, "none"), (2, "complete")]), ("Order", [(1, "")]), ("Remark", [])])  # fmt: skip
        told = [
            warning.message
            for warning in diagnose(question, [QuestionDrawing(question, "ice", 1).draw(1)])
            if warning.code == "rubric"
        ]
        self.assertEqual(told, ["The answer: the rubric gives up to 3 marks, and the part has 4."])
        with self.assertRaisesRegex(DocumentError, "begins with its marks"):
            load_document({"title": "Ice", "parts": [{"answer": {"kind": "essay", "rubric": "Method | good"}}]})


class Gaps(TestCase):
    RAW = {
        "title": "Gas",
        "parameters": [{"name": "p", "definition": "2..9"}],
        "parts": [{"wording": "It ___ by $p$ to ___.", "marks": 2, "answer": {"kind": "blanks", "gaps": [
            {"answer": {"kind": "choice", "options": [{"text": "rises by $p$", "share": "1"}, {"text": "falls"}, {"text": "stays"}]}},
            {"answer": {"kind": "number", "key": "2p"}},
        ]}}],
    }  # fmt: skip

    def test_gaps_are_numbered_and_show_what_is_chosen_from(self) -> None:
        question = CompiledQuestion(load_document(self.RAW))
        self.assertEqual(question.problems, [])
        orders = set()
        for number in range(1, 9):
            drawn = QuestionDrawing(question, "gaps", 1).draw(number)
            shown = written_part(drawn, 0, HTML)
            self.assertIn('<span class="blank"><small>2</small></span>', shown)
            self.assertIn('<span class="blank is-choice"><small>1</small><b>A</b>', shown)
            self.assertIn("#gap(1, (([A], [", written_part(drawn, 0, TYPST))
            orders.add(re.sub(r"\d", "", re.sub(r"<.*?>", "", shown)))
            answer = drawn.answers[0]
            assert isinstance(answer, DrawnBlanks)
            self.assertEqual(answer.fault(), "")
            self.assertEqual(answer.check(answer.right_response()).outcome, "right")
        # the options are shuffled from draw to draw
        self.assertGreater(len(orders), 1)

    def test_what_does_not_fit_is_named(self) -> None:
        part = self.RAW["parts"][0]
        gaps = part["answer"]["gaps"]
        for change, path, said in [
            ({"wording": "It ___."}, ("parts", 0, "wording"), "1 gap `___`, and below there are 2"),
            ({"answer": {"kind": "blanks", "gaps": [gaps[0], {"answer": {"kind": "number", "key": "2q"}}]}}, ("parts", 0, "answer", "gaps", 1, "answer", "key"), "q is not a parameter"),
            ({"answer": {"kind": "blanks", "gaps": [gaps[0], {"answer": {"kind": "number", "key": "2 +"}}]}}, ("parts", 0, "answer", "gaps", 1, "answer", "key"), ""),
        ]:  # fmt: skip
            found = CompiledQuestion(load_document({**self.RAW, "parts": [{**part, **change}]})).problems
            self.assertEqual([problem.path for problem in found], [path])
            self.assertIn(said, found[0].message)
        with self.assertRaisesRegex(DocumentError, "add up to 1"):
            load_document(
                {
                    **self.RAW,
                    "parts": [
                        {
                            **part,
                            "answer": {
                                "kind": "blanks",
                                "gaps": [{**gaps[0], "share": "1/2"}, {**gaps[1], "share": "1/3"}],
                            },
                        }
                    ],
                }
            )


class Pins(TestCase):
    RAW = {
        "title": "Pins",
        "parameters": [{"name": "m", "definition": "100..600 step 50"}, {"name": "w", "definition": 'one of "oak", "elm"'},
                       {"name": "k", "definition": "3 of 1..9"}, {"name": "E", "definition": "m*2"}],
        "conditions": ["E < 1000"],
        "parts": [{"answer": {"kind": "number", "key": "E"}}],
    }  # fmt: skip

    def pinned(self, values: dict[str, str], **changes: Any) -> tuple[DrawnQuestion, list[str]]:
        question = CompiledQuestion(load_document({**self.RAW, "pins": [{"values": values}], **changes}))
        return QuestionDrawing(question, "pins", 1).pinned(0)

    def test_a_pinned_draw_is_the_same_draw(self) -> None:
        question = CompiledQuestion(load_document(self.RAW))
        for number in range(1, 6):
            drawn = QuestionDrawing(question, "pins", 1).draw(number)
            again, broken = self.pinned(question.parameters.drawn_values(drawn.values))
            self.assertEqual((dict(again.values), broken), (dict(drawn.values), []))

    def test_what_breaks_it_is_said(self) -> None:
        values = {"m": "400", "w": '"oak"', "k": "list(3, 2, 7)"}
        rows = self.RAW["parameters"]
        for changes, broken in [
            ({"conditions": ["E < 150"]}, ["condition 1 is not met"]),
            ({"parameters": [{"name": "m", "definition": "175..600 step 50"}, *rows[1:]]}, ["m = 400 is not drawn any more"]),
            ({"parameters": [*rows[:3], {"name": "E", "definition": "m/(m - 400)"}]}, ["E has no value", "condition 1 is not met", "the answer has no value"]),
            ({"parts": [{"answer": {"kind": "number", "key": "1/(m - 400)"}}]}, ["the answer has no value"]),
            # a parameter that came later has its first value
            ({"parameters": [*rows, {"name": "q", "definition": "5..9"}]}, []),
        ]:  # fmt: skip
            with self.subTest(broken):
                self.assertEqual(self.pinned(values, **changes)[1], broken)


class Remedies(TestCase):
    """Each trouble comes with the condition that ends it; with the condition the trouble is gone."""

    def question(self, key: str, *conditions: str, **more: Any) -> CompiledQuestion:
        rows = [
            {"name": "a", "definition": "1..6"},
            {"name": "b", "definition": "2..6"},
            {"name": "c", "definition": "one of 2, 2.01"},
        ]
        parts = more.pop(
            "parts", [{"answer": {"kind": "number", "key": key, "tolerance": {"mode": "relative", "value": "5%"}}}]
        )
        return CompiledQuestion(
            load_document({"title": "Remedies", "parameters": rows, "conditions": conditions, "parts": parts, **more})
        )

    def told(self, question: CompiledQuestion) -> dict[str, str]:
        drawing = QuestionDrawing(question, "remedies", 1)
        drawn = [drawing.draw(number) for number in range(1, (question.parameters.count or 60) + 1)]
        return {warning.code: warning.cure for warning in diagnose(question, drawn) if warning.draws}

    def test_every_trouble_has_its_condition(self) -> None:
        choice = [
            {
                "wording": "Choose.",
                "answer": {
                    "kind": "choice",
                    "options": [{"text": "$value(a + b)$ m", "share": "1"}, {"text": "$value(a*b)$ m"}],
                },
            }
        ]
        figure = [{"name": "f", "lines": "frame 0..5, 0..9\npoint (a, b)"}]
        for code, key, cure, more in [
            ("no_key", "12/(a - b)", "a - b != 0", {}),
            ("no_key", "sqrt(a - b) + 1", "a - b >= 0", {}),
            ("no_key", "ln(b - a) + 5", "b - a > 0", {}),
            ("no_key", "30 + asin(a/b)", "abs(a/b) <= 1", {}),
            ("no_key", "(a - b)^-2", "a - b != 0", {}),
            ("nearly_nothing", "a/(b - c)", "abs(b - c) > abs(c)/20", {}),
            ("negative", "a - b + 1/2", "a - b + 1/2 > 0", {}),
            ("options_alike", "", "a + b != a*b", {"parts": choice}),
            ("off_frame", "a + b", "a <= 5", {"figures": figure, "wording": "![f](figure:f)"}),
        ]:  # fmt: skip
            with self.subTest(f"{code} {key}"):
                told = self.told(self.question(key, **dict(more)))
                self.assertEqual(told.get(code), cure)
                self.assertNotIn(code, self.told(self.question(key, cure, **dict(more))))


class PapersFromSeveralThreads(TestCase):
    def test_one_waits_for_the_other(self) -> None:
        plan = Plan("Threads", [Place(CompiledQuestion(load_document(document())), "threads", 1)], "")
        forms = make_forms(plan, 4, "threads").forms
        printing = Printing(plan, Heading("Threads"))
        with ThreadPoolExecutor(4) as pool:
            printed = list(pool.map(lambda form: printing.papers([form]), forms))
        self.assertEqual(printed, [printing.papers([form]) for form in forms])
