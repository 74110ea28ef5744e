"""Forms as they were frozen, to be printed again: nothing of them is drawn or worked out anew."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from vorlage.core.forms import MadeForm, MadeItem, kept_key

from .models import Form, FormItem, FormSet, FormSetPlace, ItemKey


def kept_forms(order: FormSet, places: Sequence[FormSetPlace], chosen: Iterable[int]) -> dict[int, MadeForm]:
    """Some forms of a set, by their identity; ``places`` are those of the set in their order."""
    codes = dict(Form.objects.filter(form_set=order, pk__in=list(chosen)).values_list("pk", "code"))
    numbers = {place.pk: number for number, place in enumerate(places)}
    candidates = {each.pk: number for place in places for number, each in enumerate(place.all_candidates)}
    keys = dict(ItemKey.objects.filter(item__form__in=codes).values_list("item", "parts"))
    items: dict[int, list[MadeItem]] = {pk: [] for pk in codes}
    for item in FormItem.objects.filter(form__in=codes).order_by("form", "position"):
        where = numbers[item.place_id], candidates[item.candidate_id], item.slot
        items[item.form_id].append(MadeItem(*where, item.frozen_draw, tuple(map(kept_key, keys[item.pk]))))
    return {pk: MadeForm(code, tuple(items[pk])) for pk, code in codes.items()}
