"""Pieces of the desk that are asked for by themselves: pictures, rubrics, a part that changes its kind."""

from __future__ import annotations

import re

from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from vorlage.core.answers import read_rubric, used_rows
from vorlage.web.bank.models import Picture, Rubric
from vorlage.web.files.models import Stored
from vorlage.web.people.permissions import allowed
from vorlage.web.people.requests import MemberRequest

from .conversion import conversion, options_of
from .form import Desk
from .preview import Preview
from .rows import PartRow, PictureRow
from .uploads import NotTaken, taken


@allowed("bank.add_question")
@require_POST
def add_picture(request: MemberRequest) -> HttpResponse:
    """Keep a picture that was sent, and make a row for it."""
    chosen = request.FILES.get("picture_file")
    context: dict[str, object] = {"preview": Preview()}
    try:
        if chosen is None or chosen.file is None:
            raise NotTaken("Choose a picture first.")
        kept = taken(chosen.file, chosen.size or 0)
        file = Stored.keep(kept.content)
        values = {"media_type": kept.media_type, "width": kept.width, "height": kept.height}
        Picture.objects.get_or_create(department=request.membership.department, file=file, defaults=values)
        name = re.sub(r"[^A-Za-z0-9_-]+", "-", (chosen.name or "").rpartition(".")[0]).strip("-_0123456789")[:30]
        context["row"] = PictureRow(name or "picture", file.digest, str(kept.width), str(kept.height))
    except NotTaken as problem:
        context["refused"] = str(problem)
    return render(request, "desk/_picture_sent.html", context)


def part_of(request: MemberRequest, uid: str) -> PartRow:
    """A part of the desk as it stands in the browser."""
    found = next(
        (row for row in Desk.from_post(request.POST, request.membership.department.habits).parts if row.uid == uid),
        None,
    )
    if found is None:
        raise Http404
    return found


@allowed("bank.add_question")
@require_POST
def part_conversion(request: MemberRequest, uid: str) -> HttpResponse:
    """The fields of a part now that its kind has changed, and what it keeps."""
    row = part_of(request, uid)
    context = {"row": row, "conversion": conversion(row), "preview": Preview(), "rubrics": kept_rubrics(request)}
    return render(request, "desk/_answer.html", context)


@allowed("bank.add_question")
@require_POST
def options_of_part(request: MemberRequest, uid: str) -> HttpResponse:
    """Options made from the part's answer and its slips."""
    row = part_of(request, uid)
    row.typed["options"] = options_of(row)
    context = {"row": row, "preview": Preview(), "rubrics": kept_rubrics(request)}
    return render(request, "desk/_answer.html", context)


@allowed("bank.add_question")
@require_POST
def keep_rubric(request: MemberRequest, uid: str) -> HttpResponse:
    """Keep the rubric of a part under a name, for other questions; one of the same name is replaced."""
    rows = used_rows(part_of(request, uid).typed.get("rubric"))
    name = request.POST.get(f"part-{uid}-rubric_name", "").strip()[:100]
    said = ""
    try:
        if not name or not rows:
            said = "A rubric needs its criteria and a name to be kept under."
        else:
            text = "\n".join(
                " | ".join(filter(None, (row[name].strip() for name in row if name != "id"))) for row in rows
            )
            read_rubric(text)
            Rubric.objects.update_or_create(
                department=request.membership.department, name=name, defaults={"text": text[:5000]}
            )
            said = f"Kept as “{name}” for the whole department."
    except ValueError as problem:
        said = str(problem)
    context = {"uid": uid, "said": said, "rubrics": kept_rubrics(request), "may_write": True}
    return render(request, "desk/_rubrics.html", context)


def kept_rubrics(request: MemberRequest) -> QuerySet[Rubric]:
    return Rubric.objects.filter(department=request.membership.department)[:200]
