"""Form sets: ordered, looked at, and downloaded."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import total_marks
from vorlage.web.bank.markup import unit_set
from vorlage.web.files.responses import sent
from vorlage.web.jobs.models import last_seen, workers_live
from vorlage.web.once.models import once
from vorlage.web.people.permissions import held, may, member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.views import test_of, test_page

from .forms import FormCountForm
from .models import Form, FormSet, FormSetPlace, ItemKey, Page, Print


@member
@require_POST
@once
def make(request: MemberRequest, pk: int) -> HttpResponse:
    """Order a form set; a worker makes it."""
    found = test_of(request, pk, "forms.make_formset")
    form = FormCountForm(request.POST)
    if form.is_valid() and not found.places.exists():
        form.add_error("count", "There are no questions in this test yet. Add some first.")
    if not form.is_valid():
        return test_page(request, found, status=422, count_form=form)
    form_set = FormSet.order(found, form.cleaned_data["count"], request.user)
    return redirect("form-set", form_set.pk)


@dataclass(frozen=True)
class KeyCell:
    """One cell of the table of answers."""

    markup: SafeString
    after: SafeString
    shared: bool


@dataclass(frozen=True)
class KeyRow:
    """One part of one place, across the forms that are shown."""

    label: str
    title: str
    marks: Decimal
    answers: list[KeyCell] = field(default_factory=list)


# So many forms are shown side by side.
COLUMNS = 40


def set_of(request: MemberRequest, pk: int, permission: str = "forms.view_formset") -> FormSet:
    """A form set with its work, when the member may do this with it."""
    return held(request, permission, FormSet.objects.select_related("test__department", "job"), pk=pk)


@member
@require_GET
def form_set(request: MemberRequest, pk: int) -> HttpResponse:
    found = set_of(request, pk)
    context = frozen_context(request, found) if found.frozen else progress_context(found)
    return render(request, "forms/form_set.html", context)


def frozen_context(request: MemberRequest, found: FormSet) -> dict[str, object]:
    forms = list(found.forms.order_by("position")[:COLUMNS])
    asked = request.GET.get("form", "")
    chosen = next((form for form in forms if form.code == asked), None)
    if chosen is None and asked:
        chosen = found.forms.filter(code=asked).first()
    chosen = chosen or forms[0]
    places = list(found.places.select_related("revision").defer("revision__document", "revision__sheet"))
    rows = answer_rows(forms, places)
    return {
        "form_set": found,
        "test": found.test,
        "forms": forms,
        "hidden": found.count - len(forms),
        "chosen": chosen,
        "pages": range(1, chosen.pages + 1),
        "rows": rows,
        "marks": total_marks(place.marks for place in places),
        "repeats": [place.position + 1 for place in places if place.repeats],
        "shared_count": sum(place.shared for place in places),
    }


def answer_rows(forms: list[Form], places: list[FormSetPlace]) -> list[KeyRow]:
    """A row for every part of every place, with its key in each of the forms."""
    parts = {place.pk: place.revision.parts for place in places}
    rows = {
        (place.pk, k): KeyRow(
            f"{place.position + 1} {part['label']}".strip(), place.revision.title, Decimal(part["marks"])
        )
        for place in places
        for k, part in enumerate(parts[place.pk])
    }
    keys = ItemKey.objects.filter(item__form__in=forms).order_by("item__form__position", "item__place__position")
    for place, entries in keys.values_list("item__place", "parts"):
        for k, key in enumerate(entries):
            # the core's printer escaped whatever is in it
            rows[place, k].answers.append(KeyCell(mark_safe(key["shown"]), unit_set(key["after"]), key["shared"]))
    return list(rows.values())


def progress_context(found: FormSet) -> dict[str, object]:
    job = found.job
    no_worker = bool(job and job.open and not workers_live())
    return {
        "form_set": found,
        "test": found.test,
        "job": job,
        "no_worker": no_worker,
        "last_seen": last_seen() if no_worker else None,
    }


@member
@require_GET
def progress(request: MemberRequest, pk: int) -> HttpResponse:
    """The progress bar, asked for again and again while the set is made."""
    found = set_of(request, pk)
    if found.job and found.job.open:
        return render(request, "forms/_progress.html", progress_context(found))
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response


@member
@require_POST
def cancel(request: MemberRequest, pk: int) -> HttpResponse:
    found = set_of(request, pk, "forms.cancel_formset")
    if found.job:
        found.job.cancel()
    return redirect("form-set", pk)


# What can be downloaded: which file, how it ends, what it is.
FILES = {
    "papers": (Print.Kind.PAPERS, "papers.pdf", "application/pdf"),
    "key": (Print.Kind.KEY, "key.pdf", "application/pdf"),
    "archive": (Print.Kind.ARCHIVE, "everything.zip", "application/zip"),
}


@member
@require_GET
def printed(request: MemberRequest, pk: int, kind: str) -> HttpResponseBase:
    """One of the finished files."""
    if kind not in FILES:
        raise Http404
    found = set_of(request, pk)
    stored, name, content_type = FILES[kind]
    made = get_object_or_404(Print.objects.select_related("file"), form_set=found, kind=stored)
    return sent(request, made.file, content_type, f"{found.title} set {found.number} {name}")


def frozen_form(request: MemberRequest, pk: int, code: str) -> Form:
    """A form of a set that the member may see, with its paper."""
    forms = Form.objects.select_related("form_set__test", "paper")
    form = get_object_or_404(forms, form_set=pk, code=code)
    if not may(request.membership, "forms.view_formset", form.form_set):
        raise Http404
    return form


@member
@require_GET
def paper(request: MemberRequest, pk: int, code: str) -> HttpResponseBase:
    """The paper of one form."""
    form = frozen_form(request, pk, code)
    return sent(request, form.paper, "application/pdf", f"{form.form_set.title} {code}.pdf")


@member
@require_GET
def paper_page(request: MemberRequest, pk: int, code: str, page: int) -> HttpResponseBase:
    """One page of the paper of one form, as a picture of what is printed."""
    form = frozen_form(request, pk, code)
    if not 1 <= page <= form.pages:
        raise Http404
    return sent(request, Page.of(form, page).picture, "image/png")


@member
@require_GET
def paper_beside(request: MemberRequest, pk: int, code: str) -> HttpResponse:
    """The pages of a form, laid beside the table of answers."""
    form = frozen_form(request, pk, code)
    context = {"form_set": form.form_set, "chosen": form, "pages": range(1, form.pages + 1)}
    return render(request, "forms/_paper.html", context)
