"""The marked work of a whole class as one PDF, in class order, to be printed and given back."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.db.models import Max
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.web.files.responses import sent
from vorlage.web.jobs.models import Job, workers_live
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.models import Mark, Sitting

from .models import RETURNING, ClassWork
from .places import sitting_to_mark


def rows_back(sitting: Sitting) -> frozenset[str]:
    """What students get back once it is released, and their own answers."""
    return frozenset({"own"} | {row for row, moment in sitting.held.seen.items() if moment != "never"}) - {"class"}


def newest_mark(sitting: Sitting) -> int:
    found = Mark.objects.filter(taking__sitting=sitting, taking__tried_by=None).aggregate(last=Max("pk"))["last"]
    return int(found or 0)


def class_work(sitting: Sitting) -> ClassWork | None:
    return ClassWork.objects.filter(sitting=sitting).select_related("job", "file").first()


@personally("sittings.list_sittings")
@require_POST
def order(request: MemberRequest, pk: int) -> HttpResponse:
    """Order the PDF, or stop what is being made; what is being made already goes on."""
    sitting = sitting_to_mark(request, pk)
    with transaction.atomic():
        Sitting.objects.select_for_update(of=("self",)).get(pk=sitting.pk)
        held = class_work(sitting)
        if request.POST.get("do") == "stop":
            if held is not None:
                held.job.cancel()
        elif held is None or not held.job.open:
            count = sitting.takings.counted().exclude(handed_in=None).exclude(marked=None).count()
            if not count:
                messages.warning(request, "Nothing is marked yet.")
                return redirect("results", pk)
            job = Job.order(RETURNING, request.user, count, sitting=sitting.pk)
            ClassWork.objects.update_or_create(sitting=sitting, defaults={"job": job})
    return redirect("results", pk)


@personally("sittings.list_sittings")
@require_GET
def progress(request: MemberRequest, pk: int) -> HttpResponse:
    """Asked for again and again while it is made."""
    sitting = sitting_to_mark(request, pk)
    held = class_work(sitting)
    if held is not None and held.job.open:
        context = {"sitting": sitting, "class_work": held, "no_worker": not workers_live()}
        return render(request, "marking/_class_work.html", context)
    return HttpResponse(status=204, headers={"HX-Refresh": "true"})


@personally("sittings.list_sittings")
@require_GET
def download(request: MemberRequest, pk: int) -> HttpResponseBase:
    """The PDF as it was made last."""
    sitting = sitting_to_mark(request, pk)
    held = class_work(sitting)
    if held is None or held.file is None:
        raise Http404
    return sent(request, held.file, "application/pdf", f"{sitting.title} marked work.pdf")
