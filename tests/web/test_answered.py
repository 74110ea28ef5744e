"""What a class answered is counted, never of fewer than five, and covered until somebody uncovers it."""

from __future__ import annotations

import re
from collections import Counter
from fractions import Fraction
from typing import Any
from unittest import TestCase as Plain

from django.core.cache import cache
from django.urls import reverse
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from vorlage.core.marking import FEWEST, Total, class_result
from vorlage.core.sittings import ROWS, WAYS, Tally, shown_count, tallies
from vorlage.web.classes.models import Student
from vorlage.web.sittings.models import Sitting, StudentItem, Taking
from vorlage.web.sittings.place import keep
from vorlage.web.sittings.road import change_of

from .samples import frozen, question, test_of
from .test_sittings import MINUTE, Sat, do_jobs


def part(shape: str, **more: Any) -> dict[str, Any]:
    return {"shape": shape, "offers": [], "words": [], "steps": 0, **more}


class Tallies(Plain):
    def test_what_is_chosen_is_told_apart_by_what_it_says(self) -> None:
        one = part("options", offers=[["A", "oak"], ["B", "elm"], ["C", "ash"]])
        other = part("options", offers=[["A", "elm"], ["B", "ash"], ["C", "oak"]])
        found = tallies([(one, "A"), (other, "C"), (other, "A"), (one, ["A", "B"]), (one, "Z")])
        self.assertEqual([(each.label, each.count) for each in found], [("oak", 3), ("elm", 2), ("ash", 0)])

    def test_every_shape(self) -> None:
        scale = part("scale", steps=3)
        self.assertEqual([each.count for each in tallies([(scale, "1"), (scale, "3"), (scale, "3")])], [1, 0, 2])
        words = part("words", words=["true", "false"])
        self.assertEqual([each.count for each in tallies([(words, "false")])], [0, 1])
        items = part("items", offers=[["A", "egg"], ["B", "hen"]])
        self.assertEqual(tallies([(items, "B, A")]), [Tally("hen, egg", 1, True)])
        pairs = part("pairs", offers=[["1", "steam"], ["A", "gas"], ["B", "solid"]])
        self.assertEqual(tallies([(pairs, {"1": "A"})]), [Tally("steam – gas", 1, True)])
        gaps = part("gaps")
        self.assertEqual(tallies([(gaps, ["a", " "])]), [Tally("a; –", 1)])
        places = part("places")
        self.assertEqual(tallies([(places, [[1, 2]]), (places, [])]), [Tally("0 places", 1), Tally("1 place", 1)])
        line = part("line")
        self.assertEqual(tallies([(line, "b"), (line, " a "), (line, "a")]), [Tally("a", 2), Tally("b", 1)])
        self.assertEqual(tallies([]), [])

    @given(st.lists(st.sampled_from(["A", "B", "C", "", "Z"]), max_size=30))
    def test_counts_add_up(self, given_answers: list[str]) -> None:
        options = part("options", offers=[["A", "x"], ["B", "y"], ["C", "z"]])
        found = {each.label: each.count for each in tallies([(options, each) for each in given_answers])}
        counts = Counter(given_answers)
        expected = {"x": counts["A"], "y": counts["B"], "z": counts["C"]} if given_answers else {}
        self.assertEqual(found, expected)

    @given(st.integers(0, 300), st.booleans())
    def test_nobody_is_told_by_what_they_change(self, answers: int, open_still: bool) -> None:
        shown, after = shown_count(answers, open_still), shown_count(answers + 1, open_still)
        self.assertTrue(shown == 0 or FEWEST <= shown <= answers)
        if open_still:
            self.assertIn(after - shown, (0, FEWEST))


class Classes(Plain):
    def test_mean_and_middle_half(self) -> None:
        totals = [Total(Fraction(n), Fraction(10)) for n in (10, 2, 4, 6, 8, 0, 5, 5)]
        found = class_result(totals)
        assert found is not None
        self.assertEqual((found.count, found.mean, found.low, found.high, found.most), (8, 5, 4, 6, 10))
        self.assertIsNone(class_result(totals[:4]))
        self.assertIsNone(class_result([Total(Fraction(0), Fraction(0))] * 9))
        # where forms can reach different marks, shares are told
        mixed = class_result([Total(Fraction(5), Fraction(10))] * 3 + [Total(Fraction(10), Fraction(20))] * 3)
        assert mixed is not None
        self.assertEqual((mixed.mean, mixed.low, mixed.high, mixed.most), (5, 5, 5, 10))


class Answered(Sat):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        choice = {"kind": "choice", "options": [{"text": "the ferry", "share": "1"}, {"text": "the tram"}]}
        parts = [
            {"wording": "How do you come?", "answer": choice},
            {"wording": "Why?", "answer": {"kind": "text", "accept": []}},
        ]
        asked = question(
            cls.physics, cls.author, "foghorn", title="Ways", wording="", parts=parts, parameters=[], conditions=[]
        )
        cls.test = test_of(cls.physics, cls.author, asked, title="Ways to school")
        cls.form_set = frozen(cls.test, 2)

    def answer(self, sitting: Sitting, count: int) -> None:
        """So many answer without a name and hand in."""
        forms = list(self.form_set.forms.order_by("position"))
        for k in range(count):
            form = forms[k % 2]
            now = timezone.now()
            taking = Taking.objects.create(sitting=sitting, form=form, begun=now, tab="t")
            sheet = StudentItem.objects.get(form=form).shown
            letter = next(letter for letter, text in sheet["parts"][0]["offers"] if "ferry" in text)
            sent = [(sheet["parts"][0]["id"], letter), (sheet["parts"][1]["id"], "<b>it floats</b>" if k else "")]
            changes = [change_of({"n": n, "q": 0, "p": name, "r": said}, "t") for n, (name, said) in enumerate(sent)]
            keep(taking.pk, changes, "t", now)
            taking.hand_in(now)

    def test_it_is_covered_and_never_of_fewer_than_five(self) -> None:
        sitting = self.give(**WAYS["survey"][1])
        self.client.force_login(self.author)
        where = reverse("sitting-answers", args=[sitting.pk])
        self.answer(sitting, 4)
        for address in (where, where + "?uncovered"):
            page = self.client.get(address)
            self.assertContains(page, "It is shown once 5 have handed in")
            self.assertNotContains(page, "tallies")
            self.assertNotContains(page, "it floats")
        self.answer(sitting, 3)
        self.assertNotContains(self.client.get(where), "tallies")
        page = self.client.get(where + "?uncovered")
        self.assertContains(page, "5 are counted")
        # four of the five wrote why: that is not shown
        self.assertContains(page, "Fewer than 5 answered this.")
        self.assertNotContains(page, "it floats")
        text = re.sub(r"\s+|</?p>", " ", page.content.decode())
        self.assertRegex(text, 'the ferry *</th><td class="number">5</td>')
        sitting.rules["closes"] = (timezone.now() - MINUTE).isoformat()
        sitting.save()
        page = self.client.get(where + "?uncovered")
        self.assertContains(page, "7 answered")
        self.assertContains(page, "&lt;b&gt;it floats&lt;/b&gt;")
        self.assertNotContains(page, "<b>it floats")

    def test_what_a_teacher_tries_is_not_counted(self) -> None:
        sitting = self.give(**WAYS["survey"][1])
        self.answer(sitting, 5)
        Taking.objects.filter(pk=Taking.objects.latest("pk").pk).update(tried_by=self.author)
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting-answers", args=[sitting.pk]) + "?uncovered")
        self.assertContains(page, "It is shown once 5 have handed in")

    def test_students_see_how_the_class_did_where_that_is_said_and_five_have_a_total(self) -> None:
        held = ROWS | dict.fromkeys(ROWS, "never")
        for rules, shown in (({"class": "handed_in"}, True), ({"total": "handed_in"}, False)):
            sitting = self.give(seen=held | rules)
            self.work(sitting)
            self.taking(sitting).hand_in(timezone.now())
            page = reverse("sitting-done", args=[sitting.pk])
            self.answer(sitting, 3)
            do_jobs()
            self.assertNotContains(self.as_student().get(page), "have a total")
            cache.clear()
            self.answer(sitting, 2)
            do_jobs()
            page_now = self.as_student().get(page)
            self.assertEqual("6 have a total" in page_now.content.decode(), shown)
            if shown:
                self.assertContains(page_now, "middle half")
            cache.clear()

    def test_a_named_sitting_has_it_too_in_few_queries(self) -> None:
        sitting = self.give()
        self.assertEqual(Student.objects.count(), 4)
        self.client.force_login(self.author)
        with self.assertNumQueries(8):
            self.assertContains(self.client.get(reverse("sitting-answers", args=[sitting.pk])), "0 handed in")
