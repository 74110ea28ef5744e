"""What came out when the questions of a department were proved again."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.web.jobs.models import Job, last_seen, workers_live
from vorlage.web.people.permissions import allowed, member
from vorlage.web.people.requests import MemberRequest

from .models import Proved
from .tasks import PROVING, order_proof

# so many faults are listed
SHOWN = 200


def latest(request: MemberRequest) -> Job | None:
    """The proof that was ordered last in the department."""
    ordered = Job.objects.filter(kind=PROVING, arguments__department=request.membership.department_id)
    return ordered.order_by("-pk").first()


@member
@require_GET
def proofs(request: MemberRequest) -> HttpResponse:
    """Which questions fail and why, and how far a proof is."""
    proved = Proved.objects.filter(question__department=request.membership.department, question__archived=None)
    wrong = (
        proved.exclude(faults=[]).select_related("revision", "question").defer("revision__document", "revision__sheet")
    )
    job = latest(request)
    no_worker = bool(job and job.open and not workers_live())
    context = {
        "wrong": wrong.defer("revision__document", "revision__sheet").order_by("revision__title")[:SHOWN],
        "count": wrong.count(),
        "proved": proved.count(),
        "last": proved.order_by("-moment").values_list("moment", flat=True).first(),
        "job": job,
        "no_worker": no_worker,
        "last_seen": last_seen() if no_worker else None,
    }
    if request.htmx and job is not None and job.open:
        return render(request, "bank/_proving.html", context)
    if request.htmx:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    return render(request, "bank/proofs.html", context)


@allowed("bank.add_question")
@require_POST
def prove_all(request: MemberRequest) -> HttpResponse:
    """Prove all questions of the department now, unless they are being proved; or stop that."""
    job = latest(request)
    if request.POST.get("do") == "cancel":
        if job is not None:
            job.cancel()
    elif job is None or not job.open:
        order_proof(request.membership.department, request.user)
    return redirect("proofs")
