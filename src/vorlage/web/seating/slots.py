"""What seat plans have to show on the pages of form sets."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from vorlage.web.classes.models import Class
from vorlage.web.design.slots import fills
from vorlage.web.forms.models import FormSet
from vorlage.web.people.requests import MemberRequest

from .forms import SeatPlanForm
from .models import SeatPlan


@fills("form-set-aside", "seating/_of_set.html")
def beside_the_set(request: MemberRequest, form_sets: Sequence[FormSet]) -> dict[Any, dict[str, Any]]:
    """The seat plans of a set with classes that the member opens, and what a new one needs."""
    found: dict[Any, dict[str, Any]] = {}
    for each in form_sets:
        classes = Class.objects.seen_by(request.user)
        plans = SeatPlan.objects.filter(form_set=each, held__in=classes).select_related("held")
        form = SeatPlanForm(each, request.user) if request.membership.may_write else None
        found[each.pk] = {"seat_plans": plans, "seat_form": form}
    return found
