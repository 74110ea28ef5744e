"""Who may do what with files of questions."""

from __future__ import annotations

from typing import Any

import rules

from vorlage.web.people.models import Membership
from vorlage.web.people.permissions import same_department, writes


@rules.predicate
def own(membership: Membership, thing: Any) -> bool:
    """What somebody brought, or takes out, is theirs."""
    return bool(thing.user_id == membership.user_id)


rules.add_perm("exchange.view_intake", same_department & own)
rules.add_perm("exchange.change_intake", same_department & own & writes)
rules.add_perm("exchange.view_outgoing", same_department & own)
