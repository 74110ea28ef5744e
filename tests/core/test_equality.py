"""How equality is decided: proofs, pieces and their breaks, domains, precision, and keys that cannot be keys."""

from fractions import Fraction
from unittest import TestCase

from flint import fmpq

from vorlage.core.algebra import (
    OutOfSteps,
    allowed,
    equal_as_complex,
    equal_up_to,
    equivalent,
    everywhere_or_nowhere,
    has_values,
)
from vorlage.core.algebra.algebraic import same_number
from vorlage.core.algebra.breaks import breaks_of
from vorlage.core.algebra.equivalence import Comparison
from vorlage.core.algebra.trials import Chance, height, trials
from vorlage.core.algebra.waves import same_wave
from vorlage.core.answers import CaseError, check_case
from vorlage.core.notation import read

# key, answer
PROVED = [
    ("325 sin(100 pi t)", "325 cos(100 pi t - pi/2)"), ("2 sin(50t) cos(50t)", "sin(100t)"),
    ("sin(1000x)", "2 sin(500x) cos(500x)"), ("A sin(w t)", "A cos(w t - pi/2)"), ("e^(1000x)", "(e^x)^1000"),
    ("cos(x - pi/4)", "sqrt(2)/2 (cos x + sin x)"), ("cos(2pi/7) + cos(4pi/7) + cos(6pi/7)", "-1/2"),
    ("6^x", "2^x 3^x"), ("sinh(2x)", "2 sinh(x) cosh(x)"), ("tan(x/2)", "sin(x)/(1 + cos(x))"),
    ("(x+1)^5000", "(x+1)^4999 (x+1)"), ("(x^2 - y^2)^200000", "(x + y)^200000 (x - y)^200000"), ("(x y - y)^900/(x - 1)^899", "y^900 (x - 1)"),
    ("floor(x)", "-ceil(-x)"), ("mod(x, 7)", "x - 7 floor(x/7)"),
    ("max(x, y)", "(x + y + |x - y|)/2"), ("min(x, y)", "-max(-x, -y)"), ("|x|", "max(x, -x)"), ("x sgn(x)", "|x|"),
    ("|x^2 + 1|", "x^2 + 1"), ("sqrt(x^4 + 2x^2 + 1)", "x^2 + 1"), ("ln|x|", "ln(x^2)/2"), ("|sin x|", "sqrt(1 - cos(x)^2)"),
    ("|x + 4|", "if(x < -4, -4 - x, x + 4)"), ("if(x < 0, -1, 1) x", "x sgn(x)"),
    ("(n + 1)!/n!", "n + 1"), ("binomial(n, 2)", "n (n - 1)/2"), ("(-1)^n", "(-1)^(n + 2)"),
    ("asinh(x)", "ln(x + sqrt(x^2 + 1))"), ("y^n/(y/x)^n", "x^n"), ("cos(1/(1 + sqrt 2))", "cos(1 - sqrt 2)"),
    ("sin(3pi/5)", "sqrt(sqrt(5)/8 + 5/8)"), ("sqrt(6 sqrt 2 + 5 sqrt 3)", "3^(1/4) sqrt(2) + 3^(3/4)"),
]  # fmt: skip
# key, answer: each was once accepted, or is like one that was
REFUTED = [
    ("325 sin(100 pi t)", "0"), ("325 sin(100 pi t)", "230 sin(100 pi t)"), ("U sin(100 pi t)", "U sin(300 pi t)"),
    ("e^-t cos(10 pi t)", "e^-t cos(30 pi t)"), ("cos(2 pi n)", "1"), ("sin(10^6 x)", "0"), ("x + e^(-10^6 x)", "x"),
    ("|x + 4|", "x + 4"), ("|x - 10^6|", "10^6 - x"), ("|x - pi|", "x - pi"), ("|e^x - 2|", "e^x - 2"), ("|ln x|", "ln x"),
    ("|x y|", "x y"), ("|x^3 - x|", "x^3 - x"), ("|sin(100 pi t)|", "sin(100 pi t)"), ("max(x, y, z)", "max(x, y)"),
    ("if(x < 50, x, 2x)", "x"), ("sgn(x - 20)", "-1"), ("x |x|", "x^2"), ("sqrt(x^2 - 10000)", "sqrt(x - 100) sqrt(x + 100)"),
    ("floor(x)", "floor(x + 0.4)"), ("floor(x/57)", "0"), ("floor(100 x)", "floor(100 x + 0.01)"), ("mod(x, 60)", "x"),
    ("atan(tan x)", "x"), ("asin(sin x)", "x"), ("acos(cos x)", "x"), ("atan(x) + atan(1/x)", "pi/2"),
    ("ln|x|", "ln x"), ("ln|x|", "ln(-x)"), ("1 + ln|x|", "1 + ln x"), ("sin(ln|x|)", "sin(ln x)"), ("e^(2 ln|x|)", "e^(2 ln x)"),
    ("x^(2/3)", "sqrt(x)^(4/3)"), ("ln(x^4)", "4 ln x"), ("sqrt(x - 3)", "sqrt(x - 3) sgn(x - 4)"),
    ("x", "x + x/10^200"), ("x", "x + 10^-700"), ("sqrt(2) x", "sqrt(2) x + 10^-700 sin x"),
    ("sqrt(2)^2", "2 + 10^-900"), ("7 x", "7 x (sqrt(5 + 2 sqrt 6) - sqrt 2 - sqrt 3)/(sqrt(5 + 2 sqrt 6) - sqrt 2 - sqrt 3)"),
    ("sin x", "sin(x) (2 cos(pi/3) - 1)/(2 cos(pi/3) - 1)"),
    ("7", "7 ((x+1)^5000/(x+1)^4999 - x - 1)/((x+1)^5000/(x+1)^4999 - x - 1)"), ("cos(2pi/7)", "cos(2pi/9)"),
]  # fmt: skip


class Proofs(TestCase):
    def test_what_a_complete_method_decides_is_proved(self) -> None:
        for key, answer in PROVED:
            with self.subTest(f"{key} = {answer}"), allowed(100_000):
                self.assertEqual(equivalent(read(key), read(answer)).kind, "proved")

    def test_waves_are_decided_both_ways(self) -> None:
        self.assertIs(same_wave(read("sin(100t)"), read("sin(101t)"), "radians"), False)
        self.assertIs(same_wave(read("sin(x)"), read("cos(x - 90)"), "degrees"), True)
        self.assertIs(same_wave(read("sin(x + 30°)"), read("cos(60 - x)"), "degrees"), True)
        self.assertIs(same_wave(read("sin(x + 30°)"), read("cos(pi/3 - x)"), "radians"), True)
        self.assertIs(same_wave(read("|sin x|"), read("sin x"), "radians"), None)
        self.assertIs(same_wave(read("x + 1"), read("x"), "radians"), None)
        self.assertIs(same_wave(read("sin(1/x)"), read("sin(1/x)"), "radians"), None)

    def test_numbers_made_of_roots(self) -> None:
        self.assertIs(same_number(read("sqrt(5 + 2 sqrt 6)"), read("sqrt 2 + sqrt 3 + 10^-300"), "radians"), False)
        self.assertIs(same_number(read("2 cos(36°) - 1"), read("1/(2 cos(36°))"), "radians"), True)
        self.assertIs(same_number(read("cos(36)"), read("(1 + sqrt 5)/4"), "degrees"), True)
        self.assertIs(same_number(read("pi"), read("22/7"), "radians"), None)

    def test_complex_numbers(self) -> None:
        self.assertTrue(equal_as_complex(read("2 sqrt(-1)"), read("sqrt(-4)")).holds)
        self.assertFalse(equal_as_complex(read("2"), read("2 + 10^-300 + 10^-300 sqrt(-1)")).holds)


class Refutations(TestCase):
    def test_what_is_wrong_somewhere_is_refuted_there(self) -> None:
        for key, answer in REFUTED:
            with self.subTest(f"{key} ≠ {answer}"), allowed(100_000):
                found = equivalent(read(key), read(answer))
                self.assertEqual(found.kind, "refuted")
                letters = "xyztnU"
                self.assertTrue(
                    found.witness
                    or not any(name in key + answer for name in letters)
                    or "pi/7" in key
                    or key == "sqrt(2)^2"
                )

    def test_the_witness_of_a_domain_has_a_value_of_the_key_only(self) -> None:
        found = equivalent(read("ln|x|"), read("ln x"))
        self.assertLess(dict(found.witness)["x"], 0)
        self.assertIsNotNone(found.key_value)
        self.assertIsNone(found.response_value)

    def test_up_to_a_constant_the_domain_counts_as_well(self) -> None:
        for key, answer, holds in [
            ("ln|x|", "ln|x| + C", True), ("ln|x|", "ln|3x|", True), ("ln|x|", "ln x + C", False),
            ("sin(x)^2", "-cos(2x)/2 + 7", True), ("sin(100 x)", "sin(100 x) + x/10^9", False), ("x^2", "x^2 + C x", False),
        ]:  # fmt: skip
            with self.subTest(f"{key} ~ {answer}"):
                self.assertEqual(equal_up_to(Comparison(read(key), read(answer)), "constant").holds, holds)

    def test_relations_between_letters_are_minded(self) -> None:
        self.assertTrue(equivalent(read("x^2"), read("x"), [read("x = 1")]).holds)
        self.assertFalse(equivalent(read("x^2"), read("x"), [read("x > 0")]).holds)
        self.assertTrue(equivalent(read("|x - y|"), read("x - y"), [read("x > y")]).holds)


class Pieces(TestCase):
    def breaks(self, text: str) -> list[float]:
        found = breaks_of([read(text)], "t", [fmpq(1)], "radians")
        return [int(place.p) / int(place.q) for place in found.places]

    def test_breaks_of_polynomials_are_exact(self) -> None:
        self.assertEqual(self.breaks("|t^2 - 4| + sqrt(t - 1/3)"), [-2, 1 / 3, 2])
        self.assertTrue(breaks_of([read("|t^2 - 5|")], "t", [fmpq(1)], "radians").exact)
        self.assertFalse(breaks_of([read("|t - pi|")], "t", [fmpq(1)], "radians").exact)

    def test_breaks_that_are_sought(self) -> None:
        for text, place in [("|e^t - 2|", 0.6931471805599453), ("|e^t - 10^400|", 921.0340371976183), ("|normal_cdf(t) - 0.3|", -0.5244005127080407), ("|ln t - 3|", 20.085536923187668), ("sqrt(sin(t)^2)", 3.141592653589793),
                            ("|t - pi|", 3.141592653589793)]:  # fmt: skip
            with self.subTest(text):
                self.assertLess(min(abs(found - place) for found in self.breaks(text)), 1e-6)

    def test_points_are_the_same_for_ever_and_lie_in_every_piece(self) -> None:
        tree = read("|x| + |x - 1|")
        first, again = (trials([tree], ["x"], "radians") for _ in range(2))
        pieces = list(first.pieces)
        self.assertEqual(pieces, list(again.pieces))
        self.assertEqual(len(pieces), 3)
        for piece, inside in zip(pieces, [lambda x: x < 0, lambda x: 0 < x < 1, lambda x: x > 1]):
            self.assertTrue(piece and all(inside(point["x"]) for point in piece))
        self.assertNotEqual(Chance("a").unit(), Chance("b").unit())

    def test_precision_follows_the_literals(self) -> None:
        self.assertGreater(height(read("x + 10^-700")), 2300)
        self.assertLess(height(read("3x^2 + 1")), 20)
        with self.assertRaises(OutOfSteps):
            height(read("x + 9^9^9^9"))


class Keys(TestCase):
    def test_what_cannot_be_a_key_is_told(self) -> None:
        for answer in [
            {"kind": "equation", "key": "2*8 = 16"}, {"kind": "equation", "key": "x^2 = -1"}, {"kind": "equation", "key": "x = x"},
            {"kind": "equation", "key": "sin(x)^2 + cos(x)^2 = 1"}, {"kind": "equation", "key": "e^x = -1"},
            {"kind": "equation", "key": "|x| = -1"}, {"kind": "equation", "key": "sqrt(x) = -2"}, {"kind": "equation", "key": "1/0 = x"},
            {"kind": "inequality", "key": "y > |x|"}, {"kind": "inequality", "key": "x + y > x + y"},
            {"kind": "formula", "key": "sqrt(-1 - x^2)"}, {"kind": "formula", "key": "1/0"},
            {"kind": "text", "accept": [".*"], "match": "pattern"}, {"kind": "text", "accept": [" "]},
            {"kind": "conditions", "key": "27", "relations": ["r mod 7 = 0"]},
            {"kind": "conditions", "key": "3", "relations": ["r mod 7"]}, {"kind": "conditions", "key": "3", "relations": ["s > 1"]},
            {"kind": "number", "key": "2", "tolerance": {"mode": "between", "value": ["3", "1"]}},
            {"kind": "number", "key": "2", "limits": [{"rule": "pattern", "pattern": "("}]},
            {"kind": "number", "key": "2", "limits": [{"rule": "between"}]}, {"kind": "number", "key": "2", "limits": [{"rule": "pattern"}]},
        ]:  # fmt: skip
            with self.subTest(str(answer)), self.assertRaises(CaseError):
                check_case({"answer": answer, "response": "1"})

    def test_what_can_be_one_is_not_refused(self) -> None:
        for text in [
            "x = 1",
            "x^2 = 4",
            "x = 1 or x = 2",
            "y = e^x",
            "sin(x) = 1/2",
            "ln y = x",
            "x^2 + y^2 = 1",
            "|x| = 3",
        ]:
            with self.subTest(text):
                self.assertEqual(everywhere_or_nowhere(read(text)), "")
        self.assertEqual(everywhere_or_nowhere(read("x^2 = -1"), complex_numbers=True), "")
        self.assertTrue(has_values(read("sqrt(x - 5000)")))
        self.assertTrue(has_values(read("ln(x - y)"), [read("x > y")]))


class Verdicts(TestCase):
    def test_another_reading_is_said_with_its_brackets(self) -> None:
        said = check_case({"answer": {"kind": "formula", "key": "cos(x)/2"}, "response": "cos x/2"}).as_json()
        self.assertTrue(said["ambiguous"])
        self.assertIn("If you mean cos(x/2), write it with brackets.", said["feedback"][-1])
        for response in ["cos(x)/2", "cos x / 2", "1/2 cos x"]:
            self.assertFalse(
                check_case({"answer": {"kind": "formula", "key": "cos(x)/2"}, "response": response}).ambiguity
            )

    def test_codes_are_for_programs(self) -> None:
        near = {"kind": "number", "key": "12", "bands": [{"tolerance": {"mode": "absolute", "value": "1"}}],
                "slips": [{"key": "24"}], "recognise": ["sign"], "written": {"form": "integer"}}  # fmt: skip
        metres = {"kind": "quantity", "key": "12", "unit": "m"}
        for answer, response, code in [
            (near, "12", "key"), (near, "12.5", "band"), (near, "24", "slip"), (near, "-12", "sign"), (near, "12.0", "written"),
            (near, "7", "wrong"), (near, "", "blank"), (near, "x", "unknown_name"), (metres, "12", "unit_missing"),
            (metres, "12 s", "dimension"), (metres, "12 km", "unit"), ({"kind": "essay"}, "so", "by_hand"),
            (
                {"kind": "formula", "key": "(3x + 1)^20001"},
                "(3x + 1)^20001 (sin(x)^2 + cos(x)^2)",
                "too_costly",
            ), ({"kind": "quantity", "key": "1", "unit": "m/s"}, "1 ms^-1", "two_readings"),
        ]:  # fmt: skip
            with self.subTest(f"{response} {code}"):
                self.assertEqual(check_case({"answer": answer, "response": response}).as_json()["code"], code)

    def test_a_check_takes_the_same_steps_every_time(self) -> None:
        used = set()
        for _ in range(3):
            with allowed(10**9) as allowance:
                check_case(
                    {
                        "answer": {"kind": "formula", "key": "|sin(3x)| + ln(x + 4)"},
                        "response": "|sin(3x)| + ln(x + 4.1)",
                    }
                )
            used.add(10**9 - allowance.left)
        self.assertEqual(len(used), 1)
        self.assertGreater(used.pop(), 100)

    def test_a_negative_share_is_kept_and_told_from_none(self) -> None:
        pairs = {"kind": "match", "pairs": [{"left": "a", "right": "1", "share": "1/2"}, {"left": "b", "right": "2"},
                                            {"left": "c", "right": "3", "share": "-1/4"}], "distractors": ["4"], "cost": "1/8"}  # fmt: skip
        for response, share, outcome in [
            ({"1": 1, "2": 2}, Fraction(1), "right"), ({"1": 1, "2": 2, "3": 3}, Fraction(3, 4), "partly"),
            ({"3": 3}, Fraction(-1, 4), "wrong"), ({"1": 2}, Fraction(-1, 8), "wrong"),
        ]:  # fmt: skip
            verdict = check_case({"answer": pairs, "response": response})
            self.assertEqual((verdict.share, verdict.outcome), (share, outcome))
        retried = check_case({"answer": pairs, "response": {"3": 3}, "attempt": 2, "retry_cost": "1/2"})
        self.assertEqual(retried.share, Fraction(-1, 4))
