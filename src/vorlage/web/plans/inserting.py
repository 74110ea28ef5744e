"""The inserts of a test: written or given, looked at, changed, taken out."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.documents import page_count
from vorlage.web.files.models import Stored
from vorlage.web.files.responses import sent
from vorlage.web.once.models import once
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

from .changes import changed
from .forms import InsertForm
from .models import MOST_INSERTS, Insert, Test
from .views import test_of, test_page


def form_of(request: MemberRequest, found: Test, insert: Insert) -> InsertForm:
    department = found.department
    return InsertForm(
        request.POST, request.FILES, instance=insert, habits=department.habits, department=department.heads_papers
    )


@member
@require_POST
@once
def add_insert(request: MemberRequest, pk: int) -> HttpResponse:
    found = changed(request, pk)
    form = form_of(request, found, Insert(test=found, position=found.inserts.count()))
    if form.is_valid() and found.inserts.count() >= MOST_INSERTS:
        form.add_error("name", f"A test has at most {MOST_INSERTS} inserts.")
    if not form.is_valid():
        return test_page(request, found, status=422, insert_form=form)
    return kept(request, found, form, f"Insert “{form.cleaned_data['name']}”")


@member
@require_POST
def edit_insert(request: MemberRequest, pk: int, insert: int) -> HttpResponse:
    """Change an insert, or take it out."""
    found = changed(request, pk)
    own = get_object_or_404(found.inserts, pk=insert)
    if request.POST.get("do") == "remove":
        with found.changing(request.user, f"Took out the insert “{own.name}”"):
            own.delete()
        return redirect("test", pk)
    form = form_of(request, found, own)
    if not form.is_valid():
        return test_page(request, found, status=422, changed_insert=(own.pk, form))
    return kept(request, found, form, f"Insert “{form.cleaned_data['name']}” changed")


def kept(request: MemberRequest, found: Test, form: InsertForm, words: str) -> HttpResponse:
    with found.changing(request.user, words):
        insert = form.save(commit=False)
        if form.pdf:
            insert.file, insert.pages = Stored.keep(form.pdf), page_count(form.pdf)
            insert.text = form.cleaned_data.get("text") or ""
        insert.save()
    messages.success(request, "Saved.")
    return redirect("test", found.pk)


@member
@require_GET
def insert_file(request: MemberRequest, pk: int, insert: int) -> HttpResponseBase:
    """An insert as it is printed."""
    found = test_of(request, pk)
    own = get_object_or_404(found.inserts.select_related("file"), pk=insert)
    return sent(request, own.file, "application/pdf", f"{found.title} {own.name}.pdf")
