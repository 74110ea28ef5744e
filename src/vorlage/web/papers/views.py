"""Tests, form sets and their downloads."""

from __future__ import annotations

import re
from dataclasses import dataclass

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from vorlage.core.forms import Form, KeyEntry, shared_answers
from vorlage.core.notation import NotationError, Settings, mathml, read
from vorlage.core.questions import load_document
from vorlage.web.accounts.permissions import author, member
from vorlage.web.questions.models import Question

from .forms import FormCountForm, TestForm
from .models import FormSet, Print, Test, TestPlace
from .tasks import make_form_set

OFFERED = 20


@member
@require_GET
def tests(request: HttpRequest) -> HttpResponse:
    listed = Test.objects.of(request.membership).with_totals().with_form_sets()
    return render(request, "papers/tests.html", {"tests": listed, "form": TestForm()})


@author
@require_POST
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
    running = 0
    lines = []
    for number, place in enumerate(places, start=1):
        running += place.revision.question.marks
        lines.append({"number": number, "place": place, "question": place.revision.question, "running": running})
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
        "form_sets": found.form_sets.defer("forms"),
        **more,
    }


def offered(request: HttpRequest, chosen: set[int]) -> list[Question]:
    """Questions that are not in the test yet, found by the words typed."""
    search = request.GET.get("search", "")
    return list(Question.objects.of(request.membership).search(search).exclude(pk__in=chosen)[:OFFERED])


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
    found.add(get_object_or_404(Question.objects.of(request.membership), pk=question))
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
    make_form_set.defer(form_set=form_set.pk)
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
    """One part of one place, across all forms."""

    label: str
    title: str
    marks: int
    answers: list[Answer]


COLUMNS = 40


@member
@require_GET
def form_set(request: HttpRequest, pk: int) -> HttpResponse:
    found = get_object_or_404(FormSet.objects.of(request.membership).select_related("test__department"), pk=pk)
    return render(request, "papers/form_set.html", form_set_context(request, found))


def form_set_context(request: HttpRequest, found: FormSet) -> dict[str, object]:
    context: dict[str, object] = {"form_set": found, "test": found.test}
    if found.state != FormSet.State.FROZEN:
        return context
    forms = found.frozen_forms.forms
    shown = forms[:COLUMNS]
    codes = [form.code for form in forms]
    chosen = request.GET.get("form", "")
    chosen = chosen if chosen in codes else codes[0]
    return context | {
        "forms": shown,
        "codes": codes,
        "hidden": len(forms) - len(shown),
        "chosen": chosen,
        "rows": answer_rows(found, shown),
        "marks": sum(key.marks for item in forms[0].items for key in item.keys),
        "repeats": [number + 1 for number in found.repeats],
        "shared_count": len({(place, part) for _, place, part in shared_answers(found.frozen_forms)}),
    }


def answer_rows(found: FormSet, forms: tuple[Form, ...]) -> list[AnswerRow]:
    shared = shared_answers(found.frozen_forms)
    rows = []
    for place, frozen in enumerate(found.ordered):
        parts = forms[0].items[place].keys
        labels = load_document(frozen.revision.document).labels
        for part, key in enumerate(parts):
            label = f"{place + 1} {labels[part].full}".strip()
            answers = [
                Answer(typeset(form.items[place].keys[part]), key.after, (number, place, part) in shared)
                for number, form in enumerate(forms)
            ]
            rows.append(AnswerRow(label, frozen.revision.document["title"], key.marks, answers))
    return rows


def typeset(key: KeyEntry) -> SafeString:
    """A frozen key as MathML; the printers escape whatever is in it."""
    try:
        return mark_safe(mathml(read(key.key, Settings())))
    except NotationError:
        return SafeString("") + key.key


@member
@require_GET
def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """The progress bar, asked for again and again while the set is made."""
    found = get_object_or_404(FormSet.objects.of(request.membership).select_related("test"), pk=pk)
    if found.state in {FormSet.State.WAITING, FormSet.State.MAKING}:
        return render(request, "papers/_progress.html", {"form_set": found})
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response


@author
@require_POST
def cancel(request: HttpRequest, pk: int) -> HttpResponse:
    found = get_object_or_404(FormSet.objects.of(request.membership), pk=pk)
    FormSet.objects.filter(pk=found.pk, state__in=[FormSet.State.WAITING, FormSet.State.MAKING]).update(
        state=FormSet.State.CANCELLED, step=""
    )
    return redirect("form-set", pk)


def download(content: bytes, name: str, kind: str, attached: bool = True) -> HttpResponse:
    response = HttpResponse(bytes(content), content_type=kind)
    safe = re.sub(r"[^A-Za-z0-9.]+", "-", name).strip("-").lower()
    response["Content-Disposition"] = f'{"attachment" if attached else "inline"}; filename="{safe}"'
    return response


KINDS = {
    "papers": (Print.Kind.PAPERS, "papers.pdf", "application/pdf"),
    "key": (Print.Kind.KEY, "key.pdf", "application/pdf"),
    "archive": (Print.Kind.ARCHIVE, "everything.zip", "application/zip"),
}


@member
@require_GET
def printed(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """One of the finished files."""
    if kind not in KINDS:
        raise Http404
    found = get_object_or_404(FormSet.objects.of(request.membership), pk=pk)
    stored, name, content_type = KINDS[kind]
    file = get_object_or_404(Print, form_set=found, kind=stored)
    return download(file.content, f"{found.title} set {found.number} {name}", content_type)


def frozen_form(request: HttpRequest, pk: int, code: str) -> tuple[FormSet, Form]:
    found = get_object_or_404(
        FormSet.objects.of(request.membership).select_related("test__department"), pk=pk, state=FormSet.State.FROZEN
    )
    for form in found.frozen_forms.forms:
        if form.code == code:
            return found, form
    raise Http404


@member
@require_GET
def paper(request: HttpRequest, pk: int, code: str) -> HttpResponse:
    """The paper of one form."""
    found, form = frozen_form(request, pk, code)
    return download(found.printing.papers([form]), f"{found.title} {code}.pdf", "application/pdf")


@member
@require_GET
@cache_control(private=True, max_age=3600)
def paper_page(request: HttpRequest, pk: int, code: str, page: int) -> HttpResponse:
    """One page of the paper of one form, as a picture of what is printed."""
    found, form = frozen_form(request, pk, code)
    pages = found.printing.pictures(form)
    if not 1 <= page <= len(pages):
        raise Http404
    response = download(pages[page - 1], f"{code}-{page}.png", "image/png", attached=False)
    response["X-Pages"] = str(len(pages))
    return response


@require_http_methods(["GET"])
@member
def paper_beside(request: HttpRequest, pk: int, code: str) -> HttpResponse:
    """The pages of a form, laid beside the table of answers."""
    found, form = frozen_form(request, pk, code)
    pages = range(1, len(found.printing.pictures(form)) + 1)
    return render(request, "papers/_paper.html", {"form_set": found, "chosen": code, "pages": pages})
