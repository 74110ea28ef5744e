"""What is said when something is missing, or goes wrong."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def page(request: HttpRequest, status: int, title: str, message: str) -> HttpResponse:
    return render(request, "design/problem.html", {"title": title, "message": message}, status=status)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 404, "Nothing here", "This page does not exist, or it belongs to another department.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 403, "Not for you to do", "Your role in this department does not allow this.")


def server_error(request: HttpRequest) -> HttpResponse:
    message = "Something went wrong on our side. What you had saved is safe; go back and try again."
    return page(request, 500, "A fault of ours", message)
