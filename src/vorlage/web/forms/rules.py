"""Who may do what with form sets: what is made of a test is its department's."""

from __future__ import annotations

import rules

from vorlage.web.people.models import Membership
from vorlage.web.people.permissions import same_department, writes

from .models import FormSet


@rules.predicate
def of_own_test(membership: Membership, form_set: FormSet) -> bool:
    """A set of a test of the department that a member works in."""
    return bool(same_department(membership, form_set.test))


rules.add_perm("forms.view_formset", of_own_test)
rules.add_perm("forms.make_formset", same_department & writes)
rules.add_perm("forms.cancel_formset", of_own_test & writes)
