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
from django.db import transaction
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import Reader
from vorlage.core.notation import Style, mathml
from vorlage.core.sittings import TIME_UP, asks_for_all, moment_words, phase, takes_answers
from vorlage.web.bank.markup import for_students

from .models import Change, Similar, StudentItem, Taking, places_in_sections
from .notes import notes_for
from .place import Place, keep, moved_on, readers_of, required_of
from .questions import sheet_at
from .tasks import settle

HEADER = "X-Sitting"
SALT = "sitting"
# A token is good for as long as anybody sits.
GOOD_FOR = 14 * 86_400
# What one sending has at most.
MOST_CHANGES, LONGEST = 400, 8_000
# So often one may ask about questions in a sitting.
MOST_QUESTIONS = 30


def token_of(taking: Taking, tab: str) -> str:
    """What a page shows to save: whose it is, which page, and by which clock its times are told."""
    return signing.dumps([taking.pk, tab, timezone.get_current_timezone_name()], salt=SALT)


class Refused(Exception):
    """Why a request is not answered: its code for the page, and its status."""

    def __init__(self, code: str, status: int) -> None:
        super().__init__(code)
        self.code, self.status = code, status


View = Callable[[HttpRequest, int, str, dict[str, Any]], dict[str, Any]]


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
                return JsonResponse(view(request, pk, tab, sent))
        except (signing.BadSignature, Taking.DoesNotExist):
            return JsonResponse({"stop": "token"}, status=403)
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError):
            return JsonResponse({"stop": "no_json"}, status=400)
        except Refused as problem:
            return JsonResponse({"stop": problem.code}, status=problem.status)

    return guarded


@require_POST
@by_token
def save(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Keep answers. They are rows before it is said that they are saved; each is said to be read as it was."""
    changes = [(change, origin) for each in listed(sent.get("changes")) for change, origin in [change_of(each, tab)]]
    now = timezone.now()
    place, counts = keep(pk, changes, tab, now)
    readings = read_all(place, [change for change, _ in changes])
    saved = [[origin, change.number] for change, origin in changes]
    return {"saved": saved, "counts": counts, "readings": readings} | place.state(tab, now)


@require_POST
@by_token
def read(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """How an answer is read while it is typed; nothing is kept."""
    change, _ = change_of(sent, tab)
    return {"readings": read_all(Place.of(pk), [change])}


@require_GET
@by_token
def changes(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """What has changed: the time, what the teacher told everybody, whether it goes on here."""
    now = timezone.now()
    place = settled(Place.of(pk), now)
    if place.stage_is_over(now):
        place = moved_on(pk, now)
    away = request.GET.get("away", "")
    place.heard(now, int(away) if away.isdecimal() and len(away) < 6 else None)
    return {"notes": notes_of(place, now)} | place.state(tab, now)


def notes_of(place: Place, now: datetime) -> list[dict[str, Any]]:
    """What the teacher told everybody."""
    if not place.notes:
        return []
    local = timezone.localtime
    return [
        {"text": each.text, "question": number, "at": moment_words(local(each.at), local(now))}
        for each, number in notes_for(place.sitting, place.pk, place.form)
    ]


def settled(place: Place, now: datetime) -> Place:
    """A place, handed in where its time is up."""
    if phase(place.rules, place.record, now) != TIME_UP:
        return place
    settle(Taking.objects.select_related("sitting", "student").get(pk=place.pk))
    return Place.of(place.pk)


@require_POST
@by_token
def hand_in(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Hand in, for a page that had no network when its student wanted to."""
    now = timezone.now()
    taking = Taking.objects.select_related("sitting", "student").get(pk=pk)
    if not settle(taking):
        if not taking.in_last_section or lacking(taking, now):
            return {"lacking": True} | Place.held(taking).state(tab, now)
        taking.hand_in(now)
    taking.refresh_from_db()
    return {"receipt": taking.receipt} | Place.held(taking).state(tab, now)


def lacking(taking: Taking, now: datetime) -> list[tuple[int, str]]:
    """The parts that have to be answered before a student may hand in now, and are empty; those of sections that are
    over are not asked for."""
    required = required_of(taking.form_id or 0)
    if (stage := taking.stage) is not None:
        places = places_in_sections(taking.form_id or 0)
        required = tuple(where for where in required if places[where[0]] == stage.section)
    if not required or not asks_for_all(taking.sitting.held, taking.record, now):
        return []
    answers = taking.answers()
    return [where for where in required if is_empty(answers.get(where))]


def is_empty(response: Any) -> bool:
    """Whether nothing stands in a response."""
    if isinstance(response, list):
        return all(is_empty(each) for each in response)
    if isinstance(response, dict):
        return all(is_empty(each) for each in response.values())
    return response is None or not str(response).strip()


@require_POST
@by_token
def hint(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Take the next hint of a part; what it costs stands on the page before, and is on record from now on."""
    now = timezone.now()
    change, _ = change_of(sent, tab)
    taking = may_work(pk, tab, now)
    if not taking.sitting.held.hints:
        raise Refused("no_hints", 403)
    item = sheet_at(taking, change.position)
    offered = item.hints.get(change.part, []) if item is not None else []
    with transaction.atomic():
        Taking.locked(pk=pk)
        taken = taking.hints.filter(form=taking.form_id, position=change.position, part=change.part).count()
        # the page says which one it wants, so that pressing twice takes one
        if taken == change.number and taken < len(offered):
            taking.hints.create(
                form_id=taking.form_id or 0, position=change.position, part=change.part, number=taken,
                cost=offered[taken]["cost"],
            )  # fmt: skip
    return {"hints": hints_taken(taking, change.position, change.part)} | Place.of(pk).state(tab, now)


def rests(taking: Taking) -> bool:
    """Whether it was they, and not their teacher, who stopped the clock last."""
    last = taking.events.filter(kind__in=["pause", "break"]).first()
    return last is not None and last.kind == "break"


def may_work(pk: int, tab: str, now: datetime) -> Taking:
    """The place of a page that may write now. Raises ``Refused``."""
    taking = Taking.objects.select_related("sitting", "student", "tried_as").get(pk=pk)
    if taking.tab != tab or not takes_answers(taking.sitting.held, taking.record, now):
        raise Refused("not_now", 409)
    return taking


def hints_taken(taking: Taking, *where: Any) -> list[dict[str, Any]]:
    """The hints that were taken, with what they say; of one part, where one is named."""
    rows = taking.hints.filter(form=taking.form_id).order_by("position", "part", "number")
    if where:
        rows = rows.filter(position=where[0], part=where[1])
    taken = list(rows)
    if not taken:
        return []
    items = StudentItem.objects.filter(form=taking.form_id, position__in={each.position for each in taken})
    offered = dict(items.values_list("position", "hints"))
    if taking.sitting.held.similar:
        offered |= dict(taking.similar.filter(form=taking.form_id).values_list("position", "hints"))
    return [
        {
            "q": each.position,
            "p": each.part,
            "text": for_students(offered[each.position][each.part][each.number]["text"]),
        }
        for each in taken
        if each.number < len(offered.get(each.position, {}).get(each.part, []))
    ]


@require_POST
@by_token
def ask(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Ask the teacher about a question: they are sent it with the answers so far."""
    change, _ = change_of(sent, tab)
    taking = may_work(pk, tab, timezone.now())
    if not taking.sitting.held.questions:
        raise Refused("no_questions", 403)
    text = " ".join(str(change.response or "").split())[:500]
    if not text:
        raise Refused("no_text", 400)
    if taking.events.filter(kind="asked").count() >= MOST_QUESTIONS:
        raise Refused("too_many", 429)
    answers = {part: response for (q, part), response in taking.answers().items() if q == change.position}
    taking.sitting.note(
        "asked", taking=taking, data={"question": change.position + 1, "text": text, "answers": answers}
    )
    return {"asked": True}


@require_POST
@by_token
def rest(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """A break that stops the clock, for whom that is allowed; and its end."""
    now = timezone.now()
    with transaction.atomic():
        taking = Taking.locked(pk=pk)
        begins = bool(sent.get("begins"))
        allowed = taking.likeness is not None and getattr(getattr(taking.likeness, "allowance", None), "breaks", False)
        own = taking.paused is None or rests(taking)
        if not allowed or taking.tab != tab or taking.handed_in is not None or not own:
            raise Refused("not_now", 409)
        if begins and taking.paused is None and takes_answers(taking.sitting.held, taking.record, now):
            taking.paused = now
            taking.sitting.note("break", taking=taking)
        elif not begins and taking.paused is not None:
            taking.resume(now)
            taking.sitting.note("break over", taking=taking)
        taking.save(update_fields=["ends", "paused", "section_ends"])
    return Place.of(pk).state(tab, now)


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


def read_all(place: Place, asked: list[Change]) -> list[dict[str, Any]]:
    """How the answers to some parts are read, by question and part: each shown as it was read, or why it cannot be."""
    try:
        rows = readers_of(place.form or 0)
    except LookupError:
        return []
    if place.rules.similar and any(each.position not in rows for each in asked):
        own = Similar.objects.filter(taking=place.pk, form=place.form)
        rows = rows | dict(own.values_list("position", "readers"))
    latest = {(each.position, each.part): each for each in asked}
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
    shown = for_students(mathml(reading.tree, Style(decimal_mark=reader.settings.decimal_mark)))
    return {"shown": shown, "also": reading.ambiguity}
