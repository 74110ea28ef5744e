"""Every address with every role: an address that the table does not know fails the test."""

from collections.abc import Iterator
from copy import deepcopy
from datetime import timedelta
from typing import Any

from django.db import connection, transaction
from django.http import HttpResponse
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from django.utils import timezone

from vorlage.core.questions import load_document
from vorlage.core.sittings import Rules
from vorlage.web.bank.models import Done, KeptSearch, Pool, Question, Topic
from vorlage.web.classes.models import Class, Student
from vorlage.web.classes.slips import make_slips
from vorlage.web.desk.models import Draft
from vorlage.web.exchange.models import Brought, Intake, Outgoing
from vorlage.web.forms.models import Page
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import perform
from vorlage.web.marking.models import ClassWork, SecondMarking
from vorlage.web.plans.models import SchoolMark
from vorlage.web.seating.models import Room, SeatPlan
from vorlage.web.sittings.models import InsertPage, Sitting, Taking, Wall
from vorlage.web.sittings.on_wall import draw

from .samples import department, frozen, person, question, test_of

ROLES = [
    "nobody", "stranger", "homeless", "reader", "author", "lead",
    "administrator", "elsewhere", "teacher", "other", "student", "marker",
]  # fmt: skip
# Whom each of the others is like where classes and people are not concerned: administrators and students have no
# department, elsewhere is head of one at another school, the teacher of the class writes, that of another one reads, and
# who marks a sitting is head of another department.
LIKE = {
    "administrator": "homeless",
    "elsewhere": "stranger",
    "teacher": "author",
    "other": "reader",
    "student": "homeless",
    "marker": "stranger",
}

# address: the method, and the answer to each role: nobody (not signed in, as a technician is, who has commands and no
# screens), stranger (head of another department), homeless (no department), reader, author, lead; where more of them
# are told apart, also to administrator, elsewhere, teacher, other, student and the marker of a sitting
SIGN_IN = 302
ANSWERS: dict[str, tuple[str, list[int]]] = {
    "home": ("get", [302, 302, 302, 302, 302, 302]),
    "account_login": ("get", [200, 302, 302, 302, 302, 302]),
    "account_logout": ("post", [302, 302, 302, 302, 302, 302]),
    "account_inactive": ("get", [200, 200, 200, 200, 200, 200]),
    "change-department": ("post", [SIGN_IN, 404, 404, 302, 302, 302]),
    "department-settings": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 302, 200, 200, 200, 403]),
    "settings-of-department": ("get", [SIGN_IN, 404, 403, 200, 200, 200, 200, 404, 200, 200, 403]),
    "new-department": ("post", [SIGN_IN, 403, 403, 403, 403, 403, 422, 403, 403, 403, 403]),
    "people": ("get", [SIGN_IN, 200, 403, 403, 403, 200, 200, 200, 403, 403, 403]),
    "invite": ("post", [SIGN_IN, 422, 403, 403, 403, 422, 422, 422, 403, 403, 403]),
    "person": ("get", [SIGN_IN, 404, 403, 403, 403, 200, 200, 404, 403, 403, 403]),
    "set-roles": ("post", [SIGN_IN, 404, 403, 403, 403, 302, 302, 404, 403, 403, 403]),
    "with-person": ("post", [SIGN_IN, 404, 403, 403, 403, 403, 302, 404, 403, 403, 403]),
    "hand-over": ("post", [SIGN_IN, 404, 403, 403, 403, 404, 404, 404, 403, 403, 403]),
    "school": ("get", [SIGN_IN, 403, 403, 403, 403, 403, 200, 403, 403, 403, 403]),
    "classes": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 200, 200, 200, 403]),
    "new-class": ("post", [SIGN_IN, 422, 403, 403, 422, 422, 422, 422, 422, 403, 403]),
    "class": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 200, 404, 200, 404, 403]),
    "edit-class": ("post", [SIGN_IN, 404, 403, 404, 404, 422, 422, 404, 422, 404, 403]),
    "add-students": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 200, 404, 200, 404, 403]),
    "drop-class": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 302, 404, 302, 404, 403]),
    "with-students": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 302, 404, 302, 404, 403]),
    "undo-class": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 302, 404, 302, 404, 403]),
    "slips": ("post", [SIGN_IN, 404, 403, 404, 404, 200, 200, 404, 200, 404, 403]),
    "class-list": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 200, 404, 200, 404, 403]),
    "students": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 200, 200, 200, 403]),
    "student": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 200, 404, 200, 404, 403]),
    "edit-student": ("post", [SIGN_IN, 404, 403, 404, 404, 422, 422, 404, 422, 404, 403]),
    "edit-allowance": ("post", [SIGN_IN, 404, 403, 404, 404, 403, 403, 404, 302, 404, 403]),
    "mine": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "change-password": ("get", [302, 200, 200, 200, 200, 200]),
    "forgotten-password": ("get", [200, 200, 200, 200, 200, 200]),
    "set-password": ("get", [200, 200, 200, 200, 200, 200]),
    "mfa_authenticate": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "account_reauthenticate": ("get", [SIGN_IN, 200, 200, 200, 200, 200]),
    "mfa_reauthenticate": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_index": ("get", [SIGN_IN, 200, 200, 200, 200, 200]),
    # the password is asked for first
    "mfa_activate_totp": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_deactivate_totp": ("get", [SIGN_IN, 404, 404, 404, 404, 404]),
    "mfa_view_recovery_codes": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "mfa_generate_recovery_codes": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "session": ("get", [200, 200, 200, 200, 200, 200]),
    "jump": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "questions": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "facets": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "look": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "proofs": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "work": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 403, 404, 404, 404, 403]),
    "prove-all": ("post", [SIGN_IN, 302, 403, 403, 302, 302]),
    "copy-question": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "move-on": ("post", [SIGN_IN, 404, 403, 302, 302, 302]),
    "keep-search": ("post", [SIGN_IN, 302, 403, 302, 302, 302]),
    "drop-search": ("post", [SIGN_IN, 404, 403, 403, 302, 403, 403, 404, 403, 403, 403]),
    "with-questions": ("post", [SIGN_IN, 302, 403, 403, 302, 302]),
    "take-back": ("post", [SIGN_IN, 404, 403, 403, 302, 404, 403, 404, 404, 403, 403]),
    "topics": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "add-topic": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "topic-offers": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "change-topic": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "collect": ("post", [SIGN_IN, 404, 403, 302, 302, 302]),
    "put-back": ("post", [SIGN_IN, 302, 403, 302, 302, 302]),
    "arrange-tray": ("post", [SIGN_IN, 302, 403, 302, 302, 302]),
    "empty-tray": ("post", [SIGN_IN, 302, 403, 302, 302, 302]),
    "pools": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "make-pool": ("post", [SIGN_IN, 302, 403, 403, 302, 302]),
    "edit-pool": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "test-from-tray": ("post", [SIGN_IN, 302, 403, 403, 302, 302]),
    "bring": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "take-brought": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "formulas-for": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "laid": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "table-template": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "plain-layout": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "intake": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 403, 404, 404, 404, 403]),
    "brought": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 403, 404, 404, 404, 403]),
    "decide": ("post", [SIGN_IN, 404, 403, 403, 302, 404, 403, 404, 404, 403, 403]),
    "with-intake": ("post", [SIGN_IN, 404, 403, 403, 302, 404, 403, 404, 404, 403, 403]),
    "take-out": ("post", [SIGN_IN, 302, 403, 403, 302, 302]),
    "outgoing": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 403, 404, 404, 404, 403]),
    "stop-outgoing": ("post", [SIGN_IN, 404, 403, 404, 302, 404, 403, 404, 404, 404, 403]),
    "outgoing-file": ("get", [SIGN_IN, 404, 403, 404, 302, 404, 403, 404, 404, 404, 403]),
    "formula-book": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "new-question": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "question": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "gallery": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "from-fixed": ("get", [SIGN_IN, 200, 403, 403, 200, 200]),
    "look-for-numbers": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "vary": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "question-history": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "drop-draft": ("post", [SIGN_IN, 404, 403, 403, 302, 404, 403, 404, 404, 403, 403]),
    "survey-question": ("post", [SIGN_IN, 200, 403, 200, 200, 200]),
    "preview-question": ("post", [SIGN_IN, 404, 403, 200, 200, 200]),
    "desk-tool": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "save-question": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "keep-rubric": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "part-conversion": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "options-of-part": ("post", [SIGN_IN, 404, 403, 403, 404, 404]),
    "add-picture": ("post", [SIGN_IN, 200, 403, 403, 200, 200]),
    "picture": ("get", [SIGN_IN, 404, 403, 404, 404, 404]),
    "tests": ("get", [SIGN_IN, 200, 403, 200, 200, 200]),
    "new-test": ("post", [SIGN_IN, 422, 403, 403, 422, 422]),
    "test": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "edit-test": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "archive-test": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "offers": ("get", [SIGN_IN, 404, 403, 403, 200, 200]),
    "add-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "arrange": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "move-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "newer": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "renew-candidate": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "remove-candidate": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "copy-test": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "look-at-test": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "test-paper": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "test-paper-pages": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "keep-look": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "keep-boundaries": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "school-mark": ("get", [SIGN_IN, 403, 403, 403, 403, 403, 200, 403, 403, 403, 403]),
    "keep-school-mark": ("post", [SIGN_IN, 403, 403, 403, 403, 403, 422, 403, 403, 403, 403]),
    "write-for-test": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "add-places": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "add-pool-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "rule-count": ("get", [SIGN_IN, 404, 403, 403, 200, 200]),
    "sort-places": ("post", [SIGN_IN, 404, 403, 403, 400, 400]),
    "aim": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "fill-plan": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "filling": ("get", [SIGN_IN, 404, 403, 403, 302, 302]),
    "undo-step": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "add-insert": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "edit-insert": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "insert-file": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "add-section": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "edit-section": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "move-section": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "remove-section": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "edit-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "turn-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "another-set": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "remove-place": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "make-forms": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    "form-set": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "form-set-progress": ("get", [SIGN_IN, 404, 403, 204, 204, 204]),
    "cancel-form-set": ("post", [SIGN_IN, 404, 403, 403, 302, 302]),
    "printed": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper-beside": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "paper-page": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "key-table": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "form-key": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "insert-of-set": ("get", [SIGN_IN, 404, 403, 200, 200, 200]),
    "rooms": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 200, 200, 200, 403]),
    "new-room": ("post", [SIGN_IN, 422, 403, 403, 422, 422, 422, 422, 422, 403, 403]),
    "room": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 404, 200, 200, 403]),
    "remove-room": ("post", [SIGN_IN, 302, 403, 403, 302, 302, 302, 404, 302, 403, 403]),
    "new-seat-plan": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    # a seat plan names students: only who opens their class sees it
    "seat-plan": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 403, 404, 200, 404, 403]),
    "seat-plan-progress": ("get", [SIGN_IN, 404, 403, 404, 404, 204, 403, 404, 204, 404, 403]),
    "stop-seat-plan": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 403, 404, 302, 404, 403]),
    "move-seat": ("post", [SIGN_IN, 404, 403, 404, 404, 422, 403, 404, 422, 404, 403]),
    "seat-anew": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 403, 404, 302, 404, 403]),
    "order-class-papers": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 403, 404, 302, 404, 403]),
    "class-papers": ("get", [SIGN_IN, 404, 403, 404, 404, 200, 403, 404, 200, 404, 403]),
    "remove-seat-plan": ("post", [SIGN_IN, 404, 403, 404, 404, 302, 403, 404, 302, 404, 403]),
    "sittings": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 200, 200, 200, 403]),
    "give-test": ("post", [SIGN_IN, 404, 403, 403, 422, 422]),
    # whoever writes in the department, and whoever teaches a class that sits it
    "sitting": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "sitting-table": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "sitting-answers": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "sitting-rules": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 403]),
    "say-sitting-rules": ("post", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 403]),
    "keep-sitting-rules": ("post", [SIGN_IN, 404, 403, 404, 422, 422, 404, 404, 422, 404, 403, 403]),
    "take-sitting-rules": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "act-in-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "tell-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "release-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "change-entry-word": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "sitting-wall": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 403]),
    "sitting-markers": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "marking": ("get", [SIGN_IN, 200, 403, 200, 200, 200, 200, 200, 200, 200, 403]),
    "mark-sitting": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "mark-student": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "results": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "results-table": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "class-work": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "class-work-progress": ("get", [SIGN_IN, 404, 403, 404, 204, 204, 404, 404, 204, 404, 403, 204]),
    "order-class-work": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 302]),
    "mark-part": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "second-markings": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "second-marking": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "papers-to-key": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "paper-to-key": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 200]),
    "change-part": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 403]),
    "counting": ("get", [SIGN_IN, 404, 403, 404, 200, 200, 404, 404, 200, 404, 403, 403]),
    "mark-rule": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "show-change": ("post", [SIGN_IN, 404, 403, 404, 404, 404, 404, 404, 404, 404, 403, 403]),
    "make-change": ("post", [SIGN_IN, 404, 403, 404, 404, 404, 404, 404, 404, 404, 403, 403]),
    "undo-change": ("post", [SIGN_IN, 404, 403, 404, 404, 404, 404, 404, 404, 404, 403, 403]),
    "give-marks": ("post", [SIGN_IN, 404, 403, 404, 422, 422, 404, 404, 422, 404, 403, 422]),
    "marks-by-rule": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 302]),
    "keep-typed": ("post", [SIGN_IN, 404, 403, 404, 204, 204, 404, 404, 204, 404, 403, 204]),
    "write-slip": ("post", [SIGN_IN, 404, 403, 404, 422, 422, 404, 404, 422, 404, 403, 403]),
    "key-paper": ("post", [SIGN_IN, 404, 403, 404, 422, 422, 404, 404, 422, 404, 403, 422]),
    "ask-second-marking": ("post", [SIGN_IN, 404, 403, 404, 422, 422, 404, 404, 422, 404, 403, 422]),
    "give-second": ("post", [SIGN_IN, 404, 403, 404, 404, 404, 404, 404, 404, 404, 403, 404]),
    "settle-second": ("post", [SIGN_IN, 404, 403, 404, 404, 404, 404, 404, 404, 404, 403, 404]),
    "sitting-students": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "try-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "retake-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "open-next": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "sitting-next": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "give-again": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "archive-sitting": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    "keep-way": ("post", [SIGN_IN, 404, 403, 404, 302, 302, 404, 404, 302, 404, 403, 403]),
    # what somebody shows on the wall is their own
    "show-test": ("post", [SIGN_IN, 404, 403, 302, 302, 302]),
    "show-question": ("post", [SIGN_IN, 404, 403, 302, 302, 302]),
    "on-wall": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 404, 404, 404, 404, 403]),
    "wall-now": ("get", [SIGN_IN, 404, 403, 404, 200, 404, 404, 404, 404, 404, 403]),
    "wall-do": ("post", [SIGN_IN, 404, 403, 404, 302, 404, 404, 404, 404, 404, 403]),
    # by an address that nobody else can write
    "shown-picture": ("get", [404, 404, 404, 404, 404, 404]),
    "wall-phone": ("get", [200, 200, 200, 200, 200, 200]),
    "wall-answer": ("post", [302, 302, 302, 302, 302, 302]),
    "wall-read": ("post", [400, 400, 400, 400, 400, 400]),
    # whoever has the code; this one is for students who sign in
    "come-in": ("get", [200, 200, 200, 200, 200, 200]),
    "enter-code": ("post", [422, 422, 422, 422, 422, 422]),
    "sitting-door": ("get", [SIGN_IN, 302, 302, 302, 302, 302]),
    "enter-sitting": ("post", [302, 302, 302, 302, 302, 302]),
    # a student of a class that sits it, and nobody else
    "sit": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "begin-sitting": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "sit-work": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "sit-insert": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "go-on-to-section": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "before-handing-in": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "hand-in": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "sitting-done": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "own-work": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "take-sitting-back": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "mend-sitting": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "practice": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "practice-draw": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "practise": ("get", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 200]),
    "practice-read": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 400]),
    "practice-check": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    "practice-show": ("post", [SIGN_IN, 404, 404, 404, 404, 404, 404, 404, 404, 404, 302]),
    # by the token of a page alone, whoever is signed in
    "save-answers": ("post", [403, 403, 403, 403, 403, 403]),
    "read-answer": ("post", [403, 403, 403, 403, 403, 403]),
    "take-hint": ("post", [403, 403, 403, 403, 403, 403]),
    "check-question": ("post", [403, 403, 403, 403, 403, 403]),
    "similar-question": ("post", [403, 403, 403, 403, 403, 403]),
    "ask-about-question": ("post", [403, 403, 403, 403, 403, 403]),
    "take-break": ("post", [403, 403, 403, 403, 403, 403]),
    "what-changed": ("get", [403, 403, 403, 403, 403, 403]),
    "hand-in-late": ("post", [403, 403, 403, 403, 403, 403]),
}


# How often each page asks the database, for a head of department: session, person and roles first.
QUERIES = {
    "home": 3, "account_login": 3, "account_inactive": 3, "session": 3, "change-password": 3, "forgotten-password": 3, "set-password": 4,
    # those that ask for the password first count the tries and keep what was asked for
    "mfa_authenticate": 3, "account_reauthenticate": 9, "mfa_reauthenticate": 6, "mfa_index": 4, "mfa_activate_totp": 9,
    "mfa_deactivate_totp": 4, "mfa_view_recovery_codes": 9, "mfa_generate_recovery_codes": 9, "department-settings": 4, "jump": 3, "questions": 12, "formula-book": 3,
    "facets": 10, "proofs": 7, "look": 6, "topics": 5, "topic-offers": 3, "pools": 6,
    "new-question": 5, "question": 9, "gallery": 3, "from-fixed": 3, "question-history": 5,
    "picture": 5, "bring": 4, "table-template": 3, "plain-layout": 3,
    # somebody else's; one's own are counted with the other tests of files
    "intake": 4, "brought": 6, "outgoing": 4, "outgoing-file": 4, "work": 4,
    "tests": 6, "test": 23, "newer": 7, "offers": 6, "look-at-test": 10, "test-paper": 6, "test-paper-pages": 11, "rule-count": 4, "filling": 5, "form-set": 13, "form-set-progress": 4, "printed": 6, "paper": 5,
    "paper-beside": 4, "paper-page": 6, "insert-file": 6, "insert-of-set": 6, "key-table": 11, "form-key": 12, "school-mark": 3,
    "rooms": 4, "room": 4, "seat-plan": 8, "seat-plan-progress": 5, "class-papers": 6,
    "settings-of-department": 4, "people": 8, "person": 15, "school": 3, "classes": 8, "class": 12, "add-students": 5, "class-list": 6,
    "students": 6, "student": 8, "mine": 4, "sittings": 7, "sitting": 18, "sitting-table": 6, "sitting-answers": 8, "sitting-rules": 16,
    "marking": 5, "mark-sitting": 13, "mark-student": 17, "results": 16, "results-table": 10, "class-work": 7, "class-work-progress": 6, "mark-part": 22, "second-markings": 21,
    "second-marking": 17, "papers-to-key": 7, "paper-to-key": 10, "change-part": 11, "counting": 7,
    "sit": 5, "sit-work": 5, "sit-insert": 5, "before-handing-in": 5, "sitting-done": 5, "what-changed": 0,
    "own-work": 5, "practice": 5, "practise": 5, "sitting-wall": 5, "come-in": 3, "sitting-door": 5,
    # somebody else's
    "shown-picture": 3, "on-wall": 4, "wall-now": 4, "wall-phone": 5,
}  # fmt: skip


def addresses(patterns: list[Any]) -> Iterator[URLPattern]:
    for pattern in patterns:
        if isinstance(pattern, URLResolver):
            yield from addresses(pattern.url_patterns)
        else:
            yield pattern


# of a student, in the order of what they do
OF_STUDENTS = (
    "sit", "begin-sitting", "sit-work", "sit-insert", "go-on-to-section", "before-handing-in", "hand-in",
    "sitting-done", "own-work", "take-sitting-back", "mend-sitting",
)  # fmt: skip
# and of whoever practises
OF_PRACTICE = ("practice", "practise", "practice-draw", "practice-read", "practice-check", "practice-show")


# of those who mark what was handed in, and what was sat on paper
OF_MARKING = ("mark-student",)
OF_PAPER = ("papers-to-key", "paper-to-key", "key-paper")


class Access(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        physics, chemistry = department("Physics"), department("Chemistry")
        cls.people = {
            "stranger": person("stranger", chemistry, "lead"),
            "homeless": person("homeless"),
            "reader": person("reader", physics, "reader"),
            "author": person("author", physics, "author"),
            "lead": person("lead", physics, "lead"),
            "administrator": person("administrator"),
            "elsewhere": person("elsewhere", department("Physics", "Lighthouse School"), "lead"),
            "teacher": person("teacher", physics, "author"),
            "other": person("other", physics, "reader"),
            "marker": person("marker", chemistry, "lead"),
        }
        administrator = cls.people["administrator"]
        administrator.administers, administrator.school = True, physics.school
        administrator.save()
        cls.held, other = (
            Class.objects.create(department=physics, name=name, year="2026/27") for name in ("10 A", "9 C")
        )
        cls.held.teachers.add(cls.people["teacher"])
        other.teachers.add(cls.people["other"])
        cls.student = Student.objects.create(school=physics.school, family="Abara", given="Ada", number="2401")
        cls.held.enrol([cls.student.pk])
        cls.people["student"] = make_slips([cls.student])[0].student.user
        author = cls.people["author"]
        cls.question = question(physics, author)
        cls.test = test_of(physics, author, cls.question)
        cls.form_set = frozen(cls.test)
        cls.physics = physics
        mark = {"media_type": "application/pdf", "width": 1, "height": 1}
        SchoolMark.objects.create(school=physics.school, file=cls.form_set.forms.all()[0].paper, **mark)

    # filled by the first address of a test
    arguments: dict[str, dict[str, Any]] = {}

    def draft(self) -> Draft:
        given = {"user": self.people["author"], "department": self.physics, "key": self.question.key}
        return Draft.objects.get_or_create(**given, defaults={"question": self.question, "fields": {}})[0]

    def address(self, name: str) -> str:
        sitting = self.sitting(name)
        self.arguments = self.arguments or self.all_arguments(sitting)
        if name == "practise":
            student = Client()
            student.force_login(self.people["student"])
            student.post(reverse("practice-draw", kwargs=self.arguments[name]))
        return reverse(name, kwargs=self.arguments.get(name))

    def all_arguments(self, sitting: Sitting) -> dict[str, dict[str, Any]]:
        """What each address speaks of, by their names; all of it is there."""
        code = self.form_set.forms.get(position=0).code
        place = self.test.places.get()
        arguments: dict[str, dict[str, Any]] = {
            "change-department": {"department": self.physics.pk},
            "set-password": {"uidb64": "MQ", "token": "not-a-token"},
            "question": {"pk": self.question.pk},
            "question-history": {"pk": self.question.pk},
            "drop-draft": {"pk": self.draft().pk},
            "picture": {"digest": "0" * 64},
            "shown-picture": {"signed": f"{'0' * 64}.x"},
            "desk-tool": {"tool": "rename"},
            "part-conversion": {"uid": "q1"},
            "options-of-part": {"uid": "q1"},
            "keep-rubric": {"uid": "q1"},
            "add-place": {"pk": self.test.pk, "question": self.question.pk},
            "printed": {"pk": self.form_set.pk, "kind": "papers"},
            "key-table": {"pk": self.form_set.pk, "kind": "csv"},
            "paper": {"pk": self.form_set.pk, "code": code},
            "form-key": {"pk": self.form_set.pk, "code": code},
            "paper-beside": {"pk": self.form_set.pk, "code": code},
            "paper-page": {"pk": self.form_set.pk, "code": code, "page": 1},
        }
        for each in ("look", "collect", "put-back", "copy-question", "move-on"):
            arguments[each] = {"pk": self.question.pk}
        author, physics = self.people["author"], self.physics
        kept = KeptSearch.objects.get_or_create(user=author, department=physics, name="Cranes", shared=True)[0]
        arguments["drop-search"] = {"pk": kept.pk}
        done = Done.objects.get_or_create(user=author, department=physics, before={"column": "level", "questions": []})
        arguments["take-back"] = {"pk": done[0].pk}
        intake = Intake.objects.get_or_create(user=author, department=physics, name="bank.zip")[0]
        for each in ("intake", "decide", "with-intake"):
            arguments[each] = {"pk": intake.pk}
        Brought.objects.get_or_create(
            intake=intake, number=1, state="same", becomes="nothing", document=self.question.newest.document
        )
        arguments["brought"] = {"pk": intake.pk, "number": 1}
        leaving = Outgoing.objects.get_or_create(user=author, department=physics, way="text", questions=[])[0]
        for each in ("outgoing", "stop-outgoing", "outgoing-file"):
            arguments[each] = {"pk": leaving.pk}
        given = {"kind": "revise", "author": author, "arguments": {"department": physics.pk}}
        arguments["work"] = {"pk": Job.objects.get_or_create(**given, defaults={"state": "done"})[0].pk}
        arguments["change-topic"] = {"pk": Topic.objects.filter(department=physics)[0].pk}
        arguments["edit-pool"] = {
            "pk": Pool.objects.get_or_create(department=physics, owner=author, name="Cranes")[0].pk
        }
        for each in ("class", "edit-class", "add-students", "with-students", "undo-class", "slips", "drop-class"):
            arguments[each] = {"pk": self.held.pk}
        arguments["class-list"] = {"pk": self.held.pk, "kind": "csv"}
        for each in ("student", "edit-student", "edit-allowance"):
            arguments[each] = {"pk": self.student.pk}
        for each in ("person", "set-roles", "with-person", "hand-over"):
            arguments[each] = {"pk": self.people["author"].pk}
        arguments["settings-of-department"] = {"department": self.physics.pk}
        for each in (
            "test", "edit-test", "archive-test", "copy-test", "look-at-test", "test-paper", "test-paper-pages", "keep-look", "keep-boundaries", "write-for-test", "offers", "add-places",
            "add-pool-place", "rule-count", "arrange", "sort-places", "aim", "fill-plan", "undo-step", "add-section",
            "make-forms", "show-test",
        ):  # fmt: skip
            arguments[each] = {"pk": self.test.pk}
        wall = Wall.objects.filter(by=author).first()
        if wall is None:
            wall = Wall(
                department=physics, by=author, title="Quay", revisions=[self.question.current_id], code="WALLED"
            )
            draw(wall)
            wall.save()
        for each in ("on-wall", "wall-now", "wall-do"):
            arguments[each] = {"pk": wall.pk}
        for each in ("wall-phone", "wall-answer", "wall-read"):
            arguments[each] = {"code": "WALLED"}
        arguments["show-question"] = {"pk": self.question.pk}
        for each in ("move-place", "remove-place", "edit-place", "turn-place"):
            arguments[each] = {"pk": self.test.pk, "place": place.pk}
        candidate = place.candidates.first() or place.candidates.create(position=0, revision=self.question.newest)
        for each in ("newer", "renew-candidate", "remove-candidate"):
            arguments[each] = {"pk": self.test.pk, "candidate": candidate.pk}
        section = self.test.first_section()
        for each in ("edit-section", "move-section", "remove-section"):
            arguments[each] = {"pk": self.test.pk, "section": section.pk}
        filling = {"kind": "fill plan", "author": author, "state": "done", "arguments": {"test": self.test.pk}}
        done = Job.objects.get_or_create(**filling)[0]
        arguments["filling"] = {"pk": self.test.pk, "job": done.pk}
        for each in ("form-set", "form-set-progress", "cancel-form-set", "another-set"):
            arguments[each] = {"pk": self.form_set.pk}
        insert = {"name": "Data sheet", "position": 0, "file": self.form_set.forms.all()[0].paper, "pages": 1}
        arguments["add-insert"] = {"pk": self.test.pk}
        own = self.test.inserts.get_or_create(**insert, text="Data.")[0]
        arguments["edit-insert"] = arguments["insert-file"] = {"pk": self.test.pk, "insert": own.pk}
        frozen_with = self.form_set.inserts.get_or_create(**insert, behind=False)[0]
        arguments["insert-of-set"] = {"pk": self.form_set.pk, "insert": frozen_with.pk}
        room = Room.objects.get_or_create(school=physics.school, name="2.14", rows=2, columns=3)[0]
        arguments["room"] = arguments["remove-room"] = {"pk": room.pk}
        arguments["new-seat-plan"] = {"pk": self.form_set.pk}
        kept_plan = {"form_set": self.form_set, "held": self.held, "room_name": "2.14", "rows": 2, "columns": 3}
        plan = SeatPlan.objects.get_or_create(**kept_plan, defaults={"author": author})[0]
        SeatPlan.objects.filter(pk=plan.pk).update(job=None, printing=None, papers=insert["file"])
        for each in (
            "seat-plan", "seat-plan-progress", "stop-seat-plan", "move-seat", "seat-anew", "order-class-papers",
            "class-papers", "remove-seat-plan",
        ):  # fmt: skip
            arguments[each] = {"pk": plan.pk}
        arguments["give-test"] = {"pk": self.test.pk}
        for each in (
            "sitting", "sitting-table", "sitting-answers", "sitting-rules", "say-sitting-rules", "keep-sitting-rules",
            "take-sitting-rules", "act-in-sitting", "tell-sitting", "release-sitting", "change-entry-word",
            "sitting-wall", "sitting-markers", "sitting-students", "try-sitting", "give-again", "retake-sitting",
            "open-next", "sitting-next",
            "archive-sitting", "keep-way", *OF_STUDENTS, *OF_PRACTICE,
        ):  # fmt: skip
            arguments[each] = {"pk": sitting.pk}
        marked = {"pk": sitting.pk}
        for each in ("mark-sitting", "results", "counting", "second-markings", "papers-to-key", "mark-rule", "show-change",
                     "make-change", "undo-change", "ask-second-marking", "class-work", "class-work-progress",
                     "order-class-work"):  # fmt: skip
            arguments[each] = marked
        taken = sitting.form_set.places.all()[0].candidates.all()[0]
        part = {"candidate": taken.pk, "part": taken.revision.parts[0]["id"]}
        for each in ("mark-part", "change-part", "give-marks", "marks-by-rule", "keep-typed", "write-slip"):
            arguments[each] = marked | part
        done = {
            "job": Job.objects.create(kind="class-work", state="done", total=1, author=author),
            "file": insert["file"],
        }
        ClassWork.objects.get_or_create(sitting=sitting, defaults=done)
        arguments["results-table"] = marked | {"kind": "csv"}
        for each in ("mark-student", "paper-to-key", "key-paper"):
            arguments[each] = marked | {"taking": Taking.objects.filter(sitting=sitting)[0].pk}
        twice = {"sitting": sitting, "part": part["part"], "who": author}
        again = SecondMarking.objects.get_or_create(candidate=taken, **twice, defaults={"by": author})[0]
        for each in ("second-marking", "give-second", "settle-second"):
            arguments[each] = marked | {"marking": again.pk}
        arguments["sitting-door"] = arguments["enter-sitting"] = {"code": sitting.code}
        InsertPage.objects.get_or_create(insert=frozen_with, number=1, defaults={"picture": insert["file"]})
        arguments["sit-insert"] |= {"insert": frozen_with.pk, "page": 1}
        for each in OF_PRACTICE[1:]:
            arguments[each] |= {"question": sitting.form_set.places.all()[0].candidates.all()[0].pk}
        return arguments

    def sitting(self, name: str) -> Sitting:
        """A sitting of the class, with the student where an address expects them."""
        found = Sitting.objects.order_by("pk").first()
        if found is None:
            rules = Rules(timezone.localtime() - timedelta(hours=1))
            found = Sitting.give(self.test, [self.held], rules, self.people["author"], self.form_set)
            perform(found.job_id)
            found.markers.add(self.people["marker"])
        # what was put away by the role before is back
        released = timezone.now() if name == "own-work" else None
        Sitting.objects.filter(pk=found.pk).update(archived=None, released=released)
        Taking.objects.exclude(tried_by=None).delete()
        begun = timezone.now() if name in OF_STUDENTS[2:] else None
        begun = timezone.now() if name in OF_MARKING else begun
        handed_in = begun if name in OF_STUDENTS[7:] or name in OF_MARKING else None
        Taking.objects.filter(sitting=found).update(begun=begun, handed_in=handed_in)
        found.rules["come_in"] = "paper" if name in OF_PAPER else "list"
        found.rules["practice"] = "only" if name in OF_PRACTICE else "no"
        found.save(update_fields=["rules"])
        return found

    def test_every_address_is_known(self) -> None:
        names = {pattern.name for pattern in addresses(get_resolver().url_patterns)}
        self.assertEqual(names, set(ANSWERS))

    def test_every_address_with_every_role(self) -> None:
        browsers = {role: Client() for role in ROLES}
        for role in browsers.keys() - {"nobody"}:
            browsers[role].force_login(self.people[role])
        for name, (method, expected) in ANSWERS.items():
            told, address = dict(zip(ROLES, expected)), self.address(name)
            body = {"question": str(self.question.pk)} if name in {"preview-question", "save-question"} else {}
            for role, client in browsers.items():
                status = told[role] if role in told else told[LIKE[role]]
                with self.subTest(f"{name} as {role}"):
                    response = self.answer(client, method, address, body)
                    self.assertEqual(response.status_code, status)
                    if (
                        role == "nobody"
                        and status == SIGN_IN
                        and name not in {"home", "account_logout", "enter-sitting", "wall-answer"}
                    ):
                        self.assertIn("/sign-in/", response["Location"])

    def answer(self, client: Client, method: str, address: str, body: dict[str, str]) -> HttpResponse:
        """What is answered. Nothing of what is done for it stays, so that whoever asks next asks the same."""
        before, cookies = transaction.savepoint(), deepcopy(client.cookies)
        try:
            return client.get(address, body) if method == "get" else client.post(address, body)
        finally:
            transaction.savepoint_rollback(before)
            client.cookies = cookies

    maxDiff = None

    def test_every_page_asks_the_database_so_often_and_no_more_when_there_is_more(self) -> None:
        lead = self.people["lead"]
        self.client.force_login(lead)
        asked = {name for name, (method, _) in ANSWERS.items() if method == "get"}
        self.assertEqual(asked, set(QUERIES))
        self.draft()

        def count() -> dict[str, int]:
            found = {}
            for name in QUERIES:
                address = self.address(name)
                # what is made when it is first looked at is not asked for again
                self.client.get(address)
                with CaptureQueriesContext(connection) as queries:
                    self.client.get(address)
                found[name] = len(queries)
            return found

        self.assertEqual(count(), QUERIES)
        for k in range(3):
            more = Student.objects.create(school=self.physics.school, family=f"More {k}", given="Mia", number=f"24{k}9")
            more.user = make_slips([more])[0].student.user
            Class.objects.create(department=self.physics, name=f"8 {k}", year="2026/27").enrol(
                [more.pk, self.student.pk]
            )
            self.held.enrol([more.pk])
            self.held.teachers.add(person(f"more{k}", self.physics, "lead"))
        for name in ("foghorn", "lock-gate", "sea-chest", "ice-plant"):
            self.test.add(question(self.physics, lead, name))
        document = load_document(self.question.current.document | {"title": "Crane"})
        Question.save_revision(self.physics, lead, document, self.question.filing, question=self.question)
        for each in (frozen(self.test, 9), frozen(test_of(self.physics, lead, self.question, title="More"), 3)):
            self.assertEqual(each.forms.count(), each.count)
            Page.of(each.forms.all()[0], 1)
        self.assertEqual(count(), QUERIES)

    def test_a_post_address_is_never_fetched(self) -> None:
        lead = self.people["lead"]
        lead.administers = True
        lead.save()
        self.client.force_login(lead)
        for name, (method, _) in ANSWERS.items():
            if method == "post":
                with self.subTest(name):
                    self.assertEqual(self.client.get(self.address(name)).status_code, 405)

    def test_every_page_has_the_strict_policy(self) -> None:
        self.client.force_login(self.people["lead"])
        for name in ("questions", "question", "new-question", "tests", "test", "form-set"):
            with self.subTest(name):
                response = self.client.get(self.address(name))
                policy = response["Content-Security-Policy"]
                self.assertIn("script-src 'self'", policy)
                self.assertNotIn("unsafe", policy)
                page = response.content.decode()
                self.assertNotRegex(page, r"<script(?![^>]*\bsrc=)")
                self.assertNotRegex(page, r"\sstyle=|\son[a-z]+=|<style")

    def test_forms_need_their_token(self) -> None:
        from django.test import Client

        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.people["lead"])
        self.assertEqual(strict.post(reverse("new-test"), {"title": "x"}).status_code, 403)
