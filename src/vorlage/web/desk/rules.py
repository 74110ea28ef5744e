"""Who may do what with drafts."""

from __future__ import annotations

import rules

from vorlage.web.people.models import Membership
from vorlage.web.people.permissions import same_department, writes

from .models import Draft


@rules.predicate
def own(membership: Membership, draft: Draft) -> bool:
    """What somebody is writing is theirs."""
    return bool(draft.user_id == membership.user_id)


rules.add_perm("desk.view_draft", same_department & own)
rules.add_perm("desk.delete_draft", same_department & own & writes)
