"""What is said when something is missing, or goes wrong."""

from __future__ import annotations

import errno
import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string


def page(request: HttpRequest, status: int, title: str, message: str) -> HttpResponse:
    return render(request, "design/problem.html", {"title": title, "message": message}, status=status)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 404, "Nothing here", "This page does not exist, or it belongs to another department.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    return page(request, 403, "Not for you to do", "Your role in this department does not allow this.")


def server_error(request: HttpRequest) -> HttpResponse:
    """What is said of a fault; of a database that is away or a full disk on a page that needs neither."""
    fault = sys.exc_info()[1]
    if full_disk(fault):
        return apart(request, 507, "No room left", NO_ROOM)
    if isinstance(fault, OperationalError | InterfaceError):
        return apart(request, 503, "The database does not answer", AWAY)
    try:
        return page(request, 500, "A fault of ours", OURS)
    except Exception:
        # whatever is broken, something is said
        return apart(request, 500, "A fault of ours", OURS)


OURS = "Something went wrong on our side. What you had saved is safe; go back and try again."
AWAY = (
    "What you had saved is safe, and what you typed is still in the page you came from: go back to it. "
    "Vorlage goes on by itself as soon as the database is there again."
)
NO_ROOM = (
    "The server's disk is full: nothing can be saved until whoever looks after the server makes room. "
    "What you typed is still in the page you came from."
)
# How PostgreSQL says that a disk is full.
DISK_FULL = "53100"


def full_disk(fault: BaseException | None) -> bool:
    """Whether a fault says that a disk is full."""
    while fault is not None:
        if getattr(fault, "sqlstate", None) == DISK_FULL or getattr(fault, "errno", None) == errno.ENOSPC:
            return True
        fault = fault.__cause__
    return False


def apart(request: HttpRequest, status: int, title: str, message: str) -> HttpResponse:
    """A page that asks the database for nothing."""
    context = {"title": title, "message": message, "again": status == 503 and request.method == "GET"}
    answer = HttpResponse(render_to_string("design/apart.html", context), status=status)
    answer["Retry-After"] = "5"
    return answer
