"""What stands around every request: the address that tells how all is, slow answers in the log, and private pages that
no cache keeps."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse

from .lines import of_request

log = logging.getLogger("vorlage.requests")
HEALTH = "/health/"
# An answer that takes longer is written down, in seconds.
SLOW = 1.0
Answering = Callable[[HttpRequest], HttpResponseBase]


class HealthMiddleware:
    """``/health/`` for a proxy or a watcher: 200 when the database answers, 503 otherwise, and whether a worker lives.

    Before everything else: it needs no host name, no session and no redirect.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return health() if request.path == HEALTH else self.get_response(request)


def health() -> HttpResponse:
    """How all is."""
    # not as the module is loaded: the models are not there yet
    from vorlage.web.jobs.models import workers_live

    try:
        found: dict[str, bool | None] = {"database": True, "worker": workers_live()}
    except DatabaseError:
        connection.close()
        found = {"database": False, "worker": None}
    answer = JsonResponse(found, status=200 if found["database"] else 503)
    answer["Cache-Control"] = "no-store"
    return answer


class SlowMiddleware:
    """Writes down what took long."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        began = time.monotonic()
        response = self.get_response(request)
        took = time.monotonic() - began
        if took > SLOW:
            told = {**of_request(request), "status": response.status_code, "seconds": round(took, 2)}
            log.warning("An answer took %.1f s", took, extra=told)
        return response


class PrivateMiddleware:
    """What somebody sees who is signed in is kept by nobody: not by a proxy, and not on a shared computer's disk.

    Files and pictures that never change say for themselves how long a browser may keep them.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.get_response(request)
        response.headers.setdefault("Cache-Control", "private, no-store")
        return response
