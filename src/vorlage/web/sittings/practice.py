"""Practice: one question at a time with fresh numbers, checked at once, and nothing of it in any mark."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from fractions import Fraction
from functools import wraps
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.db.models import Count, Max, Q, QuerySet
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.http.request import RawPostDataException
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.forms import NoFreshDraw
from vorlage.core.marking import marked, went
from vorlage.web.forms.models import FormItem, FormSetCandidate
from vorlage.web.people.requests import MemberRequest

from .fresh import fresh_columns
from .here import Here, address_of, at_sitting
from .marking import Returned, returned, returned_part
from .models import Practised, Sitting
from .questions import drawn_of
from .road import LONGEST, is_empty, readings_of, without_nulls
from .student import SheetLook, practises, rows_seen, start_page

# So many fresh draws a minute one may have, so many of the last ones are not had again, and so much is sent at most.
A_MINUTE, REMEMBERED, MOST_SENT = 20, 500, 60_000
# What a question came to, the worst first.
WENT = {"wrong": "not right", "partly": "partly right", "right": "right"}

TRIED = Count("pk", filter=Q(checks__gt=0))
RIGHT = Count("pk", filter=Q(right=True))

View = Callable[..., HttpResponseBase]


def practising(view: View) -> View:
    """For whoever may practise now; anybody else is told what holds."""

    @at_sitting
    @wraps(view)
    def guarded(request: MemberRequest, here: Here, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if not practises(here):
            return redirect("sit", here.sitting.pk)
        if not here.tries and not here.sitting.held.admits(address_of(request)):
            return start_page(request, here, 403)
        return view(request, here, *args, **kwargs)

    return guarded


@dataclass
class Row:
    """A question that can be practised: how it went when it was sat, and how often it was practised since."""

    number: int
    candidate: FormSetCandidate
    drawn: int = 0
    right: int = 0
    went: str = ""
    # where it stands on their own paper, from 1, and of each part its label and the worked solution of their numbers
    position: int = 0
    solutions: list[tuple[str, Returned]] = field(default_factory=list)

    @property
    def went_words(self) -> str:
        return WENT.get(self.went, "")


def mine(here: Here) -> QuerySet[Practised]:
    """What somebody has practised with in this sitting, the last first."""
    return Practised.objects.of(here.sitting, here.student, here.taking)


def question_of(here: Here, pk: int) -> FormSetCandidate:
    among = FormSetCandidate.objects.select_related("place__form_set", "revision")
    return get_object_or_404(among, pk=pk, place__form_set=here.sitting.form_set_id)


@require_GET
@practising
def practice(request: MemberRequest, here: Here) -> HttpResponse:
    """What there is to practise: first what did not go well."""
    among = FormSetCandidate.objects.filter(place__form_set=here.sitting.form_set_id).select_related("revision")
    among = among.defer("revision__document", "revision__sheet").order_by("place__position", "position")
    counted = mine(here).order_by().values("candidate").annotate(tried=TRIED, went_right=RIGHT)
    counts = {each["candidate"]: (each["tried"], each["went_right"]) for each in counted}
    rows = []
    for number, candidate in enumerate(among, start=1):
        rows.append(Row(number, candidate, *counts.get(candidate.pk, (0, 0))))
    look_back(request, here, {row.candidate.pk: row for row in rows})
    to_mend = [row for row in rows if row.went in {"wrong", "partly"}]
    others = [row for row in rows if row not in to_mend]
    context = {"sitting": here.sitting, "here": here, "to_mend": to_mend, "others": others}
    return render(request, "sittings/practice.html", context)


def look_back(request: MemberRequest, here: Here, rows: Mapping[int, Row]) -> None:
    """Say of each question how it went when it was sat, with the worked solution: what may be seen now, and no more."""
    if here.taking is None or here.taking.handed_in is None:
        return
    seen = rows_seen(request, here, here.taking)
    if not seen & {"outcome", "marks"}:
        return
    back, _ = returned(here.taking, seen)
    items = FormItem.objects.filter(form=here.taking.form_id).values_list(
        "position", "candidate", "for_students__shown"
    )
    for position, candidate, shown in items:
        row, parts = rows.get(candidate), back.get(position, {})
        if row is None or not parts:
            continue
        row.position, row.went = position + 1, went({part.outcome for part in parts.values()})
        labels = {part["id"]: part["label"] for part in (shown or {}).get("parts", ())}
        row.solutions = [(labels.get(name, ""), part) for name, part in parts.items() if part.solution]


@require_POST
@practising
def draw(request: MemberRequest, here: Here, question: int) -> HttpResponse:
    """Fresh numbers for a question."""
    candidate, own = question_of(here, question), mine(here)
    if own.filter(made__gt=timezone.now() - timedelta(minutes=1)).count() >= A_MINUTE:
        messages.warning(request, "These are many in a minute. Look at one more closely, then go on.")
        return redirect("practice", here.sitting.pk)
    try:
        made = fresh(here, candidate)
    except NoFreshDraw:
        messages.warning(request, "No numbers could be drawn for this question. Tell your teacher.")
        return redirect("practice", here.sitting.pk)
    # what was laid out for the ones before is not looked at again
    own.filter(candidate=candidate).exclude(shown={}).update(shown={}, readers={}, hints={})
    made.save()
    return redirect("practise", here.sitting.pk, question)


def fresh(here: Here, candidate: FormSetCandidate) -> Practised:
    """A draw that is on no form of the set, and that they have not practised with. Raises ``NoFreshDraw``."""
    before = mine(here).filter(candidate=candidate).values_list("values", flat=True)[:REMEMBERED]
    taking = None if here.student is not None else here.taking
    return Practised(
        sitting=here.sitting, student=here.student, taking=taking, **fresh_columns(candidate, before)
    )  # fmt: skip


@require_GET
@practising
def practise(request: MemberRequest, here: Here, question: int) -> HttpResponse:
    """A question with the numbers that were drawn last; what was checked of it, and the key once it was shown."""
    candidate = question_of(here, question)
    row = mine(here).filter(candidate=candidate).first()
    if row is None:
        return redirect("practice", here.sitting.pk)
    drawn = drawn_of(candidate.place.form_set, candidate.revision_id, row.frozen_draw)
    came = {
        part.id: returned_part(drawn, k, TOLD if row.told else frozenset(), **said_of(row.outcomes.get(part.id, {})))
        for k, part in enumerate(drawn.question.document.parts)
        if part.answer.asks and (row.outcomes or row.told)
    }
    rules = here.sitting.held
    look = SheetLook("all", True, here.has("spoken_maths"), rules.signs, not row.told, False, False, False)
    helped = rules.hints or rules.practice != "only"
    parts = [part for part in row.shown["parts"] if helped and row.hints.get(part["id"])]
    context = {
        "sitting": here.sitting, "here": here, "candidate": candidate, "row": row, "look": look, "came": came,
        "item": {"position": 0, "shown": row.shown}, "aloud": look.aloud,
        "hints": [(part["label"], row.hints[part["id"]]) for part in parts],
        "checked": CHECKED,
        "by_nobody": not row.told and any(each.outcome == "waiting" for each in came.values()),
        "larger": here.has("larger_letters"), "wider": here.has("wider_lines"),
        "data": {
            "answers": row.answers,
            "told": row.told,
            "readings": {name: readings_of(row.readers.get(name, []), said) for name, said in row.answers.items()},
        },
    }  # fmt: skip
    return render(request, "sittings/practise.html", context)


# What is seen of numbers that are checked, and of those whose key is shown.
CHECKED, TOLD = frozenset({"outcome", "marks"}), frozenset({"key", "solution"})


def said_of(outcome: Mapping[str, Any]) -> dict[str, Any]:
    """What is kept of a part as it is said of it."""
    return {name: Fraction(value) if name in {"marks", "most"} else value for name, value in outcome.items()}


@require_POST
@practising
def check(request: MemberRequest, here: Here, question: int) -> HttpResponse:
    """What the answers come to: at once, as often as one likes, until the key is shown."""
    answers = sent_answers(request.POST.get("answers", ""))
    with transaction.atomic():
        row = held_row(here, question)
        if row is not None and not row.told:
            if all(is_empty(each) for each in answers.values()):
                messages.warning(request, "Nothing stands there yet. Answer, then check it.")
            else:
                keep_check(row, answers)
    return redirect("practise", here.sitting.pk, question)


def keep_check(row: Practised, answers: Mapping[str, Any]) -> None:
    """Keep answers with what they come to; what is right throughout shows its solution."""
    drawn = drawn_of(row.candidate.place.form_set, row.candidate.revision_id, row.frozen_draw)
    parts = drawn.question.document.parts
    found = marked(drawn, [answers.get(part.id) for part in parts], [Fraction(each) for each in row.worth])
    asked = {part.id: each for part, each in zip(parts, found) if part.answer.asks}
    row.answers = {name: answers[name] for name in asked if name in answers}
    row.outcomes = {
        name: {
            "outcome": each.outcome,
            "marks": str(each.marks),
            "most": str(each.most),
            "feedback": list(each.feedback),
        }
        for name, each in asked.items()
    }
    # what is empty or cannot be read is no try
    row.checks += any(each.outcome not in {"blank", "unreadable"} for each in asked.values())
    row.right = all(each.outcome == "right" for each in asked.values())
    row.told = row.right
    row.save(update_fields=["answers", "outcomes", "checks", "right", "told"])


@require_POST
@practising
def show(request: MemberRequest, here: Here, question: int) -> HttpResponse:
    """Show the key and the worked solution of these numbers; they are not checked any more."""
    with transaction.atomic():
        row = held_row(here, question)
        if row is not None:
            row.told = True
            row.save(update_fields=["told"])
    return redirect("practise", here.sitting.pk, question)


@require_POST
@practising
def read(request: MemberRequest, here: Here, question: int) -> HttpResponse:
    """How an answer is read while it is typed; nothing is kept."""
    row = mine(here).filter(candidate=question).first()
    return read_by(request, None if row is None else row.readers)


def read_by(request: HttpRequest, readers: Mapping[str, Any] | None) -> JsonResponse:
    """How the answer to a part is read that a page sends, by the readers of its parts."""
    try:
        said = json.loads(request.body)
        part, response = said["p"], said["r"]
    except (ValueError, RecursionError, KeyError, TypeError, RawPostDataException):
        return JsonResponse({"read": []}, status=400)
    if readers is None or not isinstance(part, str) or len(request.body) > LONGEST:
        return JsonResponse({"read": []}, status=400)
    return JsonResponse({"read": readings_of(readers.get(part, []), response)})


def held_row(here: Here, question: int) -> Practised | None:
    """The numbers that somebody practises with, which nothing else changes until the transaction ends."""
    among = mine(here).select_for_update(of=("self",)).select_related("candidate__place__form_set")
    return among.filter(candidate=question).first()


def sent_answers(text: str) -> dict[str, Any]:
    """The answers that a page sent, by part; none where they are not what a page sends."""
    if len(text) > MOST_SENT:
        return {}
    try:
        found = json.loads(text or "{}")
    except (ValueError, RecursionError):
        return {}
    if not isinstance(found, dict):
        return {}
    kept = {name: said for name, said in found.items() if not is_nested(said)}
    return {name: without_nulls(said) for name, said in kept.items() if len(json.dumps(said)) <= LONGEST}


def is_nested(response: Any, deep: int = 2) -> bool:
    """Whether a response is nested deeper than any answer is: a list of places is as deep as it goes."""
    if not isinstance(response, list | dict):
        return False
    members = response.values() if isinstance(response, dict) else response
    return deep == 0 or any(is_nested(each, deep - 1) for each in members)


@dataclass(frozen=True, slots=True)
class Practice:
    """How much a question was practised, by how many."""

    title: str
    people: int
    drawn: int
    right: int


def practice_of(sitting: Sitting) -> list[Practice]:
    """How much of a sitting was practised, question by question; what teachers tried is not among it."""
    rows = sitting.practised.filter(Q(taking=None) | Q(taking__tried_by=None)).filter(checks__gt=0).order_by()
    people = Count("student", distinct=True) + Count("taking", distinct=True)
    place = Max("candidate__place__position")
    found = rows.values("candidate", "candidate__revision__title").annotate(
        place, people=people, drawn=Count("pk"), went_right=RIGHT
    )
    return [
        Practice(each["candidate__revision__title"], each["people"], each["drawn"], each["went_right"])
        for each in found.order_by("candidate__place__position__max", "candidate")
    ]
