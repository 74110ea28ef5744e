"""No wrong answer is accepted: right ones with one thing made wrong, and identities with one side made wrong."""

import random
from collections import Counter
from unittest import TestCase

import sympy

from vorlage.core.algebra import EvaluationError, equivalent
from vorlage.core.algebra.symbolic import from_sympy, to_sympy
from vorlage.core.notation import Node, line, read, walk
from vorlage.operations.perturbing import altered, differs, exchanged, faults, keys

HYPERBOLIC = (sympy.sinh, sympy.cosh, sympy.tanh)
# Longer than this, floats lose all their figures.
LONGEST = 400
REWRITTEN = {
    "expand": sympy.expand,
    "factor": sympy.factor,
    "together": sympy.together,
    "apart": lambda formula: sympy.apart(formula, *sorted(formula.free_symbols, key=str)[:1]),
    "expand_trig": sympy.expand_trig,
    "expand_log": sympy.expand_log,
    "logcombine": sympy.logcombine,
    "powsimp": sympy.powsimp,
    "trigsimp": sympy.trigsimp,
    "as exponentials": lambda formula: formula.rewrite(sympy.exp) if formula.has(*HYPERBOLIC) else formula,
    "as tangents": lambda formula: formula.rewrite(sympy.tan),
    "as cosines": lambda formula: formula.rewrite(sympy.cos),
    "as sines": lambda formula: formula.rewrite(sympy.sin),
    "squared and back": lambda formula: sympy.expand(formula**2) / formula,
    "the other way round": lambda formula: 1 / sympy.together(1 / formula),
}


def identities() -> list[tuple[str, Node, Node]]:
    """Formulas of schools as SymPy writes them otherwise: the name of the way, and both sides."""
    found: dict[tuple[str, str], tuple[str, Node, Node]] = {}
    for key in keys():
        tree = read(key)
        try:
            formula = to_sympy(tree)
        except (EvaluationError, TypeError, ValueError):
            continue
        for name, way in REWRITTEN.items():
            try:
                other = way(formula)
                if other.has(sympy.I, sympy.Piecewise, sympy.zoo, sympy.nan):
                    continue
                rewritten = from_sympy(other)
            except (EvaluationError, NotImplementedError, sympy.PolynomialError, AttributeError):
                continue
            if line(rewritten) != line(tree) and len(line(rewritten)) < LONGEST:
                found[key, line(rewritten)] = (name, tree, rewritten)
    return list(found.values())


class Perturbed(TestCase):
    def test_no_right_answer_with_one_thing_made_wrong_is_accepted(self) -> None:
        self.assertEqual(faults(5_000, 0), [])

    def test_a_dropped_bar_a_rate_and_a_prefix_are_among_what_is_tried(self) -> None:
        chance = random.Random(3)
        tree = read("|x + 4|")
        seen = {line(exchanged(tree, node, altered(node, chance))) for node in walk(tree) for _ in range(60)}
        self.assertLessEqual({"x + 4", "abs(10*(x + 4))", "abs(x)", "-abs(x + 4)", "abs(x - 4)"}, seen)


class Identities(TestCase):
    def test_true_ones_are_proved_and_false_ones_refuted(self) -> None:
        found = identities()
        kinds: Counter[str] = Counter()
        falsified = 0
        chance = random.Random(1)
        for name, left, right in found:
            with self.subTest(f"{line(left)} = {line(right)} ({name})"):
                # what SymPy takes for granted of complex numbers need not hold over the reals
                if differs(left, right, chance):
                    continue
                certainty = equivalent(left, right)
                self.assertTrue(certainty.holds)
                kinds[certainty.kind] += 1
                places = list(walk(right))
                for _ in range(3):
                    old = chance.choice(places)
                    wrong = exchanged(right, old, altered(old, chance))
                    if differs(left, wrong, chance):
                        falsified += 1
                        self.assertFalse(equivalent(left, wrong).holds, line(wrong))
        self.assertGreater(kinds["proved"], 150)
        self.assertGreater(falsified, 250)
        self.assertLess(kinds["agrees"], kinds["proved"] / 50)
