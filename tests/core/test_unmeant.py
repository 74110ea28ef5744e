"""What authors write out of habit and do not mean: said at its field, with what could stand there instead."""

from __future__ import annotations

import unittest
from typing import Any

from pypdfium2 import PdfDocument

from vorlage.core.answers import KINDS
from vorlage.core.documents import Heading, Printing
from vorlage.core.documents.typesetting import compiled
from vorlage.core.draws import DrawError, read_definition
from vorlage.core.forms import make_forms
from vorlage.core.notation import NotationError, Settings, read_authored
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import Caution, CompiledQuestion, Problem, load_document, soundness

# a definition as it is written elsewhere, and here
HABITS = [
    ("150 to 600", "150..600"), ("150 bis 600", "150..600"), ("150...600", "150..600"), ("150…600", "150..600"),
    ("from 150 to 600", "150..600"), ("between 150 and 600", "150..600"), ("150 to 600 step 50", "150..600 step 50"),
    ("rand(1,5)", "1..5"), ("randint(1; 6)", "1..6"), ("RANDBETWEEN(2,9)", "2..9"), ("random 1..9", "1..9"),
    ("1..9 integer", "1..9"), ("1..5 by 2", "1..5 step 2"), ("1..5, step 2", "1..5 step 2"),
    ("1..5 step=2", "1..5 step 2"), ("1..5 (step 2)", "1..5 step 2"), ("1:5", "1..5"), ("0:2:10", "0..10 step 2"),
    ("1,2,3", "one of 1, 2, 3"), ("[1, 2, 3]", "one of 1, 2, 3"), ("1;2;3", "one of 1, 2, 3"),
    ("one of 1 2 3", "one of 1, 2, 3"), ("0,5; 1,5", "one of 0.5, 1.5"), ("oak, steel", 'one of "oak", "steel"'),
    ("1..9 without 5", "1..9 except 5"), ("1..9 except 5 and 7", "1..9 except 5, 7"), ("1..9 !=0", "1..9 except 0"),
    ("0,5..3,5 step 0,5", "0.5..3.5 step 0.5"), ("2..9 step 1,5", "2..9 step 1.5"), ("m = 150..600", "150..600"),
    ("x in 1..9", "1..9"), ("150..600 kg", "150..600"), ("1 or 2 or 3", "one of 1, 2, 3"), ("[2, 9]", "2..9"), ("range(2, 9)", "2..9"), ("=2*3", "2*3"), ("= 2..9", "2..9"),
    ("one of: 2, 3", "one of 2, 3"), ("oneof 2,3", "one of 2, 3"), ("2..9 steps 0.5", "2..9 step 0.5"),
    ("N(20, 4)", "normal(20, 4)"), ("uniform 0 1", "uniform(0, 1)"),
]  # fmt: skip
# a definition that can be read, and what was more likely meant
DOUBTFUL = [
    ("150-600", "150..600"), ("150–600", "150..600"), ("350 kg", "350"),
    ("one of oak, steel", 'one of "oak", "steel"'), ("oak", '"oak"'),
]  # fmt: skip
# a line with a word that is no function, and the function that is meant ("": none)
WORDS = [
    ("sort(d)", "sorted"), ("stdv(d)", "sample_stdev"), ("first(d)", "item"), ("average(d)", "mean"), ("SQRT(2)", "sqrt"),
    ("meen(d)", "mean"), ("pow(2, 3)", ""), ("rand(1, 5)", ""), ("2*integrate(x^2, x)", "integral"), ("xyz(x + 1)", ""),
]  # fmt: skip
# a line as it is written elsewhere, and here
ELSEWHERE = [
    ("=m*2", "m*2"), ("m*2;", "m*2"), ("$m$*2", "m*2"), ("m x 2 x m", "m*2*m"), ("2*pi()*m", "2*pi*m"), ("m => 3", "m >= 3"),
    ("m <> 3", "m != 3"), ("m > 1 && m < 3", "m > 1  and  m < 3"), ("{m}*2", "m*2"), ("\\(m + 1", "m + 1"),
]  # fmt: skip
# maths and numbers in a text as they are written elsewhere, and here
PLACEHOLDERS = [
    (r"\(m + 1\)", "$m + 1$"), (r"\[m^2\]", "$m^2$"), ("{m}", "$m$"), ("{{ m }}", "$m$"), ("${m}", "$m$"), ("#m#", "$m$"), ("@m", "$m$"),
    ("%m%", "$m$"), ("<m>", "$m$"), ("[m]", "$m$"), ("`m`", "$m$"),
]  # fmt: skip
# what is no such word
MEANT = [
    "xsin(x)",
    "mg(h + 1)",
    "f(x)",
    "ab(c + d)",
    "sin(x)cos(x)",
    "root(3, 8)",
    "(x > 1) and (x < 2)",
    'if(a > 1, "sort(d)", 2)',
]


def question(definitions: dict[str, str], key: str, wording: str = "$m$", **more: Any) -> CompiledQuestion:
    """A question with these parameters and one answer."""
    after = more.pop("after", "")
    units = more.pop("units", {})
    rows = [{"name": name, "definition": text, "unit": units.get(name, "")} for name, text in definitions.items()]
    part = {"wording": "Work it out.", "after": after, "answer": {"kind": "number", "key": key, **more}}
    raw = {"format": "vorlage-question-3", "title": "T", "wording": wording, "parameters": rows, "parts": [part]}
    return CompiledQuestion(load_document(raw))


def cautions(compiled: CompiledQuestion) -> list[Caution]:
    return [caution for caution in soundness(compiled, "key", 1).warnings if caution.path]


def put(text: str, said: Problem | Caution) -> str:
    """A field after its cure."""
    return text[: said.place] + said.instead + text[said.place + said.length :]


class Definitions(unittest.TestCase):
    def test_habits_are_refused_with_what_is_written_here(self) -> None:
        for text, instead in HABITS:
            with self.subTest(text):
                with self.assertRaises(DrawError) as caught:
                    read_definition(text, Settings())
                self.assertEqual((caught.exception.code, caught.exception.instead), ("habit", instead))
                self.assertIn(f"`{instead}`", caught.exception.message)
                read_definition(instead, Settings())

    def test_what_is_written_as_it_should_be_is_left_alone(self) -> None:
        for text in ("150..600 step 50", "1..9 except 5, 7", "one of 1, 2, 3", "m*2", "3*4", "{1, 2, 3}", "-5..5"):
            with self.subTest(text):
                compiled = question({"m": "2..40", "a": text}, "m + 1")
                self.assertEqual([caution.code for caution in cautions(compiled)], [])

    def test_what_can_be_read_and_is_hardly_meant_is_said_at_its_row(self) -> None:
        for text, instead in DOUBTFUL:
            with self.subTest(text):
                (said,) = cautions(question({"m": "2..40", "b": text}, "m + 1"))
                self.assertEqual((said.path, put(text, said)), (("parameters", 1, "definition"), instead))

    def test_an_error_in_a_row_is_told_once(self) -> None:
        raw = {
            "format": "vorlage-question-3", "title": "T", "wording": "$m$", "conditions": ["m > 3"],
            "parameters": [{"name": "m", "definition": "150.."}, {"name": "W", "definition": "2*m"}],
            "parts": [{"answer": {"kind": "number", "key": "m*W"}}],
        }  # fmt: skip
        compiled = CompiledQuestion(load_document(raw))
        self.assertEqual([problem.path for problem in compiled.problems], [("parameters", 0, "definition")])


class Elsewhere(unittest.TestCase):
    def test_a_line_written_as_elsewhere_is_refused_with_what_is_written_here(self) -> None:
        for text, instead in ELSEWHERE:
            with self.subTest(text):
                with self.assertRaises(NotationError) as caught:
                    read_authored(text, Settings(names=frozenset("m")))
                self.assertEqual((caught.exception.code, caught.exception.instead), ("habit", instead))
                read_authored(instead, Settings(names=frozenset("m")))

    def test_what_has_a_meaning_here_keeps_it(self) -> None:
        for text in ("{m}", "{m, 2}", "\\frac{m}{2}", "sqrt{m}", "|m|", "x_{m}", "2 x m"):
            with self.subTest(text):
                read_authored(text, Settings(names=frozenset("mx")))

    def test_a_number_in_a_text_is_written_between_dollar_signs(self) -> None:
        for text, instead in PLACEHOLDERS:
            with self.subTest(text):
                found = [
                    each
                    for each in cautions(question({"m": "2..40"}, "m", f"Of {text} it is."))
                    if each.code == "placeholder"
                ]
                self.assertEqual([put(f"Of {text} it is.", each) for each in found], [f"Of {instead} it is."])
        for text in ("[m](https://sandhaven.example)", "{k}", "a@m.example", "`code`", "$m$ in {1, 2}"):
            with self.subTest(text):
                codes = [each.code for each in cautions(question({"m": "2..40"}, "m", text))]
                self.assertNotIn("placeholder", codes)

    def test_what_an_answer_needs_is_shown(self) -> None:
        for definitions, key, wording, told in [
            ({"m": "2..40", "h": "1..3"}, "m*h", "A crate of $m$.", ["h"]),
            ({"m": "2..40", "h": "1..3", "E": "m*h"}, "E", "A crate of $m$.", ["h"]),
            # what is computed from it is shown
            ({"r": "2..40", "s": "1..3", "p": "r + s"}, "r*s/2", "Add up: $p$.", []),
            # a constant, and what no answer needs
            ({"m": "2..40", "g": "9.81", "k": "1..3"}, "m*g", "A crate of $m$.", []),
        ]:
            with self.subTest(wording):
                found = [each for each in cautions(question(definitions, key, wording)) if each.code == "never_shown"]
                self.assertEqual([list(definitions)[each.path[1]] for each in found], told)

    def test_a_unit_and_another_spelling_are_cured_at_the_key(self) -> None:
        for key, cured in [("2*m kg", "2*m"), ("PI*m", "pi*m"), ("2*M", "2*m"), ("m J/kg", "m")]:
            with self.subTest(key):
                (problem,) = question({"m": "2..40"}, key).problems
                self.assertEqual(put(key, problem), cured)

    def test_a_rounding_may_be_said_in_words_beside_any_mode(self) -> None:
        kind = KINDS["number"]
        for typed, mode, value in [
            ("3 sf", "significant_figures", "3"), ("2 d.p.", "decimal_places", "2"), ("±2", "absolute", "2"), ("+-0.5", "absolute", "0.5"),
        ]:  # fmt: skip
            read = kind.read({"key": "m", "mode": "absolute", "tolerance": typed})
            self.assertEqual(read["tolerance"], {"mode": mode, "value": value})


class Words(unittest.TestCase):
    def test_a_word_before_a_bracket_is_a_function_or_is_refused(self) -> None:
        for text, meant in WORDS:
            with self.subTest(text):
                with self.assertRaises(NotationError) as caught:
                    read_authored(text, Settings(names=frozenset("d")))
                problem = caught.exception
                self.assertEqual((problem.code, problem.instead), ("unknown_function", meant))
                self.assertEqual(text[problem.place : problem.place + problem.length], problem.about)

    def test_products_and_functions_stay_what_they_are(self) -> None:
        for text in MEANT:
            with self.subTest(text):
                read_authored(text, Settings(names=frozenset("mghabc")))

    def test_names_of_the_question_are_a_product_whatever_they_spell(self) -> None:
        for text in ("at(1 + b)", "sd(a)", "var(2)"):
            with self.subTest(text):
                read_authored(text, Settings(names=frozenset("abdrstv")))
        with self.assertRaises(NotationError):
            read_authored("at(1 + b)", Settings(names=frozenset("b")))

    def test_names_longer_than_a_letter_are_one_name_with_or_without_a_low_line(self) -> None:
        for name in ("dT2", "mass1", "ab1", "v0"):
            with self.subTest(name):
                compiled = question({name: "2..9", "m": "2..9"}, f"3*{name}*m", f"${name}$ and $m$")
                self.assertEqual(compiled.problems, [])
                self.assertEqual(compiled.letters, [])
        compiled = question({"dT": "2..9", "dT2": "2..9"}, "dT*dT2", "$dT$ $dT₂$ $dT_2$")
        self.assertEqual((compiled.problems, compiled.letters), ([], []))

    def test_an_unknown_name_is_told_as_the_word_that_was_typed(self) -> None:
        (problem,) = question({"m": "2..9"}, "mass*9.81").problems
        self.assertEqual((problem.about, problem.place, problem.length), ("mass", 0, 4))
        (problem,) = question({"m": "2..9", "h": "2..9"}, "mgh").problems
        self.assertEqual((problem.about, problem.place), ("g", 1))

    def test_a_name_multiplied_by_itself_is_doubted(self) -> None:
        (said,) = cautions(question({"m": "2..40"}, "mm*9.81"))
        self.assertEqual((said.path, said.place, said.length), (("parts", 0, "answer", "key"), 0, 2))
        self.assertEqual(cautions(question({"m": "2..40"}, "m*m*9.81")), [])


class Answers(unittest.TestCase):
    def test_a_tolerance_of_more_than_half_of_the_key(self) -> None:
        for value, instead in (("2", "2%"), ("0.6", "0.6%"), ("150%", "150%")):
            with self.subTest(value):
                tolerance = {"mode": "relative", "value": value}
                (said,) = cautions(question({"m": "2..40"}, "m*7", tolerance=tolerance))
                self.assertEqual(said.path, ("parts", 0, "answer", "tolerance"))
                self.assertEqual(put(value, said) if said.instead else value, instead)
        narrow = {"mode": "relative", "value": "2%"}
        self.assertEqual(cautions(question({"m": "2..40"}, "m*7", tolerance=narrow)), [])

    def test_a_missing_factor_is_offered(self) -> None:
        units = {"m": "kg", "c": "J/(kg K)", "T": "K"}
        heat = {"m": "2..9", "c": "4180", "T": "3..40"}
        (said,) = cautions(question(heat, "c*m*T", "$m$ $T$", after="kJ", units=units))
        self.assertEqual(put("c*m*T", said), "c*m*T/1000")
        (said,) = cautions(question(heat, "c*m*T + c*m*T", "$m$ $T$", after="kJ", units=units))
        self.assertEqual(put("c*m*T + c*m*T", said), "(c*m*T + c*m*T)/1000")
        (said,) = cautions(question(heat, "c*m*T", "$m$ $T$", after="mJ", units=units))
        self.assertEqual(put("c*m*T", said), "1000*c*m*T")

    def test_the_whole_number_is_quoted(self) -> None:
        for typed, meant in (("4,18*m", "4.18"), ("23.544,0 + m", "23544.0"), ("1.234,5", "1234.5")):
            with self.subTest(typed):
                with self.assertRaises(NotationError) as caught:
                    read_authored(typed, Settings())
                self.assertEqual(caught.exception.instead, meant)
                self.assertIn(meant, caught.exception.message)


class Lists(unittest.TestCase):
    def test_elements_order_and_both_deviations(self) -> None:
        d = "list(5, 3, 8, 4)"
        for key, value in (
            (f"item({d}, 3)", "8"), (f"item(sorted({d}), 1)", "3"), (f"total({d})", "20"), (f"count({d})", "4"),
            (f"variance({d})", "3.5"), (f"sample_variance({d})", "14/3"), (f"sample_stdev({d})^2", "14/3"),
            (f"item(sorted({d}), 2)*m/m", "4"),
        ):  # fmt: skip
            with self.subTest(key):
                compiled = question({"m": "2..9"}, key)
                (first, *_) = soundness(compiled, "key", 1).drawn
                answer = first.answers[0]
                assert answer is not None
                self.assertEqual(answer.check(value).outcome, "right")

    def test_a_sorted_list_is_a_parameter_and_its_cells_too(self) -> None:
        compiled = question({"m": "5 of 1..99", "s": "sorted(m)", "a": "item(s, 2)"}, "a", "$m$: $s$, $item(m, 1)$")
        found = soundness(compiled, "key", 1)
        self.assertEqual(found.reasons, [])
        for item in found.drawn:
            values = [term.value for term in item.values["m"].items]  # type: ignore[union-attr]
            self.assertEqual(str(item.values["a"]), str(sorted(values)[1]))

    def test_a_place_that_is_not_there(self) -> None:
        self.assertIn(
            "no_key",
            [each.code for each in soundness(question({"m": "1..9"}, "item(list(1, 2), 3)*m"), "key", 1).warnings],
        )


class Printed(unittest.TestCase):
    def test_a_unit_with_powers_is_printed_on_paper_and_key(self) -> None:
        units = {"m": "kg", "T": "K"}
        heat = question({"Q": "2000..9000", "m": "2..9", "T": "3..40"}, "Q/(m*T)", after="J kg^-1 K^-1", units=units)
        plan = Plan("Units", (Place(heat, "key", 1),))
        forms, printing = make_forms(plan, 1, "seed"), Printing(plan, Heading("Units"))
        self.assertIn("#raised(", printing.paper(forms.forms[0]))
        for printed in (
            printing.key(forms.forms),
            compiled(printing.document("Units", printing.paper(forms.forms[0]))),
        ):
            text = PdfDocument(printed)[0].get_textpage().get_text_range()
            self.assertRegex(text, r"J kg\s*−1\s*K\s*−1")
