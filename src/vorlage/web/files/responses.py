"""Sending what is kept: streamed, and not at all when the browser has it."""

from __future__ import annotations

import re

from django.http import HttpRequest, HttpResponse, HttpResponseBase, HttpResponseNotModified, StreamingHttpResponse

from .models import Stored


def sent(request: HttpRequest, file: Stored, media_type: str, name: str = "") -> HttpResponseBase:
    """The response with a file: to be kept under a name, or shown in the page when there is none."""
    tag = f'"{file.digest}"'
    response: HttpResponseBase
    if request.headers.get("If-None-Match") == tag:
        response = HttpResponseNotModified()
    else:
        whole = file.size < 64 * 1024
        response = (
            HttpResponse(file.read(), content_type=media_type)
            if whole
            else StreamingHttpResponse(file.pieces(), content_type=media_type)
        )
        response["Content-Length"] = str(file.size)
        if name:
            safe = re.sub(r"[^A-Za-z0-9.]+", "-", name).strip("-").lower()
            response["Content-Disposition"] = f'attachment; filename="{safe}"'
    response["ETag"] = tag
    response["Cache-Control"] = "private, max-age=3600"
    return response
