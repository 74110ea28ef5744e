"""Grade boundaries of a test, the mark of a school, and keys of one form."""

import io
from decimal import Decimal

import openpyxl
import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from vorlage.core.documents import CHOICES
from vorlage.web.forms.basis import retest
from vorlage.web.forms.models import FormSet
from vorlage.web.plans.models import SchoolMark, Test

from .samples import department, frozen, person, question, test_of
from .samples import sent as sent_bytes


def drawing(colour: str = "black") -> SimpleUploadedFile:
    content = io.BytesIO()
    Image.new("RGB", (60, 40), colour).save(content, "PNG")
    return SimpleUploadedFile("mark.png", content.getvalue(), "image/png")


def text_of(pdf: bytes) -> str:
    return " ".join(" ".join(page.get_textpage().get_text_range().split()) for page in pypdfium2.PdfDocument(pdf))


class Base(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.physics.boundary_names = ["distinction", "merit", "pass"]
        cls.physics.save()
        cls.author = person("author", cls.physics, "author")
        cls.test = test_of(cls.physics, cls.author, question(cls.physics, cls.author))

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def again(self) -> Test:
        return Test.objects.get(pk=self.test.pk)

    def keep(self, status: int = 302, **typed: str) -> str:
        answer = self.client.post(reverse("keep-boundaries", args=[self.test.pk]), {"told_in": "share", **typed})
        self.assertEqual(answer.status_code, status)
        return answer.content.decode()


class Grades(Base):
    def test_what_is_wrong_is_said_beside_its_field_and_nothing_is_lost(self) -> None:
        page = self.keep(422, least_0="85", least_1="90", least_2="pass")
        self.assertIn("A number up to 1,000, such as 60.", page)
        self.assertIn('value="90"', page)
        page = self.keep(422, least_0="85", least_1="90", least_2="101")
        self.assertIn("It has to be less than 85, where distinction begins.", page)
        self.assertIn("From 0 to 100 per cent.", page)
        self.assertIn('value="101"', page)
        self.assertEqual(self.again().boundaries, {})
        self.assertIn("marks of this test", self.keep(422, told_in="marks", least_0="500"))

    def test_they_are_kept_taken_back_and_frozen_with_a_set(self) -> None:
        self.keep(least_0="85", least_2="50")
        kept = {"told_in": "share", "least": [["distinction", "85"], ["pass", "50"]]}
        self.assertEqual(self.again().boundaries, kept)
        first = frozen(self.again())
        self.client.post(reverse("undo-step", args=[self.test.pk]), {"step": self.again().steps.first().pk})
        self.assertEqual(self.again().boundaries, {})
        self.assertEqual(first.boundaries, kept)
        # a set that follows has them too
        self.assertEqual(retest(first, first.forms.get(position=0), self.author, 1).boundaries, kept)
        self.keep(least_0="85")
        self.keep()
        self.assertEqual(self.again().boundaries, {})

    def test_a_grade_stays_that_the_department_does_not_name_any_more(self) -> None:
        self.keep(least_0="85", least_1="70")
        self.physics.boundary_names = ["distinction", "good"]
        self.physics.save()
        page = self.client.get(reverse("test", args=[self.test.pk])).content.decode()
        self.assertRegex(page, r'name="least_2"[^>]*value="70"|value="70"[^>]*name="least_2"')
        self.physics.boundary_names = []
        self.physics.save()
        other = Test.objects.create(department=self.physics, author=self.author, title="Other")
        self.assertIn(
            "has no names for its grades yet", self.client.get(reverse("test", args=[other.pk])).content.decode()
        )

    def test_every_key_says_them_and_one_form_has_a_key_of_its_own(self) -> None:
        Test.objects.filter(pk=self.test.pk).update(maximum=Decimal(40))
        self.keep(least_0="85", least_1="62.5")
        made = frozen(self.again(), 3)
        whole = text_of(sent_bytes(self.client.get(reverse("printed", args=[made.pk, "key"]))))
        self.assertIn("distinction 85 % 34 merit 62.5 % 25", whole)
        code = made.forms.get(position=1).code
        others = [each.code for each in made.forms.exclude(code=code)]
        own = text_of(self.client.get(reverse("form-key", args=[made.pk, code])).content)
        self.assertIn("distinction 85 % 34", own)
        self.assertIn(f"Form {code}", own)
        self.assertFalse(any(f"Form {each}" in own for each in others))
        # what it says of this form is what the whole key says
        self.assertIn(own.split(f"Form {code} Question")[1].split("Quay")[0].strip()[:200], whole)
        table = self.client.get(reverse("key-table", args=[made.pk, "xlsx"]), {"form": code})
        book = openpyxl.load_workbook(io.BytesIO(table.content))
        self.assertEqual(book.sheetnames, ["Key", "Grade boundaries"])
        self.assertEqual({row[0] for row in book["Key"].iter_rows(min_row=2, values_only=True)}, {code})
        rows = list(book["Grade boundaries"].iter_rows(values_only=True))
        self.assertEqual(
            rows, [("Grade", "From per cent", "From marks, of 40"), ("distinction", 85, 34), ("merit", 62.5, 25)]
        )
        self.assertEqual(self.client.get(reverse("key-table", args=[made.pk, "csv"]), {"form": "???"}).status_code, 404)


class Marks(Base):
    def setUp(self) -> None:
        self.head = person("head", self.physics, "lead")
        self.head.administers, self.head.school = True, self.physics.school
        self.head.save()
        self.client.force_login(self.head)

    def give(self, **fields: object) -> str:
        answer = self.client.post(reverse("keep-school-mark"), fields)
        return answer.content.decode() if answer.status_code == 422 else answer["Location"]

    def test_a_picture_becomes_the_mark_and_what_is_none_is_refused(self) -> None:
        self.assertIn("Choose a picture first.", self.give())
        odd = SimpleUploadedFile("mark.svg", b"<svg onload='alert(1)'/>", "image/svg+xml")
        self.assertIn("This is no picture that can be read", self.give(mark=odd))
        self.assertEqual(self.give(mark=drawing()), reverse("school"))
        self.assertIn(reverse("school-mark"), self.client.get(reverse("school")).content.decode())
        shown = sent_bytes(self.client.get(reverse("school-mark")))
        self.assertEqual(Image.open(io.BytesIO(shown)).size, (60, 40))
        self.give(mark=drawing("red"))
        self.assertEqual(SchoolMark.objects.filter(withdrawn=None).count(), 1)
        self.give(do="remove")
        self.assertFalse(SchoolMark.objects.filter(withdrawn=None).exists())
        self.assertEqual(self.client.get(reverse("school-mark")).status_code, 404)

    def test_a_set_keeps_the_mark_that_it_was_made_with(self) -> None:
        self.give(mark=drawing())
        look = {name: next(iter(offered)) for name, offered in CHOICES.items()} | {"mark": "on"}
        self.client.post(reverse("keep-look", args=[self.test.pk]), look)
        first = frozen(self.again())
        self.give(do="remove")
        second = frozen(self.again())
        self.assertEqual([each.mark is not None for each in (first, second)], [True, False])
        says = b"The mark of "
        raised = [says in each.forms.get(position=0).paper.read() for each in (first, second)]
        self.assertEqual(raised, [True, False])
        # what is printed of it later has it still
        follower = retest(first, first.forms.get(position=0), self.head, 1)
        self.assertEqual(FormSet.objects.get(pk=follower.pk).mark, first.mark)
        self.assertEqual(first.look, {"mark": True})
