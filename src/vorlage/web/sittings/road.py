"""The slim road of a student's page: saving, reading, asking what has changed, handing in.

A page has a signed token with the student's place in the sitting and the page's own name. Nothing else is asked of it:
no session is read, no department, and no key can be reached from the rows that are.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import datetime
from functools import wraps
from typing import Any

from django.core import signing
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import Reader
from vorlage.core.notation import Style, mathml
from vorlage.core.sittings import HANDED_IN, moment_words
from vorlage.web.bank.markup import safe

from .models import Change, Note, StudentItem, Taking
from .tasks import settle

HEADER = "X-Sitting"
SALT = "sitting"
# A token is good for as long as anybody sits.
GOOD_FOR = 14 * 86_400
# What one sending has at most.
MOST_CHANGES, LONGEST = 400, 8_000


def token_of(taking: Taking, tab: str) -> str:
    """What a page shows to save: whose it is, which page, and by which clock its times are told."""
    return signing.dumps([taking.pk, tab, timezone.get_current_timezone_name()], salt=SALT)


class Refused(Exception):
    """Why a request is not answered: its code for the page, and its status."""

    def __init__(self, code: str, status: int) -> None:
        super().__init__(code)
        self.code, self.status = code, status


View = Callable[[HttpRequest, Taking, str, dict[str, Any]], dict[str, Any]]


def by_token(view: View) -> Callable[[HttpRequest], JsonResponse]:
    """For a page of a student, by its token alone: nothing that a browser sends by itself is trusted, so nothing of
    another site can be sent in its name."""

    @csrf_exempt
    @wraps(view)
    def guarded(request: HttpRequest) -> JsonResponse:
        try:
            pk, tab, zone = signing.loads(request.headers.get(HEADER, ""), salt=SALT, max_age=GOOD_FOR)
            sent = json.loads(request.body or b"{}")
            if not isinstance(sent, dict):
                raise Refused("no_object", 400)
            with timezone.override(zone):
                return JsonResponse(view(request, Taking.of_page(pk), tab, sent))
        except (signing.BadSignature, Taking.DoesNotExist):
            return JsonResponse({"stop": "token"}, status=403)
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
            return JsonResponse({"stop": "no_json"}, status=400)
        except Refused as problem:
            return JsonResponse({"stop": problem.code}, status=problem.status)

    return guarded


def state(taking: Taking, tab: str, now: datetime) -> dict[str, Any]:
    """How a page stands: how long there is, and whether it may go on."""
    left = None if taking.ends is None else max(0.0, (taking.ends - now).total_seconds())
    if taking.paused is not None and taking.ends is not None:
        left = max(0.0, (taking.ends - taking.paused).total_seconds())
    phase = taking.phase(now)
    stop = "handed_in" if phase == HANDED_IN else "elsewhere" if taking.tab != tab else ""
    return {"left": left, "phase": phase, "stop": stop}


@require_POST
@by_token
def save(request: HttpRequest, taking: Taking, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Keep answers. They are rows before it is said that they are saved; each is said to be read as it was."""
    changes = [(change, origin) for each in listed(sent.get("changes")) for change, origin in [change_of(each, tab)]]
    now = timezone.now()
    counts = taking.keep(changes, tab, now)
    readings = read_all(taking, [change for change, _ in changes])
    saved = [[origin, change.number] for change, origin in changes]
    return {"saved": saved, "counts": counts, "readings": readings} | state(taking, tab, now)


@require_POST
@by_token
def read(request: HttpRequest, taking: Taking, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """How an answer is read while it is typed; nothing is kept."""
    change, _ = change_of(sent, tab)
    return {"readings": read_all(taking, [change])}


@require_GET
@by_token
def changes(request: HttpRequest, taking: Taking, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """What has changed: the time, what the teacher told everybody, whether it goes on here."""
    now = timezone.now()
    if settle(taking):
        taking.refresh_from_db()
    away = request.GET.get("away", "")
    noted: dict[str, Any] = {"asked": now}
    if away.isdecimal() and len(away) < 6:
        noted |= {"away": taking.away + 1, "away_seconds": taking.away_seconds + int(away)}
    Taking.objects.filter(pk=taking.pk).update(**noted)
    local = timezone.localtime
    notes = [
        {"text": each.text, "question": each.question, "at": moment_words(local(each.at), local(now))}
        for each in Note.objects.filter(sitting=taking.sitting_id)
    ]
    return {"notes": notes} | state(taking, tab, now)


@require_POST
@by_token
def hand_in(request: HttpRequest, taking: Taking, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Hand in, for a page that had no network when its student wanted to."""
    now = timezone.now()
    if not settle(taking):
        taking.hand_in(now)
    taking.refresh_from_db()
    return {"receipt": taking.receipt} | state(taking, tab, now)


def listed(given: Any) -> list[Any]:
    if not isinstance(given, list) or len(given) > MOST_CHANGES:
        raise Refused("no_changes", 400)
    return given


def change_of(given: Any, tab: str) -> tuple[Change, str]:
    """A change as a page sends it, and the page that it comes from."""
    if not isinstance(given, dict):
        raise Refused("no_change", 400)
    number: Any = given.get("n", 0)
    position: Any = given.get("q")
    part: Any = given.get("p")
    response, origin = given.get("r"), given.get("t", tab)
    counted = is_count(number) and is_count(position)
    named = all(isinstance(each, str) and 0 < len(each) <= 40 for each in (part, origin))
    if not counted or not named or len(part) > 20 or len(json.dumps(response)) > LONGEST:
        raise Refused("no_change", 400)
    return Change(number, position, part, without_nulls(response)), origin


def is_count(given: Any) -> bool:
    return isinstance(given, int) and not isinstance(given, bool) and 0 <= given < 30_000


def without_nulls(response: Any) -> Any:
    """What the database cannot keep is left out."""
    if isinstance(response, str):
        return response.replace("\x00", "")
    if isinstance(response, list):
        return [without_nulls(each) for each in response]
    if isinstance(response, dict):
        return {str(key).replace("\x00", ""): without_nulls(value) for key, value in response.items()}
    return response


def read_all(taking: Taking, asked: list[Change]) -> list[dict[str, Any]]:
    """How the answers to some parts are read, by question and part: each shown as it was read, or why it cannot be."""
    latest = {(each.position, each.part): each for each in asked}
    positions = {position for position, _ in latest}
    items = StudentItem.objects.filter(form=taking.form_id, position__in=positions)
    rows = dict(items.values_list("position", "readers"))
    found = []
    for (position, part), change in latest.items():
        readings = readings_of(rows.get(position, {}).get(part, []), change.response)
        if readings:
            found.append({"q": position, "p": part, "read": readings})
    return found


def readings_of(readers: list[Any], response: Any) -> list[dict[str, Any]]:
    """How a response is read: of a text with gaps every gap."""
    if not any(readers):
        return []
    pieces = response if isinstance(response, list) else [response]
    return [
        reading_of(Reader.of(reader), piece) if reader is not None and isinstance(piece, str) else {}
        for reader, piece in zip(readers, pieces)
    ]


def reading_of(reader: Reader, typed: str) -> dict[str, Any]:
    reading = reader.read(typed[:4000])
    if reading.blank:
        return {}
    if reading.unreadable:
        return {"problem": reading.problem, "place": reading.place}
    if reading.tree is None:
        return {}
    shown = safe(mathml(reading.tree, Style(decimal_mark=reader.settings.decimal_mark)))
    return {"shown": shown, "also": reading.ambiguity}
