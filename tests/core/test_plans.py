"""Plans and equal forms: who gets which question and which draw, what that is worth, and how even it is."""

from __future__ import annotations

from collections import Counter
from decimal import Decimal
from fractions import Fraction
from itertools import combinations, product
from typing import Any
from unittest import TestCase

from vorlage.core.documents import Heading, Printing
from vorlage.core.forms import Basis, MadeSet, kept_key, key_as_json, make_forms, marks_text, outlined, shared_answers
from vorlage.core.plans import Offer, Place, Plan, PlanError, Pool, Section, picked_forms, select
from vorlage.core.questions import COMPONENTS, CompiledQuestion, NumberWork, QuestionDrawing, load_document
from vorlage.library import samples


def question(title: str = "Load", **changes: Any) -> CompiledQuestion:
    """A question about m·h, or what is said otherwise."""
    document = {
        "title": title, "wording": "A crane lifts $m$ by $h$.",
        "parameters": [{"name": "m", "definition": "20..90"}, {"name": "h", "definition": "3..9"}],
        "parts": [{"marks": "2", "answer": {"kind": "number", "key": "m*h"}}], **changes,
    }  # fmt: skip
    return CompiledQuestion(load_document(document))


def place(key: str = "load", marks: str | None = None, bonus: bool = False, **changes: Any) -> Place:
    return Place(question(key, **changes), key, 1, marks=Decimal(marks) if marks else None, bonus=bonus)


def parts(*marks: str) -> list[dict[str, Any]]:
    return [{"marks": each, "answer": {"kind": "number", "key": f"m*h+{k}"}} for k, each in enumerate(marks)]


CHOICE = {
    "kind": "choice",
    "options": [{"text": "$m*h$", "share": "1"}, {"text": "$m+h$"}, {"text": "$m-h$"}, {"text": "$2*m$"}],
}


class Picks(TestCase):
    def setUp(self) -> None:
        self.pool = Pool([place(f"q{k}") for k in range(5)], 2)
        self.plan = Plan("Quay", [place("q0"), self.pool, Pool([place("q3"), place("q4"), place("x")], 1)])

    def keys(self, plan: Plan, count: int, seed: str = "seed", **more: Any) -> list[list[str]]:
        found = picked_forms(plan, count, seed, **more)
        return [[plan.places[p].candidates[k].key for p, k in each.picks] for each in found]

    def test_no_question_stands_twice_in_a_form_and_each_is_used_as_often(self) -> None:
        forms = self.keys(self.plan, 60)
        for form in forms:
            self.assertEqual(len(set(form)), 4)
        self.assertEqual(forms, self.keys(self.plan, 60))
        self.assertNotEqual(forms, self.keys(self.plan, 60, "another"))
        alone = self.keys(Plan("Quay", [self.pool]), 50)
        self.assertEqual(set(Counter(key for form in alone for key in form).values()), {20})
        # not always the same two together
        self.assertEqual(len({frozenset(form) for form in alone}), 10)

    def test_what_is_kept_stands_and_the_others_give_way(self) -> None:
        forms = self.keys(self.plan, 8, kept={3: {1: "q4", 3: "q3"}, 5: {3: "x"}})
        self.assertEqual((forms[3][1], forms[3][3], forms[5][3]), ("q4", "q3", "x"))
        for form in forms:
            self.assertEqual(len(set(form)), 4)

    def test_only_sections_that_are_mixed_are(self) -> None:
        plan = Plan("Quay", [place(f"q{k}") for k in range(8)], sections=[Section(0), Section(4, mixed=True)])
        orders = [each.order for each in picked_forms(plan, 20, "seed")]
        self.assertEqual({order[:4] for order in orders}, {(0, 1, 2, 3)})
        self.assertEqual({frozenset(order[4:]) for order in orders}, {frozenset({4, 5, 6, 7})})
        self.assertGreater(len({order[4:] for order in orders}), 8)

    def test_what_leads_to_no_form_is_told(self) -> None:
        for places, code, words in [
            ([Pool([place("a")], 2)], "too_few", "takes 2 of 1"),
            ([place("a"), place("b"), Pool([place("a"), place("b")], 1)], "too_few", "Place 3 finds too few"),
            ([Pool([place("a"), place("b", parts=parts("5"))], 1)], "marks", "different marks"),
            ([place("a", "3", parts=[{"answer": {"kind": "scale"}}])], "marks", "no marks that could be changed"),
        ]:  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(PlanError, words) as caught:
                make_forms(Plan("Quay", places), 2, "seed")
            self.assertEqual(caught.exception.code, code)
        # three places that can only be filled when each gives way to the next
        pools = [Pool([place(a), place(b)], 1) for a, b in [("a", "b"), ("a", "c"), ("a", "a2")]]
        self.assertIsNone(Plan("Quay", [*pools, place("a")]).short())


class Marks(TestCase):
    def test_the_marks_of_the_place_win_and_parts_are_scaled_exactly(self) -> None:
        three = place("three", "4", parts=parts("1", "1", "1"))
        plan = Plan("Quay", [three, Pool([place("a", "3"), place("b", "3")], 2, Decimal(3)), place("c", "5", True)])
        self.assertEqual((plan.marks, plan.bonus), (10, 5))
        made = make_forms(plan, 3, "seed")
        for form in made.forms:
            self.assertEqual([key.marks for key in form.items[0].keys], [Fraction(4, 3)] * 3)
            self.assertEqual(sum(key.marks for item in form.items for key in item.keys), 15)
        key = made.forms[0].items[0].keys[0]
        self.assertEqual(key_as_json(key)["marks"], "4/3")
        self.assertEqual(kept_key(key_as_json(key)), key)
        self.assertEqual([marks_text(Fraction(each)) for each in ("2", "2.50", "1/3")], ["2", "2.5", "1/3"])

    def test_what_is_printed_is_rounded_and_sections_stand_above_their_questions(self) -> None:
        plan = Plan(
            "Quay", [place("a", "4", parts=parts("1", "1", "1")), place("b", bonus=True)], "Show your working.",
            sections=[Section(0, "Part A", "In the head.", False), Section(1, "Part B", "", True, new_page=True)],
        )  # fmt: skip
        printing = Printing(plan, Heading("Quay"))
        source = printing.paper(make_forms(plan, 1, "seed").forms[0])
        self.assertIn('marks: "1.33"', source)
        self.assertLess(source.index("Part A"), source.index("No calculator"))
        self.assertLess(source.index("#question(1"), source.index("turned: true"))
        self.assertIn("#beyond", source[source.index("#question(2") :])
        self.assertTrue(printing.papers(make_forms(plan, 1, "seed").forms).startswith(b"%PDF"))
        # what says nothing of itself has no empty heading
        for section, markup in [
            (Section(0, calculator=False), "#section(none, none, [#\"No calculator\";]"), (Section(0, mixed=True), "instructions: [], [\n#question"),
        ]:  # fmt: skip
            with self.subTest(markup):
                quiet = Plan("Quay", [place("a")], sections=[section])
                forms = make_forms(quiet, 1, "seed").forms
                self.assertIn(markup, Printing(quiet, Heading("Quay")).paper(forms[0]))
                self.assertTrue(Printing(quiet, Heading("Quay")).papers(forms).startswith(b"%PDF"))


class Equal(TestCase):
    def test_no_two_forms_share_an_answer_where_there_are_enough(self) -> None:
        # of 497 draws of m·h exactly 30 answers are to be found for 30 forms
        few = place(
            "few",
            parameters=[{"name": "m", "definition": "1..30"}, {"name": "h", "definition": "1..9"}],
            parts=[{"answer": {"kind": "number", "key": "m"}}],
        )
        both = place("both", parts=parts("1", "1"))
        made = make_forms(Plan("Quay", [few, both]), 30, "seed")
        self.assertEqual((shared_answers(made.forms), dict(made.outlines.shared)), (set(), {}))

    def test_where_there_are_too_few_each_stands_as_seldom_as_it_can(self) -> None:
        few = place(
            "few",
            parameters=[{"name": "m", "definition": "1..4"}, {"name": "h", "definition": "1..9"}],
            parts=[{"answer": {"kind": "number", "key": "m"}}],
        )
        made = make_forms(Plan("Quay", [few]), 7, "seed")
        heard = Counter(form.items[0].keys[0].key for form in made.forms)
        self.assertEqual(sorted(heard.values()), [1, 2, 2, 2])
        self.assertEqual(made.outlines.shared, {0: (0,)})

    def test_of_choices_the_option_counts_and_the_letters_are_spread(self) -> None:
        made = make_forms(Plan("Quay", [place("chosen", parts=[{"answer": CHOICE}])]), 16, "seed")
        self.assertEqual(Counter(form.items[0].keys[0].key.strip('"') for form in made.forms), dict.fromkeys("ABCD", 4))
        self.assertEqual(shared_answers(made.forms), set())
        # options that are the same in every draw say the same under whatever letter
        same = {"kind": "choice", "options": [{"text": "push", "share": "1"}, {"text": "pull"}, {"text": "lift"}]}
        made = make_forms(Plan("Quay", [place("same", parts=[{"answer": same}])]), 6, "seed")
        self.assertEqual(Counter(form.items[0].keys[0].key.strip('"') for form in made.forms), dict.fromkeys("ABC", 2))
        self.assertEqual(len(shared_answers(made.forms)), 6)

    def test_forms_are_far_more_even_than_those_that_are_made_as_they_come(self) -> None:
        names = ["lock-gate", "harbour-crane", "foghorn", "lighthouse-lamps", "ice-plant"]
        plan = Plan("Moments", [Place(CompiledQuestion(samples()[name][0]), name, 1) for name in names])
        even = outlined(plan, 30, "seed").evenness
        self.assertLess(even.spread, even.before / 3)
        self.assertEqual([len(work) for work in even.forms], [len(COMPONENTS)] * 30)
        self.assertIn(even.limit, COMPONENTS)
        # what is told of each form is what its draws ask
        made, counted = make_forms(plan, 30, "seed"), [0.0] * len(COMPONENTS)
        for item, where in zip(made.forms[7].items, plan.places):
            drawn = QuestionDrawing(where.question, where.key, 1).draw(item.draw.number)
            counted = [a + b for a, b in zip(counted, NumberWork(where.question).of(drawn))]
        self.assertEqual(tuple(counted), even.forms[7])

    def test_a_set_that_follows_keeps_and_avoids(self) -> None:
        plan = Plan("Quay", [place("a"), Pool([place("b"), place("c")], 1), place("d")])
        first = outlined(plan, 6, "seed")
        stands = {
            (form, each.slot): (plan.places[each.place].candidates[each.candidate].key, each.draw)
            for form, items in enumerate(first.forms)
            for each in items
        }
        kept = {where: what for where, what in stands.items() if where[1] != 2}
        avoided = {"d": frozenset(draw for (_, slot), (_, draw) in stands.items() if slot == 2)}
        second = outlined(plan, 6, "another", Basis(kept, avoided))
        for before, after in zip(first.forms, second.forms):
            self.assertEqual(before[:2], after[:2])
            self.assertNotIn(after[2].draw, avoided["d"])
        like = outlined(plan, 1, "third", Basis(like=first.evenness.forms[0])).evenness.forms[0]
        self.assertLess(abs(like[1] - first.evenness.forms[0][1]), 3)

    def test_very_many_forms_share_no_answer_and_are_even(self) -> None:
        # one draw in three answers what no other before it has
        few = place(
            "few",
            parameters=[{"name": "m", "definition": "1..500"}, {"name": "h", "definition": "1..9"}],
            parts=[{"answer": {"kind": "number", "key": "m + h"}}],
        )
        many = place("many", parameters=[{"name": "m", "definition": "1..900"}, {"name": "h", "definition": "1..9"}])
        made = make_forms(Plan("Quay", [few, many]), 400, "seed")
        self.assertEqual((shared_answers(made.forms), dict(made.outlines.shared)), (set(), {}))
        even = made.outlines.evenness
        self.assertLess(even.spread, even.before)

    def test_more_forms_than_draws_are_made_all_the_same(self) -> None:
        one = place("one", parameters=[{"name": "m", "definition": "5"}, {"name": "h", "definition": "1..3"}])
        made: MadeSet = make_forms(Plan("Quay", [one, place("a")]), 9, "seed")
        self.assertEqual((len(made.forms), made.outlines.repeats), (9, (0,)))


class Work(TestCase):
    def test_number_work_is_what_one_would_count(self) -> None:
        for key, values, expected in [
            # steps, digits, carries, signs, fractions, decimals, roots and powers
            ("m + h", {"m": "58", "h": "67"}, (1, 2, 2, 0, 0, 0, 0)),
            ("m - h", {"m": "52", "h": "37"}, (1, 2, 1, 1, 0, 0, 0)),
            ("m*h", {"m": "2.5", "h": "12"}, (1, 4, 0, 0, 0, 1, 0)),
            ("m/h", {"m": "-6", "h": "4"}, (1, 1, 0, 1, 0, 0, 0)),
            ("m*(h + 1/3)", {"m": "2", "h": "1"}, (3, 5, 0, 0, 2, 0, 0)),
            ("sqrt(m)", {"m": "49", "h": "1"}, (1, 2, 0, 0, 0, 0, 1)),
        ]:  # fmt: skip
            with self.subTest(key, **values):
                asked = question(
                    parameters=[{"name": name, "definition": value} for name, value in values.items()],
                    parts=[{"answer": {"kind": "number", "key": key}}], wording="",
                )  # fmt: skip
                drawn = QuestionDrawing(asked, "key", 1).draw(1)
                self.assertEqual(NumberWork(asked).of(drawn)[:7], expected)


class Selecting(TestCase):
    def violated(self, wanted: dict[tuple[int, int], Fraction], offers: list[Offer], keys: tuple[int, ...]) -> Fraction:
        """Marks that are missing count a little more than those too many."""
        total = Fraction(0)
        for cell, marks in wanted.items():
            got = sum((Fraction(each.marks) for each in offers if each.key in keys and each.cell == cell), Fraction(0))
            total += (marks - got) * 100 if got < marks else (got - marks) * 60
        return total

    def test_it_is_as_good_as_trying_everything(self) -> None:
        for turn in range(12):
            marks = [Decimal(1 + (7 * k + turn) % 5) / (2 if k % 3 else 1) for k in range(9)]
            offers = [Offer(k, (k % 2, 1), each, k) for k, each in enumerate(marks)]
            wanted = {(0, 1): Fraction(4 + turn % 4), (1, 1): Fraction(11, 2), (5, 3): Fraction(2)}
            found = select(wanted, offers)
            every = [keys for size in range(10) for keys in combinations(range(9), size)]
            best = min(self.violated(wanted, offers, keys) for keys in every)
            with self.subTest(turn):
                self.assertEqual(self.violated(wanted, offers, found.keys), best)
                self.assertEqual(found.unmet[5, 3], (0, 2))

    def test_few_questions_and_those_used_least_are_taken_first(self) -> None:
        offers = [Offer(k, (1, 1), Decimal(each), used) for k, (each, used) in enumerate(product(("2", "4"), (3, 0)))]
        self.assertEqual(select({(1, 1): Fraction(4)}, offers).keys, (3,))
        self.assertEqual(select({(1, 1): Fraction(4)}, offers), select({(1, 1): Fraction(4)}, offers))
