"""Tests, form sets, their jobs and downloads; signing in."""

import csv
import io
import json
import re
import zipfile
from decimal import Decimal

import openpyxl
from django.contrib.messages import get_messages
from django.core.management import call_command
from django.test import TestCase, override_settings
from django.urls import reverse
from procrastinate import testing as in_memory
from procrastinate.contrib.django import procrastinate_app
from pypdf import PdfReader

from tests.web.reading import read_page
from vorlage.core.questions import load_document
from vorlage.operations.demo_data import PASSWORD as DEMO_PASSWORD
from vorlage.operations.demo_data import PEOPLE, load
from vorlage.web.bank.models import Question
from vorlage.web.forms.models import FormSet, ItemKey, Print
from vorlage.web.jobs.models import Job
from vorlage.web.plans.models import Test
from vorlage.web.seating.models import SeatPlan
from vorlage.web.sittings.models import Mark, Sitting

from .samples import PASSWORD, SURPRISED, department, frozen, made, person, question, sent, surprising, test_of


class Tests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.questions = [question(cls.physics, cls.author, name) for name in ("harbour-crane", "lock-gate", "foghorn")]
        cls.test = test_of(cls.physics, cls.author, *cls.questions)

    def setUp(self) -> None:
        self.client.force_login(self.author)
        connector = in_memory.InMemoryConnector()
        replaced = procrastinate_app.current_app.replace_connector(connector)
        procrastinate_app.current_app, self.before = self.enterContext(replaced), procrastinate_app.current_app
        self.addCleanup(setattr, procrastinate_app, "current_app", self.before)
        self.jobs = connector.jobs

    def __getstate__(self) -> dict[str, object]:
        """What travels to another process when a part of a test fails: the queue does not."""
        return {**vars(self), "_cleanups": [], "before": None, "jobs": {}}

    def order(self) -> list[str]:
        return [place.revision.question.title for place in self.test.ordered()]

    def test_a_test_is_begun_with_a_title(self) -> None:
        self.client.post(reverse("new-test"), {"title": "Waves", "instructions": ""})
        self.assertEqual(Test.objects.get(title="Waves").department, self.physics)
        refused = self.client.post(reverse("new-test"), {"title": " "})
        self.assertContains(refused, "A test needs a title", status_code=422)

    def test_places_are_moved_arranged_and_taken_out(self) -> None:
        crane, gate, horn = self.test.ordered()
        self.client.post(reverse("move-place", args=[self.test.pk, horn.pk]), {"to": "up"})
        self.assertEqual(self.order(), ["Harbour crane", "Foghorn of the lighthouse", "Pushing the lock gate"])
        self.client.post(reverse("arrange", args=[self.test.pk]), {"place": [gate.pk, "x", 99999, crane.pk]})
        self.assertEqual(self.order(), ["Pushing the lock gate", "Harbour crane", "Foghorn of the lighthouse"])
        self.client.post(reverse("remove-place", args=[self.test.pk, crane.pk]))
        self.assertEqual(self.order(), ["Pushing the lock gate", "Foghorn of the lighthouse"])

    def test_marks_and_running_total(self) -> None:
        page = self.client.get(reverse("test", args=[self.test.pk]))
        self.assertEqual([line.running for line in page.context["sections"][0].lines], [4, 8, 10])
        self.assertEqual(page.context["marks"], 10)

    def test_editing_a_question_does_not_change_a_test_until_somebody_says_so(self) -> None:
        crane = self.questions[0]
        question_document = crane.current.document | {"title": "A taller crane"}
        Question.save_revision(self.physics, self.author, load_document(question_document), question=crane)
        place = self.test.ordered()[0]
        self.assertEqual(place.revision.number, 1)
        self.assertContains(self.client.get(reverse("test", args=[self.test.pk])), "Take revision 2")
        self.client.post(reverse("renew-candidate", args=[self.test.pk, place.candidate.pk]))
        self.assertEqual(self.test.ordered()[0].revision.number, 2)

    def test_every_change_of_a_plan_has_a_later_version(self) -> None:
        def version() -> int:
            page = read_page(self.client.get(reverse("test", args=[self.test.pk])))
            found = set(re.findall(r'data-version="(\d+)"', page))
            self.assertEqual(len(found), 1)
            return int(found.pop())

        first, second = self.test.ordered()[:2]
        sea_chest = question(self.physics, self.author, "sea-chest")
        versions = [version()]
        for name, arguments, fields in [
            ("move-place", [second.pk], {"to": "up"}), ("arrange", [], {"place": [first.pk, second.pk]}),
            ("renew-candidate", [first.candidate.pk], {}), ("remove-place", [first.pk], {}), ("add-place", [sea_chest.pk], {}),
        ]:  # fmt: skip
            self.client.post(reverse(name, args=[self.test.pk, *arguments]), fields)
            versions.append(version())
        self.assertEqual(versions, sorted(set(versions)))

    def test_a_place_that_somebody_took_out_at_the_same_moment_stays_out(self) -> None:
        place = self.test.ordered()[1]
        self.test.places.filter(pk=place.pk).delete()
        self.test.move(str(place.pk), -1)
        self.test.renew(place.candidate)
        self.assertNotIn(place.pk, [left.pk for left in self.test.ordered()])
        self.assertEqual(len(self.test.ordered()), 2)

    def test_making_forms_is_a_job(self) -> None:
        response = self.client.post(reverse("make-forms", args=[self.test.pk]), {"count": 4})
        form_set = FormSet.objects.get()
        self.assertRedirects(response, reverse("form-set", args=[form_set.pk]))
        self.assertEqual([job["args"] for job in self.jobs.values()], [{"job": form_set.job_id}])
        self.assertContains(self.client.get(reverse("form-set", args=[form_set.pk])), "No worker is running")
        made(form_set)
        self.assertEqual(self.client.get(reverse("form-set-progress", args=[form_set.pk]))["HX-Refresh"], "true")
        page = self.client.get(reverse("form-set", args=[form_set.pk]))
        self.assertIn("every key proved", read_page(page))
        self.assertEqual(len(page.context["rows"]), 5)
        self.assertEqual(len(page.context["forms"]), 4)

    def test_wrong_counts_are_explained(self) -> None:
        for count, said in [
            ("", "Say how many"),
            ("0", "At least one"),
            ("5000", "At most 1000"),
            ("four", "whole number"),
        ]:
            with self.subTest(count):
                refused = self.client.post(reverse("make-forms", args=[self.test.pk]), {"count": count})
                self.assertContains(refused, said, status_code=422)
        empty = test_of(self.physics, self.author, title="Empty")
        refused = self.client.post(reverse("make-forms", args=[empty.pk]), {"count": "4"})
        self.assertContains(refused, "no questions in this test yet", status_code=422)

    def test_a_key_that_fails_stops_the_freeze_and_names_the_draw(self) -> None:
        broken = surprising(self.physics, self.author)
        form_set = frozen(test_of(self.physics, self.author, self.questions[1], broken), SURPRISED)
        self.assertEqual(form_set.job.state, Job.State.FAILED)
        self.assertRegex(form_set.job.reason, r"question 2, part 1: in draw \d+ the key does not pass its own check")
        self.assertEqual((form_set.forms.count(), Print.objects.count()), (0, 0))
        self.assertContains(self.client.get(reverse("form-set", args=[form_set.pk])), "in draw")

    def test_cancelled_work_keeps_nothing(self) -> None:
        form_set = FormSet.order(self.test, 3, self.author)
        self.client.post(reverse("cancel-form-set", args=[form_set.pk]))
        form_set = made(form_set)
        self.assertEqual((form_set.job.state, form_set.forms.count()), (Job.State.CANCELLED, 0))

    def test_a_frozen_set_does_not_change_when_questions_do(self) -> None:
        form_set = frozen(self.test)
        code = form_set.forms.get(position=0).code
        address = reverse("paper", args=[form_set.pk, code])
        before = sent(self.client.get(address))
        changed = load_document(self.questions[0].current.document | {"wording": "Quite another wording."})
        Question.save_revision(self.physics, self.author, changed, question=self.questions[0])
        self.test.places.all().delete()
        self.assertEqual(sent(self.client.get(address)), before)

    def test_downloads(self) -> None:
        form_set = frozen(self.test)
        codes = list(form_set.forms.values_list("code", flat=True))
        papers = self.client.get(reverse("printed", args=[form_set.pk, "papers"]))
        self.assertEqual(papers["Content-Type"], "application/pdf")
        self.assertIn("at-the-quay-set-1-papers.pdf", papers["Content-Disposition"])
        text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(sent(papers))).pages)
        for code in codes:
            self.assertIn(code, text)
        archive = zipfile.ZipFile(io.BytesIO(sent(self.client.get(reverse("printed", args=[form_set.pk, "archive"])))))
        names = [re.sub(r".*/", "", name) for name in archive.namelist()]
        self.assertEqual(len(names), 6)
        self.assertIn("test-1-set-1-answers.pdf", [re.sub(r"test-\d+", "test-1", name) for name in names])
        record = json.loads(archive.read(next(name for name in archive.namelist() if name.endswith(".json"))))
        self.assertEqual([form["code"] for form in record["forms"]], codes)
        self.assertEqual(self.client.get(reverse("printed", args=[form_set.pk, "riddle"])).status_code, 404)
        self.assertEqual(self.client.get(reverse("paper-page", args=[form_set.pk, codes[0], 99])).status_code, 404)
        picture = sent(self.client.get(reverse("paper-page", args=[form_set.pk, codes[0], 1])))
        self.assertTrue(picture.startswith(b"\x89PNG"))

    def test_keys_are_taken_away_on_one_sheet_and_as_tables(self) -> None:
        document = self.questions[2].newest.document
        below = {"answer": {"kind": "number", "key": "-3/4*f"}, "marks": "1.5"}
        written = {"answer": {"kind": "formula", "key": "f*x + 1"}, "marks": "1"}
        document["parts"] += [{**each, "wording": "Once more."} for each in (below, written)]
        Question.save_revision(self.physics, self.author, load_document(document), question=self.questions[2])
        self.test.places.all().delete()
        self.test.add(Question.objects.get(pk=self.questions[2].pk))
        found = frozen(Test.objects.get(pk=self.test.pk))
        expected = []
        for form in found.forms.all():
            (item,) = form.items.all()
            for letter, key in zip("abc", ItemKey.objects.get(item=item).parts):
                expected.append((form.code, f"1 ({letter})", key["key"], key["after"], key["marks"]))
        sheet = PdfReader(io.BytesIO(sent(self.client.get(reverse("printed", args=[found.pk, "short-key"])))))
        self.assertEqual(len(sheet.pages), 1)
        words = " ".join(sheet.pages[0].extract_text().split())
        for code, label, key, _, _ in expected:
            self.assertIn(code, words)
            self.assertIn(label, words)
            if not label.endswith("(c)"):
                self.assertIn(key.replace("-", "−"), words)
        answer = self.client.get(reverse("key-table", args=[found.pk, "csv"]))
        self.assertIn('filename="At the quay set 1 key.csv"', answer["Content-Disposition"])
        heads, *rows = csv.reader(io.StringIO(answer.content.decode("utf-8-sig")))
        self.assertEqual(heads[:2], ["Form", "Question"])
        self.assertEqual([(row[0], row[1], row[3], row[4], row[6]) for row in rows], expected)
        book = openpyxl.load_workbook(
            io.BytesIO(self.client.get(reverse("key-table", args=[found.pk, "xlsx"])).content)
        )
        cells = [row[3].value for row in list(book.active.rows)[1:]]
        self.assertEqual([type(cell) is str for cell in cells], [False, False, True] * found.count)
        for cell, (_, _, key, _, _) in zip(cells, expected):
            self.assertEqual(
                cell if isinstance(cell, str) else Decimal(str(cell)), key if isinstance(cell, str) else Decimal(key)
            )
        for kind in ("ods", "pdf"):
            self.assertEqual(self.client.get(reverse("key-table", args=[found.pk, kind])).status_code, 404)
        # a set of a version before has none
        address = reverse("printed", args=[found.pk, "short-key"])
        self.assertContains(self.client.get(reverse("form-set", args=[found.pk])), address)
        found.prints.filter(kind=Print.Kind.SHORT).delete()
        self.assertNotContains(self.client.get(reverse("form-set", args=[found.pk])), address)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_the_number_of_queries_does_not_grow(self) -> None:
        form_set = frozen(self.test, 6)
        for name, arguments, most in [("test", [self.test.pk], 20), ("form-set", [form_set.pk], 13), ("tests", [], 6)]:
            with self.subTest(name), self.assertNumQueries(most):
                self.client.get(reverse(name, args=arguments))
        self.test.add(question(self.physics, self.author, "sea-chest"))
        frozen(self.test, 2)
        for name, arguments, most in [("test", [self.test.pk], 20), ("form-set", [form_set.pk], 13), ("tests", [], 6)]:
            with self.subTest(f"{name} with more in it"), self.assertNumQueries(most):
                self.client.get(reverse(name, args=arguments))


class SigningIn(TestCase):
    def test_a_wrong_password_is_explained_and_the_right_one_lets_in(self) -> None:
        physics = department("Physics")
        person("ines", physics)
        address = {"login": "ines@sandhaven.example"}
        refused = self.client.post(reverse("account_login"), address | {"password": "wrong"})
        self.assertContains(refused, "do not belong together")
        self.assertContains(refused, "ines@sandhaven.example")
        accepted = self.client.post(reverse("account_login"), address | {"password": PASSWORD})
        self.assertRedirects(accepted, "/", fetch_redirect_response=False)
        self.assertFalse(list(get_messages(accepted.wsgi_request)))

    @override_settings(ACCOUNT_RATE_LIMITS={"login_failed": "3/5m/key"})
    def test_guessing_is_slowed_down(self) -> None:
        person("ines", department("Physics"))
        wrong = {"login": "ines@sandhaven.example", "password": "wrong"}
        pages = [self.client.post(reverse("account_login"), wrong) for _ in range(5)]
        self.assertContains(pages[0], "do not belong together")
        self.assertContains(pages[-1], "Wait five minutes", status_code=pages[-1].status_code)

    def test_departments_are_changed(self) -> None:
        physics, chemistry = department("Physics"), department("Chemistry")
        ines = person("ines", physics, "lead")
        ines.memberships.create(department=chemistry, role="author")
        self.client.force_login(ines)
        self.assertEqual(self.client.get(reverse("questions")).wsgi_request.membership.department, physics)
        self.client.post(reverse("change-department", args=[chemistry.pk]))
        self.assertEqual(self.client.get(reverse("questions")).wsgi_request.membership.department, chemistry)


class Demo(TestCase):
    def test_the_demo_loads_once_and_lets_everybody_in(self) -> None:
        load()
        load()
        self.assertGreaterEqual(Question.objects.count(), 14)
        self.assertEqual(Test.objects.count(), 8)
        self.assertEqual([made.job.state for made in FormSet.objects.all()], [Job.State.DONE] * 10)
        self.assertEqual(SeatPlan.objects.get().seats.exclude(form=None).count(), 25)
        running = Sitting.objects.filter(takings__begun__isnull=False, takings__handed_in=None).distinct()
        self.assertEqual((Sitting.objects.count(), running.count()), (9, 2))
        for sitting in Sitting.objects.exclude(pk__in=running):
            self.assertFalse(sitting.takings.exclude(handed_in=None).filter(marked=None).exists())
        outcomes = set(Mark.objects.values_list("outcome", flat=True))
        self.assertEqual(outcomes, {"right", "partly", "wrong", "blank", "unreadable", "waiting"})
        for each in PEOPLE:
            self.assertTrue(self.client.login(email=each.email, password=DEMO_PASSWORD), each.email)

    def test_nothing_is_missing_from_the_migrations(self) -> None:
        call_command("makemigrations", "--check", "--dry-run", verbosity=0)
