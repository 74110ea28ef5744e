"""Pictures that questions show."""

from __future__ import annotations

from django.core.signing import BadSignature
from django.http import Http404, HttpRequest, HttpResponseBase
from django.views.decorators.http import require_GET

from vorlage.web.files.responses import sent
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

from .markup import SHOWN
from .models import Picture
from .search import others


@member
@require_GET
def picture(request: MemberRequest, digest: str) -> HttpResponseBase:
    """The content of a picture of one's own department, or of a question that is shared with it; a hash never changes
    what it stands for."""
    pictures = Picture.objects.select_related("file").filter(file=digest)
    found = pictures.filter(department=request.membership.department).first()
    if found is None:
        shown = others(request.membership.department).filter(
            question__revisions__document__pictures__contains=[{"digest": digest}]
        )
        found = pictures.first() if shown.exists() else None
    if found is None:
        raise Http404
    return kept_for_good(request, found)


@require_GET
def shown_picture(request: HttpRequest, signed: str) -> HttpResponseBase:
    """The content of a picture for whoever was shown a page with it: students have no department, and some do not
    sign in."""
    try:
        digest = SHOWN.unsign(signed)
    except BadSignature:
        raise Http404 from None
    found = Picture.objects.select_related("file").filter(file=digest).first()
    if found is None:
        raise Http404
    return kept_for_good(request, found)


def kept_for_good(request: HttpRequest, found: Picture) -> HttpResponseBase:
    """A picture, which a browser never has to ask for again."""
    response = sent(request, found.file, found.media_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
