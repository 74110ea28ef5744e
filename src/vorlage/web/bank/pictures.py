"""Pictures that questions show."""

from __future__ import annotations

from django.http import HttpResponseBase
from django.views.decorators.http import require_GET

from vorlage.web.files.responses import sent
from vorlage.web.people.permissions import held, member
from vorlage.web.people.requests import MemberRequest

from .models import Picture


@member
@require_GET
def picture(request: MemberRequest, digest: str) -> HttpResponseBase:
    """The content of a picture of one's own department; a hash never changes what it stands for."""
    own = Picture.objects.select_related("file").filter(department=request.membership.department)
    found = held(request, "bank.view_picture", own, file=digest)
    response = sent(request, found.file, found.media_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
