"""The rooms of a school: their rows, columns and gaps."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from vorlage.web.once.models import once
from vorlage.web.people.permissions import held, may, personally
from vorlage.web.people.requests import MemberRequest

from .forms import RoomForm
from .models import Room


@personally("seating.list_rooms")
@require_GET
def rooms(request: MemberRequest) -> HttpResponse:
    return list_page(request)


def list_page(request: MemberRequest, form: RoomForm | None = None) -> HttpResponse:
    may_add = may(request.user, "seating.add_room")
    context = {
        "rooms": Room.objects.filter(school=request.user.school_id),
        "form": (form or RoomForm()) if may_add else None,
    }
    return render(request, "seating/rooms.html", context, status=422 if form else 200)


@personally("seating.add_room")
@require_POST
@once
def new_room(request: MemberRequest) -> HttpResponse:
    form = RoomForm(request.POST, instance=Room(school=request.user.school))
    if not form.is_valid():
        return list_page(request, form)
    return redirect("room", form.save().pk)


def room_of(request: MemberRequest, pk: int, permission: str) -> Room:
    return held(request, permission, Room.objects.all(), by=request.user, pk=pk)


@personally("seating.list_rooms")
@require_http_methods(["GET", "POST"])
def room(request: MemberRequest, pk: int) -> HttpResponse:
    """A room as it is laid out; a post changes it. Seat plans keep the room as it was when they were made."""
    found = room_of(request, pk, "seating.change_room" if request.method == "POST" else "seating.view_room")
    form = RoomForm(request.POST or None, instance=found)
    if request.method == "POST":
        gaps = gaps_in(request.POST.getlist("gap"))
        if form.is_valid():
            changed = form.save(commit=False)
            changed.gaps = [list(each) for each in gaps if each[0] < changed.rows and each[1] < changed.columns]
            if changed.layout.seats:
                changed.save()
                messages.success(request, "Saved.")
                return redirect("room", pk)
            form.add_error(None, "A room needs one seat at least: untick a gap.")
        # the room as it was, with the gaps as they were sent
        found.refresh_from_db()
        found.gaps = [list(each) for each in gaps]
    context = {
        "room": found, "form": form, "may_change": may(request.user, "seating.change_room", found),
        "lines": [
            (row, [(column, [row, column] in found.gaps) for column in range(found.columns)])
            for row in range(found.rows)
        ],
    }  # fmt: skip
    return render(request, "seating/room.html", context, status=422 if form.errors else 200)


def gaps_in(sent: list[str]) -> list[tuple[int, int]]:
    """Gaps as a page sends them, ``2-5``, each once; what is none is passed over."""
    found = set()
    for each in sent[:2_000]:
        row, _, column = each.partition("-")
        if row.isdecimal() and column.isdecimal() and len(each) < 8:
            found.add((int(row), int(column)))
    return sorted(found)


@personally("seating.list_rooms")
@require_POST
def remove_room(request: MemberRequest, pk: int) -> HttpResponse:
    """Remove a room; the seat plans that were made in it stay."""
    found = room_of(request, pk, "seating.change_room")
    found.delete()
    messages.success(request, f"Room {found.name} is removed.")
    return redirect("rooms")
