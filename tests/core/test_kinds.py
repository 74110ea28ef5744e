"""The other kinds of answer, each as a page of cases: what is right, what is partly right, what is wrong."""

import random
import time
from fractions import Fraction
from typing import Any
from unittest import TestCase

import pint

from vorlage.core.answers import CaseError, Verdict, check_case
from vorlage.core.notation import NotationError, Settings
from vorlage.core.quantities import read_unit, split_quantity

RIGHT, PARTLY, WRONG, UNREADABLE = "right", "partly", "wrong", "unreadable"


def check(answer: dict[str, Any], response: str, **settings: Any) -> Verdict:
    return check_case({"answer": answer, "response": response, "settings": settings})


class Page(TestCase):
    """A page of cases for one answer."""

    def assert_page(self, answer: dict[str, Any], page: dict[str, list[str]], **settings: Any) -> None:
        for outcome, responses in page.items():
            for response in responses:
                with self.subTest(f"{answer.get('key', answer.get('accept'))} ← {response}"):
                    verdict = check(answer, response, **settings)
                    self.assertEqual(verdict.outcome, outcome, verdict)
                    if outcome == UNREADABLE:
                        self.assertTrue(verdict.feedback)


def quantity(key: str, unit: str, **more: Any) -> dict[str, Any]:
    return {"kind": "quantity", "key": key, "unit": unit, "tolerance": {"mode": "relative", "value": "1%"}, **more}


class Quantities(Page):
    def test_units_are_converted(self) -> None:
        self.assert_page(quantity("1", "m/s"), {
            RIGHT: ["1 m/s", "3.6 km/h", "100 cm/s", "1 m s^-1", "1 m s⁻¹", "1 [m/s]", "v = 1 m/s", "1.005 m/s", "1 m per s", "1m/s"],
            PARTLY: ["1"],
            WRONG: ["1 m", "1 km/h", "2 m/s", "1 s/m", "1 m s"],
            UNREADABLE: ["1 foo", "m/s", "1 m//s", "x m/s", "1 m/s/"],
        })  # fmt: skip
        self.assert_page(quantity("4.18", "kJ/(kg K)"), {
            RIGHT: ["4.18 kJ/(kg K)", "4180 J/kg/K", "4.18 J g^-1 K^-1", "4.18 kJ·kg⁻¹·K⁻¹", "4.18 kJ/(kg °C)"],
            WRONG: ["4.18 J/(kg K)", "4.18 kJ/kg"],
            UNREADABLE: ["4.18 J/kg K"],
        })  # fmt: skip
        self.assert_page(
            quantity("12", "kN m"), {RIGHT: ["12kN m", "12000 N·m", "1.2e4 N m", "1.2 × 10⁴ N m"], WRONG: ["12 N m"]}
        )
        self.assert_page(quantity("0.35", "L"), {RIGHT: ["350 mL", "0.35 dm^3", "350 cm³", "0.00035 m^3"]})

    def test_a_temperature_is_not_a_temperature_difference(self) -> None:
        self.assert_page(
            quantity("20", "°C"), {RIGHT: ["20 °C", "293.15 K", "68 °F"], WRONG: ["20 K", "20 °F"], PARTLY: ["20"]}
        )
        self.assert_page(quantity("20", "K"), {RIGHT: ["20 K", "-253.15 °C"], WRONG: ["20 °C"]})

    def test_rules_for_the_unit(self) -> None:
        self.assert_page(quantity("1", "km", convert=False), {RIGHT: ["1 km"], WRONG: ["1000 m"]})
        self.assert_page(quantity("1", "km", unit_rule="any"), {RIGHT: ["1", "1 km", "1000 m"], WRONG: ["1 m", "2"]})
        self.assert_page(quantity("1", "km", unit_rule="given"), {RIGHT: ["1", "1000 m"], WRONG: ["1 kg"]})
        missing = check(quantity("1", "km", share="3/4"), "1")
        self.assertEqual((missing.share, missing.feedback), (Fraction(3, 4), ("The unit is missing.",)))
        self.assertEqual(check(quantity("1", "km"), "1 m").feedback, ("The number is right, but the unit is not.",))

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


class Equations(Page):
    def test_rearrangements_and_multiples(self) -> None:
        self.assert_page({"kind": "equation", "key": "2x + 3y = 6"}, {
            RIGHT: ["2x+3y=6", "y = 2 - 2x/3", "4x+6y=12", "3y=6-2x", "x = 3-1.5y", "x/3+y/2=1", "-2x-3y+6=0", "y=(6-2x)/3"],
            WRONG: ["2x+3y=7", "2x-3y=6", "x=3", "2a+3b=6", "0=0", "1=2"],
            UNREADABLE: ["2x+3y", "2x+3y<6", "2x=3y=6", "=6"],
        })  # fmt: skip
        self.assert_page({"kind": "equation", "key": "x^2 + y^2 = 25"}, {
            RIGHT: ["y^2=25-x^2", "x^2+y^2=5^2", "(x^2+y^2)/25=1"], WRONG: ["x+y=5", "y=sqrt(25-x^2)"],
        })  # fmt: skip
        self.assert_page({"kind": "equation", "key": "(x-2)(x+1) = 0"}, {
            RIGHT: ["x^2-x-2=0", "x^2=x+2", "(x-2)^2 (x+1)=0", "(x-2)(x+1)(x^2+1)=0"], WRONG: ["x=2", "(x-2)(x+1)(x-3)=0"],
        })  # fmt: skip
        self.assert_page(
            {"kind": "equation", "key": "y = 2e^(3x)"}, {RIGHT: ["y/2=e^(3x)", "2e^(3x) = y"], WRONG: ["y=2e^x"]}
        )

    def test_forms(self) -> None:
        plain = {"kind": "equation", "key": "2x + 3y = 6"}
        self.assert_page(
            plain | {"subject": "y"}, {RIGHT: ["y = 2-2x/3", "2-2x/3 = y"], PARTLY: ["2x+3y=6", "3y=6-2x"]}
        )
        self.assert_page(
            plain | {"form": "standard"}, {RIGHT: ["2x+3y=6", "3y+2x=6"], PARTLY: ["y=2-2x/3", "x/3+y/2=1"]}
        )
        self.assert_page(
            plain | {"form": "slope_intercept"}, {RIGHT: ["y=-2/3x+2", "y=2-2x/3"], PARTLY: ["2x+3y=6", "y=-2/3(x-3)"]}
        )


class RealSets(Page):
    def test_one_answer_however_it_is_written(self) -> None:
        for kind in ("inequality", "interval"):
            self.assert_page({"kind": kind, "key": "1 < x <= 3"}, {
                RIGHT: ["1 < x <= 3", "x in (1, 3]", "x > 1 and x <= 3", "(1, 3]", "3 >= x > 1", "2 < 2x <= 6", "-3 <= -x < -1", "x ∈ (1,3]"],
                WRONG: ["1 <= x <= 3", "[1,3]", "(1,3)", "x>1", "x>1 or x<=3", "1 < y <= 3", "{1, 3}", "1 < x + y"],
                UNREADABLE: ["3", "x"],
            })  # fmt: skip

    def test_algebra_in_one_letter(self) -> None:
        for key, right, wrong in [
            ("x^2 > 4", ["x < -2 or x > 2", "|x| > 2", "x^2-4>0", "(-infinity, -2) or (2, infinity)"], ["x>2", "x>=2"]),
            ("[-sqrt(2), sqrt(2)]", ["x^2 <= 2", "|x| <= sqrt 2", "-√2 <= x <= √2", "-sqrt(8)/2 <= x and x <= sqrt 2"], ["[-1.41, 1.41]", "x^2<2"]),
            ("1/x > 0", ["x > 0", "0 < x"], ["x >= 0", "x != 0"]), ("|x - 3| < 2", ["1 < x < 5", "(1,5)", "-2<x-3<2"], ["1<=x<=5", "x<5"]),
            ("(x-1)(x-2)(x-3) >= 0", ["1<=x<=2 or x>=3", "[1,2] or [3, infinity)"], ["x>=3"]), ("x != 2", ["x<2 or x>2"], ["x<2"]),
        ]:  # fmt: skip
            self.assert_page({"kind": "inequality", "key": key}, {RIGHT: right, WRONG: wrong})

    def test_several_letters(self) -> None:
        self.assert_page({"kind": "inequality", "key": "y < 2x + 1"}, {
            RIGHT: ["2x+1 > y", "2y < 4x+2", "y-2x < 1", "-y > -2x-1"], WRONG: ["y <= 2x+1", "y > 2x+1", "y < x+1"],
        })  # fmt: skip

    def test_ends_are_told_apart(self) -> None:
        verdict = check({"kind": "interval", "key": "[1, 3)"}, "(1, 3)")
        self.assertEqual(verdict.feedback, ("Check whether the ends belong to it.",))


class Collections(Page):
    def test_sets_come_in_any_order(self) -> None:
        self.assert_page({"kind": "set", "key": "{2, -5}"}, {
            RIGHT: ["{2,-5}", "-5, 2", "x = 2 or x = -5", "x=2, x=-5", "2; -5", "4/2, -5.0", "{2, 2, -5}", "2 and -5", "x_1=2, x_2=-5"],
            PARTLY: ["2", "{2,-5,3}"],
            WRONG: ["{}", "5, -2", "7"],
            UNREADABLE: ["{2,", "x > 2", "(2"],
        })  # fmt: skip
        self.assert_page({"kind": "set", "key": "{3, -3}"}, {RIGHT: ["±3", "x = ±3", "+/-3", "-3, 3"], PARTLY: ["3"]})
        self.assert_page({"kind": "set", "key": "{a + b, 2a}"}, {RIGHT: ["2a, b+a"], PARTLY: ["a+b"], WRONG: ["a b"]})

    def test_shares_of_sets(self) -> None:
        three = {"kind": "set", "key": "{1, 2, 3}"}
        self.assertEqual(check(three, "1, 2").share, Fraction(2, 3))
        self.assertEqual(check(three, "1, 2, 4").share, Fraction(1, 3))
        self.assertEqual(check(three | {"cost": "0"}, "1, 2, 4").share, Fraction(2, 3))
        self.assertNotEqual(check(three | {"cost": "0"}, "1, 2, 3, 4").outcome, RIGHT)
        near = {"kind": "set", "key": "{1, 1.1}", "tolerance": {"mode": "absolute", "value": "0.2"}}
        self.assertEqual(check(near, "1.15, 0.9").outcome, RIGHT)

    def test_place_by_place(self) -> None:
        self.assert_page({"kind": "point", "key": "(3, 4)"}, {
            RIGHT: ["(3,4)", "3, 4", "3;4", "x=3, y=4", "y=4 and x=3", "(6/2, 4.0)"], WRONG: ["(4,3)", "(3,4,5)", "(3,5)"], UNREADABLE: ["(3,4"],
        })  # fmt: skip
        self.assert_page({"kind": "vector", "key": "vec(1, 2, 3)"}, {
            RIGHT: ["vec(1,2,3)", "(1,2,3)", "1,2,3", "matrix(1;2;3)", r"\begin{pmatrix}1\\2\\3\end{pmatrix}"], WRONG: ["vec(1,2)", "vec(3,2,1)"],
        })  # fmt: skip
        self.assert_page({"kind": "matrix", "key": "matrix(1, 2; 3, 4)"}, {
            RIGHT: ["matrix(1,2;3,4)", r"\begin{pmatrix}1&2\\3&4\end{pmatrix}"], WRONG: ["matrix(1,3;2,4)", "matrix(1,2)"], UNREADABLE: ["1,2,3,4"],
        })  # fmt: skip
        self.assert_page(
            {"kind": "list", "key": "1, 4, 9"},
            {RIGHT: ["1,4,9", "list(1,4,9)"], WRONG: ["1, 4", "4,1,9"], UNREADABLE: ["1 4 9"]},
        )
        self.assertEqual(check({"kind": "list", "key": "1, 4, 9", "partial": True}, "1, 5, 9").share, Fraction(2, 3))


class Chemistry(Page):
    def test_formulas(self) -> None:
        for key, right, wrong, unreadable in [
            ("H2SO4", ["H2SO4", "H₂SO₄", "H_2SO_4", "SO4H2"], ["H2SO3", "H2SO4^2-", "HSO4"], ["h2so4", "H2SO4)", "Xy2"]),
            ("SO4^2-", ["SO4^2-", "SO42-", "SO₄²⁻", "SO4^{2-}", "SO4 2-"], ["SO4", "SO4^-", "SO3^2-"], ["SO4^"]),
            ("Fe^3+", ["Fe3+", "Fe^3+", "Fe³⁺", "Fe^{3+}", "Fe^+3"], ["Fe2+", "Fe"], ["Fe+3"]),
            ("CuSO4·5H2O", ["CuSO4·5H2O", "CuSO4.5H2O", "CuSO4*5H2O", "CuSO4 . 5 H2O"], ["CuSO4", "CuSO4·H2O"], []),
            ("Ca(OH)2", ["Ca(OH)2", "Ca(OH)₂"], ["CaOH2"], ["Ca(OH2"]), ("^14_6 C", ["^14_6 C", "^14C", "^{14}C"], ["C", "^12C"], []),
        ]:  # fmt: skip
            self.assert_page({"kind": "chemical", "key": key}, {RIGHT: right, WRONG: wrong, UNREADABLE: unreadable})

    def test_equations(self) -> None:
        water = {"kind": "chemical", "key": "2 H2 + O2 -> 2 H2O"}
        same = [
            "2H2+O2->2H2O",
            "O2 + 2 H2 → 2 H2O",
            "2 H2(g) + O2(g) -> 2 H2O(l)",
            "2H₂ + O₂ ⟶ 2H₂O",
            "2H2 + O2 = 2H2O",
        ]
        multiples = ["4H2+2O2->4H2O", "H2 + 1/2 O2 -> H2O"]
        self.assert_page(
            water,
            {RIGHT: same, WRONG: [*multiples, "H2+O2->H2O", "2 H2O -> 2 H2 + O2"], UNREADABLE: ["2 H2 + O2", "->"]},
        )
        self.assert_page(water | {"multiple": True}, {RIGHT: same + multiples, WRONG: ["H2+O2->H2O"]})
        self.assertEqual(check(water, "H2 + O2 -> H2O").feedback, ("O does not balance.",))
        ions = {"kind": "chemical", "key": "Ag^+(aq) + Cl^-(aq) -> AgCl(s)", "states": True}
        self.assert_page(
            ions,
            {RIGHT: ["Ag+(aq) + Cl-(aq) -> AgCl(s)"], WRONG: ["Ag+ + Cl- -> AgCl", "Ag+(aq) + Cl-(aq) -> AgCl(aq)"]},
        )
        self.assertEqual(check(ions, "Ag^2+ + Cl- -> AgCl").feedback, ("The charge does not balance.",))


class Words(Page):
    def test_case_and_spacing_are_forgiven(self) -> None:
        self.assert_page(
            {"kind": "text", "accept": ["North Sea"]},
            {RIGHT: ["north sea", "  NORTH   sea "], WRONG: ["Baltic", "Northsea"]},
        )
        self.assert_page({"kind": "text", "accept": ["pH"], "case": True}, {RIGHT: ["pH"], WRONG: ["ph", "PH"]})
        self.assert_page(
            {"kind": "text", "accept": ["tide"], "match": "contains"}, {RIGHT: ["The high tide."], WRONG: ["ebb"]}
        )

    def test_patterns_cannot_hang(self) -> None:
        answer = {"kind": "text", "accept": ["(a+)+b"], "match": "pattern"}
        started = time.perf_counter()
        self.assertEqual(check(answer, "a" * 4900).outcome, WRONG)
        self.assertLess(time.perf_counter() - started, 1)
        self.assertEqual(check(answer, "aaab").outcome, RIGHT)
        with self.assertRaises(CaseError):
            check({"kind": "text", "accept": ["("], "match": "pattern"}, "x")


class Settled(Page):
    def test_the_decimal_comma(self) -> None:
        comma = {"decimal_mark": "comma"}
        self.assert_page({"kind": "number", "key": "1.5"}, {RIGHT: ["1,5", "3/2"], UNREADABLE: ["1.5"]}, **comma)
        self.assert_page(quantity("1,5", "m"), {RIGHT: ["1,5 m", "150 cm"], WRONG: ["15 m"]}, **comma)
        self.assert_page({"kind": "set", "key": "{1,5; 2}"}, {RIGHT: ["1,5; 2", "{2; 1,5}"], PARTLY: ["1,5"]}, **comma)

    def test_complex_numbers_where_the_question_says_so(self) -> None:
        self.assert_page({"kind": "number", "key": "3 + 4i"}, {
            RIGHT: ["3+4i", "4i + 3", "3 + 4*i", "(2+i)^2", "z = 3+4i", "sqrt(-16) + 3"], WRONG: ["3-4i", "5", "4+3i"], UNREADABLE: ["3+4j", "3+"],
        }, complex=True)  # fmt: skip
        near = {"kind": "number", "key": "e^(i pi/4)", "tolerance": {"mode": "absolute", "value": "0.01"}}
        self.assert_page(near, {RIGHT: ["0.707+0.707i", "(1+i)/sqrt(2)"], WRONG: ["0.7i"]}, complex=True)
        self.assert_page(
            {"kind": "formula", "key": "(x+i)(x-i)"}, {RIGHT: ["x^2+1"], WRONG: ["x^2-1", "x^2+i"]}, complex=True
        )
        self.assert_page({"kind": "number", "key": "3"}, {UNREADABLE: ["3 + 0i"]})

    def test_any_response_to_any_kind_gets_a_verdict_in_good_time(self) -> None:
        answers: list[dict[str, Any]] = [
            {"kind": "number", "key": "3"}, {"kind": "formula", "key": "x^2"}, quantity("1", "m"), {"kind": "equation", "key": "y=x"},
            {"kind": "inequality", "key": "x>1"}, {"kind": "set", "key": "{1,2}"}, {"kind": "matrix", "key": "matrix(1,2;3,4)"},
            {"kind": "chemical", "key": "H2O"}, {"kind": "text", "accept": ["a"]}, {"kind": "point", "key": "(1,2)"},
        ]  # fmt: skip
        hostile = ["9^9^9^9", "2^99999", "(x+y+z)^5000", "1000!", "99999!!", "1/0", "0^0", "x^x^x", "{" * 50, "sqrt(-1)", "ln(0) m", "|" * 40,
                   "1e99999", "sin(10^400)", "\u202e3", "x = = 2", "∞", "H" * 290, "(" * 59 + "x" + ")" * 59, "1 m^99", "=", "<", ",", "\\",
                   "x^60 - 3x^59 + 1 > 0", "7/1e510^9", "1e4000*1e4000", "±±3", "e^e^e^e^e", "{1,2,3,4,5,6,7,8,9,10,11,12}", "matrix(1;2;3;4)", "a" * 3000]  # fmt: skip
        chance = random.Random(7)
        alphabet = "0123456789.,xyabHOe+-*/^()[]{}|!%° =<>\\_sincoltgm²½√±→"
        hostile += ["".join(chance.choices(alphabet, k=chance.randint(1, 30))) for _ in range(150)]
        for answer in answers:
            check(answer, "1 m")
            for response in hostile:
                with self.subTest(f"{answer['kind']} ← {response[:40]}"):
                    started = time.perf_counter()
                    verdict = check(answer, response)
                    self.assertLess(time.perf_counter() - started, 2)
                    self.assertIn(verdict.outcome, {RIGHT, PARTLY, WRONG, UNREADABLE, "blank"})
