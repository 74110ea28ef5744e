"""The tray: what somebody has collected, in order, across searches and sign-ins; and pools made of it."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.db.models import Max
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import total_marks
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest

from .models import Collected, Pool, Pooled, Question

# so many are in a tray at most
MOST = 200


def in_tray(request: MemberRequest) -> list[Collected]:
    """What somebody has collected in the department, in order."""
    mine = Collected.objects.filter(user=request.user, department=request.membership.department)
    unread = ("question__note", "question__current__document", "question__current__sheet")
    return list(mine.select_related("question__current").defer(*unread))


def tray_context(request: MemberRequest) -> dict[str, Any]:
    collected = in_tray(request)
    return {
        "tray": collected,
        "tray_marks": total_marks(each.question.newest.marks for each in collected),
        "tray_in": " ".join(str(each.question_id) for each in collected),
    }


def tray(request: MemberRequest, status: int = 200, **more: object) -> HttpResponse:
    """The answer to a change: the tray for htmx, the list for others."""
    if request.htmx:
        return render(request, "bank/_tray.html", tray_context(request) | more, status=status)
    return redirect("questions")


@member
@require_POST
def collect(request: MemberRequest, pk: int) -> HttpResponse:
    """Put a question into the tray, with the draw that was seen; one that is there gets the draw that is seen now."""
    question = held(request, "bank.view_question", Question.objects.select_related("current"), pk=pk)
    draw = max(1, chosen_number(request.POST.get("draw", ""), 1))
    with transaction.atomic():
        mine = Collected.objects.filter(user=request.user, department=request.membership.department)
        places = list(mine.select_for_update().values_list("position", flat=True))
        if len(places) >= MOST and not mine.filter(question=question).exists():
            return tray(request, tray_full=MOST)
        Collected.objects.update_or_create(
            user=request.user,
            department=request.membership.department,
            question=question,
            defaults={"draw": draw, "revision": question.newest},
            create_defaults={"draw": draw, "revision": question.newest, "position": max(places, default=-1) + 1},
        )
    return tray(request)


@member
@require_POST
def put_back(request: MemberRequest, pk: int) -> HttpResponse:
    """Take a question out of the tray."""
    mine = Collected.objects.filter(user=request.user, department=request.membership.department)
    mine.filter(question=pk).delete()
    return tray(request)


@member
@require_POST
def arrange_tray(request: MemberRequest) -> HttpResponse:
    """The order that dragging left behind, or one moved by a place."""
    with transaction.atomic():
        mine = Collected.objects.filter(user=request.user, department=request.membership.department)
        by_question = {each.question_id: each for each in mine.select_for_update()}
        order = list(by_question)
        moved, by = chosen_number(request.POST.get("move", "")), request.POST.get("to")
        if moved in order:
            at = order.index(moved)
            order.insert(max(0, at + (-1 if by == "up" else 1)), order.pop(at))
        else:
            wanted = [chosen_number(text) for text in request.POST.getlist("collected")]
            wanted = [pk for pk in dict.fromkeys(wanted) if pk in by_question]
            order = wanted + [pk for pk in order if pk not in wanted]
        for position, pk in enumerate(order):
            by_question[pk].position = position
        Collected.objects.bulk_update(by_question.values(), ["position"])
    return tray(request)


@member
@require_POST
def empty_tray(request: MemberRequest) -> HttpResponse:
    """Put everything back."""
    Collected.objects.filter(user=request.user, department=request.membership.department).delete()
    return tray(request)


# pools


@member
@require_GET
def pools(request: MemberRequest) -> HttpResponse:
    """The named pools of the department."""
    listed = Pool.objects.filter(department=request.membership.department).select_related("owner")
    kept = listed.exclude(archived=None) if request.GET.get("archive") == "yes" else listed.filter(archived=None)
    found = list(kept.prefetch_related("pooled__question__current"))
    archived = listed.exclude(archived=None).count()
    context = {"pools": found, "archived": archived, "in_archive": request.GET.get("archive") == "yes"}
    return render(request, "bank/pools.html", context)


@allowed("bank.add_pool")
@require_POST
def make_pool(request: MemberRequest) -> HttpResponse:
    """Make what is in the tray a pool with a name; the name of one that is there adds to it."""
    name = " ".join(request.POST.get("name", "").split())[:120]
    collected = in_tray(request)
    if not name or not collected:
        return tray(request, status=422, pool_unnamed=not name)
    with transaction.atomic():
        pool, made = Pool.objects.get_or_create(
            department=request.membership.department, name=name, defaults={"owner": request.user}
        )
        last = pool.pooled.aggregate(last=Max("position"))["last"]
        first = 0 if last is None else last + 1
        Pooled.objects.bulk_create(
            [Pooled(pool=pool, question=each.question, position=first + k) for k, each in enumerate(collected)],
            ignore_conflicts=True,
        )
    words = f"The pool “{name}” has {pool.pooled.count()} questions." if not made else f"Made the pool “{name}”."
    messages.success(request, words)
    return redirect("pools")


@member
@require_POST
def edit_pool(request: MemberRequest, pk: int) -> HttpResponse:
    """Rename a pool, put one of its questions out of it, or put it into the archive and back."""
    pool = held(request, "bank.change_pool", Pool.objects.all(), pk=pk)
    do = request.POST.get("do", "")
    if do == "archive":
        Pool.objects.filter(pk=pk).update(archived=timezone.now())
        messages.success(request, f"“{pool.name}” is in the archive.")
    elif do == "restore":
        Pool.objects.filter(pk=pk).update(archived=None)
        messages.success(request, f"“{pool.name}” is back.")
    elif do == "rename":
        name = " ".join(request.POST.get("name", "").split())[:120]
        taken = Pool.objects.filter(department=pool.department_id, name__iexact=name).exclude(pk=pk).exists()
        if not name or taken:
            messages.error(request, f"There is a pool “{name}” already." if taken else "A pool needs a name.")
        else:
            Pool.objects.filter(pk=pk).update(name=name, note=request.POST.get("note", "").strip()[:500])
    elif do.startswith("out "):
        pool.pooled.filter(question=chosen_number(do[4:])).delete()
    return redirect("pools")
