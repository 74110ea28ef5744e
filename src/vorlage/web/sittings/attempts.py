"""Attempts after the first: on which form, and what counts of them."""

from __future__ import annotations

from functools import lru_cache

from django.db import transaction
from django.db.models import Count

from vorlage.core.forms import Repeats, next_form, repeats_in, values_text
from vorlage.core.questions import FrozenDraw
from vorlage.core.sittings import Rules, nth
from vorlage.web.forms.basis import Basis, drawn_in, follow
from vorlage.web.forms.models import FormItem
from vorlage.web.people.models import User

from .models import Sitting, Taking, forms_for


@lru_cache(maxsize=64)
def draws_of(form_set: int) -> dict[int, tuple[tuple[int, int], ...]]:
    """The forms of a frozen set by their places: of each the question, and its values as a number."""
    numbers: dict[tuple[int, str], int] = {}
    found: dict[int, list[tuple[int, int]]] = {}
    items = FormItem.objects.filter(form__form_set=form_set).order_by("form__position", "slot")
    for form, candidate, values in items.values_list("form", "candidate", "values"):
        text = values_text(FrozenDraw(0, values, {}, {}))
        found.setdefault(form, []).append((candidate, numbers.setdefault((candidate, text), len(numbers))))
    return {form: tuple(places) for form, places in found.items()}


def following_form(taking: Taking) -> int:
    """The form for the attempt after this one: nothing on it that was had, where that can be."""
    sitting = taking.sitting
    had = set(taking.own.values_list("form", flat=True))
    used = dict(sitting.takings.exclude(form=None).order_by().values_list("form").annotate(Count("pk")))
    return next_form(draws_of(sitting.form_set_id), had, used)


@transaction.atomic
def more_forms(sitting: Sitting, by: User) -> bool:
    """Make forms for everybody and every attempt, where there are too few and nobody has begun: those that there are,
    and more of the same."""
    wanted = forms_for(len(sitting.students()), sitting.held)
    if not sitting.own_forms or sitting.ready is None or sitting.begun or wanted <= sitting.form_set.count:
        return False
    source = sitting.form_set
    kept = {where: stays for where, (_, stays) in drawn_in(source).items()}
    reason = f"Forms for all attempts, those of set {source.number} among them"
    sitting.take_forms(follow(source, by, wanted, reason, Basis.kept(kept, {})), by)
    return True


def kept_repeats(form_set: int) -> dict[str, object]:
    """When numbers come again on the forms of a set, as a sitting keeps it."""
    found: Repeats = repeats_in(draws_of(form_set))
    return {"sure": found.sure, "places": {str(place): up_to for place, up_to in found.places.items()}}


def said_repeats(sitting: Sitting, rules: Rules) -> str:
    """From which attempt on numbers come again, in words; empty where they do not under these rules."""
    held = sitting.repeats
    if rules.attempts == 1 or rules.practice == "only" or held is None:
        return ""
    attempts = rules.attempts or held["sure"] + 1
    if attempts <= held["sure"]:
        return ""
    many = sitting.form_set.forms.count()
    by_place = {int(place): up_to for place, up_to in held["places"].items() if up_to < attempts}
    first = min(by_place.values(), default=many)
    if held["sure"] < first or not by_place:
        where = ""
    else:
        named = [str(place + 1) for place, up_to in sorted(by_place.items()) if up_to == first]
        where = f" in question{'s'[: len(named) != 1]} {', '.join(named)}"
    can = " can" if held["sure"] < first and held["sure"] < many else ""
    return f"From the {nth(held['sure'] + 1)} attempt on numbers{can} repeat{where}."
