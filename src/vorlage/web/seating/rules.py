"""Who may do what with rooms, which are their school's, and with seat plans, which are of a class and a form set."""

from __future__ import annotations

import rules

from vorlage.web.classes.models import Class
from vorlage.web.classes.rules import begins_classes, works_here
from vorlage.web.people.models import Membership, User
from vorlage.web.people.permissions import may, writes

from .models import Room, SeatPlan


@rules.predicate
def of_own_school(user: User, room: Room) -> bool:
    return room.school_id == user.school_id and user.is_staff_here


@rules.predicate
def sees_both(membership: Membership, plan: SeatPlan) -> bool:
    """Whoever may see the form set and opens the class: a seat plan names its students."""
    if not may(membership, "forms.view_formset", plan.form_set):
        return False
    return Class.objects.seen_by(membership.user).filter(pk=plan.held_id).exists()


rules.add_perm("seating.list_rooms", works_here)
rules.add_perm("seating.view_room", of_own_school)
rules.add_perm("seating.add_room", works_here & begins_classes)
rules.add_perm("seating.change_room", of_own_school & begins_classes)
rules.add_perm("seating.view_seatplan", sees_both)
rules.add_perm("seating.change_seatplan", sees_both & writes)
