"""What a technician watches: the log, the health address, pages while the database is away; and passwords."""

import json
import logging
import re
import sys
from unittest import mock

from django.contrib.auth.password_validation import ValidationError
from django.core import mail
from django.core.cache import cache
from django.db import DatabaseError, OperationalError
from django.http import HttpRequest
from django.test import RequestFactory, TestCase, override_settings
from django.urls import reverse

from vorlage.operations.install import link_for, make_person
from vorlage.web.design import views
from vorlage.web.jobs.models import Job, Pulse, last_seen
from vorlage.web.jobs.tasks import DOERS, NO_ROOM, perform
from vorlage.web.people.models import Membership, User
from vorlage.web.watch.lines import Lines, Mail

from .samples import PASSWORD, department, person

SECRET = "quite a secret 42"


def record(request: HttpRequest | None = None, **extra: object) -> logging.LogRecord:
    try:
        raise ValueError("no such form")
    except ValueError:
        found = logging.getLogger("x").makeRecord("x", logging.ERROR, "f", 1, "Fault", (), sys.exc_info(), extra=extra)
    if request is not None:
        found.request = request
    return found


class Log(TestCase):
    def test_a_fault_is_one_line_with_its_traceback_and_no_secret(self) -> None:
        request = RequestFactory().post(
            "/questions/save/?search=hidden", {"password": SECRET}, headers={"Cookie": SECRET}
        )
        request._cached_user = person("noor")
        written = Lines().format(record(request, job=7))
        self.assertNotIn("\n", written)
        line = json.loads(written)
        self.assertEqual(
            [line[name] for name in ("level", "path", "method", "job")], ["error", "/questions/save/", "POST", 7]
        )
        self.assertEqual(line["person"], request._cached_user.pk)
        self.assertIn("ValueError: no such form", line["traceback"])
        for hidden in (SECRET, "hidden", "noor@"):
            self.assertNotIn(hidden, written)

    @override_settings(ADMINS=[("Technician", "technician@sandhaven.example")])
    def test_a_fault_goes_by_mail_where_that_is_set_up(self) -> None:
        handler = Mail()
        handler.setFormatter(Lines())
        handler.handle(record())
        self.assertEqual([letter.to for letter in mail.outbox], [["technician@sandhaven.example"]])
        self.assertIn("no such form", mail.outbox[0].body)

    def test_a_slow_answer_is_written_down(self) -> None:
        with mock.patch("vorlage.web.watch.middleware.SLOW", -1.0), self.assertLogs("vorlage.requests") as logs:
            self.client.get("/sign-in/")
        self.assertEqual((logs.records[0].path, logs.records[0].status), ("/sign-in/", 200))  # type: ignore[attr-defined]


class Health(TestCase):
    def test_it_says_how_all_is(self) -> None:
        found = self.client.get("/health/", headers={"Host": "10.0.0.7"})
        self.assertEqual((found.status_code, found.json()), (200, {"database": True, "worker": False}))
        self.assertEqual(found["Cache-Control"], "no-store")
        with mock.patch("vorlage.web.jobs.models.workers_live", side_effect=DatabaseError):
            found = self.client.get("/health/")
        self.assertEqual((found.status_code, found.json()), (503, {"database": False, "worker": None}))


class Away(TestCase):
    """The database is away, or the disk is full: it is said on a page that needs neither."""

    def asked(self, fault: Exception) -> tuple[int, str]:
        self.client.raise_request_exception = False
        with mock.patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=fault):
            self.client.cookies["sessionid"] = "x" * 32
            found = self.client.get("/questions/")
        return found.status_code, found.content.decode()

    def test_the_database_is_away(self) -> None:
        status, page = self.asked(OperationalError("connection refused"))
        self.assertEqual(status, 503)
        self.assertIn("The database does not answer", page)
        self.assertIn('http-equiv="refresh"', page)

    def test_the_disk_is_full(self) -> None:
        fault, cause = OperationalError("could not extend file"), Exception()
        cause.sqlstate = "53100"  # type: ignore[attr-defined]
        fault.__cause__ = cause
        status, page = self.asked(fault)
        self.assertEqual(status, 507)
        self.assertIn("The server&#x27;s disk is full", page)

    def test_another_fault_is_told_even_where_the_page_itself_fails(self) -> None:
        with mock.patch.object(views, "page", side_effect=KeyError):
            status, page = self.asked(ZeroDivisionError())
        self.assertEqual(status, 500)
        self.assertIn("A fault of ours", page)

    def test_a_job_says_that_the_disk_is_full(self) -> None:
        def fails(job: Job) -> None:
            raise OSError(28, "No space left on device")

        with mock.patch.dict(DOERS, full=fails), self.assertLogs("vorlage.web.jobs", "ERROR"):
            job = Job.order("full", person("ines"), 1)
            perform(job.pk)
        job.refresh_from_db()
        self.assertEqual((job.state, job.reason), ("failed", NO_ROOM))

    def test_since_when_no_worker_lives(self) -> None:
        self.assertIsNone(last_seen())
        Pulse.beat()
        first = last_seen()
        Pulse.beat()
        self.assertGreater(last_seen(), first)  # type: ignore[type-var]
        self.assertEqual(Pulse.objects.count(), 1)


class Private(TestCase):
    def test_pages_are_kept_by_nobody(self) -> None:
        self.client.force_login(person("ines", department("Physics"), "lead"))
        for page in ("/questions/", "/tests/", reverse("department-settings")):
            with self.subTest(page):
                self.assertEqual(self.client.get(page)["Cache-Control"], "private, no-store")


class Passwords(TestCase):
    def setUp(self) -> None:
        cache.clear()
        self.ines = person("ines", department("Physics"), "lead")

    def test_the_rules_hold_however_an_account_is_made(self) -> None:
        for weak in ("a", "1234567890", "password123", ""):
            with self.subTest(weak), self.assertRaises(ValidationError):
                User.objects.create_user("new@sandhaven.example", weak, name="New")
        self.assertFalse(User.objects.filter(email="new@sandhaven.example").exists())

    def test_one_changes_ones_own(self) -> None:
        self.client.force_login(self.ines)
        sent = {"old_password": PASSWORD, "new_password1": SECRET, "new_password2": SECRET}
        for changes, words in [
            ({"old_password": "wrong"}, "This is not your password so far."),
            ({"new_password2": "another one 7"}, "The two are not the same"),
            ({"new_password1": "a", "new_password2": "a"}, "too short"),
        ]:
            found = self.client.post(reverse("change-password"), sent | changes)
            with self.subTest(words):
                self.assertContains(found, words, status_code=422)
        other = self.client_class()
        other.force_login(self.ines)
        self.assertRedirects(self.client.post(reverse("change-password"), sent), "/", target_status_code=302)
        self.assertEqual(self.client.get("/questions/").status_code, 200)
        self.assertEqual(other.get("/questions/").status_code, 302)

    def test_a_link_works_once(self) -> None:
        path = make_person("noor@sandhaven.example", "Noor", "Sandhaven Harbour School", "Chemistry", "author")
        self.assertEqual(Membership.objects.get(user__email="noor@sandhaven.example").role, "author")
        page = self.client.get(path, follow=True)
        weak = self.client.post(page.request["PATH_INFO"], {"new_password1": "a", "new_password2": "a"})
        self.assertContains(weak, "too short", status_code=422)
        sent = {"new_password1": SECRET, "new_password2": SECRET}
        self.assertRedirects(self.client.post(page.request["PATH_INFO"], sent), "/sign-in/")
        self.assertTrue(self.client.login(email="noor@sandhaven.example", password=SECRET))
        self.assertContains(self.client.get(path), "This link has been used already")
        with self.assertRaises(LookupError):
            link_for("nobody@sandhaven.example")

    def test_forgotten_without_mail_one_is_told_whom_to_ask(self) -> None:
        self.assertContains(self.client.get(reverse("forgotten-password")), "Ask an administrator of your school")
        self.client.post(reverse("forgotten-password"), {"email": self.ines.email})
        self.assertEqual(mail.outbox, [])

    @override_settings(MAIL_IS_SET_UP=True)
    def test_forgotten_with_mail_a_link_comes(self) -> None:
        for address in ("INES@sandhaven.example", "nobody@sandhaven.example"):
            found = self.client.post(reverse("forgotten-password"), {"email": address})
            # whether there is an account is not told
            self.assertContains(found, "If this address has an account")
        (letter,) = mail.outbox
        path = re.search(r"http://testserver(/password/\S+)", letter.body)
        assert path is not None
        self.assertContains(self.client.get(path[1], follow=True), "Choose a password")


@override_settings(ACCOUNT_RATE_LIMITS={"login": "600/m/ip", "login_failed": "200/5m/ip,5/5m/key"})
class Guessing(TestCase):
    """A guesser is kept out by the account; a school behind one address is not."""

    def setUp(self) -> None:
        cache.clear()
        self.addCleanup(cache.clear)
        self.people = [person(f"p{k}", department(f"D{k}")) for k in range(4)]

    def tried(self, email: str, password: str) -> str:
        return self.client_class().post("/sign-in/", {"login": email, "password": password}).content.decode()

    def test_five_failures_lock_one_account_and_no_other(self) -> None:
        for _ in range(5):
            self.tried(self.people[0].email, "wrong")
        self.assertIn("Too many tries", self.tried(self.people[0].email, PASSWORD))
        for other in self.people[1:]:
            for _ in range(4):
                self.assertIn("do not belong together", self.tried(other.email, "wrong"))
            self.assertEqual(self.tried(other.email, PASSWORD), "")
