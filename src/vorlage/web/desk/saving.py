"""Keeping what stands on a desk as a revision."""

from __future__ import annotations

import uuid
from dataclasses import replace

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import HttpResponseClientRedirect, trigger_client_event

from vorlage.core.questions import Unsound, topics_meant
from vorlage.web.bank.models import Picture, Question, Tree
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed
from vorlage.web.people.requests import MemberRequest

from .drafts import covered, keep_draft, stroke_of
from .models import Ending, desk_held
from .posted import Posted, may_change, posted_desk, wish
from .preview import preview
from .views import desk_context

UNSOUND = "Not saved yet: mend what is marked, then save again. Nothing you typed is lost."


@allowed("bank.add_question")
@require_POST
def save_question(request: MemberRequest) -> HttpResponse:
    """Keep what stands on the desk as a revision; when it cannot be kept, everything typed is still there."""
    posted = posted_desk(request)
    found, read = posted.question, posted.desk.read
    if not may_change(request, found):
        raise PermissionDenied
    document, filing = read.document, read.filing
    if document is None or filing is None or read.problems:
        return not_saved(request, posted, UNSOUND)
    before = posted.desk.filed_first
    if before is None or filing.topics != before.topics:
        meant = topics_meant(filing.topics, list(Tree(request.membership.department).paths))
        filing = filing.model_copy(update={"topics": tuple(meant.paths)})
    missing = Picture.missing(request.membership.department, document)
    if missing:
        return not_saved(request, posted, f"Not saved yet: {missing[0].message}")
    stroke, draft_key = stroke_of(request), uuid.UUID(posted.key)
    with desk_held(draft_key):
        twin = Ending.of(request.user, draft_key, stroke)
        now = Question.objects.of(request.membership).select_related("current__author").filter(key=draft_key).first()
        if twin is not None and twin.revision is not None and twin.revision.holds(document):
            # the same form, sent twice
            return saved(request, posted, twin.revision.question, f"Saved as revision {twin.revision.number}.")
        if now is not None and found is None and now.newest.author == request.user and now.newest.holds(document):
            # the form of a new question, sent twice by a browser that does not count what it sends
            return saved(request, posted, now, f"Saved as revision {now.latest}.")
        if now is not None and chosen_number(request.POST.get("base", "")) != now.latest:
            return overtaken(request, posted, now)
        if now is not None and now.newest.holds(document):
            words = f"Nothing has changed since revision {now.latest}."
            # what others filed meanwhile stays, as far as it was not changed here
            refiled = posted.desk.refiled(now.filing, filing)
            if refiled != now.filing:
                now.file_under(refiled)
                words = f"Filed anew; revision {now.latest} stands as it is."
            Ending.note(request.user, draft_key, stroke, now.current, covered(request))
            return saved(request, posted, now, words)
        try:
            kept = Question.save_revision(
                request.membership.department,
                request.user,
                document,
                filing if now is None else posted.desk.refiled(now.filing, filing),
                question=now,
                key=draft_key,
                note=request.POST.get("revision_note", ""),
            )
        except Unsound:
            return not_saved(request, posted, UNSOUND)
        Ending.note(request.user, draft_key, stroke, kept, covered(request))
    return saved(request, posted, kept.question, f"Saved as revision {kept.number}.")


def saved(request: MemberRequest, posted: Posted, question: Question, words: str) -> HttpResponse:
    """The desk goes on with what was saved: nothing in it is replaced, so that focus and place stay."""
    if not request.htmx:
        messages.success(request, words)
        return redirect("question", question.pk)
    # what is changed from here on is a change of this filing
    posted.desk.filed_before = question.filing.model_dump_json()
    standing = replace(posted, question=question, revision=question.latest)
    shown = preview(posted.desk, posted.key, question.latest, wish(request))
    context = desk_context(request, standing, shown) | {"saved": words, "changed": False, "covers": ""}
    answer = render(request, "desk/_kept.html", context)
    answer["HX-Replace-Url"] = reverse("question", args=[question.pk])
    return trigger_client_event(answer, "kept", {"stroke": stroke_of(request).number}, after="settle")


def overtaken(request: MemberRequest, posted: Posted, now: Question) -> HttpResponse:
    """Somebody saved meanwhile: a page of a browser is led to both revisions brought together, with everything typed in
    its draft."""
    if request.htmx and keep_draft(request, posted, True):
        # the page has nothing more to lose
        answer = HttpResponseClientRedirect(reverse("question", args=[now.pk]))
        return trigger_client_event(answer, "kept", {"stroke": stroke_of(request).number})
    words = (
        f"{now.newest.author} saved revision {now.latest} while you were writing. "
        "Save again to keep yours as the next revision; theirs stays in the history."
    )
    return not_saved(request, replace(posted, question=now, revision=now.latest + 1), words, status=409)


def not_saved(request: MemberRequest, posted: Posted, words: str, status: int = 422) -> HttpResponse:
    """The desk with everything that was typed, and why it was not kept."""
    shown = preview(posted.desk, posted.key, posted.revision, wish(request))
    shown.strict = True
    context = desk_context(request, posted, shown) | {"refused": words}
    if status == 422:
        # whoever saved meanwhile is still to be told of
        context["base"] = chosen_number(request.POST.get("base", ""))
    page = "desk/_kept.html" if request.htmx else "desk/desk.html"
    return render(request, page, context, status=status)
