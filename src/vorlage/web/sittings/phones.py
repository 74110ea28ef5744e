"""Answers from phones to the question on a wall: by its code, without a name."""

from __future__ import annotations

import hashlib
import secrets

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from .guests import by_code
from .models import Wall, WallAnswer
from .on_wall import GOOD_FOR
from .practice import read_by, sent_answers
from .road import is_empty, readings_of
from .student import SheetLook

# What tells one phone from another, in its own keeping; and how many of them there are at one question.
COOKIE, KEPT_FOR, MOST_PHONES = "vorlage-phone", 86_400, 1_000
LOOK = SheetLook("all", True, False, True, True, False, False, False)


def wall_at(request: HttpRequest, code: str) -> Wall:
    """What has a code on a wall."""
    return by_code(request, Wall.objects.filter(code=code.upper(), begun__gt=timezone.now() - GOOD_FOR).first())


@require_GET
def phone(request: HttpRequest, code: str) -> HttpResponse:
    """The question on the wall, to be answered here; the page comes anew when another one is shown."""
    wall = wall_at(request, code)
    if request.GET.get("turn") == str(wall.turn):
        return HttpResponse(status=204)
    if "turn" in request.GET:
        answer = HttpResponse(status=204)
        answer["HX-Refresh"] = "true"
        return answer
    secret = secret_of(request)
    own = wall.answers.filter(turn=wall.turn, phone=phone_of(wall, secret)) if secret else WallAnswer.objects.none()
    answers = dict(own.values_list("part", "response"))
    context = {
        "wall": wall, "item": {"position": 0, "shown": wall.shown}, "look": LOOK, "sent": bool(answers),
        "data": {
            "answers": answers,
            "told": False,
            "readings": {name: readings_of(wall.readers.get(name, []), said) for name, said in answers.items()},
        },
    }  # fmt: skip
    found = render(request, "sittings/wall_phone.html", context)
    if not secret:
        found.set_signed_cookie(
            COOKIE, secrets.token_urlsafe(18), salt="wall", max_age=KEPT_FOR, httponly=True, samesite="Lax",
            secure=request.is_secure(),
        )  # fmt: skip
    return found


def secret_of(request: HttpRequest) -> str:
    return request.get_signed_cookie(COOKIE, default="", salt="wall", max_age=KEPT_FOR) or ""


def phone_of(wall: Wall, secret: str) -> str:
    """What stands for a phone at one question: another one at the next, so that its answers cannot be put together."""
    return hashlib.sha256(f"{wall.pk} {wall.turn} {secret}".encode()).hexdigest()


@require_POST
@transaction.atomic
def answer(request: HttpRequest, code: str) -> HttpResponse:
    """Keep what a phone gives to the question that it saw; until the next one comes it may be changed."""
    wall, secret = wall_at(request, code), secret_of(request)
    if secret and request.POST.get("turn") == str(wall.turn):
        who = phone_of(wall, secret)
        rows = wall.answers.filter(turn=wall.turn)
        known = rows.filter(phone=who).exists()
        if known or rows.values("phone").distinct().count() < MOST_PHONES:
            given = sent_answers(request.POST.get("answers", ""))
            asked = {part["id"] for part in wall.shown.get("parts", ()) if part["shape"] != "nothing"}
            rows.filter(phone=who).delete()
            WallAnswer.objects.bulk_create(
                WallAnswer(wall=wall, turn=wall.turn, part=part, response=response, phone=who)
                for part, response in given.items()
                if part in asked and not is_empty(response)
            )
    return redirect("wall-phone", code)


@require_POST
def read(request: HttpRequest, code: str) -> HttpResponse:
    """How an answer is read while it is typed; nothing is kept."""
    return read_by(request, wall_at(request, code).readers)
