"""The mark of a school: taken, looked at, taken away again."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.web.desk.uploads import NotTaken, taken
from vorlage.web.files.models import Stored
from vorlage.web.files.responses import sent
from vorlage.web.people.forms import SchoolForm
from vorlage.web.people.models import School
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.staff import school_page

from .models import SchoolMark


@personally("people.change_school")
@require_GET
def school_mark(request: MemberRequest) -> HttpResponseBase:
    """The mark as it is printed."""
    found = SchoolMark.of(request.user.school_id or 0)
    if found is None:
        raise Http404
    return sent(request, found.file, found.media_type)


@personally("people.change_school")
@require_POST
def keep_school_mark(request: MemberRequest) -> HttpResponse:
    """Take a picture for the mark of the school, or take the mark away; papers that were made keep theirs."""
    chosen, away = request.FILES.get("mark"), request.POST.get("do") == "remove"
    try:
        if not away and (chosen is None or chosen.file is None):
            raise NotTaken("Choose a picture first.")
        kept = None if away or chosen is None or chosen.file is None else taken(chosen.file, chosen.size or 0)
    except NotTaken as problem:
        found = get_object_or_404(School, pk=request.user.school_id)
        return school_page(request, SchoolForm(instance=found), mark_refused=str(problem))
    with transaction.atomic():
        school = get_object_or_404(School.objects.select_for_update(), pk=request.user.school_id)
        school.marks.filter(withdrawn=None).update(withdrawn=timezone.now())
        if kept is not None:
            values = {"media_type": kept.media_type, "width": kept.width, "height": kept.height}
            SchoolMark.objects.create(school=school, file=Stored.keep(kept.content), **values)
    messages.success(request, "The mark is taken away." if kept is None else "This is the mark of the school now.")
    return redirect("school")
