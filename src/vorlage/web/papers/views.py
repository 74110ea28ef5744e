"""Tests, form sets and their downloads."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import total_marks
from vorlage.web.accounts.permissions import author, member
from vorlage.web.files.responses import sent
from vorlage.web.jobs.models import workers_live
from vorlage.web.once.models import claim, once
from vorlage.web.questions.models import Question

from .forms import FormCountForm, TestForm
from .models import Form, FormSet, FormSetPlace, ItemKey, Page, Print, Test, TestPlace

OFFERED = 20


@member
@require_GET
def tests(request: HttpRequest) -> HttpResponse:
    listed = Test.objects.of(request.membership).with_totals().with_form_sets()
    return render(request, "papers/tests.html", {"tests": listed, "form": TestForm()})


@author
@require_POST
@once
def new_test(request: HttpRequest) -> HttpResponse:
    form = TestForm(request.POST)
    if not form.is_valid():
        listed = Test.objects.of(request.membership).with_totals().with_form_sets()
        return render(request, "papers/tests.html", {"tests": listed, "form": form}, status=422)
    test = form.save(commit=False)
    test.department, test.author = request.membership.department, request.user
    test.save()
    return redirect("test", test.pk)


@member
@require_GET
def test(request: HttpRequest, pk: int) -> HttpResponse:
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    return render(request, "papers/test.html", test_context(request, found))


def test_context(request: HttpRequest, found: Test, **more: object) -> dict[str, object]:
    places = found.ordered()
    running = total_marks([])
    lines = []
    for number, place in enumerate(places, start=1):
        running = total_marks([running, place.revision.marks])
        lines.append({"number": number, "place": place, "revision": place.revision, "running": running})
    chosen = {place.revision.question_id for place in places}
    return {
        "test": found,
        "lines": lines,
        "marks": running,
        "chosen": chosen,
        "offered": offered(request, chosen),
        "search": request.GET.get("search", ""),
        "form": TestForm(instance=found),
        "count_form": FormCountForm(),
        "form_sets": found.form_sets.select_related("job"),
        **more,
    }


def offered(request: HttpRequest, chosen: set[int]) -> list[Question]:
    """Questions that are not in the test yet, found by the words typed."""
    search = request.GET.get("search", "")
    return list(Question.objects.of(request.membership).listed().search(search).exclude(pk__in=chosen)[:OFFERED])


@author
@require_GET
def offers(request: HttpRequest, pk: int) -> HttpResponse:
    """The list of questions to add, renewed while searching."""
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    chosen = set(found.places.values_list("revision__question_id", flat=True))
    return render(request, "papers/_offers.html", {"test": found, "offered": offered(request, chosen)})


@author
@require_POST
def edit_test(request: HttpRequest, pk: int) -> HttpResponse:
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    form = TestForm(request.POST, instance=found)
    if not form.is_valid():
        return render(request, "papers/test.html", test_context(request, found, form=form), status=422)
    form.save()
    messages.success(request, "Saved.")
    return redirect("test", pk)


def plan(request: HttpRequest, found: Test) -> HttpResponse:
    """The answer to a change of the plan: the piece for htmx, the page for others."""
    if request.htmx:
        return render(request, "papers/_plan_and_offers.html", test_context(request, found))
    return redirect("test", found.pk)


@author
@require_POST
def add_place(request: HttpRequest, pk: int, question: int) -> HttpResponse:
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    added = get_object_or_404(Question.objects.of(request.membership), pk=question)
    with transaction.atomic():
        if claim(request):
            found.add(added)
    return plan(request, found)


def place_of(request: HttpRequest, pk: int, place: int) -> tuple[Test, TestPlace]:
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    return found, get_object_or_404(found.places, pk=place)


@author
@require_POST
def remove_place(request: HttpRequest, pk: int, place: int) -> HttpResponse:
    found, unwanted = place_of(request, pk, place)
    found.take_out(unwanted)
    return plan(request, found)


@author
@require_POST
def move_place(request: HttpRequest, pk: int, place: int) -> HttpResponse:
    """One up or one down."""
    found, moved = place_of(request, pk, place)
    found.move(moved, -1 if request.POST.get("to") == "up" else 1)
    return plan(request, found)


@author
@require_POST
def arrange(request: HttpRequest, pk: int) -> HttpResponse:
    """The order that dragging left behind."""
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    found.arrange([int(value) for value in request.POST.getlist("place") if value.isdecimal()])
    return plan(request, found)


@author
@require_POST
def renew_place(request: HttpRequest, pk: int, place: int) -> HttpResponse:
    """Take the latest revision of the question in this place."""
    found, outdated = place_of(request, pk, place)
    found.renew(outdated)
    return plan(request, found)


@author
@require_POST
@once
def make(request: HttpRequest, pk: int) -> HttpResponse:
    """Order a form set; a worker makes it."""
    found = get_object_or_404(Test.objects.of(request.membership), pk=pk)
    form = FormCountForm(request.POST)
    if not form.is_valid():
        return render(request, "papers/test.html", test_context(request, found, count_form=form), status=422)
    if not found.places.exists():
        form.add_error("count", "There are no questions in this test yet. Add some first.")
        return render(request, "papers/test.html", test_context(request, found, count_form=form), status=422)
    form_set = FormSet.order(found, form.cleaned_data["count"], request.user)
    return redirect("form-set", form_set.pk)


# form sets


@dataclass(frozen=True)
class Answer:
    """One cell of the table of answers."""

    markup: SafeString
    after: str
    shared: bool


@dataclass(frozen=True)
class AnswerRow:
    """One part of one place, across the forms that are shown."""

    label: str
    title: str
    marks: Decimal
    answers: list[Answer] = field(default_factory=list)


# So many forms are shown side by side.
COLUMNS = 40


def with_job(request: HttpRequest, pk: int) -> FormSet:
    return get_object_or_404(FormSet.objects.of(request.membership).select_related("test__department", "job"), pk=pk)


@member
@require_GET
def form_set(request: HttpRequest, pk: int) -> HttpResponse:
    found = with_job(request, pk)
    context = frozen_context(request, found) if found.frozen else progress_context(found)
    return render(request, "papers/form_set.html", context)


def frozen_context(request: HttpRequest, found: FormSet) -> dict[str, object]:
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


def answer_rows(forms: list[Form], places: list[FormSetPlace]) -> list[AnswerRow]:
    """A row for every part of every place, with its key in each of the forms."""
    parts = {place.pk: place.revision.parts for place in places}
    rows = {
        (place.pk, k): AnswerRow(
            f"{place.position + 1} {part['label']}".strip(), place.revision.title, Decimal(part["marks"])
        )
        for place in places
        for k, part in enumerate(parts[place.pk])
    }
    keys = ItemKey.objects.filter(item__form__in=forms).order_by("item__form__position", "item__place__position")
    for place, entries in keys.values_list("item__place", "parts"):
        for k, key in enumerate(entries):
            # the core's printer escaped whatever is in it
            rows[place, k].answers.append(Answer(mark_safe(key["shown"]), key["after"], key["shared"]))
    return list(rows.values())


def progress_context(found: FormSet) -> dict[str, object]:
    job = found.job
    return {"form_set": found, "test": found.test, "job": job, "no_worker": job and job.open and not workers_live()}


@member
@require_GET
def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """The progress bar, asked for again and again while the set is made."""
    found = with_job(request, pk)
    if found.job and found.job.open:
        return render(request, "papers/_progress.html", progress_context(found))
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response


@author
@require_POST
def cancel(request: HttpRequest, pk: int) -> HttpResponse:
    found = with_job(request, pk)
    if found.job:
        found.job.cancel()
    return redirect("form-set", pk)


KINDS = {
    "papers": (Print.Kind.PAPERS, "papers.pdf", "application/pdf"),
    "key": (Print.Kind.KEY, "key.pdf", "application/pdf"),
    "archive": (Print.Kind.ARCHIVE, "everything.zip", "application/zip"),
}


@member
@require_GET
def printed(request: HttpRequest, pk: int, kind: str) -> HttpResponseBase:
    """One of the finished files."""
    if kind not in KINDS:
        raise Http404
    found = get_object_or_404(FormSet.objects.of(request.membership), pk=pk)
    stored, name, content_type = KINDS[kind]
    made = get_object_or_404(Print.objects.select_related("file"), form_set=found, kind=stored)
    return sent(request, made.file, content_type, f"{found.title} set {found.number} {name}")


def frozen_form(request: HttpRequest, pk: int, code: str) -> Form:
    found = FormSet.objects.of(request.membership).filter(pk=pk)
    return get_object_or_404(Form.objects.select_related("form_set", "paper"), form_set__in=found, code=code)


@member
@require_GET
def paper(request: HttpRequest, pk: int, code: str) -> HttpResponseBase:
    """The paper of one form."""
    form = frozen_form(request, pk, code)
    return sent(request, form.paper, "application/pdf", f"{form.form_set.title} {code}.pdf")


@member
@require_GET
def paper_page(request: HttpRequest, pk: int, code: str, page: int) -> HttpResponseBase:
    """One page of the paper of one form, as a picture of what is printed."""
    form = frozen_form(request, pk, code)
    if not 1 <= page <= form.pages:
        raise Http404
    return sent(request, Page.of(form, page).picture, "image/png")


@member
@require_GET
def paper_beside(request: HttpRequest, pk: int, code: str) -> HttpResponse:
    """The pages of a form, laid beside the table of answers."""
    form = frozen_form(request, pk, code)
    context = {"form_set": form.form_set, "chosen": form, "pages": range(1, form.pages + 1)}
    return render(request, "papers/_paper.html", context)
