"""What a browser sends from the desk: the fields as they stand, and what is to be seen of the question."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from vorlage.core.questions import Problem, load_document, topics_meant
from vorlage.web.bank.models import Question, Tree
from vorlage.web.bank.views import question_of
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.requests import MemberRequest

from .form import Desk
from .local import opened
from .preview import DRAWS, Wish


@dataclass(frozen=True)
class Posted:
    """A desk that was sent: its fields, the question that they change, the identity under which its draws are made, and
    the number of the revision that they stand for."""

    desk: Desk
    question: Question | None
    key: str
    revision: int

    @property
    def is_unchanged(self) -> bool:
        """Whether it is the newest revision as it stands, filed where it is filed."""
        found = self.question
        return found is not None and self.revision == found.latest and self.desk.files_as(found.filing)


def posted_desk(request: MemberRequest) -> Posted:
    """The fields as they stand in the browser.

    A reader's fields are not sent: theirs are those of the latest revision.
    """
    found = None
    if pk := chosen_number(request.POST.get("question", "")):
        found = question_of(request, pk, "bank.view_question")
    habits = request.membership.department.habits
    if may_change(request, found):
        desk = Desk.from_post(request.POST, habits)
        doubt_topics(request, desk)
    else:
        desk = opened(load_document(found.newest.document), found.filing, habits) if found else Desk.blank()
    key = str(found.key) if found else identity(request.POST.get("key", ""))
    revision = 1
    if found:
        revision = found.latest if stands(found, desk) else found.latest + 1
    return Posted(desk, found, key, revision)


def doubt_topics(request: MemberRequest, desk: Desk) -> None:
    """Say beside the field which typed topics cannot be told; those that it was filled with are not asked about."""
    read, before = desk.read, desk.filed_first
    if read.filing is None or read.filing.topics == (before.topics if before else ()):
        return
    meant = topics_meant(read.filing.topics, list(Tree(request.membership.department).paths))
    read.problems.extend(Problem(("filing", "topics"), "unknown_topic", doubt) for doubt in meant.doubts)


def may_change(request: MemberRequest, found: Question | None) -> bool:
    """Whether what is typed becomes of this question, or of a new one; another department's is only read."""
    own = found is None or found.department_id == request.membership.department_id
    return request.membership.may_write and own


def stands(question: Question, desk: Desk) -> bool:
    """Whether what is on a desk is the newest revision as it stands, wherever it is to be filed."""
    read = desk.read
    return read.document is not None and not read.problems and question.newest.holds(read.document)


def is_as_kept(question: Question, desk: Desk) -> bool:
    """Whether nothing on a desk has changed, neither what the question says nor where it is filed."""
    return desk.files_as(question.filing) and stands(question, desk)


def identity(text: str) -> str:
    try:
        return str(uuid.UUID(text))
    except ValueError:
        return str(uuid.uuid4())


def wish(request: MemberRequest) -> Wish:
    """What the author wants to see; a draw that was gone to counts before the one that was chosen."""
    parts = request.POST.getlist("part")[:60]
    return Wish(
        chosen_number(request.POST.get("go", "")) or chosen_draw(request),
        {uid: request.POST.get(f"try-{uid}", "") for uid in parts},
        {uid: tuple(filter(None, request.POST.get(f"tries-{uid}", "").splitlines()[-6:])) for uid in parts},
        request.POST.get("active", ""),
        chosen_number(request.POST.get("rows", ""), DRAWS),
        request.POST.get("sort", ""),
    )


def chosen_draw(request: MemberRequest) -> int:
    """The draw on the sheet; pinned draws have numbers below 0."""
    text = request.POST.get("draw", "")
    return -chosen_number(text[1:]) if text.startswith("-") else chosen_number(text, 1)
