"""Where somebody begins, and the jump field: questions, tests and classes by their names."""

from __future__ import annotations

from django.contrib.auth.views import redirect_to_login
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_safe

from vorlage.web.bank.search import found_by
from vorlage.web.classes.models import Class, Student
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.models import Test

SHOWN = 6


@require_safe
def home(request: MemberRequest) -> HttpResponse:
    """Where somebody begins: with the questions of their department, with the people whom they look after, with what
    they are to sit."""
    user = request.user
    if not user.is_authenticated:
        return redirect_to_login("/")
    if not user.roles:
        if user.administers:
            return redirect("people")
        if Student.objects.filter(user=user).exists():
            return redirect("mine")
    return redirect("questions")


@member
@require_GET
def jump(request: MemberRequest) -> HttpResponse:
    """Questions, tests and classes whose names hold what was typed."""
    text = request.GET.get("jump", "").strip()
    questions = found_by(request.membership.department, text, SHOWN) if text else []
    tests = Test.objects.of(request.membership).in_use().named(text)[:SHOWN] if text else []
    classes = Class.objects.seen_by(request.user).named(text)[:SHOWN] if text else []
    found = {"questions": questions, "tests": tests, "classes": classes}
    return render(request, "find/jump.html", {**found, "text": text})
