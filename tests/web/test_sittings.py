"""Sittings: given in one action, sat, saved, handed in, marked, released; and what is never sent."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from datetime import timedelta
from fractions import Fraction
from io import BytesIO
from typing import Any
from unittest import mock

from django.core.cache import cache
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from vorlage.core.marking import RULES_VERSION
from vorlage.core.questions import load_document
from vorlage.core.sittings import MOMENTS, ROWS, Rules
from vorlage.library import samples
from vorlage.web.bank.models import Picture, Question
from vorlage.web.classes.models import Allowance, Class, Student
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import FormItem, ItemKey
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import perform
from vorlage.web.sittings.models import MARKING, Event, Mark, Note, Response, Sitting, StudentItem, Taking, Wall
from vorlage.web.sittings.road import HEADER
from vorlage.web.sittings.tasks import hand_in_what_ran_out

from .samples import PASSWORD, department, frozen, person, question, test_of

MINUTE = timedelta(minutes=1)


def do_jobs() -> None:
    """Everything that waits to be done, as a worker does it."""
    while (job := Job.objects.filter(state=Job.State.WAITING).order_by("pk").first()) is not None:
        perform(job.pk)


class Sat(TestCase):
    """A class, a test with a set of forms, and a student who sits it."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.questions = [question(cls.physics, cls.author, name) for name in ("foghorn", "harbour-crane")]
        cls.test = test_of(cls.physics, cls.author, *cls.questions)
        cls.form_set = frozen(cls.test, 3)
        cls.held = Class.objects.create(department=cls.physics, name="10 A", year="2026/27")
        cls.held.teachers.add(cls.author)
        cls.students = []
        for k in range(4):
            user = person(f"student{k}")
            user.studies, user.school = True, cls.physics.school
            user.save()
            cls.students.append(
                Student.objects.create(
                    school=cls.physics.school, family=f"Fam{k}", given="Mia", number=str(k), user=user
                )
            )
        cls.held.enrol([each.pk for each in cls.students])

    def setUp(self) -> None:
        cache.clear()

    def give(self, **changes: Any) -> Sitting:
        now = timezone.localtime()
        rules = replace(Rules(now - MINUTE, closes=now + 60 * MINUTE), **changes)
        made = Sitting.give(self.test, [self.held], rules, self.author, self.form_set)
        do_jobs()
        made.refresh_from_db()
        self.assertIsNotNone(made.ready)
        return made

    def as_student(self, k: int = 0) -> Client:
        client = Client()
        client.force_login(self.students[k].user)
        return client

    def work(self, sitting: Sitting, k: int = 0, client: Client | None = None) -> dict[str, Any]:
        """Begin, or go on; what the page was given."""
        client = client or self.as_student(k)
        client.post(reverse("begin-sitting", args=[sitting.pk]))
        page = client.get(reverse("sit-work", args=[sitting.pk]))
        self.assertEqual(page.status_code, 200)
        found = re.search(r'<script id="sitting-data" type="application/json">(.*?)</script>', page.content.decode())
        assert found
        return json.loads(found[1])

    def road(self, name: str, data: dict[str, Any], sent: Any = None, status: int = 200) -> dict[str, Any]:
        headers = {HEADER: data["token"]}
        ask = Client(enforce_csrf_checks=True)
        if name == "what-changed":
            answer = ask.get(reverse(name), headers=headers)
        else:
            answer = ask.post(reverse(name), json.dumps(sent or {}), "application/json", headers=headers)
        self.assertEqual(answer.status_code, status, answer.content[:200])
        return answer.json()

    def save(self, data: dict[str, Any], *changes: tuple[int, int, str, Any], status: int = 200) -> dict[str, Any]:
        listed = [{"n": n, "q": q, "p": p, "r": r} for n, q, p, r in changes]
        return self.road("save-answers", data, {"changes": listed}, status)

    def taking(self, sitting: Sitting, k: int = 0) -> Taking:
        return Taking.objects.select_related("sitting", "student").get(sitting=sitting, student=self.students[k])

    def parts(self, taking: Taking) -> list[tuple[int, str]]:
        items = StudentItem.objects.filter(form=taking.form_id).order_by("position")
        return [(item.position, part["id"]) for item in items for part in item.shown["parts"]]

    def as_typed(self, sitting: Sitting) -> dict[str, str]:
        """The rules of a sitting as they stand on their page, to be posted."""
        client = Client()
        client.force_login(self.author)
        form = client.get(reverse("sitting-rules", args=[sitting.pk])).context["form"]
        fields = {field.html_name: field.value() for field in form}
        return {name: value for name, value in fields.items() if value not in {None, False, ""}}

    def keys(self, taking: Taking) -> list[str]:
        rows = ItemKey.objects.filter(item__form=taking.form_id).order_by("item__position")
        return [part["key"] for row in rows for part in row.parts]


class Pictures(Sat):
    def test_an_uploaded_picture_is_seen_by_whoever_sits_and_by_nobody_who_guesses(self) -> None:
        content = BytesIO()
        Image.new("RGB", (40, 30), "navy").save(content, "PNG")
        digest = Stored.keep(content.getvalue()).digest
        Picture.objects.create(
            department=self.physics, file_id=digest, media_type="image/png", width=40, height=30
        )  # fmt: skip
        pictures = [{"name": "quay", "digest": digest, "width": 40, "height": 30}]
        made = question(self.physics, self.author, wording="![the quay](image:quay) $m$ $h$", pictures=pictures)
        self.test = test_of(self.physics, self.author, made)
        self.form_set = frozen(self.test, 1)
        sitting, student = self.give(come_in="named"), self.as_student()
        guest = Client()
        guest.post(reverse("enter-sitting", args=[sitting.code]), {"name": "Ola Bright", "group": "9 B"})
        self.client.force_login(self.author)
        self.client.post(reverse("show-test", args=[self.test.pk]))
        phone = Client()
        pages = [(phone, reverse("wall-phone", args=[Wall.objects.get().code]))]
        for client in (student, guest):
            client.post(reverse("begin-sitting", args=[sitting.pk]))
            pages.append((client, reverse("sit-work", args=[sitting.pk])))
        for client, address in pages:
            found = re.search(r'<image href="([^"]+)"', client.get(address).content.decode())
            assert found
            answer = client.get(found[1])
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/png"))
            self.assertIn("immutable", answer["Cache-Control"])
            for other in (found[1].replace(digest, "0" * 64), found[1][:-3] + "xx/"):
                self.assertEqual(client.get(other).status_code, 404)
            self.assertNotEqual(client.get(reverse("picture", args=[digest])).status_code, 200)


class Giving(Sat):
    def test_one_action_and_students_are_inside(self) -> None:
        """A teacher who changes nothing has students inside, with no further switch to find."""
        self.client.force_login(self.author)
        page = self.client.get(reverse("test", args=[self.test.pk]))
        self.assertContains(page, "Give it now")
        answer = self.client.post(reverse("give-test", args=[self.test.pk]), {"give-classes": [self.held.pk]})
        made = Sitting.objects.get()
        self.assertRedirects(answer, reverse("sitting", args=[made.pk]))
        self.assertEqual(made.form_set.count, 4)
        do_jobs()
        student = self.as_student(1)
        self.assertContains(student.get(reverse("mine")), "At the quay")
        self.assertContains(student.get(reverse("sit", args=[made.pk])), "Begin")
        self.work(made, 1, student)
        self.assertIsNotNone(self.taking(made, 1).begun)

    def test_what_is_wrong_is_said_beside_its_field(self) -> None:
        self.client.force_login(self.author)
        answer = self.client.post(reverse("give-test", args=[self.test.pk]), {})
        self.assertContains(answer, "Choose at least one class.", status_code=422)
        empty = test_of(self.physics, self.author, title="Nothing in it")
        fields = {"give-classes": [self.held.pk]}
        answer = self.client.post(reverse("give-test", args=[empty.pk]), fields)
        self.assertContains(answer, "There are no questions in this test yet", status_code=422)
        self.assertFalse(Sitting.objects.exists())

    def test_forms_are_dealt_equally_and_by_seat(self) -> None:
        made = self.give()
        counts = list(Taking.objects.filter(sitting=made).values_list("form", flat=True))
        self.assertEqual(sorted(counts.count(form) for form in set(counts)), [1, 1, 2])

    def test_what_cannot_be_made_keeps_it_from_opening(self) -> None:
        with mock.patch("vorlage.web.forms.tasks.Press", side_effect=AssertionError):
            made = Sitting.give(self.test, [self.held], Rules(timezone.localtime()), self.author)
            with self.assertLogs("vorlage.web.jobs.tasks", "ERROR"):
                do_jobs()
        made.refresh_from_db()
        self.assertIsNone(made.ready)
        self.client.force_login(self.author)
        self.assertContains(self.client.get(reverse("sitting", args=[made.pk])), "It cannot be opened")
        self.assertNotContains(
            self.as_student().get(reverse("sit", args=[made.pk])), '<button class="btn btn-primary">Begin'
        )


class Working(Sat):
    def test_a_save_is_a_row_before_it_is_said_and_is_kept_once(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        told = self.save(data, (1, q, p, "12"))
        self.assertEqual(told["saved"], [[data["tab"], 1]])
        self.save(data, (1, q, p, "12"))
        self.save(data, (2, q, p, "13"))
        self.assertEqual(Response.objects.count(), 2)
        self.assertEqual(self.taking(sitting).answers(), {(q, p): "13"})

    def test_the_reply_says_how_it_was_read(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        read = self.road("read-answer", data, {"q": q, "p": p, "r": "2*("})["readings"][0]["read"][0]
        self.assertEqual(read["problem"], "Something is missing after “(”.")
        told = self.save(data, (1, q, p, "1/2"))["readings"][0]
        self.assertEqual((told["q"], told["p"]), (q, p))
        self.assertIn("<mfrac>", told["read"][0]["shown"])
        self.assertEqual(Response.objects.count(), 1)

    def test_the_last_words_of_a_closed_page_count_when_the_next_one_sends_them_too(self) -> None:
        """The browser kept them, since the page was gone before it heard that they were saved."""
        sitting = self.give()
        old = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        new = self.work(sitting)
        self.assertFalse(self.save(old, (1, q, p, "41"))["counts"])
        self.assertEqual(self.taking(sitting).answers(), {})
        again = {"changes": [{"t": old["tab"], "n": 1, "q": q, "p": p, "r": "41"}]}
        for _ in range(2):
            self.assertTrue(self.road("save-answers", new, again)["counts"])
            self.assertEqual(self.taking(sitting).answers(), {(q, p): "41"})
        # and the other way round nothing is taken away
        self.save(new, (1, q, p, "42"))
        self.save(old, (1, q, p, "41"))
        self.assertEqual(self.taking(sitting).answers(), {(q, p): "42"})
        self.assertEqual(Response.objects.filter(taking__sitting=sitting).count(), 2)
        self.save(new, (5, q, p, "43"), (5, q, p, "43"))
        self.assertEqual(Response.objects.filter(taking__sitting=sitting).count(), 3)

    def test_saving_takes_few_queries_and_reads_no_key(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        parts = self.parts(self.taking(sitting))
        with CaptureQueriesContext(
            connection,
        ) as made:
            self.save(data, *((k, q, p, "5") for k, (q, p) in enumerate(parts)))
        asked = " ".join(each["sql"] for each in made)
        self.assertLessEqual(len(made), 8, asked)
        for table in ("itemkey", "bank_revision", "people_department", "people_membership", "session", "people_user"):
            self.assertNotIn(table, asked)
        for name in ("read-answer", "what-changed"):
            with CaptureQueriesContext(connection) as made:
                self.road(name, data, {"q": 0, "p": parts[0][1], "r": "5"})
            self.assertLessEqual(len(made), 4)
        client = self.as_student()
        with CaptureQueriesContext(connection) as made:
            client.get(reverse("sit-work", args=[sitting.pk]))
        self.assertLessEqual(len(made), 13)
        self.assertNotIn("itemkey", " ".join(each["sql"] for each in made))
        self.assertNotIn("bank_revision", " ".join(each["sql"] for each in made))

    def test_of_two_pages_the_older_stops_and_nothing_of_either_is_lost(self) -> None:
        sitting = self.give()
        client = self.as_student()
        older = self.work(sitting, client=client)
        (q, p), *_ = self.parts(self.taking(sitting))
        self.save(older, (1, q, p, "1"))
        newer = self.work(sitting, client=client)
        self.assertEqual(newer["answers"], [{"q": q, "p": p, "r": "1"}])
        told = self.save(older, (2, q, p, "2"))
        self.assertEqual(told["stop"], "elsewhere")
        self.save(newer, (1, q, p, "3"))
        self.assertEqual(self.taking(sitting).answers(), {(q, p): "3"})
        self.assertEqual([each.response for each in Response.objects.order_by("pk")], ["1", "2", "3"])
        # what the older page could not send comes by the newer one, under the older one's name, and once
        late = {"changes": [{"n": 2, "q": q, "p": p, "r": "2", "t": older["tab"]}]}
        self.road("save-answers", newer, late)
        self.assertEqual(Response.objects.count(), 3)

    def test_another_device_goes_on_with_form_answers_and_clock(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        first = self.work(sitting)
        taking = self.taking(sitting)
        (q, p), *_ = self.parts(taking)
        self.save(first, (1, q, p, "7"))
        second = self.work(sitting)
        again = self.taking(sitting)
        self.assertEqual((again.form_id, again.begun, again.ends), (taking.form_id, taking.begun, taking.ends))
        self.assertEqual(second["answers"], [{"q": q, "p": p, "r": "7"}])
        self.assertLessEqual(second["state"]["left"], 1800)

    def test_nonsense_is_refused_and_nothing_breaks(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        for changes in (
            "x", [1], [{"n": -1, "q": 0, "p": "a"}], [{"n": 1, "q": "0", "p": "a"}], [{"n": 1, "q": 0, "p": ""}],
            [{"n": 1, "q": 0, "p": "a" * 30}], [{"n": True, "q": 0, "p": "a"}], [{"n": 1, "q": 0, "p": "a", "r": "x" * 9000}],
            [{"n": 1, "q": 10**9, "p": "a"}], [{"n": 1}] * 500,
        ):  # fmt: skip
            self.road("save-answers", data, {"changes": changes}, status=400)
        # what is no part of this form is on record and read by nothing
        self.save(data, (1, 99, "nowhere", "5"))
        (q, p), *_ = self.parts(self.taking(sitting))
        for k, odd in enumerate(
            (None, [], {}, [["x"]], {"a": {"b": 1}}, 5, True, "\x00", "9" * 4000, "😀", "(" * 900), start=2
        ):
            self.save(data, (k, q, p, odd))
        self.road("save-answers", data | {"token": data["token"] + "x"}, {"changes": []}, status=403)
        self.road("save-answers", data | {"token": ""}, {"changes": []}, status=403)

    def test_an_entry_word_lets_in_and_too_many_wrong_ones_wait(self) -> None:
        sitting = self.give(word="Blue anchor")
        client, address = self.as_student(), reverse("begin-sitting", args=[sitting.pk])
        for _ in range(8):
            self.assertContains(client.post(address, {"word": "anchor"}), "not the word", status_code=422)
        self.assertContains(client.post(address, {"word": "blue anchor"}), "too often", status_code=429)
        # nobody else of the school is shut out
        other = self.as_student(1)
        self.assertEqual(other.post(address, {"word": " BLUE  anchor "}).status_code, 302)
        self.assertIsNotNone(self.taking(sitting, 1).begun)

    def test_a_stranger_sits_nothing(self) -> None:
        sitting = self.give()
        other = Student.objects.create(
            school=self.physics.school, family="Out", given="Side", number="99", user=person("outside")
        )
        client = Client()
        client.force_login(other.user)
        self.assertEqual(client.get(reverse("sit", args=[sitting.pk])).status_code, 404)
        self.assertEqual(client.post(reverse("begin-sitting", args=[sitting.pk])).status_code, 404)


class Time(Sat):
    def test_an_allowance_lengthens_and_is_told_before(self) -> None:
        sitting = self.give(limit=40 * MINUTE)
        Allowance.objects.create(student=self.students[1], more_time_percent=25)
        page = self.as_student(1).get(reverse("sit", args=[sitting.pk]))
        self.assertContains(page, "50 minutes, until")
        self.work(sitting, 1)
        taking = self.taking(sitting, 1)
        self.assertEqual(taking.ends - taking.begun, 50 * MINUTE)

    def test_time_hands_in_what_was_saved_and_no_more(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        data = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        self.save(data, (1, q, p, "5"))
        Taking.objects.update(ends=timezone.now() - timedelta(seconds=5))
        # it was on its way when time ended
        self.assertTrue(self.save(data, (2, q, p, "6"))["counts"])
        Taking.objects.update(ends=timezone.now() - timedelta(seconds=20))
        self.assertFalse(self.save(data, (3, q, p, "7"))["counts"])
        hand_in_what_ran_out()
        hand_in_what_ran_out()
        taking = self.taking(sitting)
        self.assertTrue(taking.by_time)
        self.assertEqual(taking.handed_in, taking.ends)
        self.assertEqual(taking.answers(), {(q, p): "6"})
        self.assertEqual(Response.objects.count(), 3)
        self.assertEqual(Event.objects.filter(kind="handed in").count(), 1)

    def test_who_may_go_on_is_not_handed_in(self) -> None:
        sitting = self.give(limit=30 * MINUTE, time_up="go_on")
        data = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        Taking.objects.update(ends=timezone.now() - 20 * MINUTE)
        hand_in_what_ran_out()
        self.assertEqual(self.road("what-changed", data)["phase"], "over")
        self.assertTrue(self.save(data, (1, q, p, "5"))["counts"])
        self.assertIsNone(self.taking(sitting).handed_in)

    def test_nothing_depends_on_the_job(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        data = self.work(sitting)
        Taking.objects.update(ends=timezone.now() - MINUTE)
        self.assertEqual(self.road("what-changed", data)["stop"], "handed_in")
        self.assertTrue(self.taking(sitting).by_time)

    def test_more_time_is_seen_at_the_next_question_of_the_page_and_is_on_record(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        data = self.work(sitting)
        before = self.road("what-changed", data)["left"]
        taking = self.taking(sitting)
        self.client.force_login(self.author)
        fields = {"what": "more", "length": "10", "reason": "fire alarm", "who": [taking.pk]}
        self.client.post(reverse("act-in-sitting", args=[sitting.pk]), fields)
        self.assertAlmostEqual(self.road("what-changed", data)["left"], before + 600, delta=5)
        event = Event.objects.get(kind="more")
        self.assertEqual((event.by, event.reason, event.taking), (self.author, "fire alarm", taking))

    def test_pause_hand_in_and_reopen(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        data = self.work(sitting)
        taking, (q, p) = self.taking(sitting), self.parts(self.taking(sitting))[0]
        self.client.force_login(self.author)

        def act(what: str) -> dict[str, Any]:
            self.client.post(reverse("act-in-sitting", args=[sitting.pk]), {"what": what, "who": [taking.pk]})
            return self.road("what-changed", data)

        self.assertEqual(act("pause")["phase"], "paused")
        self.assertFalse(self.save(data, (1, q, p, "5"))["counts"])
        Taking.objects.update(paused=timezone.now() - 5 * MINUTE)
        told = act("go-on")
        self.assertEqual(told["phase"], "working")
        self.assertGreater(told["left"], 1795)
        self.assertEqual(act("hand-in")["stop"], "handed_in")
        self.assertEqual(act("reopen")["phase"], "working")
        self.assertTrue(self.save(data, (2, q, p, "6"))["counts"])

    def test_a_note_is_on_every_page(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        self.client.force_login(self.author)
        self.client.post(reverse("tell-sitting", args=[sitting.pk]), {"text": "Ten minutes more."})
        told = self.road("what-changed", data)["notes"]
        self.assertEqual([(each["text"], each["question"]) for each in told], [("Ten minutes more.", None)])
        self.assertContains(self.as_student().get(reverse("sit-work", args=[sitting.pk])), "Ten minutes more.")

    def test_a_correction_has_the_number_of_the_question_on_the_form_of_whoever_reads_it(self) -> None:
        sitting = self.give()
        mine, theirs = self.work(sitting, 0), self.work(sitting, 1)
        first, second = FormItem.objects.filter(form=self.taking(sitting, 1).form_id).order_by("position")[:2]
        about = first.candidate_id
        # on the form of the second student the two stand the other way round
        for item, position in ((first, 99), (second, first.position), (first, second.position)):
            FormItem.objects.filter(pk=item.pk).update(position=position)
        self.client.force_login(self.author)
        address = reverse("tell-sitting", args=[sitting.pk])
        page = self.client.get(reverse("sitting", args=[sitting.pk]))
        self.assertContains(page, f'<option value="{about}">1: ')
        self.client.post(address, {"text": "Read 12 cm.", "question": about})
        numbers = [self.road("what-changed", data)["notes"][0]["question"] for data in (mine, theirs)]
        self.assertEqual(numbers, [1, 2])
        self.assertContains(
            self.as_student(1).get(reverse("sit-work", args=[sitting.pk])), "<strong>Question 2:</strong>"
        )
        self.assertContains(self.client.get(reverse("sitting", args=[sitting.pk])), "<strong>1: ")
        # who has another question instead reads nothing
        FormItem.objects.filter(pk=first.pk).update(candidate=second.candidate_id)
        self.assertEqual(self.road("what-changed", theirs)["notes"], [])
        # an empty note, and a question that is not there, are told
        for typed, why in (({"text": " "}, "the note is empty"), ({"text": "12", "question": "x"}, "You wrote: 12")):
            self.assertContains(self.client.post(address, typed, follow=True), why)
        self.assertEqual(Note.objects.count(), 1)

    def test_where_one_may_only_hand_in_the_road_takes_it(self) -> None:
        sitting = self.give(limit=30 * MINUTE, time_up="hand_in_only", hand_in=5 * MINUTE)
        data = self.work(sitting)
        Taking.objects.update(ends=timezone.now() - 2 * MINUTE)
        self.assertEqual(self.road("what-changed", data)["phase"], "only_hand_in")
        self.assertEqual(len(self.road("hand-in-late", data)["receipt"]), 5)
        self.assertFalse(self.taking(sitting).by_time)

    def test_handing_in_late_by_the_road_counts_within_the_grace(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        data = self.work(sitting)
        self.assertEqual(len(self.road("hand-in-late", data)["receipt"]), 5)
        self.assertFalse(self.taking(sitting).by_time)


class Marking(Sat):
    def test_right_answers_are_marked_on_handing_in_once(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        taking = self.taking(sitting)
        right = zip(self.parts(taking), self.keys(taking), strict=True)
        self.save(data, *((k, q, p, key) for k, ((q, p), key) in enumerate(right)))
        self.as_student().post(reverse("hand-in", args=[sitting.pk]))
        self.assertEqual(Job.objects.filter(kind=MARKING).count(), 1)
        do_jobs()
        marks = self.taking(sitting).marks()
        self.assertEqual(len(marks), len(self.parts(taking)))
        for mark in marks:
            self.assertEqual(mark.outcome, "right", mark)
            self.assertEqual(mark.marks, mark.most)
        count = Mark.objects.count()
        do_jobs()
        self.as_student().get(reverse("sitting-done", args=[sitting.pk]))
        self.assertEqual(Mark.objects.count(), count)

    def test_a_mark_says_by_which_rule(self) -> None:
        sitting = self.give()
        data = self.work(sitting)
        (q, p), *_ = self.parts(self.taking(sitting))
        self.save(data, (1, q, p, "2*("))
        self.taking(sitting).hand_in(timezone.now())
        do_jobs()
        marks = {(each.position, each.part): each for each in self.taking(sitting).marks()}
        mark = marks[q, p]
        self.assertEqual((mark.outcome, mark.held.marks, mark.version), ("unreadable", Fraction(0), RULES_VERSION))
        self.assertEqual(mark.because, "it cannot be read")
        self.assertTrue(mark.draw and mark.revision)

    def test_released_results_are_seen_and_withdrawn_ones_are_not(self) -> None:
        sitting = self.give()
        self.work(sitting)
        self.taking(sitting).hand_in(timezone.now())
        do_jobs()
        client, address = self.as_student(), reverse("sitting-done", args=[sitting.pk])
        self.assertNotContains(client.get(address), "Key")
        self.client.force_login(self.author)
        self.client.post(reverse("release-sitting", args=[sitting.pk]), {"what": "release"})
        page = client.get(address)
        self.assertContains(page, "Key")
        self.assertContains(page, "0 of ")
        self.client.post(reverse("release-sitting", args=[sitting.pk]), {"what": "withdraw"})
        self.assertNotContains(client.get(address), "Key")

    def test_what_was_taken_back_is_marked_anew(self) -> None:
        sitting = self.give(take_back=True)
        client = self.as_student()
        data = self.work(sitting, client=client)
        taking = self.taking(sitting)
        (q, p), *_ = self.parts(taking)
        self.save(data, (1, q, p, "0"))
        client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        client.post(reverse("take-sitting-back", args=[sitting.pk]))
        self.assertIsNone(self.taking(sitting).handed_in)
        data = self.work(sitting, client=client)
        self.save(data, (1, q, p, self.keys(taking)[0]))
        client.post(reverse("hand-in", args=[sitting.pk]))
        do_jobs()
        mark = next(each for each in self.taking(sitting).marks() if (each.position, each.part) == (q, p))
        self.assertEqual(mark.outcome, "right")


class Rulings(Sat):
    def form(self, sitting: Sitting, **changes: Any) -> dict[str, Any]:
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting-rules", args=[sitting.pk]))
        form = page.context["form"]
        fields = {name: form[name].value() for name in form.fields}
        return {name: value for name, value in (fields | changes).items() if value not in (None, False)}

    def test_rules_come_back_as_they_were_typed(self) -> None:
        sitting = self.give()
        changes = {
            "limit": "1 h 40",
            "closes": "tomorrow 9:00",
            "word": "anchor",
            "late_cost": "10 %",
            "due": "tomorrow 8:00",
        }
        answer = self.client_post(sitting, self.form(sitting, **changes))
        self.assertEqual(answer.status_code, 302)
        held = Sitting.objects.get(pk=sitting.pk).held
        self.assertEqual((held.limit, held.word, held.late_cost), (100 * MINUTE, "anchor", Fraction(1, 10)))
        again = self.form(Sitting.objects.get(pk=sitting.pk))
        self.assertEqual(self.client_post(sitting, again).status_code, 302)
        self.assertEqual(Sitting.objects.get(pk=sitting.pk).held, held)

    def client_post(self, sitting: Sitting, fields: dict[str, Any]) -> Any:
        return self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), fields)

    def test_what_is_wrong_is_said_and_nothing_typed_is_lost(self) -> None:
        sitting = self.give()
        answer = self.client_post(sitting, self.form(sitting, limit="soon", closes="whenever"))
        self.assertContains(answer, "“soon” is no length of time", status_code=422)
        self.assertContains(answer, "“whenever” is no moment", status_code=422)
        self.assertContains(answer, 'value="whenever"', status_code=422)
        answer = self.client_post(sitting, self.form(sitting, closes="1 January 2020 8:00"))
        self.assertContains(answer, "It closes before it opens", status_code=422)

    def test_what_it_means_is_said_while_it_is_typed(self) -> None:
        sitting = self.give()
        fields = self.form(sitting, limit="2 h", late_start="until_closing")
        said = self.client.post(reverse("say-sitting-rules", args=[sitting.pk]), fields)
        self.assertContains(said, "Nobody has 2 hours")
        self.assertContains(said, "You have 2 hours, but not beyond closing.")
        self.assertIsNone(Sitting.objects.get(pk=sitting.pk).held.limit)

    def test_what_would_make_it_unequal_is_refused_once_somebody_has_begun(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        self.work(sitting)
        answer = self.client_post(sitting, self.form(sitting, limit="20"))
        self.assertContains(answer, "this cannot change any more: the limit", status_code=422)
        # a later closing, the word and what is seen may
        later = self.form(sitting, closes="tomorrow 9:00", word="quay", seen_own="handed_in")
        self.assertEqual(self.client_post(sitting, later).status_code, 302)
        self.assertEqual(Sitting.objects.get(pk=sitting.pk).held.seen["own"], "handed_in")

    def test_ways_and_earlier_sittings_fill_the_rules(self) -> None:
        first = self.give(limit=25 * MINUTE, word="tide")
        second = self.give()
        self.client.force_login(self.author)
        take = reverse("take-sitting-rules", args=[second.pk])
        self.client.post(take, {"way": str(first.pk)})
        held = Sitting.objects.get(pk=second.pk).held
        self.assertEqual((held.limit, held.word, held.closes), (25 * MINUTE, "tide", second.held.closes))
        self.client.post(take, {"way": "practice"})
        self.assertFalse(Sitting.objects.get(pk=second.pk).held.counts)


class Secrets(TestCase):
    """Every byte that is sent to a student, in every state of what is seen when: no key, no tolerance, no feedback, no
    other form and no value that is not shown before it is due."""

    KEY, SLIP, SAID, SOLVED, TOLERANCE = "KEYMARK", "4711.5", "FEEDBACKMARK", "SOLUTIONMARK", "0.0271"

    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        document, filing = samples()["foghorn"]
        secret = load_document(
            {
                "format": document.format,
                "title": "Secrets",
                "wording": "What is $a$?",
                "parameters": [{"name": "a", "definition": "2..90"}, {"name": "hidden_b", "definition": "a*1000003"}],
                "parts": [
                    {
                        "answer": {
                            "kind": "number", "key": "hidden_b + 17", "tolerance": {"mode": "absolute", "value": cls.TOLERANCE},
                            "slips": [{"key": cls.SLIP, "share": "1/2", "feedback": cls.SAID}],
                        },
                        "solution": f"{cls.SOLVED} $hidden_b$",
                    },
                    {"answer": {"kind": "text", "accept": [cls.KEY]}, "wording": "Which word?"},
                ],
            }
        )  # fmt: skip
        held = Question.save_revision(cls.physics, cls.author, secret, filing).question
        cls.test = test_of(cls.physics, cls.author, held)
        cls.form_set = frozen(cls.test, 2)
        cls.held = Class.objects.create(department=cls.physics, name="10 A", year="2026/27")
        user = person("student")
        user.studies = True
        user.save()
        cls.student = Student.objects.create(
            school=cls.physics.school, family="Fam", given="Mia", number="1", user=user
        )
        cls.held.enrol([cls.student.pk])

    def test_nothing_that_is_not_due_is_sent(self) -> None:
        now = timezone.localtime()
        for moment in MOMENTS:
            more: dict[str, Any] = {"each": {"tries": 3, "similar": 1}, "no_attempt": {"attempts": 2}}.get(moment, {})
            rules = Rules(now - MINUTE, closes=now + 60 * MINUTE, seen=dict.fromkeys(ROWS, moment), **more)
            sitting = Sitting.give(self.test, [self.held], rules, self.author, self.form_set)
            do_jobs()
            client, sent = Client(), list[bytes]()
            client.force_login(self.student.user)

            def get(name: str, client: Client = client, sitting: Sitting = sitting, sent: list[bytes] = sent) -> bytes:
                answer = client.get(reverse(name, args=[sitting.pk]), follow=True)
                whole = answer.content + str(answer.headers).encode() + str(answer.cookies).encode()
                sent.append(whole)
                return whole

            get("sit")
            client.post(reverse("begin-sitting", args=[sitting.pk]))
            page = get("sit-work").decode()
            found = re.search(r'<script id="sitting-data" type="application/json">(.*?)</script>', page)
            assert found
            token = json.loads(found[1])["token"]
            taking = Taking.objects.get(sitting=sitting, student=self.student)
            item = StudentItem.objects.get(form=taking.form_id)
            ids = [part["id"] for part in item.shown["parts"]]
            for name, body in (
                ("save-answers", {"changes": [{"n": 1, "q": 0, "p": ids[0], "r": self.SLIP}]}),
                ("read-answer", {"q": 0, "p": ids[1], "r": "a word"}),
                ("check-question", {"q": 0}),
                ("similar-question", {"q": 0}),
                ("hand-in-late", {"nothing": 1}),
            ):
                if name == "hand-in-late":
                    get("before-handing-in")
                answer = client.post(reverse(name), json.dumps(body), "application/json", headers={HEADER: token})
                # the student's own answer stands in what comes back
                sent.append(answer.content.replace(self.SLIP.encode(), b""))
            do_jobs()
            before = list(sent)
            after_hand_in = get("sitting-done")
            values = item.item.values
            secrets = [self.KEY, self.SAID, self.SOLVED, self.TOLERANCE, values["hidden_b"], "hidden_b"]
            key = ItemKey.objects.get(item=item.item).parts[0]["key"]
            others = ItemKey.objects.filter(item__form__form_set=self.form_set).exclude(item=item.item)
            secrets += [key, *(each.parts[0]["key"] for each in others)]
            for text in before:
                for secret in secrets:
                    # what is said of an answer is due when it is checked
                    due = moment == "each" and secret == self.SAID and b'"checked"' in text
                    self.assertTrue(due or secret.encode() not in text.replace(b"&nbsp;", b""), (moment, secret))
            self.assertEqual(any(self.SAID.encode() in text for text in before), moment == "each")
            if moment in {"each", "handed_in"}:
                self.assertIn(self.SAID.encode(), after_hand_in)
                self.assertIn(self.SOLVED.encode(), after_hand_in)
            else:
                for secret in secrets:
                    self.assertNotIn(secret.encode(), after_hand_in, (moment, secret))
            Sitting.objects.filter(pk=sitting.pk).update(released=timezone.now())
            out = get("sitting-done")
            self.assertEqual(self.SAID.encode() in out, moment != "never", moment)
            for other in others:
                self.assertNotIn(other.parts[0]["key"].encode(), out)
            self.assertTrue(PASSWORD)
