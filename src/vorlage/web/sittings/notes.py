"""What a teacher tells those who sit, and how each reads it: a question is called by its number on their own form."""

from __future__ import annotations

from itertools import groupby
from operator import itemgetter

from django.db.models import Q

from vorlage.core.plans import numbers_in
from vorlage.web.forms.models import FormItem, FormSetCandidate

from .models import Note, Sitting


def notes_for(sitting: int, taking: int, form: int | None) -> list[tuple[Note, int | None]]:
    """The notes for one who sits, each with the number of the question that it is about on their form; what is about a
    question that they do not have is not for them."""
    found = list[tuple[Note, int | None]]()
    notes = list(Note.objects.filter(Q(taking=None) | Q(taking=taking), sitting=sitting))
    about = [each.candidate_id for each in notes if each.candidate_id is not None]
    items = FormItem.objects.filter(form=form, candidate__in=about) if about else FormItem.objects.none()
    there = dict(items.values_list("candidate", "position"))
    for each in notes:
        if each.candidate_id is None:
            found.append((each, each.question))
        elif each.candidate_id in there:
            found.append((each, there[each.candidate_id] + 1))
    return found


def questions_in(sitting: Sitting) -> dict[int, str]:
    """The questions of a sitting as whoever runs it calls them, by what the form set took, in the order of the plan."""
    candidates = FormSetCandidate.objects.filter(place__form_set=sitting.form_set_id)
    in_order = candidates.order_by("place__position", "position")
    rows = in_order.values_list("place", "place__take", "pk", "revision__title")
    places = [list(own) for _, own in groupby(rows, key=itemgetter(0))]
    numbers = numbers_in((own[0][1], len(own)) for own in places)
    return {
        candidate: f"{called}: {title}"
        for own, names in zip(places, numbers)
        for (_, _, candidate, title), called in zip(own, names)
    }
