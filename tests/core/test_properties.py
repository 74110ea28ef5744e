"""Properties that hold for everything that is drawn at random, checked against other ways to work it out."""

from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from unittest import TestCase

import mpmath
import sympy
from flint import arb, ctx, fmpq
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from vorlage.core.algebra import (
    Compiled,
    EvaluationError,
    RationalReader,
    Real,
    described,
    equivalent,
    rounded,
    rounded_significant,
    same_solutions,
)
from vorlage.core.algebra.kronecker import identical
from vorlage.core.algebra.symbolic import from_sympy, to_sympy
from vorlage.core.answers import check_case
from vorlage.core.notation import Name, Neg, Node, Number, Power, Product, Quotient, Relation, Sum, line, names_in, read

WHOLE = st.integers(0, 12).map(lambda value: Number(Fraction(value)))
LETTERS = st.sampled_from([Name("x"), Name("y")])


def grow(inner: st.SearchStrategy[Node]) -> st.SearchStrategy[Node]:
    pairs = st.tuples(inner, inner)
    return (
        pairs.map(Sum)
        | pairs.map(lambda two: Product(two, ("*",)))
        | inner.map(Neg)
        | st.tuples(inner, st.integers(1, 3)).map(lambda two: Power(two[0], Number(Fraction(two[1]))))
        | st.tuples(inner, st.integers(1, 9)).map(lambda two: Quotient(two[0], Number(Fraction(two[1]))))
    )


POLYNOMIALS = st.recursive(WHOLE | LETTERS, grow, max_leaves=8)


def by_flint(left: Node, right: Node) -> bool:
    reader = RationalReader(sorted(names_in(left) | names_in(right)))
    return reader.of(left).equals(reader.of(right))


class Identities(TestCase):
    @settings(max_examples=250)
    @given(POLYNOMIALS, POLYNOMIALS)
    def test_substitution_and_flint_decide_alike(self, left: Node, right: Node) -> None:
        found = identical(left, right)
        if found is not None:
            self.assertEqual(found, by_flint(left, right))

    @settings(max_examples=150)
    @given(POLYNOMIALS)
    def test_a_formula_answers_its_own_expansion_and_not_its_neighbour(self, tree: Node) -> None:
        verdict = check_case({"answer": {"kind": "formula", "key": line(tree)}, "response": line(tree)})
        self.assertEqual(verdict.outcome, "right")
        self.assertEqual(equivalent(tree, Sum((tree, Number(Fraction(1))))).kind, "refuted")

    @settings(max_examples=60)
    @given(st.integers(-5, 5), st.integers(1, 4), st.integers(-5, 5), st.integers(1, 4))
    def test_addition_theorems(self, a: int, b: int, c: int, d: int) -> None:
        left = read(f"sin(({a})x/{b} + ({c})y/{d})")
        right = read(f"sin(({a})x/{b}) cos(({c})y/{d}) + cos(({a})x/{b}) sin(({c})y/{d})")
        self.assertEqual(equivalent(left, right).kind, "proved")
        wrong = read(f"sin(({a})x/{b}) cos(({c})y/{d}) - cos(({a})x/{b}) sin(({c})y/{d})")
        if a and c:
            self.assertEqual(equivalent(left, wrong).kind, "refuted")


class Values(TestCase):
    @settings(max_examples=200)
    @given(st.integers(-(10**9), 10**9), st.integers(0, 6), st.integers(0, 5))
    def test_rounding_is_what_schools_teach(self, digits: int, places: int, wanted: int) -> None:
        value = Decimal(digits).scaleb(-places)
        expected = value.quantize(Decimal(1).scaleb(-wanted), rounding=ROUND_HALF_UP)
        self.assertEqual(rounded(fmpq(digits, 10**places), wanted), fmpq(*expected.as_integer_ratio()))

    @settings(max_examples=100)
    @given(st.integers(1, 10**9), st.integers(1, 10**6), st.integers(1, 6))
    def test_significant_figures_leave_so_many_figures(self, top: int, bottom: int, figures: int) -> None:
        near = rounded_significant(fmpq(top, bottom), figures)
        relative = abs(Fraction(int(near.p), int(near.q)) / Fraction(top, bottom) - 1)
        self.assertLessEqual(relative, Fraction(1, 2 * 10 ** (figures - 1)))

    def test_values_agree_with_mpmath(self) -> None:
        mpmath.mp.dps = 30
        for typed, expected in [
            ("sqrt(2) + pi", mpmath.sqrt(2) + mpmath.pi), ("e^2.5", mpmath.e**2.5), ("ln 7 / log 3", mpmath.log(7) / mpmath.log10(3)),
            ("sin(1) cos(2)", mpmath.sin(1) * mpmath.cos(2)), ("atan(3)", mpmath.atan(3)), ("root(5, 100)", mpmath.root(100, 5)),
            ("sinh(1) - tanh(2)", mpmath.sinh(1) - mpmath.tanh(2)), ("log_7 50", mpmath.log(50, 7)), ("acosh 4", mpmath.acosh(4)),
            ("2^sqrt(3)", mpmath.power(2, mpmath.sqrt(3))), ("sin(30°)+cos(45°)", mpmath.mpf("0.5") + mpmath.sqrt(2) / 2),
        ]:  # fmt: skip
            with self.subTest(typed):
                value = Compiled(read(typed)).value({})
                assert isinstance(value, Real)
                self.assertLess(
                    abs(mpmath.mpf(value.ball(128).mid().str(28, radius=False)) - expected), mpmath.mpf("1e-25")
                )


class RealSets(TestCase):
    @settings(max_examples=120)
    @given(
        st.lists(st.integers(-4, 4), min_size=2, max_size=5),
        st.sampled_from(["<", "<=", ">", ">=", "!=", "="]),
        st.integers(-20, 20),
    )
    def test_a_set_holds_exactly_the_points_where_its_inequality_does(
        self, coefficients: list[int], sign: str, tested: int
    ) -> None:
        text = " + ".join(
            f"({coefficient}) x^{power}" if power else f"({coefficient})"
            for power, coefficient in enumerate(coefficients)
        )
        statement = read(f"{text} {sign} 0")
        assume("x" in names_in(statement))
        try:
            found = described(statement).numbers
        except EvaluationError:
            assume(False)
        point = Fraction(tested, 3)
        value = sum(coefficient * point**power for power, coefficient in enumerate(coefficients))
        holds = {"<": value < 0, "<=": value <= 0, ">": value > 0, ">=": value >= 0, "!=": value != 0, "=": value == 0}[
            sign
        ]
        with ctx.workprec(320):
            ball = arb(fmpq(point.numerator, point.denominator))
            self.assertEqual(any(piece.contains(ball) for piece in found), holds)


class Keys(TestCase):
    @settings(max_examples=150)
    @given(
        st.integers(-999, 999),
        st.integers(1, 60),
        st.sampled_from(["exact", "relative", "decimal_places", "significant_figures"]),
    )
    def test_every_key_passes_its_own_check(self, top: int, bottom: int, mode: str) -> None:
        value = {"exact": "", "relative": "1%", "decimal_places": "2", "significant_figures": "3"}[mode]
        answer = {"kind": "number", "key": f"({top})/{bottom}", "tolerance": {"mode": mode, "value": value}}
        self.assertEqual(check_case({"answer": answer, "response": f"{top}/{bottom}"}).outcome, "right")


class SolvedEquations(TestCase):
    """An equation and what SymPy solves it to have the same solutions; a small change has not."""

    STEPS = ("{} + 3", "2*({})", "({})^3", "e^({})", "1/({})", "({} - 1)/4", "-({})", "5 - ({})")

    @settings(max_examples=60)
    @given(st.lists(st.sampled_from(STEPS), min_size=1, max_size=4))
    def test_solving_for_the_other_letter(self, steps: list[str]) -> None:
        formula = "x"
        for step in steps:
            formula = step.format(formula)
        tree = read(formula)
        y = sympy.Symbol("y", real=True)
        # the inverse, step by step, as SymPy solves each
        inverse = y
        for step in reversed(steps):
            inner = sympy.Symbol("u", real=True)
            undone = sympy.solve(to_sympy(read(step.format("u"))) - y, inner)
            assume(len(undone) == 1)
            inverse = undone[0].subs(y, inverse)
        solution = from_sympy(inverse)
        equation = Relation((Name("y"), tree), ("=",))
        solved = Relation((Name("x"), solution), ("=",))
        self.assertTrue(same_solutions(equation, solved).holds, f"y = {formula}, x = {line(solution)}")
        shifted = Relation((Name("x"), Sum((solution, Number(Fraction(1, 7))))), ("=",))
        self.assertFalse(same_solutions(equation, shifted).holds, f"y = {formula}, x = {line(solution)} + 1/7")
