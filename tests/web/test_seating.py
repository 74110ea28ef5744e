"""Rooms, seat plans and what is printed with the papers of a class; inserts of a test."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pikepdf
import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from tests.core.test_printed import codes, given
from vorlage.core.documents import PageCode
from vorlage.core.forms import Nearness
from vorlage.web.classes.models import Allowance, Class, Student
from vorlage.web.forms.models import Print
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import perform
from vorlage.web.plans.models import Insert, Test
from vorlage.web.seating.models import Room, Seat, SeatPlan
from vorlage.web.seating.views import pairs_of

from .samples import department, frozen, person, question, sent, test_of


class Seating(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.test = test_of(cls.physics, cls.author, question(cls.physics, cls.author, "foghorn"))
        cls.form_set = frozen(cls.test, 4)
        cls.held = Class.objects.create(department=cls.physics, name="10 A", year="2026/27")
        cls.held.teachers.add(cls.author)
        cls.students = [
            Student.objects.create(school=cls.physics.school, family=f"Fam{k:02}", given="Mia", number=str(k))
            for k in range(10)
        ]
        cls.held.enrol([each.pk for each in cls.students])
        cls.room = Room.objects.create(school=cls.physics.school, name="2.14", rows=3, columns=5, gaps=[[0, 2], [1, 2]])

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def post(self, name: str, /, *arguments: Any, status: int = 302, **fields: Any) -> str:
        answer = self.client.post(reverse(name, args=arguments), fields)
        self.assertEqual(answer.status_code, status, name)
        return " ".join(answer.content.decode().split())

    def page(self, name: str, *arguments: Any) -> str:
        answer = self.client.get(reverse(name, args=arguments))
        self.assertEqual(answer.status_code, 200)
        return " ".join(answer.content.decode().split())

    def plan(self, **fields: Any) -> SeatPlan:
        asked = {"held": self.held.pk, "room": self.room.pk, "seated": "names", **fields}
        self.post("new-seat-plan", self.form_set.pk, **asked)
        made = SeatPlan.objects.latest("pk")
        assert made.job is not None
        perform(made.job.pk)
        return SeatPlan.objects.get(pk=made.pk)

    def at(self, plan: SeatPlan) -> dict[tuple[int | None, int | None], Seat]:
        return {(seat.row, seat.column): seat for seat in plan.seated}


class Rooms(Seating):
    def test_a_room_is_laid_out_and_its_gaps_are_ticked(self) -> None:
        self.post("new-room", name="Hall", rows="2", columns="3")
        hall = Room.objects.get(name="Hall")
        self.post("room", hall.pk, name="Hall", rows="2", columns="3", gap=["0-1", "1-1", "9-9", "x", "1-1"])
        hall.refresh_from_db()
        self.assertEqual((hall.gaps, hall.seat_count), ([[0, 1], [1, 1]], 4))
        page = self.page("room", hall.pk)
        self.assertIn('value="0-1" checked', page)
        # a gap beyond the room is none
        self.post("room", hall.pk, name="Hall", rows="1", columns="3", gap=["0-1", "1-1"])
        hall.refresh_from_db()
        self.assertEqual(hall.gaps, [[0, 1]])
        self.post("remove-room", hall.pk)
        self.assertFalse(Room.objects.filter(name="Hall").exists())

    def test_what_is_wrong_is_said_beside_it_and_nothing_is_lost(self) -> None:
        for fields, said in (
            ({"name": "", "rows": "2", "columns": "3"}, "A room needs a name"),
            ({"name": "2.14", "rows": "2", "columns": "3"}, "There is a room 2.14 already"),
            ({"name": "Hall", "rows": "31", "columns": "3"}, "less than or equal to 30"),
            ({"name": "Hall", "rows": "", "columns": "-1"}, "How many rows are there?"),
        ):
            page = self.post("new-room", status=422, **fields)
            self.assertIn(said, page)
            self.assertIn(f'value="{fields["columns"]}"', page)
        everywhere = [f"{row}-{column}" for row in range(2) for column in range(2)]
        page = self.post("room", self.room.pk, status=422, name="2.14", rows="2", columns="2", gap=everywhere)
        self.assertIn("A room needs one seat at least", page)
        self.room.refresh_from_db()
        self.assertEqual(self.room.rows, 3)


class SeatPlans(Seating):
    def test_a_class_sits_by_name_and_no_neighbours_have_the_same_form(self) -> None:
        plan = self.plan()
        seated = plan.seated
        self.assertEqual([seat.student for seat in seated], self.students)
        self.assertFalse({(seat.row, seat.column) for seat in seated} & {(0, 2), (1, 2)})
        self.assertFalse([pair for pair in pairs_of(seated) if pair.same])
        page = self.page("seat-plan", plan.pk)
        for words in ("No neighbours have the same form", "Mia Fam09", "row 1, seat 3", "Front of the room"):
            self.assertIn(words, page)
        self.assertIn("10 A in 2.14", self.page("form-set", self.form_set.pk))

    def test_what_cannot_be_seated_is_said(self) -> None:
        small = Room.objects.create(school=self.physics.school, name="Store", rows=1, columns=3)
        fields = {"held": self.held.pk, "room": small.pk, "seated": "names"}
        page = self.post("new-seat-plan", self.form_set.pk, status=422, **fields)
        self.assertIn("Store has 3 seats, and 10 students are in 10 A", page)
        empty = Class.objects.create(department=self.physics, name="7 Z", year="2026/27")
        empty.teachers.add(self.author)
        fields = {"held": empty.pk, "room": self.room.pk, "seated": "sideways"}
        page = self.post("new-seat-plan", self.form_set.pk, status=422, **fields)
        self.assertIn("Nobody is in 7 Z yet", page)
        self.assertFalse(SeatPlan.objects.exists())

    def test_moving_shows_conflicts_at_once(self) -> None:
        plan = self.plan()
        before = self.at(plan)
        one, other = before[0, 0], before[2, 1]
        self.post("move-seat", plan.pk, **{"from": "0-0", "to": "2-1"})
        after = self.at(plan)
        self.assertEqual((after[2, 1].student, after[2, 1].form), (one.student, one.form))
        self.assertEqual((after[0, 0].student, after[0, 0].form), (other.student, other.form))
        # to a free seat, and papers alone
        self.post("move-seat", plan.pk, **{"from": "0-0", "to": "2-4"})
        self.assertNotIn((0, 0), self.at(plan))
        codes = {where: seat.form_id for where, seat in self.at(plan).items()}
        self.post("move-seat", plan.pk, what="paper", **{"from": "2-1", "to": "2-0"})
        changed = self.at(plan)
        self.assertEqual((changed[2, 1].form_id, changed[2, 0].form_id), (codes[2, 0], codes[2, 1]))
        # two with the same form beside each other
        Seat.objects.filter(plan=plan, row=0, column__in=(0, 1)).update(form=one.form)
        Seat.objects.filter(plan=plan, row=1, column=0).update(form=one.form)
        same = [pair for pair in pairs_of(plan.seated) if pair.same]
        where = {((pair.one.row, pair.one.column), (pair.other.row, pair.other.column)): pair.nearness for pair in same}
        self.assertIs(where[(0, 1), (1, 0)], Nearness.DIAGONAL)
        self.assertIn(f"{len(same)} pair", self.page("seat-plan", plan.pk))

    def test_nonsense_moves_nothing(self) -> None:
        plan = self.plan()
        before = {where: seat.pk for where, seat in self.at(plan).items()}
        for start, end in (("0-0", "0-2"), ("0-0", "9-9"), ("2-4", "0-0"), ("x", "0-0"), ("0-0", "0-0"), ("", "")):
            self.post("move-seat", plan.pk, status=422, **{"from": start, "to": end})
        self.post("move-seat", plan.pk, status=422, what="paper", **{"from": "0-0", "to": "2-4"})
        self.assertEqual({where: seat.pk for where, seat in self.at(plan).items()}, before)

    def test_it_follows_the_class_when_it_is_brought_up_to_date(self) -> None:
        plan = self.plan()
        self.held.take_out([self.students[0].pk])
        late = [
            Student.objects.create(school=self.physics.school, family=f"Late{k}", given="Noa", number=f"9{k}")
            for k in range(2)
        ]
        self.held.enrol([each.pk for each in late])
        page = self.page("seat-plan", plan.pk)
        self.assertIn("2 students of 10 A have no seat", page)
        self.assertIn("1 who sits here left the class", page)
        self.post("seat-anew", plan.pk, do="forms")
        perform(Job.objects.filter(kind="seat plan").latest("pk").pk)
        seated = {seat.student for seat in plan.seated}
        self.assertEqual(seated, {*self.students[1:], *late})
        self.assertTrue(all(seat.form_id for seat in plan.seated))
        # a class that has grown beyond the room is told so, and nothing changes
        more = [
            Student.objects.create(school=self.physics.school, family=f"More{k}", given="Noa", number=f"8{k}")
            for k in range(3)
        ]
        self.held.enrol([each.pk for each in more])
        for how in ("forms", "names", "mixed"):
            self.post("seat-anew", plan.pk, do=how)
            self.assertIn("2.14 has 13 seats", self.page("seat-plan", plan.pk))
            self.assertEqual({seat.student for seat in plan.seated}, seated)

    def test_it_is_mixed_turned_and_removed(self) -> None:
        plan = self.plan(seated="mixed", apart="on")
        self.assertEqual({seat.student for seat in plan.seated}, set(self.students))
        self.post("seat-anew", plan.pk, do="turn")
        page = self.page("seat-plan", plan.pk)
        self.assertLess(page.index('data-seat="2-4"'), page.index('data-seat="0-0"'))
        self.room.delete()
        self.post("seat-anew", plan.pk, do="names")
        self.assertTrue(SeatPlan.objects.get(pk=plan.pk).is_being_given)
        self.assertIn("Giving forms to 10 A", self.page("seat-plan", plan.pk))
        self.post("move-seat", plan.pk, status=422, **{"from": "0-0", "to": "0-1"})
        self.post("stop-seat-plan", plan.pk)
        self.assertIn("10 students have no form yet", self.page("seat-plan", plan.pk))
        self.post("remove-seat-plan", plan.pk)
        self.assertFalse(SeatPlan.objects.exists())

    def test_papers_are_printed_with_names_and_codes(self) -> None:
        Insert.objects.create(
            test=self.test, position=0, name="Data", text="", file=self.form_set.forms.all()[0].paper, pages=1
        )
        source = frozen(self.test, 2)
        self.form_set = source
        plan = self.plan()
        self.post("order-class-papers", plan.pk)
        job = Job.objects.filter(kind="class papers").latest("pk")
        # asked for once more while it is being printed
        self.post("order-class-papers", plan.pk)
        self.assertEqual(Job.objects.filter(kind="class papers").count(), 1)
        perform(job.pk)
        pdf = sent(self.client.get(reverse("class-papers", args=[plan.pk])))
        seats, found = plan.seated, codes(pdf)
        self.assertEqual(
            [code for code in found if code and code.student],
            [PageCode(source.pk, seat.form.code if seat.form else "", 1, seat.student_id) for seat in seats],
        )
        text = [page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(pdf)]
        self.assertEqual(len(text), 20)
        self.assertIn("Mia Fam00", text[0])
        with pikepdf.open(io.BytesIO(pdf)) as whole:
            self.assertEqual(whole.check_pdf_syntax(), [])
            with whole.open_outline() as outline:
                self.assertIn("Fam00, Mia, form", outline.root[0].title)
        # who moves has another paper
        self.post("move-seat", plan.pk, **{"from": "0-0", "to": "0-1"})
        self.assertEqual(self.client.get(reverse("class-papers", args=[plan.pk])).status_code, 404)

    def test_whoever_is_allowed_large_print_gets_it(self) -> None:
        plan = self.plan()
        first, second = (seat.student for seat in plan.seated[:2])
        Allowance.objects.create(student=second, large_print=True)
        Allowance.objects.create(student=first, larger_letters=True)
        self.post("order-class-papers", plan.pk)
        perform(Job.objects.filter(kind="class papers").latest("pk").pk)
        heights: dict[str, float] = {}
        for page in pypdfium2.PdfDocument(sent(self.client.get(reverse("class-papers", args=[plan.pk])))):
            text = page.get_textpage()
            words = text.get_text_range()
            for student in (first, second):
                if "Answer" in words and student.full_name in words:
                    _, bottom, _, top = text.get_charbox(words.index("Answer"))
                    heights.setdefault(student.full_name, top - bottom)
        self.assertAlmostEqual(heights[second.full_name] / heights[first.full_name], 17 / 11, places=2)

    def test_papers_that_were_ordered_before_a_move_are_not_kept(self) -> None:
        plan = self.plan()
        self.post("order-class-papers", plan.pk)
        job = Job.objects.filter(kind="class papers").latest("pk")
        self.post("move-seat", plan.pk, **{"from": "0-0", "to": "0-1"})
        perform(job.pk)
        self.assertIsNone(SeatPlan.objects.get(pk=plan.pk).papers)


class Inserts(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.test = test_of(cls.physics, cls.author, question(cls.physics, cls.author, "foghorn"))

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def add(self, status: int = 302, **fields: Any) -> str:
        answer = self.client.post(reverse("add-insert", args=[self.test.pk]), fields)
        self.assertEqual(answer.status_code, status)
        return " ".join(answer.content.decode().split())

    def pdf(self, content: bytes = b"") -> SimpleUploadedFile:
        return SimpleUploadedFile("map.pdf", content or given((842, 595)), "application/pdf")

    def test_they_are_frozen_and_printed_with_the_papers(self) -> None:
        self.add(name="Data sheet", text="The moment: $M = F*d$", behind="on")
        self.add(name="Map", given=self.pdf())
        form_set = frozen(self.test, 3)
        # what is changed later changes no set
        own = self.test.inserts.get(name="Data sheet")
        changes = {"name": "Data", "text": "Other words.", "behind": "on"}
        self.client.post(reverse("edit-insert", args=[self.test.pk, own.pk]), changes)
        papers = Print.objects.get(form_set=form_set, kind="papers").file.read()
        text = [page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(papers)]
        self.assertEqual([k for k, page in enumerate(text) if "The moment" in page], [1, 3, 5])
        archive = zipfile.ZipFile(io.BytesIO(Print.objects.get(form_set=form_set, kind="archive").file.read()))
        names = sorted(name.partition("/inserts/")[2] for name in archive.namelist() if "/inserts/" in name)
        self.assertEqual(names, ["1-data-sheet.pdf", "2-map.pdf"])
        page = self.client.get(reverse("form-set", args=[form_set.pk])).content.decode()
        self.assertIn("behind every paper", page)
        for each in form_set.inserts.all():
            content = sent(self.client.get(reverse("insert-of-set", args=[form_set.pk, each.pk])))
            self.assertTrue(content.startswith(b"%PDF"))

    def test_what_is_wrong_is_said_and_nothing_typed_is_lost(self) -> None:
        for fields, said in (
            ({"name": "", "text": "kept words"}, "A name is needed"),
            ({"name": "Sheet", "text": "kept words $(a+$"}, "kept words $(a+$"),
            ({"name": "Sheet", "text": "kept words 漢"}, "cannot be printed"),
            ({"name": "Sheet", "text": ""}, "Write the sheet, or choose a PDF."),
            ({"name": "Sheet", "text": "kept words", "given": self.pdf()}, "this has both"),
            ({"name": "Sheet", "given": self.pdf(b"no pdf")}, "cannot be read as a PDF"),
        ):
            page = self.add(422, **fields)
            self.assertIn(said, page)
            self.assertIn("field-error", page)
            if fields.get("text"):
                self.assertIn("kept words", page)
        self.assertFalse(self.test.inserts.exists())

    def test_a_change_is_taken_back_and_a_copy_has_them(self) -> None:
        self.add(name="Data sheet", text="Words.")
        own = self.test.inserts.get()
        self.client.post(reverse("edit-insert", args=[self.test.pk, own.pk]), {"do": "remove"})
        self.assertFalse(self.test.inserts.exists())
        self.client.post(reverse("undo-step", args=[self.test.pk]), {"step": self.test.steps.all()[0].pk})
        self.assertEqual(self.test.inserts.get().text, "Words.")
        for settings, count in (("yes", 1), ("no", 0)):
            self.client.post(reverse("copy-test", args=[self.test.pk]), {"settings": settings})
            self.assertEqual(Test.objects.latest("pk").inserts.count(), count)

    def test_a_test_has_so_many_at_most(self) -> None:
        for number in range(6):
            self.add(name=f"Sheet {number}", text="Words.")
        self.assertIn("at most 6 inserts", self.add(422, name="One more", text="Words."))


class OptionsOfATest(TestCase):
    def test_a_set_keeps_how_options_stood(self) -> None:
        physics = department("Physics")
        author = person("author", physics)
        options = [{"text": text, "share": "1" if text == "iron" else "0"} for text in ("zinc", "iron", "tin", "lead")]
        parts = [{"marks": "1", "answer": {"kind": "choice", "options": options}}]
        asked = question(physics, author, "foghorn", title="Metal", wording="Which rusts?", parameters=[], parts=parts)
        made = test_of(physics, author, asked)
        self.client.force_login(author)
        fields = {"title": "Metals", "in_order": "on", "across": "on"}
        self.client.post(reverse("edit-test", args=[made.pk]), fields)
        made.refresh_from_db()
        form_set = frozen(made, 6)
        orders = {json.dumps(item.orders) for form in form_set.forms.all() for item in form.items.all()}
        self.assertEqual(len(orders), 1)
        self.assertTrue(form_set.across)
        Test.objects.filter(pk=made.pk).update(in_order=False)
        mixed = frozen(Test.objects.get(pk=made.pk), 6)
        self.assertGreater(len({json.dumps(item.orders) for form in mixed.forms.all() for item in form.items.all()}), 1)
