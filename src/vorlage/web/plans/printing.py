"""How the papers of a test look: what is chosen, beside the paper itself, typeset before any form is made."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, field

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.documents import Heading, Look, Printing, page_count, page_picture
from vorlage.core.errors import CoreError
from vorlage.core.forms import Chosen, Outlines, drawn_forms
from vorlage.core.plans import Place, Plan, Section
from vorlage.web.bank.models import Revision
from vorlage.web.files.models import Stored
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn

from .forms import LookForm
from .looking import SECONDS, STEPS, chosen_for
from .models import Candidate, Held, SchoolMark, Test, room_of
from .views import test_of

# So many questions of a test, and so many pages of its paper, are shown at most.
QUESTIONS, PAGES, NO_SET = 40, 8, 0


@dataclass
class Shown:
    """The pages of a paper as data addresses of pictures, and how many there are; why there are none."""

    pages: list[str] = field(default_factory=list)
    count: int = 0
    trouble: str = ""
    cut: bool = False


@member
@require_GET
def paper(request: MemberRequest, pk: int) -> HttpResponse:
    """What is chosen for the papers of a test, beside the paper."""
    found = test_of(request, pk)
    return page(request, found, LookForm(initial=asdict(Look.of(found.look))))


@member
@require_POST
def keep_look(request: MemberRequest, pk: int) -> HttpResponse:
    """Keep how the papers of a test look: a step that can be taken back in the plan."""
    found = test_of(request, pk, "plans.change_test")
    form = LookForm(request.POST)
    if not form.is_valid():
        return page(request, found, form, 422)
    with found.changing(request.user, "Changed how papers look"):
        found.look = Look(**form.cleaned_data).kept
        found.save(update_fields=["look"])
    return redirect("test-paper", found.pk)


def page(request: MemberRequest, found: Test, form: LookForm, status: int = 200) -> HttpResponse:
    if SchoolMark.of(found.department.school_id) is None:
        form.fields["mark"].help_text = "The school has none yet: its administrator gives it one."
    context = {"test": found, "form": form}
    return render(request, "plans/paper.html", context, status=status)


@member
@require_GET
@in_turn
def paper_pages(request: MemberRequest, pk: int) -> HttpResponse:
    """The pages of a paper as the choices on the page have it, kept or not: what is printed looks like this."""
    found = test_of(request, pk)
    form = LookForm(request.GET) if request.GET else None
    if form is not None and not form.is_valid():
        return HttpResponse(status=204)
    look = Look.of(found.look) if form is None else Look(**form.cleaned_data)
    return render(request, "plans/_paper_pages.html", {"shown": shown(request, found, look), "test": found})


def shown(request: MemberRequest, found: Test, look: Look) -> Shown:
    """A paper of the test with the numbers of one draw, typeset as forms are."""
    places = found.ordered()
    every = list(asked(places, found.pk))
    chosen = every[:QUESTIONS]
    if not chosen:
        return Shown(trouble="There are no questions in this test yet.")
    documents = Revision.objects.select_related("question").in_bulk([each.revision_id for _, each in chosen])
    habits = request.membership.department.habits
    try:
        with budgeted(STEPS, SECONDS):
            held, draws = [], []
            for place, each in chosen:
                revision = documents[each.revision_id]
                question = revision.compiled(habits, found.in_order)
                where = place.place
                key = str(revision.question.key)
                held.append(
                    Place(question, key, revision.number, marks=where.marks, bonus=where.bonus, room=room_of(where))
                )
                draws.append(each.draw or 1)
            plan = Plan(found.title, held, found.instructions, habits, sections_of(chosen), found.across)
            outlines = Outlines((tuple(Chosen(k, 0, draw, k) for k, draw in enumerate(draws)),))
            form = next(drawn_forms(plan, outlines, "paper", [0]))
            # no set has the number that the codes of its pages name
            mark = SchoolMark.of(found.department.school_id) if look.mark else None
            emblem = mark.emblem if mark else None
            heading = Heading(
                found.title, found.department.heads_papers, found.instructions, NO_SET, look, emblem=emblem
            )
            pdf = Printing(plan, heading, lambda digest: Stored.objects.get(pk=digest).read()).papers([form])
    except CoreError as problem:
        return Shown(trouble=problem.message)
    except OutOfBudget as problem:
        return Shown(trouble=str(problem))
    count = page_count(pdf)
    pages = [page_picture(pdf, number) for number in range(1, min(count, PAGES) + 1)]
    addresses = ["data:image/png;base64," + base64.b64encode(each).decode() for each in pages]
    return Shown(addresses, count, cut=len(every) > QUESTIONS)


def asked(places: Sequence[Held], pk: int) -> Iterator[tuple[Held, Candidate]]:
    """The questions that a form could have, each with its place."""
    found = chosen_for(places, pk, 1)
    yield from ((held, each) for held in places for each in found[held.pk])


def sections_of(chosen: Sequence[tuple[Held, Candidate]]) -> list[Section]:
    """The sections, each from the number of its first question on."""
    found: list[Section] = []
    before = None
    for number, (held, _) in enumerate(chosen):
        said = held.section
        if said.pk != before:
            before = said.pk
            found.append(Section(number, said.title, said.text, said.calculator, said.new_page, said.mixed))
    return found
