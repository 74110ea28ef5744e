"""Checking a question before all is handed in: what may be seen after each answer, further tries, similar questions."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

from django.db import transaction
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_POST

from vorlage.core.forms import NoFreshDraw
from vorlage.core.marking import NO_TRY, is_settled, marked, tries_used
from vorlage.core.sittings import seen_at_once, share_words
from vorlage.web.forms.models import FormItem, FormSetCandidate

from .fresh import fresh_columns
from .marking import returned_part, tries_of
from .models import Similar, StudentItem, Taking, Tried, replaced
from .place import Place
from .questions import Had, first_similar, questions_had, sheet_at, similar_of
from .road import Refused, by_token, change_of, is_empty, may_work

# So many similar questions a minute one may have: each is drawn and its key proved.
A_MINUTE = 20
# What is said of a part that was not tried.
UNTRIED = {
    "blank": "Nothing stands here yet.",
    "unreadable": "This cannot be read, so it was no try.",
    "waiting": "Your teacher marks this one.",
}


class Checks:
    """What a student has tried so far, what can still be tried, and what of it may be seen now."""

    def __init__(self, taking: Taking) -> None:
        self.taking, self.rules = taking, taking.sitting.held
        self.tries = tries_of(taking)
        self.similar = similar_of(taking)
        self.over = replaced((each.place, each.position) for each in self.similar)

    @cached_property
    def record(self) -> Any:
        return self.taking.whole_record

    @cached_property
    def had(self) -> dict[int, Had]:
        """The questions by their positions; looked up where a key may be seen."""
        return {each.position: each for each in questions_had(self.taking)}

    def own(self, position: int) -> list[int]:
        """The questions that stand for the same one of the form, in the order in which they were had."""
        place = next((each.place for each in self.similar if each.position == position), position)
        return [place, *(each.position for each in self.similar if each.place == place)]

    def is_done(self, position: int) -> bool:
        """Whether a similar question was had instead of it."""
        return position in self.over

    def is_settled(self, position: int, part: str) -> bool:
        """Whether nothing more can be earned on a part."""
        tried = [each.outcome for each in self.tries.get((position, part), ())]
        return self.is_done(position) or is_settled(tried, self.rules.tries)

    def may_have_similar(self, sheet: StudentItem | Similar) -> bool:
        """Whether a similar question may be had instead of this one: it is the last for its place, and something of it
        was tried and is not right."""
        position, own = sheet.position, self.own(sheet.position)
        if len(own) > self.rules.similar or own[-1] != position:
            return False
        tried = [self.tries.get((position, part["id"]), ()) for part in asked_of(sheet)]
        return any(rows and all(each.outcome != "right" for each in rows) for rows in tried)

    def state(self, sheet: StudentItem | Similar, said: Mapping[str, str] | None = None) -> dict[str, Any]:
        """How a question stands: of each part that was tried what may be seen now, and whether it can be tried again;
        ``said`` is said of parts that were not."""
        position, came, used, is_open = sheet.position, dict[str, Any](), 0, False
        for k, part in enumerate(sheet.shown["parts"]):
            if part["shape"] == "nothing":
                continue
            tries, settled = self.tries.get((position, part["id"]), ()), self.is_settled(position, part["id"])
            if not settled:
                is_open, used = True, max(used, tries_used([each.outcome for each in tries]))
            if tries or settled:
                html = self.seen(position, k, part, tries[-1], settled) if tries else ""
                came[part["id"]] = {"settled": settled, "html": html}
        return {
            "q": position,
            "parts": came,
            "said": dict(said or {}),
            "open": is_open,
            "words": self.words(used) if is_open else "Checked." if came else "",
            "similar": self.similar_words() if self.rules.similar and self.may_have_similar(sheet) else "",
        }

    def seen(self, position: int, k: int, part: Mapping[str, Any], tried: Tried, settled: bool) -> str:
        """What is seen of a try, in HTML."""
        rows = seen_at_once(self.rules, self.record, settled) - {"own"}
        if not rows:
            return ""
        held = tried.held
        said = {
            "outcome": held.outcome if rows & {"outcome", "marks"} else "",
            "marks": held.marks if "marks" in rows else None,
            "most": held.most if "marks" in rows else None,
            "feedback": held.feedback if "feedback" in rows else (),
        }
        drawn = self.had[position].drawn if rows & {"key", "solution"} else None
        came = returned_part(drawn, k, rows, **said)
        return render_to_string("sittings/_came.html", {"came": came, "rows": rows, "part": part})

    def words(self, used: int) -> str:
        """What stands beside the button that checks: how often it can be pressed, and what that costs."""
        rules = self.rules
        if rules.tries == 1:
            return "It can be checked once, and then stays as it is."
        if rules.tries is None:
            left = "As many tries as you like. "
        else:
            left = f"{rules.tries} tries. " if not used else f"{rules.tries - used} of {rules.tries} tries left. "
        each = "Each after the first costs" if not used else "Each further one costs"
        return left + (f"{each} {share_words(rules.try_cost)} of the marks." if rules.try_cost else "").rstrip()

    def similar_words(self) -> str:
        """What the button says that brings a similar question."""
        cost = self.rules.similar_cost
        return "A similar question instead" + (f", costs {share_words(cost)} of the marks" if cost else "")


def asked_of(sheet: StudentItem | Similar) -> list[dict[str, Any]]:
    """The parts of a question that ask for something."""
    return [part for part in sheet.shown["parts"] if part["shape"] != "nothing"]


def tried(taking: Taking, position: int, now: datetime) -> dict[str, str]:
    """Try what stands in a question; what is said of parts that were not tried. The row is locked."""
    had = next(each for each in questions_had(taking, worth=True) if each.position == position)
    checks, answers, form = Checks(taking), taking.answers(), taking.form_id or 0
    parts = had.drawn.question.document.parts
    given = [answers.get((position, part.id)) for part in parts]
    rows, said = [], dict[str, str]()
    for part, response, found in zip(parts, given, marked(had.drawn, given, had.most)):
        if not part.answer.asks or checks.is_settled(position, part.id):
            continue
        before = checks.tries.get((position, part.id))
        if found.outcome in NO_TRY:
            said[part.id] = UNTRIED["blank" if is_empty(response) else found.outcome]
        elif not before or before[-1].response != response:
            columns = Tried.columns_of(found)
            rows.append(Tried(taking=taking, form_id=form, position=position, response=response, at=now, **columns))
    Tried.objects.bulk_create(rows)
    return said


def sheet_of(taking: Taking, position: int) -> StudentItem | Similar:
    """A question of a student, by where its answers are, of the section that they are at. Raises ``Refused``."""
    found = sheet_at(taking, position)
    if found is None:
        raise Refused("no_question", 404)
    if taking.stage is not None and taking.stage.section != found.section_number:
        raise Refused("not_now", 409)
    return found


@require_POST
@by_token
def check(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """Check what stands in a question: each part that can still be tried, and whose answer is another one than was
    tried last, is a try of it. What is empty or cannot be read is none."""
    now = timezone.now()
    change, _ = change_of({"q": sent.get("q"), "p": "check"}, tab)
    taking = may_work(pk, tab, now)
    if not taking.sitting.held.checks:
        raise Refused("no_checks", 403)
    sheet = sheet_of(taking, change.position)
    with transaction.atomic():
        Taking.locked(pk=pk)
        taking = may_work(pk, tab, now)
        said = tried(taking, change.position, now)
    return {"checked": [Checks(taking).state(sheet, said)]} | Place.of(pk).state(tab, now)


@require_POST
@by_token
def similar(request: HttpRequest, pk: int, tab: str, sent: dict[str, Any]) -> dict[str, Any]:
    """A similar question instead of a missed one, which stays as it is from now on."""
    now = timezone.now()
    change, _ = change_of({"q": sent.get("q"), "p": "similar"}, tab)
    taking = may_work(pk, tab, now)
    if not taking.sitting.held.similar:
        raise Refused("no_similar", 403)
    if taking.similar.filter(made__gt=now - timedelta(minutes=1)).count() >= A_MINUTE:
        raise Refused("too_many", 429)
    missed, checks = sheet_of(taking, change.position), Checks(taking)
    if not checks.may_have_similar(missed):
        raise Refused("not_now", 409)
    place = missed.place_on_form
    item = FormItem.objects.get(form=taking.form_id, position=place)
    candidate = FormSetCandidate.objects.select_related("place__form_set").get(pk=item.candidate_id)
    before = Similar.objects.filter(taking__in=taking.own.values("pk"), candidate=candidate)
    try:
        # drawn before anything is locked: it takes its time
        columns = fresh_columns(candidate, before.values_list("values", flat=True))
    except NoFreshDraw:
        raise Refused("no_draw", 409) from None
    with transaction.atomic():
        Taking.locked(pk=pk)
        taking = may_work(pk, tab, now)
        checks = Checks(taking)
        # pressing twice has one
        if checks.may_have_similar(missed):
            form = taking.form_id or 0
            sheet = StudentItem.objects.get(form=form, position=place)
            Similar.objects.create(
                taking=taking, form_id=form, position=first_similar(form) + len(checks.similar),
                place=place, number=len(checks.own(place)), section=sheet.section,
                section_number=sheet.section_number, **columns,
            )  # fmt: skip
    return {"similar": True} | Place.of(pk).state(tab, now)
