"""Drafts: what stands on a desk is kept as one types, and what was overtaken on its way changes nothing."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from vorlage.web.bank.models import Question
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed, held
from vorlage.web.people.requests import MemberRequest

from .form import Desk
from .models import Draft, Ending, Stroke, desk_held
from .posted import Posted, is_as_kept
from .rows import PartRow


def own_drafts(request: MemberRequest) -> QuerySet[Draft]:
    return Draft.objects.filter(user=request.user, department=request.membership.department)


def stroke_of(request: MemberRequest) -> Stroke:
    """How far the desk had been written when this was sent."""
    return Stroke(request.POST.get("leaf", "")[:16], chosen_number(request.POST.get("stroke", "")))


def keep_draft(request: MemberRequest, posted: Posted, changed: bool) -> bool:
    """Keep what stands on the desk, and say whether it was; an unchanged question needs no draft, nor does an empty
    desk. What was overtaken on its way, by a save or by what was typed later, changes nothing."""
    desk, found = posted.desk, posted.question
    stroke, draft_key = stroke_of(request), uuid.UUID(posted.key)
    base = chosen_number(request.POST.get("base", ""))
    with desk_held(draft_key):
        if Ending.of(request.user, draft_key, stroke):
            return False
        kept = own_drafts(request).filter(key=draft_key)
        own, opened = kept.filter(leaf=stroke.leaf), kept.filter(pk__in=covered(request)).exclude(leaf=stroke.leaf)
        if stroke.leaf and own.filter(stroke__gt=stroke.number).exists():
            return True
        now = Question.objects.of(request.membership).select_related("current").filter(key=draft_key).first()
        if now is not None and (found is None or now.latest != found.latest):
            # saved since this was read
            changed = not is_as_kept(now, desk)
        if now is not None and base < now.latest:
            # what is typed after one's own save goes on from there
            base = max(base, Ending.saved_number(request.user, draft_key, stroke.leaf))
        if now is None and not worth_keeping(request, desk):
            return False
        if not changed:
            own.delete()
            opened.delete()
            return False
        begun = begun_with(opened)
        Draft.objects.update_or_create(
            user=request.user,
            key=draft_key,
            leaf=stroke.leaf,
            defaults=({"begun": begun} if begun else {})
            | {
                "department": request.membership.department,
                "question": now,
                "base": base,
                "title": desk.title[:200],
                "fields": desk.as_draft(),
                "stroke": stroke.number,
            },
        )
        # what the page was opened with is in what it sent
        opened.delete()
    return True


# So many pages are remembered of which a draft has something.
MOST_BEGUN = 6


def begun_with(drafts: Iterable[Draft]) -> dict[str, Any]:
    """What a page that was opened with these drafts has of each page, by their names."""
    found: dict[str, Any] = {}
    for draft in drafts:
        found |= draft.begun | {draft.leaf: draft.fields}
    return dict(list(found.items())[-MOST_BEGUN:])


def covered(request: MemberRequest) -> list[int]:
    """The drafts with which a page was opened."""
    return [number for each in request.POST.get("covers", "").split(",")[:20] if (number := chosen_number(each))]


def one_of_each(drafts: Iterable[Draft]) -> list[Draft]:
    """The newest draft of each desk, in their order."""
    found: dict[uuid.UUID, Draft] = {}
    for draft in drafts:
        found.setdefault(draft.key, draft)
    return list(found.values())


def worth_keeping(request: MemberRequest, desk: Desk) -> bool:
    """Whether something was typed on the desk of a new question, more than looked at."""
    typed = desk.title.strip() or desk.wording.strip() or desk.used_parameters() or desk.used_conditions()
    blank = PartRow().raw()["answer"]
    parts = any(part.wording.strip() or part.solution.strip() or part.raw()["answer"] != blank for part in desk.parts)
    return bool(request.POST.get("touched") and (typed or parts))


def others_writing(request: MemberRequest, found: Question | None) -> list[Draft]:
    """Who else has changed this question's desk in the last minutes."""
    if found is None:
        return []
    since = timezone.now() - timedelta(minutes=10)
    drafts = found.drafts.filter(changed__gte=since).exclude(user=request.user).select_related("user")
    return list({draft.user_id: draft for draft in drafts}.values())


@allowed("bank.add_question")
@require_POST
def drop_draft(request: MemberRequest, pk: int) -> HttpResponse:
    """Discard a draft for good; the revisions stay."""
    draft = held(request, "desk.delete_draft", Draft.objects.all(), pk=pk)
    question = draft.question_id
    with desk_held(draft.key):
        Ending.note(request.user, draft.key, stroke_of(request), covered=[draft.pk, *covered(request)])
    messages.success(request, "The draft is discarded.")
    return redirect("question", question) if question else redirect("questions")
