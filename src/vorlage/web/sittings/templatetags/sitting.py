"""A question as a student answers it: its texts are markup that the core wrote, and inputs stand in them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.notation import PLAIN, mathml
from vorlage.core.sittings.sheets import GAP, GAP_END
from vorlage.core.text import HTML, read_text
from vorlage.web.bank.markup import for_students, letters_set, unit_set

from ..marking import OUTCOMES

register = template.Library()
PLACE = re.compile(f"{GAP}(\\d+){GAP_END}")


@register.filter
def markup(text: str) -> SafeString:
    """A text that was kept as the core's printers wrote it."""
    return for_students(text)


@register.simple_tag
def part_wording(part: Mapping[str, Any], number: int) -> SafeString:
    """The wording of a part, with an input in every place for an answer in it."""

    def place(found: re.Match[str]) -> str:
        k = int(found[1])
        gap = part["gaps"][k - 1] if part["gaps"] else {"number": k, "options": []}
        context = {"part": part, "gap": gap, "number": number, "options": gap["options"]}
        return render_to_string("sittings/_gap.html", context).strip()

    return mark_safe(PLACE.sub(place, for_students(part["wording"])))


@register.simple_tag
def wording_alone(part: Mapping[str, Any]) -> SafeString:
    """The wording of a part without inputs, for looking back."""
    return mark_safe(PLACE.sub('<span class="blank"></span>', for_students(part["wording"])))


@register.filter
def before_space(part: Mapping[str, Any]) -> SafeString:
    """What stands before the answer space."""
    return letters_set(", ".join(part["before"]))


@register.filter
def after_space(part: Mapping[str, Any]) -> SafeString:
    """What stands after the answer space."""
    return unit_set(part["after"])


@register.simple_tag
def how_to_type(part: Mapping[str, Any]) -> str:
    """How answers of this kind are typed, in a line."""
    if part["numeric"]:
        return "You can type 0.25, 1/4, 2.5*10^3 or sqrt(2); a unit after a space, such as 12.5 m/s."
    return "You can type x^2 for a square, sqrt(x) for a root, 3*x or 3x, (a+b)/2 for a fraction."


@register.filter
def right_sides(part: Mapping[str, Any]) -> list[Any]:
    return list(part["offers"][part["lefts"] :])


@register.filter
def from_one(count: int) -> range:
    return range(1, count + 1)


@register.filter
def outcome_words(outcome: str) -> str:
    """What became of an answer, in words."""
    return OUTCOMES.get(outcome, outcome)


@register.filter
def as_percent(share: Fraction) -> str:
    """A share in words."""
    return f"{float(share * 100):.4g} %"


@register.filter
def with_maths(text: str) -> SafeString:
    """What a teacher wrote, with the maths between its dollar signs set."""
    return for_students(HTML.text(read_text(text, PLAIN), lambda tree, block: mathml(tree), inline=True))


@register.filter
def of_part(returned: Mapping[str, Any], part: Mapping[str, Any]) -> Any:
    """What came back of a part."""
    return returned.get(part["id"])
