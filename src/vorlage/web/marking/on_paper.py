"""Answers that were given on paper, keyed in by form and student: a row of letters, the answers themselves, or marks.
They are checked like any others. Two may key the same paper, and are shown where they differ."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.marking import MarkRefused, read_given_marks
from vorlage.web.forms.models import Form
from vorlage.web.people.models import User
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.marking import mark, total
from vorlage.web.sittings.models import Response, Sitting, StudentItem, Taking

from .giving import Given, give
from .models import Keyed
from .places import sitting_to_mark

# Where keyed answers say that they come from.
KEYED = "keyed-in"
# What cannot be typed: what is written at length, or marked in a figure.
BY_MARKS = frozenset({"ruled", "places"})
LETTERS = re.compile(r"[A-Za-z]|[-–.]")


@dataclass(frozen=True)
class Asked:
    """A part on a form as it is keyed: where it stands, what was typed, what another person typed, its mark."""

    position: int
    part: Mapping[str, Any]
    typed: str
    other: str | None = None
    mark: Any = None

    @property
    def name(self) -> str:
        return f"{self.position}-{self.part['id']}"

    @property
    def number(self) -> str:
        return f"{self.position + 1} {self.part['label']}".strip()

    @property
    def by_marks(self) -> bool:
        """Whether nothing but marks can be keyed: of what is written at length, or drawn."""
        return self.part["shape"] in BY_MARKS

    @property
    def how(self) -> str:
        """How it is typed."""
        return {
            "options": "A, or A C" if self.part.get("many") else "A", "pairs": "1B 2A 3C", "items": "C A B",
            "words": " or ".join(self.part.get("words") or ()), "gaps": "a; b; c",
        }.get(self.part["shape"], "")  # fmt: skip


def paper_sitting(request: MemberRequest, pk: int) -> Sitting:
    """A sitting on paper that this person marks. Raises ``Http404`` for one on screens."""
    sitting = sitting_to_mark(request, pk)
    if not sitting.held.on_paper:
        raise Http404
    return sitting


@personally("sittings.list_sittings")
@require_GET
def papers(request: MemberRequest, pk: int) -> HttpResponse:
    """Whose papers are keyed in, and whose are not."""
    sitting = paper_sitting(request, pk)
    takings = list(sitting.takings.counted().current().select_related("student", "form").prefetch_related("keyed__by"))
    takings.sort(key=lambda each: each.who)
    rows = [(each, [keyed.by.name for keyed in each.keyed.all()]) for each in takings]
    nxt = next((each for each, keyed in rows if not keyed and not each.absent), None)
    context = {"sitting": sitting, "station": "marking", "rows": rows, "next": nxt}
    return render(request, "marking/papers.html", context)


def taking_of(sitting: Sitting, pk: int) -> Taking:
    found = sitting.takings.counted().current().select_related("student", "form").filter(pk=pk).first()
    if found is None:
        raise Http404
    found.sitting = sitting
    return found


@personally("sittings.list_sittings")
@require_GET
def one_paper(request: MemberRequest, pk: int, taking: int) -> HttpResponse:
    """The paper of one student, to be keyed in."""
    sitting = paper_sitting(request, pk)
    return paper_page(request, sitting, taking_of(sitting, taking))


def paper_page(
    request: MemberRequest, sitting: Sitting, taking: Taking, status: int = 200, **more: Any
) -> HttpResponse:
    form = more.pop("form", None) or taking.form
    typed: Mapping[str, str] = more.pop("typed", None) or typed_by(taking, request.user)
    others = taking.keyed.exclude(by=request.user).select_related("by", "form").last()
    differences = others.answers if others is not None and more.get("compare") else None
    marks = {(each.position, each.part): each for each in taking.marks()} if taking.marked is not None else {}
    order = list(
        sitting.takings.counted().current().order_by("student__search_text", "pk").values_list("pk", flat=True)
    )
    k = order.index(taking.pk)
    asked = [
        Asked(
            item.position, part, typed.get(f"{item.position}-{part['id']}", ""),
            differs(differences, typed, f"{item.position}-{part['id']}"), marks.get((item.position, part["id"])),
        )
        for item in sheets(form)
        for part in item.shown["parts"]
        if part["shape"] != "nothing"
    ]  # fmt: skip
    context = {
        "sitting": sitting, "station": "marking", "taking": taking, "asked": asked, "form": form,
        "by_row": sum(each.part["shape"] == "options" and not each.part.get("many") for each in asked),
        "total": total(taking, list(marks.values())) if marks else None, "other": others,
        "before": order[k - 1] if k else None, "after": order[k + 1] if k + 1 < len(order) else None,
    } | more  # fmt: skip
    return render(request, "marking/paper.html", context, status=status)


def differs(other: Mapping[str, str] | None, typed: Mapping[str, str], name: str) -> str | None:
    """What another person typed in a place, where it is not the same."""
    if other is None or " ".join(other.get(name, "").split()) == " ".join(typed.get(name, "").split()):
        return None
    return other.get(name, "")


def sheets(form: Form | None) -> Sequence[StudentItem]:
    return list(StudentItem.objects.filter(form=form).order_by("position")) if form is not None else []


def typed_by(taking: Taking, by: User) -> Mapping[str, str]:
    """What somebody keyed of a paper before; what holds where they have not."""
    own = taking.keyed.filter(by=by).first()
    return own.answers if own is not None else {}


@personally("sittings.list_sittings")
@require_POST
def key_paper(request: MemberRequest, pk: int, taking: int) -> HttpResponse:
    """Keep what was keyed of a paper, check it, and go on with the next one."""
    sitting = paper_sitting(request, pk)
    found = taking_of(sitting, taking)
    code = request.POST.get("code", "").strip().upper()
    form = sitting.form_set.forms.filter(code=code).first()
    typed = {name[2:]: str(text).strip()[:2000] for name, text in request.POST.items() if name.startswith("a-")}
    if form is None:
        told = f"No form of this sitting has the code “{code[:8]}”: it stands at the foot of the paper."
        return paper_page(request, sitting, found, 422, typed=typed, refused=told)
    try:
        typed = with_letters(form, typed, request.POST.get("letters", ""))
        given = marks_in(request, sitting, form)
    except MarkRefused as problem:
        return paper_page(request, sitting, found, 422, typed=typed, form=form, refused=str(problem))
    other = found.keyed.exclude(by=request.user).last()
    Keyed.objects.update_or_create(taking=found, by=request.user, defaults={"form": form, "answers": typed})
    differ = other is not None and (
        other.form_id != form.pk or any(differs(other.answers, typed, n) is not None for n in typed)
    )
    if differ and "settled" not in request.POST:
        return paper_page(request, sitting, found, 409, typed=typed, form=form, compare=True)
    keep(found, form, typed, given, request.user)
    messages.success(request, f"{found.full_name} is keyed in.")
    return redirect("paper-to-key", pk, found.pk)


def with_letters(form: Form, typed: dict[str, str], letters: str) -> dict[str, str]:
    """Answers with a row of letters put into the places of single choices, in their order; ``-`` leaves one out. Raises
    ``MarkRefused``."""
    row = LETTERS.findall(letters)
    if not row:
        return typed
    places = [
        f"{item.position}-{part['id']}"
        for item in sheets(form)
        for part in item.shown["parts"]
        if part["shape"] == "options" and not part.get("many")
    ]
    if len(row) != len(places):
        raise MarkRefused(
            f"The row has {len(row)} letters, and this form asks for {len(places)}: type - for an empty one."
        )
    return typed | {name: "" if letter in "-–." else letter.upper() for name, letter in zip(places, row)}


def marks_in(request: MemberRequest, sitting: Sitting, form: Form) -> dict[tuple[int, str], Fraction]:
    """The marks that were keyed in place of an answer. Raises ``MarkRefused``."""
    found = {}
    for item in sheets(form):
        for part in item.shown["parts"]:
            text = request.POST.get(f"m-{item.position}-{part['id']}", "").strip()
            if text:
                most = Fraction(part["marks"] or 0)
                try:
                    found[item.position, part["id"]] = read_given_marks(text, most, sitting.test.department.mark_step)
                except MarkRefused as problem:
                    raise MarkRefused(
                        f"Question {item.position + 1} {part['label']}: {problem}".replace(" :", ":")
                    ) from None
    return found


@transaction.atomic
def keep(
    taking: Taking, form: Form, typed: Mapping[str, str], given: Mapping[tuple[int, str], Fraction], by: User
) -> None:
    """Let keyed answers be those of a student, mark them by the rules, and give what was keyed as marks."""
    locked = Taking.locked(pk=taking.pk)
    now = timezone.now()
    if locked.form_id != form.pk:
        last = Response.objects.filter(taking=locked).order_by("pk").last()
        locked.form_id, locked.since = form.pk, last.pk if last is not None else 0
    locked.begun = locked.begun or locked.sitting.held.opens
    locked.handed_in, locked.absent, locked.marked = locked.handed_in or now, False, None
    locked.save()
    there, rows = locked.answers(), []
    number = Response.objects.filter(taking=locked, tab=KEYED).count()
    for item in sheets(form):
        for part in item.shown["parts"]:
            if part["shape"] == "nothing":
                continue
            answer = as_answered(part, typed.get(f"{item.position}-{part['id']}", ""))
            if there.get((item.position, part["id"])) != answer:
                number += 1
                rows.append(
                    Response(
                        taking=locked, position=item.position, part=part["id"], response=answer, tab=KEYED,
                        number=number, arrived=now, counts=True,
                    )
                )  # fmt: skip
    Response.objects.bulk_create(rows)
    locked.sitting.note("keyed in", by, locked)
    mark(locked)
    for (position, name), marks in given.items():
        give(locked.sitting, name, [(locked.pk, position)], Given(by, marks, "keyed in"))


def as_answered(part: Mapping[str, Any], text: str) -> Any:
    """A keyed answer as a student's page would send it."""
    shape = part["shape"]
    if shape in BY_MARKS:
        # somebody has to look at the paper
        return "on paper"
    if not text:
        return ""
    if shape == "options":
        letters = [each.upper() for each in re.findall(r"[A-Za-z]", text)]
        return letters if part.get("many") else "".join(letters[:1]) if letters else text
    if shape == "pairs":
        return {left: right.upper() for left, right in re.findall(r"(\d+)\s*[-:]?\s*([A-Za-z])", text)}
    if shape == "items":
        return ", ".join(each.upper() for each in re.findall(r"[A-Za-z]", text))
    if shape == "gaps":
        return [piece.strip() for piece in text.split(";")]
    return text
