"""Who may do what with people, departments and schools. These hold for a person, whatever department they work in."""

import rules

from .models import Department, School, User


@rules.predicate
def looks_after_people(user: User) -> bool:
    """Administrators of a school, and heads of department."""
    return user.administers or any(held.leads for held in user.roles)


@rules.predicate
def administers(user: User) -> bool:
    return user.administers and user.school_id is not None


@rules.predicate
def administers_school(user: User, school: School) -> bool:
    return user.administers and user.school_id == school.pk


@rules.predicate
def of_own_school(user: User, department: Department) -> bool:
    """An administrator, and a department of their school."""
    return user.administers and user.school_id == department.school_id


@rules.predicate
def belongs(user: User, department: Department) -> bool:
    return user.role_in(department.pk) is not None


@rules.predicate
def leads(user: User, department: Department) -> bool:
    return user.leads(department.pk)


@rules.predicate
def colleague(user: User, person: User) -> bool:
    """An administrator and whoever works at their school; a head and whoever has a role in a department they lead."""
    if person.studies or person.school_id != user.school_id or user.school_id is None:
        return False
    return user.administers or any(user.leads(held.department_id) for held in person.roles)


@rules.predicate
def administers_person(user: User, person: User) -> bool:
    return user.administers and not person.studies and person.school_id == user.school_id is not None


@rules.predicate
def works_here(user: User) -> bool:
    return user.is_staff_here


rules.add_perm("people.list_people", looks_after_people)
rules.add_perm("people.view_departments", works_here)
rules.add_perm("people.view_department", belongs | of_own_school)
rules.add_perm("people.change_department", leads | of_own_school)
rules.add_perm("people.add_department", administers)
rules.add_perm("people.change_school", administers)
rules.add_perm("people.view_user", colleague)
rules.add_perm("people.change_user", colleague)
rules.add_perm("people.administer_user", administers_person)
