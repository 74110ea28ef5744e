"""Attempts, tries of a question, handing in again and similar questions: how many, when, and what of them counts."""

from dataclasses import replace
from datetime import timedelta
from fractions import Fraction
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from vorlage.core.forms import next_form, repeats_in
from vorlage.core.marking import (
    PartMark,
    Total,
    best_of_times,
    best_of_tries,
    best_question,
    is_settled,
    share_of,
    that_counts,
    tries_used,
)
from vorlage.core.sittings import (
    COUNTING,
    ROWS,
    Allowed,
    Attempt,
    Record,
    Rules,
    closing,
    fit_until,
    may_mend,
    most_attempts,
    next_begin,
    objections,
    seen,
    seen_at_once,
    sentences,
    unequal,
)
from vorlage.core.sittings.sentences import attempts_now

from .test_sittings import DAY, MINUTE, NOW, allowances, anyones_rules

HOUR = timedelta(hours=1)


def codes(rules: Rules) -> dict[str, str]:
    return {each.code: each.message for each in objections(rules, NOW)}


class Attempts(TestCase):
    def test_a_wait_that_is_longer_than_the_window(self) -> None:
        rules = Rules(NOW, closes=NOW + 20 * HOUR, attempts=3, wait=24 * HOUR)
        found = next(each for each in objections(rules, NOW) if each.code == "no_second_attempt")
        self.assertTrue(found.stands)
        self.assertIn("nobody can have a second attempt", found.message)
        self.assertIn("20 hours", found.message)
        # of four that are wanted there is room for three: it is said, and does not stand in the way
        wider = replace(rules, closes=NOW + 50 * HOUR, attempts=4)
        found = next(each for each in objections(wider, NOW) if each.code == "no_second_attempt")
        self.assertFalse(found.stands)
        self.assertIn("more than 3 attempts", found.message)
        self.assertNotIn("no_second_attempt", codes(replace(wider, attempts=3)))

    def test_each_contradiction_is_told_with_what_it_means(self) -> None:
        free = {"own": "handed_in", "total": "handed_in"}
        seen_soon = dict.fromkeys(ROWS, "released") | free
        several = Rules(NOW, closes=NOW + DAY, attempts=2, seen=seen_soon)
        self.assertEqual(codes(several), {})
        self.assertIn("nobody_can_prepare", codes(replace(several, seen=dict.fromkeys(ROWS, "closed"))))
        self.assertIn("attempts_without_names", codes(replace(several, come_in="anonymous", counts=False)))
        forever = replace(several, attempts=None, closes=None, seen=seen_soon | {"key": "no_attempt"})
        self.assertIn("always_another", codes(forever))
        self.assertIn("tries_unseen", codes(replace(several, tries=3)))
        told = replace(several, seen=seen_soon | {"outcome": "each"})
        self.assertEqual(codes(replace(told, tries=3, try_cost=Fraction(1, 10))), {})
        self.assertIn("cost_without_tries", codes(replace(told, try_cost=Fraction(1, 10))))
        self.assertIn("cost_without_similar", codes(replace(told, similar_cost=Fraction(1, 10))))
        self.assertIn("cost_without_submissions", codes(replace(told, submission_cost=Fraction(1, 10))))
        last = replace(told, submissions=3, submission_cost=Fraction(1, 10))
        self.assertIn("costs nothing", codes(last)["cost_without_submissions"])
        self.assertEqual(codes(replace(last, resubmitted="best")), {})
        self.assertIn("taken_back_for_nothing", codes(replace(last, resubmitted="best", take_back=True)))

    def test_when_the_next_may_begin(self) -> None:
        rules = Rules(NOW, closes=NOW + 2 * DAY, attempts=4, wait=HOUR, per_period=2, period=DAY)
        first = Attempt(NOW, NOW + 30 * MINUTE)
        self.assertEqual(next_begin(rules, []), NOW)
        self.assertIsNone(next_begin(rules, [Attempt(NOW)]))
        self.assertEqual(next_begin(rules, [first]), NOW + 90 * MINUTE)
        second = Attempt(NOW + 2 * HOUR, NOW + 3 * HOUR)
        self.assertEqual(next_begin(rules, [first, second]), NOW + DAY)
        self.assertEqual(next_begin(replace(rules, per_period=None), [first, second]), NOW + 4 * HOUR)
        self.assertIsNone(next_begin(replace(rules, closes=NOW + 20 * HOUR), [first, second]))
        self.assertEqual(
            next_begin(replace(rules, closes=NOW + 20 * HOUR), [first, second], Allowed(later=600)), NOW + DAY
        )
        self.assertIsNone(next_begin(replace(rules, attempts=2), [first, second]))

    def test_until_when_all_that_remain_fit(self) -> None:
        rules = Rules(NOW, closes=NOW + DAY, limit=HOUR, attempts=3, wait=2 * HOUR, late_start="until_closing")
        # the last begins an hour before closing, each before it three hours earlier
        self.assertEqual(fit_until(rules, []), NOW + DAY - 7 * HOUR)
        done = [Attempt(NOW, NOW + HOUR)]
        self.assertEqual(fit_until(rules, done), NOW + DAY - 4 * HOUR)
        self.assertEqual(fit_until(replace(rules, late_start="full"), done), NOW + DAY - 3 * HOUR)
        told = attempts_now(rules, done, NOW + 4 * HOUR)
        self.assertIn("Two attempts are left. The next may begin now.", told)
        self.assertIn("all that are left still fit", told)
        late = attempts_now(rules, done, NOW + 22 * HOUR)
        self.assertIn("Not all that are left fit", late)
        self.assertEqual(attempts_now(replace(rules, attempts=1), done, NOW), "")
        self.assertIn("no attempt left", attempts_now(rules, done * 3, NOW))

    @settings(max_examples=300, deadline=None)
    @given(anyones_rules, allowances, st.lists(st.tuples(st.integers(0, 90), st.integers(0, 90)), max_size=6))
    def test_whoever_keeps_to_what_is_said_has_all_attempts(
        self, rules: Rules, allowed: Allowed, steps: list[tuple[int, int]]
    ) -> None:
        """Each begun as early as may be, some minutes later, and handed in some minutes after."""
        attempts = list[Attempt]()
        for wait, work in steps:
            begins = next_begin(rules, attempts, allowed)
            if begins is None:
                break
            self.assertGreaterEqual(begins, rules.opens)
            closes = closing(rules, allowed)
            self.assertTrue(closes is None or begins < closes)
            if attempts:
                self.assertGreaterEqual(begins, (attempts[-1].handed_in or NOW) + rules.wait)
            at = begins + wait * MINUTE
            if closes is not None and at >= closes:
                break
            attempts.append(Attempt(at, at + work * MINUTE))
            if rules.per_period is not None:
                within = [each for each in attempts if each.begun > at - rules.period]
                self.assertLessEqual(len(within), rules.per_period)
        self.assertTrue(rules.attempts is None or len(attempts) <= rules.attempts)
        # who begins no later than is said, and takes the whole limit each time, has room for all
        until = fit_until(rules, attempts, allowed)
        earliest = next_begin(rules, attempts, allowed)
        if until is None or earliest is None or earliest > until or rules.limit is None:
            return
        length = end_of_limit(rules, allowed)
        at = until
        while rules.attempts is not None and len(attempts) < rules.attempts:
            closes = closing(rules, allowed)
            self.assertTrue(closes is None or at <= closes)
            if rules.late_start == "until_closing" and closes is not None:
                self.assertLessEqual(at + length, closes)
            attempts.append(Attempt(at, at + length))
            at = next_begin(replace(rules, closes=None), attempts, allowed) or at

    @settings(max_examples=200, deadline=None)
    @given(anyones_rules)
    def test_the_number_that_fits_is_one_that_can_be_had(self, rules: Rules) -> None:
        fit = most_attempts(rules)
        self.assertTrue(rules.attempts is None or fit <= rules.attempts)
        found = list[Attempt]()
        while len(found) < fit:
            begins = next_begin(rules, found)
            assert begins is not None
            found.append(Attempt(begins, begins))

    def test_what_may_change_once_somebody_has_begun(self) -> None:
        rules = Rules(NOW, attempts=2)
        self.assertEqual(unequal(rules, replace(rules, attempts=3, which="mean", look_back=False)), [])
        self.assertEqual(unequal(rules, replace(rules, attempts=None)), [])
        self.assertEqual(unequal(rules, replace(rules, attempts=1)), ["fewer attempts"])
        self.assertEqual(len(unequal(rules, replace(rules, wait=HOUR, tries=3, similar=1))), 3)

    def test_sentences(self) -> None:
        rules = Rules(NOW, attempts=3, wait=DAY, which="mean", tries=3, try_cost=Fraction(1, 10), similar=2)
        found = sentences(rules, NOW)
        told = found["how_often"] + found["tries"]
        self.assertIn("Three attempts, each with other numbers, 1 day from handing in", told)
        self.assertIn("the mean of all counts", told)
        self.assertIn("try it 3 times; a further try costs 10 %.", told)
        self.assertIn("costs no try", told)
        self.assertIn("up to 2 similar ones", told)


def end_of_limit(rules: Rules, allowed: Allowed) -> timedelta:
    assert rules.limit is not None
    return rules.limit * (100 + allowed.percent) / 100 + timedelta(minutes=allowed.minutes)


class Seeing(TestCase):
    def test_no_key_while_its_numbers_can_earn_marks(self) -> None:
        everything = dict.fromkeys(ROWS, "handed_in")
        rules = Rules(NOW, closes=NOW + DAY, seen=everything, attempts=2, submissions=2)
        done = Record(NOW, NOW + HOUR, handed_in=NOW + 10 * MINUTE, more=True)
        self.assertTrue(may_mend(rules, done, NOW + 20 * MINUTE))
        self.assertEqual(seen(rules, done, NOW + 20 * MINUTE), frozenset(ROWS) - {"key", "solution"})
        twice = replace(done, submission=2)
        self.assertEqual(seen(rules, twice, NOW + 20 * MINUTE), frozenset(ROWS))
        # its numbers can come again in the attempt that is left
        self.assertEqual(
            seen(rules, replace(twice, repeats=True), NOW + 2 * DAY), frozenset(ROWS) - {"key", "solution"}
        )
        self.assertEqual(seen(rules, replace(twice, repeats=True, more=False), NOW + HOUR), frozenset(ROWS))

    def test_when_no_attempt_is_left(self) -> None:
        rules = Rules(NOW, closes=NOW + DAY, seen=dict.fromkeys(ROWS, "no_attempt") | {"own": "handed_in"})
        done = Record(NOW, NOW + HOUR, handed_in=NOW + HOUR, more=True)
        self.assertEqual(seen(rules, done, NOW + 2 * HOUR), {"own"})
        self.assertEqual(seen(rules, replace(done, more=False), NOW + 2 * HOUR), frozenset(ROWS))
        self.assertEqual(seen(rules, done, NOW + DAY), frozenset(ROWS))

    @settings(max_examples=200, deadline=None)
    @given(anyones_rules, st.booleans(), st.booleans(), st.booleans())
    def test_after_each_answer_nothing_that_comes_later(
        self, rules: Rules, settled: bool, more: bool, repeats: bool
    ) -> None:
        found = seen_at_once(rules, Record(NOW, more=more, repeats=repeats), settled)
        self.assertTrue(all(rules.seen[row] == "each" for row in found))
        self.assertTrue(settled or not found & {"key", "solution"})
        self.assertFalse(more and repeats and found & {"key", "solution"})
        self.assertTrue(rules.checks or not found)


totals = st.builds(
    lambda reached, most, waiting: Total(min(Fraction(reached), Fraction(most)), Fraction(most), waiting),
    st.integers(0, 40), st.integers(1, 40), st.integers(0, 2),
)  # fmt: skip
outcomes = st.sampled_from(["right", "partly", "wrong", "blank", "unreadable"])
shares = st.fractions(0, 1, max_denominator=6)


@st.composite
def marks(draw: st.DrawFn) -> PartMark:
    outcome = draw(outcomes)
    share = {"right": Fraction(1), "partly": Fraction(1, 2)}.get(outcome, Fraction(0))
    return PartMark("a", outcome, share, share * 4, Fraction(4), "", "")


class WhatCounts(TestCase):
    @settings(max_examples=200, deadline=None)
    @given(st.lists(totals, min_size=1, max_size=6), totals)
    def test_of_several_attempts(self, several: list[Total], another: Total) -> None:
        reached = {which: share_of(that_counts(which, several)) for which in COUNTING}
        had = [share_of(each) for each in several]
        self.assertEqual(reached["best"], max(had))
        self.assertEqual(reached["first"], had[0])
        self.assertEqual(reached["latest"], had[-1])
        self.assertEqual(reached["mean"], sum(had, Fraction(0)) / len(had))
        self.assertTrue(min(had) <= reached["mean"] <= reached["best"])
        # one more never lowers the best, and never moves the first
        self.assertGreaterEqual(share_of(that_counts("best", [*several, another])), reached["best"])
        self.assertEqual(that_counts("first", [*several, another]), several[0])
        for which in ("best", "mean"):
            again = that_counts(which, several[::-1])
            self.assertEqual(share_of(again), reached[which])
            self.assertEqual(again.so_far, any(each.so_far for each in several))

    @settings(max_examples=300, deadline=None)
    @given(st.lists(marks(), min_size=1, max_size=6), shares, marks())
    def test_of_several_tries(self, tries: list[PartMark], cost: Fraction, another: PartMark) -> None:
        found = best_of_tries(tries, cost)
        self.assertGreaterEqual(found.marks, tries[0].marks)
        self.assertLessEqual(found.marks, max(each.marks for each in tries))
        self.assertGreaterEqual(found.marks, 0)
        self.assertEqual(found.marks, (found.share - found.cost) * found.most)
        # a further try takes nothing away, and costs what was said where it is the one that counts
        self.assertGreaterEqual(best_of_tries([*tries, another], cost).marks, found.marks)
        self.assertEqual(best_of_tries(tries, Fraction(0)).marks, max(each.marks for each in tries))
        # what is empty or cannot be read costs nothing and uses up nothing
        real = [each for each in tries if each.outcome not in {"blank", "unreadable"}]
        if real:
            self.assertEqual(best_of_tries(real, cost).marks, found.marks)
        used = [each.outcome for each in tries]
        self.assertEqual(tries_used(used), len(real))
        self.assertEqual(is_settled(used, None), "right" in used)
        self.assertEqual(is_settled(used, 2), "right" in used or len(real) >= 2)

    @settings(max_examples=200, deadline=None)
    @given(st.lists(marks(), min_size=1, max_size=5), marks(), st.integers(0, 5))
    def test_of_several_times_that_it_was_handed_in(
        self, times: list[PartMark], another: PartMark, place: int
    ) -> None:  # fmt: skip
        best = times[best_of_times(times)]
        self.assertEqual(best.marks, max(each.marks for each in times))
        self.assertTrue(all(each.marks < best.marks for each in times[best_of_times(times) + 1 :]))
        # once more never lowers it, and what somebody has to look at puts an end to what came before
        again = [*times, another]
        self.assertGreaterEqual(again[best_of_times(again)].marks, best.marks)
        at = min(place, len(times))
        waits = replace(another, outcome="waiting", share=Fraction(0), marks=Fraction(0))
        self.assertGreaterEqual(best_of_times([*times[:at], waits, *times[at:]]), at)

    @settings(max_examples=200, deadline=None)
    @given(st.lists(st.lists(marks(), min_size=1, max_size=3), min_size=1, max_size=4))
    def test_of_a_question_and_those_that_were_had_instead(self, questions: list[list[PartMark]]) -> None:
        had = {7 * k: own for k, own in enumerate(questions)}
        sums = {position: sum((each.marks for each in own), Fraction(0)) for position, own in had.items()}
        best = best_question(had)
        self.assertEqual(sums[best], max(sums.values()))
        self.assertTrue(all(sums[position] < sums[best] for position in had if position < best))

    def test_the_third_try_after_a_slip_that_cannot_be_read(self) -> None:
        wrong = PartMark("a", "wrong", Fraction(0), Fraction(0), Fraction(4), "", "")
        unread = replace(wrong, outcome="unreadable")
        right = replace(wrong, outcome="right", share=Fraction(1), marks=Fraction(4))
        self.assertEqual(best_of_tries([wrong, unread, wrong, right], Fraction(1, 10)).marks, Fraction(16, 5))
        waits = replace(wrong, outcome="waiting")
        self.assertEqual(best_of_tries([wrong, waits], Fraction(0)), waits)


class Forms(TestCase):
    def test_nothing_that_was_had_where_that_can_be(self) -> None:
        forms = {1: [("a", 1), ("b", 1)], 2: [("a", 1), ("b", 2)], 3: [("a", 2), ("b", 3)], 4: [("c", 9), ("b", 4)]}
        self.assertEqual(next_form(forms, [1], {}), 4)
        self.assertEqual(next_form(forms, [1, 4], {}), 3)
        self.assertEqual(next_form(forms, [1, 3, 4], {}), 2)
        self.assertEqual(next_form({1: [("a", 1)], 2: [("a", 2)], 3: [("a", 3)]}, [1], {2: 5, 3: 2}), 3)

    @settings(max_examples=200, deadline=None)
    @given(
        st.integers(1, 4).flatmap(
            lambda places: st.lists(
                st.lists(st.integers(0, 6), min_size=places, max_size=places), min_size=1, max_size=14
            )
        ),
        st.randoms(use_true_random=False),
    )
    def test_up_to_where_it_is_sure_nothing_comes_again(self, drawn: list[list[int]], chance: Any) -> None:
        forms = {k: [("q", (place, value)) for place, value in enumerate(row)] for k, row in enumerate(drawn)}
        found = repeats_in(forms)
        self.assertGreaterEqual(found.sure, 1)
        had = [chance.choice(list(forms))]
        seen = set(forms[had[0]])
        while len(had) < found.sure:
            used = {form: chance.randrange(3) for form in forms}
            had.append(next_form(forms, had, used))
            self.assertFalse(seen & set(forms[had[-1]]))
            seen |= set(forms[had[-1]])
        for place, up_to in found.places.items():
            self.assertGreaterEqual(up_to, found.sure)
            self.assertLess(len({row[place] for row in drawn}), len(forms))
