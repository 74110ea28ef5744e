"""Values, rounding and equivalence: tables like a page of a textbook, and SymPy as a second opinion."""

import random
import resource
import signal
from fractions import Fraction
from unittest import TestCase, mock

import sympy
from flint import fmpq

from vorlage.core.algebra import (
    Compiled,
    Condition,
    EvaluationError,
    Real,
    TooCostly,
    approximate,
    compare,
    equivalent,
    rounded,
    rounded_significant,
    start_helper,
    symbolic_value,
    value_tree,
)
from vorlage.core.algebra.helper import HELPERS, MAXIMUM_STEPS, TOO_COSTLY, Helper
from vorlage.core.algebra.helper_server import PROCESSOR_SECONDS
from vorlage.core.algebra.symbolic import to_sympy
from vorlage.core.budget import budgeted
from vorlage.core.draws import Declaration, Drawing, Parameters
from vorlage.core.notation import Node, Settings, line, read

# key, answer, how it is decided
EQUAL = [
    ("(x+1)(x-2)", "x^2 - x - 2", "proved"), ("x + 1", "(x^2 - 1)/(x - 1)", "proved"),
    ("1/(x+1) + 1/(x-1)", "2x/(x^2-1)", "proved"), ("(a+b)/c", "a/c + b/c", "proved"),
    ("sin(x)^2 + cos(x)^2", "1", "proved"), ("sin(2x)", "2 sin x cos x", "proved"),
    ("cos(2x)", "1 - 2 sin^2 x", "proved"), ("tan x", "sin x / cos x", "proved"),
    ("sin(3x)", "3 sin x - 4 sin^3 x", "proved"), ("sin(x/2)^2", "(1 - cos x)/2", "proved"),
    ("sin(x+y)", "sin x cos y + cos x sin y", "proved"), ("sin(pi/3)", "sqrt(3)/2", "proved"),
    ("sin(pi/2 - x)", "cos x", "proved"), ("tan(x)^2 + 1", "sec(x)^2", "proved"),
    ("tan(x/2)", "sin(x)/(1 + cos(x))", "proved"), ("cos(15°)", "(sqrt 6 + sqrt 2)/4", "proved"),
    ("2 ln x", "ln(x^2)", "proved"), ("ln(x^2)", "2 ln abs(x)", "proved"), ("ln(1/x)", "-ln x", "proved"),
    ("log_2 x", "ln x / ln 2", "proved"), ("ln(e^x)", "x", "proved"), ("exp(ln x)", "x", "proved"),
    ("2^(x+1)", "2*2^x", "proved"), ("4^x", "2^(2x)", "proved"), ("e^(x+1)", "e e^x", "proved"),
    ("sqrt 8", "2 sqrt 2", "proved"), ("1/sqrt 2", "sqrt(2)/2", "proved"), ("sqrt(12x)", "2 sqrt(3x)", "proved"),
    ("sqrt(x^2)", "abs(x)", "proved"), ("x^(3/2)", "x sqrt x", "proved"), ("root(3, x^3)", "x", "proved"),
    ("sqrt(x^2 + 2x + 1)", "|x + 1|", "proved"), ("(sqrt 5 + 1)/2", "2/(sqrt 5 - 1)", "proved"),
    ("sqrt(x) sqrt(x)", "x", "proved"), ("cosh(x)^2 - sinh(x)^2", "1", "proved"), ("|x|^2", "x^2", "proved"),
    ("asin x + acos x", "pi/2", "proved"), ("atan(-x)", "-atan x", "proved"),
    ("asin(1/2)", "pi/6", "proved"), ("sin(asin x)", "x", "proved"), ("sin(2 atan x)", "2x/(1+x^2)", "proved"),
    ("ln x - ln y", "ln(x/y)", "proved"), ("sin(5x)", "16 sin(x)^5 - 20 sin(x)^3 + 5 sin x", "proved"),
    ("sqrt(3 + 2 sqrt 2)", "1 + sqrt 2", "proved"), ("atan(1)", "pi/4", "proved"),
]  # fmt: skip
UNEQUAL = [
    ("x^2 + 1", "x^2 - 1"), ("ln(x^2)", "2 ln x"), ("x", "sqrt(x)^2"), ("x^2", "e^(2 ln x)"), ("ln(x y)", "ln x + ln y"),
    ("sqrt(x y)", "sqrt x sqrt y"), ("sqrt(x^2)", "x"), ("(a+b)^2", "a^2 + b^2"), ("sin(2x)", "2 sin x"),
    ("1/(a+b)", "1/a + 1/b"), ("x", "x + 1e-30"), ("2^x", "x^2"), ("sqrt(x^2+1)", "x + 1"), ("x", "y"),
    ("ln((x+1)/(x-1))", "ln(x+1) - ln(x-1)"), ("(x+y+z)^5000", "x"), ("1", "x/0"),
]  # fmt: skip


HELPER = HELPERS.all[0]


class Equivalence(TestCase):
    def test_equal_formulas(self) -> None:
        for key, answer, kind in EQUAL:
            with self.subTest(f"{key} = {answer}"):
                self.assertEqual(equivalent(read(key), read(answer)).kind, kind)

    def test_unequal_formulas_are_refuted(self) -> None:
        for key, answer in UNEQUAL:
            with self.subTest(f"{key} ≠ {answer}"):
                self.assertEqual(equivalent(read(key), read(answer)).kind, "refuted")

    def test_a_witness_can_be_checked_by_hand(self) -> None:
        found = equivalent(read("x^2 + 1"), read("x^2 - 1"))
        self.assertEqual(found.witness, (("x", Fraction(2)),))
        self.assertEqual((found.key_value, found.response_value), ("5", "3"))

    def test_where_narrows_the_domain(self) -> None:
        for key, answer, where in [
            ("ln(x^2)", "2 ln x", "x > 0"), ("sqrt(x^2)", "x", "x >= 0"), ("sqrt(x^2)", "-x", "x < 0"),
            ("sqrt(x y)", "sqrt x sqrt y", "x > 0; y > 0"), ("|x - 1|", "x - 1", "x > 1"),
        ]:  # fmt: skip
            with self.subTest(key):
                relations = [read(relation) for relation in where.split(";")]
                self.assertTrue(equivalent(read(key), read(answer), relations).holds)

    def test_sympy_agrees_on_random_expressions(self) -> None:
        """Expanding with SymPy keeps an expression equal; a changed coefficient makes it unequal."""
        chance = random.Random(1887)
        for _ in range(60):
            tree = random_polynomial(chance)
            expanded = read(str(sympy.expand(to_sympy(tree))))
            self.assertEqual(equivalent(tree, expanded).kind, "proved", line(tree))
            other = read(f"{line(expanded)} + x/{chance.randint(2, 9)}")
            self.assertEqual(equivalent(tree, other).kind, "refuted", line(tree))


def random_polynomial(chance: random.Random) -> Node:
    def factor() -> str:
        a, b = chance.randint(-9, 9), chance.randint(1, 9)
        return f"({a}*{chance.choice('xyz')} + {b}*{chance.choice('xyz')}^{chance.randint(1, 3)} - {b})"

    return read(" * ".join(factor() for _ in range(chance.randint(1, 4))))


class Values(TestCase):
    def test_exact_values(self) -> None:
        for typed, value in [
            ("0.1 + 0.2", fmpq(3, 10)), ("2^-3", fmpq(1, 8)), ("sqrt(9/4)", fmpq(3, 2)), ("8^(1/3)", fmpq(2)),
            ("(-8)^(1/3)", fmpq(-2)), ("5!", fmpq(120)), ("choose(5, 2)", fmpq(10)), ("gcd(12, 18)", fmpq(6)),
            ("mod(-7, 3)", fmpq(2)), ("log_2 8", fmpq(3)), ("2 1/2", fmpq(5, 2)), ("45%", fmpq(9, 20)),
            ("median(3, 1, 2)", fmpq(2)), ("round(2.5)", fmpq(3)), ("round(-2.5)", fmpq(-3)), ("if(2 < 3, 1, 0)", fmpq(1)),
        ]:  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(Compiled(read(typed)).value({}), value)

    def test_formulas_without_a_value_say_why(self) -> None:
        for typed, code in [("1/0", "division_by_zero"), ("sqrt(-1)", "undefined"), ("ln 0", "undefined"), ("x", "unknown_name"),
                            ("9^9^9^9", "too_large"), ("2000!", "too_large"), ("tan(90°)", "undefined")]:  # fmt: skip
            with self.subTest(typed), self.assertRaises(EvaluationError) as caught:
                Compiled(read(typed), "degrees").value({})
            self.assertEqual(caught.exception.code, code)

    def test_irrational_values_compare_exactly(self) -> None:
        root = Compiled(read("sqrt 2")).value({})
        self.assertIsInstance(root, Real)
        self.assertEqual(compare(root, Compiled(read("sqrt(8)/2")).value({})), 0)
        self.assertEqual(compare(root, fmpq(14142135623730951, 10**16)), -1)
        half = Compiled(read("sin(30)"), "degrees").value({})
        self.assertEqual(compare(half, fmpq(1, 2)), 0)

    def test_rounding_goes_half_away_from_zero(self) -> None:
        for value, places, expected in [("2.5", 0, "3"), ("-2.5", 0, "-3"), ("0.125", 2, "0.13"), ("1234", -2, "1200"),
                                        ("2.675", 2, "2.68"), ("1.005", 2, "1.01")]:  # fmt: skip
            with self.subTest(value):
                self.assertEqual(rounded(exact(value), places), exact(expected))
        for value, figures, expected in [
            ("21.952", 3, "22.0"),
            ("0.0012345", 2, "0.0012"),
            ("999.9", 3, "1000"),
            ("0", 3, "0"),
        ]:
            with self.subTest(value):
                self.assertEqual(rounded_significant(exact(value), figures), exact(expected))

    def test_conditions(self) -> None:
        for typed, holds in [
            ("1 < 2 <= 2", True),
            ("gcd(4, 6) = 1", False),
            ("2 = 3 or 1 < 2", True),
            ("sqrt 2 > 1.41", True),
        ]:
            with self.subTest(typed):
                self.assertEqual(Condition(read(typed)).holds({}), holds)


def exact(text: str) -> fmpq:
    value = Compiled(read(text)).value({})
    assert isinstance(value, fmpq)
    return value


class Symbolic(TestCase):
    def test_author_functions(self) -> None:
        for typed, shown in [
            ("expand((x - a)(x - b))", "x^2 - 5 x + 6"), ("factor(x^2 - a^2)", "(x + 2) (x - 2)"),
            ("diff(a x^3, x)", "6 x^2"), ("integral(b x^2, x)", "x^3"), ("(x - a)(x + b)", "(x - 2) (x + 3)"),
            ("substitute(x^2, x, a)", "4"), ("simplify(pi*a*b/4)", "3 pi/2"),
            ("sum(k^2, k, 1, b)", "14"), ("product(k, k, 1, 4)", "24"), ("limit(sin(x)/x, x, 0)", "1"),
            ("factor(sum(k, k, 1, n))", "n (n + 1)/2"), ("integral(x, x, 0, a)", "2"),
        ]:  # fmt: skip
            with self.subTest(typed):
                value = symbolic_value(read(typed), {"a": fmpq(2), "b": fmpq(3)}, "radians")
                self.assertEqual(line(value_tree(value)), shown)


class Powers(TestCase):
    def test_small_bases_to_every_small_power(self) -> None:
        program = Compiled(read("b^n"))
        for base in (-2, -1, 0, 1, 2, Fraction(1, 2), Fraction(-2, 3)):
            for exponent in range(-6, 7):
                if base == 0 and exponent <= 0:
                    continue
                with self.subTest(f"{base}^{exponent}"):
                    value = Fraction(base) ** exponent
                    found = program.value(
                        {"b": fmpq(Fraction(base).numerator, Fraction(base).denominator), "n": fmpq(exponent)}
                    )
                    self.assertEqual(found, fmpq(value.numerator, value.denominator))


class Bounds(TestCase):
    """Symbolic work that would not end is ended, and the next work is done all the same."""

    def test_steps_size_and_crashes(self) -> None:
        for text, code in [
            ("integral(sin(x^3+x)^5 e^(x^2) ln(x+1), x)", "too_costly"),
            ("factor((x^2+y^2+z^2+1)^12-1)", "too_costly"),
            ("simplify((x+y+sqrt(z))^40)", "too_costly"),
            ("solve(x^5 - x - 1 = 0, x)", "no_symbolic"),
            ("limit(floor(x), x, 0)", "no_symbolic"),
        ]:
            with self.subTest(text):
                with self.assertRaises(EvaluationError) as caught:
                    symbolic_value(read(text), {}, "radians")
                self.assertEqual(caught.exception.code, code)
        HELPER.ask("factor", (read("x^2 - 1"),), MAXIMUM_STEPS)
        assert HELPER.process is not None
        HELPER.process.kill()
        HELPER.process.wait()
        self.assertEqual(line(self.asked("factor", "x^2 - 4")), "(x + 2) (x - 2)")

    def asked(self, name: str, text: str) -> Node:
        answer, _ = HELPER.ask(name, (read(text),), MAXIMUM_STEPS)
        assert isinstance(answer, Node)
        return answer

    def test_no_operation_takes_more_than_a_part_of_what_a_request_may(self) -> None:
        slow = read("integral(sin(x^3 + 1) exp(x^2)/ln(x + 1), x)")
        with budgeted(400_000, 60) as budget, self.assertRaises(TooCostly):
            symbolic_value(slow, {}, "radians")
        self.assertTrue(50_000 < 400_000 - budget.left < 150_000, budget.left)
        # it is known now to take so much, and more is asked only where more is allowed
        with mock.patch.object(Helper, "ask", side_effect=AssertionError("it was asked again")):
            with budgeted(400_000, 60), self.assertRaises(TooCostly):
                symbolic_value(slow, {}, "radians")

    def test_what_is_too_large_is_found_before_the_work_begins(self) -> None:
        with mock.patch.object(HELPERS, "ask", side_effect=AssertionError("the work was begun")):
            for text in ["expand((x+y+sqrt(z))^60)", "expand(((((x+sqrt(y))^200)^200)^200)^200)", "expand((x+y+z)^200)",
                         "expand((sqrt(x)+1)^30 (sqrt(y)+1)^30 (sqrt(z)+1)^30)", "expand(sin((x+y+sqrt(z))^60))"]:  # fmt: skip
                with self.subTest(text):
                    with self.assertRaises(EvaluationError) as caught:
                        symbolic_value(read(text), {}, "radians")
                    self.assertEqual(caught.exception.code, "too_large")

    def test_steps_are_the_same_whatever_was_done_before(self) -> None:
        asked = [
            ("integral", (read("x e^x sin(x)"), read("x"))),
            ("factor", (read("x^30 - y^30"),)),
            ("simplify", (read("sin(x)^2 + cos(x)^2"),)),
        ]
        first = [HELPER.ask(*each, MAXIMUM_STEPS) for each in asked]
        again = [HELPER.ask(*each, MAXIMUM_STEPS) for each in reversed(asked)][::-1]
        HELPER.stop()
        afresh = [HELPER.ask(*each, MAXIMUM_STEPS) for each in asked]
        self.assertEqual([steps for _, steps in first], [steps for _, steps in again])
        self.assertEqual(first, afresh)
        self.assertTrue(all(0 < steps < MAXIMUM_STEPS for _, steps in first))

    def test_it_can_be_started_before_there_is_work(self) -> None:
        HELPER.stop()
        start_helper()
        assert HELPER.process is not None
        process = HELPER.process
        HELPER.ask("factor", (read("x^2 - 25"),), MAXIMUM_STEPS)
        self.assertIs(HELPER.process, process)

    def test_what_is_not_counted_is_ended_by_the_processors_clock(self) -> None:
        HELPER.ask("factor", (read("x^3 - 1"),), MAXIMUM_STEPS)
        process = HELPER.running()
        soft, _ = resource.prlimit(process.pid, resource.RLIMIT_CPU)
        used = resource.getrusage(resource.RUSAGE_CHILDREN).ru_utime + 60
        self.assertTrue(0 < soft < used + PROCESSOR_SECONDS, soft)
        # this is what the system does then
        process.send_signal(signal.SIGXCPU)
        process.wait()
        with mock.patch.object(HELPER, "running", return_value=process):
            self.assertEqual(HELPER.ask("factor", (read("x^3 - 2"),), MAXIMUM_STEPS), (TOO_COSTLY, MAXIMUM_STEPS))
        self.assertEqual(line(self.asked("factor", "x^2 - 9")), "(x + 3) (x - 3)")

    def test_one_slow_draw_is_enough(self) -> None:
        rows = [Declaration("a", "2..9"), Declaration("F", "integral(sin(x^a+x)^5 e^(x^2) ln(x+1), x)")]
        drawing = Drawing(Parameters(rows, []), "slow", 1)
        with mock.patch.object(HELPERS, "ask", wraps=HELPERS.ask) as asked:
            problems = [drawing.draw(number).problems for number in range(1, 9)]
        self.assertEqual(asked.call_count, 1)
        self.assertTrue(all("too many steps" in problem["F"] for problem in problems))


class Solutions(TestCase):
    def test_solve_gives_the_real_solutions_in_order(self) -> None:
        for text, solutions in [
            ("solve(x^2 - 5x + 6 = 0, x)", "{2, 3}"), ("solve(x^2 = 2, x)", "{-sqrt(2), sqrt(2)}"), ("solve(x^2 + 1, x)", "{}"),
            ("solve(a x + b = 0, x)", "{-b/a}"), ("solve(e^x = 5, x)", "{ln(5)}"), ("solve(2^(x+1) = 8, x)", "{2}"),
        ]:  # fmt: skip
            with self.subTest(text):
                found = symbolic_value(read(text), {}, "radians")
                self.assertEqual(line(found) if isinstance(found, Node) else found, solutions)

    def test_statistics(self) -> None:
        named = Settings(names=frozenset(["d"]))
        for text, value in [
            ("mean(d)", "14/5"), ("median(d)", "3"), ("variance(d)", "64/25"), ("stdev(d)", "8/5"), ("quantile(d, 1/4)", "1"),
            ("quantile(d, 0.9)", "23/5"), ("max(d) - min(d)", "4"), ("binomial_pmf(3, 10, 0.5)", "15/128"),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(str(Compiled(read(text, named)).value({"d": read("list(3,1,4,1,5)")})), value)
        cumulated = Compiled(read("normal_cdf(85, 115, 100, 15)")).value({})
        self.assertAlmostEqual(approximate(cumulated), 0.6826894921370859, places=12)
