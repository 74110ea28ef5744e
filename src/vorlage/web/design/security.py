"""The Content-Security-Policy: everything from the application itself, nothing inline."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseBadRequest

POLICY = "; ".join(
    [
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        # Bootstrap's small drawings are data: pictures inside its style sheet
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "form-action 'self'",
        "frame-ancestors 'none'",
        "base-uri 'none'",
        "manifest-src 'self'",
    ]
)


class NullByteMiddleware:
    """Refuses requests with null bytes, which no keyboard types and no database text holds."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        sent = [*request.GET.lists(), *request.POST.lists()]
        if any("\x00" in text for name, values in sent for text in (name, *values)):
            return HttpResponseBadRequest("This request holds a null byte. Remove it and send it again.")
        return self.get_response(request)


class ContentSecurityPolicyMiddleware:
    """Sends the policy with every response."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        return response
