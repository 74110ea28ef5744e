"""The people of a school: inviting, roles, closing accounts, handing over; departments and the school."""

import re
from decimal import Decimal
from fractions import Fraction

from django.contrib.auth.tokens import default_token_generator
from django.http import HttpResponse
from django.template import Context, Template
from django.test import TestCase
from django.urls import reverse

from vorlage.operations import install
from vorlage.web.classes.models import Class, Student
from vorlage.web.classes.slips import make_slips
from vorlage.web.desk.models import Draft
from vorlage.web.people.models import Department, Membership, School, User
from vorlage.web.plans.models import Test

from .samples import department, frozen, person, question, test_of


class InASchool(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics, cls.chemistry = department("Physics"), department("Chemistry")
        cls.head = person("head", cls.physics, "lead")
        cls.author = person("author", cls.physics)
        cls.administrator = person("administrator")
        cls.administrator.administers, cls.administrator.school = True, cls.physics.school
        cls.administrator.save()

    def post(self, user: User, name: str, /, *of: int, **body: object) -> HttpResponse:
        self.client.force_login(user)
        return self.client.post(reverse(name, args=of), body)


class People(InASchool):
    def invite(self, user: User, **changes: object) -> HttpResponse:
        body = {
            "name": "Noor Elmas",
            "email": "noor@sandhaven.example",
            "department": self.physics.pk,
            "role": "author",
        }
        return self.post(user, "invite", **body | changes)

    def roles(self, user: User) -> dict[str, str]:
        return {each.department.name: each.role for each in Membership.objects.filter(user=user)}

    def test_whoever_is_invited_chooses_a_password_with_the_link(self) -> None:
        page = self.invite(self.head)
        noor = User.objects.get(email="noor@sandhaven.example")
        self.assertEqual((self.roles(noor), noor.school), ({"Physics": "author"}, self.physics.school))
        self.assertFalse(noor.has_usable_password())
        link = re.search(r"http://testserver(/password/\S+?)<", page.content.decode())[1]
        self.client.logout()
        self.assertContains(self.client.get(link, follow=True), "New password")
        # it is shown once: the page of the person has no link
        self.client.force_login(self.administrator)
        self.assertNotContains(self.client.get(reverse("person", args=[noor.pk])), link.split("/")[-2])

    def test_a_head_invites_into_what_they_lead_alone(self) -> None:
        self.assertEqual(self.invite(self.head, department=self.chemistry.pk).status_code, 422)
        self.assertEqual(self.invite(self.head, department="", administers="on").status_code, 422)
        self.assertFalse(User.objects.filter(email="noor@sandhaven.example").exists())
        self.invite(self.administrator, department=self.chemistry.pk, role="lead")
        self.assertEqual(self.roles(User.objects.get(email="noor@sandhaven.example")), {"Chemistry": "lead"})

    def test_what_is_wrong_with_an_invitation_is_told_beside_it(self) -> None:
        student = Student.objects.create(
            school=self.physics.school, family="Abara", given="Ada", number="1", email="ada@sandhaven.example"
        )
        make_slips([student])
        elsewhere = person("elsewhere", department("Art", "Lighthouse School"))
        closed = person("closed", self.physics)
        User.objects.filter(pk=closed.pk).update(is_active=False)
        for changes, word in (
            ({"email": "noor"}, "no e-mail address"),
            ({"email": ""}, "The address is needed"),
            ({"name": ""}, "Who is it?"),
            ({"email": "ADA@sandhaven.example"}, "that of a student"),
            ({"email": elsewhere.email}, "at another school"),
            ({"email": closed.email}, "account that is closed"),
            ({"department": ""}, "Choose a department"),
        ):
            with self.subTest(word):
                self.assertContains(self.invite(self.administrator, **changes), word, status_code=422)

    def test_a_colleague_with_an_account_gets_the_role_and_no_link(self) -> None:
        answer = self.invite(self.administrator, email=self.author.email, department=self.chemistry.pk, role="reader")
        self.assertRedirects(answer, reverse("people"))
        self.assertEqual(self.roles(self.author), {"Physics": "author", "Chemistry": "reader"})
        self.assertEqual(User.objects.get(pk=self.author.pk).name, "Author")

    def test_roles_are_set_by_whoever_leads_there(self) -> None:
        Membership.objects.create(user=self.author, department=self.chemistry, role="reader")
        body = {f"role-{self.physics.pk}": "lead", f"role-{self.chemistry.pk}": ""}
        self.post(self.head, "set-roles", self.author.pk, **body)
        self.assertEqual(self.roles(self.author), {"Physics": "lead", "Chemistry": "reader"})
        self.post(self.administrator, "set-roles", self.author.pk, **body)
        self.assertEqual(self.roles(self.author), {"Physics": "lead"})
        self.post(self.head, "set-roles", self.head.pk, **{f"role-{self.physics.pk}": ""})
        self.assertEqual(self.roles(self.head), {"Physics": "lead"})
        self.post(self.administrator, "set-roles", self.author.pk, **{f"role-{self.physics.pk}": "owner"})
        self.assertEqual(self.roles(self.author), {"Physics": "lead"})

    def test_an_account_is_closed_and_opened_again(self) -> None:
        self.post(self.administrator, "with-person", self.author.pk, do="close")
        self.client.force_login(self.author)
        self.assertEqual(self.client.get(reverse("questions")).status_code, 302)
        self.post(self.administrator, "with-person", self.author.pk, do="open")
        self.client.force_login(self.author)
        self.assertEqual(self.client.get(reverse("questions")).status_code, 200)
        self.assertEqual(self.post(self.head, "with-person", self.author.pk, do="close").status_code, 403)

    def test_a_school_keeps_an_administrator(self) -> None:
        for do in ("close", "no-administrator"):
            self.post(self.administrator, "with-person", self.administrator.pk, do=do)
            self.administrator.refresh_from_db()
            self.assertTrue(self.administrator.administers and self.administrator.is_active)
        self.post(self.administrator, "with-person", self.author.pk, do="administrator")
        self.post(self.administrator, "with-person", self.administrator.pk, do="no-administrator")
        self.administrator.refresh_from_db()
        self.assertFalse(self.administrator.administers)

    def test_a_link_for_whoever_lost_the_password(self) -> None:
        page = self.post(self.administrator, "with-person", self.author.pk, do="link")
        self.assertContains(page, default_token_generator.make_token(self.author))
        self.assertIn("no-store", page["Cache-Control"])

    def test_a_colleague_leaves_and_hands_over(self) -> None:
        colleague = person("colleague", self.physics, "reader")
        Membership.objects.create(user=self.author, department=self.chemistry, role="author")
        test = test_of(self.physics, self.author, question(self.physics, self.author))
        stays = test_of(self.chemistry, self.author, title="Brine")
        held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        both = Class.objects.create(department=self.physics, name="10 B", year="2026/27")
        for each in (held, both):
            each.teachers.add(self.author)
        both.teachers.add(colleague)
        Draft.objects.create(
            user=self.author, department=self.physics, key=question(self.physics, self.author).key, fields={}
        )
        self.client.force_login(self.head)
        page = self.client.get(reverse("person", args=[self.author.pk]))
        self.assertContains(page, "2 classes, 2 questions, 1 draft, 1 test")
        self.post(self.head, "hand-over", self.author.pk, to=colleague.pk)
        self.assertEqual(Test.objects.get(pk=test.pk).author, colleague)
        # the head looks after physics alone
        self.assertEqual(Test.objects.get(pk=stays.pk).author, self.author)
        self.assertEqual([list(each.teachers.all()) for each in (held, both)], [[colleague], [colleague]])
        self.assertEqual(Draft.objects.get().user, colleague)
        foreign = person("foreign", department("Physics", "Lighthouse School"))
        self.assertEqual(self.post(self.head, "hand-over", self.author.pk, to=foreign.pk).status_code, 404)


class Departments(InASchool):
    def settings(self, user: User, **changes: object) -> HttpResponse:
        usual = {
            "name": "Physics",
            "first_marks": "2",
            "rounding": "exact",
            "decimal_mark": "point",
            "thousands": "space",
            "times": "cross",
        }
        return self.post(user, "settings-of-department", self.physics.pk, **usual | changes)

    def test_a_department_is_begun_and_named(self) -> None:
        self.post(self.administrator, "new-department", name="Biology")
        self.assertEqual(Department.objects.get(name="Biology").school, self.physics.school)
        again = self.post(self.administrator, "new-department", name="biology")
        self.assertContains(again, "There is a department biology already.", status_code=422)
        self.settings(self.administrator, name="Natural philosophy")
        self.physics.refresh_from_db()
        self.assertEqual(self.physics.name, "Natural philosophy")
        self.assertContains(self.settings(self.administrator, name="Chemistry"), "already", status_code=422)

    def test_marks_that_a_new_question_begins_with(self) -> None:
        for typed, kept in (("1/2", "0.5"), ("1.5", "1.5"), ("1,5", "1.5"), ("3", "3")):
            with self.subTest(typed):
                self.settings(self.head, first_marks=typed)
                self.physics.refresh_from_db()
                self.assertEqual(self.physics.first_marks, Decimal(kept))
        for wrong in ("", "-1", "101", "half", "1/3"):
            with self.subTest(wrong):
                self.assertContains(self.settings(self.head, first_marks=wrong), "Marks are a number", status_code=422)
        self.settings(self.head, first_marks="1.5", decimal_mark="comma")
        self.client.force_login(self.author)
        desk = self.client.get(reverse("new-question"), {"empty": ""}).content.decode()
        # the part that is there, and the one that the browser makes new parts from
        self.assertEqual(len(re.findall(r'-marks" value="1,5"', desk)), 2)

    def test_levels_have_names_and_there_are_five(self) -> None:
        self.settings(self.head, level_names="recall, apply", boundary_names="merit, pass")
        self.physics.refresh_from_db()
        self.assertEqual(
            (self.physics.level_names, self.physics.boundary_names), (["recall", "apply"], ["merit", "pass"])
        )
        shown = question(self.physics, self.author)
        self.assertEqual(shown.level, 2)
        self.assertContains(self.client.get(reverse("questions")), "level 2, apply")
        self.assertContains(self.settings(self.head, level_names="a,b,c,d,e,f"), "five levels", status_code=422)
        self.assertContains(self.settings(self.head, level_names="a" * 31), "at most 30", status_code=422)

    def test_marks_are_shown_as_the_department_rounds_them(self) -> None:
        for rounding, told in (
            ("exact", "0.67 of 2 marks"),
            ("tenths", "0.7 of 2 marks"),
            ("halves", "0.5 of 2 marks"),
            ("whole", "1 of 2 marks"),
        ):
            with self.subTest(rounding):
                self.settings(self.head, rounding=rounding)
                membership = Membership.objects.select_related("department").get(user=self.head)
                words = "{% load local %}{% marks_earned share marks %}"
                context = {"membership": membership, "share": Fraction(1, 3), "marks": Decimal(2)}
                self.assertEqual(Template(words).render(Context(context)), told)

    def test_the_letterhead_stands_on_the_papers(self) -> None:
        import pypdfium2

        self.settings(self.head, letterhead="Sandhaven, the quay side")
        self.physics.refresh_from_db()
        made = frozen(test_of(self.physics, self.author, question(self.physics, self.author)), 1)
        text = pypdfium2.PdfDocument(made.forms.get().paper.read())[0].get_textpage().get_text_range()
        self.assertIn("Sandhaven, the quay side", text)
        self.assertNotIn("Harbour School", text)
        self.assertContains(self.settings(self.head, letterhead="漢"), "漢", status_code=422)

    def test_the_school_has_a_clock(self) -> None:
        body = {"name": "Sandhaven Harbour School", "time_zone": "Europe/Lisbon", "day_ends": "16:30"}
        self.post(self.administrator, "school", **body)
        self.assertEqual(str(School.objects.get().day_ends), "16:30:00")
        wrong = self.post(self.administrator, "school", **body | {"time_zone": "Sandhaven", "day_ends": "late"})
        self.assertContains(wrong, "no time zone of this name", status_code=422)
        self.assertContains(wrong, "no time of day", status_code=422)


class Commands(TestCase):
    def test_the_first_administrator_of_an_empty_installation(self) -> None:
        link = install.make_administrator("Marit@sandhaven.example", "Marit Osei", "Sandhaven Harbour School")
        marit = User.objects.get()
        self.assertEqual((marit.administers, marit.school.name), (True, "Sandhaven Harbour School"))
        self.assertContains(self.client.get(link, follow=True), "New password")
        self.client.force_login(marit)
        self.assertRedirects(self.client.get(reverse("home")), reverse("people"))
        # the same again changes nothing
        install.make_administrator("marit@sandhaven.example", "Somebody", "Sandhaven Harbour School")
        self.assertEqual(User.objects.get().name, "Marit Osei")
        with self.assertRaises(LookupError):
            install.make_administrator("marit@sandhaven.example", "Marit", "Lighthouse School")
