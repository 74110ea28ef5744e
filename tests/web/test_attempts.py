"""Several attempts: other numbers each time, when the next may begin, and what counts of them."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from fractions import Fraction
from typing import Any

from django.test import Client
from django.urls import reverse
from django.utils import timezone

from vorlage.core.sittings import ROWS
from vorlage.web.classes.models import Student
from vorlage.web.forms.models import Form, FormItem
from vorlage.web.sittings.attempts import draws_of, said_repeats
from vorlage.web.sittings.marking import moved_totals, totals_of
from vorlage.web.sittings.models import Sitting, Taking

from .test_sittings import MINUTE, Sat, do_jobs

SOON = dict.fromkeys(ROWS, "released") | {"own": "handed_in", "total": "handed_in"}


class Again(Sat):
    """A sitting with several attempts, and students who have them."""

    def give(self, **changes: Any) -> Sitting:
        return super().give(**{"attempts": 3, "seen": SOON} | changes)

    def sit_once(self, sitting: Sitting, student: Client, right: int = 0, k: int = 0) -> Taking:
        """An attempt with so many right answers, handed in and marked."""
        data = self.work(sitting, k, student)
        taking = self.current(sitting, k)
        changes = [
            (n, *where, key if n < right else "")
            for n, (where, key) in enumerate(zip(self.parts(taking), self.keys(taking)))
        ]
        self.save(data, *changes)
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        taking.refresh_from_db()
        self.assertIsNotNone(taking.marked)
        return taking

    def current(self, sitting: Sitting, k: int = 0) -> Taking:
        among = Taking.objects.current().select_related("sitting", "student")
        return among.get(sitting=sitting, student=self.students[k])


class Attempts(Again):
    def test_one_attempt_after_the_other_on_other_numbers(self) -> None:
        sitting, student = self.give(), self.as_student()
        self.assertContains(student.get(reverse("sit", args=[sitting.pk])), "Three attempts, each with other numbers")
        first = self.sit_once(sitting, student, 1)
        page = student.get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(page, "Two attempts are left. The next may begin now.")
        self.assertContains(student.get(reverse("mine")), "attempt 2 of 3")
        self.assertContains(student.get(reverse("sit", args=[sitting.pk]) + "?again=1"), "Begin attempt 2")
        self.sit_once(sitting, student, 2)
        third = self.sit_once(sitting, student)
        own = list(third.own)
        self.assertEqual([each.attempt for each in own], [1, 2, 3])
        self.assertEqual([each.earlier for each in own], [True, True, False])
        draws = draws_of(sitting.form_set_id)
        had = [draw for each in own for draw in draws[each.form_id or 0]]
        self.assertEqual(len(had), len(set(had)))
        page = student.get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(page, "There is no attempt left.")
        self.assertContains(page, "The best counts")
        self.assertNotContains(page, "Another attempt")
        earlier = student.get(reverse("sitting-done", args=[sitting.pk]) + "?attempt=1")
        self.assertContains(earlier, first.receipt)
        # no fourth, whatever is posted
        student.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertEqual(third.own.count(), 3)
        for asked in ("0", "9", "-1", "x", "99999999999"):
            page = student.get(reverse("sitting-done", args=[sitting.pk]) + f"?attempt={asked}")
            self.assertContains(page, third.receipt)

    def test_which_counts_and_what_another_rule_would_change(self) -> None:
        sitting, student = self.give(), self.as_student()
        parts = [self.sit_once(sitting, student, right) for right in (1, 2, 0)]
        totals = [sum((Fraction(mark.marks) for mark in each.marks()), Fraction(0)) for each in parts]
        self.assertEqual(totals[2], 0)
        self.assertLess(totals[0], totals[1])
        expected = {"best": totals[1], "latest": totals[2], "first": totals[0], "mean": sum(totals, Fraction(0)) / 3}
        for which, reached in expected.items():
            sitting.keep_rules(replace(sitting.held, which=which), self.author)
            self.assertEqual([each.reached for each in totals_of(sitting)], [reached], which)
        self.client.force_login(self.author)
        form = {"attempts": "3", "which": "latest", "period": "1 day", "grace": "15 seconds", "hand_in": "5"}
        posted = self.as_typed(sitting) | form
        answer = self.client.post(reverse("say-sitting-rules", args=[sitting.pk]), posted)
        self.assertEqual(answer.context["form"].errors, {})
        self.assertContains(answer, "1 total changes")
        self.assertContains(answer, "Fam0, Mia")
        self.assertEqual([each.after.reached for each in moved_totals(sitting, "latest")], [0])
        # somebody has begun: fewer attempts are refused, more are not
        answer = self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), posted | {"attempts": "2"})
        self.assertContains(answer, "fewer attempts", status_code=422)
        self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), posted | {"attempts": "4"})
        sitting = Sitting.objects.get(pk=sitting.pk)
        self.assertEqual((sitting.held.attempts, sitting.held.which), (4, "latest"))

    def test_a_wait_is_waited_for(self) -> None:
        sitting, student = self.give(wait=30 * MINUTE), self.as_student()
        self.sit_once(sitting, student)
        page = student.get(reverse("sit", args=[sitting.pk]) + "?again=1")
        self.assertContains(page, "The next may begin")
        self.assertNotContains(page, "Begin attempt 2")
        student.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertEqual(self.current(sitting).attempt, 1)
        past = timezone.now() - 31 * MINUTE
        Taking.objects.update(begun=past, handed_in=past)
        student.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertEqual(self.current(sitting).attempt, 2)

    def test_a_wait_that_nobody_can_keep_is_told_before_it_holds(self) -> None:
        sitting = self.give(attempts=1, closes=timezone.localtime() + timedelta(hours=20))
        self.client.force_login(self.author)
        posted = self.as_typed(sitting)
        posted |= {"attempts": "2", "wait": "24 h"}
        told = self.client.post(reverse("say-sitting-rules", args=[sitting.pk]), posted)
        self.assertContains(told, "nobody can have a second attempt")
        answer = self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), posted)
        self.assertContains(answer, "nobody can have a second attempt", status_code=422)
        self.assertEqual(Sitting.objects.get(pk=sitting.pk).held.attempts, 1)
        # what was typed is there still
        self.assertContains(answer, 'value="24 h"', status_code=422)
        for name, typed in (
            ("attempts", "0"),
            ("tries", "many"),
            ("similar", "-1"),
            ("try_cost", "120 %"),
            ("wait", "soon"),
        ):
            answer = self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), posted | {name: typed})
            self.assertTrue(answer.context["form"].errors[name], name)
            self.assertContains(answer, f'value="{typed}"', status_code=422)

    def test_beginning_twice_at_once_is_one_attempt(self) -> None:
        sitting, student = self.give(), self.as_student()
        taking = self.sit_once(sitting, student)
        now, form = timezone.now(), taking.form_id or 0
        self.assertEqual(taking.follow(now, lambda _: form).attempt, 2)
        # the other request looked before the first had begun it
        self.assertEqual(taking.follow(now, lambda _: form).pk, taking.pk)
        self.assertEqual(taking.own.count(), 2)

    def test_the_table_and_deeds_are_of_the_last_attempt(self) -> None:
        sitting, student = self.give(), self.as_student()
        first = self.sit_once(sitting, student)
        self.client.force_login(self.author)
        act = reverse("act-in-sitting", args=[sitting.pk])
        self.client.post(act, {"what": "withhold", "who": [first.pk], "reason": "looked up"})
        self.work(sitting, client=student)
        page = self.client.get(reverse("sitting-table", args=[sitting.pk]))
        self.assertContains(page, "attempt 2: begun")
        self.assertContains(page, "<strong>1</strong> of 4 begun", html=False)
        second = self.current(sitting)
        self.assertTrue(second.withheld)
        # an attempt that another one followed is not opened again
        self.client.post(act, {"what": "reopen", "who": [first.pk], "reason": "why not"})
        first.refresh_from_db()
        self.assertIsNotNone(first.handed_in)
        self.client.post(act, {"what": "give-back", "who": [second.pk], "reason": "settled"})
        self.assertEqual([each.withheld for each in second.own], [False, False])

    def test_what_was_handed_in_can_be_mended_and_the_best_of_each_part_counts(self) -> None:
        seen = SOON | {"marks": "handed_in", "key": "handed_in"}
        rules = {"submissions": 3, "resubmitted": "best", "submission_cost": Fraction(1, 4), "seen": seen}
        sitting, student = self.give(attempts=1, **rules), self.as_student()
        taking = self.sit_once(sitting, student, 1)
        done = reverse("sitting-done", args=[sitting.pk])
        page = student.get(done)
        self.assertContains(page, "Mend it and hand it in again")
        self.assertContains(page, "costs 25 %")
        # the marks are seen, and no key while they can be mended
        self.assertContains(page, "<dt>Marks</dt>", html=True)
        self.assertNotContains(page, "<dt>Key</dt>", html=True)
        before = {(each.position, each.part): Fraction(each.marks) for each in taking.marks()}
        student.post(reverse("mend-sitting", args=[sitting.pk]))
        data = self.work(sitting, client=student)
        where, keys = self.parts(taking), self.keys(taking)
        self.save(data, (90, *where[0], "-98765"), *[(91 + n, *where[n], keys[n]) for n in range(1, len(where))])
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        taking.refresh_from_db()
        marks = {(each.position, each.part): each for each in taking.marks()}
        # the first was better before; the others were empty before, which costs nothing
        self.assertEqual(Fraction(marks[where[0]].marks), before[where[0]])
        self.assertTrue(all(marks[each].marks == marks[each].most for each in where[1:]))
        student.post(reverse("mend-sitting", args=[sitting.pk]))
        student.post(reverse("hand-in", args=[sitting.pk]))
        page = student.get(done)
        self.assertContains(page, "<dt>Key</dt>", html=True)
        self.assertNotContains(page, "Mend it")
        student.post(reverse("mend-sitting", args=[sitting.pk]))
        taking.refresh_from_db()
        self.assertEqual((taking.submission, taking.handed_in is None), (3, False))

    def test_a_part_that_was_wrong_and_is_mended_costs_what_was_said(self) -> None:
        rules = {"submissions": 2, "resubmitted": "best", "submission_cost": Fraction(1, 4)}
        sitting, student = self.give(attempts=1, **rules), self.as_student()
        data = self.work(sitting, client=student)
        taking = self.current(sitting)
        where, keys = self.parts(taking), self.keys(taking)
        self.save(data, (1, *where[0], "-98765"))
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        student.post(reverse("mend-sitting", args=[sitting.pk]))
        self.save(self.work(sitting, client=student), (2, *where[0], keys[0]))
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        taking.refresh_from_db()
        mark = next(each for each in taking.marks() if (each.position, each.part) == where[0])
        self.assertEqual(Fraction(mark.marks), Fraction(mark.most) * Fraction(3, 4))

    def test_forms_for_all_attempts_are_made_and_when_numbers_repeat_is_said(self) -> None:
        now = timezone.localtime()
        rules = replace(super().give().held, attempts=1)
        made = Sitting.give(self.test, [self.held], rules, self.author)
        do_jobs()
        self.assertEqual(made.form_set.count, 4)
        self.client.force_login(self.author)
        posted = self.as_typed(made)
        answer = self.client.post(reverse("keep-sitting-rules", args=[made.pk]), posted | {"attempts": "3"})
        self.assertRedirects(answer, reverse("sitting", args=[made.pk]), fetch_redirect_response=False)
        do_jobs()
        made = Sitting.objects.get(pk=made.pk)
        self.assertEqual((made.form_set.count, made.held.attempts), (12, 3))
        self.assertGreater(made.ready, now)
        self.assertEqual(Taking.objects.filter(sitting=made, form__form_set=made.form_set).count(), 4)
        self.assertEqual(said_repeats(made, made.held), "")
        # three forms, and all of them have the same numbers in the second question
        few = self.give()
        forms = list(Form.objects.filter(form_set=few.form_set).order_by("position"))
        same = FormItem.objects.get(form=forms[0], slot=1)
        FormItem.objects.filter(form__in=forms, slot=1).update(values=same.values)
        draws_of.cache_clear()
        self.addCleanup(draws_of.cache_clear)
        few.get_ready(self.author)
        do_jobs()
        few = Sitting.objects.get(pk=few.pk)
        self.assertEqual(said_repeats(few, few.held), "From the second attempt on numbers repeat in question 2.")
        self.assertTrue(few.repeats_by(2))

    def test_a_guest_goes_on_to_the_next_attempt_in_the_same_browser(self) -> None:
        sitting = self.give(come_in="named")
        Student.objects.filter(pk=self.students[3].pk).update(user=None)
        guest = Client()
        guest.post(reverse("enter-sitting", args=[sitting.code]), {"name": "Ola Bright", "group": "9 B"})
        for attempt in (1, 2):
            guest.post(reverse("begin-sitting", args=[sitting.pk]))
            self.assertEqual(guest.get(reverse("sit-work", args=[sitting.pk])).status_code, 200)
            taking = Taking.objects.get(sitting=sitting, name="Ola Bright", earlier=False)
            self.assertEqual(taking.attempt, attempt)
            guest.post(reverse("hand-in", args=[sitting.pk]))
        # another browser under the same name goes on with the last, and the first one is shut out
        other = Client()
        other.post(reverse("enter-sitting", args=[sitting.code]), {"name": "ola  bright", "group": "9b"})
        other.post(reverse("enter-sitting", args=[sitting.code]), {"name": "Ola Bright", "group": "9 B"})
        self.assertContains(other.get(reverse("sitting-done", args=[sitting.pk])), "Attempt 2")
        self.assertNotEqual(guest.get(reverse("sitting-done", args=[sitting.pk])).status_code, 200)

    def test_whoever_tries_it_has_all_attempts_and_waits_for_none(self) -> None:
        sitting = self.give(wait=timedelta(days=2), closes=timezone.now() + timedelta(days=30))
        self.client.force_login(self.author)
        self.client.post(reverse("try-sitting", args=[sitting.pk]))
        for _ in range(2):
            self.client.post(reverse("hand-in", args=[sitting.pk]))
            self.client.post(reverse("begin-sitting", args=[sitting.pk]))
        tried = Taking.objects.filter(sitting=sitting, tried_by=self.author)
        self.assertEqual(sorted(tried.values_list("attempt", flat=True)), [1, 2, 3])
        self.assertEqual(totals_of(sitting), [])
        # and begins anew when it is tried once more
        self.client.post(reverse("try-sitting", args=[sitting.pk]))
        self.assertEqual(tried.count(), 1)
