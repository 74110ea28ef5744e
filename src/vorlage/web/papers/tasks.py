"""The work of making a form set, done by a worker: it can be left, come back to and cancelled."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from vorlage.core.draws import DrawError
from vorlage.core.forms import KeyFailure, make_forms

from .models import FormSet, Print


@app.task(name="make_form_set")
def make_form_set(form_set: int) -> None:
    """Draw the forms, prove their keys, print them, and freeze the set; nothing is kept of a failure."""
    found = FormSet.objects.filter(pk=form_set, state=FormSet.State.WAITING)
    if not found.update(state=FormSet.State.MAKING, step="Drawing and proving keys"):
        return
    order = FormSet.objects.select_related("test__department").get(pk=form_set)
    try:
        freeze(order)
    except (KeyFailure, DrawError) as problem:
        give_up(order, str(problem))
    except InterruptedError:
        # cancelled meanwhile; the state says so already
        return
    except Exception:
        give_up(order, "Something went wrong on our side while this was being made. Try again.")
        raise


def freeze(order: FormSet) -> None:
    every = max(1, order.count // 50)

    def progress(made: int) -> bool:
        return made % every != 0 or order.note_progress(made, "Drawing and proving keys")

    made = make_forms(order.plan, order.count, order.seed, progress)
    order.forms, order.repeats = made.as_json(), list(made.repeats)
    printing = order.printing
    step(order, "Printing the papers")
    papers = printing.papers(made.forms)
    step(order, "Printing the key")
    key = printing.key(made)
    step(order, "Packing the archive")
    archive = printing.archive(made, papers, key, f"test-{order.test_id}-set-{order.number}")
    with transaction.atomic():
        files = {Print.Kind.PAPERS: papers, Print.Kind.KEY: key, Print.Kind.ARCHIVE: archive}
        Print.objects.bulk_create(Print(form_set=order, kind=kind, content=content) for kind, content in files.items())
        kept = FormSet.objects.filter(pk=order.pk, state=FormSet.State.MAKING).update(
            state=FormSet.State.FROZEN,
            forms=order.forms,
            repeats=order.repeats,
            made=order.count,
            step="",
            frozen=timezone.now(),
        )
        if not kept:
            raise InterruptedError


def step(order: FormSet, name: str) -> None:
    if not order.note_progress(order.count, name):
        raise InterruptedError


def give_up(order: FormSet, reason: str) -> None:
    FormSet.objects.filter(pk=order.pk).update(state=FormSet.State.FAILED, failure=reason, step="")
