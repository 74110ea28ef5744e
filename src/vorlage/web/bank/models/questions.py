"""Questions and their immutable revisions."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from decimal import Decimal
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models, transaction

from vorlage.core.answers import plain_marks
from vorlage.core.notation import Habits
from vorlage.core.questions import (
    CompiledQuestion,
    Filing,
    Problem,
    QuestionDocument,
    Unsound,
    adopted,
    facts,
    load_document,
    prints_of,
    says_the_same,
    soundness,
)
from vorlage.web.files.models import Stored
from vorlage.web.people.models import Department, Membership, User

from .finding import know_words, note_found, note_words, words_in
from .topics import Tree, file_question, file_questions

# so many rows are written with one statement
TOGETHER = 500


class MarksField(models.DecimalField):
    """Marks with two decimal places at most; read without zeros at the end."""

    def __init__(self, **options: Any) -> None:
        super().__init__(**{"max_digits": 7, "decimal_places": 2, **options})

    def from_db_value(self, value: Decimal | None, *rest: Any) -> Decimal | None:
        return None if value is None else plain_marks(value)


class QuestionQuerySet(models.QuerySet["Question"]):
    def of(self, membership: Membership) -> QuestionQuerySet:
        """The questions of the department that a member works in."""
        return self.filter(department=membership.department_id)

    def in_use(self) -> QuestionQuerySet:
        """Without those that were put into the archive."""
        return self.filter(archived=None)


class Question(models.Model):
    """A question of a department, and where it is filed; what it says is in its revisions, what it is found by in
    ``Found``."""

    department = models.ForeignKey(Department, on_delete=models.PROTECT, related_name="questions")
    # the identity under which draws are made, kept for ever
    key = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    # who looks after it
    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="questions")
    # the newest revision; null only while the first one is being stored
    current = models.OneToOneField("Revision", on_delete=models.PROTECT, null=True, related_name="+")

    # its filing, as ``Filing`` has it; the topics are in ``Filed``
    level = models.PositiveSmallIntegerField(default=1)
    demand = models.PositiveSmallIntegerField(default=0)
    calculator = models.BooleanField(default=True)
    minutes = models.DecimalField(max_digits=5, decimal_places=2, null=True)
    tags = ArrayField(models.CharField(max_length=60), default=list)
    references = ArrayField(models.CharField(max_length=60), default=list)
    source = models.CharField(max_length=300, blank=True)
    licence = models.CharField(max_length=100, blank=True)
    note = models.TextField(blank=True)
    # who else may use it: other departments of the school, or all of them
    shared = models.ManyToManyField(Department, related_name="+")
    whole_school = models.BooleanField(default=False)
    # the revision that it was copied from
    origin = models.ForeignKey("Revision", on_delete=models.SET_NULL, related_name="copies", null=True)
    # the identity that it had in the file in which it came
    came_as = models.UUIDField(null=True, db_index=True)
    # out of the way and still there; when it was put there
    archived = models.DateTimeField(null=True)

    created = models.DateTimeField(auto_now_add=True)
    # last worked on: what it says or where it is filed
    changed = models.DateTimeField(auto_now=True)

    objects = QuestionQuerySet.as_manager()

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return self.title

    @property
    def newest(self) -> Revision:
        """Its newest revision, of a question that has been stored."""
        if self.current is None:
            raise ValueError("The first revision of this question is not stored yet.")
        return self.current

    @property
    def title(self) -> str:
        """What it is called now."""
        return self.current.title if self.current else ""

    @property
    def latest(self) -> int:
        """The number of its newest revision; 0 when it has none yet."""
        return self.current.number if self.current else 0

    @property
    def filing(self) -> Filing:
        """Where it is filed."""
        tree = Tree(self.department_id)
        topics = [tree.path(pk) for pk in self.filed.values_list("topic", flat=True)]
        said = {name: getattr(self, name) for name in Filing.model_fields if name != "topics"}
        return Filing.model_validate({**said, "topics": topics})

    def open_to(self, membership: Membership) -> bool:
        """Whether a member of this or another department may use it."""
        if self.department_id == membership.department_id:
            return True
        same_school = self.department.school_id == membership.department.school_id
        if same_school and self.whole_school:
            return True
        return same_school and self.shared.filter(pk=membership.department_id).exists()

    @transaction.atomic
    def copy_for(self, author: User, department: Department) -> Question:
        """The same question once more, for somebody who changes it for themselves: with its pictures, its filing, and
        what it comes from; this one stays as it is."""
        document, source = load_document(self.newest.document), self.newest
        digests = [each.digest for each in document.pictures]
        for picture in Picture.objects.filter(department=self.department_id, file__in=digests):
            values = {"media_type": picture.media_type, "width": picture.width, "height": picture.height}
            Picture.objects.get_or_create(department=department, file_id=picture.file_id, defaults=values)
        made = Question.save_revision(department, author, document, self.filing).question
        made.origin = source
        made.save(update_fields=["origin"])
        return made

    @staticmethod
    @transaction.atomic
    def save_revision(
        department: Department,
        author: User,
        document: QuestionDocument,
        filing: Filing = Filing(),  # noqa: B008 (frozen)
        question: Question | None = None,
        key: uuid.UUID | None = None,
        note: str = "",
        judged: Judged | None = None,
    ) -> Revision:
        """Keep a document as a new revision of a question, or as the first of a new one, and file the question.

        ``key`` is the identity under which a new question's draws were already looked at, ``judged`` what was found of
        exactly this revision before, with its pictures kept. Raises ``Unsound`` for a
        question that may not be kept: this, and ``keep_new`` for many that were judged, is how a revision is stored.
        """
        if question is not None:
            question = Question.objects.select_for_update(of=("self",)).select_related("current").get(pk=question.pk)
        else:
            taken = key is not None and Question.objects.filter(key=key).exists()
            new_key = uuid.uuid4() if taken or key is None else key
            question = Question(department=department, key=new_key, owner=author)
        number = question.latest + 1
        if question.current is not None:
            document = joined(document, question.current)
        if judged is None or (judged.key, judged.number, judged.document) != (question.key, number, document):
            judged = Judged.of(document, question.key, number, Picture.missing(department, document))
        question.save()
        revision = judged.revision(question, author, note)
        revision.save()
        question.current = revision
        question.file_under(filing, document)
        return revision

    @staticmethod
    @transaction.atomic
    def keep_new(department: Department, author: User, judged: Sequence[tuple[Judged, Filing]]) -> list[Question]:
        """Keep many new questions with few statements, each under the identity that it was judged under."""
        questions = [
            Question(department=department, key=each.key, owner=author, **filing_columns(filing))
            for each, filing in judged
        ]
        Question.objects.bulk_create(questions, batch_size=TOGETHER)
        revisions = [each.revision(question, author, "") for question, (each, _) in zip(questions, judged)]
        Revision.objects.bulk_create(revisions, batch_size=TOGETHER)
        for question, revision in zip(questions, revisions):
            question.current = revision
        Question.objects.bulk_update(questions, ["current"], batch_size=TOGETHER)
        file_questions(department, [(question.pk, filing) for question, (_, filing) in zip(questions, judged)])
        note_found([question.pk for question in questions])
        note_words(
            department.school_id, [(question.pk, each.document) for question, (each, _) in zip(questions, judged)]
        )
        know_words(department.school_id, (word for _, filing in judged for word in filed_words(filing)))
        return questions

    @transaction.atomic
    def file_under(self, filing: Filing, document: QuestionDocument | None = None) -> None:
        """File the question, which says what the document says or else what its newest revision does."""
        for name, value in filing_columns(filing).items():
            setattr(self, name, value)
        self.save()
        file_question(self, filing)
        note_found([self.pk])
        school = self.department.school_id
        note_words(school, [(self.pk, document or load_document(self.newest.document))])
        know_words(school, filed_words(filing))


def filing_columns(filing: Filing) -> dict[str, Any]:
    """The columns of a question that say where it is filed, but for its topics."""
    said = {name: getattr(filing, name) for name in Filing.model_fields if name != "topics"}
    return {name: list(value) if isinstance(value, tuple) else value for name, value in said.items()}


def filed_words(filing: Filing) -> Iterable[str]:
    """The words by which a question is found that are in its filing."""
    return words_in(" ".join([*filing.tags, *filing.references, filing.source, filing.note]))


@dataclass(frozen=True, slots=True)
class Judged:
    """A document that may be kept: under which identity and number that was found, and what is kept with it."""

    document: QuestionDocument
    key: uuid.UUID
    number: int
    facts: dict[str, Any]
    prints: list[str]

    @staticmethod
    def of(document: QuestionDocument, key: uuid.UUID, number: int, problems: Sequence[Problem] = ()) -> Judged:
        """Judge a document as a revision of a question. Raises ``Unsound`` for what may not be kept."""
        found = soundness(CompiledQuestion(document), str(key), number)
        if problems or not found.sound:
            raise Unsound([*found.reasons, *(each.message for each in problems)])
        return Judged(document, key, number, asdict(facts(found.drawn[0])), list(prints_of(found.drawn)))

    def revision(self, question: Question, author: User, note: str) -> Revision:
        """The revision of a question that it becomes, not yet stored."""
        document = self.document.model_dump(mode="json")
        return Revision(
            question=question, number=self.number, document=document, author=author, note=note[:200],
            prints=self.prints, **self.facts,
        )  # fmt: skip


def joined(document: QuestionDocument, earlier: Revision) -> QuestionDocument:
    """A document that comes from elsewhere, with the identities of the revision before for what it still has.

    One from the desk has them already.
    """
    before = load_document(earlier.document)
    if {part.id for part in document.parts} & {part.id for part in before.parts}:
        return document
    return load_document(adopted(document.model_dump(mode="json"), before.model_dump(mode="json")))


class Revision(models.Model):
    """One state of a question and what is true of it; never changed once written."""

    question = models.ForeignKey(Question, on_delete=models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    title = models.CharField(max_length=200)
    marks = MarksField()
    # the kinds of its answers, each once
    kinds = ArrayField(models.CharField(max_length=20))
    # of every part: identity, label, kind, marks
    parts = models.JSONField()
    # how many different draws there are; null when they are too many to list
    draws = models.BigIntegerField(null=True)
    # what it asks, with the numbers of the first draw, as HTML
    sheet = models.TextField()
    # whether a person marks any of it, and whether there is anything to look at
    by_hand = models.BooleanField(default=False)
    figure = models.BooleanField(default=False)
    # its first draws, to be compared with what is drawn later; empty where it was stored by a version before
    prints = ArrayField(models.CharField(max_length=16), default=list)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    note = models.CharField(max_length=200, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["question", "-number"]
        constraints = [models.UniqueConstraint(fields=["question", "number"], name="one_revision_a_number")]

    def __str__(self) -> str:
        return f"{self.title} (revision {self.number})"

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.pk is not None:
            raise TypeError("A revision is never changed.")
        super().save(*args, **kwargs)

    def holds(self, document: QuestionDocument) -> bool:
        """Whether this is what it says."""
        return says_the_same(self.document, document.model_dump(mode="json"))

    def compiled(self, habits: Habits, in_order: bool = False) -> CompiledQuestion:
        """The question, ready to be drawn for people who write by these habits; ``in_order`` leaves its options as they
        were written."""
        document = load_document(self.document)
        return CompiledQuestion(document.in_order if in_order else document, habits)


class Picture(models.Model):
    """An uploaded picture; questions know it by the hash of its content."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="pictures")
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    media_type = models.CharField(max_length=20)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["department", "file"], name="one_picture_of_a_content")]

    def __str__(self) -> str:
        return f"Picture {self.file_id[:8]}"

    @staticmethod
    def missing(department: Department, document: QuestionDocument) -> list[Problem]:
        """The pictures that a document speaks of and the department does not have."""
        digests = [source.digest for source in document.pictures]
        held = set(Picture.objects.filter(department=department, file__in=digests).values_list("file", flat=True))
        return [
            Problem(
                ("pictures", k, "digest"),
                "no_picture",
                f"The picture “{source.name}” is not there any more. Add it again.",
            )
            for k, source in enumerate(document.pictures)
            if source.digest not in held
        ]


class Rubric(models.Model):
    """A rubric that a department keeps, to be used in many questions."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="rubrics")
    name = models.CharField(max_length=100)
    # its lines, as they are typed on the desk
    text = models.TextField()
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["department", "name"], name="one_rubric_of_a_name")]

    def __str__(self) -> str:
        return self.name
