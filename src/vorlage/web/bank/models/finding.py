"""What the bank is searched by: the words of every question, all words that there are, and searches that are kept."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchVectorField
from django.db import connection, models

from vorlage.core.questions import QuestionDocument, words_of
from vorlage.core.text import unaccented
from vorlage.web.people.models import Department, School, User

if TYPE_CHECKING:
    pass

# The stemmer of PostgreSQL by which words are reduced to what they have in common.
STEMMER = "english"
WORD = re.compile(r"[^\W_]+")
# Formulas, and what stands behind a picture or a figure, are no words.
NO_WORDS = re.compile(r"\$[^$\n]*\$|\]\([^)\n]*\)")
LONGEST_WORD, SHORTEST_WORD = 40, 3
# so many words of one text are looked at
MOST_WORDS = 3_000


def words_in(text: str) -> list[str]:
    """The words of a text in order, without case and accents, and without its formulas."""
    return WORD.findall(unaccented(NO_WORDS.sub(" ", text)))[:MOST_WORDS]


class Found(models.Model):
    """What a question is found and counted by, as it now stands: copied from its filing and its newest revision by
    ``note_found``, and narrow, since counting reads all rows. Only ``uses`` is written by others."""

    question = models.OneToOneField("bank.Question", on_delete=models.CASCADE, primary_key=True, related_name="found")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+", db_index=False)
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+", db_index=False)
    created = models.DateTimeField()
    changed = models.DateTimeField()
    # how many tests have it, which the tests write
    uses = models.PositiveIntegerField(default=0)
    level = models.PositiveSmallIntegerField()
    demand = models.PositiveSmallIntegerField()
    # how many draws there are: 0 one, 1 up to 9, 2 up to 99, 3 up to 999, 4 more
    many = models.PositiveSmallIntegerField()
    archived = models.BooleanField()
    # whether all of the school may use it, and the other departments that may
    whole_school = models.BooleanField(default=False)
    shared = ArrayField(models.BigIntegerField(), default=list)
    calculator = models.BooleanField()
    by_hand = models.BooleanField()
    figure = models.BooleanField()
    marks = models.DecimalField(max_digits=7, decimal_places=2)
    # the topics that it stands under, with all above them
    under = ArrayField(models.BigIntegerField())
    kinds = ArrayField(models.CharField(max_length=20))
    tags = ArrayField(models.CharField(max_length=60))

    class Meta:
        indexes = [
            models.Index(fields=["department", "archived", "-changed", "-question"], name="found_worked_on"),
            models.Index(fields=["department", "archived", "-created", "-question"], name="found_newest"),
            models.Index(fields=["department", "archived", "-uses", "-changed", "-question"], name="found_most_used"),
            models.Index(fields=["department", "archived", "level", "-changed", "-question"], name="found_by_level"),
            models.Index(fields=["department", "archived", "marks", "-changed", "-question"], name="found_by_marks"),
            models.Index(fields=["owner"], name="found_of_owner"),
            models.Index(fields=["-changed"], condition=models.Q(whole_school=True), name="found_for_all"),
            GinIndex(fields=["shared"], name="found_for_some"),
            GinIndex(fields=["under"], name="found_under_topics"),
            GinIndex(fields=["tags"], name="found_by_tags"),
        ]

    def __str__(self) -> str:
        return f"What question {self.pk} is found by"


class Worded(models.Model):
    """The stems of a question's words: those of its title, and all of them with their weights: A in the title, B in its
    filing (the names of topics and of those above them, tags, references, source, note), C in what is asked, D in the
    solutions."""

    found = models.OneToOneField(Found, on_delete=models.CASCADE, primary_key=True, related_name="worded")
    titled = SearchVectorField()
    words = SearchVectorField()

    class Meta:
        indexes = [
            GinIndex(fields=["titled"], name="worded_in_titles"),
            GinIndex(fields=["words"], name="worded_anywhere"),
        ]

    def __str__(self) -> str:
        return f"Words of question {self.pk}"


class Word(models.Model):
    """A word that some question of a school has, and its stem: what is being typed may begin it or be a slip for it."""

    school = models.ForeignKey(School, on_delete=models.CASCADE, related_name="+")
    word = models.CharField(max_length=LONGEST_WORD)
    stem = models.CharField(max_length=LONGEST_WORD)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["school", "word"], name="one_word_a_school")]
        indexes = [
            models.Index(fields=["word"], opclasses=["varchar_pattern_ops"], name="words_beginning"),
            models.Index(fields=["school", "stem"], name="words_of_a_stem"),
            GinIndex(fields=["word"], opclasses=["gin_trgm_ops"], name="words_alike"),
        ]

    def __str__(self) -> str:
        return self.word


def note_found(questions: Iterable[int]) -> None:
    """Copy for these questions what they are found by; whatever changes one of them calls this in its transaction."""
    with connection.cursor() as cursor:
        cursor.execute(
            """
            INSERT INTO bank_found (
                question_id, department_id, owner_id, created, changed, uses, level, demand, many, archived,
                whole_school, shared, calculator, by_hand, figure, marks, under, kinds, tags
            )
            SELECT question.id, department_id, owner_id, question.created, changed, 0, level, demand,
                CASE WHEN draws IS NULL OR draws > 999 THEN 4 WHEN draws > 99 THEN 3 WHEN draws > 9 THEN 2
                    WHEN draws > 1 THEN 1 ELSE 0 END,
                archived IS NOT NULL, whole_school,
                ARRAY(SELECT shared.department_id FROM bank_question_shared AS shared
                    WHERE shared.question_id = question.id),
                calculator, by_hand, figure, marks,
                ARRAY(
                    SELECT DISTINCT way.topic
                    FROM bank_filed
                    JOIN bank_topic AS own ON own.id = bank_filed.topic_id
                    LEFT JOIN bank_topic AS above ON above.id = own.parent_id
                    CROSS JOIN LATERAL unnest(ARRAY[own.id, own.parent_id, above.parent_id]) AS way(topic)
                    WHERE bank_filed.question_id = question.id AND way.topic IS NOT NULL
                ),
                kinds, tags
            FROM bank_question AS question JOIN bank_revision AS revision ON revision.id = question.current_id
            WHERE question.id = ANY(%s)
            ON CONFLICT (question_id) DO UPDATE SET
                owner_id = excluded.owner_id, changed = excluded.changed, level = excluded.level,
                demand = excluded.demand, many = excluded.many, archived = excluded.archived,
                whole_school = excluded.whole_school, shared = excluded.shared,
                calculator = excluded.calculator, by_hand = excluded.by_hand, figure = excluded.figure,
                marks = excluded.marks, under = excluded.under, kinds = excluded.kinds, tags = excluded.tags
            """,
            [list(questions)],
        )


def note_words(school: int, questions: Sequence[tuple[int, QuestionDocument]]) -> None:
    """Note the words by which questions of a school are found that ``note_found`` has noted already."""
    rows: list[list[int | str]] = []
    known = set[str]()
    for pk, document in questions:
        said = words_of(document)
        weighted = [words_in(text) for text in (document.title, said.asked, said.solved)]
        texts = [" ".join(words) for words in weighted]
        rows.append([pk, texts[0], *texts])
        known.update(word for words in weighted for word in words)
    with connection.cursor() as cursor:
        cursor.executemany(
            f"INSERT INTO bank_worded (found_id, titled, words) VALUES (%s, to_tsvector('{STEMMER}', %s), "
            + " || ".join(f"setweight(to_tsvector('{STEMMER}', %s), '{weight}')" for weight in "ACD")
            + ") ON CONFLICT (found_id) DO UPDATE SET titled = excluded.titled, words = excluded.words",
            rows,
        )
    know_words(school, known)
    note_filing([pk for pk, _ in questions])


def note_filing(questions: Iterable[int]) -> None:
    """Note for these questions the words of their filing; whatever files them, or renames a topic, calls this after
    ``note_found``."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"""
            WITH filed AS (
                SELECT question.id, regexp_replace(lower(unaccent(concat_ws(' ',
                    (SELECT string_agg(name, ' ') FROM bank_topic WHERE bank_topic.id = ANY(bank_found.under)),
                    array_to_string(question.tags, ' '), array_to_string("references", ' '), source, note
                ))), '[^[:alnum:]]+', ' ', 'g') AS text
                FROM bank_question AS question JOIN bank_found ON question_id = question.id
                WHERE question.id = ANY(%s)
            )
            UPDATE bank_worded
            SET words = ts_filter(words, '{{a,c,d}}') || setweight(to_tsvector('{STEMMER}', left(text, 20000)), 'B')
            FROM filed WHERE found_id = filed.id
            """,
            [list(questions)],
        )


def know_words(school: int, words: Iterable[str]) -> None:
    """Note words that there are. In the order of the alphabet, so that two who save wait for each other at most."""
    worth = sorted(word for word in set(words) if SHORTEST_WORD <= len(word) <= LONGEST_WORD and not word.isdigit())
    known = set(Word.objects.filter(school=school, word__in=worth).values_list("word", flat=True))
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO bank_word (school_id, word, stem) "
            f"SELECT %s, word, coalesce((ts_lexize('{STEMMER}_stem', word))[1], '') "
            "FROM unnest(%s::text[]) AS given(word) ON CONFLICT DO NOTHING",
            [school, [word for word in worth if word not in known]],
        )


class KeptSearch(models.Model):
    """A search that somebody named: it is an address, and finds what there is whenever it is opened."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="searches")
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="searches")
    name = models.CharField(max_length=80)
    # what stands behind the question mark of its address
    asked = models.CharField(max_length=2_000)
    # whether colleagues have it too
    shared = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["department", "user", "name"], name="one_search_a_name")]

    def __str__(self) -> str:
        return self.name
