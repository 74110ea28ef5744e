"""What is done on the desk by hand and changes what stands in its fields: the rules are the server's.

A tool gets the desk as it stands in the browser and what was done, and answers with the inputs that change.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from math import isfinite
from typing import Any

from django.http import Http404, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST

from vorlage.core.answers import tolerance_reaching, used_rows
from vorlage.core.figures import fine_step, moved_region, region_line
from vorlage.core.notation import NotationError, from_document, to_document
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed
from vorlage.web.people.requests import MemberRequest

from .form import Desk
from .renaming import renamed
from .rows import PartRow

Fields = dict[str, str]


@dataclass(frozen=True)
class Done:
    """What a tool changes: inputs by their names, and rows that are new, each with its list and its cells."""

    fields: Fields = field(default_factory=dict)
    rows: list[dict[str, Any]] = field(default_factory=list)


Tool = Callable[[Desk, Any], Done]


def part_at(desk: Desk, given: Any) -> PartRow:
    """The part that is meant, by its place."""
    place = chosen_number(given.get("tool-part", ""))
    if place >= len(desk.parts):
        raise Http404
    return desk.parts[place]


def number(given: Any, name: str) -> float:
    """A number that a script measured."""
    try:
        value = float(given.get(name, ""))
    except ValueError:
        raise Http404 from None
    if not isfinite(value):
        raise Http404
    return value


def edge(desk: Desk, given: Any) -> Done:
    """An edge on the ruler was moved: so far from the key the tolerance, or a line of the part marks, reaches now."""
    part = part_at(desk, given)
    distance, key = number(given, "tool-distance"), number(given, "tool-key")
    tolerance = from_document(tolerance_reaching(distance, key, given.get("tool-drags") == "relative"), desk.habits)
    band = given.get("tool-band", "")
    if not band:
        return Done({f"part-{part.uid}-tolerance": tolerance})
    rows, place = used_rows(part.typed.get("bands")), chosen_number(band)
    return Done({f"band-{rows[place]['id']}-tolerance": tolerance} if place < len(rows) else {})


def rename(desk: Desk, given: Any) -> Done:
    """A parameter was given another name."""
    old, new = given.get("tool-old", "").strip()[:40], given.get("tool-new", "").strip()[:40]
    return Done(renamed(desk, old, new) if old and new and old != new else {})


# A region that was only clicked: its radius as a share of the width of its figure.
RADIUS = 1 / 16
MOST_CORNERS = 40
# No place in a figure lies further away.
FURTHEST = 1e12


def place(desk: Desk, given: Any) -> Done:
    """A place in a figure was pointed at: it is tried as an answer."""
    part = part_at(desk, given)
    at = from_document(f"({rounded(number(given, 'tool-x'))}, {rounded(number(given, 'tool-y'))})", desk.habits)
    tried = given.get(f"try-{part.uid}", "").strip()
    several = chosen_number(str(part.typed.get("clicks") or ""), 1) > 1
    return Done({f"try-{part.uid}": f"{tried}; {at}" if several and tried else at})


def numbers_in(text: str) -> Any:
    """What a script measured, as JSON."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        raise Http404 from None


def drawn_region(desk: Desk, given: Any) -> Done:
    """A region was drawn in a figure: a circle from its middle to its edge, a box from corner to corner, or the corners
    of a polygon."""
    part, word = part_at(desk, given), given.get("tool-shape", "")
    width, places = number(given, "tool-width"), numbers_in(given.get("tool-places", ""))
    try:
        spots = [(float(x), float(y)) for x, y in places[:MOST_CORNERS]]
    except (TypeError, ValueError, OverflowError):
        raise Http404 from None
    if word not in {"circle", "box", "polygon"} or not all(abs(each) <= FURTHEST for spot in spots for each in spot):
        raise Http404
    if len(spots) == 1:
        word, spots = "circle", [spots[0], (spots[0][0] + width * RADIUS, spots[0][1])]
    if len(spots) < (3 if word == "polygon" else 2):
        return Done()
    line = region_line(word, spots, fine_step(width))
    return Done(rows=[new_row("regions", part, region=from_document(line, desk.habits))])


def region(desk: Desk, given: Any) -> Done:
    """A region was moved or resized by hand: its formulas are kept and shifted."""
    part, row = part_at(desk, given), chosen_number(given.get("tool-row", ""))
    rows, shifts = used_rows(part.typed.get("regions")), numbers_in(given.get("tool-shifts", ""))
    if row >= len(rows) or not isinstance(shifts, dict):
        raise Http404
    wanted = {
        int(k): float(by)
        for k, by in shifts.items()
        if k.isdecimal() and len(k) < 4 and isinstance(by, int | float) and abs(by) <= FURTHEST
    }
    try:
        written = to_document(rows[row]["region"], desk.habits)
    except NotationError:
        return Done()
    moved = moved_region(written, wanted, fine_step(number(given, "tool-width")))
    return Done({f"region-{rows[row]['id']}-region": from_document(moved, desk.habits)})


def new_row(name: str, part: PartRow, **cells: str) -> dict[str, Any]:
    """A row that is new in a list of a part."""
    return {"list": f"{name}-{part.uid}", "cells": cells}


def rounded(value: float) -> str:
    """A coordinate to three figures."""
    return f"{float(f'{value:.3g}'):g}"


def trial(desk: Desk, given: Any) -> Done:
    """A tried answer is kept as a sample answer, once."""
    part = part_at(desk, given)
    response, outcome = given.get(f"try-{part.uid}", "").strip(), given.get("tool-outcome", "")
    if any((row["response"].strip(), row["outcome"]) == (response, outcome) for row in part.trials):
        return Done()
    return Done(rows=[new_row("trials", part, response=response, outcome=outcome)])


TOOLS: dict[str, Tool] = {
    "edge": edge, "rename": rename, "place": place, "trial": trial, "draw": drawn_region, "region": region,
}  # fmt: skip


@allowed("bank.add_question")
@require_POST
def desk_tool(request: MemberRequest, tool: str) -> HttpResponse:
    """What a tool changes: the names of inputs, with what stands in them now."""
    if tool not in TOOLS:
        raise Http404
    desk = Desk.from_post(request.POST, request.membership.department.habits)
    return JsonResponse(asdict(TOOLS[tool](desk, request.POST)))
