"""Sets that follow another: some of it drawn anew, one place put right, a retest. The set that they follow stays."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction

from vorlage.core import forms
from vorlage.web.people.models import User

from .models import (
    SAID_OF_A_PLACE,
    SAID_OF_A_SECTION,
    SETTINGS,
    Form,
    FormItem,
    FormSet,
    FormSetCandidate,
    FormSetPlace,
    FormSetSection,
)

# What stands at a slot of a form: the key of the question, and the draw.
Stays = tuple[str, int]


class Basis:
    """What a set keeps of the one that it follows, to and from the database."""

    @staticmethod
    def of(form_set: FormSet) -> forms.Basis:
        kept = form_set.basis
        return forms.Basis(
            {(form, slot): (key, draw) for form, slot, key, draw in kept.get("kept", [])},
            {key: frozenset(draws) for key, draws in kept.get("avoided", {}).items()},
            tuple(kept.get("like", [])),
        )

    @staticmethod
    def kept(
        kept: Mapping[tuple[int, int], Stays], avoided: Mapping[str, Iterable[int]], like: Iterable[float] = ()
    ) -> dict[str, Any]:
        return {
            "kept": [[form, slot, key, draw] for (form, slot), (key, draw) in kept.items()],
            "avoided": {key: sorted(set(draws)) for key, draws in avoided.items()},
            "like": list(like),
        }


def drawn_in(form_set: FormSet) -> dict[tuple[int, int], tuple[int, Stays]]:
    """By the number of the form and of the question in the order of the plan: the place, and what stands there."""
    items = FormItem.objects.filter(form__form_set=form_set).order_by()
    rows = items.values_list("form__position", "slot", "place", "candidate__revision__question__key", "draw")
    return {(form, slot): (place, (str(key), draw)) for form, slot, place, key, draw in rows}


@transaction.atomic
def follow(source: FormSet, author: User, count: int, reason: str, basis: Mapping[str, Any], **changes: Any) -> FormSet:
    """A set with the places of another, to be made; ``changes`` are of candidates, by the number of their place."""
    settings = {name: getattr(source, name) for name in (*SETTINGS, "mark")}
    made = FormSet.begun(source.test, count, author, source=source, reason=reason, basis=dict(basis), **settings)
    made.take_inserts(source.inserts.all())
    newer = changes.get("newest", set())
    sections = {
        each.pk: FormSetSection.objects.create(
            form_set=made, position=each.position, **{name: getattr(each, name) for name in SAID_OF_A_SECTION}
        )
        for each in source.sections.all()
    }
    for place in source.ordered:
        copied = FormSetPlace.objects.create(
            form_set=made, section=sections[place.section_id], position=place.position, take=place.take,
            name=place.name, **{name: getattr(place, name) for name in SAID_OF_A_PLACE},
        )  # fmt: skip
        FormSetCandidate.objects.bulk_create(
            FormSetCandidate(
                place=copied,
                position=each.position,
                revision=each.revision.question.newest if place.pk in newer else each.revision,
                first_draw=None,
            )
            for each in place.all_candidates
        )
    return made.queued()


def put_right(source: FormSet, place: FormSetPlace, author: User) -> FormSet:
    """A set in which one place has the newest revisions of its questions, drawn anew; all else stays as it was."""
    kept = {where: stays for where, (held, stays) in drawn_in(source).items() if held != place.pk}
    reason = f"Question {place.position + 1} put right in set {source.number}"
    return follow(source, author, source.count, reason, Basis.kept(kept, {}), newest={place.pk})


def drawn_anew(source: FormSet, author: User, place: FormSetPlace | None = None, form: Form | None = None) -> FormSet:
    """A set in which one question, one form, or one question of one form is drawn anew; everything where neither is
    said. No draw that is replaced comes again."""
    kept: dict[tuple[int, int], Stays] = {}
    avoided: dict[str, list[int]] = {}
    for (number, slot), (held, stays) in drawn_in(source).items():
        stands = (place is not None and held != place.pk) or (form is not None and number != form.position)
        if stands:
            kept[number, slot] = stays
        else:
            avoided.setdefault(stays[0], []).append(stays[1])
    what = f"Question {place.position + 1}" if place else "Every question" if form else "Everything"
    where = f" of form {form.code}" if form else ""
    reason = f"{what}{where} of set {source.number} drawn anew"
    return follow(source, author, source.count, reason, Basis.kept(kept, avoided))


def retest(source: FormSet, form: Form, author: User, count: int = 1) -> FormSet:
    """So many forms with draws that nobody has had, which ask as much number work as one of a set does."""
    avoided: dict[str, list[int]] = {}
    for _, (key, draw) in drawn_in(source).values():
        avoided.setdefault(key, []).append(draw)
    reason = f"Retest for form {form.code} of set {source.number}"
    return follow(source, author, count, reason, Basis.kept({}, avoided, form.work))
