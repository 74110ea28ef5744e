"""Having questions chosen for what a plan aims at: a worker does it, and says what could not be met."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from vorlage.web.jobs.models import Job, workers_live
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

from .changes import changed
from .models import Test
from .tasks import FILLING
from .views import plan, test_of


def context_of(found: Test, job: Job) -> dict[str, object]:
    no_worker = job.open and not workers_live()
    return {"test": found, "filling": job, "filling_result": job.arguments, "no_worker": no_worker}


@member
@require_POST
def fill(request: MemberRequest, pk: int) -> HttpResponse:
    """Order it; what is being chosen for the test already goes on."""
    found = changed(request, pk)
    going = Job.objects.filter(kind=FILLING, arguments__test=pk, state__in=[Job.State.WAITING, Job.State.RUNNING])
    job = going.first() or Job.order(FILLING, request.user, 0, test=pk)
    if not request.htmx:
        return redirect("test", pk)
    return render(request, "plans/_filling.html", context_of(found, job))


@member
@require_http_methods(["GET", "POST"])
def filling(request: MemberRequest, pk: int, job: int) -> HttpResponse:
    """How far it is, and what became of it; a post stops it."""
    found = test_of(request, pk, "plans.change_test")
    work = get_object_or_404(Job, kind=FILLING, arguments__test=pk, pk=job)
    if request.method == "POST":
        work.cancel()
        work.refresh_from_db()
    context = context_of(found, work)
    if work.open:
        return render(request, "plans/_filling.html", context)
    return plan(request, found, **context)
