"""Places on the page of a station into which stations above it put what they have to show.

A station never knows those above it: it names the place, and they fill it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from django.http import HttpRequest
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

# From a request and the objects that a page shows to what is to be said of each, by its key.
Filler = Callable[[Any, Sequence[Any]], dict[Any, dict[str, Any]]]
FILLERS: dict[str, list[tuple[str, Filler]]] = {}


def fills(slot: str, template: str) -> Callable[[Filler], Filler]:
    """Say that a function fills a slot: it gives the context of a template for every object."""

    def register(filler: Filler) -> Filler:
        FILLERS.setdefault(slot, []).append((template, filler))
        return filler

    return register


def filled(slot: str, request: HttpRequest, objects: Sequence[Any], shared: Mapping[Any, Any]) -> dict[Any, SafeString]:
    """What stands in a slot for each of some objects, by their keys; ``shared`` is known to every template."""
    found: dict[Any, SafeString] = {each.pk: SafeString() for each in objects}
    for template, filler in FILLERS.get(slot, []):
        for key, context in filler(request, objects).items():
            found[key] += render_to_string(template, {**shared, **context}, request)
    return found
