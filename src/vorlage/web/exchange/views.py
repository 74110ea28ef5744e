"""Bringing questions in: from pasted text, from tables, from files of documents; and taking them out."""

from __future__ import annotations

import json
import tempfile
from decimal import Decimal
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.http import HttpResponse, HttpResponseBase, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.exchange.archive import MOST_BYTES, ZIPPED, filed_document
from vorlage.core.exchange.drafted import Drafted
from vorlage.core.exchange.plain import EXAMPLE, MOST_CHARACTERS
from vorlage.core.exchange.tables import TEMPLATE
from vorlage.core.notation import Settings, told
from vorlage.core.questions import VaryingError, load_document, propose, read_paths, topics_meant, written_paths
from vorlage.core.questions.filing import DEEP
from vorlage.web.bank.bulk import Refused, chosen_questions
from vorlage.web.bank.markup import safe
from vorlage.web.bank.models import Rubric, Tree
from vorlage.web.bank.search import Search
from vorlage.web.design.asking import chosen_number
from vorlage.web.desk.from_fixed import shown
from vorlage.web.files.models import Stored
from vorlage.web.files.responses import sent
from vorlage.web.jobs.models import Job, last_seen, workers_live
from vorlage.web.once.models import once
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn, turn

from .looking import SECONDS, STEPS, Found, Looked, Unread, found_in, keep_drafts, lay_one, lay_out, text_in, vary
from .models import READING, TAKING, WRITING, Brought, Intake, Outgoing
from .tasks import written

# so many questions of a file are on a page of its report
ON_PAGE = 30
MOST_OF_A_TEXT = 20 * 2**20
# so many fixed questions are made to vary at once
MOST_VARIED = 40
# what a file is called that was made of a text
PASTED = "pasted questions"
# so many are written out at once while somebody waits
AT_ONCE = 200
BUSY = "Two of your pages are being worked out at this moment. Try once more."


def documents_in(start: bytes, name: str) -> bool:
    """Whether a file holds question documents, and not a text or a table."""
    office = (".xlsx", ".docx", ".odt")
    return name.endswith((".json", ".zip")) or (start.startswith(ZIPPED) and not name.endswith(office))


# from text and tables


@allowed("bank.add_question")
@require_http_methods(["GET", "POST"])
def bring(request: MemberRequest) -> HttpResponse:
    """Paste questions or choose a file; what is in it is shown before anything is kept."""
    context: dict[str, Any] = {
        "text": request.POST.get("text", ""),
        "intakes": Intake.objects.filter(user=request.user, department=request.membership.department)[:10],
        "longest": MOST_CHARACTERS,
    }
    if request.method == "GET":
        return render(request, "exchange/bring.html", context)
    file = request.FILES.get("file")
    try:
        if file is not None:
            name = str(file.name or "questions").lower()
            start = file.read(4)
            file.seek(0)
            if documents_in(start, name):
                return bring_file(request, file, str(file.name or "questions")[:200])
            if (file.size or 0) > MOST_OF_A_TEXT:
                raise Unread(
                    f"This file is larger than {MOST_OF_A_TEXT // 2**20} MB: no text or table of questions is."
                )
            context["text"] = text_in(file.read())
        return preview(request, found_in(context["text"], request.membership.department), context)
    except Unread as problem:
        return render(request, "exchange/bring.html", context | {"refused": str(problem)}, status=422)


def preview(request: MemberRequest, found: Found, context: dict[str, Any], status: int = 200) -> HttpResponse:
    """What was found, a sheet each, with what was guessed and what could not be read."""
    habits = request.membership.department.habits
    with turn(request.user) as mine:
        if not mine:
            return render(request, "exchange/bring.html", context | {"refused": BUSY}, status=422)
        lay_out(found.questions, habits)
    takeable = [each for each in found.questions if each.takeable]
    return render(
        request,
        "exchange/preview.html",
        context | {"found": found, "takeable": len(takeable), "whole": sum(each.whole for each in takeable)},
        status=status,
    )


@allowed("bank.add_question")
@require_POST
@once
def take(request: MemberRequest) -> HttpResponse:
    """Keep the questions of a text that are ticked: as drafts, or in the bank."""
    department = request.membership.department
    text = request.POST.get("text", "")
    try:
        found = found_in(text, department)
    except Unread as problem:
        return render(request, "exchange/bring.html", {"text": text, "refused": str(problem)}, status=422)
    ticked = {chosen_number(number) for number in request.POST.getlist("question")[:1_000]}
    chosen = [each for each in found.questions if each.number in ticked and each.takeable]
    context = {"text": text, "topics": request.POST.get("topics", ""), "ticked": ticked}
    refused = file_all(request, chosen) or vary_all(request, chosen)
    if not chosen:
        refused = "No question is ticked."
    if request.POST.get("do") == "bank" and any(each.drafted.lacking for each in chosen):
        lacking = ", ".join(str(each.number) for each in chosen if each.drafted.lacking)
        refused = refused or f"There is no answer yet in number {lacking}: take those as drafts, or write it."
    if refused:
        return preview(request, found, context | {"refused": refused}, 422)
    if request.POST.get("do") == "bank":
        return into_bank(request, chosen)
    drafts = keep_drafts(request.user, department, chosen)
    if len(drafts) == 1:
        return redirect(f"{reverse('new-question')}?draft={drafts[0].key}")
    messages.success(request, f"{len(drafts)} drafts. Open one after the other, look at it, and save it.")
    return redirect("questions")


def file_all(request: MemberRequest, chosen: list[Looked]) -> str:
    """File the questions under the topic that was chosen for all, or else under their own; what is wrong with it."""
    typed = read_paths(request.POST.get("topics", ""))
    tree = list(Tree(request.membership.department).paths)
    if typed:
        meant = topics_meant(typed, tree)
        if meant.doubts:
            return meant.doubts[0]
        for each in chosen:
            each.filing = each.filing.model_copy(update={"topics": tuple(meant.paths)})
        return ""
    for each in chosen:
        # a single name that is known is what stands in the tree; one that is not becomes a subject
        meant = topics_meant([path[:DEEP] for path in each.filing.topics], tree)
        if each.filing.topics and not meant.doubts:
            each.filing = each.filing.model_copy(update={"topics": tuple(meant.paths)})
    return ""


def vary_all(request: MemberRequest, chosen: list[Looked]) -> str:
    """Let those vary for which a formula was picked; what is wrong with one."""
    picked = {each: formula for each in chosen if (formula := request.POST.get(f"formula-{each.number}", "")[:500])}
    if len(picked) > MOST_VARIED:
        return f"Formulas are picked for {len(picked)} questions: take at most {MOST_VARIED} of these at once."
    for each, formula in picked.items():
        try:
            with budgeted(STEPS, SECONDS):
                vary(each, formula, request.membership.department.habits)
        except VaryingError as problem:
            return f"Number {each.number}: {problem}"
        except OutOfBudget:
            return f"Number {each.number}: this formula takes too long to be worked out."
    return ""


def into_bank(request: MemberRequest, chosen: list[Looked]) -> HttpResponse:
    """Let the worker judge the questions and show what it found, as with a file of documents."""
    documents = [filed_document(each.document, each.filing) for each in chosen if each.document is not None]
    content = json.dumps(documents, ensure_ascii=False).encode()
    intake = order_reading(request, Stored.keep(content), PASTED)
    return redirect("intake", intake.pk)


def looked_at(request: MemberRequest) -> Looked | None:
    """The question of the preview that is meant; None where it is not there, or cannot be taken."""
    number = chosen_number(request.GET.get("number", ""))
    try:
        questions = found_in(request.POST.get("text", ""), request.membership.department).questions
    except Unread:
        return None
    return next((each for each in questions if each.number == number and each.takeable), None)


@allowed("bank.add_question")
@require_POST
@in_turn
def formulas_for(request: MemberRequest) -> HttpResponse:
    """The formulas that give the answer of a fixed question of the preview."""
    habits = request.membership.department.habits
    looked = looked_at(request)
    if looked is None:
        return HttpResponse(status=404)
    context: dict[str, Any] = {"number": looked.number}
    try:
        proposal = propose(looked.drafted.asked[:4_000], looked.drafted.answer[:200], habits.reading(Settings()))
        context |= {"formulas": [shown(each, habits) for each in proposal.formulas], "note": proposal.note}
    except VaryingError as problem:
        context["refused"] = told(str(problem), habits)
    return render(request, "exchange/_formulas.html", context)


@allowed("bank.add_question")
@require_POST
@in_turn
def laid(request: MemberRequest) -> HttpResponse:
    """The sheet of one question of the preview, varying by the formula that was picked."""
    looked = looked_at(request)
    if looked is None:
        return HttpResponse(status=404)
    trouble = vary_all(request, [looked])
    lay_one(looked, request.membership.department.habits)
    return render(request, "exchange/_laid.html", {"each": looked, "refused": trouble})


@allowed("bank.add_question")
@require_GET
def table_template(request: MemberRequest) -> HttpResponse:
    """A table to begin with."""
    response = HttpResponse("\N{ZERO WIDTH NO-BREAK SPACE}" + TEMPLATE.read_text("utf-8"), content_type="text/csv")
    response["Content-Disposition"] = 'attachment; filename="questions.csv"'
    return response


@allowed("bank.add_question")
@require_GET
def plain_layout(request: MemberRequest) -> HttpResponse:
    """How questions are written as plain text, on one page."""
    one, others = EXAMPLE.read_text("utf-8").rstrip().split("\n2. ", 1)
    return render(request, "exchange/layout.html", {"examples": [one, f"2. {others}"]})


# from files of documents


def bring_file(request: MemberRequest, file: Any, name: str) -> HttpResponse:
    if (file.size or 0) > MOST_BYTES:
        raise Unread(f"This file has {file.size / 2**20:.0f} MB; at most {MOST_BYTES // 2**20} are read.")
    intake = order_reading(request, Stored.keep(file), name)
    return redirect("intake", intake.pk)


@transaction.atomic
def order_reading(request: MemberRequest, file: Stored, name: str) -> Intake:
    intake = Intake.objects.create(
        user=request.user, department=request.membership.department, name=name, file_id=file.digest
    )
    intake.job = Job.order(READING, request.user, 0, intake=intake.pk)
    intake.save(update_fields=["job"])
    return intake


def intake_of(request: MemberRequest, pk: int, permission: str = "exchange.view_intake") -> Intake:
    return held(request, permission, Intake.objects.select_related("job", "department"), pk=pk)


@member
@require_GET
def intake(request: MemberRequest, pk: int) -> HttpResponse:
    """A file that was brought: how far it is, what is in it, what became of it."""
    found = intake_of(request, pk)
    stage = found.stage
    context: dict[str, Any] = {"intake": found, "stage": stage, "job": found.job}
    if stage == "working":
        no_worker = not workers_live()
        context |= {"no_worker": no_worker, "last_seen": last_seen() if no_worker else None}
        return render(request, "exchange/_working.html" if request.htmx else "exchange/intake.html", context)
    if request.htmx:
        return HttpResponse(status=204, headers={"HX-Refresh": "true"})
    only = request.GET.get("only", "")
    brought = found.brought.defer("document", "prints")
    page = Paginator(brought.filter(state=only) if only in Brought.State else brought, ON_PAGE).get_page(
        request.GET.get("page")
    )
    context |= {
        "page": page,
        "only": only,
        "entries": [
            (each, Decimal(each.facts.get("marks", 0)), safe(str(each.facts.get("sheet", "")))) for each in page
        ],
        "pasted": found.name == PASTED,
        "counts": counts_of(found),
        "chosen": found.brought.exclude(becomes=Brought.Becomes.NOTHING).count(),
        "new_rubrics": new_rubrics(found),
        "topics": written_paths(read_paths(found.topics)),
    }
    return render(request, "exchange/intake.html", context)


def counts_of(found: Intake) -> list[dict[str, Any]]:
    """How many there are of each state, and what can become of all of them."""
    states = list(found.brought.values_list("state", flat=True))
    counted = []
    for state in Brought.State:
        if state in states:
            choices = Brought(state=state).choices
            counted.append(
                {"state": state.value, "label": state.label, "count": states.count(state), "choices": choices[1:]}
            )
    return counted


def new_rubrics(found: Intake) -> list[str]:
    there = Rubric.objects.filter(department=found.department, name__in=found.rubrics).values_list("name", flat=True)
    return sorted(set(found.rubrics) - set(there))


@member
@require_GET
@in_turn
def brought(request: MemberRequest, pk: int, number: int) -> HttpResponse:
    """One question of a file, whole, as the marker sees it."""
    found = held(request, "exchange.view_intake", Intake.objects.all(), pk=pk)
    entry = found.brought.filter(number=number).exclude(document=None).first()
    if entry is None or entry.document is None:
        return HttpResponse(status=404)
    looked = Looked(number, Drafted(0, {}), load_document(entry.document))
    lay_one(looked, request.membership.department.habits)
    return render(request, "exchange/_brought.html", {"looked": looked})


@allowed("bank.add_question")
@require_POST
def decide(request: MemberRequest, pk: int) -> HttpResponse:
    """What becomes of one of a file, or of all that stand alike."""
    found = intake_of(request, pk, "exchange.change_intake")
    becomes = request.POST.get("becomes", "")
    if found.stage == "read":
        state, number = request.POST.get("state", ""), chosen_number(request.POST.get("number", ""))
        meant = found.brought.filter(number=number) if number else found.brought.filter(state=state)
        allowed_here = {state.value for state in Brought.State if becomes in dict(Brought(state=state).choices)}
        meant.filter(state__in=allowed_here).update(becomes=becomes)
    if request.htmx:
        chosen = found.brought.exclude(becomes=Brought.Becomes.NOTHING).count()
        return render(request, "exchange/_chosen.html", {"chosen": chosen, "intake": found})
    return redirect("intake", pk)


@allowed("bank.add_question")
@require_POST
def with_intake(request: MemberRequest, pk: int) -> HttpResponse:
    """Take what was chosen of a file, stop what is being done, or put the file away."""
    found = intake_of(request, pk, "exchange.change_intake")
    match request.POST.get("do", ""):
        case "take":
            return take_file(request, found)
        case "stop" if found.job is not None and found.job.open:
            found.job.cancel()
            if found.job.kind == TAKING:
                messages.info(request, "Stopped. Nothing of the file was kept.")
                return redirect("intake", pk)
            found.put_away()
            messages.info(request, "Stopped. Nothing of the file was kept.")
            return redirect("bring")
        case "put-away" if found.stage != "working":
            found.put_away()
            return redirect("bring")
    return redirect("intake", pk)


def take_file(request: MemberRequest, found: Intake) -> HttpResponse:
    again = found.stage in {"failed", "stopped"} and found.job is not None and found.job.kind == TAKING
    chosen = found.brought.exclude(becomes=Brought.Becomes.NOTHING).count()
    if not (found.stage == "read" or again) or found.file_id is None:
        return redirect("intake", found.pk)
    typed = read_paths(request.POST.get("topics", ""))
    meant = topics_meant(typed, list(Tree(found.department).paths))
    if meant.doubts or not chosen:
        messages.error(request, meant.doubts[0] if meant.doubts else "Nothing is chosen of this file.")
        return redirect("intake", found.pk)
    with transaction.atomic():
        found.topics = written_paths(meant.paths)[:300]
        found.job = Job.order(TAKING, request.user, chosen, intake=found.pk)
        found.save(update_fields=["topics", "job"])
    return redirect("intake", found.pk)


# out


@allowed("bank.add_question")
@require_POST
def take_out(request: MemberRequest) -> HttpResponseBase:
    """Questions as a file: at once when they are few, by the worker when they are many."""
    search = Search.of(QueryDict(request.POST.get("asked", "")[:2_000]))
    try:
        chosen = chosen_questions(request, search)
    except Refused as refusal:
        messages.error(request, str(refusal))
        return redirect(f"{reverse('questions')}?{search.address}")
    way = "text" if request.POST.get("do") == "text" else "archive"
    outgoing = Outgoing(user=request.user, department=request.membership.department, way=way, questions=chosen)
    outgoing.save()
    if len(chosen) > AT_ONCE:
        outgoing.job = Job.order(WRITING, request.user, len(chosen), outgoing=outgoing.pk)
        outgoing.save(update_fields=["job"])
        return redirect("outgoing", outgoing.pk)
    write_now(outgoing)
    return redirect("outgoing", outgoing.pk) if outgoing.report else sent_file(request, outgoing)


def write_now(outgoing: Outgoing) -> None:
    with tempfile.TemporaryFile() as file:
        outgoing.report = written(outgoing, file, lambda number: None)
        outgoing.file_id = Stored.keep(file).digest
    outgoing.save(update_fields=["report", "file"])


def outgoing_of(request: MemberRequest, pk: int) -> Outgoing:
    return held(request, "exchange.view_outgoing", Outgoing.objects.select_related("job", "file"), pk=pk)


@member
@require_GET
def outgoing(request: MemberRequest, pk: int) -> HttpResponse:
    """How far a file on its way out is, and the file."""
    found = outgoing_of(request, pk)
    working = found.job is not None and found.job.open
    no_worker = working and not workers_live()
    context = {
        "outgoing": found,
        "job": found.job,
        "working": working,
        "no_worker": no_worker,
        "last_seen": last_seen() if no_worker else None,
    }
    if request.htmx and working:
        return render(request, "exchange/_writing.html", context)
    if request.htmx:
        return HttpResponse(status=204, headers={"HX-Refresh": "true"})
    return render(request, "exchange/outgoing.html", context)


@member
@require_POST
def stop_outgoing(request: MemberRequest, pk: int) -> HttpResponse:
    found = outgoing_of(request, pk)
    if found.job is not None:
        found.job.cancel()
    return redirect("questions")


@member
@require_GET
def outgoing_file(request: MemberRequest, pk: int) -> HttpResponseBase:
    return sent_file(request, outgoing_of(request, pk))


def sent_file(request: MemberRequest, found: Outgoing) -> HttpResponseBase:
    if found.file is None:
        return redirect("outgoing", found.pk)
    kind, suffix = ("application/zip", "zip") if found.way == "archive" else ("text/markdown; charset=utf-8", "md")
    name = f"questions-of-{found.department.name}-{found.created:%Y-%m-%d}.{suffix}"
    return sent(request, found.file, kind, name)
