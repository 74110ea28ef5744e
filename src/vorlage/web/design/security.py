"""What requests and answers have around them for safety's sake."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseBadRequest


class NullByteMiddleware:
    """Refuses requests with null bytes, which no keyboard types and no database text holds."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        sent = [*request.GET.lists(), *request.POST.lists()]
        if any("\x00" in str(text) for name, values in sent for text in (name, *values)):
            return HttpResponseBadRequest("This request holds a null byte. Remove it and send it again.")
        return self.get_response(request)


class PermissionsPolicyMiddleware:
    """Says with every answer that no page asks for a camera, a microphone or a place."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        return response
