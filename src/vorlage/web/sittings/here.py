"""Who is at a page of a sitting: a student of the lists, whoever came in with a name or without one, or a teacher who
goes through it as a student would."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import wraps
from typing import Any

from allauth.account.adapter import get_adapter
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponseBase
from django.utils import timezone

from vorlage.core import sittings
from vorlage.core.sittings import Allowed, Record
from vorlage.web.classes.models import Student
from vorlage.web.people.permissions import View, signed_in
from vorlage.web.people.requests import MemberRequest

from .models import Sitting, Taking, allowed_to
from .opening import LOCKED, Step, steps_before
from .tasks import settle

# What a browser shows of whoever came in without signing in, and for how long it keeps it.
COOKIE, KEPT_FOR = "vorlage-in-{}", 14 * 86_400


@dataclass
class Here:
    """Somebody at a sitting; their place is there once they have been given a form or have begun."""

    sitting: Sitting
    student: Student | None
    taking: Taking | None

    @property
    def likeness(self) -> Student | None:
        """The student whose allowances hold."""
        return self.taking.likeness if self.taking is not None else self.student

    @property
    def allowed(self) -> Allowed:
        return self.taking.allowed if self.taking is not None else allowed_to(self.student)

    @property
    def record(self) -> Record:
        return self.taking.record if self.taking is not None else Record(let_in=False)

    @property
    def phase(self) -> str:
        """Where they are; ``LOCKED`` where others have to be passed first."""
        found = sittings.phase(self.sitting.held, self.record, timezone.now(), self.allowed)
        return LOCKED if found == sittings.OPEN and self.steps_before else found

    @property
    def steps_before(self) -> list[Step]:
        """What they have to pass before they may begin."""
        return [] if self.tries else steps_before(self.sitting, self.student)

    @property
    def next_begin(self) -> datetime | None:
        """From when on they may begin another attempt; None where there is none."""
        return self.taking.next_begin if self.taking is not None else None

    @property
    def begins_again(self) -> bool:
        """Whether they may begin another attempt now."""
        begins = self.next_begin
        return begins is not None and begins <= timezone.now()

    @property
    def tries(self) -> bool:
        """Whether a teacher only tries it."""
        return self.taking is not None and self.taking.tried_by_id is not None

    def has(self, name: str) -> bool:
        """Whether an allowance of a name holds for them, such as larger letters."""
        return bool(getattr(getattr(self.likeness, "allowance", None), name, False))

    def again(self) -> None:
        """Look at the place anew."""
        if self.taking is not None:
            self.taking.refresh_from_db()
            self.taking.sitting, self.taking.student = self.sitting, self.student


def here(request: MemberRequest, pk: int) -> Here | None:
    """Who is at a sitting; None where it is nobody whom it is for."""
    if (at_work := as_one_of_the_list(request, pk)) is not None:
        return at_work
    among = Sitting.objects.select_related("test__department__school")
    sitting = among.filter(pk=pk, archived=None).first()
    if sitting is None:
        return None
    found = None
    if sitting.held.come_in != "anonymous" and request.user.is_authenticated and request.user.studies:
        found = as_student(request, sitting)
    if found is None and sitting.held.takes_guests:
        found = as_guest(request, sitting)
    if found is None and request.user.is_authenticated and not request.user.studies:
        found = as_teacher(request, sitting)
    if found is not None and found.taking is not None:
        found.taking.sitting = sitting
        if settle(found.taking):
            found.again()
    return found


def as_one_of_the_list(request: MemberRequest, pk: int) -> Here | None:
    """A student who has a place already, as nearly everybody has who asks: all of it in one query."""
    if not request.user.is_authenticated or not request.user.studies:
        return None
    whole = Taking.objects.select_related("sitting", "student__allowance").order_by()
    taking = whole.filter(sitting=pk, sitting__archived=None, student__user=request.user.pk, earlier=False).first()
    if taking is None or taking.sitting.held.come_in == "anonymous":
        return None
    found = Here(taking.sitting, taking.student, taking)
    if settle(taking):
        found.again()
    return found


def as_student(request: MemberRequest, sitting: Sitting) -> Here | None:
    student = Student.objects.select_related("allowance").filter(user=request.user).first()
    if student is None:
        return None
    taking = Taking.objects.current().filter(sitting=sitting, student=student).order_by().first()
    if taking is None and not Sitting.objects.for_student(student).filter(pk=sitting.pk).exists():
        return None
    if taking is not None:
        taking.student = student
    return Here(sitting, student, taking)


def as_guest(request: HttpRequest, sitting: Sitting) -> Here | None:
    shown = request.get_signed_cookie(COOKIE.format(sitting.pk), default="", salt="sitting", max_age=KEPT_FOR) or ""
    number, _, secret = shown.partition(":")
    if not number.isdecimal():
        return None
    among = Taking.objects.select_related("student__allowance").filter(sitting=sitting)
    taking = among.filter(pk=int(number)).first()
    if taking is not None and taking.earlier:
        # what a browser shows stays good for the attempts that follow
        taking = among.filter(first=taking.whose, earlier=False).first()
    if taking is None or not hmac.compare_digest(taking.entry, hashed(secret)):
        return None
    return Here(sitting, taking.student, taking)


def as_teacher(request: MemberRequest, sitting: Sitting) -> Here | None:
    own = Taking.objects.select_related("tried_as__allowance").filter(sitting=sitting, tried_by=request.user)
    taking = own.current().order_by().first()
    return Here(sitting, None, taking) if taking is not None else None


def hashed(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def let_browser_in(response: Any, taking: Taking, secure: bool) -> None:
    """Let a browser show whose place it has; an earlier one shows it no more."""
    secret = secrets.token_urlsafe(18)
    taking.entry = hashed(secret)
    taking.save(update_fields=["entry"])
    name = COOKIE.format(taking.sitting_id)
    response.set_signed_cookie(
        name, f"{taking.pk}:{secret}", salt="sitting", max_age=KEPT_FOR, httponly=True, samesite="Lax", secure=secure
    )


def at_sitting(view: Callable[..., HttpResponseBase]) -> View:
    """For whoever is at a sitting: they are given to the view; anybody else is asked to sign in."""

    @wraps(view)
    def guarded(request: MemberRequest, pk: int, *args: Any, **kwargs: Any) -> HttpResponseBase:
        found = here(request, pk)
        if found is None:
            return nobody(request)
        if request.user.is_authenticated:
            # the clock is that of their school already
            return view(request, found, *args, **kwargs)
        with timezone.override(found.sitting.test.department.school.time_zone):
            return view(request, found, *args, **kwargs)

    return guarded


@signed_in
def nobody(request: MemberRequest) -> HttpResponseBase:
    raise Http404


def address_of(request: HttpRequest) -> str:
    """The address on the network that somebody comes from; empty where it cannot be told."""
    try:
        return str(get_adapter().get_client_ip(request) or "")
    except PermissionDenied:
        return ""
