"""Form sets: ordered, looked at, and downloaded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

from django.db import transaction
from django.db.models import Exists, OuterRef
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.http import content_disposition_header
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.documents import Printing
from vorlage.core.errors import CoreError
from vorlage.core.questions import COMPONENTS
from vorlage.web.bank.markup import unit_set
from vorlage.web.design.asking import chosen_number
from vorlage.web.design.tables import as_csv, as_workbook
from vorlage.web.files.responses import sent
from vorlage.web.jobs.models import last_seen, workers_live
from vorlage.web.once.models import once
from vorlage.web.people.permissions import held, may, member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn
from vorlage.web.plans.looking import SECONDS, STEPS
from vorlage.web.plans.models import Test
from vorlage.web.plans.views import test_of, test_page, too_few

from .basis import drawn_anew, put_right, retest
from .forms import FormCountForm
from .kept import kept_forms
from .key_tables import boundary_rows, key_rows
from .models import Form, FormSet, FormSetPlace, ItemKey, Page, Print
from .tasks import heading_of, plan_of


def why_not(found: Test) -> str:
    """Why no forms can be made from a plan as it stands; empty where they can."""
    places = found.ordered()
    if not places:
        return "There are no questions in this test yet. Add some first."
    for one in places:
        if not one.candidates:
            return f"{one.title} has no question. Add one, or take it out."
        if one.uneven:
            return f"The questions of {one.title} have different marks. Say what each is worth there."
        if one.unmarked:
            return f"A question of {one.title} has no marks that could be changed."
    short = too_few(places)
    return f"{short.title} finds too few questions: none stands twice in a form." if short else ""


@member
@require_POST
@once
def make(request: MemberRequest, pk: int) -> HttpResponse:
    """Order a form set; a worker makes it."""
    found = test_of(request, pk, "forms.make_formset")
    form = FormCountForm(request.POST)
    if form.is_valid() and (reason := why_not(found)):
        form.add_error("count", reason)
    if not form.is_valid():
        return test_page(request, found, status=422, count_form=form)
    form_set = FormSet.order(found, form.cleaned_data["count"], request.user)
    return redirect("form-set", form_set.pk)


@dataclass(frozen=True)
class KeyPart:
    """The key of a part in one cell of the table of answers."""

    label: str
    markup: SafeString
    after: SafeString
    shared: bool


@dataclass(frozen=True)
class KeyCell:
    """A cell of the table of answers; ``title`` is the question's where forms have different ones there."""

    parts: list[KeyPart]
    title: str = ""

    @property
    def shared(self) -> bool:
        return any(part.shared for part in self.parts)


@dataclass(frozen=True)
class KeyRow:
    """One part of a question that everybody has, or one question of a pool, across the forms that are shown."""

    label: str
    title: str
    marks: Fraction
    pool: bool = False
    answers: dict[int, KeyCell] = field(default_factory=dict)


# So many forms are shown side by side, and so many are made at once for those who missed a test.
COLUMNS, MOST_AT_ONCE = 40, 100


def set_of(request: MemberRequest, pk: int, permission: str = "forms.view_formset") -> FormSet:
    """A form set with its work, when the member may do this with it."""
    # sets of a version before have no short key
    short = Print.objects.filter(form_set=OuterRef("pk"), kind=Print.Kind.SHORT)
    found = FormSet.objects.select_related("test__department", "job", "source").annotate(has_short_key=Exists(short))
    return held(request, permission, found, pk=pk)


@member
@require_GET
def form_set(request: MemberRequest, pk: int) -> HttpResponse:
    found = set_of(request, pk)
    context = frozen_context(request, found) if found.frozen else progress_context(found)
    return render(request, "forms/form_set.html", context)


def frozen_context(request: MemberRequest, found: FormSet, **more: object) -> dict[str, object]:
    asked = request.GET.get("form", "").strip().upper()
    chosen = found.forms.filter(code=asked).first() if asked else None
    # the stretch of forms with the one that is looked for
    start = chosen.position if chosen else chosen_number(request.GET.get("from", ""), 1) - 1
    start = max(0, min(start, found.count - 1)) // COLUMNS * COLUMNS
    forms = list(found.forms.order_by("position")[start : start + COLUMNS])
    chosen = chosen or forms[0]
    places = found.ordered
    rows = answer_rows(forms, places)
    return {
        "form_set": found,
        "test": found.test,
        "forms": [(form, profile_of(form, found)) for form in forms],
        "stretches": [(k + 1, min(k + COLUMNS, found.count)) for k in range(0, found.count, COLUMNS)],
        "start": start + 1,
        "unknown": asked if asked and chosen.code != asked else "",
        "chosen": chosen,
        "pages": range(1, chosen.pages + 1),
        "rows": [(row, [row.answers.get(form.pk) for form in forms]) for row in rows],
        "marks": sum((place.counted for place in places), Fraction(0)),
        "bonus": sum((place.each * place.take for place in places if place.bonus), Fraction(0)),
        "evenness": evenness_of(found, places),
        "numbered": list(zip(numbers_of(places), places)),
        "repeats": [number for number, place in zip(numbers_of(places), places) if place.repeats],
        "sharing": [number for number, place in zip(numbers_of(places), places) if place.shared],
        "newer": [(number, place) for number, place in zip(numbers_of(places), places) if is_outdated(place)],
        "inserts": found.inserts.all(),
        "followers": found.followers.order_by("number"),
        **more,
    }


def numbers_of(places: Sequence[FormSetPlace]) -> list[str]:
    """The numbers that the questions of each place have in the order of the plan: ``4`` or ``4–6``."""
    found, first = [], 1
    for place in places:
        last = first + place.take - 1
        found.append(str(first) if last == first else f"{first}–{last}")
        first = last + 1
    return found


def is_outdated(place: FormSetPlace) -> bool:
    """Whether a question of a place has been revised since the set was made."""
    return any(each.revision_id != each.revision.question.current_id for each in place.all_candidates)


def profile_of(form: Form, found: FormSet) -> list[tuple[int, float, float, str]]:
    """The number work of a form as small bars, each against the most that a form of the set has: their place, top and
    height, and what they say in words."""
    bars: list[tuple[int, float, float, str]] = []
    for k, (name, worth, most) in enumerate(zip(COMPONENTS, form.work, found.evenness.get("highest", []))):
        height = round(1 + 15 * worth / most, 1) if most else 1
        bars.append((4 * k, 17 - height, height, f"{name} {worth:g}"))
    return bars


@dataclass(frozen=True)
class Even:
    """How even the forms of a set are, as it is told."""

    spread: float
    before: float
    limit: str
    number: str
    ranges: list[tuple[str, float, float]]


def evenness_of(found: FormSet, places: Sequence[FormSetPlace]) -> Even | None:
    """None for a set of a version before, and for one form."""
    kept = found.evenness
    if not kept.get("highest") or found.count < 2:
        return None
    at = kept["place"]
    number = numbers_of(places)[at] if 0 <= at < len(places) else ""
    ranges = [(name, low, high) for name, low, high in zip(COMPONENTS, kept["lowest"], kept["highest"])]
    return Even(kept["spread"], kept["before"], kept["limit"], number, ranges)


def answer_rows(forms: list[Form], places: Sequence[FormSetPlace]) -> list[KeyRow]:
    """A row for every part of every question that all have, and for each question of a pool, with the keys of the
    forms."""
    rows: dict[tuple[int, int], KeyRow] = {}
    revisions = {each.pk: each.revision for place in places for each in place.all_candidates}
    slot = 0
    for place in places:
        for _ in range(place.take):
            number = slot + 1
            if place.is_pool:
                rows[slot, 0] = KeyRow(str(number), place.name or "one of a pool", place.each, True)
            else:
                factor = place.each / Fraction(place.revision.marks) if place.revision.marks else Fraction(1)
                for k, part in enumerate(place.revision.parts):
                    label = f"{number} {part['label']}".strip()
                    rows[slot, k] = KeyRow(label, place.revision.title, Fraction(part["marks"]) * factor)
            slot += 1
    pools = {place.pk for place in places if place.is_pool}
    keys = ItemKey.objects.filter(item__form__in=forms)
    for form, where, held_by, candidate, entries in keys.values_list(
        "item__form", "item__slot", "item__place", "item__candidate", "parts"
    ):
        revision = revisions[candidate]
        parts = [key_part(part["label"], key) for part, key in zip(revision.parts, entries)]
        if held_by in pools:
            rows[where, 0].answers[form] = KeyCell(parts, revision.title)
        else:
            for k, part in enumerate(parts):
                rows[where, k].answers[form] = KeyCell([replace(part, label="")])
    return list(rows.values())


def key_part(label: str, key: dict[str, Any]) -> KeyPart:
    # the core's printer escaped whatever is in it
    return KeyPart(label, mark_safe(key["shown"]), unit_set(key["after"]), key["shared"])


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


@member
@require_POST
@once
def another(request: MemberRequest, pk: int) -> HttpResponse:
    """A set that follows this one: some of it drawn anew, a question put right, or a retest. This one stays."""
    source = set_of(request, pk, "forms.cancel_formset")
    if not source.frozen:
        return redirect("form-set", pk)
    what = request.POST.get("what", "")
    code = request.POST.get("code", "").strip().upper()
    form = source.forms.filter(code=code).first() if code else None
    place = source.places.filter(pk=chosen_number(request.POST.get("place", ""))).first()
    refused = ""
    if code and form is None:
        refused = f"There is no form {code[:8]} in this set: its code stands at the top of the paper."
    elif what == "retest" and form is None:
        refused = "Write the code of the form that was missed."
    elif what == "right" and place is None:
        refused = "Choose the question that is to be put right."
    if refused:
        context = frozen_context(request, source, refused=refused, typed=request.POST)
        return render(request, "forms/form_set.html", context, status=422)
    with transaction.atomic():
        if what == "retest" and form is not None:
            count = min(MOST_AT_ONCE, max(1, chosen_number(request.POST.get("count", ""), 1)))
            made = retest(source, form, request.user, count)
        elif what == "right" and place is not None:
            made = put_right(source, place, request.user)
        else:
            made = drawn_anew(source, request.user, place, form)
    return redirect("form-set", made.pk)


# What can be downloaded: which file, how it ends, what it is.
FILES = {
    "papers": (Print.Kind.PAPERS, "papers.pdf", "application/pdf"),
    "key": (Print.Kind.KEY, "key.pdf", "application/pdf"),
    "short-key": (Print.Kind.SHORT, "answers.pdf", "application/pdf"),
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


@member
@require_GET
@in_turn
def key_table(request: MemberRequest, pk: int, kind: str) -> HttpResponse:
    """The keys as a table for a spreadsheet, of all forms or of one."""
    found = set_of(request, pk)
    code = request.GET.get("form", "")[:8]
    if kind not in ("csv", "xlsx") or not found.frozen or (code and not found.forms.filter(code=code).exists()):
        raise Http404
    sheets = {"Key": key_rows(found, code)}
    if boundaries := list(boundary_rows(found)):
        sheets["Grade boundaries"] = iter(boundaries)
    content, media = as_csv(sheets["Key"]) if kind == "csv" else as_workbook(sheets)
    return taken_away(content, media, f"{called(found, code)} key.{kind}")


@member
@require_GET
@in_turn
def form_key(request: MemberRequest, pk: int, code: str) -> HttpResponse:
    """The key of one form with its worked solutions, typeset now from what is frozen."""
    form = frozen_form(request, pk, code)
    order = FormSet.objects.select_related("test__department__school", "mark__school").get(pk=pk)
    places = order.read
    try:
        with budgeted(STEPS, SECONDS):
            printing = Printing(plan_of(order, places), heading_of(order), order.uploaded)
            content = printing.key([kept_forms(order, places, [form.pk])[form.pk]])
    except (CoreError, OutOfBudget) as problem:
        return HttpResponse(str(problem), status=422, content_type="text/plain; charset=utf-8")
    return taken_away(content, "application/pdf", f"{called(order, code)} key.pdf")


def called(found: FormSet, code: str) -> str:
    """What a file of a set is called, or of one form of it."""
    return f"{found.title} set {found.number}" + (f" form {code}" if code else "")


def taken_away(content: bytes, media: str, name: str) -> HttpResponse:
    """A file that was made just now."""
    answer = HttpResponse(content, content_type=media)
    answer["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return answer


@member
@require_GET
def insert_of_set(request: MemberRequest, pk: int, insert: int) -> HttpResponseBase:
    """An insert as it is printed with the papers."""
    found = set_of(request, pk)
    own = get_object_or_404(found.inserts.select_related("file"), pk=insert)
    return sent(request, own.file, "application/pdf", f"{found.title} {own.name}.pdf")


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
