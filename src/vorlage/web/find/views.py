"""The jump field: questions and tests by their names."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from vorlage.web.bank.models import Question
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.models import Test

SHOWN = 6


@member
@require_GET
def jump(request: MemberRequest) -> HttpResponse:
    """Questions and tests whose names hold what was typed."""
    text = request.GET.get("jump", "").strip()
    questions = Question.objects.of(request.membership).listed().search(text)[:SHOWN] if text else []
    tests = Test.objects.of(request.membership).named(text)[:SHOWN] if text else []
    return render(request, "find/jump.html", {"questions": questions, "tests": tests, "text": text})
