"""Verdicts: tables of cases by kind, read like a page of a textbook."""

import json
from fractions import Fraction
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from vorlage.core.answers import CaseError, Verdict, check_case

ENERGY = {
    "kind": "number",
    "key": "m*g*h/1000",
    "tolerance": {"mode": "relative", "value": "2%"},
    "written": {"decimal_places": 1},
    "bands": [{"tolerance": {"mode": "relative", "value": "10%"}, "share": "1/2", "feedback": "Close."}],
    "slips": [{"key": "m*g*h", "share": "1/4", "feedback": "That is in joules."}],
    "recognise": ["rounding", "truncation", "sign", "power_of_ten", "digit_swap", "angle_unit"],
}
CRATE = {"m": "350", "g": "9.81", "h": "6.4"}


def check(answer: dict[str, Any], response: str, parameters: dict[str, str] | None = None, **setting: Any) -> Verdict:
    return check_case({"answer": answer, "response": response, "parameters": parameters or {}, "settings": setting})


def number(key: str, mode: str = "exact", value: str = "", **more: Any) -> dict[str, Any]:
    return {"kind": "number", "key": key, "tolerance": {"mode": mode, "value": value}, **more}


def formula(key: str, **more: Any) -> dict[str, Any]:
    return {"kind": "formula", "key": key, **more}


class Numbers(TestCase):
    def test_the_example_of_the_documentation(self) -> None:
        for response, outcome, share, because in [
            ("22.0", "right", "1", "within 2 %"), ("E = 22.0", "right", "1", "within 2 %"),
            ("21.95", "partly", "1/2", "how it is written"), ("20.1", "partly", "1/2", "band within 10 %"),
            ("21974", "partly", "1/4", "slip m*g*h"), ("-22.0", "wrong", "0", "sign"), ("2.2", "wrong", "0", "power of ten"),
            ("12.0", "wrong", "0", "within 2 %"), ("", "blank", "0", "nothing was answered"),
            ("22,0", "unreadable", "0", "it cannot be read"), ("abc", "unreadable", "0", "it has no value"),
        ]:  # fmt: skip
            with self.subTest(response):
                verdict = check(ENERGY, response, CRATE)
                self.assertEqual((verdict.outcome, str(verdict.share), verdict.because), (outcome, share, because))

    def test_tolerance_modes(self) -> None:
        for answer, right, wrong in [
            (number("3"), "3 3.0 6/2 sqrt(9) 3e0", "3.0001 -3"),
            (number("0.5", "absolute", "0.05"), "0.45 0.55 0.5 1/2", "0.449999 0.5500001"),
            (number("200", "relative", "2%"), "196 204 2.04e2", "195.99 204.01"),
            (number("0", "relative", "5%"), "0 0.0", "0.0001"),
            (number("pi", "decimal_places", "2"), "3.14 3.142 pi 3.1415", "3.1 3.15 22/7.1"),
            (number("2/3", "significant_figures", "2"), "0.67 0.666 2/3", "0.66 0.7"),
            (number("sqrt(2)"), "sqrt(2) 2/sqrt(2) sqrt(8)/2", "1.41421356 1.4"),
            ({"kind": "number", "key": "9.8", "tolerance": {"mode": "between", "value": ["9.78", "9.83"]}}, "9.78 9.83 9.8",
             "9.77999 9.84"),
        ]:  # fmt: skip
            for response in right.split():
                with self.subTest(f"{answer['key']} ← {response}"):
                    self.assertEqual(check(answer, response).outcome, "right")
            for response in wrong.split():
                with self.subTest(f"{answer['key']} ← {response}"):
                    self.assertEqual(check(answer, response).outcome, "wrong")

    def test_an_edge_is_in_and_no_binary_fraction_decides(self) -> None:
        answer = number("0.3", "absolute", "0.1")
        for response, outcome in [("0.4", "right"), ("0.2", "right"), ("0.40000000000000000000001", "wrong")]:
            with self.subTest(response):
                self.assertEqual(check(answer, response).outcome, outcome)
        third = number("sqrt(2)", "relative", "10%")
        self.assertEqual(check(third, "1.1*sqrt(2)").outcome, "right")

    def test_how_it_is_written(self) -> None:
        for demand, right, partly in [
            ({"form": "integer"}, "12", "12.0 24/2"), ({"form": "fraction"}, "24/2 12", "12.0"),
            ({"form": "fraction", "lowest_terms": True}, "12", "24/2"), ({"decimal_places": 1}, "12.0", "12 12.00"),
            ({"significant_figures": 3}, "12.0", "12 12.00"), ({"form": "standard_form"}, "1.2e1", "12 0.12e2"),
            ({"form": "percent"}, "1200%", "12"), ({"form": "decimal"}, "12.0", "24/2"),
        ]:  # fmt: skip
            for response in right.split():
                with self.subTest(f"{demand} ← {response}"):
                    self.assertEqual(check(number("12", written=demand), response).outcome, "right")
            for response in partly.split():
                with self.subTest(f"{demand} ← {response}"):
                    verdict = check(number("12", written=demand), response)
                    self.assertEqual((verdict.outcome, verdict.share), ("partly", Fraction(1, 2)))
                    self.assertTrue(verdict.feedback)

    def test_recognised_near_misses(self) -> None:
        for name, answer, response in [
            ("rounding", number("2.348", "decimal_places", "2"), "2.3"),
            ("truncation", number("2.348", "decimal_places", "2"), "2.34"),
            ("sign", number("7"), "-7"), ("power_of_ten", number("1.5"), "0.015"), ("digit_swap", number("4.27"), "4.72"),
            ("digit_swap", number("-31"), "-13"), ("angle_unit", number("10*sin(30)", "relative", "1%"), "-9.88"),
        ]:  # fmt: skip
            with self.subTest(name):
                told = answer | {"recognise": [{"name": name, "share": "1/3"}]}
                verdict = check(told, response, angle="degrees")
                self.assertEqual((verdict.outcome, verdict.share), ("partly", Fraction(1, 3)))
                silent = answer | {"recognise": [name]}
                verdict = check(silent, response, angle="degrees")
                self.assertEqual((verdict.outcome, len(verdict.feedback)), ("wrong", 1))

    def test_the_best_share_counts(self) -> None:
        answer = number(
            "10",
            bands=[{"tolerance": {"mode": "absolute", "value": "2"}, "share": "1/4"}],
            slips=[{"key": "11", "share": "3/4", "feedback": "The slip."}],
        )
        self.assertEqual(check(answer, "11").share, Fraction(3, 4))
        self.assertEqual(check(answer, "12").share, Fraction(1, 4))

    @settings(max_examples=200, deadline=None)
    @given(st.integers(-(10**6), 10**6), st.integers(0, 4), st.integers(1, 40))
    def test_a_value_beyond_the_tolerance_never_passes(self, key: int, places: int, percent: int) -> None:
        value = Fraction(key, 10**places)
        answer = number(f"({key})/10^{places}", "relative", f"{percent}%")
        edge = value * Fraction(100 + percent, 100)
        beyond = edge + (Fraction(1, 10**9) if value >= 0 else -Fraction(1, 10**9))
        self.assertEqual(check(answer, f"({edge.numerator})/{edge.denominator}").outcome, "right")
        self.assertEqual(check(answer, f"({beyond.numerator})/{beyond.denominator}").outcome, "wrong")


class Formulas(TestCase):
    def test_equal_formulas_are_right_however_they_are_written(self) -> None:
        for key, responses in [
            ("(x+1)(x-2)", ["x^2-x-2", "(x-2)(x+1)", "x(x-1)-2", "y = x^2 - x - 2", "-(1+x)(2-x)"]),
            ("a x + b", ["b + x a", "a(x + b/a)"]), ("2 pi r", ["2πr", "r*2*pi", "pi*2r"]), ("1/x", ["x^-1", "x/x^2"]),
        ]:  # fmt: skip
            for response in responses:
                with self.subTest(f"{key} ← {response}"):
                    self.assertEqual(check(formula(key), response).outcome, "right")

    def test_other_formulas_are_wrong_or_not_formulas(self) -> None:
        for response, outcome in [("x^2+x-2", "wrong"), ("x", "wrong"), ("x + k", "wrong"), ("x = 2", "unreadable"), ("x < 2", "unreadable"),
                                  ("{x}", "unreadable"), ("diff(x^3/3, x)", "unreadable"), ("(x", "unreadable")]:  # fmt: skip
            with self.subTest(response):
                self.assertEqual(check(formula("(x+1)(x-2)"), response).outcome, outcome)
        self.assertEqual(check(formula("x"), "x + k").feedback, ("The letter k does not belong in this answer.",))

    def test_forms(self) -> None:
        for form, key, right, partly in [
            ("expanded", "x^2-x-2", ["x^2-x-2", "-2-x+x^2"], ["(x+1)(x-2)", "x^2-2x+x-2", "x(x-1)-2"]),
            ("factorised", "x^2-x-2", ["(x+1)(x-2)", "-(x+1)(2-x)"], ["x^2-x-2", "(2x+2)(x/2-1)"]),
            ("factorised", "2x^2-8", ["2(x-2)(x+2)"], ["(2x-4)(x+2)", "2(x^2-4)"]),
            ("lowest_terms", "x/(x+1)", ["x/(x+1)"], ["2x/(2x+2)", "x^2/(x^2+x)"]),
            ("single_fraction", "1/x+1/y", ["(x+y)/(x y)"], ["1/x+1/y"]),
            ("completed_square", "x^2+6x+1", ["(x+3)^2-8"], ["x^2+6x+1"]),
            ("rationalised", "1/sqrt(2)", ["sqrt(2)/2"], ["1/sqrt(2)", "2^(-1/2)"]),
            ("no_brackets", "2x+2", ["2x+2", "x+x+2"], ["2(x+1)"]),
            ("as_key", "2(x+1)^2", ["(x+1)^2*2", "2(1+x)^2"], ["2x^2+4x+2"]),
        ]:  # fmt: skip
            for response in right:
                with self.subTest(f"{form} ← {response}"):
                    self.assertEqual(check(formula(key, form=form), response).outcome, "right")
            for response in partly:
                with self.subTest(f"{form} ← {response}"):
                    self.assertEqual(check(formula(key, form=form), response).share, Fraction(1, 2))

    def test_up_to(self) -> None:
        for key, up_to, right, wrong in [
            ("x^2", "constant", ["x^2", "x^2 + C", "x^2 - 7"], ["x^2 + x", "2x^2"]),
            ("sin(x)^2/2", "constant", ["-cos(2x)/4 + c"], ["cos(x)"]), ("ln x", "constant", ["ln(3x)"], ["3 ln x"]),
            ("x + 1", "multiple", ["3x + 3", "-x - 1"], ["3x + 4", "0"]), ("x - 1", "sign", ["1 - x", "x - 1"], ["x + 1"]),
        ]:  # fmt: skip
            for response in right:
                with self.subTest(f"{key} ← {response}"):
                    self.assertEqual(check(formula(key, up_to=up_to), response).outcome, "right")
            for response in wrong:
                with self.subTest(f"{key} ← {response}"):
                    self.assertEqual(check(formula(key, up_to=up_to), response).outcome, "wrong")

    def test_slips_and_drawn_values(self) -> None:
        answer = formula("(x - r)(x - s)", slips=[{"key": "(x + r)(x + s)", "share": "1/2", "feedback": "Signs."}])
        drawn = {"r": "2", "s": "-5"}
        self.assertEqual(check(answer, "x^2 + 3x - 10", drawn).outcome, "right")
        slipped = check(answer, "(x+2)(x-5)", drawn)
        self.assertEqual((slipped.share, slipped.feedback), (Fraction(1, 2), ("Signs.",)))

    def test_nothing_about_the_key_is_told_to_the_student(self) -> None:
        verdict = check(formula("x^2 + 17"), "x^2")
        self.assertNotIn("17", " ".join(verdict.feedback))


class Cases(TestCase):
    def test_what_is_not_a_case_is_said_in_one_sentence(self) -> None:
        for case in [None, [], {}, {"answer": {}, "response": "1"}, {"answer": {"kind": "x"}, "response": "1"},
                     {"answer": number("2 3"), "response": "1"}, {"answer": number("1"), "response": 1},
                     {"answer": number("k"), "response": "1"}, {"answer": number("1"), "response": "1", "settings": {"angle": "x"}},
                     {"answer": number("1", "relative"), "response": "1"}]:  # fmt: skip
            with self.subTest(str(case)):
                with self.assertRaises(CaseError) as caught:
                    check_case(case)
                self.assertTrue(str(caught.exception))

    def test_a_verdict_is_plain_json(self) -> None:
        written = json.loads(json.dumps(check(formula("x^2 + 1"), "x^2").as_json()))
        self.assertEqual(
            written["certainty"], {"kind": "refuted", "witness": {"x": "2"}, "key_value": "5", "response_value": "4"}
        )
