"""The topics of a department: its tree, and changing it."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.questions import ARROW, DEEP, folded
from vorlage.core.text import unaccented, unprintable
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest

from .models import HEIGHTS, Topic, Tree
from .models.topics import merge_topics, move_topic, questions_under, rename_topic

LONGEST, OFFERED = 100, 8


@member
@require_GET
def topics(request: MemberRequest) -> HttpResponse:
    """The tree with how many questions stand under each."""
    return topics_page(request)


def topics_page(request: MemberRequest, status: int = 200, chosen: int = 0, **more: Any) -> HttpResponse:
    tree = Tree(request.membership.department)
    counted = questions_under(request.membership.department_id)
    topic = tree.topics.get(chosen or chosen_number(request.GET.get("topic", request.POST.get("topic", ""))))
    rows = [
        {"topic": each, "height": height, "what": HEIGHTS[height], "count": counted.get(each.pk, 0)}
        for each, height in tree.rows
    ]
    context: dict[str, Any] = {"rows": rows, "chosen": topic, "tree": tree}
    if topic is not None:
        way = tree.way(topic.pk)
        below = set(tree.all_below(topic.pk))
        heights = tree.depth_below(topic.pk)
        context |= {
            "what": HEIGHTS[len(way) - 1],
            "below": HEIGHTS[len(way)] if len(way) < DEEP else "",
            "path": ARROW.join(tree.path(topic.pk)),
            "count": counted.get(topic.pk, 0),
            # where it can be moved to, and with what it can be made one
            "parents": [
                (pk, ARROW.join(path))
                for path, pk in tree.paths.items()
                if pk not in below and len(path) + heights < DEEP and pk != topic.parent_id
            ],
            "others": [
                (pk, ARROW.join(path))
                for path, pk in tree.paths.items()
                if pk not in below and len(path) - 1 + heights < DEEP
            ],
            "is_subject": topic.parent_id is None,
            "can_go": not topic.children.exists() and not topic.filed.exists(),
        }
    return render(request, "bank/topics.html", context | more, status=status)


def typed_name(request: MemberRequest) -> str:
    """The name that was typed. Raises ``ValueError`` for none, or one that cannot be used."""
    name = " ".join(request.POST.get("name", "").split())
    if not name:
        raise ValueError("A name is needed.")
    if len(name) > LONGEST:
        raise ValueError(f"A name has at most {LONGEST} characters.")
    if any(sign in name for sign in ">▸;"):
        raise ValueError("A name has no “>”, “▸” or “;”: these stand between the names of several.")
    odd = next(unprintable(name), None)
    if odd is not None:
        raise ValueError(odd.message)
    return name


@allowed("bank.change_topics")
@require_POST
def add_topic(request: MemberRequest) -> HttpResponse:
    """A new subject, or one below another."""
    tree = Tree(request.membership.department)
    parent = chosen_number(request.POST.get("topic", "")) or None
    try:
        name = typed_name(request)
        if parent is not None and (parent not in tree.topics or len(tree.way(parent)) >= DEEP):
            raise ValueError("Nothing can stand below this.")
        if any(folded(each.name) == folded(name) for each in tree.below.get(parent, [])):
            raise ValueError(f"There is a “{name}” here already.")
    except ValueError as problem:
        return topics_page(request, 422, refused_new=str(problem), typed_new=request.POST.get("name", ""))
    made = tree.add(name, parent)
    return redirect(f"{request.path.removesuffix('add/')}?topic={parent or made.pk}")


@member
@require_POST
def change_topic(request: MemberRequest, pk: int) -> HttpResponse:
    """Rename a topic, move it, make it one with another, or take away one that nothing stands under."""
    topic = held(request, "bank.change_topic", Topic.objects.select_related("department"), pk=pk)
    do = request.POST.get("do", "")
    others = Topic.objects.filter(department=topic.department_id)
    chosen = topic.pk
    try:
        if do == "rename":
            rename_topic(topic, typed_name(request))
        elif do in {"up", "down"}:
            beside = [each.pk for each in Tree(topic.department_id).below[topic.parent_id]]
            at = beside.index(topic.pk) + (-1 if do == "up" else 1)
            move_topic(topic, topic.parent, max(0, at))
        elif do == "move":
            parent = others.filter(pk=chosen_number(request.POST.get("parent", ""))).first()
            if parent is None and request.POST.get("parent") != "none":
                raise ValueError("Choose where it is to stand.")
            move_topic(topic, parent, 10_000)
        elif do == "merge":
            into = others.filter(pk=chosen_number(request.POST.get("into", ""))).exclude(pk=pk).first()
            if into is None:
                raise ValueError("Choose the topic that it is to become one with.")
            merge_topics(topic, into)
            messages.success(request, f"“{topic.name}” is now one with “{into.name}”.")
            chosen = into.pk
        elif do == "remove":
            if topic.children.exists() or topic.filed.exists():
                raise ValueError("Something stands under it. Make it one with another topic instead.")
            chosen = topic.parent_id or 0
            topic.delete()
    except ValueError as problem:
        return topics_page(request, 422, chosen=pk, refused=str(problem))
    return redirect(f"{request.path.rsplit('/', 2)[0]}/?topic={chosen}" if chosen else "topics")


@member
@require_GET
def topic_offers(request: MemberRequest) -> HttpResponse:
    """Topics that the end of what is typed may mean."""
    typed = unaccented(request.GET.get("topics", "")[-200:].rsplit(";", 1)[-1]).replace(">", "▸")
    wanted = [piece.strip() for piece in typed.split("▸") if piece.strip()]
    found = []
    if wanted:
        for path in Tree(request.membership.department).paths:
            names = [unaccented(name) for name in path]
            if all(any(piece in name for name in names) for piece in wanted):
                starts = any(name.startswith(wanted[-1]) for name in names)
                found.append((not starts, len(path), ARROW.join(path)))
    offered = [path for _, _, path in sorted(found)[:OFFERED]]
    return render(request, "bank/_topic_offers.html", {"offers": offered, "typed": bool(wanted)})
