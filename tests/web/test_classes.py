"""Classes, class lists, slips, allowances and undoing, through the pages."""

import io

import openpyxl
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import HttpResponse
from django.test import TestCase, override_settings
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from vorlage.core.roster import read_file, read_people
from vorlage.web.classes.models import Allowance, Class, Enrolment, Student, school_year
from vorlage.web.classes.slips import make_slips
from vorlage.web.design.tables import as_csv, as_workbook
from vorlage.web.people.models import User

from .samples import department, person

LIST = "Name;Number;E-mail\nAbara, Ada;2401;ada@sandhaven.example\nBielski, Idris;2402;\nŁaskowska, Freya;2403;\n"


class InAClass(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.teacher = person("teacher", cls.physics)
        cls.held = Class.objects.create(department=cls.physics, name="10 A", year="2026/27")
        cls.held.teachers.add(cls.teacher)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def names(self, held: Class | None = None) -> list[str]:
        here = Student.objects.filter(enrolments__held=held or self.held, enrolments__left=None)
        return [str(each) for each in here]

    def look(self, text: str, **more: object) -> HttpResponse:
        return self.client.post(reverse("add-students", args=[self.held.pk]), {"text": text, "do": "read", **more})

    def take(self, text: str, **more: object) -> HttpResponse:
        return self.look(text, do="take", **more)

    def bulk(self, do: str, *students: Student, **more: object) -> HttpResponse:
        body = {"do": do, "student": [each.pk for each in students], **more}
        return self.client.post(reverse("with-students", args=[self.held.pk]), body)

    def undo(self) -> None:
        self.client.post(reverse("undo-class", args=[self.held.pk]))


class Lists(InAClass):
    def test_a_list_is_shown_and_then_taken(self) -> None:
        self.assertContains(self.look(LIST), "<strong>3</strong>", html=True)
        self.assertEqual(self.names(), [])
        self.take(LIST)
        self.assertEqual(self.names(), ["Abara, Ada", "Bielski, Idris", "Łaskowska, Freya"])

    def test_the_same_list_again_changes_nothing(self) -> None:
        self.take(LIST)
        before = list(Student.objects.order_by("pk").values())
        self.assertContains(self.look(LIST), "nothing would change")
        self.take(LIST)
        self.assertEqual(list(Student.objects.order_by("pk").values()), before)
        self.assertEqual(Enrolment.objects.count(), 3)

    def test_a_list_with_changes(self) -> None:
        self.take(LIST)
        changed = "Name;Number\nAbara-Lund, Ada;2401\nBielski, Idris;9999\nNewman, Otto;2404\n"
        page = self.look(changed)
        self.assertContains(page, "Abara → <strong>Abara-Lund</strong>")
        self.assertContains(page, "Bielski, Idris has the number 2402.")
        freya = Student.objects.get(number="2403")
        # who is doubtful is left out unless somebody decides, and nobody goes unless ticked
        self.take(changed)
        self.assertEqual(self.names(), ["Abara-Lund, Ada", "Bielski, Idris", "Łaskowska, Freya", "Newman, Otto"])
        self.assertEqual(Student.objects.get(family="Bielski").number, "2402")
        self.take(changed, **{"row-3": "same", "gone": [freya.pk]})
        self.assertEqual(self.names(), ["Abara-Lund, Ada", "Bielski, Idris", "Newman, Otto"])
        self.assertEqual(Student.objects.get(family="Bielski").number, "9999")
        # whoever has left is known
        self.assertEqual(Enrolment.objects.get(student=freya).left is None, False)

    def test_another_student_of_the_same_name(self) -> None:
        self.take(LIST)
        self.take("Name;Number\nAbara, Ada;3000\n", **{"row-2": "other"})
        self.assertEqual(self.names().count("Abara, Ada"), 2)

    def test_taking_a_list_can_be_taken_back(self) -> None:
        self.take(LIST)
        self.undo()
        self.assertEqual((self.names(), Student.objects.count()), ([], 0))
        self.take(LIST)
        freya = Student.objects.get(number="2403")
        self.take("Name;Number\nAbara-Lund, Ada;2401\nNewman, Otto;2404\n", gone=[freya.pk])
        self.undo()
        self.assertEqual(self.names(), ["Abara, Ada", "Bielski, Idris", "Łaskowska, Freya"])
        # and only once
        self.undo()
        self.assertEqual(len(self.names()), 3)

    def test_a_student_of_another_class_joins(self) -> None:
        other = Class.objects.create(department=self.physics, name="10 B", year="2026/27")
        ada = Student.objects.create(school=self.physics.school, family="Abara", given="Ada", number="2401")
        other.enrol([ada.pk])
        self.take(LIST)
        self.assertEqual(Student.objects.filter(family="Abara").count(), 1)
        self.assertEqual(self.names(other), ["Abara, Ada"])
        self.undo()
        self.assertEqual((self.names(), self.names(other)), ([], ["Abara, Ada"]))

    def test_somebody_of_another_class_is_not_renamed_from_here(self) -> None:
        Student.objects.create(school=self.physics.school, family="Zorn", given="Mia", number="2401")
        self.take(LIST, **{"row-2": "same"})
        self.assertEqual(Student.objects.get(number="2401").family, "Zorn")
        self.assertEqual(self.names(), ["Bielski, Idris", "Łaskowska, Freya"])

    def test_whoever_comes_without_a_number_is_given_one(self) -> None:
        self.take("Adair, Kofi\nBlom, Wanda")
        self.take("Cho, Min")
        self.assertEqual([each.number for each in Student.objects.all()], ["V1001", "V1002", "V1003"])

    def test_a_number_that_the_list_brings_is_given_to_nobody_else(self) -> None:
        self.take("Name;Number\nAdair, Kofi;\nBlom, Wanda;v1001\nCho, Min;V999999999\nDray, Ola;")
        self.assertEqual([each.number for each in Student.objects.all()], ["V1002", "v1001", "V999999999", "V1003"])

    def test_a_number_that_is_somebody_elses_by_now_stays_theirs(self) -> None:
        self.take(LIST)
        self.take("Name;Number\nBielski, Idris;9402\n", **{"row-2": "same"})
        Student.objects.create(school=self.physics.school, family="Zorn", given="Mia", number="2402")
        self.undo()
        self.assertEqual(Student.objects.get(family="Bielski").number, "9402")

    def test_with_anything_wrong_nothing_is_taken_and_nothing_typed_is_lost(self) -> None:
        wrong = "Name;Number\nAbara, Ada;2401\n=1+1;2402\n"
        for answer in (self.look(wrong), self.take(wrong)):
            self.assertContains(answer, "Row 3: “=1+1” begins like a formula.", status_code=422)
            self.assertContains(answer, "Abara, Ada;2401", status_code=422)
        self.assertEqual(Student.objects.count(), 0)

    def test_a_file_is_read_as_what_is_typed(self) -> None:
        book = openpyxl.Workbook()
        for row in (("Given name", "Family name", "No."), ("Ada", "Abara", 2401), ("Idris", "Bielski", "0077")):
            book.active.append(row)
        kept = io.BytesIO()
        book.save(kept)
        page = self.look("", file=SimpleUploadedFile("list.xlsx", kept.getvalue()))
        self.assertContains(page, "0077")
        self.take(page.context["text"])
        self.assertEqual([each.number for each in Student.objects.all()], ["2401", "0077"])

    def test_hostile_files_are_told_and_take_nothing(self) -> None:
        for name, content, word in (
            ("50 MB", b"a;b\n" * 12_500_000, "larger than 5 MB"),
            ("a picture", b"\x89PNG\r\n\x1a\n\0\0", "no table"),
            ("broken", b"PK\x03\x04 no more", "damaged"),
            ("two encodings", "Name;Nr\nMüller, Ä;1\n".encode("cp1252") + "Öz, B;2\nÜ, C;3".encode(), "Row 2"),
        ):
            with self.subTest(name):
                answer = self.look("", file=SimpleUploadedFile("list.csv", content))
                self.assertContains(answer, word, status_code=422)
        self.assertContains(self.look(" "), "Type or paste at least one name", status_code=422)
        self.assertEqual(Student.objects.count(), 0)

    def test_columns_are_corrected(self) -> None:
        text = "Rufname;Sippe\nKofi;Adair\n"
        self.assertContains(self.look(text), "What the columns hold")
        self.take(text, column=["given", "family"], headings="yes")
        self.assertEqual(self.names(), ["Adair, Kofi"])

    def test_a_class_list_comes_out_as_it_went_in(self) -> None:
        self.take(LIST)
        for kind in ("csv", "xlsx"):
            with self.subTest(kind):
                answer = self.client.get(reverse("class-list", args=[self.held.pk, kind]))
                entries = read_people(read_file(answer.content)).entries
                self.assertEqual([e.number for e in entries], ["2401", "2402", "2403"])
                self.assertIn("attachment", answer["Content-Disposition"])
        self.assertEqual(self.client.get(reverse("class-list", args=[self.held.pk, "exe"])).status_code, 404)

    def test_what_is_taken_away_holds_no_formulas(self) -> None:
        rows = [("=HYPERLINK(1)", "@SUM", "+1", "-2", "plain")]
        self.assertEqual(as_csv(rows)[0].decode("utf-8-sig"), "'=HYPERLINK(1),'@SUM,'+1,'-2,plain\r\n")
        book = openpyxl.load_workbook(io.BytesIO(as_workbook({"a/b": rows})[0]))
        self.assertEqual([cell.data_type for cell in book.active[1]], ["s"] * 5)


class Students(InAClass):
    def setUp(self) -> None:
        super().setUp()
        self.take(LIST)
        self.students = list(Student.objects.all())

    def test_what_is_done_with_several_can_be_taken_back(self) -> None:
        other = Class.objects.create(department=self.physics, name="9 C", year="2026/27")
        other.teachers.add(self.teacher)
        make_slips(self.students)
        active = lambda: User.objects.filter(studies=True, is_active=True).count()  # noqa: E731
        self.bulk("take-out", *self.students[:2])
        self.assertEqual(len(self.names()), 1)
        self.undo()
        self.assertEqual(len(self.names()), 3)
        self.bulk("copy", *self.students, **{"class": other.pk})
        self.assertEqual(len(self.names(other)), 3)
        self.undo()
        self.assertEqual(len(self.names(other)), 0)
        self.bulk("close", *self.students[1:])
        self.assertEqual(active(), 1)
        self.undo()
        self.assertEqual(active(), 3)
        self.bulk("take-out")
        self.assertContains(self.client.get(reverse("class", args=[self.held.pk])), "Nobody was ticked")

    def test_whoever_left_comes_back(self) -> None:
        self.bulk("take-out", self.students[0])
        self.bulk(f"back {self.students[0].pk}")
        self.assertEqual(len(self.names()), 3)

    def test_only_those_of_the_class_are_touched(self) -> None:
        stranger = Student.objects.create(school=self.physics.school, family="Zorn", given="Mia", number="1")
        foreign = Class.objects.create(department=department("Art", "Lighthouse School"), name="1", year="2026/27")
        self.bulk("copy", stranger, **{"class": self.held.pk})
        self.assertNotIn("Zorn, Mia", self.names())
        self.assertEqual(self.bulk("copy", self.students[0], **{"class": foreign.pk}).status_code, 404)
        slips = self.client.post(reverse("slips", args=[self.held.pk]), {"student": [stranger.pk]})
        self.assertNotContains(slips, "Mia Zorn")

    @override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.PBKDF2PasswordHasher"])
    def test_slips_sign_in_and_are_worth_something_once(self) -> None:
        page = self.client.post(reverse("slips", args=[self.held.pk]))
        slips = {slip.student.number: slip for slip in page.context["slips"]}
        self.assertEqual([slip.login for slip in slips.values()], ["ada.abara", "idris.bielski", "freya.laskowska"])
        self.assertIn("no-store", page["Cache-Control"])
        for login in (slips["2401"].login, "ada@sandhaven.example"):
            with self.subTest(login):
                self.client.logout()
                body = {"login": login, "password": slips["2401"].password}
                self.client.post(reverse("account_login"), body)
                self.assertRedirects(self.client.get(reverse("home")), reverse("mine"))
        # what nobody chose is hashed anew when its owner has signed in
        self.assertNotIn("$60000$", User.objects.get(sign_in_name="ada.abara").password)
        self.client.force_login(self.teacher)
        again = self.client.post(reverse("slips", args=[self.held.pk]), {"student": [self.students[0].pk]})
        self.client.logout()
        self.client.post(reverse("account_login"), {"login": "ada.abara", "password": slips["2401"].password})
        self.assertRedirects(self.client.get(reverse("home")), "/sign-in/?next=/")
        self.assertEqual(len(again.context["slips"]), 1)

    def test_two_of_one_name_sign_in_with_two(self) -> None:
        twin = Student.objects.create(school=self.physics.school, family="Abara", given="Ada", number="1")
        nobody = Student.objects.create(school=self.physics.school, family="張", given="偉", number="2")
        logins = [slip.login for slip in make_slips([*self.students, twin, nobody])]
        self.assertEqual((logins[0], logins[3:]), ("ada.abara", ["ada.abara2", "student.2"]))

    def test_a_student_is_changed_and_so_is_the_sign_in(self) -> None:
        ada = make_slips(self.students[:1])[0].student
        address = reverse("edit-student", args=[ada.pk])
        body = {"family": "Abara-Lund", "given": "Ada", "number": "2401", "email": "lund@sandhaven.example"}
        self.client.post(address, body)
        ada.refresh_from_db()
        self.assertEqual((ada.user.name, ada.user.email), ("Ada Abara-Lund", "lund@sandhaven.example"))
        for field, value, word in (
            ("number", "2402", "has this already"),
            ("number", "", "is missing"),
            ("email", "no address", "no e-mail address"),
            ("family", "=1", "formula"),
            ("email", self.teacher.email.upper(), ""),
        ):
            with self.subTest(f"{field} {value}"):
                answer = self.client.post(address, body | {field: value})
                if word:
                    self.assertContains(answer, word, status_code=422)
        # an address that signs in somebody else does not sign in a student
        self.assertEqual(User.objects.get(email=self.teacher.email), self.teacher)

    def test_allowances_are_for_whoever_teaches_the_student(self) -> None:
        ada = self.students[0]
        address = reverse("edit-allowance", args=[ada.pk])
        both = self.client.post(address, {"more_time_percent": "25", "more_time_minutes": "10"})
        self.assertContains(both, "either in per cent or in minutes", status_code=422)
        for bad in ("201", "-1", "2.5", "x"):
            answer = self.client.post(address, {"more_time_percent": bad})
            self.assertContains(answer, "A whole number from 0 to 200", status_code=422)
        self.client.post(address, {"more_time_percent": "25", "breaks": "on"})
        self.assertEqual(Allowance.objects.get().in_words(), ["25 % more time", "breaks that stop the clock"])
        pages = [reverse("class", args=[self.held.pk]), reverse("student", args=[ada.pk])]
        self.assertContains(self.client.get(pages[0]), "25 % more time")
        head = person("head", self.physics, "lead")
        self.client.force_login(head)
        for page in (*pages, reverse("students"), reverse("class-list", args=[self.held.pk, "csv"])):
            with self.subTest(page):
                answer = self.client.get(page)
                self.assertEqual(answer.status_code, 200)
                self.assertNotContains(answer, "more time")
                self.assertNotContains(answer, "Allowances")
        self.assertEqual(self.client.post(address, {"more_time_percent": "50"}).status_code, 403)
        # whoever taught the student and does not any more knows nothing new
        self.client.force_login(self.teacher)
        self.bulk("take-out", ada)
        self.assertNotContains(self.client.get(pages[1]), "Allowances")

    def test_five_thousand_are_found_by_a_part_of_the_name(self) -> None:
        Student.objects.bulk_create(
            Student(school=self.physics.school, family=f"Family{k}", given="Given", number=f"F{k}", search_text=f"family{k} given f{k}")
            for k in range(5_000)
        )  # fmt: skip
        self.teacher.administers = True
        self.teacher.save()
        with CaptureQueriesContext(connection) as queries:
            page = self.client.get(reverse("students"), {"find": "ily4321 giv"})
        self.assertContains(page, "Family4321, Given")
        self.assertContains(page, "1 student with")
        self.assertEqual(len(queries), 6)
        self.assertContains(self.client.get(reverse("students"), {"find": "laskow"}), "Łaskowska, Freya")
        self.assertContains(self.client.get(reverse("students"), {"find": "Nobody"}), "Nobody here is called that")


class Classes(InAClass):
    def test_a_class_is_begun_and_its_teacher_is_who_began_it(self) -> None:
        body = {"name": "11 B", "year": "2026/27", "department": self.physics.pk}
        self.client.post(reverse("new-class"), body)
        made = Class.objects.get(name="11 B")
        self.assertEqual(list(made.teachers.all()), [self.teacher])
        again = self.client.post(reverse("new-class"), body)
        self.assertContains(again, "There is a class 11 B in 2026/27 already.", status_code=422)
        self.assertContains(self.client.post(reverse("new-class"), {}), "A class needs a name", status_code=422)

    def test_a_class_given_away_is_seen_no_more(self) -> None:
        colleague = person("colleague", self.physics, "reader")
        body = {"name": "10 A", "year": "2026/27", "department": self.physics.pk, "teachers": [colleague.pk]}
        answer = self.client.post(reverse("edit-class", args=[self.held.pk]), body)
        self.assertRedirects(answer, reverse("classes"))
        self.assertEqual(self.client.get(reverse("class", args=[self.held.pk])).status_code, 404)

    def test_a_class_is_removed_while_nobody_was_in_it(self) -> None:
        address = reverse("drop-class", args=[self.held.pk])
        self.take(LIST)
        self.client.post(address)
        self.assertEqual(Enrolment.objects.count(), 3)
        self.undo()
        self.client.post(address)
        self.assertFalse(Class.objects.exists())

    def test_nobody_of_another_school_teaches_here(self) -> None:
        foreign = person("foreign", department("Physics", "Lighthouse School"))
        body = {
            "name": "10 A",
            "year": "2026/27",
            "department": foreign.roles[0].department_id,
            "teachers": [foreign.pk],
        }
        self.assertEqual(self.client.post(reverse("edit-class", args=[self.held.pk]), body).status_code, 422)

    def test_a_school_year_begins_in_august(self) -> None:
        from datetime import date

        self.assertEqual([school_year(date(2027, month, 1)) for month in (7, 8)], ["2026/27", "2027/28"])
        self.assertEqual(school_year(date(1999, 9, 1)), "1999/00")
