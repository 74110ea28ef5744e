"""People, departments and questions for the tests."""

from __future__ import annotations

from typing import Any

from vorlage.core.questions import load_document
from vorlage.demo_data import documents
from vorlage.web.accounts.models import Department, Membership, User
from vorlage.web.papers.models import FormSet, Test
from vorlage.web.papers.tasks import make_form_set
from vorlage.web.questions.models import Question

PASSWORD = "lighthouse keeper 12"


def person(name: str, department: Department | None = None, role: str = "author") -> User:
    user = User.objects.create_user(f"{name}@sandhaven.example", PASSWORD, name=name.title())
    if department:
        Membership.objects.create(user=user, department=department, role=role)
    return user


def department(name: str) -> Department:
    return Department.objects.create(name=name, school="Sandhaven Harbour School")


def question(held: Department, author: User, name: str = "harbour-crane", **changes: Any) -> Question:
    document = documents()[name]
    if changes:
        document = load_document(document.model_dump(mode="json") | changes)
    return Question.save_revision(held, author, document).question


def test_of(held: Department, author: User, *questions: Question, title: str = "At the quay") -> Test:
    made = Test.objects.create(department=held, title=title, author=author)
    for found in questions:
        made.add(found)
    return made


def frozen(test: Test, count: int = 2) -> FormSet:
    form_set = FormSet.order(test, count, test.author)
    make_form_set(form_set=form_set.pk)
    form_set.refresh_from_db()
    return form_set


test_of.__test__ = False  # type: ignore[attr-defined]
