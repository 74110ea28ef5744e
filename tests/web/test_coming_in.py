"""Who is at a sitting: by the list, by a code with a name or without one, to try it; and what is done for them there."""

from __future__ import annotations

import io
import json
import re
from dataclasses import replace
from fractions import Fraction
from typing import Any

from django.core.cache import cache
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from pypdfium2 import PdfDocument

from vorlage.core.sittings import ROWS
from vorlage.web.classes.models import Allowance, Student
from vorlage.web.seating.models import Room, SeatPlan
from vorlage.web.sittings.models import WORKING_PART, Event, Mark, Response, Sitting, StudentItem, Taking, Way

from .samples import department, person
from .test_sittings import MINUTE, Sat, do_jobs

RELEASED = dict.fromkeys(ROWS, "released")


def words(pdf: bytes) -> str:
    return "\n".join(page.get_textpage().get_text_bounded() for page in PdfDocument(io.BytesIO(pdf)))


class Doors(Sat):
    def come(self, sitting: Sitting, status: int = 302, **typed: str) -> Client:
        client = Client()
        answer = client.post(reverse("enter-sitting", args=[sitting.code]), typed)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return client

    def as_guest(self, sitting: Sitting, client: Client) -> dict[str, Any]:
        """Begin as whoever came in by the code; what the page was given."""
        client.post(reverse("begin-sitting", args=[sitting.pk]))
        page = client.get(reverse("sit-work", args=[sitting.pk]))
        self.assertEqual(page.status_code, 200)
        found = re.search(r'<script id="sitting-data" type="application/json">(.*?)</script>', page.content.decode())
        assert found
        return json.loads(found[1])

    def test_a_code_leads_to_its_door_and_many_wrong_ones_do_not(self) -> None:
        sitting = self.give(come_in="named")
        client = Client()
        code = str(sitting.code)
        answer = client.post(reverse("enter-code"), {"code": f" {code[:3].lower()} {code[3:].lower()}"})
        self.assertRedirects(answer, reverse("sitting-door", args=[code]))
        wrong = client.post(reverse("enter-code"), {"code": "ZZZ<1"})
        self.assertContains(wrong, "No sitting has this code", status_code=422)
        self.assertContains(wrong, "ZZZ&lt;1", status_code=422)
        # a class that mistypes is not kept out, a machine that guesses is
        for _ in range(40):
            client.post(reverse("enter-code"), {"code": "ZZZZZZ"})
        self.assertEqual(client.post(reverse("enter-code"), {"code": code}).status_code, 302)
        cache.set("tried-code-127.0.0.1", 400, 60)
        self.assertEqual(client.post(reverse("enter-code"), {"code": code}).status_code, 429)
        self.assertEqual(client.get(reverse("sitting-door", args=[code])).status_code, 404)

    def test_names_that_only_accents_tell_apart_are_two_students(self) -> None:
        sitting = self.give(come_in="named")
        both = [
            Student.objects.create(school=self.physics.school, family=family, given="Ada", number=number)
            for family, number in (("Müller", "81"), ("Muller", "82"))
        ]
        self.held.enrol([each.pk for each in both])
        for name, expected in (("Ada Muller", both[1]), ("müller, ada", both[0]), ("Ada Müllér", None)):
            with self.subTest(name):
                self.come(sitting, name=name, group="10 a")
                taking = sitting.takings.order_by("-pk")[0]
                found = sitting.takings.filter(student=expected) if expected else [taking]
                self.assertTrue(found)
                self.assertEqual(taking.student if expected is None else found[0].student, expected)

    def test_a_student_without_a_sign_in_comes_in_with_name_and_class(self) -> None:
        sitting = self.give(come_in="named", word="Heron")
        new = Student.objects.create(school=self.physics.school, family="Sørensen", given="Åse", number="77")
        self.held.enrol([new.pk])
        client = self.come(sitting, name="sorensen, ase", group="10 a")
        start = client.get(reverse("sit", args=[sitting.pk]))
        self.assertContains(start, "Entry word")
        self.assertNotContains(start, "Sign out")
        wrong = client.post(reverse("begin-sitting", args=[sitting.pk]), {"word": "gull"})
        self.assertContains(wrong, "not the word", status_code=422)
        client.post(reverse("begin-sitting", args=[sitting.pk]), {"word": "heron "})
        self.assertEqual(client.get(reverse("sit-work", args=[sitting.pk])).status_code, 200)
        taking = Taking.objects.get(sitting=sitting, student=new)
        self.assertIsNotNone(taking.begun)
        # the same name from elsewhere goes on where the first is, and the teacher sees it
        self.come(sitting, name="Åse Sørensen", group="10 A")
        taking.refresh_from_db()
        self.assertEqual((Taking.objects.filter(student=new).count(), taking.entries), (1, 2))
        self.assertEqual(client.get(reverse("sit", args=[sitting.pk])).status_code, 302)
        self.client.force_login(self.author)
        self.assertContains(self.client.get(reverse("sitting", args=[sitting.pk])), "came in 2×")

    def test_whoever_has_a_sign_in_must_use_it(self) -> None:
        sitting = self.give(come_in="named")
        client = Client()
        typed = {"name": "Mia Fam0", "group": "10 A"}
        answer = client.post(reverse("enter-sitting", args=[sitting.code]), typed)
        self.assertContains(answer, "You have a sign-in", status_code=422)
        self.assertContains(answer, "Mia Fam0", status_code=422)
        self.assertEqual(client.get(reverse("sit", args=[sitting.pk])).status_code, 302)

    def test_somebody_who_is_in_no_list_is_told_apart(self) -> None:
        sitting = self.give(come_in="named")
        for typed, field in (
            ({"name": "", "group": "10 A"}, "given name"),
            ({"name": "Kai Berg", "group": ""}, "class"),
        ):
            answer = Client().post(reverse("enter-sitting", args=[sitting.code]), typed)
            self.assertContains(answer, field, status_code=422)
        client = self.come(sitting, name="Kai Berg", group="visitor")
        data = self.as_guest(sitting, client)
        (q, p) = self.parts(Taking.objects.get(name="Kai Berg"))[0]
        self.save(data, (1, q, p, "12"))
        client.post(reverse("hand-in", args=[sitting.pk]))
        self.assertContains(client.get(reverse("sitting-done", args=[sitting.pk])), "Receipt")
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting", args=[sitting.pk]))
        self.assertContains(page, "Kai Berg, visitor")
        self.assertContains(page, "not in the list")
        # somebody else's cookie opens nothing
        other = Client()
        other.cookies[f"vorlage-in-{sitting.pk}"] = "1:guess"
        self.assertEqual(other.get(reverse("sit", args=[sitting.pk])).status_code, 302)

    def test_answers_without_a_name_belong_to_nobody(self) -> None:
        sitting = self.give(come_in="anonymous", counts=False, seen=RELEASED | {"own": "handed_in"})
        self.assertFalse(Taking.objects.filter(sitting=sitting).exists())
        student = self.as_student(0)
        self.assertContains(student.get(reverse("mine")), reverse("sitting-door", args=[sitting.code]))
        self.assertEqual(student.get(reverse("sit", args=[sitting.pk])).status_code, 404)
        door = student.get(reverse("sitting-door", args=[sitting.code]))
        self.assertContains(door, "cannot be joined to you")
        student.post(reverse("enter-sitting", args=[sitting.code]), {"name": "Mia Fam0", "group": "10 A"})
        data = self.as_guest(sitting, student)
        taking = Taking.objects.get(sitting=sitting)
        self.assertEqual((taking.student, taking.name, taking.group, taking.entries), (None, "", "", 0))
        (q, p) = self.parts(taking)[0]
        self.save(data, (1, q, p, "12"))
        student.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        # no row that says anything of this sitting says who it was: every table, every column
        own = {f"{column}" for column in ("student_id", "user_id", "by_id", "tried_by_id", "tried_as_id")}
        with connection.cursor() as cursor:
            for table in ("taking", "response", "mark", "event", "hinttaken"):
                cursor.execute(f"SELECT * FROM sittings_{table}")
                names = [each[0] for each in cursor.description]
                for row in cursor.fetchall():
                    told = {name: value for name, value in zip(names, row) if name in own and value is not None}
                    kinds = {"given": self.author.pk}
                    self.assertLessEqual(set(told.values()), set(kinds.values()), (table, told))
                    self.assertNotIn("Fam0", str(row))
        # another browser is another one
        self.come(sitting)
        self.assertEqual(Taking.objects.filter(sitting=sitting).count(), 2)
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting", args=[sitting.pk]))
        self.assertContains(page, "without a name")
        self.assertNotContains(page, "Fam0")

    def test_a_sitting_that_becomes_one_without_names_has_none(self) -> None:
        sitting = self.give()
        self.assertEqual(sitting.takings.count(), 4)
        self.client.force_login(self.author)
        self.client.post(reverse("take-sitting-rules", args=[sitting.pk]), {"way": "survey"})
        self.assertEqual(sitting.takings.count(), 0)
        self.assertNotContains(self.client.get(reverse("sitting", args=[sitting.pk])), "Fam0")
        self.client.post(reverse("take-sitting-rules", args=[sitting.pk]), {"way": "test"})
        self.assertEqual(sitting.takings.exclude(student=None).count(), 4)

    def test_networks_the_door_and_late_beginners(self) -> None:
        sitting = self.give(networks=("10.20.0.0/16",))
        client = self.as_student(0)
        self.assertContains(client.get(reverse("sit", args=[sitting.pk])), "network only")
        answer = client.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertEqual(answer.status_code, 403)
        self.assertIsNone(self.taking(sitting).begun)
        client.post(reverse("begin-sitting", args=[sitting.pk]), REMOTE_ADDR="10.20.3.4")
        self.assertIsNotNone(self.taking(sitting).begun)
        self.assertEqual(client.get(reverse("sit-work", args=[sitting.pk])).status_code, 403)

        sitting = self.give(one_by_one=True)
        self.assertContains(client.get(reverse("sit", args=[sitting.pk])), "lets you in")
        client.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertIsNone(self.taking(sitting).begun)
        self.client.force_login(self.author)
        self.client.post(
            reverse("act-in-sitting", args=[sitting.pk]), {"what": "let-in", "who": [self.taking(sitting).pk]}
        )
        self.work(sitting)
        self.assertIsNotNone(self.taking(sitting).begun)

        sitting = self.give(opens=timezone.localtime() - 30 * MINUTE, begin_within=20 * MINUTE)
        self.assertContains(client.get(reverse("sit", args=[sitting.pk])), "cannot begin any more")


class Deeds(Sat):
    def act(self, sitting: Sitting, what: str, k: int = 0, **more: str) -> str:
        self.client.force_login(self.author)
        who = {"who": [self.taking(sitting, k).pk]} if "everybody" not in more else {}
        answer = self.client.post(
            reverse("act-in-sitting", args=[sitting.pk]), {"what": what, **who, **more}, follow=True
        )
        return answer.content.decode()

    def test_another_form_keeps_what_was_written_and_counts_none_of_it(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        before = self.taking(sitting)
        (q, p) = self.parts(before)[0]
        self.save(data, (1, q, p, "12"))
        self.assertIn("given another form", self.act(sitting, "form", reason="numbers were seen"))
        after = self.taking(sitting)
        self.assertNotEqual(after.form_id, before.form_id)
        self.assertEqual(self.road("what-changed", data)["stop"], "another_form")
        self.assertFalse(self.save(data, (2, q, p, "13"))["counts"])
        self.assertEqual(Response.objects.filter(taking=after).count(), 2)
        self.assertEqual(after.answers(), {})
        fresh = self.work(sitting)
        self.assertEqual(fresh["answers"], [])
        self.assertTrue(self.save(fresh, (1, q, p, "14"))["counts"])
        self.assertEqual(self.taking(sitting).answers(), {(q, p): "14"})
        self.assertEqual(Event.objects.get(kind="form").reason, "numbers were seen")

    def test_other_allowances_here_need_a_reason_and_never_shorten(self) -> None:
        sitting = self.give(limit=40 * MINUTE)
        self.work(sitting)
        ends = self.taking(sitting).ends
        assert ends is not None
        self.assertIn("Say why", self.act(sitting, "allow", allow_percent="25"))
        self.assertIn("whole number", self.act(sitting, "allow", allow_percent="a lot", reason="x"))
        self.act(sitting, "allow", allow_percent="25 %", reason="broken hand")
        taking = self.taking(sitting)
        self.assertEqual((taking.percent, taking.ends), (25, ends + 10 * MINUTE))
        self.act(sitting, "allow", reason="as ever")
        taking = self.taking(sitting)
        self.assertEqual((taking.percent, taking.ends), (None, ends + 10 * MINUTE))
        # who begins later begins with it
        self.act(sitting, "allow", 1, allow_minutes="5", reason="late bus")
        self.work(sitting, 1)
        other = self.taking(sitting, 1)
        assert other.ends is not None and other.begun is not None
        self.assertEqual(other.ends - other.begun, 45 * MINUTE)

    def test_results_of_one_are_withheld_or_come_first(self) -> None:
        sitting = self.give()
        for k in (0, 1, 2):
            self.work(sitting, k)
        self.act(sitting, "hand-in", everybody="on")
        do_jobs()
        now = timezone.now()
        self.act(sitting, "release", 1)
        self.assertEqual([bool(self.taking(sitting, k).seen(now)) for k in (0, 1, 2)], [False, True, False])
        self.act(sitting, "withhold", 2)
        self.client.post(reverse("release-sitting", args=[sitting.pk]), {"what": "release"})
        rows = [self.taking(sitting, k).seen(timezone.now()) for k in (0, 1, 2)]
        usual = set(ROWS) - {"class"}
        self.assertEqual([set(each) for each in rows], [usual, usual, set()])
        self.act(sitting, "give-back", 2)
        self.assertEqual(self.taking(sitting, 2).seen(timezone.now()), usual)

    def test_a_break_stops_the_clock_for_whom_it_is_allowed(self) -> None:
        Allowance.objects.create(student=self.students[0], breaks=True)
        sitting = self.give(limit=40 * MINUTE)
        data, other = self.work(sitting, 0), self.work(sitting, 1)
        self.road("take-break", other, {"begins": True}, 409)
        self.assertEqual(self.road("take-break", data, {"begins": True})["phase"], "paused")
        Taking.objects.filter(pk=self.taking(sitting).pk).update(paused=timezone.now() - 5 * MINUTE)
        left = self.road("take-break", data, {"begins": False})["left"]
        self.assertGreater(left, 44 * 60)
        # a pause of the teacher's is not ended by the student
        self.act(sitting, "pause")
        self.road("take-break", data, {"begins": False}, 409)

    def test_a_note_to_one_is_read_by_nobody_else(self) -> None:
        sitting = self.give(questions=True)
        data, other = self.work(sitting, 0), self.work(sitting, 1)
        (q, p) = self.parts(self.taking(sitting))[0]
        self.save(data, (1, q, p, "12"))
        self.road("ask-about-question", data, {"q": q, "p": "asked", "r": "  Is it   upwards? "})
        asked = Event.objects.get(kind="asked")
        self.assertEqual(asked.data, {"question": q + 1, "text": "Is it upwards?", "answers": {p: "12"}})
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting", args=[sitting.pk]), {"to": asked.taking_id})
        self.assertContains(page, "Is it upwards?")
        self.assertContains(page, "Tell Mia Fam0")
        told = {"text": "Yes.", "to": asked.taking_id}
        self.client.post(reverse("tell-sitting", args=[sitting.pk]), told)
        self.assertEqual([each["text"] for each in self.road("what-changed", data)["notes"]], ["Yes."])
        self.assertEqual(self.road("what-changed", other)["notes"], [])
        closed = self.give()
        self.road("ask-about-question", self.work(closed), {"q": 0, "p": "asked", "r": "?"}, 403)

    def test_the_word_changes_in_two_clicks_and_those_inside_notice_nothing(self) -> None:
        sitting = self.give(word="heron")
        client = self.as_student(0)
        client.post(reverse("begin-sitting", args=[sitting.pk]), {"word": "heron"})
        self.client.force_login(self.author)
        self.client.post(reverse("change-entry-word", args=[sitting.pk]), {"word": " plover "})
        self.assertContains(self.client.get(reverse("sitting-wall", args=[sitting.pk])), "plover")
        self.assertEqual(client.get(reverse("sit-work", args=[sitting.pk])).status_code, 200)
        outside = self.as_student(1)
        old = outside.post(reverse("begin-sitting", args=[sitting.pk]), {"word": "heron"})
        self.assertEqual(old.status_code, 422)
        outside.post(reverse("begin-sitting", args=[sitting.pk]), {"word": "Plover"})
        self.assertIsNotNone(self.taking(sitting, 1).begun)


class Hints(Sat):
    def test_a_hint_is_sent_when_it_is_taken_and_costs_what_it_said(self) -> None:
        sitting = self.give(hints=True, seen=dict.fromkeys(ROWS, "handed_in"), counts=False)
        client = self.as_student(0)
        data = self.work(sitting, 0, client)
        page = client.get(reverse("sit-work", args=[sitting.pk])).content.decode()
        data = self.work(sitting, 0, client)
        self.assertIn("costs 25 % of the marks", page)
        self.assertNotIn("Power is the energy", page)
        taking = self.taking(sitting)
        item = next(each for each in StudentItem.objects.filter(form=taking.form_id) if each.hints)
        (part,) = item.hints
        where = {"q": item.position, "p": part}
        one = self.road("take-hint", data, where | {"n": 0})["hints"]
        self.assertEqual(len(one), 1)
        self.assertIn("Power is the energy", one[0]["text"])
        # twice pressed is once taken, and none is skipped
        for number in (0, 2, 7):
            self.assertEqual(len(self.road("take-hint", data, where | {"n": number})["hints"]), 1)
        self.assertEqual(len(self.road("take-hint", data, where | {"n": 1})["hints"]), 2)
        self.assertEqual(len(self.road("take-hint", data, where | {"n": 2})["hints"]), 2)
        keys = dict(zip(self.parts(taking), self.keys(taking)))
        self.save(data, (1, item.position, part, keys[item.position, part]))
        client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        mark = Mark.objects.get(taking=taking, position=item.position, part=part)
        self.assertEqual((mark.outcome, Fraction(mark.share), Fraction(mark.cost)), ("right", 1, Fraction(1, 4)))
        self.assertEqual(Fraction(mark.marks), Fraction(mark.most) * 3 / 4)
        self.assertContains(client.get(reverse("sitting-done", args=[sitting.pk])), "hints cost 25 %")

    def test_without_the_rule_there_are_none(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        item = next(each for each in StudentItem.objects.filter(form=self.taking(sitting).form_id) if each.hints)
        self.road("take-hint", data, {"q": item.position, "p": next(iter(item.hints)), "n": 0}, 403)

    def test_working_is_kept_and_shown_and_earns_nothing(self) -> None:
        sitting = self.give(working=True, seen=dict.fromkeys(ROWS, "handed_in"), counts=False)
        client = self.as_student(0)
        data = self.work(sitting, 0, client)
        self.save(data, (1, 0, WORKING_PART, "F = m a\nso 12 N"))
        self.client.force_login(self.author)
        table = self.client.get(reverse("sitting-table", args=[sitting.pk])).content.decode()
        row = table[table.index("Fam0") :]
        self.assertIn('aria-label="0 of ', row)
        client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        self.assertFalse(Mark.objects.filter(part=WORKING_PART).exists())
        page = client.get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(page, "so 12 N")
        self.assertContains(page, "<dt>Answers</dt><dd>0</dd>", html=True)


class Trying(Sat):
    def table(self, sitting: Sitting) -> str:
        page = self.client.get(reverse("sitting-table", args=[sitting.pk])).content.decode()
        return re.sub(r'name="csrfmiddlewaretoken" value="\w+"', "", page)

    def test_a_teacher_who_goes_through_it_leaves_no_trace(self) -> None:
        """Also before it opens, on any form, with what a student is allowed; and sees what each will see when."""
        Allowance.objects.create(student=self.students[1], more_time_percent=50, larger_letters=True)
        sitting = self.give(opens=timezone.localtime() + 60 * MINUTE, closes=None, limit=40 * MINUTE, word="heron")
        self.client.force_login(self.author)
        before = self.table(sitting)
        form = sitting.form_set.forms.get(position=2)
        data = {"form": form.pk, "like": self.students[1].pk}
        page = self.client.post(reverse("try-sitting", args=[sitting.pk]), data, follow=True)
        self.assertContains(page, "Nothing of it is counted")
        self.assertContains(page, "larger")
        trial = Taking.objects.get(tried_by=self.author)
        assert trial.ends is not None and trial.begun is not None
        self.assertEqual((trial.form_id, trial.ends - trial.begun), (form.pk, 60 * MINUTE))
        found = re.search(r'<script id="sitting-data" type="application/json">(.*?)</script>', page.content.decode())
        assert found
        held = json.loads(found[1])
        (q, p), *_ = self.parts(trial)
        self.assertTrue(self.save(held, (1, q, p, "12"))["counts"])
        self.client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        whole = self.client.get(reverse("sitting-done", args=[sitting.pk]))
        self.assertContains(whole, "Key")
        self.assertContains(whole, "a marker sees")
        early = self.client.get(reverse("sitting-done", args=[sitting.pk]), {"at": "handed_in"})
        self.assertNotContains(early, "<dt>Key</dt>")
        self.assertEqual(self.table(sitting), before)
        self.assertFalse(sitting.begun)
        listed = self.client.get(reverse("sittings"))
        self.assertContains(listed, '<td class="number">0</td>', count=2)
        self.assertContains(listed, '<td class="number">4</td>', count=1)
        # a colleague's trial is their own, and a second one begins anew
        self.client.post(reverse("try-sitting", args=[sitting.pk]), data)
        self.assertEqual(Taking.objects.filter(tried_by=self.author).get().answers(), {})
        self.assertFalse(Response.objects.filter(taking=trial.pk).exists())

    def test_of_whom_it_is_a_trial_it_is_and_of_nobody_else(self) -> None:
        sitting = self.give()
        self.client.force_login(self.author)
        self.client.post(reverse("try-sitting", args=[sitting.pk]))
        colleague = Client()
        colleague.force_login(person("colleague", self.physics))
        self.assertEqual(colleague.get(reverse("sit-work", args=[sitting.pk])).status_code, 404)


class Given(Sat):
    def test_to_some_students(self) -> None:
        self.client.force_login(self.author)
        give = reverse("give-test", args=[self.test.pk])
        page = self.client.post(give, {"give-classes": [self.held.pk], "some": "1"})
        self.assertContains(page, "Who is to sit it")
        again = self.client.post(give, {"give-classes": [self.held.pk], "some": "1", "chosen": "1"})
        self.assertContains(again, "Tick at least one", status_code=422)
        picked = [self.students[1].pk, self.students[3].pk]
        self.client.post(give, {"give-classes": [self.held.pk], "some": "1", "chosen": "1", "student": picked})
        sitting = Sitting.objects.get()
        self.assertEqual(sitting.form_set.count, 2)
        do_jobs()
        self.assertEqual(sorted(sitting.takings.values_list("student", flat=True)), sorted(picked))
        self.assertEqual(self.as_student(0).get(reverse("sit", args=[sitting.pk])).status_code, 404)
        self.assertEqual(self.as_student(1).get(reverse("sit", args=[sitting.pk])).status_code, 200)
        # one more, and one fewer
        self.client.post(reverse("sitting-students", args=[sitting.pk]), {"student": [picked[0], self.students[0].pk]})
        self.assertEqual(self.as_student(0).get(reverse("sit", args=[sitting.pk])).status_code, 200)
        self.assertEqual(self.as_student(3).get(reverse("sit", args=[sitting.pk])).status_code, 404)

    def test_leaving_a_class_keeps_what_was_done_and_gives_nothing_new(self) -> None:
        sitting = self.give(seen=dict.fromkeys(ROWS, "handed_in"), counts=False)
        client = self.as_student(0)
        self.work(sitting, 0, client)
        client.post(reverse("hand-in", args=[sitting.pk]))
        self.held.take_out([self.students[0].pk])
        later = self.give()
        self.assertContains(client.get(reverse("sitting-done", args=[sitting.pk])), "Receipt")
        self.assertEqual(client.get(reverse("sit", args=[later.pk])).status_code, 404)
        self.client.force_login(self.author)
        self.assertContains(self.client.get(reverse("sitting", args=[sitting.pk])), "Fam0")
        self.assertNotContains(self.client.get(reverse("sitting", args=[later.pk])), "Fam0")

    def test_a_marker_looks_into_it_and_changes_nothing(self) -> None:
        sitting = self.give()
        marker = person("marker", department("Chemistry"), "reader")
        client = Client()
        client.force_login(marker)
        self.assertEqual(client.get(reverse("sitting", args=[sitting.pk])).status_code, 404)
        self.client.force_login(self.author)
        self.client.post(reverse("sitting-markers", args=[sitting.pk]), {"who": marker.pk})
        self.assertContains(client.get(reverse("sittings")), sitting.title)
        page = client.get(reverse("sitting", args=[sitting.pk]))
        self.assertContains(page, "Fam0")
        self.assertNotContains(page, "Release results")
        self.assertEqual(client.post(reverse("release-sitting", args=[sitting.pk])).status_code, 403)
        self.client.post(reverse("sitting-markers", args=[sitting.pk]), {"who": marker.pk, "remove": "1"})
        self.assertEqual(client.get(reverse("sitting", args=[sitting.pk])).status_code, 404)
        # nobody of another school
        stranger = person("stranger", department("Physics", "Lighthouse School"))
        self.client.post(reverse("sitting-markers", args=[sitting.pk]), {"who": stranger.pk})
        self.assertFalse(sitting.markers.exists())

    def test_a_department_has_ways_of_working_of_its_own(self) -> None:
        first, second = self.give(limit=20 * MINUTE, hints=True), self.give()
        self.client.force_login(self.author)
        self.client.post(reverse("keep-way", args=[first.pk]), {"name": "  Short   test "})
        way = Way.objects.get()
        self.assertContains(self.client.get(reverse("sitting-rules", args=[second.pk])), "Short test")
        moments = second.held.opens, second.held.closes
        self.client.post(reverse("take-sitting-rules", args=[second.pk]), {"way": f"own-{way.pk}"})
        rules = Sitting.objects.get(pk=second.pk).held
        self.assertEqual((rules.limit, rules.hints), (20 * MINUTE, True))
        self.assertEqual((rules.opens, rules.closes), moments)
        self.client.post(reverse("keep-way", args=[first.pk]), {"remove": str(way.pk)})
        self.assertFalse(Way.objects.exists())

    def test_it_is_given_again_on_a_later_day(self) -> None:
        sitting = self.give(limit=20 * MINUTE, word="heron")
        sitting.chosen.set([self.students[2]])
        self.client.force_login(self.author)
        answer = self.client.post(reverse("give-again", args=[sitting.pk]))
        made = Sitting.objects.exclude(pk=sitting.pk).get()
        self.assertRedirects(answer, reverse("sitting-rules", args=[made.pk]))
        rules, earlier = made.held, sitting.held
        self.assertGreater(rules.opens, timezone.now())
        assert rules.closes is not None and earlier.closes is not None
        self.assertEqual(rules.closes - rules.opens, earlier.closes - earlier.opens)
        self.assertEqual((rules.limit, rules.word), (20 * MINUTE, "heron"))
        do_jobs()
        self.assertEqual(list(made.takings.values_list("student", flat=True)), [self.students[2].pk])
        self.assertNotEqual(made.form_set_id, sitting.form_set_id)

    def test_an_archived_sitting_is_there_and_in_nobodys_way(self) -> None:
        sitting = self.give()
        client = self.as_student(0)
        self.work(sitting, 0, client)
        self.client.force_login(self.author)
        self.client.post(reverse("archive-sitting", args=[sitting.pk]))
        self.assertEqual(client.get(reverse("sit-work", args=[sitting.pk])).status_code, 404)
        self.assertNotContains(client.get(reverse("mine")), sitting.title)
        self.assertNotContains(self.client.get(reverse("sittings")), reverse("sitting", args=[sitting.pk]))
        self.assertContains(self.client.get(reverse("sittings"), {"archived": ""}), sitting.title)
        self.client.post(reverse("archive-sitting", args=[sitting.pk]), {"what": "restore"})
        self.assertEqual(client.get(reverse("sit-work", args=[sitting.pk])).status_code, 200)

    def test_neighbours_with_one_form_are_named(self) -> None:
        sitting = self.give()
        form = sitting.form_set.forms.get(position=0)
        sitting.takings.update(form=form)
        room = Room.objects.create(school=self.physics.school, name="2.14", rows=1, columns=4)
        plan = SeatPlan.objects.create(
            form_set=self.form_set, held=self.held, room_name=room.name, rows=1, columns=4, author=self.author
        )
        for column, student in enumerate(self.students):
            plan.seats.create(student=student, row=0, column=column)
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting-rules", args=[sitting.pk]))
        self.assertContains(page, "Mia Fam0 and Mia Fam1")

    def test_what_came_back_as_a_pdf_is_what_may_be_seen(self) -> None:
        sitting = self.give(seen=RELEASED | {"own": "handed_in"})
        client = self.as_student(0)
        data = self.work(sitting, 0, client)
        (q, p), *_ = self.parts(self.taking(sitting))
        self.save(data, (1, q, p, "12.25"))
        own = reverse("own-work", args=[sitting.pk])
        self.assertEqual(client.get(own).status_code, 302)
        client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        taking = self.taking(sitting)
        early = words(client.get(own).content)
        self.assertIn("12.25", early)
        for each in ("Key", "Marks", "Marked"):
            self.assertNotIn(each, early)
        Sitting.objects.filter(pk=sitting.pk).update(released=timezone.now())
        late = words(client.get(own).content)
        self.assertIn("Mia Fam0", late)
        self.assertIn(taking.receipt, late)
        for each in ("Key", "Marks", "Marked", "marks"):
            self.assertIn(each, late)
        sitting.keep_rules(replace(sitting.held, own_pdf=False), self.author)
        self.assertEqual(client.get(own).status_code, 302)
