"""Questions that are checked before all is handed in: further tries with their cost, and similar ones instead."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from django.test import Client
from django.urls import reverse

from vorlage.core.notation import line
from vorlage.core.sittings import ROWS
from vorlage.web.forms.models import FormItem
from vorlage.web.sittings.marking import that_stand, total
from vorlage.web.sittings.models import Mark, Response, Similar, Sitting, Taking, Tried
from vorlage.web.sittings.questions import questions_had

from .samples import frozen, question, test_of
from .test_sittings import Sat, do_jobs

AT_ONCE = dict.fromkeys(ROWS, "released") | {"own": "each", "outcome": "each"}
KEYS = AT_ONCE | {"key": "each", "solution": "each"}


# What is right in no draw.
WRONG = "-98765"


class Checking(Sat):
    def give(self, **changes: Any) -> Sitting:
        return super().give(**{"tries": 3, "try_cost": Fraction(1, 10), "seen": AT_ONCE} | changes)

    def begin(self, **changes: Any) -> None:
        self.sitting, self.student = self.give(**changes), self.as_student()
        self.data = self.work(self.sitting, client=self.student)
        self.where = self.parts(self.taking(self.sitting))
        self.key = self.keys(self.taking(self.sitting))
        self.n = 100

    def answer(self, where: tuple[int, str], response: Any) -> None:
        self.n += 1
        self.save(self.data, (self.n, *where, response))

    def check(self, question: int = 0, status: int = 200) -> dict[str, Any]:
        answer = self.road("check-question", self.data, {"q": question}, status)
        return answer["checked"][0] if status == 200 else answer

    def finish(self) -> dict[tuple[int, str], Mark]:
        self.student.post(reverse("hand-in", args=[self.sitting.pk]))
        do_jobs()
        return {(each.position, each.part): each for each in self.taking(self.sitting).marks()}

    def of_question(self, question: int) -> list[tuple[int, str]]:
        return [where for where in self.where if where[0] == question]

    def test_a_second_try_costs_what_was_said(self) -> None:
        self.begin()
        first = self.where[0]
        self.answer(first, WRONG)
        found = self.check()
        self.assertIn("wrong", found["parts"][first[1]]["html"])
        self.assertFalse(found["parts"][first[1]]["settled"])
        self.assertEqual(found["words"], "2 of 3 tries left. Each further one costs 10 % of the marks.")
        self.answer(first, self.key[0])
        found = self.check()
        self.assertTrue(found["parts"][first[1]]["settled"])
        # what is right stays so, whatever is sent after it
        self.answer(first, WRONG + "1")
        self.assertFalse(Response.objects.latest("pk").counts)
        mark = self.finish()[first]
        self.assertEqual(Fraction(mark.marks), Fraction(mark.most) * Fraction(9, 10))
        self.assertEqual((mark.outcome, mark.share), ("right", "1"))

    def test_what_is_empty_or_cannot_be_read_is_no_try_and_neither_is_the_same_again(self) -> None:
        self.begin()
        first = self.where[0]
        self.assertIn("Nothing stands here yet.", self.check()["said"].values())
        self.answer(first, "3 + ")
        self.assertIn("no try", self.check()["said"][first[1]])
        for _ in range(3):
            self.answer(first, WRONG)
            self.check()
        self.assertEqual(Tried.objects.count(), 1)
        self.answer(first, self.key[0])
        mark = self.finish()[first]
        # handed in without checking it was a further try all the same
        self.assertEqual(Fraction(mark.marks), Fraction(mark.most) * Fraction(9, 10))

    def test_after_the_last_try_it_stays_and_the_best_counts(self) -> None:
        self.begin(tries=2, try_cost=Fraction(0))
        first = self.where[0]
        for typed in (WRONG, WRONG + "1"):
            self.answer(first, typed)
            found = self.check()
        self.assertTrue(found["parts"][first[1]]["settled"])
        self.answer(first, self.key[0])
        self.check()
        self.assertEqual(Tried.objects.filter(part=first[1]).count(), 2)
        self.assertEqual(Fraction(self.finish()[first].marks), 0)

    def test_no_key_before_nothing_more_can_be_earned(self) -> None:
        self.begin(seen=KEYS, tries=2)
        first = self.where[0]
        self.answer(first, WRONG)
        found = self.check()
        self.assertNotIn("<dt>Key</dt>", found["parts"][first[1]]["html"])
        page = self.student.get(reverse("sit-work", args=[self.sitting.pk])).content.decode()
        self.assertNotIn("<dt>Key</dt>", page)
        self.data = self.work(self.sitting, client=self.student)
        self.answer(first, WRONG + "1")
        found = self.check()
        self.assertIn("<dt>Key</dt>", found["parts"][first[1]]["html"])
        others = [part for part in found["parts"] if part != first[1]]
        self.assertEqual(others, [])
        # it is there again when the page is opened once more
        data = self.work(self.sitting, client=self.student)
        state = next(each for each in data["checked"] if each["q"] == 0)
        self.assertIn("<dt>Key</dt>", state["parts"][first[1]]["html"])

    def test_what_is_seen_later_is_not_in_an_answer(self) -> None:
        self.begin(seen=dict.fromkeys(ROWS, "released"))
        self.answer(self.where[0], WRONG)
        self.assertEqual([each["html"] for each in self.check()["parts"].values()], [""])

    def test_nobody_checks_where_nothing_is_checked(self) -> None:
        self.begin(tries=1, try_cost=Fraction(0), seen=dict.fromkeys(ROWS, "released"))
        self.assertEqual(self.check(0, 403)["stop"], "no_checks")
        self.assertEqual(self.road("similar-question", self.data, {"q": 0}, 403)["stop"], "no_similar")
        self.assertNotContains(self.student.get(reverse("sit-work", args=[self.sitting.pk])), "data-check-question")

    def test_a_page_that_may_not_write_checks_nothing(self) -> None:
        self.begin()
        self.answer(self.where[0], WRONG)
        self.work(self.sitting, client=self.student)
        self.assertEqual(self.check(0, 409)["stop"], "not_now")
        for sent in ({}, {"q": -1}, {"q": "0"}, {"q": True}, {"q": 999}):
            self.data = self.work(self.sitting, client=self.student)
            answer = self.road("check-question", self.data, sent, 404 if sent == {"q": 999} else 400)
            self.assertIn(answer["stop"], {"no_change", "no_question"})
        self.finish()
        self.assertEqual(self.check(0, 409)["stop"], "not_now")
        self.assertFalse(Tried.objects.exists())

    def test_a_similar_question_instead_of_a_missed_one(self) -> None:
        self.begin(similar=1, similar_cost=Fraction(1, 4), tries=1, try_cost=Fraction(0))
        # before it was tried there is none
        self.assertEqual(self.road("similar-question", self.data, {"q": 0}, 409)["stop"], "not_now")
        mine = self.of_question(0)
        for where in mine:
            self.answer(where, WRONG)
        found = self.check()
        self.assertEqual(found["similar"], "A similar question instead, costs 25 % of the marks")
        self.assertTrue(self.road("similar-question", self.data, {"q": 0})["similar"])
        # pressing twice has one, and there is one at most
        self.assertEqual(self.road("similar-question", self.data, {"q": 0}, 409)["stop"], "not_now")
        row = Similar.objects.get()
        item = FormItem.objects.get(form=row.form_id, position=0)
        self.assertNotEqual(row.values, item.values)
        page = self.student.get(reverse("sit-work", args=[self.sitting.pk]))
        self.assertContains(page, "Question 1 once more, with other numbers")
        html = page.content.decode()
        self.assertLess(html.index(f'id="question-{row.position}"'), html.index('id="question-1"'))
        self.data = self.work(self.sitting, client=self.student)
        had = next(each for each in questions_had(self.taking(self.sitting)) if each.position == row.position)
        answers = [line(had.drawn.key_tree(k)) for k in range(len(mine))]
        for (_, part), typed in zip(mine, answers):
            self.answer((row.position, part), typed)
        saved = self.save(self.data, (999, row.position, mine[0][1], answers[0]))
        self.assertTrue(any("shown" in piece for each in saved["readings"] for piece in each["read"]))
        found = self.check(row.position)
        self.assertTrue(all("right" in each["html"] for each in found["parts"].values()))
        self.assertEqual(found["similar"], "")
        # the missed one stays as it is
        self.answer(mine[0], self.key[0])
        self.assertFalse(Response.objects.latest("pk").counts)
        marks = self.finish()
        most = sum(Fraction(marks[where].most) for where in mine)
        own = self.student.get(reverse("sitting-done", args=[self.sitting.pk]))
        self.assertEqual(own.status_code, 200)
        taking = self.taking(self.sitting)
        stand = [each for each in that_stand(taking.marks()) if each.position in {0, row.position}]
        self.assertEqual({each.position for each in stand}, {row.position})
        self.assertEqual(sum(Fraction(each.marks) for each in stand), most * Fraction(3, 4))
        whole = sum(Fraction(each.most) for each in taking.marks() if each.place is None)
        self.assertEqual(total(taking, taking.marks()).most, whole)
        self.sitting.released = self.sitting.created
        self.sitting.save()
        page = self.student.get(reverse("sitting-done", args=[self.sitting.pk]))
        self.assertContains(page, "the better of both counts")
        self.assertEqual(self.student.get(reverse("own-work", args=[self.sitting.pk])).status_code, 200)

    def test_a_missed_question_stays_as_it_is_with_the_parts_that_were_not_tried(self) -> None:
        self.test = test_of(self.physics, self.author, question(self.physics, self.author, "lock-gate"))
        self.form_set = frozen(self.test, 1)
        self.begin(similar=1)
        tried, untried = self.where
        self.answer(tried, WRONG)
        self.check()
        self.road("similar-question", self.data, {"q": 0})
        self.data = self.work(self.sitting, client=self.student)
        for where, counts in ((tried, False), (untried, False), ((0, "~working"), True)):
            self.answer(where, "1")
            self.assertEqual(Response.objects.latest("pk").counts, counts, where)

    def test_handing_in_lists_similar_questions_too(self) -> None:
        self.begin(similar=2, tries=None, try_cost=Fraction(0))
        for where in self.of_question(0):
            self.answer(where, WRONG)
        self.check()
        for position in (0, Similar.objects.count() + len({where[0] for where in self.where})):
            self.road("similar-question", self.data, {"q": position}, 200 if position == 0 else 409)
        self.data = self.work(self.sitting, client=self.student)
        row = Similar.objects.get()
        page = self.student.get(reverse("before-handing-in", args=[self.sitting.pk]))
        self.assertContains(page, "Question 1 once more")
        # nothing of it was tried, so there is no third
        self.assertEqual(self.road("similar-question", self.data, {"q": row.position}, 409)["stop"], "not_now")
        self.client.force_login(self.author)
        self.answer((row.position, self.of_question(0)[0][1]), "5")
        self.assertContains(self.client.get(reverse("sitting-table", args=[self.sitting.pk])), "at a similar question")

    def test_another_form_begins_with_nothing_tried(self) -> None:
        self.begin(similar=1)
        self.answer(self.where[0], WRONG)
        self.check()
        self.road("similar-question", self.data, {"q": 0})
        self.client.force_login(self.author)
        taking = self.taking(self.sitting)
        act = {"what": "form", "who": [taking.pk], "reason": "spilt water"}
        self.client.post(reverse("act-in-sitting", args=[self.sitting.pk]), act)
        data = self.work(self.sitting, client=self.student)
        self.assertTrue(all(not each["parts"] and each["open"] for each in data["checked"]))
        self.assertEqual(len(data["checked"]), len({where[0] for where in self.where}))

    def test_whoever_tries_it_checks_like_a_student_and_leaves_nothing(self) -> None:
        sitting = self.give()
        teacher = Client()
        teacher.force_login(self.author)
        teacher.post(reverse("try-sitting", args=[sitting.pk]))
        data = self.work(sitting, client=teacher)
        taking = Taking.objects.get(tried_by=self.author)
        where = self.parts(taking)[0]
        self.save(data, (1, *where, WRONG))
        self.assertIn("wrong", self.road("check-question", data, {"q": 0})["checked"][0]["parts"][where[1]]["html"])
