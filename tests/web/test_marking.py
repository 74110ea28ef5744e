"""Marking: what needs an eye, groups of equal answers, marks and comments by hand, and what is never lost."""

from __future__ import annotations

import copy
from fractions import Fraction
from typing import Any
from unittest import mock

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from vorlage.core.algebra import approximate
from vorlage.core.answers import shown_marks
from vorlage.core.marking import Group
from vorlage.web.bank.models import Question, Revision
from vorlage.web.forms.models import FormSetCandidate
from vorlage.web.marking.columns import column_of
from vorlage.web.marking.models import Decision, Grouped, ReadyComment, Unsaved
from vorlage.web.marking.overview import overview
from vorlage.web.marking.slips import SlipRefused, written_as, written_into
from vorlage.web.marking.tasks import give_to_later_ones
from vorlage.web.people.models import Department
from vorlage.web.sittings.models import Comment, Mark, Sitting, Taking
from vorlage.web.sittings.questions import questions_had
from vorlage.web.sittings.remarking import report

from .samples import department, frozen, person, question, test_of
from .test_sittings import Sat, do_jobs

RUBRIC = "Where | 0 not said | 1 named | 2 with its cause\nHow | 0 | 1 a way"
PARTS: list[dict[str, Any]] = [
    {"id": "work", "wording": "The work in kilojoules?", "marks": 2, "answer": {
        "kind": "quantity", "key": "m*9.81*h/1000", "unit": "kJ", "tolerance": {"mode": "relative", "value": "1%"},
    }},
    {"id": "why", "wording": "Where does the rest go?", "marks": 3, "answer": {"kind": "essay", "rubric": RUBRIC}},
]  # fmt: skip


class Marking(Sat):
    """A sitting in which four students have handed in, each with a draw of their own."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        parameters = [{"name": "m", "definition": "100..900 step 10"}, {"name": "h", "definition": "3..40"}]
        made = question(
            cls.physics, cls.author, conditions=[], parts=PARTS, parameters=parameters, wording="$m$ kg up by $h$ m."
        )
        cls.question = made
        cls.test = test_of(cls.physics, cls.author, made)
        cls.form_set = frozen(cls.test, 4)

    def setUp(self) -> None:
        super().setUp()
        self.client.force_login(self.author)

    def sat(self, work: str = "wrong", why: str = "Heat.", **rules: Any) -> Sitting:
        """Everybody hands in: their work by what is said, ``right``, ``wrong`` (the field strength left out) or as it
        stands."""
        sitting = self.give(**rules)
        for k in range(len(self.students)):
            self.hand_in(sitting, k, work, why)
        return sitting

    def hand_in(self, sitting: Sitting, k: int, work: str, why: str = "Heat.") -> Taking:
        student = self.as_student(k)
        data = self.work(sitting, k, student)
        taking = self.taking(sitting, k)
        values = questions_had(taking)[0].drawn.values
        m, h = (approximate(values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
        typed = {"wrong": f"{m * h / 1000:.4f} kJ", "right": f"{m * 9.81 * h / 1000:.4f} kJ"}.get(work, work)
        self.save(data, (1, 0, "work", typed), (2, 0, "why", why))
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        return self.taking(sitting, k)

    def candidate(self) -> FormSetCandidate:
        return FormSetCandidate.objects.get(place__form_set=self.form_set)

    def address(self, name: str, sitting: Sitting, part: str = "work") -> str:
        return reverse(name, args=[sitting.pk, self.candidate().pk, part])

    def group(self, sitting: Sitting, kind: str) -> Any:
        groups = column_of(sitting, self.candidate(), "work").groups
        return next(each for each in groups if each.kind == kind)

    def marks(self, sitting: Sitting, part: str) -> list[str]:
        """The marks that hold, in class order."""
        found = []
        for k in range(len(self.students)):
            taking = self.taking(sitting, k)
            found += [str(shown_marks(each.held.marks)) for each in taking.marks() if each.part == part]
        return found


class Rounded(Marking):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        tolerance = {"mode": "decimal_places", "value": "1"}
        part = {"id": "work", "wording": "How far?", "marks": 1,
                "answer": {"kind": "number", "key": "11.58", "tolerance": tolerance}}  # fmt: skip
        made = question(cls.physics, cls.author, conditions=[], parts=[part], parameters=[], wording="So far.")
        cls.question, cls.test = made, test_of(cls.physics, cls.author, made)
        cls.form_set = frozen(cls.test, 1)

    def test_rounded_in_several_ways_it_is_marked_by_rule_with_reasons_and_nobody_opens_one(self) -> None:
        sitting = self.give()
        for k, typed in enumerate(("11.5", "11.58", "11.6", "11.4")):
            student = self.as_student(k)
            self.save(self.work(sitting, k, student), (1, 0, "work", typed))
            student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        marks = [self.taking(sitting, k).marks()[0] for k in range(4)]
        self.assertEqual([each.outcome for each in marks], ["wrong", "right", "right", "wrong"])
        self.assertTrue(all(each.because and each.code for each in marks), [each.because for each in marks])
        page = self.client.get(reverse("mark-sitting", args=[sitting.pk]))
        self.assertContains(page, "everything is marked")


class Orders(Marking):
    def test_by_student_and_by_form_what_needs_an_eye_comes_one_after_the_other(self) -> None:
        sitting = self.give()
        for k in range(4):
            self.hand_in(sitting, k, "2*(" if k < 2 else "right")
        for by in ("student", "form"):
            page = self.client.get(reverse("mark-sitting", args=[sitting.pk]), {"by": by})
            order = [row["taking"].pk for row in page.context["students"]] if by == "student" else [
                taking.pk for row in page.context["forms"] for taking in sitting.takings.filter(form=row["form"])
            ]  # fmt: skip
            turn, seen = page.context["turn"], []
            self.assertContains(page, "Mark what waits")
            address = turn.address
            for _ in range(6):
                page = self.client.get(address)
                answer = page.context["answer"]
                seen.append((answer.taking.pk, page.context["asked"].part))
                given = {"at": answer.entry.place, "marks": "0", "by": by}
                part = page.context["asked"].part
                answered = self.client.post(self.address("give-marks", sitting, part), given)
                address = answered.url
            wanted = [
                (taking, part) for taking in order for part in ("work", "why")
                if part == "why" or taking in {self.taking(sitting, 0).pk, self.taking(sitting, 1).pk}
            ]  # fmt: skip
            self.assertEqual(seen, wanted)
            self.assertEqual(address, f"{reverse('mark-sitting', args=[sitting.pk])}?by={by}")
            self.assertIsNone(self.client.get(address).context["turn"])
            Mark.objects.exclude(by=None).delete()

    def test_one_that_is_passed_over_comes_again_at_the_end(self) -> None:
        sitting = self.sat(work="right")
        address = self.client.get(reverse("mark-sitting", args=[sitting.pk]), {"by": "form"}).context["turn"].address
        first = page = self.client.get(address)
        for _ in range(3):
            page = self.client.get(page.context["after"])
        self.assertEqual(page.context["after"], address)
        self.assertEqual(first.context["before"], "")
        # a refusal keeps the order
        given = {"at": first.context["answer"].entry.place, "marks": "99", "by": "form"}
        refused = self.client.post(self.address("give-marks", sitting, "why"), given)
        self.assertContains(refused, 'name="by" value="form"', status_code=422)


class Groups(Marking):
    def test_one_mistake_in_many_draws_is_marked_once(self) -> None:
        sitting = self.sat()
        page = self.client.get(self.address("mark-part", sitting))
        self.assertContains(page, "the factor 9.81 was left out")
        group = self.group(sitting, "formula")
        self.assertEqual((group.formula, len(group.members)), ("m*h/1000", 4))
        given = {"group": group.key, "marks": "1", "comment": "Weight is $m*9.81$.", "reason": "energy with mass"}
        self.client.post(self.address("give-marks", sitting), given)
        self.assertEqual(self.marks(sitting, "work"), ["1"] * 4)
        mark = Mark.objects.filter(part="work").latest("pk")
        self.assertEqual(
            (mark.by, mark.reason, mark.outcome, mark.code), (self.author, "energy with mass", "partly", "by_hand")
        )
        self.assertEqual(Comment.objects.filter(for_student=True).count(), 4)
        self.assertEqual([each.text for each in ReadyComment.objects.all()], ["Weight is $m*9.81$."])
        # the mark before it is there still
        self.assertEqual(Mark.objects.filter(part="work", by=None).count(), 4)
        page = self.client.get(self.address("mark-part", sitting) + f"?group={group.key}")
        self.assertContains(page, "gave these 1 of 2 marks")

    def test_members_can_be_taken_out(self) -> None:
        sitting = self.sat()
        group = self.group(sitting, "formula")
        column = column_of(sitting, self.candidate(), "work")
        cells = [column.entries[k].place for k in group.members[:3]]
        self.client.post(
            self.address("give-marks", sitting), {"group": group.key, "marks": "1", "cell": cells, "ticked": "1"}
        )
        self.assertEqual(sorted(self.marks(sitting, "work")), ["0", "1", "1", "1"])
        refused = self.client.post(
            self.address("give-marks", sitting), {"group": group.key, "marks": "2", "ticked": "1"}
        )
        self.assertContains(refused, "No answer is chosen", status_code=422)

    def test_later_answers_of_a_group_get_the_same_unless_that_is_not_wished(self) -> None:
        for later in (True, False):
            sitting = self.give()
            for k in range(3):
                self.hand_in(sitting, k, "wrong")
            group = self.group(sitting, "formula")
            given = {"group": group.key, "marks": "1"} | ({"later": "1"} if later else {})
            self.client.post(self.address("give-marks", sitting), given)
            self.hand_in(sitting, 3, "wrong")
            give_to_later_ones()
            give_to_later_ones()
            self.assertEqual(self.marks(sitting, "work"), ["1", "1", "1", "1" if later else "0"])
            last = Mark.objects.filter(taking=self.taking(sitting, 3), part="work").latest("pk")
            self.assertEqual(last.by, self.author if later else None)

    def test_what_was_decided_is_taken_back(self) -> None:
        sitting = self.sat()
        group = self.group(sitting, "formula")
        self.client.post(self.address("give-marks", sitting), {"group": group.key, "marks": "1"})
        self.client.post(self.address("marks-by-rule", sitting), {"group": group.key})
        self.assertEqual(self.marks(sitting, "work"), ["0"] * 4)
        self.assertIsNotNone(Decision.objects.get().undone)
        # nothing is gone: rule, hand, rule
        self.assertEqual(Mark.objects.filter(part="work").count(), 12)

    def test_a_group_becomes_a_slip_of_the_question(self) -> None:
        sitting = self.sat()
        group = self.group(sitting, "formula")
        refused = self.client.post(self.address("write-slip", sitting), {"group": group.key})
        self.assertContains(refused, "Give the group its marks first", status_code=422)
        self.client.post(
            self.address("give-marks", sitting), {"group": group.key, "marks": "1", "comment": "Mind the weight."}
        )
        self.client.post(self.address("write-slip", sitting), {"group": group.key})
        newest = Question.objects.get(pk=self.question.pk).newest
        self.assertEqual(newest.number, 2)
        slip = {"key": "m*h/1000", "share": "1/2", "feedback": "Mind the weight."}
        self.assertEqual(newest.document["parts"][0]["answer"]["slips"], [slip])
        # once more is the same slip, not a second one
        self.client.post(self.address("write-slip", sitting), {"group": group.key})
        self.assertEqual(
            Question.objects.get(pk=self.question.pk).newest.document["parts"][0]["answer"]["slips"], [slip]
        )
        # whoever only marks it writes nothing into it
        marker = person("marker", department("Chemistry"))
        sitting.markers.add(marker)
        client = Client()
        client.force_login(marker)
        self.assertEqual(client.post(self.address("write-slip", sitting), {"group": group.key}).status_code, 403)

    def test_it_is_marked_and_written_into_the_question_in_one_step(self) -> None:
        sitting = self.sat()
        group = self.group(sitting, "formula")
        page = self.client.get(self.address("mark-part", sitting), {"group": group.key})
        self.assertContains(page, "too, as a slip")
        given = {"group": group.key, "marks": "1", "comment": "Mind the weight.", "write": "1"}
        self.client.post(self.address("give-marks", sitting), given)
        self.assertEqual(self.marks(sitting, "work"), ["1"] * 4)
        answer = Question.objects.get(pk=self.question.pk).newest.document["parts"][0]["answer"]
        self.assertEqual(answer["slips"], [{"key": "m*h/1000", "share": "1/2", "feedback": "Mind the weight."}])

    def test_a_near_miss_earns_something_from_now_on(self) -> None:
        sitting = self.give()
        for k in range(4):
            values = questions_had(self.taking(sitting, k))[0].drawn.values
            m, h = (approximate(values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
            self.hand_in(sitting, k, f"{m * 9.81 * h / 100:.4f} kJ")
        near = self.group(sitting, "near")
        page = self.client.get(self.address("mark-part", sitting), {"group": near.key})
        self.assertContains(page, "too, as a near-miss")
        given = {"group": near.key, "marks": "0.5", "write": "1"}
        page = self.client.post(self.address("give-marks", sitting), given, follow=True)
        self.assertContains(page, "a near-miss of the question from revision 2")
        answer = Question.objects.get(pk=self.question.pk).newest.document["parts"][0]["answer"]
        self.assertEqual([(each["name"], each["share"]) for each in answer["recognise"]], [("power_of_ten", "1/4")])

    def test_what_is_close_becomes_a_band(self) -> None:
        group, half = Group("value", "36.7 kJ", (0, 1)), Fraction(1, 2)
        for _ in range(2):
            # once more is the same band, not a second one
            revision = written_into(self.question, "work", group, 3.137, half, "Look again.", self.author)
            (band,) = revision.document["parts"][0]["answer"]["bands"]
            self.assertEqual(
                (band["tolerance"]["value"], band["share"], band["feedback"]), ("4%", "1/2", "Look again.")
            )
        for nearest in (None, 0.0, 51.0):
            self.assertEqual(written_as(group, nearest), "")
            with self.assertRaises(SlipRefused):
                written_into(self.question, "work", group, nearest, half, "", self.author)

    def test_groups_are_kept_until_an_answer_comes(self) -> None:
        sitting = self.give()
        for k in range(3):
            self.hand_in(sitting, k, "wrong")
        self.client.get(self.address("mark-part", sitting))
        kept = Grouped.objects.get(part="work")
        with mock.patch("vorlage.web.marking.columns.worked_out") as again:
            self.client.get(self.address("mark-part", sitting))
            again.assert_not_called()
        self.hand_in(sitting, 3, "right")
        self.client.get(self.address("mark-part", sitting))
        self.assertNotEqual(Grouped.objects.get(part="work").version, kept.version)
        self.assertEqual(len(self.group(sitting, "right").members), 1)


class Eye(Marking):
    def test_unreadable_ones_come_first_and_long_ones_wait(self) -> None:
        sitting = self.sat(work="see sheet")
        found = overview(sitting)
        self.assertEqual(dict(found.eye), {"unreadable": 4, "waiting": 4})
        self.assertContains(self.client.get(reverse("marking")), sitting.title)
        page = self.client.get(reverse("mark-sitting", args=[sitting.pk]))
        self.assertContains(page, "4 cannot be read")
        self.assertContains(page, "4 wait for a mark")
        page = self.client.get(self.address("mark-part", sitting))
        self.assertEqual([each.reason for each in page.context["queue"]], ["unreadable"] * 4)
        # a mark by hand and it is looked at
        at = page.context["answer"].entry.place
        self.client.post(self.address("give-marks", sitting), {"at": at, "marks": "0"})
        self.assertEqual(overview(sitting).eye["unreadable"], 3)

    def test_what_is_near_the_key_is_sent_there_by_a_rule(self) -> None:
        sitting = self.sat()
        taking = self.taking(sitting, 0)
        values = questions_had(taking)[0].drawn.values
        m, h = (approximate(values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
        other = self.give()
        self.hand_in(other, 0, f"{m * 9.81 * h / 1000 * 1.05:.4f} kJ")
        self.assertEqual(self.client.get(self.address("mark-part", other)).context["queue"], [])
        rule = reverse("mark-rule", args=[other.pk])
        self.client.post(rule, {"near": "10 %"})
        queue = self.client.get(self.address("mark-part", other)).context["queue"]
        self.assertEqual([each.reason for each in queue], ["near"])
        self.client.post(rule, {"near": "3"})
        self.assertEqual(self.client.get(self.address("mark-part", other)).context["queue"], [])
        for wrong in ("0", "101", "x", "-4", "9" * 30):
            self.assertContains(self.client.post(rule, {"near": wrong}, follow=True), "whole number of per cent")

    def test_what_only_agrees_waits_where_a_rule_says_so(self) -> None:
        sitting = self.sat(work="right")
        Mark.objects.filter(part="work").update(certainty="agrees")
        self.assertEqual(dict(overview(sitting).eye), {"waiting": 4})
        self.client.post(reverse("mark-rule", args=[sitting.pk]), {"agrees": "on"})
        self.assertEqual(dict(overview(sitting).eye), {"waiting": 4, "agrees": 4})

    def test_nothing_is_handed_in(self) -> None:
        self.assertContains(self.client.get(reverse("marking")), "Nothing is handed in yet")
        sitting = self.give()
        self.assertContains(self.client.get(reverse("mark-sitting", args=[sitting.pk])), "Nobody has handed in yet")
        self.assertContains(self.client.get(self.address("mark-part", sitting)), "There is nothing here")


class ByHand(Marking):
    def test_a_rubric_is_summed_and_its_levels_come_back(self) -> None:
        sitting = self.sat()
        page = self.client.get(self.address("mark-part", sitting, "why"))
        self.assertContains(page, "with its cause")
        first = page.context["answer"].entry.place
        answer = self.client.post(
            self.address("give-marks", sitting, "why"),
            {"at": first, "level_0": "2", "level_1": "0", "comment": "Say how."},
        )
        # the next one is there
        self.assertNotIn(first, answer.headers["Location"])
        mark = Mark.objects.filter(part="why").latest("pk")
        self.assertEqual((mark.marks, mark.outcome), ("2", "partly"))
        self.assertEqual(
            mark.levels,
            [{"name": "Where", "marks": "2", "text": "with its cause"}, {"name": "How", "marks": "0", "text": ""}],
        )
        sitting.released = timezone.now()
        sitting.save()
        k = next(k for k in range(4) if self.taking(sitting, k).pk == int(first.split("-")[0]))
        student = self.as_student(k)
        seen = student.get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(seen, "with its cause")
        self.assertContains(seen, "Say how.")
        self.assertEqual(student.get(reverse("own-work", args=[sitting.pk])).status_code, 200)
        # nobody else's
        self.assertNotContains(self.as_student((k + 1) % 4).get(reverse("sitting-done", args=[sitting.pk])), "Say how.")

    def test_a_level_that_is_missing_and_marks_that_say_otherwise(self) -> None:
        sitting = self.sat()
        at = self.client.get(self.address("mark-part", sitting, "why")).context["answer"].entry.place
        give = self.address("give-marks", sitting, "why")
        answer = self.client.post(give, {"at": at, "level_0": "2"})
        self.assertContains(answer, "Choose a level for How, or type the marks", status_code=422)
        self.client.post(give, {"at": at, "level_0": "2", "marks": "2.5"})
        mark = Mark.objects.filter(part="why").latest("pk")
        self.assertEqual((mark.marks, len(mark.levels)), ("5/2", 1))

    def test_marks_that_cannot_be_given_are_refused_and_what_was_typed_stays(self) -> None:
        sitting = self.sat()
        at = column_of(sitting, self.candidate(), "work").entries[0].place
        give = self.address("give-marks", sitting)
        refusals = {
            "3": "Marks here go from 0 to 2", "-1": "Marks here go from 0 to 2", "0.3": "gives marks in halves",
            "x": "is no number", "": "Type the marks", "1/0": "is no number", "1e400": "is no number", "1e99999999": "is no number", "NaN": "is no number",
        }  # fmt: skip
        for typed, why in refusals.items():
            answer = self.client.post(give, {"at": at, "marks": typed, "comment": "Nearly there."})
            self.assertContains(answer, why, status_code=422)
            self.assertContains(answer, "Nearly there.", status_code=422)
        self.assertEqual(Mark.objects.exclude(by=None).count(), 0)
        self.assertEqual(Comment.objects.count(), 0)
        for typed, marks in {"1,5": "3/2", "½": "1/2", "1½": "3/2", "3/2": "3/2", "2": "2"}.items():
            self.assertEqual(self.client.post(give, {"at": at, "marks": typed}).status_code, 302)
            self.assertEqual(Mark.objects.latest("pk").marks, marks)
        Department.objects.filter(pk=self.physics.pk).update(mark_step="1")
        self.assertContains(self.client.post(give, {"at": at, "marks": "1.5"}), "whole marks", status_code=422)

    def test_what_is_typed_is_kept_until_it_is_given(self) -> None:
        sitting = self.sat()
        at = column_of(sitting, self.candidate(), "work").entries[0].place
        typed = {"at": at, "marks": "1", "comment": "Half of it", "strange": "x"}
        self.assertEqual(self.client.post(self.address("keep-typed", sitting), typed).status_code, 204)
        self.assertEqual(Unsaved.objects.get().typed, {"marks": "1", "comment": "Half of it"})
        page = self.client.get(self.address("mark-part", sitting) + f"?at={at}")
        self.assertContains(page, "Half of it")
        self.client.post(self.address("give-marks", sitting), typed)
        self.assertFalse(Unsaved.objects.exists())

    def test_two_markers_are_told_of_each_other(self) -> None:
        sitting = self.sat()
        marker = person("marker", department("Chemistry"))
        sitting.markers.add(marker)
        other = Client()
        other.force_login(marker)
        page = self.client.get(self.address("mark-part", sitting, "why"))
        at, upto = page.context["answer"].entry.place, page.context["upto"]
        seen = other.get(self.address("mark-part", sitting, "why") + f"?at={at}")
        self.assertContains(seen, f"{self.author.name} has it before them")
        other.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": "3", "upto": upto})
        mine = {"at": at, "marks": "1", "upto": upto, "comment": "no"}
        answer = self.client.post(self.address("give-marks", sitting, "why"), mine)
        self.assertContains(answer, f"{marker.name} gave it a mark meanwhile", status_code=409)
        self.assertEqual(Mark.objects.latest("pk").marks, "3")
        again = mine | {"upto": answer.context["upto"]}
        self.client.post(self.address("give-marks", sitting, "why"), again)
        self.assertEqual(Mark.objects.latest("pk").marks, "1")

    def test_names_are_hidden_until_they_are_wished_and_the_order_is_mixed(self) -> None:
        sitting = self.sat()
        page = self.client.get(self.address("mark-part", sitting, "why") + "?all")
        for student in self.students:
            self.assertNotContains(page, student.family)
        page = self.client.get(self.address("mark-part", sitting, "why") + "?all&names=show")
        for student in self.students:
            self.assertContains(page, student.family)
        self.assertContains(self.client.get(reverse("mark-sitting", args=[sitting.pk]) + "?by=student"), "Fam2")
        self.client.get(self.address("mark-part", sitting, "why") + "?names=hide")
        self.assertNotContains(self.client.get(reverse("mark-sitting", args=[sitting.pk]) + "?by=student"), "Fam2")

    def test_a_mark_by_hand_stays_when_it_is_reopened_and_marked_again(self) -> None:
        sitting = self.sat()
        taking = self.taking(sitting, 0)
        self.client.post(self.address("give-marks", sitting), {"at": f"{taking.pk}-0", "marks": "2"})
        self.client.post(
            reverse("act-in-sitting", args=[sitting.pk]), {"what": "reopen", "who": taking.pk, "reason": "x"}
        )
        self.as_student(0).post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        self.assertEqual(self.marks(sitting, "work")[0], "2")

    def test_by_student_and_by_form(self) -> None:
        sitting = self.sat()
        page = self.client.get(reverse("mark-student", args=[sitting.pk, self.taking(sitting, 1).pk]))
        self.assertContains(page, "0 of 5 marks, so far")
        self.assertContains(self.client.get(reverse("mark-sitting", args=[sitting.pk]) + "?by=form"), "Mean so far")
        self.assertEqual(self.client.get(reverse("mark-student", args=[sitting.pk, 999_999])).status_code, 404)

    def test_what_was_given_before_a_kill_stands_whole_or_not_at_all(self) -> None:
        sitting = self.sat()
        group = self.group(sitting, "formula")
        with mock.patch("vorlage.web.marking.acting.decide", side_effect=RuntimeError), self.assertRaises(RuntimeError):
            self.client.post(self.address("give-marks", sitting), {"group": group.key, "marks": "1", "comment": "x"})
        self.assertEqual(Mark.objects.exclude(by=None).count(), 0)
        self.assertEqual(Comment.objects.count(), 0)

    def test_as_many_queries_for_many_as_for_few(self) -> None:
        few = self.give()
        self.hand_in(few, 0, "wrong")
        many = self.sat()
        counts = []
        for sitting in (few, many):
            for address in (self.address("mark-part", sitting) + "?all", reverse("mark-sitting", args=[sitting.pk])):
                self.client.get(address)
                with CaptureQueriesContext(
                    connection,
                ) as queries:
                    self.client.get(address)
                counts.append(len(queries))
        self.assertEqual(counts[:2], counts[2:])
        self.assertLess(max(counts), 32)

    def test_totals_count_what_was_given(self) -> None:
        sitting = self.sat(work="right")
        taking = self.taking(sitting, 0)
        self.client.post(self.address("give-marks", sitting, "why"), {"at": f"{taking.pk}-0", "marks": "2.5"})
        page = self.client.get(reverse("mark-student", args=[sitting.pk, taking.pk]))
        self.assertEqual(page.context["total"].reached, Fraction(9, 2))
        self.assertFalse(page.context["total"].so_far)


class Remarking(Marking):
    """What would come out otherwise is listed, and nothing is changed."""

    def test_only_what_a_rule_decided_and_decides_otherwise_now_is_listed(self) -> None:
        sitting = self.sat("right")
        self.assertEqual(list(report()), [])
        marks = Mark.objects.filter(taking__sitting=sitting, part="work").order_by("pk")
        first, second = marks[0], marks[1]
        Mark.objects.filter(pk=first.pk).update(outcome="wrong", share="0", marks="0")
        Mark.objects.filter(pk=second.pk).update(outcome="wrong", share="0", marks="0", by=self.author)
        kept = list(Mark.objects.order_by("pk").values())
        (line,) = report()
        self.assertIn("was wrong, 0 of 2; now right, 2 of 2", line)
        self.assertIn(first.taking.who, line)
        self.assertEqual(list(Mark.objects.order_by("pk").values()), kept)

    def test_a_question_that_is_unsound_now_and_a_student_in_trouble_stop_nobody(self) -> None:
        self.sat("right")
        revision = self.question.newest
        document = copy.deepcopy(revision.document)
        document["parts"][0]["answer"]["unit"] = "blorb"
        Revision.objects.filter(pk=revision.pk).update(document=document)
        with mock.patch("vorlage.web.sittings.remarking.marks_by_rule", side_effect=ValueError("no more")):
            lines = list(report())
        self.assertIn("blorb", lines[0])
        self.assertEqual(sum("could not be marked anew: no more" in line for line in lines), len(self.students))
