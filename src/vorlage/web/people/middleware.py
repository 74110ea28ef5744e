"""Which department a signed-in person is working in."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from .models import Membership, User

SESSION_KEY = "department"
# What lies below asks nothing of whoever is signed in: no session is read for it, and no department.
SLIM_ROAD = "/s/"


class MembershipMiddleware:
    """Sets ``request.membership`` to the membership in force, or None, and the clock to the school's."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.path_info.startswith(SLIM_ROAD):
            return self.get_response(request)
        known: list[Membership] = []
        if isinstance(request.user, User) and not request.user.studies:
            known = request.user.roles
        chosen = request.session.get(SESSION_KEY)
        current = [held for held in known if held.department_id == chosen]
        led = [held for held in known if held.role == held.Role.LEAD]
        in_force = next(iter(current or led or known), None)
        request.__dict__ |= {"memberships": known, "membership": in_force}
        school = None
        if isinstance(request.user, User) and request.user.school_id is not None:
            school = in_force.department.school if in_force is not None else request.user.school
        with timezone.override(school.time_zone if school is not None else None):
            return self.get_response(request)
