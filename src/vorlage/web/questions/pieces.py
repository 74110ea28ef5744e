"""Pieces of the desk that are asked for by themselves: new rows, pictures, rubrics, a part that changes its kind."""

from __future__ import annotations

import re

from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import read_rubric
from vorlage.web.accounts.permissions import author, member
from vorlage.web.files.models import Stored
from vorlage.web.files.responses import sent

from .conversion import conversion, options_of
from .desk_form import Desk
from .gap_rows import GAP_KINDS, GapRow
from .models import Picture, Rubric
from .preview import Preview
from .rows import (
    CHOOSE,
    EQUATION_FORMS,
    FORMS,
    ITEM_FORMS,
    KINDS,
    MATCHES,
    MODES,
    SCORES,
    UNIT_RULES,
    UP_TO,
    ConditionRow,
    FigureRow,
    OptionRow,
    ParameterRow,
    PartRow,
    PictureRow,
    TableRow,
)
from .uploads import NotTaken, taken

# What the fields of a part offer.
PART_CHOICES = {
    "kinds": KINDS, "modes": MODES, "forms": FORMS, "up_to": UP_TO, "equation_forms": EQUATION_FORMS,
    "unit_rules": UNIT_RULES, "matches": MATCHES, "choices": CHOOSE, "scores": SCORES, "item_forms": ITEM_FORMS,
    "gap_kinds": GAP_KINDS,
}  # fmt: skip


@author
@require_GET
def new_parameter(request: HttpRequest) -> HttpResponse:
    row = ParameterRow(request.GET.get("name", "")[:40])
    return render(request, "questions/_parameter.html", {"row": row, "preview": Preview()})


@author
@require_GET
def new_condition(request: HttpRequest) -> HttpResponse:
    row = ConditionRow(request.GET.get("text", "")[:500])
    return render(request, "questions/_condition.html", {"row": row, "preview": Preview()})


@author
@require_GET
def new_table(request: HttpRequest) -> HttpResponse:
    return render(request, "questions/_table.html", {"row": TableRow(), "preview": Preview()})


@author
@require_GET
def new_figure(request: HttpRequest) -> HttpResponse:
    row = FigureRow(lines="frame 0..8, 0..5\n")
    return render(request, "questions/_figure.html", {"row": row, "preview": Preview()})


@author
@require_POST
def add_picture(request: HttpRequest) -> HttpResponse:
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
    return render(request, "questions/_picture_sent.html", context)


@member
@require_GET
def picture(request: HttpRequest, digest: str) -> HttpResponseBase:
    """The content of a picture of one's own department; a hash never changes what it stands for."""
    held = Picture.objects.select_related("file").filter(department=request.membership.department)
    found = get_object_or_404(held, file=digest)
    response = sent(request, found.file, found.media_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@author
@require_GET
def new_option(request: HttpRequest, uid: str) -> HttpResponse:
    return render(request, "questions/_option.html", {"option": OptionRow(), "uid": uid})


def part_of(request: HttpRequest, uid: str) -> PartRow:
    """A part of the desk as it stands in the browser."""
    found = next((row for row in Desk.from_post(request.POST).parts if row.uid == uid), None)
    if found is None:
        raise Http404
    return found


@author
@require_POST
def part_conversion(request: HttpRequest, uid: str) -> HttpResponse:
    """What a part keeps now that its kind has changed."""
    context = {"uid": uid, "conversion": conversion(part_of(request, uid))}
    return render(request, "questions/_conversion.html", context)


@author
@require_POST
def options_of_part(request: HttpRequest, uid: str) -> HttpResponse:
    """Options made from the part's answer and its slips."""
    context = {"uid": uid, "options": options_of(part_of(request, uid)), "conversion": None, "may_write": True}
    return render(request, "questions/_options.html", context)


@author
@require_POST
def keep_rubric(request: HttpRequest, uid: str) -> HttpResponse:
    """Keep the rubric of a part under a name, for other questions; one of the same name is replaced."""
    text = request.POST.get(f"part-{uid}-rubric", "").strip()
    name = request.POST.get(f"part-{uid}-rubric_name", "").strip()[:100]
    said = ""
    try:
        if not name or not text:
            said = "A rubric needs its lines and a name to be kept under."
        elif read_rubric(text):
            Rubric.objects.update_or_create(
                department=request.membership.department, name=name, defaults={"text": text[:5000]}
            )
            said = f"Kept as “{name}” for the whole department."
    except ValueError as problem:
        said = str(problem)
    context = {"uid": uid, "said": said, "rubrics": kept_rubrics(request), "may_write": True}
    return render(request, "questions/_rubrics.html", context)


def kept_rubrics(request: HttpRequest) -> QuerySet[Rubric]:
    return Rubric.objects.filter(department=request.membership.department)[:200]


@author
@require_GET
def new_gap(request: HttpRequest, uid: str) -> HttpResponse:
    return render(request, "questions/_gap.html", {"gap": GapRow(), "uid": uid, "gap_kinds": GAP_KINDS})


@author
@require_GET
def new_part(request: HttpRequest) -> HttpResponse:
    context = {"row": PartRow(), "preview": Preview(), "rubrics": kept_rubrics(request), **PART_CHOICES}
    return render(request, "questions/_part.html", context)
