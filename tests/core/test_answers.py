"""What the pages of ``cases.toml`` of the kinds do not show: feedback, other libraries' opinion, hostile input."""

import json
import random
from fractions import Fraction
from typing import Any
from unittest import TestCase

import pint
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.counting import calls
from vorlage.core.answers import CaseError, Verdict, check_case
from vorlage.core.notation import NotationError, Settings
from vorlage.core.quantities import read_unit, split_quantity
from vorlage.operations.fuzzing import ANSWERS, CHOSEN, HOSTILE, structured

RIGHT, PARTLY, WRONG, UNREADABLE, WAITING = "right", "partly", "wrong", "unreadable", "waiting"


def check(answer: dict[str, Any], response: str, **setting: Any) -> Verdict:
    return check_case({"answer": answer, "response": response, "settings": setting})


def number(key: str, mode: str = "exact", value: str = "", **more: Any) -> dict[str, Any]:
    return {"kind": "number", "key": key, "tolerance": {"mode": mode, "value": value}, **more}


def formula(key: str, **more: Any) -> dict[str, Any]:
    return {"kind": "formula", "key": key, **more}


def quantity(key: str, unit: str, **more: Any) -> dict[str, Any]:
    return {"kind": "quantity", "key": key, "unit": unit, **more}


def chemical(key: str, **more: Any) -> dict[str, Any]:
    return {"kind": "chemical", "key": key, **more}


class Feedback(TestCase):
    def test_what_is_said(self) -> None:
        interval = {"kind": "interval", "key": "[1, 3)"}
        water = chemical("2 H2 + O2 -> 2 H2O")
        for answer, response, told in [
            (formula("x"), "x + k", "The letter k does not belong in this answer."),
            (formula("x"), "diff(x^2/2, x)", "Work this out: diff(…) cannot be part of an answer."),
            (number("12"), "12 m", "A plain number is asked for here: leave out “m”."),
            (number("12"), "12 or 13", "One number is asked for here."),
            (quantity("1", "km"), "1", "The unit is missing."),
            (quantity("1", "km"), "1 m", "The number is right, but the unit is not."),
            (quantity("1", "km"), "1 kg", "The number is right, but this unit measures something else."),
            (quantity("20", "°C"), "20 C", "C stands for coulomb: write °C for degrees Celsius."),
            (quantity("1", "kg"), "1 Kg", "“Kg” is not a unit that is known here: did you mean kg?"),
            (interval, "(1, 3)", "Check whether the ends belong to it."),
            (interval, "x >= 1, x < 3", "Join the relations with “and” or “or”."),
            (water, "H2 + O2 -> H2O", "O does not balance."),
            (water, "4 H2 + 2 O2 -> 4 H2O", "Balanced, but not with the numbers asked for."),
            (chemical("Ag^+ + Cl^- -> AgCl"), "Ag^2+ + Cl- -> AgCl", "The charge does not balance."),
            (chemical("SO4^2-"), "SO4^-", "Check the charge."),
            (chemical("H2SO4"), "H2SO3", "Check the number of O."),
            (
                chemical("^238_92 U -> ^234_90 Th + ^4_2 He"),
                "^238U -> ^235Th + ^4He",
                "The mass number does not balance.",
            ),
            ({"kind": "set", "key": "{1, 2, 3}"}, "1, 2", "2 of 3 values found."),
            ({"kind": "point", "key": "(3, 4)"}, "(3, 4, 5)", "This has another number of values than asked for."),
        ]:
            with self.subTest(f"{answer['key']} ← {response}"):
                self.assertEqual(check(answer, response).feedback[0], told)

    def test_nothing_about_the_key_is_told_to_the_student(self) -> None:
        verdict = check(formula("x^2 + 17"), "x^2")
        self.assertNotIn("17", " ".join(verdict.feedback))


class Numbers(TestCase):
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

    @settings(max_examples=200)
    @given(st.integers(-(10**6), 10**6), st.integers(0, 4), st.integers(1, 40))
    def test_a_value_beyond_the_tolerance_never_passes(self, key: int, places: int, percent: int) -> None:
        value = Fraction(key, 10**places)
        answer = number(f"({key})/10^{places}", "relative", f"{percent}%")
        edge = value * Fraction(100 + percent, 100)
        beyond = edge + (Fraction(1, 10**9) if value >= 0 else -Fraction(1, 10**9))
        self.assertEqual(check(answer, f"({edge.numerator})/{edge.denominator}").outcome, "right")
        self.assertEqual(check(answer, f"({beyond.numerator})/{beyond.denominator}").outcome, "wrong")


class Units(TestCase):
    def test_pint_agrees_on_conversions(self) -> None:
        registry = pint.UnitRegistry()
        chance = random.Random(1851)
        groups = [["m", "km", "cm", "mm", "ft", "mile"], ["J", "kJ", "kWh", "eV", "cal"], ["Pa", "kPa", "bar", "mmHg", "atm"],
                  ["s", "min", "h", "ms"], ["g", "kg", "t", "mg"], ["m/s", "km/h", "cm/s"], ["L", "mL", "dm^3", "m^3"]]  # fmt: skip
        for group in groups:
            for _ in range(6):
                one, other = chance.sample(group, 2)
                with self.subTest(f"{one} in {other}"):
                    ours = read_unit(one).factor / read_unit(other).factor
                    theirs = registry.Quantity(1, one).to(other).magnitude
                    self.assertAlmostEqual(int(ours.p) / int(ours.q) / theirs, 1, places=9)

    def test_where_the_number_ends_and_the_unit_begins(self) -> None:
        for typed, amount, unit in [
            ("3.2e-4 m", "3.2e-4", "m"), ("2 pi m", "2 pi", "m"), ("1/2 h", "1/2", "h"), ("2 1/2 h", "2 1/2", "h"),
            ("-5°C", "-5", "°C"), ("1 200 kg", "1 200", "kg"), ("45%", "45", "%"), ("sqrt(2) m", "sqrt(2)", "m"), ("5", "5", ""),
        ]:  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(split_quantity(typed, Settings()), (amount, unit))

    def test_a_unit_that_is_none_is_named_with_its_place(self) -> None:
        with self.assertRaises(NotationError) as caught:
            read_unit("kg foo")
        self.assertEqual((caught.exception.place, caught.exception.length), (3, 3))

    def test_angles_are_exact_multiples_of_pi(self) -> None:
        for unit, factor, power in [("deg", (1, 180), 1), ("turn", (2, 1), 1), ("rpm", (1, 30), 1), ("rad", (1, 1), 0)]:
            with self.subTest(unit):
                read = read_unit(unit)
                self.assertEqual((int(read.factor.p), int(read.factor.q), read.pi), (*factor, power))


class Hostile(TestCase):
    def test_patterns_cannot_hang(self) -> None:
        answer = {"kind": "text", "accept": ["(a+)+b"], "match": "pattern"}
        # an engine that tries one way after the other would never come to an end here
        self.assertEqual(check(answer, "a" * 4900).outcome, WRONG)
        self.assertEqual(check(answer, "aaab").outcome, RIGHT)
        with self.assertRaises(CaseError):
            check({"kind": "text", "accept": ["("], "match": "pattern"}, "x")

    def test_any_response_to_any_kind_gets_a_verdict_without_much_work(self) -> None:
        chance = random.Random(7)
        alphabet = "0123456789.,xyabHOe+-*/^()[]{}|!%° =<>\\_sincoltgm²½√±→"
        hostile = HOSTILE + ["".join(chance.choices(alphabet, k=chance.randint(1, 30))) for _ in range(80)]
        for answer in ANSWERS:
            check(answer, "1 m")
            more = [structured(chance) for _ in range(60)] if answer["kind"] in CHOSEN else []
            for response in [*hostile, *more]:
                with self.subTest(f"{answer['kind']} ← {str(response)[:40]}"):
                    verdicts: list[Verdict] = []
                    self.assertLess(calls(lambda: verdicts.append(check(answer, response))), 250_000)  # noqa: B023
                    self.assertIn(verdicts[0].outcome, {RIGHT, PARTLY, WRONG, UNREADABLE, WAITING, "blank"})


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
