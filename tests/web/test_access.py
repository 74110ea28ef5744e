"""Every address with every role: an address that the table does not know fails the test."""

from collections.abc import Iterator
from typing import Any

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from vorlage.core.questions import load_document
from vorlage.web.bank.models import Question
from vorlage.web.desk.models import Draft
from vorlage.web.forms.models import Page

from .samples import department, frozen, person, question, test_of

ROLES = ["nobody", "stranger", "homeless", "reader", "author", "lead"]

# address: the method, and the answer to each role: nobody (not signed in), stranger (another department),
# homeless (no department), reader, author, lead
SIGN_IN = 302
ANSWERS: dict[str, tuple[str, list[int]]] = {
    "home": ("get", [302, 302, 302, 302, 302, 302]),
    "account_login": ("get", [200, 302, 302, 302, 302, 302]),
    "account_logout": ("post", [302, 302, 302, 302, 302, 302]),
    "account_inactive": ("get", [200, 200, 200, 200, 200, 200]),
    "change-department": ("post", [SIGN_IN, 404, 404, 302, 302, 302]),
    "department-settings": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "change-password": ("get", [302, 200, 200, 200, 200, 200]),
    "forgotten-password": ("get", [200, 200, 200, 200, 200, 200]),
    "set-password": ("get", [200, 200, 200, 200, 200, 200]),
    "mfa_authenticate": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "account_reauthenticate": ("get", [SIGN_IN, 200, 200, 200, 200, 200]),
    "mfa_reauthenticate": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_index": ("get", [SIGN_IN, 200, 200, 200, 200, 200]),
    # the password is asked for first
    "mfa_activate_totp": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_deactivate_totp": ("get", [SIGN_IN, 404, 404, 404, 404, 404]),
    "mfa_view_recovery_codes": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_generate_recovery_codes": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "session": ("get", [200, 200, 200, 200, 200, 200]),
    "jump": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "questions": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "formula-book": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "new-question": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "question": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "gallery": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "from-fixed": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "look-for-numbers": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "vary": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "question-history": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "drop-draft": ("post", [SIGN_IN, 404, 403, 403, 302, 404]),
    "survey-question": ("post", [SIGN_IN, 200, 403, 200, 200, 200]),
    "preview-question": ("post", [SIGN_IN, 404, 403, 200, 200, 200]),
    "desk-tool": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "save-question": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "keep-rubric": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "part-conversion": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "options-of-part": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "add-picture": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "picture": ("get", [SIGN_IN, 404, 403, 404, 404, 404]),
    "tests": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "new-test": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "test": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "edit-test": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "offers": ("get", [SIGN_IN, 404, 403, 403, 200, 200]),
    "add-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "arrange": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "move-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "renew-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "remove-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "make-forms": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "form-set": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "form-set-progress": ("get", [SIGN_IN, 404, 403, 204, 204, 204]),
    "cancel-form-set": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "printed": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper-beside": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper-page": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
}


# How often each page asks the database, for a head of department: session, person and roles first.
QUERIES = {
    "home": 3, "account_login": 3, "account_inactive": 3, "session": 3, "change-password": 3, "forgotten-password": 3, "set-password": 4,
    # those that ask for the password first count the tries and keep what was asked for
    "mfa_authenticate": 3, "account_reauthenticate": 9, "mfa_reauthenticate": 6, "mfa_index": 4, "mfa_activate_totp": 9,
    "mfa_deactivate_totp": 4, "mfa_view_recovery_codes": 9, "mfa_generate_recovery_codes": 9, "department-settings": 3, "jump": 3, "questions": 6, "formula-book": 3,
    "new-question": 5, "question": 6, "gallery": 3, "from-fixed": 3, "question-history": 5,
    "picture": 4,
    "tests": 5, "test": 7, "offers": 6, "form-set": 7, "form-set-progress": 4, "printed": 6, "paper": 5,
    "paper-beside": 4, "paper-page": 6,
}  # fmt: skip


def addresses(patterns: list[Any]) -> Iterator[URLPattern]:
    for pattern in patterns:
        if isinstance(pattern, URLResolver):
            yield from addresses(pattern.url_patterns)
        else:
            yield pattern


class Access(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        physics, chemistry = department("Physics"), department("Chemistry")
        cls.people = {
            "stranger": person("stranger", chemistry, "lead"),
            "homeless": person("homeless"),
            "reader": person("reader", physics, "reader"),
            "author": person("author", physics, "author"),
            "lead": person("lead", physics, "lead"),
        }
        author = cls.people["author"]
        cls.question = question(physics, author)
        cls.test = test_of(physics, author, cls.question)
        cls.form_set = frozen(cls.test)
        cls.physics = physics

    def draft(self) -> Draft:
        given = {"user": self.people["author"], "department": self.physics, "key": self.question.key}
        return Draft.objects.get_or_create(**given, defaults={"question": self.question, "fields": {}})[0]

    def address(self, name: str) -> str:
        code = self.form_set.forms.get(position=0).code
        # a place may have been taken out by the role before
        place = self.test.places.first() or self.test.add(self.question)
        arguments: dict[str, dict[str, Any]] = {
            "change-department": {"department": self.physics.pk},
            "set-password": {"uidb64": "MQ", "token": "not-a-token"},
            "question": {"pk": self.question.pk},
            "question-history": {"pk": self.question.pk},
            "drop-draft": {"pk": self.draft().pk},
            "picture": {"digest": "0" * 64},
            "desk-tool": {"tool": "rename"},
            "part-conversion": {"uid": "q1"},
            "options-of-part": {"uid": "q1"},
            "keep-rubric": {"uid": "q1"},
            "add-place": {"pk": self.test.pk, "question": self.question.pk},
            "printed": {"pk": self.form_set.pk, "kind": "papers"},
            "paper": {"pk": self.form_set.pk, "code": code},
            "paper-beside": {"pk": self.form_set.pk, "code": code},
            "paper-page": {"pk": self.form_set.pk, "code": code, "page": 1},
        }
        for each in ("test", "edit-test", "offers", "arrange", "make-forms"):
            arguments[each] = {"pk": self.test.pk}
        for each in ("move-place", "renew-place", "remove-place"):
            arguments[each] = {"pk": self.test.pk, "place": place.pk}
        for each in ("form-set", "form-set-progress", "cancel-form-set"):
            arguments[each] = {"pk": self.form_set.pk}
        return reverse(name, kwargs=arguments.get(name))

    def test_every_address_is_known(self) -> None:
        names = {pattern.name for pattern in addresses(get_resolver().url_patterns)}
        self.assertEqual(names, set(ANSWERS))

    def test_every_address_with_every_role(self) -> None:
        for name, (method, expected) in ANSWERS.items():
            for role, status in zip(ROLES, expected):
                with self.subTest(f"{name} as {role}"):
                    self.client.logout()
                    if role != "nobody":
                        self.client.force_login(self.people[role])
                    body = {"question": str(self.question.pk)} if name in {"preview-question", "save-question"} else {}
                    response = getattr(self.client, method)(self.address(name), body)
                    self.assertEqual(response.status_code, status)
                    if role == "nobody" and status == SIGN_IN and name not in {"home", "account_logout"}:
                        self.assertIn("/sign-in/", response["Location"])

    def test_every_page_asks_the_database_so_often_and_no_more_when_there_is_more(self) -> None:
        lead = self.people["lead"]
        self.client.force_login(lead)
        asked = {name for name, (method, _) in ANSWERS.items() if method == "get"}
        self.assertEqual(asked, set(QUERIES))
        self.draft()

        def count() -> dict[str, int]:
            found = {}
            for name in QUERIES:
                address = self.address(name)
                # what is made when it is first looked at is not asked for again
                self.client.get(address)
                with CaptureQueriesContext(connection) as queries:
                    self.client.get(address)
                found[name] = len(queries)
            return found

        self.assertEqual(count(), QUERIES)
        for name in ("foghorn", "lock-gate", "sea-chest", "ice-plant"):
            self.test.add(question(self.physics, lead, name))
        document = load_document(self.question.current.document | {"title": "Crane"})
        Question.save_revision(self.physics, lead, document, self.question.filing, question=self.question)
        for each in (frozen(self.test, 9), frozen(test_of(self.physics, lead, self.question, title="More"), 3)):
            self.assertEqual(each.forms.count(), each.count)
            Page.of(each.forms.all()[0], 1)
        self.assertEqual(count(), QUERIES)

    def test_a_post_address_is_never_fetched(self) -> None:
        self.client.force_login(self.people["lead"])
        for name, (method, _) in ANSWERS.items():
            if method == "post":
                with self.subTest(name):
                    self.assertEqual(self.client.get(self.address(name)).status_code, 405)

    def test_every_page_has_the_strict_policy(self) -> None:
        self.client.force_login(self.people["lead"])
        for name in ("questions", "question", "new-question", "tests", "test", "form-set"):
            with self.subTest(name):
                response = self.client.get(self.address(name))
                policy = response["Content-Security-Policy"]
                self.assertIn("script-src 'self'", policy)
                self.assertNotIn("unsafe", policy)
                page = response.content.decode()
                self.assertNotRegex(page, r"<script(?![^>]*\bsrc=)")
                self.assertNotRegex(page, r"\sstyle=|\son[a-z]+=|<style")

    def test_forms_need_their_token(self) -> None:
        from django.test import Client

        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.people["lead"])
        self.assertEqual(strict.post(reverse("new-test"), {"title": "x"}).status_code, 403)
