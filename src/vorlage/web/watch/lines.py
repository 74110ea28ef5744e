"""Log lines: one JSON object each, with nothing in it that was typed, and no secret.

Of a request its method, its path without what was searched, who sent it (by number) and how long it took are told. Of a
fault also the traceback, which names code and no values.
"""

from __future__ import annotations

import json
import logging
import traceback
from datetime import UTC, datetime
from typing import Any

from django.core.mail import mail_admins
from django.http import HttpRequest

# What a record may carry beside its message.
TOLD = ("job", "kind", "seconds", "path", "method", "person", "status", "reason")


def of_request(request: HttpRequest) -> dict[str, Any]:
    """What is told of a request."""
    # asking who somebody is may itself be what fails
    person = getattr(request, "_cached_user", None)
    return {"method": request.method, "path": request.path, "person": getattr(person, "pk", None)}


class Lines(logging.Formatter):
    """A record as a line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        line: dict[str, Any] = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "logger": record.name,
            "message": record.getMessage(),
        }
        request = getattr(record, "request", None)
        if isinstance(request, HttpRequest):
            line |= of_request(request)
        line |= {name: getattr(record, name) for name in TOLD if hasattr(record, name)}
        if record.exc_info and record.exc_info[1] is not None:
            line["error"] = type(record.exc_info[1]).__name__
            line["traceback"] = "".join(traceback.format_exception(*record.exc_info))
        return json.dumps(line, ensure_ascii=False, default=str)


class Mail(logging.Handler):
    """A fault by mail to whoever looks after the server, where mail is set up: the line of the log, and no more."""

    def emit(self, record: logging.LogRecord) -> None:
        try:
            mail_admins(
                f"Fault: {record.getMessage()}"[:150].replace("\n", " "), self.format(record), fail_silently=True
            )
        except Exception:
            self.handleError(record)
