"""People, departments and questions for the tests."""

from __future__ import annotations

import uuid
from typing import Any

from vorlage.core.questions import load_document
from vorlage.library import samples
from vorlage.web.bank.models import Question
from vorlage.web.forms.models import FormSet
from vorlage.web.jobs.tasks import perform
from vorlage.web.people.models import Department, Membership, School, User
from vorlage.web.plans.models import Test

PASSWORD = "lighthouse keeper 12"


def person(name: str, department: Department | None = None, role: str = "author") -> User:
    school = department.school if department else None
    user = User.objects.create_user(f"{name}@sandhaven.example", PASSWORD, name=name.title(), school=school)
    if department:
        Membership.objects.create(user=user, department=department, role=role)
    return user


def department(name: str, school: str = "Sandhaven Harbour School") -> Department:
    return Department.objects.create(name=name, school=School.objects.get_or_create(name=school)[0])


def question(
    held: Department, author: User, name: str = "harbour-crane", key: uuid.UUID | None = None, **changes: Any
) -> Question:
    document, filing = samples()[name]
    if changes:
        document = load_document(document.model_dump(mode="json") | changes)
    return Question.save_revision(held, author, document, filing, key=key).question


# so many forms of it meet the draw without a key
SURPRISED = 41


def surprising(held: Department, author: User) -> Question:
    """A question that is sound in the draws that are looked at before it is kept, and has one without a key."""
    # under this identity the draw is none of the first
    key = uuid.UUID(int=1)
    return question(
        held, author, key=key, title="One of all has no answer", parameters=[{"name": "m", "definition": "0..40"}], conditions=[],
        wording="$m$", parts=[{"answer": {"kind": "number", "key": "1/m"}}], pins=[],
    )  # fmt: skip


def called(title: str) -> Question:
    """The question that is called so now."""
    return Question.objects.select_related("current").get(current__title=title)


def test_of(held: Department, author: User, *questions: Question, title: str = "At the quay") -> Test:
    made = Test.objects.create(department=held, title=title, author=author)
    for found in questions:
        made.add(found)
    return made


def frozen(test: Test, count: int = 2) -> FormSet:
    form_set = FormSet.order(test, count, test.author)
    return made(form_set)


def made(form_set: FormSet) -> FormSet:
    """The set after a worker has done its job."""
    perform(form_set.job_id)
    return FormSet.objects.select_related("job").get(pk=form_set.pk)


def sent(response: Any) -> bytes:
    """The whole content of a response, streamed or not."""
    return b"".join(response.streaming_content) if response.streaming else bytes(response.content)


test_of.__test__ = False  # type: ignore[attr-defined]
