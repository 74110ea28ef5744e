"""What the frame around every page shows."""

from __future__ import annotations

from typing import Any

from django.template import Context

from vorlage.core.notation import USUAL, Habits

STATIONS = [("questions", "Questions"), ("tests", "Tests"), ("sittings", "Sittings"), ("marking", "Marking")]


def frame(request: Any) -> dict[str, Any]:
    """The stations, the membership in force and the departments to change to."""
    membership, user = getattr(request, "membership", None), request.user
    return {
        "stations": STATIONS,
        "membership": membership,
        "memberships": getattr(request, "memberships", []),
        "habits": membership.department.habits if membership is not None else USUAL,
        "may_write": membership is not None and membership.may_write,
        "works_here": user.is_authenticated and user.is_staff_here,
        "looks_after_people": user.is_authenticated and (user.administers or any(each.leads for each in user.roles)),
    }


def habits_in(context: Context) -> Habits:
    """How numbers and formulas are written for whoever reads a page."""
    found = context.get("habits")
    return found if isinstance(found, Habits) else USUAL
