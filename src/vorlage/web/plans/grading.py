"""The grade boundaries of a test, with the names of the department."""

from __future__ import annotations

from fractions import Fraction

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

from .forms import BoundariesForm
from .views import test_of, test_page


@member
@require_POST
def keep_boundaries(request: MemberRequest, pk: int) -> HttpResponse:
    found = test_of(request, pk, "plans.change_test")
    marks = sum((one.counted for one in found.ordered()), Fraction(0))
    form = BoundariesForm(found, marks, request.membership.department.habits, request.POST)
    if not form.is_valid():
        return test_page(request, found, status=422, boundaries_form=form)
    with found.changing(request.user, "Changed the grade boundaries"):
        found.boundaries = form.boundaries.kept
        found.save(update_fields=["boundaries"])
    messages.success(request, "Grade boundaries kept: every key says them.")
    return redirect("test", pk)
