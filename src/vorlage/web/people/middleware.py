"""Which department a signed-in person is working in."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

SESSION_KEY = "department"


class MembershipMiddleware:
    """Sets ``request.membership`` to the membership in force, or None."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.memberships = []
        request.membership = None
        if request.user.is_authenticated:
            request.memberships = list(request.user.memberships.select_related("department"))
            chosen = request.session.get(SESSION_KEY)
            current = [held for held in request.memberships if held.department_id == chosen]
            led = [held for held in request.memberships if held.role == held.Role.LEAD]
            request.membership = (current or led or request.memberships or [None])[0]
        return self.get_response(request)
