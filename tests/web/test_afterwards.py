"""Rules that are changed after marking: what would move is shown before, it moves for whom it is meant, and it can be
undone; marks given by hand stay."""

from __future__ import annotations

import csv
import io
import os
import subprocess
import sys
import threading
from dataclasses import replace
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from typing import Any
from unittest import mock

import openpyxl
import pypdfium2
from django.db import connection
from django.test import Client, TransactionTestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from vorlage.core.marking import Counting
from vorlage.core.questions import Filing, load_document
from vorlage.web.bank.models import Question
from vorlage.web.forms.models import FormItem
from vorlage.web.jobs.models import Job
from vorlage.web.marking.changing import Held, apply, preview, with_answer, with_bonus, with_counting
from vorlage.web.marking.columns import column_of
from vorlage.web.marking.giving import Given, give
from vorlage.web.marking.models import Change
from vorlage.web.marking.overview import asked_in
from vorlage.web.marking.results import results_of
from vorlage.web.marking.rulers import rulers
from vorlage.web.sittings.marking import mark
from vorlage.web.sittings.models import Comment, Mark, Sitting, Taking
from vorlage.web.sittings.questions import questions_had
from vorlage.web.sittings.releasing import release_what_is_marked

from .reading import Fields
from .samples import frozen, question, test_of
from .test_jobs import database_of_test, environment
from .test_marking import Marking
from .test_sittings import do_jobs


class Afterwards(Marking):
    """Four students whose work is 4 % off the key, which 1 % does not forgive."""

    def off(self, share: float = 1.04, **rules: Any) -> Sitting:
        sitting = self.give(**rules)
        for k in range(4):
            self.hand_in(sitting, k, self.nearly(sitting, k, share))
        return sitting

    def nearly(self, sitting: Sitting, k: int, share: float) -> str:
        taking = self.taking(sitting, k)
        values = questions_had(taking)[0].drawn.values
        return f"{float(values['m']) * 9.81 * float(values['h']) / 1000 * share:.5f} kJ"  # type: ignore[arg-type]

    def typed(self, **fields: str) -> dict[str, str]:
        return {"what": "answer", "candidate": str(self.candidate().pk), "part": "work"} | fields

    def show(self, sitting: Sitting, status: int = 200, **fields: str) -> Any:
        page = self.client.post(reverse("show-change", args=[sitting.pk]), self.typed(**fields))
        self.assertEqual(page.status_code, status)
        return page

    def make(self, sitting: Sitting, **fields: str) -> Any:
        typed = {"reason": "it was too strict", "whose": "all"} | self.typed(**fields)
        return self.client.post(reverse("make-change", args=[sitting.pk]), typed)

    def undo(self, sitting: Sitting, change: Change) -> Any:
        return self.client.post(reverse("undo-change", args=[sitting.pk]), {"change": change.pk}, follow=True)


class Often(Afterwards):
    def test_the_results_of_more_students_ask_the_database_no_more_often(self) -> None:
        few, many = self.give(), self.off()
        self.hand_in(few, 0, self.nearly(few, 0, 1.04))
        counts = []
        for sitting in (few, many):
            for name in ("results", "results-table"):
                address = reverse(name, args=[sitting.pk, *(["csv"] if name == "results-table" else [])])
                self.client.get(address)
                with CaptureQueriesContext(connection) as asked:
                    self.assertEqual(self.client.get(address).status_code, 200)
                counts.append(len(asked))
        self.assertEqual(counts[:2], counts[2:])


class Tolerance(Afterwards):
    def test_who_gains_is_seen_before_and_it_can_be_undone_the_next_day(self) -> None:
        sitting = self.off(pass_share=Fraction(2, 5))
        before = Mark.objects.count()
        page = self.show(sitting, tolerance="5%")
        self.assertEqual((len(page.context["preview"].gaining), len(page.context["preview"].losing)), (4, 0))
        self.assertContains(page, "passes now")
        self.assertEqual((Mark.objects.count(), Change.objects.count()), (before, 0))
        sitting.refresh_from_db()
        self.assertEqual(sitting.changed, {})
        self.make(sitting, tolerance="5%")
        self.assertEqual(self.marks(sitting, "work"), ["2"] * 4)
        change = Change.objects.get()
        self.assertEqual((change.by, change.reason, len(change.marks)), (self.author, "it was too strict", 4))
        # who hands in later is marked by what holds now
        late = self.give()
        self.hand_in(late, 0, self.nearly(late, 0, 1.04))
        self.assertEqual(self.marks(late, "work")[:1], ["0"])
        page = self.undo(sitting, change)
        self.assertContains(page, "Undone")
        self.assertEqual(self.marks(sitting, "work"), ["0"] * 4)
        # every mark that was ever given is there
        self.assertEqual(Mark.objects.filter(taking__sitting=sitting, part="work").count(), 12)
        self.assertContains(self.undo(sitting, change), "undone already")

    def test_answers_lie_beside_their_keys_on_one_ruler(self) -> None:
        sitting = self.off()
        at = [self.taking(sitting, k).pk for k in range(4)]
        aligned = rulers(sitting, self.asked(sitting), self.after(sitting, "5%"))
        assert aligned is not None
        self.assertEqual({row.taking for row in aligned.rows}, set(at))
        for row in aligned.rows:
            # whatever was drawn: 4 % above the key, 1 % and 5 % to each side
            self.assertEqual((round(row.at, 2), row.was, row.now, row.way), (4, (-1, 1), (-5, 5), "gains"))
        self.assertContains(self.show(sitting, tolerance="5%"), "4 answers by their distance from the key")
        self.assertIsNone(rulers(sitting, self.asked(sitting), sitting.changed))
        # a key that moves is the place that distances are told from
        aligned = rulers(sitting, self.asked(sitting), self.after(sitting, "1%", "m*9.81*h/1000*1.04"))
        assert aligned is not None
        self.assertEqual({row.way for row in aligned.rows}, {"gains"})
        self.assertTrue(all(abs(row.at) < 0.01 and -5 < row.was[0] < row.was[1] < -2.8 for row in aligned.rows))

    def asked(self, sitting: Sitting) -> Any:
        return next(each for each in asked_in(sitting) if each.part == "work")

    def after(self, sitting: Sitting, tolerance: str, key: str = "m*9.81*h/1000") -> Any:
        answer = {"kind": "quantity", "key": key, "unit": "kJ", "tolerance": {"mode": "relative", "value": tolerance}}
        return with_answer(Held.of(sitting), self.candidate().pk, "work", answer, None).changed

    def test_what_is_needed_to_pass_in_marks_and_in_sections(self) -> None:
        sitting = self.sat(work="right", pass_marks=Fraction(3))
        self.assertContains(self.show(sitting, what="counting", pass_marks="2"), "passes now", count=8)
        self.make(sitting, what="counting", pass_marks="2", maximum="10")
        held = Sitting.objects.get(pk=sitting.pk).held
        self.assertEqual((held.pass_marks, held.pass_share), (2, None))
        self.make(sitting, what="counting", pass_share="40", pass_marks="", section_0="50 %", section_1="")
        held = Sitting.objects.get(pk=sitting.pk).held
        self.assertEqual((held.pass_marks, held.pass_share), (None, Fraction(2, 5)))
        self.assertEqual(held.section_passes, (Fraction(1, 2), None))
        for name in ("section_0", "pass_marks"):
            self.assertEqual(self.show(sitting, 422, what="counting", **{name: "-3"}).context["refused"].name, name)

    def test_what_is_demanded_beside_being_right(self) -> None:
        sitting = self.give()
        for k in range(4):
            # right, and without its unit
            self.hand_in(sitting, k, self.nearly(sitting, k, 1).removesuffix(" kJ"))
        self.assertEqual(self.marks(sitting, "work"), ["1"] * 4)
        page = self.client.get(self.address("change-part", sitting))
        typed = {field.name: value for field, value in page.context["demands"] if value} | {"demands": "1"}
        self.assertIn("demand_unit_rule", typed)
        # as they stand, nothing is changed
        self.assertEqual(self.show(sitting, 422, **typed).context["refused"].message, "Nothing is changed yet.")
        typed["demand_unit_rule"] = "any"
        self.assertEqual(len(self.show(sitting, **typed).context["preview"].gaining), 4)
        self.make(sitting, **typed)
        self.assertEqual(self.marks(sitting, "work"), ["2"] * 4)
        self.undo(sitting, Change.objects.get())
        self.assertEqual(self.marks(sitting, "work"), ["1"] * 4)
        for name, wrong in (("demand_unit", "qqq"), ("demand_written", "17 dpp")):
            self.assertIn("refused", self.show(sitting, 422, **(typed | {name: wrong})).context)

    def test_boundaries_in_marks(self) -> None:
        sitting = self.sat(work="right")
        self.make(sitting, what="counting", told_in="marks", boundaries="merit 2\npass 1")
        self.assertEqual({row.grade for row in results_of(Sitting.objects.get(pk=sitting.pk)).rows}, {"merit"})

    def test_only_those_who_gain_or_some(self) -> None:
        for whose in ("gains", "some"):
            sitting = self.give()
            for k in range(4):
                self.hand_in(sitting, k, self.nearly(sitting, k, 1.04 if k < 2 else 1.008))
            # wide for two, and too narrow for the two that were right
            page = self.show(sitting, tolerance="0.5%", bands="5% | 1/2 | Nearly")
            self.assertEqual((len(page.context["preview"].gaining), len(page.context["preview"].losing)), (2, 2))
            some = str(self.taking(sitting, 3).pk)
            self.make(sitting, tolerance="0.5%", bands="5% | 1/2 | Nearly", whose=whose, some=some)
            expected = ["1", "1", "2", "2"] if whose == "gains" else ["0", "0", "2", "1"]
            self.assertEqual(self.marks(sitting, "work"), expected)

    def test_marks_given_by_hand_stay_and_are_listed(self) -> None:
        sitting = self.off()
        for k in range(3):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting), {"at": at, "marks": "1"})
        page = self.show(sitting, tolerance="5%")
        self.assertContains(page, "3 marks that")
        self.assertContains(page, "They stay")
        self.make(sitting, tolerance="5%")
        self.assertEqual(self.marks(sitting, "work"), ["1", "1", "1", "2"])
        self.undo(sitting, Change.objects.get())
        self.make(sitting, tolerance="5%", hands="1")
        self.assertEqual(self.marks(sitting, "work"), ["2"] * 4)

    def test_long_answers_are_never_put_back_to_waiting(self) -> None:
        sitting = self.off()
        for k in range(4):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": "2"})
        self.assertEqual(self.show(sitting, tolerance="5%", hands="1").context["preview"].by_hand, [])
        self.make(sitting, tolerance="5%", hands="1")
        self.assertEqual((self.marks(sitting, "work"), self.marks(sitting, "why")), (["2"] * 4, ["2"] * 4))

    def test_a_mark_that_was_given_since_stays_when_it_is_undone(self) -> None:
        sitting = self.off()
        self.make(sitting, tolerance="5%")
        at = f"{self.taking(sitting, 1).pk}-0"
        self.client.post(self.address("give-marks", sitting), {"at": at, "marks": "0.5"})
        self.undo(sitting, Change.objects.get())
        self.assertEqual(self.marks(sitting, "work"), ["0", "0.5", "0", "0"])

    def test_students_read_that_it_was_changed_and_why(self) -> None:
        sitting = self.off()
        sitting.released = timezone.now()
        sitting.save()
        self.make(sitting, tolerance="5%", reason="the scale could not be read finer")
        page = self.as_student(0).get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(page, "because the scale could not be read finer")

    def test_another_key_and_the_next_revision(self) -> None:
        sitting = self.sat()
        self.make(sitting, key="m*h/1000", next_revision="1")
        self.assertEqual(self.marks(sitting, "work"), ["2"] * 4)
        newest = Question.objects.get(pk=self.question.pk).newest
        self.assertEqual((newest.number, newest.document["parts"][0]["answer"]["key"]), (2, "m*h/1000"))
        # the key that students are shown is the one that holds
        drawn = questions_had(self.taking(sitting, 0))[0].drawn
        self.assertEqual(drawn.question.document.parts[0].answer.key, "m*h/1000")
        # another sitting of it is listed and not touched
        other = self.sat()
        self.assertEqual(self.marks(other, "work"), ["0"] * 4)
        page = self.client.get(self.address("change-part", sitting))
        self.assertContains(page, "Other sittings of this question")
        self.assertNotContains(page, "Show what the same changes there")

    def test_another_sitting_shows_what_the_same_change_moves_there(self) -> None:
        sitting = self.off()
        first = self.candidate().pk
        # the other one has other forms
        self.form_set = frozen(self.test, 4)
        other = self.off()
        again = self.candidate().pk
        del self.form_set
        page = self.show(sitting, tolerance="5%")
        own = reverse("show-change", args=[other.pk])
        fields = Fields()
        fields.feed(page.content.decode().partition(f'action="{own}"')[2].partition("</form>")[0])
        sent = {name: values[-1] for name, values in fields.sent.items()}
        self.assertEqual((sent["candidate"], sent["tolerance"], first == again), (str(again), "5%", False))
        there = self.client.post(own, sent)
        self.assertEqual((there.context["sitting"], there.context["words"]), (other, page.context["words"]))
        self.assertEqual([len(each.context["preview"].gaining) for each in (page, there)], [4, 4])
        # what holds for the forms of one sitting means nothing in another
        code = sitting.form_set.forms.order_by("position")[0].code
        page = self.show(sitting, what="annul", whom="draw", forms=code, how="full")
        self.assertNotContains(page, "Show what the same changes there")

    def test_what_cannot_hold_is_told_beside_its_field(self) -> None:
        sitting = self.off()
        refusals: dict[str, tuple[str, str]] = {
            "key": ("m*q", "q is not a parameter"), "tolerance": ("x y", "tolerance"), "bands": ("10%", "Line 1"),
            "slips": ("m | 9 | x", "between -1 and 1"), "worth": ("many", "no number of marks"),
        }  # fmt: skip
        for name, (typed, why) in refusals.items():
            page = self.show(sitting, 422, **{name: typed})
            self.assertContains(page, why, status_code=422)
            self.assertContains(page, typed, status_code=422)
        self.assertContains(self.show(sitting, 422), "Nothing is changed yet", status_code=422)
        self.assertContains(self.make(sitting, tolerance="5%", reason=" "), "Say why", status_code=422)
        self.assertEqual(Change.objects.count(), 0)

    def test_marks_of_a_part(self) -> None:
        sitting = self.sat(work="right")
        page = self.show(sitting, worth="6")
        self.assertEqual(page.context["preview"].people[0].after.most, 9)
        self.make(sitting, worth="6")
        self.assertEqual(self.marks(sitting, "work"), ["6"] * 4)
        self.make(sitting, tolerance="3%")
        self.assertEqual(self.marks(sitting, "work"), ["6"] * 4)


class NotCounting(Afterwards):
    def test_one_draw_is_annulled_and_nobody_elses_mark_moves(self) -> None:
        sitting = self.sat()
        code = FormItem.objects.get(form=self.taking(sitting, 2).form_id).form.code
        typed = {"what": "annul", "whom": "draw", "forms": code.lower(), "how": "full"}
        page = self.show(sitting, **typed)
        self.assertEqual([each.pk for each in page.context["preview"].people], [self.taking(sitting, 2).pk])
        self.make(sitting, **typed)
        self.assertEqual(self.marks(sitting, "work"), ["0", "0", "2", "0"])
        self.undo(sitting, Change.objects.get())
        # taken out, the forms cannot reach the same any more, and it is said
        page = self.show(sitting, **typed | {"how": "out"})
        self.assertEqual(page.context["preview"].people[0].after.most, 3)
        self.assertContains(page, "Not all forms can reach the same any more: 3, 5 marks")
        self.make(sitting, **typed | {"how": "out"})
        totals = [row.total.most for row in results_of(Sitting.objects.get(pk=sitting.pk)).rows]
        self.assertEqual(sorted(totals), [3, 5, 5, 5])

    def test_for_all_for_a_form_and_for_nobody(self) -> None:
        sitting = self.sat()
        self.make(sitting, what="annul", whom="all", how="out", whole="1")
        self.assertEqual({row.total.most for row in results_of(Sitting.objects.get(pk=sitting.pk)).rows}, {0})
        self.undo(sitting, Change.objects.get())
        code = FormItem.objects.get(form=self.taking(sitting, 0).form_id).form.code
        self.make(sitting, what="annul", whom="forms", forms=code, how="full")
        self.assertEqual(self.marks(sitting, "work"), ["2", "0", "0", "0"])
        self.assertContains(
            self.show(sitting, 422, what="annul", whom="forms", forms="ZZZ", how="full"), "No form", status_code=422
        )
        self.assertContains(self.show(sitting, 422, what="annul"), "Say how", status_code=422)

    def test_bonus(self) -> None:
        sitting = self.sat(work="right")
        self.make(sitting, what="bonus", beyond="1")
        rows = results_of(Sitting.objects.get(pk=sitting.pk)).rows
        self.assertEqual({(row.total.reached, row.total.most) for row in rows}, {(2, 0)})


class Counted(Afterwards):
    def test_how_marks_are_counted_with_preview_and_undo(self) -> None:
        sitting = self.sat(work="right")
        for k in range(4):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": str(k * 0.5)})
        typed = {
            "what": "counting",
            "maximum": "10",
            "stop": "part",
            "boundaries": "merit 70\npass 45",
            "pass_share": "45",
        }
        page = self.show(sitting, **typed)
        self.assertContains(page, "no grade to merit")
        self.make(sitting, **typed)
        found = results_of(Sitting.objects.get(pk=sitting.pk))
        self.assertEqual(
            [(row.total.reached, row.grade) for row in found.rows], [(4, ""), (5, "pass"), (6, "pass"), (7, "merit")]
        )
        self.assertEqual(Sitting.objects.get(pk=sitting.pk).held.pass_share, Fraction(9, 20))
        page = self.client.get(reverse("counting", args=[sitting.pk]))
        self.assertContains(page, "merit 70")
        self.undo(sitting, Change.objects.get())
        restored = Sitting.objects.get(pk=sitting.pk)
        self.assertEqual((restored.counting, restored.changed, restored.held.pass_share), ({}, {}, None))

    def test_what_is_no_number_is_told(self) -> None:
        sitting = self.sat()
        for name, typed in {
            "maximum": "0", "drop": "x", "taking_part": "120", "pass_share": "-1", "boundaries": "merit high",
        }.items():  # fmt: skip
            # what is short to type and long to write down holds nobody
            for each in (
                typed,
                "x NaN" if name == "boundaries" else "NaN",
                "x 1e99999999" if name == "boundaries" else "1e99999999",
            ):
                refused = self.show(sitting, 422, what="counting", **{name: each}).context["refused"]
                self.assertEqual(refused.name, name)
        self.assertEqual(self.show(sitting, 422, slips="m | 1e99999999 | x").context["refused"].name, "slips")

    def test_changes_are_undone_in_their_order(self) -> None:
        sitting = self.off()
        self.make(sitting, tolerance="5%")
        self.make(sitting, what="counting", maximum="10")
        first, second = Change.objects.order_by("pk")
        self.assertContains(self.undo(sitting, first), "undo that first")
        self.undo(sitting, second)
        self.undo(sitting, first)
        self.assertEqual(self.marks(sitting, "work"), ["0"] * 4)

    def test_rules_that_are_set_meanwhile_stay(self) -> None:
        sitting = self.off()
        after = with_counting(Held.of(sitting), Counting(maximum=Fraction(10)))
        # somebody else sets other rules after it was seen, and again before it is undone
        for word in ("quay", "tide"):
            now = Sitting.objects.get(pk=sitting.pk)
            now.keep_rules(replace(now.held, word=word), self.author)
            if word == "quay":
                apply(sitting, after, self.author, "out of 10", "as agreed")
        held = Sitting.objects.get(pk=sitting.pk)
        self.assertEqual((held.held.word, held.counted_by.maximum), ("tide", 10))
        self.undo(sitting, Change.objects.get())
        held = Sitting.objects.get(pk=sitting.pk)
        self.assertEqual((held.held.word, held.counted_by.maximum), ("tide", None))

    def test_only_whoever_runs_it_changes_it(self) -> None:
        sitting = self.off()
        other = self.students[0].user
        client = Client()
        client.force_login(other)
        self.assertIn(
            client.post(reverse("make-change", args=[sitting.pk]), self.typed(tolerance="5%")).status_code, {403, 404}
        )
        self.assertEqual(Change.objects.count(), 0)

    def test_nothing_is_half_applied(self) -> None:
        sitting = self.off()
        with mock.patch("vorlage.web.marking.changing.Change.objects.create", side_effect=RuntimeError):
            with self.assertRaises(RuntimeError):
                self.make(sitting, tolerance="5%")
        sitting.refresh_from_db()
        self.assertEqual((sitting.changed, self.marks(sitting, "work")), ({}, ["0"] * 4))


class FewDraws(Marking):
    """A question with two draws for four students: the same numbers were drawn more than once."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        part = {"id": "work", "wording": "How much?", "marks": 2, "answer": {"kind": "number", "key": "10*m"}}
        parameters = [{"name": "m", "definition": "7..8"}, {"name": "h", "definition": "3"}]
        made = question(
            cls.physics, cls.author, conditions=[], parts=[part], parameters=parameters, wording="$m$ and $h$."
        )
        cls.question, cls.test = made, test_of(cls.physics, cls.author, made)
        cls.form_set = frozen(cls.test, 4)

    def hand_in(self, sitting: Sitting, k: int, work: str, why: str = "") -> Taking:
        student = self.as_student(k)
        self.save(self.work(sitting, k, student), (1, 0, "work", work))
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        return self.taking(sitting, k)

    def test_the_same_numbers_are_one_draw_in_groups_and_where_it_does_not_count(self) -> None:
        sitting = self.give()
        drawn = [questions_had(self.hand_in(sitting, k, "31"))[0] for k in range(4)]
        mine = [str(each.drawn.values["m"]) for each in drawn]
        groups = column_of(sitting, self.candidate(), "work").groups
        self.assertEqual(sorted(len(each.members) for each in groups), sorted(map(mine.count, set(mine))))
        form = self.taking(sitting, 0).form
        assert form is not None
        typed = {"what": "annul", "candidate": str(self.candidate().pk), "part": "work", "whom": "draw", "how": "full"}
        typed |= {"forms": form.code, "reason": "a wrong key", "whose": "all"}
        self.client.post(reverse("make-change", args=[sitting.pk]), typed)
        self.assertEqual(self.marks(sitting, "work"), ["2" if each == mine[0] else "0" for each in mine])


class Tables(Afterwards):
    def recomputed(self, sitting: Sitting) -> list[dict[str, str]]:
        """The rows of the table, each with its totals worked out again as a spreadsheet does from its cells."""
        answer = self.client.get(reverse("results-table", args=[sitting.pk, "csv"]))
        head, *rows = csv.reader(io.StringIO(answer.content.decode("utf-8-sig")))
        book = self.client.get(reverse("results-table", args=[sitting.pk, "xlsx"])).content
        sheet = openpyxl.load_workbook(io.BytesIO(book)).active.iter_rows(min_row=2, values_only=True)
        names = [f"{each.name} {each.title}" for each in asked_in(sitting)]
        for row, cells in zip(rows, sheet, strict=True):
            told = dict(zip(head, cells, strict=True))
            marks = sum(told[name] for name in names if isinstance(told[name], (int, float))) + told.get("Left out", 0)
            self.assertEqual(marks, told["Marks"])
            reached = marks * told.get("Kept when late", 1) * told["Out of"] / told["Of"]
            self.assertAlmostEqual(reached, told["Reached"], places=12)
            if "Mean" not in told:
                shown = Decimal(repr(round(reached, 10))).quantize(Decimal("0.01"), ROUND_HALF_UP)
                self.assertEqual(shown, Decimal(str(told["Total as shown"])))
            self.assertEqual([str(each) for each in row[:2]], [str(each) for each in cells[:2]])
        return [dict(zip(head, row, strict=True)) for row in rows]

    def test_totals_can_be_recomputed_to_the_last_digit(self) -> None:
        sitting = self.sat(work="right")
        for k in range(4):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": str(k * 0.5)})
        rows = self.recomputed(sitting)
        self.assertEqual(sorted(row["Reached"] for row in rows), ["2", "2.5", "3", "3.5"])
        self.assertLess({"Left out", "Kept when late", "Mean", "Attempt", "Grade"} & rows[0].keys(), {"Grade"})

    def test_what_is_scaled_late_and_capped_can_be_recomputed(self) -> None:
        sitting = self.sat(work="right")
        rules = replace(sitting.held, late_cost=Fraction(1, 7))
        Sitting.objects.filter(pk=sitting.pk).update(rules=rules.kept)
        for k in range(4):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": str(k * 0.5)})
        Taking.objects.filter(pk=self.taking(sitting, 1).pk).update(late=2)
        Taking.objects.filter(pk=self.taking(sitting, 3).pk).update(late=1)
        sitting.refresh_from_db()
        after = with_bonus(Held.of(sitting), self.candidate().pk, True)
        for held in (Counting(maximum=Fraction(10)), Counting(maximum=Fraction(7), taking_part=Fraction(1, 3)), Counting(cap=True), Counting(drop=1)):  # fmt: skip
            sitting.refresh_from_db()
            for pieces in (with_counting(Held.of(sitting), held), with_counting(after, held)):
                pieces.put(sitting)
                sitting.save()
                rows = self.recomputed(sitting)
                self.assertEqual(
                    {row["Kept when late"] for row in rows}, {"1", "0.7142857142857143", "0.8571428571428571"}
                )

    def test_the_mean_of_attempts_has_a_row_for_each(self) -> None:
        sitting = self.sat(work="right")
        rules = replace(sitting.held, attempts=3, which="mean")
        Sitting.objects.filter(pk=sitting.pk).update(rules=rules.kept)
        first = self.taking(sitting, 0)
        again = first.follow(timezone.now(), lambda _: first.form_id)
        again.hand_in(timezone.now())
        mark(again)
        rows = self.recomputed(Sitting.objects.get(pk=sitting.pk))
        self.assertEqual(len(rows), 5)
        own = [row for row in rows if row["Student"] == first.who]
        self.assertEqual([row["Attempt"] for row in own], ["1", "2"])
        self.assertEqual(Fraction(own[0]["Mean"]), sum(Fraction(row["Reached"]) for row in own) / 2)

    def test_sections_and_topics_have_totals_of_their_own(self) -> None:
        mine, other = self.question, question(self.physics, self.author, "foghorn")
        for each, topic in ((mine, "Work"), (other, "Sound")):
            filing = Filing(topics=(("Physics", topic),))
            Question.save_revision(self.physics, self.author, load_document(each.newest.document), filing, each)
        test = test_of(self.physics, self.author, mine, other, title="Two topics")
        self.enterContext(mock.patch.object(type(self), "form_set", frozen(test, 4)))
        sitting = self.sat(work="right")
        page = self.client.get(reverse("results", args=[sitting.pk]))
        self.assertEqual([each.name for each in page.context["shares"]], ["Work", "Sound"])
        self.assertContains(page, "By section and topic")
        book = self.client.get(reverse("results-table", args=[sitting.pk, "xlsx"])).content
        sheet = openpyxl.load_workbook(io.BytesIO(book))["Sections and topics"]
        head, *rows = sheet.iter_rows(values_only=True)
        self.assertEqual(head[:3], ("Student", "Work", "Work, out of"))
        self.assertEqual([row[1:3] for row in rows], [(2, 5)] * 4)

    def test_without_names_nobody_is_named_and_the_order_tells_nothing(self) -> None:
        sitting = self.sat()
        for address in (reverse("results", args=[sitting.pk]), reverse("results-table", args=[sitting.pk, "csv"])):
            self.assertContains(self.client.get(address), "Fam2")
            covered = self.client.get(f"{address}?covered").content.decode()
            for student in self.students:
                self.assertNotIn(student.family, covered)
        self.assertEqual(self.client.get(f"/marking/{sitting.pk}/results.pdf").status_code, 404)

    def test_what_waits_is_said(self) -> None:
        sitting = self.sat()
        page = self.client.get(reverse("results", args=[sitting.pk]))
        self.assertContains(page, "4 answers wait for a")
        self.assertContains(page, "so far")


class Releasing(Afterwards):
    def release(self, sitting: Sitting, what: str) -> Any:
        fields = {"what": what, "from": "results"}
        answer = self.client.post(reverse("release-sitting", args=[sitting.pk]), fields)
        self.assertRedirects(answer, reverse("results", args=[sitting.pk]))
        return Sitting.objects.get(pk=sitting.pk)

    def test_as_soon_as_everything_is_marked(self) -> None:
        sitting = self.sat(closes=None)
        self.release(sitting, "when-marked")
        for k in range(4):
            release_what_is_marked()
            self.assertIsNone(Sitting.objects.get(pk=sitting.pk).released)
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": "1"})
        release_what_is_marked()
        sitting.refresh_from_db()
        self.assertIsNotNone(sitting.released)
        self.assertEqual(sitting.events.filter(kind="released").count(), 1)
        # what was withdrawn waits for whoever withdrew it
        self.release(sitting, "withdraw")
        release_what_is_marked()
        self.assertIsNone(Sitting.objects.get(pk=sitting.pk).released)

    def test_not_while_somebody_works_or_an_answer_cannot_be_read(self) -> None:
        sitting = self.give(closes=None)
        for k in range(3):
            self.hand_in(sitting, k, "2*(" if k == 0 else "right", "")
        self.release(sitting, "when-marked")
        release_what_is_marked()
        self.assertIsNone(Sitting.objects.get(pk=sitting.pk).released)
        self.hand_in(sitting, 3, "right", "")
        release_what_is_marked()
        # one cannot be read, and nobody has looked at it
        self.assertIsNone(Sitting.objects.get(pk=sitting.pk).released)
        self.client.post(self.address("give-marks", sitting), {"at": f"{self.taking(sitting, 0).pk}-0", "marks": "0"})
        release_what_is_marked()
        self.assertIsNotNone(Sitting.objects.get(pk=sitting.pk).released)

    def test_nonsense_releases_nothing(self) -> None:
        sitting = self.sat(work="right")
        for what in ("", "everything", "release "):
            self.assertIsNone(self.release(sitting, what).released)

    def test_it_can_be_left_to_oneself_again(self) -> None:
        sitting = self.sat(work="right", why="", closes=None)
        self.assertTrue(self.release(sitting, "when-marked").when_marked)
        self.assertFalse(self.release(sitting, "by-hand").when_marked)
        release_what_is_marked()
        self.assertIsNone(Sitting.objects.get(pk=sitting.pk).released)

    def test_some_are_held_back_from_the_results(self) -> None:
        sitting = self.sat()
        one = self.taking(sitting, 1)
        act = reverse("act-in-sitting", args=[sitting.pk])
        answer = self.client.post(act, {"what": "withhold", "who": one.whose, "from": "results"}, follow=True)
        self.assertContains(answer, "held back", count=1)
        self.release(sitting, "release")
        self.assertEqual([bool(self.taking(sitting, k).seen(timezone.now()) & {"total"}) for k in range(4)], [True, False, True, True])  # fmt: skip

    def test_one_pdf_of_the_class_in_its_order(self) -> None:
        sitting = self.sat()
        results, order = (reverse(name, args=[sitting.pk]) for name in ("results", "order-class-work"))
        self.assertEqual(self.client.get(reverse("class-work", args=[sitting.pk])).status_code, 404)
        self.client.post(order)
        progress = reverse("class-work-progress", args=[sitting.pk])
        self.assertContains(self.client.get(results), progress)
        self.assertContains(self.client.get(progress), "No worker is running")
        # asked for twice, it is made once
        self.client.post(order)
        self.assertEqual(Job.objects.filter(kind="class-work").count(), 1)
        do_jobs()
        self.assertEqual(self.client.get(progress)["HX-Refresh"], "true")
        pdf = pypdfium2.PdfDocument(b"".join(self.client.get(reverse("class-work", args=[sitting.pk]))))
        pages = [page.get_textpage().get_text_range() for page in pdf]
        names = [next(student.full_name for student in self.students if student.full_name in page) for page in pages]
        self.assertEqual(names, sorted((each.full_name for each in self.students), key=lambda name: name.split()[-1]))
        self.assertTrue(all("Heat." in page and "of 2" in page for page in pages))
        self.assertEqual([each.get_title() for each in pdf.get_toc() if each.level == 0], names)
        self.assertNotContains(self.client.get(results), "given since")
        self.client.post(
            self.address("give-marks", sitting, "why"), {"at": f"{self.taking(sitting, 0).pk}-0", "marks": "1"}
        )
        self.assertContains(self.client.get(results), "given since")

    def test_the_pdf_can_be_stopped_and_nothing_makes_none(self) -> None:
        sitting = self.give()
        order = reverse("order-class-work", args=[sitting.pk])
        self.assertContains(self.client.post(order, follow=True), "Nothing is marked yet")
        self.hand_in(sitting, 0, "right")
        self.client.post(order)
        self.client.post(order, {"do": "stop"})
        do_jobs()
        self.assertEqual(self.client.get(reverse("class-work", args=[sitting.pk])).status_code, 404)
        self.assertContains(self.client.get(reverse("results", args=[sitting.pk])), "into one PDF")


class AtOnce(TransactionTestCase):
    """Two who mark, and a change of the rules, at the same moment."""

    def test_marks_that_are_given_while_a_rule_changes_stand(self) -> None:
        Afterwards.setUpTestData()
        case = Afterwards()
        case.client = Client()
        case.setUp()
        sitting = case.off()
        candidate, taking = case.candidate(), case.taking(sitting, 0)
        answer = {
            "kind": "quantity",
            "key": "m*9.81*h/1000",
            "unit": "kJ",
            "tolerance": {"mode": "relative", "value": "5%"},
        }
        after = with_answer(Held.of(sitting), candidate.pk, "work", answer, None)
        faults: list[BaseException] = []

        def run(work: Any) -> None:
            try:
                work()
            except BaseException as problem:
                faults.append(problem)
            finally:
                connection.close()

        def mark() -> None:
            for _ in range(5):
                give(sitting, "work", [(taking.pk, 0)], Given(case.author, Fraction(1)))

        threads = [
            threading.Thread(target=run, args=[mark]),
            threading.Thread(target=run, args=[lambda: apply(sitting, after, case.author, "wider", "too strict")]),
            threading.Thread(target=run, args=[mark]),
        ]
        for each in threads:
            each.start()
        for each in threads:
            each.join()
        self.assertEqual(faults, [])
        # what was given by hand last holds, and nobody else's was lost
        self.assertEqual(case.marks(sitting, "work"), ["1", "2", "2", "2"])
        do_jobs()
        self.assertEqual(
            preview(Sitting.objects.get(pk=sitting.pk), Held.of(Sitting.objects.get(pk=sitting.pk))).people, []
        )
        more = with_counting(with_bonus(Held.of(sitting), candidate.pk, True), Counting(cap=True))
        self.assertEqual(len(preview(Sitting.objects.get(pk=sitting.pk), more).people), 4)


# What a process of its own does, and stops in the middle of, for ever: ``where`` is what it reached.
STOPPING = """
import sys, time
from unittest import mock
import django
django.setup()
from fractions import Fraction
from vorlage.web.marking import changing, giving
from vorlage.web.marking.models import Change
from vorlage.web.people.models import User
from vorlage.web.sittings.models import Mark, Sitting
where, pk, candidate, by = sys.argv[1], *map(int, sys.argv[2:])
sitting, user = Sitting.objects.get(pk=pk), User.objects.get(pk=by)

def stop(real):
    def stopped(*arguments, **named):
        found = real(*arguments, **named)
        print("here", flush=True)
        time.sleep(600)
        return found
    return stopped

def stops(on, name):
    return mock.patch.object(on, name, stop(getattr(on, name)))

answer = {"kind": "quantity", "key": "m*9.81*h/1000", "unit": "kJ", "tolerance": {"mode": "relative", "value": "5%"}}
after = changing.with_answer(changing.Held.of(sitting), candidate, "work", answer, None)
places = [(each.pk, 0) for each in sitting.takings.all()]
if where == "marks are given":
    with stops(Mark.objects, "bulk_create"):
        giving.give(sitting, "work", places, giving.Given(user, Fraction(1), comment="Well."))
elif where == "undone":
    with stops(Mark.objects, "bulk_create"):
        changing.undo(Change.objects.get(), user)
else:
    on, name = {
        "marks are there": (Mark.objects, "bulk_create"), "rules hold": (Sitting, "save"),
        "noted": (Change.objects, "create"),
    }[where]
    with stops(on, name):
        changing.apply(sitting, after, user, "wider", "too strict")
"""


class Killed(TransactionTestCase):
    """A process that is killed in the middle of giving marks, changing rules or undoing that leaves nothing half done,
    and nobody waits for it."""

    def test_nothing_is_half_applied(self) -> None:
        Afterwards.setUpTestData()
        case = Afterwards()
        case.client = Client()
        case.setUp()
        sitting, candidate = case.off(), case.candidate()
        told = environment(database_of_test()) | {"PYTHONPATH": os.pathsep.join(sys.path)}
        for where in ("marks are given", "marks are there", "rules hold", "noted", "undone"):
            with self.subTest(where):
                if where == "undone":
                    case.make(sitting, tolerance="5%")
                before = self.everything(sitting)
                words = [sys.executable, "-c", STOPPING, where, *map(str, (sitting.pk, candidate.pk, case.author.pk))]
                with subprocess.Popen(words, env=told, stdout=subprocess.PIPE, text=True) as process:
                    assert process.stdout is not None
                    self.assertEqual(process.stdout.readline(), "here\n")
                    process.kill()
                self.assertEqual(self.everything(sitting), before)
        # the change can be undone still, and what is done next is done whole
        change = Change.objects.get()
        case.undo(sitting, change)
        self.assertEqual(case.marks(sitting, "work"), ["0"] * 4)

    def everything(self, sitting: Sitting) -> Any:
        sitting.refresh_from_db()
        return (
            list(Mark.objects.order_by("pk").values_list("pk", "marks")), list(Comment.objects.values_list("text")),
            list(Change.objects.values_list("pk", "undone")), sitting.changed, sitting.rules, sitting.events.count(),
        )  # fmt: skip
