"""From fixed questions to varying ones: the formulas that are found, the ranges that are proposed, what is said."""

import tomllib
from pathlib import Path
from unittest import TestCase

from tests.counting import calls
from vorlage.core.algebra import equivalent
from vorlage.core.draws import Range, read_definition
from vorlage.core.notation import Settings
from vorlage.core.questions import Proposal, Unusable, propose
from vorlage.core.questions.varying import found_numbers, read_named

QUESTIONS = tomllib.loads((Path(__file__).parent.parent / "varying/questions.toml").read_text("utf-8"))["question"]


class Formulas(TestCase):
    def test_textbook_questions(self) -> None:
        self.assertGreaterEqual(len(QUESTIONS), 30)
        for text, answer, wanted in QUESTIONS:
            with self.subTest(text):
                proposals: list[Proposal] = []
                self.assertLess(calls(lambda: proposals.append(propose(text, answer))), 6_000_000)  # noqa: B023
                found = [formula.formula for formula in proposals[0].formulas]
                tree = read_named(wanted)
                self.assertTrue(
                    any(equivalent(read_named(formula), tree, (), "degrees").holds for formula in found[:3]), found
                )

    def test_every_formula_gives_the_answer(self) -> None:
        for formula in propose("A boat travels 120 m in 15 s and rests for 30 s.", "8 m/s").formulas:
            with self.subTest(formula.formula):
                self.assertAlmostEqual(float(formula.value), 8, delta=0.5)

    def test_nothing_and_several_are_said(self) -> None:
        self.assertIn("No formula was found", propose("Nobody knows 17 and 25.", "1234.567").note)
        self.assertIn("More than one", propose("Take 2 and 2.", "4").note)
        for text, answer, said in [
            ("No number here.", "3", "no number"),
            ("Take 2 and 3.", "five", "one number"),
            ("Take 2 and 3.", "5 or 6", "one number"),
        ]:
            with self.subTest(text):
                with self.assertRaises(Unusable) as caught:
                    propose(text, answer)
                self.assertIn(said, str(caught.exception))


class Numbers(TestCase):
    def test_what_is_found_in_a_text(self) -> None:
        found = found_numbers(
            "In 1951 a crate of 1 250 kg, 6.4 m wide, was let down 3 days at 1.5 m/s^2; 20 % of it is 12 crowns at 9:30."
        )
        self.assertEqual(
            [(number.written, number.unit, number.stays) for number in found],
            [("1951", "", True), ("1 250", "kg", False), ("6.4", "m", False), ("3", "days", False), ("1.5", "m/s^2", False),
             ("20", "%", False), ("12", "", False), ("30", "", False)],
        )  # fmt: skip
        self.assertEqual(len({number.name for number in found}), len(found))

    def test_ranges_hold_the_number_and_twenty_or_so_others(self) -> None:
        for text in ("350 kg", "6.4 m", "0.12 m", "15%", "98%", "3 m", "1 250 kg", "0.5 L", "7", "-4 °C", "25000"):
            with self.subTest(text):
                (number,) = found_numbers(text)
                definition = read_definition(number.definition, Settings())
                assert isinstance(definition, Range)
                values = [definition.value(position) for position in range(definition.size)]
                self.assertIn(number.value, values)
                self.assertTrue(3 <= len(values) <= 60, number.definition)

    def test_the_wording_has_spans_in_the_place_of_numbers(self) -> None:
        proposal = propose("A crane lifts 350 kg by 6.4 m.", "22.0 kJ")
        self.assertEqual(proposal.wording, "A crane lifts $m$ by $d$.")
