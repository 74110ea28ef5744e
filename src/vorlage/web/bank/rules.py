"""Who may do what with questions, and with what is around them."""

from typing import Any

import rules

from vorlage.web.people.models import Membership
from vorlage.web.people.permissions import same_department, writes


@rules.predicate
def own(membership: Membership, thing: Any) -> bool:
    """What somebody keeps for themselves in the department."""
    return bool(thing.user_id == membership.user_id and thing.department_id == membership.department_id)


@rules.predicate
def belongs(membership: Membership) -> bool:
    """Everybody of a department."""
    return True


@rules.predicate
def seen(membership: Membership, thing: Any) -> bool:
    """A search that colleagues have too, or one's own."""
    return bool(thing.department_id == membership.department_id and (thing.shared or own(membership, thing)))


@rules.predicate
def shared(membership: Membership, thing: Any) -> bool:
    """A question of the department, or one of another that may be used here."""
    return bool(thing.open_to(membership))


rules.add_perm("bank.view_question", shared)
rules.add_perm("bank.view_picture", same_department)
rules.add_perm("bank.add_question", writes)
rules.add_perm("bank.change_question", same_department & writes)
rules.add_perm("bank.view_topic", same_department)
rules.add_perm("bank.change_topics", writes)
rules.add_perm("bank.change_topic", same_department & writes)
rules.add_perm("bank.view_pool", same_department)
rules.add_perm("bank.add_pool", writes)
rules.add_perm("bank.change_pool", same_department & writes)
rules.add_perm("bank.keep_search", belongs)
rules.add_perm("bank.view_keptsearch", seen)
rules.add_perm("bank.drop_keptsearch", own)
rules.add_perm("bank.view_done", own)
rules.add_perm("bank.take_back_done", own & writes)
