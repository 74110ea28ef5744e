"""What was last done to a class, and taking it back."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from vorlage.web.people.models import User
from vorlage.web.people.requests import MemberRequest

from .lists import Taken
from .models import Class, Enrolment, Student

KEY = "undo-class"


def remember(request: MemberRequest, held: Class, words: str, **done: Any) -> None:
    """Note what was done to a class, in words and as what takes it back: ``left`` and ``joined`` (students),
    ``closed`` and ``opened`` (their sign-ins), ``made`` (students), ``changed`` (student, field, before, after),
    ``copied`` (another class and who was put in)."""
    request.session[KEY] = {"class": held.pk, "words": words, **done}


def remember_list(request: MemberRequest, held: Class, taken: Taken) -> None:
    if taken.anything:
        remember(
            request, held, taken.in_words, made=taken.new, joined=taken.joined, changed=taken.changed, left=taken.left
        )


def last_done(request: MemberRequest, held: Class) -> str:
    """What was last done to this class and can be taken back, in words."""
    done = request.session.get(KEY, {})
    return str(done.get("words", "")) if done.get("class") == held.pk else ""


def forget(request: MemberRequest) -> dict[str, Any]:
    found: dict[str, Any] = request.session.pop(KEY, {})
    return found


@transaction.atomic
def take_back(held: Class, done: dict[str, Any]) -> None:
    """Undo what was done; whoever has changed since stays as they are now."""
    held.enrol(Student.objects.filter(pk__in=done.get("left", [])).values_list("pk", flat=True))
    put_out(held.pk, done.get("joined", []))
    for student, field, before, after in done.get("changed", []):
        found = Student.objects.select_related("user").filter(pk=student).first()
        if found is None or getattr(found, field) != after:
            continue
        others = Student.objects.filter(school=found.school_id).exclude(pk=student)
        # a number that somebody else has been given since is theirs
        if field != "number" or not others.filter(number=before).exists():
            setattr(found, field, before)
            found.save()
            found.tell_user()
    made = Student.objects.filter(pk__in=done.get("made", []), user=None)
    elsewhere = Enrolment.objects.filter(student__in=made).exclude(held=held).values("student")
    Enrolment.objects.filter(held=held, student__in=done.get("made", [])).delete()
    made.exclude(pk__in=elsewhere).delete()
    User.objects.filter(pk__in=done.get("closed", [])).update(is_active=True)
    User.objects.filter(pk__in=done.get("opened", [])).update(is_active=False)
    if "copied" in done:
        other, students = done["copied"]
        put_out(other, students)


def put_out(held: int, students: list[int]) -> None:
    """Take students out of a class who were put into it by mistake; whoever was in it before has left it again."""
    put = Enrolment.objects.filter(held=held, student__in=students)
    today = timezone.localdate()
    put.filter(since=today).delete()
    put.filter(left=None).update(left=today)
