"""Who may do what with classes and students. These hold for a person, whatever department they work in."""

import rules

from vorlage.web.people.models import User

from .models import Class, Enrolment, Student


@rules.predicate
def works_here(user: User) -> bool:
    """Whoever works at a school."""
    return user.school_id is not None and user.is_staff_here


@rules.predicate
def begins_classes(user: User) -> bool:
    """Heads of department, authors and administrators."""
    return user.administers or any(held.may_write for held in user.roles)


@rules.predicate
def sees(user: User, held: Class) -> bool:
    """Whoever teaches the class, leads its department, or administers its school."""
    return Class.objects.seen_by(user).filter(pk=held.pk).exists()


@rules.predicate
def sees_student(user: User, student: Student) -> bool:
    """Whoever sees a class that the student is or was in, and the administrators of the school."""
    return Student.objects.seen_by(user).filter(pk=student.pk).exists()


@rules.predicate
def teaches(user: User, student: Student) -> bool:
    """Whoever teaches a class that the student is in now."""
    return Enrolment.objects.filter(student=student, left=None, held__teachings__user=user).exists()


rules.add_perm("classes.list_classes", works_here)
rules.add_perm("classes.add_class", works_here & begins_classes)
rules.add_perm("classes.view_class", sees)
rules.add_perm("classes.change_class", sees)
rules.add_perm("classes.view_student", sees_student)
rules.add_perm("classes.change_student", sees_student)
rules.add_perm("classes.view_allowance", teaches)
