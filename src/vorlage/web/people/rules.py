"""Who may do what with people and departments."""

import rules

from .models import Department, Membership


@rules.predicate
def own(membership: Membership, department: Department) -> bool:
    """The department that a member works in."""
    return bool(department.pk == membership.department_id)


@rules.predicate
def leads(membership: Membership) -> bool:
    """Heads of department."""
    return membership.leads


rules.add_perm("people.view_department", own)
rules.add_perm("people.change_department", own & leads)
