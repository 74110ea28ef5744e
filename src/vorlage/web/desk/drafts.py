"""Drafts: what stands on a desk is kept as one types, and what was overtaken on its way changes nothing."""

from __future__ import annotations

import uuid
from datetime import timedelta

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
        if stroke.leaf and kept.filter(leaf=stroke.leaf, stroke__gt=stroke.number).exists():
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
            kept.delete()
            return False
        Draft.objects.update_or_create(
            user=request.user,
            key=draft_key,
            defaults={
                "department": request.membership.department,
                "question": now,
                "base": base,
                "title": desk.title[:200],
                "fields": desk.as_draft(),
                "leaf": stroke.leaf,
                "stroke": stroke.number,
            },
        )
    return True


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
    return list(found.drafts.filter(changed__gte=since).exclude(user=request.user).select_related("user"))


@allowed("bank.add_question")
@require_POST
def drop_draft(request: MemberRequest, pk: int) -> HttpResponse:
    """Discard a draft for good; the revisions stay."""
    draft = held(request, "desk.delete_draft", Draft.objects.all(), pk=pk)
    question = draft.question_id
    with desk_held(draft.key):
        Ending.note(request.user, draft.key, stroke_of(request))
    messages.success(request, "The draft is discarded.")
    return redirect("question", question) if question else redirect("questions")
