"""Afterwards: changing a rule with its preview, undoing it, and what the sitting comes to."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import shown_marks
from vorlage.core.marking import STOPS
from vorlage.core.plans import TOLD_IN
from vorlage.core.questions import Unsound
from vorlage.core.sittings import COUNTING
from vorlage.web.bank.models import Question
from vorlage.web.design.tables import as_csv, as_workbook
from vorlage.web.forms.models import FormSetCandidate
from vorlage.web.jobs.models import workers_live
from vorlage.web.people.permissions import held, may, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.models import Sitting
from vorlage.web.sittings.questions import with_answers

from .asked_for import (
    HOW,
    ChangeRefused,
    answer_now,
    demands_of,
    fields_of,
    read_annulled,
    read_answer,
    read_bonus,
    read_counting,
    worth_of,
)
from .changing import Held, NotUndone, Preview, apply, preview, undo
from .models import Change
from .overview import Asked
from .places import part_of, sitting_to_mark
from .results import Told, as_shown, boundaries_now, cells_of, results_of, sum_cells_of, table_of
from .rulers import Rulers, rulers
from .stack import class_work, newest_mark
from .summed import shares_of, summed_table, sums_of
from .views import names_shown, writes_it

# What is typed about a change and holds in one sitting alone.
OWN_FIELDS = frozenset({"csrfmiddlewaretoken", "candidate", "hands", "lose", "forms"})


def sitting_to_change(request: MemberRequest, pk: int) -> Sitting:
    """A sitting whose rules this person may change."""
    among = Sitting.objects.select_related("test__department__school", "form_set", "author")
    return held(request, "sittings.change_sitting", among, by=request.user, pk=pk)


def asked_by(sitting: Sitting, typed: Mapping[str, str]) -> Asked:
    """The part that a change is about. Raises ``Http404``."""
    candidate = typed.get("candidate", "")
    if not (candidate.isdecimal() and len(candidate) < 18):
        raise Http404
    return part_of(sitting, int(candidate), typed.get("part", ""))


def read_change(sitting: Sitting, request: MemberRequest) -> tuple[Held, str, Asked | None]:
    """What would hold by what was typed, and in words. Raises ``ChangeRefused``."""
    typed = request.POST.dict()
    what = typed.get("what", "")
    if what == "counting":
        return *read_counting(sitting, typed), None
    asked = asked_by(sitting, typed)
    if what == "annul":
        chosen = typed.get("forms", "").replace(",", " ").split()
        return *read_annulled(sitting, asked, typed, chosen), asked
    if what == "bonus":
        return *read_bonus(sitting, asked, typed), asked
    return *read_answer(sitting, asked, typed), asked


@personally("sittings.list_sittings")
@require_GET
def change_part(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """What can be changed afterwards of a question."""
    sitting = sitting_to_change(request, pk)
    return change_page(request, sitting, part_of(sitting, candidate, part))


@personally("sittings.list_sittings")
@require_GET
def counting(request: MemberRequest, pk: int) -> HttpResponse:
    """How marks are counted together in a sitting."""
    return change_page(request, sitting_to_change(request, pk), None)


def change_page(
    request: MemberRequest, sitting: Sitting, asked: Asked | None, status: int = 200, **more: Any
) -> HttpResponse:
    """The page of a change, with its preview once there is one."""
    typed = request.POST.dict()
    context: dict[str, Any] = {
        "sitting": sitting, "station": "marking", "asked": asked, "typed": typed, "named": names_shown(request),
        "changes": sitting.changes.select_related("by", "undone_by")[:30],
    }  # fmt: skip
    if asked is not None:
        fields = fields_of(sitting, asked)
        own = sitting.changed.get("bonus", {}).get(str(asked.candidate.pk), asked.candidate.place.bonus)
        context |= {
            "fields": [(each, typed.get(each.name, each.value)) for each in fields], "how": HOW, "beyond": own,
            "demands": [
                (each, typed.get(each.name, "") if "demands" in typed else each.value)
                for each in demands_of(sitting, asked)
            ],
            "worth": worth_of(sitting, asked), "others": others_with(request, sitting, asked), "own_fields": OWN_FIELDS,
        }  # fmt: skip
    else:
        now, boundaries = sitting.counted_by, boundaries_now(sitting)
        context |= {
            "now": now, "stops": STOPS, "which": sitting.held.which, "counting": COUNTING.items(),
            "attempts": sitting.held.attempts != 1, "taking_part": as_typed(now.taking_part),
            "pass_share": as_typed(sitting.held.pass_share or Fraction(0)),
            "boundaries": "\n".join(f"{name} {least}" for name, least in boundaries.least),
            "told_in": typed.get("told_in", boundaries.told_in), "told": TOLD_IN,
            "pass_marks": shown_marks(sitting.held.pass_marks or Fraction(0)) or "", "sections": sections_now(sitting),
        }  # fmt: skip
    return render(request, "marking/change.html", context | more, status=status)


def sections_now(sitting: Sitting) -> list[tuple[str, str, str]]:
    """The sections of a sitting, where there are several: their field, title, and what is needed to pass."""
    titles = sitting.form_set.sections.values_list("title", flat=True)
    passes = sitting.held.section_passes
    return [
        (f"section_{k}", title or f"section {k + 1}", as_typed((passes[k] if k < len(passes) else None) or Fraction(0)))
        for k, title in enumerate(titles)
    ] if len(titles) > 1 else []  # fmt: skip


def as_typed(share: Fraction) -> str:
    return f"{float(share * 100):g}" if share else ""


def others_with(request: MemberRequest, sitting: Sitting, asked: Asked) -> list[tuple[Sitting, int]]:
    """Other sittings of this question in the same revision, each with the question as its form set took it: a change
    here does not touch them."""
    mine = Sitting.objects.run_by(request.user).exclude(pk=sitting.pk)
    revision = asked.candidate.revision_id
    others = list(mine.filter(form_set__places__candidates__revision=revision).distinct()[:20])
    among = FormSetCandidate.objects.filter(
        revision=revision, place__form_set__in=[each.form_set_id for each in others]
    )
    there = dict(among.order_by("-place__position", "-position").values_list("place__form_set", "pk"))
    return [(each, there[each.form_set_id]) for each in others]


@personally("sittings.list_sittings")
@require_POST
def show_change(request: MemberRequest, pk: int) -> HttpResponse:
    """What a change would move; nothing is stored."""
    sitting = sitting_to_change(request, pk)
    asked = None if request.POST.get("what") == "counting" else asked_by(sitting, request.POST.dict())
    try:
        after, words, asked = read_change(sitting, request)
    except ChangeRefused as problem:
        return change_page(request, sitting, asked, 422, refused=problem)
    found = preview(sitting, after, "hands" in request.POST)
    aligned = None
    if asked is not None and request.POST.get("what") == "answer":
        aligned = rulers(sitting, asked, after.changed)
    return change_page(
        request, sitting, asked, preview=found, words=words, aligned=aligned and drawn(aligned),
        **shown(sitting, found, request),
    )  # fmt: skip


def drawn(found: Rulers) -> dict[str, Any]:
    """Rulers as they are drawn: each row from where to where, on a line of 100."""
    rows = [
        {
            "y": 4 * k + 2, "way": row.way, "at": found.x(row.at), "typed": row.typed, "off": f"{row.at:+.2g}",
            "was": (found.x(row.was[0]), found.x(row.was[1])), "now": found.x(row.now[0]),
            "width": round(found.x(row.now[1]) - found.x(row.now[0]), 2),
        }
        for k, row in enumerate(found.rows)
    ]  # fmt: skip
    return {
        "rows": rows, "height": 4 * len(rows), "pixels": 8 * len(rows), "reach": f"{found.reach:.2g}",
        "more": found.more, "moving": sum(row.way != "stays" for row in found.rows),
    }  # fmt: skip


def shown(sitting: Sitting, found: Preview, request: MemberRequest) -> dict[str, Any]:
    """A preview as it is drawn: a line for everybody from what their total was to what it would be."""
    most = max([1.0, *(float(total.most) for each in found.people for total in (each.before, each.after))])
    named = names_shown(request)
    rows = []
    for number, each in enumerate(found.people, start=1):
        was, now = float(each.before.reached), float(each.after.reached)
        rows.append(
            {
                "person": each, "name": each.takings[-1].who if named else f"Student {number}",
                "was": as_shown(sitting, each.before.reached), "now": as_shown(sitting, each.after.reached),
                "y0": round(100 - 100 * was / most, 2), "y1": round(100 - 100 * now / most, 2),
                "way": "gains" if each.gain > 0 else "loses" if each.gain < 0 else "stays",
            }
        )  # fmt: skip
    crossing = [each.crosses for each in found.crossing]
    losers = "lose" in request.POST
    return {
        "rows": [row for row in rows if row["way"] == "loses"] if losers else rows, "crossing": crossing,
        "even": evenness(found),
    }  # fmt: skip


def evenness(found: Preview) -> list[str]:
    """What can be reached, where it is not the same for all."""
    return [f"{float(each):g}" for each in sorted(found.reach)] if len(found.reach) > 1 else []


@personally("sittings.list_sittings")
@require_POST
def make_change(request: MemberRequest, pk: int) -> HttpResponse:
    """Make a change: for all, for those who gain, or for those who are ticked; on record, and to be undone."""
    sitting = sitting_to_change(request, pk)
    asked = None if request.POST.get("what") == "counting" else asked_by(sitting, request.POST.dict())
    reason = " ".join(request.POST.get("reason", "").split())
    try:
        after, words, asked = read_change(sitting, request)
        if not reason:
            raise ChangeRefused("reason", "Say why: students whose marks move read it.")
    except ChangeRefused as problem:
        return change_page(request, sitting, asked, 422, refused=problem)
    whose = request.POST.get("whose", "all")
    some = {int(each) for each in request.POST.getlist("some") if each.isdecimal() and len(each) < 18}
    change = apply(sitting, after, request.user, words, reason, whose, some, "hands" in request.POST)
    count = len(change.marks)
    messages.success(request, f"{change.words}. {count} mark{'s moved' if count != 1 else ' moved'}.")
    if "next_revision" in request.POST and asked is not None:
        offer_revision(request, sitting, asked, reason)
    if asked is None:
        return redirect("counting", pk)
    return redirect(reverse("change-part", args=[pk, asked.candidate.pk, asked.part]))


def offer_revision(request: MemberRequest, sitting: Sitting, asked: Asked, reason: str) -> None:
    """Keep the changed answer as the question's next revision as well."""
    question = asked.candidate.revision.question
    if not writes_it(request, question):
        messages.warning(request, "The question itself is another department's, and stays as it is.")
        return
    sitting.refresh_from_db()
    try:
        document = with_answers(question.newest.document, {asked.part: answer_now(sitting, asked)})
        note = f"From marking: {reason}"[:200]
        kept = Question.save_revision(question.department, request.user, document, question.filing, question, note=note)
    except (Unsound, ValueError) as problem:
        messages.warning(request, f"The question itself stays as it is: {problem}")
        return
    messages.success(request, f"It is revision {kept.number} of the question too.")


@personally("sittings.list_sittings")
@require_POST
def undo_change(request: MemberRequest, pk: int) -> HttpResponse:
    """Undo a change; marks that somebody gave since stay."""
    sitting = sitting_to_change(request, pk)
    which = request.POST.get("change", "")
    change = get_object_or_404(Change, sitting=sitting, pk=int(which) if which.isdecimal() and len(which) < 18 else 0)
    try:
        count = undo(change, request.user)
        messages.success(request, f"Undone: {change.words}. {count} mark{'s are' if count != 1 else ' is'} as before.")
    except NotUndone as problem:
        messages.warning(request, str(problem))
    return redirect("counting", pk)


@personally("sittings.list_sittings")
@require_GET
def results(request: MemberRequest, pk: int) -> HttpResponse:
    """Everybody's marks and totals, with names or covered."""
    sitting = sitting_to_mark(request, pk)
    found = results_of(sitting)
    covered, told = "covered" in request.GET, Told(sitting.test.department.habits)
    rows = sorted(found.rows, key=lambda row: row.taking.receipt) if covered else found.rows
    work = class_work(sitting)
    waits = work is not None and work.job.open
    shares = shares_of(sitting, found)
    context = {
        "sitting": sitting, "station": "marking", "found": found, "covered": covered,
        "rows": [(number, row, cells_of(row, told)) for number, row in enumerate(rows, start=1)],
        "graded": any(row.grade for row in rows),
        "waiting": sum(row.total.waiting for row in rows), "unreadable": sum(row.total.unreadable for row in rows),
        "runs": may(request.user, "sittings.change_sitting", sitting), "class_work": work,
        "moved_since": work is not None and work.upto < newest_mark(sitting), "no_worker": waits and not workers_live(),
        "missing": missing_in(sitting), "shares": shares,
        "summed": [
            (k, row, sum_cells_of(sums_of(row, shares, sitting), told)) for k, row in enumerate(rows, start=1)
        ],
    }  # fmt: skip
    return render(request, "marking/results.html", context)


def missing_in(sitting: Sitting) -> list[str]:
    """Who has no result, in words: a check before results are released."""
    takings = list(sitting.takings.counted().current().filter(handed_in=None).values_list("begun", "absent", "form"))
    absent = sum(absent or (begun is None and not sitting.held.on_paper) for begun, absent, _ in takings)
    working = sum(begun is not None and not absent for begun, absent, _ in takings)
    keyed = sum(begun is None and not absent and form is not None for begun, absent, form in takings)
    formless = sum(not absent and form is None for _, absent, form in takings)
    told = [
        (working, "still works", "still work"),
        (absent, "was not there", "were not there"),
        (keyed if sitting.held.on_paper else 0, "paper is not keyed in", "papers are not keyed in"),
        (formless if sitting.held.on_paper else 0, "has no form", "have no form"),
    ]
    return [f"{count} {one if count == 1 else many}" for count, one, many in told if count]


@personally("sittings.list_sittings")
@require_GET
def results_table(request: MemberRequest, pk: int, kind: str) -> HttpResponse:
    """The results to take away, with names or without."""
    sitting = sitting_to_mark(request, pk)
    if kind not in {"csv", "xlsx"}:
        raise Http404
    found, named = results_of(sitting), "covered" not in request.GET
    table = table_of(sitting, found, named)
    summed = {} if kind == "csv" else {"Sections and topics": summed_table(sitting, found, named)}
    sheets = {"Results": table} | {name: rows for name, rows in summed.items() if rows}
    content, media = as_csv(table) if kind == "csv" else as_workbook(sheets)
    answer = HttpResponse(content, content_type=media)
    answer["Content-Disposition"] = f'attachment; filename="results-{sitting.pk}.{kind}"'
    return answer
