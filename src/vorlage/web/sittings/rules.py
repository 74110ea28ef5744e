"""Who may do what with sittings: whoever writes in the department, and whoever teaches a class that sits it, runs it;
whoever marks it looks into it."""

from __future__ import annotations

import rules

from vorlage.web.people.models import User

from .models import Sitting


@rules.predicate
def works_here(user: User) -> bool:
    return user.school_id is not None and user.is_staff_here


@rules.predicate
def sees(user: User, sitting: Sitting) -> bool:
    return Sitting.objects.seen_by(user).filter(pk=sitting.pk).exists()


@rules.predicate
def runs(user: User, sitting: Sitting) -> bool:
    return Sitting.objects.run_by(user).filter(pk=sitting.pk).exists()


rules.add_perm("sittings.list_sittings", works_here)
rules.add_perm("sittings.view_sitting", sees)
rules.add_perm("sittings.mark_sitting", sees)
rules.add_perm("sittings.change_sitting", runs)
