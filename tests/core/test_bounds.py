"""Nothing that an author writes takes more than it may: counted in steps, so that it is the same on every machine."""

from typing import Any
from unittest import TestCase, mock

from vorlage.core.budget import Budget, OutOfBudget, at, budgeted, charge, loaded_once
from vorlage.core.memory import Memory
from vorlage.core.questions import (
    CompiledQuestion,
    QuestionDrawing,
    Soundness,
    load_document,
    soundness,
    survey,
)
from vorlage.core.questions.soundness import LOOKED_AT
from vorlage.operations.hostile import HOSTILE

# Beside what looking at a question may take, reading it: as much as a listing of combinations, and the texts.
MOST = 1_500_000 + 1_700_000
# Where the cost is told. What is not here is worked out.
AT = {
    "six integrals": ("parameters",),
    "an integral as the key": ("parts", 0, "answer", "key"),
    "an integral in the text": ("wording",),
    "roots of 90": ("conditions", 0),
    "roots of 140": ("conditions", 0),
    "forty waves": ("conditions",),
    "a set of 200": ("parts", 0, "answer", "key"),
    "a set of 80 roots": ("parts", 0, "answer", "key"),
    "ten figures of 58 curves": ("figures",),
    "a figure placed 900 times": ("wording",),
}


def looked_at(document: dict[str, Any]) -> tuple[Soundness, int]:
    """What is found out about a question, and the steps that it takes."""
    with budgeted(10**9, 10**9) as budget:
        found = soundness(CompiledQuestion(load_document(document)), "hostile", 1)
    return found, budget.steps - budget.left


class Bounds(TestCase):
    def setUp(self) -> None:
        # the clock stands still: only steps count here
        self.enterContext(mock.patch("vorlage.core.budget.thread_time", return_value=0.0))
        # and nothing is remembered of these questions yet
        self.enterContext(mock.patch("vorlage.core.questions.soundness.JUDGED", Memory(300)))

    def test_hostile_questions_are_ended_at_the_row_that_costs(self) -> None:
        told, most = {}, {}
        for name, document in HOSTILE.items():
            found, most[name] = looked_at(document)
            costly = [each.path for each in found.problems if each.code in {"too_costly", "too_many"}]
            if costly:
                told[name] = costly[0][: len(AT.get(name, ()))]
        self.assertEqual(told, AT)
        self.assertEqual({name: steps for name, steps in most.items() if steps > MOST}, {})

    def test_a_question_that_was_left_as_it_is_is_not_looked_at_again(self) -> None:
        whole = {
            "title": "Quay", "parameters": [{"name": "a", "definition": "2..9"}], "wording": "$a$ metres",
            "parts": [{"marks": "1", "answer": {"kind": "number", "key": "a^2"}}],
        }  # fmt: skip
        first, steps = looked_at(whole)
        again, fewer = looked_at(whole)
        self.assertIs(again, first)
        self.assertLess(fewer, steps)
        self.assertIsNot(looked_at(whole | {"wording": "$a$ miles"})[0], first)
        # what was ended before its time is looked at again: a busy machine may have been to blame
        ended = [looked_at(HOSTILE["ten figures of 58 curves"])[0] for _ in range(2)]
        self.assertIsNot(*ended)

    def test_what_was_drawn_before_the_end_is_shown(self) -> None:
        found, _ = looked_at(HOSTILE["ten figures of 58 curves"])
        self.assertFalse(found.sound)
        self.assertTrue(0 < len(found.drawn) < LOOKED_AT)
        self.assertIn("This figure takes too long", found.reasons[0])

    def test_a_survey_says_how_many_draws_it_looked_at(self) -> None:
        drawing = QuestionDrawing(CompiledQuestion(load_document(HOSTILE["beyond all algebra"])), "hostile", 1)
        with mock.patch("vorlage.core.questions.survey.STEPS_OF_DRAWING", 200_000), budgeted(10**9, 10**9) as budget:
            found = survey(drawing)
        self.assertTrue(0 < found.drawn < 1000)
        self.assertIn("Not all 1000 draws were looked at.", found.stopped)
        self.assertEqual(found.spreads[0].part, 0)
        self.assertLess(budget.steps - budget.left, 1_300_000)

    def test_a_survey_of_numbers_beyond_all_floats(self) -> None:
        document = {
            "title": "Large", "parameters": [{"name": "a", "definition": "1..9"}], "wording": "$a$",
            "parts": [{"marks": "1", "answer": {"kind": "number", "key": "exp(exp(a+5))"}}],
        }  # fmt: skip
        found = survey(QuestionDrawing(CompiledQuestion(load_document(document)), "large", 1))
        self.assertEqual(found.drawn, 9)


class Budgets(TestCase):
    def test_an_inner_budget_is_part_of_the_outer_one(self) -> None:
        with budgeted(100, 60) as outer:
            with self.assertRaises(OutOfBudget) as caught, budgeted(1000, 60):
                at("wording")
                charge(90)
                at("parts", 0, "answer", "key")
                charge(20)
            self.assertEqual(caught.exception.path, ("wording",))
            self.assertLess(outer.left, 0)
            with self.assertRaises(OutOfBudget):
                charge(1)

    def test_nothing_is_counted_where_there_is_no_budget(self) -> None:
        at("wording")
        charge(10**12)

    def test_the_clock_ends_what_is_not_counted(self) -> None:
        with mock.patch("vorlage.core.budget.thread_time", side_effect=[0.0, 0.4, 1.1]):
            budget = Budget(10**9, 1.0)
            budget.path = ("conditions", 0)
            budget.charge(5_001)
            with self.assertRaises(OutOfBudget) as caught:
                budget.charge(5_001)
        self.assertEqual(caught.exception.path, ("conditions", 0))

    def test_whoever_is_first_does_not_pay_for_what_everybody_needs(self) -> None:
        with mock.patch("vorlage.core.budget.thread_time", side_effect=[0.0, 0.1, 5.1]):

            @loaded_once
            def loaded() -> str:
                charge(10**12)
                return "units"

            with budgeted(100, 1.0) as budget:
                self.assertEqual((loaded(), loaded()), ("units", "units"))
                self.assertEqual((budget.left, round(budget.deadline, 3)), (100, 6.0))

    def test_a_memory_forgets_the_oldest(self) -> None:
        memory: Memory[str, int] = Memory(10)
        memory.keep("a", 1, 4)
        memory.keep("b", 2, 4)
        self.assertEqual(memory.get("a"), 1)
        memory.keep("c", 3, 4)
        self.assertEqual([memory.get(each) for each in "abc"], [1, None, 3])
        memory.keep("a", 5, 6)
        self.assertEqual((memory.get("a"), memory.held), (5, 10))
        memory.keep("d", 6, 11)
        self.assertIsNone(memory.get("d"))
