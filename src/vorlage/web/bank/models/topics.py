"""The topics of a department: subjects, their topics, and the objectives of those."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from django.db import connection, models, transaction
from django.db.models.functions import Lower

from vorlage.core.questions import DEEP, Filing, folded
from vorlage.web.people.models import Department

from .finding import know_words, note_filing, note_found, words_in

if TYPE_CHECKING:
    from .questions import Question

# What stands at each height of the tree.
HEIGHTS = ("subject", "topic", "objective")


class Topic(models.Model):
    """A subject, a topic of one, or an objective of a topic."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="topics")
    parent = models.ForeignKey("self", on_delete=models.PROTECT, related_name="children", null=True)
    name = models.CharField(max_length=100)
    # among those with the same parent; equal ones stand by their names
    position = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["position", Lower("name"), "pk"]
        constraints = [
            models.UniqueConstraint(
                "department", "parent", Lower("name"), name="one_topic_a_name_in_its_place", nulls_distinct=False
            )
        ]

    def __str__(self) -> str:
        return self.name


class Filed(models.Model):
    """That a question stands under a topic; where it stands first is what it is said to be about."""

    question = models.ForeignKey("bank.Question", on_delete=models.CASCADE, related_name="filed")
    topic = models.ForeignKey(Topic, on_delete=models.PROTECT, related_name="filed")
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["question", "position", "pk"]
        constraints = [models.UniqueConstraint(fields=["question", "topic"], name="once_under_a_topic")]

    def __str__(self) -> str:
        return f"{self.question_id} under {self.topic_id}"


class Tree:
    """All topics of a department, read at once."""

    def __init__(self, department: Department | int):
        self.department = department if isinstance(department, int) else department.pk

    @cached_property
    def topics(self) -> dict[int, Topic]:
        return {topic.pk: topic for topic in Topic.objects.filter(department=self.department)}

    @cached_property
    def below(self) -> dict[int | None, list[Topic]]:
        """The topics right below each, in order; below None the subjects."""
        found: dict[int | None, list[Topic]] = {}
        for topic in self.topics.values():
            found.setdefault(topic.parent_id, []).append(topic)
        return found

    def way(self, pk: int) -> list[int]:
        """A topic and all above it, from the subject on."""
        found: list[int] = []
        at: int | None = pk
        while at is not None and at in self.topics:
            found.insert(0, at)
            at = self.topics[at].parent_id
        return found

    def path(self, pk: int) -> tuple[str, ...]:
        """The names from the subject on."""
        return tuple(self.topics[each].name for each in self.way(pk))

    @cached_property
    def paths(self) -> dict[tuple[str, ...], int]:
        """Every path and what it leads to, in the order of the tree."""
        return {self.path(topic.pk): topic.pk for topic, _ in self.rows}

    @cached_property
    def rows(self) -> list[tuple[Topic, int]]:
        """Every topic in the order of the tree with its height, a subject's being 0."""
        found: list[tuple[Topic, int]] = []

        def walk(parent: int | None, height: int) -> None:
            for topic in self.below.get(parent, []):
                found.append((topic, height))
                walk(topic.pk, height + 1)

        walk(None, 0)
        return found

    def all_below(self, pk: int) -> list[int]:
        """A topic and everything below it."""
        found = [pk]
        for each in found:
            found.extend(topic.pk for topic in self.below.get(each, []))
        return found

    def depth_below(self, pk: int) -> int:
        """How many heights there are below a topic."""
        return 1 + max((self.depth_below(each.pk) for each in self.below.get(pk, [])), default=-1)

    def made(self, paths: Iterable[Sequence[str]]) -> list[int]:
        """What the paths lead to; what is missing on the way is made."""
        found = []
        for path in paths:
            known = {folded(each): pk for each, pk in self.paths.items()}
            parent: int | None = None
            for k in range(1, len(path) + 1):
                pk = known.get(folded(tuple(path[:k])))
                if pk is None:
                    pk = self.add(path[k - 1], parent).pk
                parent = pk
            if parent is not None:
                found.append(parent)
        return list(dict.fromkeys(found))

    def add(self, name: str, parent: int | None) -> Topic:
        """A new topic as the last below another, or as the last subject; the one of this name if there is one."""
        position = max((topic.position for topic in self.below.get(parent, [])), default=-1) + 1
        # whoever adds the same at the same moment has added it
        Topic.objects.bulk_create(
            [Topic(department_id=self.department, parent_id=parent, name=name, position=position)],
            ignore_conflicts=True,
        )
        know_words(Department.objects.get(pk=self.department).school_id, words_in(name))
        self.forget()
        return next(each for each in self.below[parent] if folded(each.name) == folded(name))

    def forget(self) -> None:
        """Read the topics anew."""
        for name in ("topics", "below", "paths", "rows"):
            self.__dict__.pop(name, None)


def file_question(question: Question, filing: Filing) -> None:
    """Put a question under the topics of its filing, which are made where they are missing."""
    topics = Tree(question.department_id).made(filing.topics)
    standing = list(question.filed.values_list("topic", flat=True)) if question.pk else []
    if topics == standing:
        return
    question.filed.all().delete()
    Filed.objects.bulk_create([Filed(question=question, topic_id=pk, position=k) for k, pk in enumerate(topics)])


def file_questions(department: Department, filings: Sequence[tuple[int, Filing]]) -> None:
    """Put new questions under the topics of their filings, which are made where they are missing."""
    tree = Tree(department)
    tree.made({path: None for _, filing in filings for path in filing.topics})
    leads_to = {folded(path): pk for path, pk in tree.paths.items()}
    Filed.objects.bulk_create(
        (
            Filed(question_id=question, topic_id=topic, position=place)
            for question, filing in filings
            for place, topic in enumerate(dict.fromkeys(leads_to[folded(path)] for path in filing.topics))
        ),
        batch_size=1_000,
    )


@transaction.atomic
def move_topic(topic: Topic, parent: Topic | None, at: int) -> None:
    """Put a topic with all below it below another (or among the subjects), as the one of this number there.

    Raises ``ValueError`` where it cannot stand there.
    """
    tree = locked_tree(topic.department_id)
    if parent is not None and parent.pk in tree.all_below(topic.pk):
        raise ValueError(f"“{topic}” cannot stand below itself.")
    height = 0 if parent is None else len(tree.way(parent.pk))
    if height + tree.depth_below(topic.pk) >= DEEP:
        raise ValueError(f"There would be more than {DEEP} heights: {', '.join(HEIGHTS)}.")
    siblings = [each for each in tree.below.get(parent.pk if parent else None, []) if each.pk != topic.pk]
    if any(folded(each.name) == folded(topic.name) for each in siblings):
        raise ValueError(f"There is a “{topic}” already. Put both together, or rename one.")
    moved = topic.parent_id != (parent.pk if parent else None)
    siblings.insert(max(0, min(at, len(siblings))), topic)
    topic.parent = parent
    topic.save(update_fields=["parent"])
    for position, each in enumerate(siblings):
        each.position = position
    Topic.objects.bulk_update(siblings, ["position"])
    if moved:
        stands_elsewhere(standing_under(tree.all_below(topic.pk)))


@transaction.atomic
def merge_topics(topic: Topic, into: Topic) -> None:
    """Put what stands under a topic under another, what is below it below the other, and take the topic away.

    Raises ``ValueError`` where the one stands below the other.
    """
    tree = locked_tree(topic.department_id)
    if into.pk in tree.all_below(topic.pk):
        raise ValueError(f"“{into}” stands below “{topic}”: move it first.")
    if len(tree.way(into.pk)) - 1 + tree.depth_below(topic.pk) >= DEEP:
        raise ValueError(f"There would be more than {DEEP} heights: {', '.join(HEIGHTS)}.")
    questions = standing_under(tree.all_below(topic.pk))
    join_below(tree, topic, into)
    stands_elsewhere(questions)


@transaction.atomic
def rename_topic(topic: Topic, name: str) -> None:
    """Call a topic otherwise. Raises ``ValueError`` for a name that one beside it has."""
    tree = locked_tree(topic.department_id)
    beside = [each for each in tree.below.get(topic.parent_id, []) if each.pk != topic.pk]
    if any(folded(each.name) == folded(name) for each in beside):
        raise ValueError(f"There is a “{name}” already. Put both together, or take another name.")
    topic.name = name
    topic.save(update_fields=["name"])
    know_words(topic.department.school_id, words_in(name))
    note_filing(standing_under(tree.all_below(topic.pk)))


def stands_elsewhere(questions: Sequence[int]) -> None:
    """Note what has changed of the topics of these questions."""
    note_found(questions)
    note_filing(questions)


def join_below(tree: Tree, topic: Topic, into: Topic) -> None:
    """What stands under and below a topic goes to another; below both, topics of one name become one."""
    there = {folded(each.name): each for each in tree.below.get(into.pk, [])}
    for child in tree.below.get(topic.pk, []):
        twin = there.get(folded(child.name))
        if twin is not None and twin.pk != topic.pk:
            join_below(tree, child, twin)
        else:
            child.parent = into
            child.position = 1 + max((each.position for each in there.values()), default=-1)
            child.save(update_fields=["parent", "position"])
    both = Filed.objects.filter(topic=into).values("question")
    Filed.objects.filter(topic=topic, question__in=both).delete()
    Filed.objects.filter(topic=topic).update(topic=into)
    topic.delete()


def standing_under(topics: Sequence[int]) -> list[int]:
    """The questions that are filed under any of these."""
    return list(Filed.objects.filter(topic__in=topics).values_list("question", flat=True).distinct())


def locked_tree(department: int) -> Tree:
    """The tree of a department, held for this transaction: nobody else moves anything meanwhile."""
    Department.objects.select_for_update().get(pk=department)
    return Tree(department)


def questions_under(department: int) -> dict[int, int]:
    """How many questions in use stand under each topic or below it."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT topic, count(*) FROM (SELECT unnest(under) AS topic FROM bank_found "
            "WHERE department_id = %s AND NOT archived) AS standing GROUP BY topic",
            [department],
        )
        return dict(cursor.fetchall())
