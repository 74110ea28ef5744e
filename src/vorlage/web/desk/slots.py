"""What the desk has to show on the page of questions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from vorlage.web.design.slots import fills
from vorlage.web.people.models import Membership
from vorlage.web.people.requests import MemberRequest

from .drafts import one_of_each, own_drafts

SHOWN = 12


@fills("bank-head", "desk/_drafts.html")
def drafts(request: MemberRequest, memberships: Sequence[Membership]) -> dict[Any, dict[str, Any]]:
    """One's own drafts, above the list of questions."""
    return {
        each.pk: {"drafts": one_of_each(own_drafts(request)[: 4 * SHOWN])[:SHOWN] if each.may_write else []}
        for each in memberships
    }
