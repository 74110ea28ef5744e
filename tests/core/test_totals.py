"""Totals: what stops where, bonus, credit for taking part, the weakest left out, a maximum."""

from __future__ import annotations

from fractions import Fraction
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from vorlage.core.marking import STOPS, Counted, Counting, PartMark, total_of


def mark(marks: str, most: str = "4", outcome: str = "") -> PartMark:
    reached, worth = Fraction(marks), Fraction(most)
    share = reached / worth if worth else Fraction(0)
    found = outcome or ("right" if share == 1 else "partly" if share > 0 else "wrong")
    return PartMark("a", found, share, reached, worth, "", "")


def reached(*marks: Counted, maximum: Fraction | None = None, **counting: Any) -> Fraction:
    return total_of(marks, maximum, counting=Counting(**counting)).reached


class Stops(TestCase):
    def test_a_choice_with_less_than_nothing_lowers_the_total_where_the_test_allows_it_and_nowhere_else(self) -> None:
        marks = [Counted(mark("-1"), False, k) for k in range(4)] + [
            Counted(mark("4"), False, 4),
            Counted(mark("2"), False, 3),
        ]
        self.assertEqual(reached(*marks), 6)
        self.assertEqual(reached(*marks, stop="question"), 5)
        self.assertEqual(reached(*marks, stop="test"), 2)
        self.assertEqual(reached(Counted(mark("-4")), stop="test"), 0)


class Bonus(TestCase):
    def test_43_of_40_or_40_of_40_and_a_wrong_one_changes_nothing(self) -> None:
        marks = [Counted(mark("38", "40"), False, 0)]
        right, wrong = Counted(mark("5", "5"), True, 1), Counted(mark("-2", "5"), True, 1)
        self.assertEqual((reached(*marks, right), reached(*marks, right, cap=True)), (43, 40))
        for stop in STOPS:
            self.assertEqual(reached(*marks, wrong, stop=stop), 38)
        self.assertEqual(total_of([*marks, right]).most, 40)


class Rest(TestCase):
    def test_taking_part_earns_its_share_beside_being_right(self) -> None:
        marks = [mark("4"), mark("0"), mark("2"), mark("0", outcome="blank"), mark("0", outcome="unreadable")]
        counted = [Counted(each, False, k) for k, each in enumerate(marks)]
        self.assertEqual(reached(*counted, taking_part=Fraction(1, 4)), 4 + 1 + Fraction(5, 2))
        waits = Counted(mark("0", outcome="waiting"))
        self.assertEqual(reached(waits, taking_part=Fraction(1, 4)), 0)

    def test_the_weakest_are_left_out(self) -> None:
        marks = [
            Counted(mark(marks, most), False, k) for k, (marks, most) in enumerate([("1", "4"), ("1", "2"), ("0", "1")])
        ]
        found = total_of(marks, counting=Counting(drop=1))
        self.assertEqual((found.reached, found.most), (2, 6))
        found = total_of(marks, counting=Counting(drop=9))
        self.assertEqual((found.reached, found.most), (1, 2))
        # what is beyond the test is never left out
        self.assertEqual(reached(*marks, Counted(mark("3"), True, 3), drop=1), 5)

    def test_two_of_three_out_of_ten(self) -> None:
        self.assertEqual(reached(Counted(mark("2", "3")), maximum=Fraction(10)), Fraction(20, 3))
        self.assertEqual(
            reached(Counted(mark("2", "3")), maximum=Fraction(10), taking_part=Fraction(0)), Fraction(20, 3)
        )
        found = total_of([Counted(mark("2", "3"))], Fraction(10), counting=Counting(maximum=Fraction(30)))
        self.assertEqual((found.reached, found.most), (20, 30))

    @given(
        st.lists(st.tuples(st.integers(-4, 4), st.integers(0, 5), st.booleans()), max_size=12),
        st.sampled_from(STOPS), st.integers(0, 3), st.booleans(),
    )  # fmt: skip
    def test_no_total_is_below_nothing_and_a_bonus_never_lowers_it(
        self, rows: list[tuple[int, int, bool]], stop: str, drop: int, cap: bool
    ) -> None:
        marks = [Counted(mark(str(marks)), beyond, place) for marks, place, beyond in rows]
        counting = Counting(stop, drop=drop, cap=cap)
        found = total_of(marks, counting=counting)
        self.assertGreaterEqual(found.reached, 0)
        more = total_of([*marks, Counted(mark("-3"), True, 9)], counting=counting)
        self.assertEqual(more.reached, found.reached)
        self.assertGreaterEqual(
            total_of([*marks, Counted(mark("3"), True, 9)], counting=counting).reached, found.reached
        )
        if cap:
            self.assertLessEqual(found.reached, found.most)
        self.assertEqual(Counting.of(counting.kept), counting)
