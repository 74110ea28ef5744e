"""Pages that belong to no station: the jump field, and what is said when something is missing."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from vorlage.web.accounts.permissions import member
from vorlage.web.papers.models import Test
from vorlage.web.questions.models import Question

SHOWN = 6


@member
@require_GET
def jump(request: HttpRequest) -> HttpResponse:
    """Questions and tests whose names hold what was typed."""
    text = request.GET.get("jump", "").strip()
    questions = Question.objects.of(request.membership).listed().search(text)[:SHOWN] if text else []
    tests = Test.objects.of(request.membership).named(text)[:SHOWN] if text else []
    return render(request, "design/jump.html", {"questions": questions, "tests": tests, "text": text})


def page(request: HttpRequest, status: int, title: str, message: str) -> HttpResponse:
    return render(request, "design/problem.html", {"title": title, "message": message}, status=status)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 404, "Nothing here", "This page does not exist, or it belongs to another department.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 403, "Not for you to do", "Your role in this department does not allow this.")


def server_error(request: HttpRequest) -> HttpResponse:
    message = "Something went wrong on our side. What you had saved is safe; go back and try again."
    return page(request, 500, "A fault of ours", message)
