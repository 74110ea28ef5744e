"""A bank of a hundred thousand questions, and how long it takes to find some of them."""

from __future__ import annotations

import random
import time
import uuid
from typing import Any

QUESTIONS = 100_000
SUBJECTS, TOPICS, OBJECTIVES = 4, 12, 8
WRITERS = 12
KINDS = ("number", "quantity", "formula", "choice", "text", "equation", "essay", "match")
# What invented words are made of: about as many begin with the same three letters as in a language.
ONSETS, VOWELS, ENDS = (
    "b d f g h k l m n p r s t v br st tr cl".split(),
    "aeiou",
    ["", "l", "m", "n", "r", "s", "t", "ck"],
)


def vocabulary(chance: random.Random, count: int) -> list[str]:
    """Invented words beside those of the trade, the commonest first."""
    trade = (
        "work give find value show force moment crane load speed time mass length area angle water tide harbour ferry "
        "energy power voltage current resistance density pressure wave frequency concentration solution volume "
        "temperature heat graph line gradient equation root probability mean median fraction percentage circle triangle"
    ).split()

    def syllable() -> str:
        return chance.choice(ONSETS) + chance.choice(VOWELS) + chance.choice(ENDS)

    made = {"".join(syllable() for _ in range(chance.randint(2, 3))) for _ in range(2 * count)}
    return trade + sorted(made)[:count]


def fill(count: int = QUESTIONS) -> Any:
    """A department with so many questions; returned is one of its authors. Their words are as frequent as those of a
    language are (Zipf)."""
    from django.db import connection

    from vorlage.web.bank.models import Topic
    from vorlage.web.bank.models.finding import know_words, note_filing, note_found
    from vorlage.web.people.models import Department, Membership, School, User

    chance = random.Random("bank")
    school = School.objects.get()
    department = Department.objects.create(name="Everything", school=school)
    writers = []
    for k in range(WRITERS):
        writers.append(User.objects.create_user(f"writer{k}@sandhaven.example", name=f"Writer {k}", school=school))
        Membership.objects.create(user=writers[-1], department=department, role="author")
    words = vocabulary(chance, 6_000)
    # the commonest thirty say nothing by themselves
    weights = [1 / (k + 30) for k in range(len(words))]
    ways = []
    for a in range(SUBJECTS):
        subject = Topic.objects.create(department=department, name=f"Subject {a}", position=a)
        for b in range(TOPICS):
            name = f"{words[a * TOPICS + b]} {a}".capitalize()
            topic = Topic.objects.create(department=department, name=name, parent=subject, position=b)
            for c in range(OBJECTIVES):
                below = Topic.objects.create(department=department, name=f"Objective {c}", parent=topic, position=c)
                ways.append([subject.pk, topic.pk, below.pk])
    know_words(school.pk, words)

    with connection.cursor() as cursor:
        cursor.execute(
            "CREATE TEMP TABLE given (n int, key uuid, owner bigint, level int, demand int, calculator bool, "
            "tags text[], under bigint[], own bigint[], title text, marks numeric, kinds text[], by_hand bool, "
            "figure bool, many int, uses int, asked text, solved text)"
        )
        with cursor.copy("COPY given FROM STDIN") as copy:
            for k in range(count):
                said = chance.choices(words, weights, k=50)
                under = chance.sample(ways, chance.choice((1, 1, 1, 2)))
                kinds = chance.sample(KINDS, chance.choice((1, 1, 2)))
                copy.write_row((
                    k, uuid.uuid4(), chance.choice(writers).pk, chance.randint(1, 5), chance.randint(0, 4),
                    chance.random() < 0.7, chance.sample(words[:60], chance.randint(0, 3)),
                    sorted({each for way in under for each in way}), [way[-1] for way in under],
                    " ".join(said[:4]).capitalize(), chance.choice((1, 2, 2, 3, 3, 4, 5, 6, 8)), kinds,
                    "essay" in kinds, chance.random() < 0.2, chance.randint(0, 4),
                    chance.choice((0, 0, 0, 1, 2, 5)), " ".join(said[4:36]), " ".join(said[36:]),
                ))  # fmt: skip
        cursor.execute(
            "INSERT INTO bank_question (department_id, key, owner_id, level, demand, calculator, tags, "
            '"references", source, licence, note, whole_school, created, changed) '
            "SELECT %s, key, owner, level, demand, calculator, tags, '{}', '', '', '', false, "
            "now() - n * interval '7 minutes', now() - (n * 7919 %% 100003) * interval '1 minute' FROM given",
            [department.pk],
        )
        cursor.execute("CREATE TEMP TABLE made AS SELECT id, given.* FROM given JOIN bank_question USING (key)")
        cursor.execute(
            "INSERT INTO bank_revision (question_id, number, document, title, marks, kinds, parts, draws, sheet, "
            "author_id, note, created, by_hand, figure, prints) "
            "SELECT id, 1, '{}', title, marks, kinds, '[]', 10 ^ many, "
            "'<p>' || asked || '</p>', owner, '', now(), by_hand, figure, '{}' FROM made"
        )
        cursor.execute(
            "UPDATE bank_question SET current_id = bank_revision.id FROM bank_revision "
            "WHERE question_id = bank_question.id AND department_id = %s",
            [department.pk],
        )
        cursor.execute(
            "INSERT INTO bank_filed (question_id, topic_id, position) "
            "SELECT id, topic, place - 1 FROM made, unnest(own) WITH ORDINALITY AS each(topic, place)"
        )
        cursor.execute("SELECT id FROM made")
        note_found(pk for (pk,) in cursor.fetchall())
        cursor.execute("UPDATE bank_found SET uses = made.uses FROM made WHERE made.id = question_id")
        cursor.execute(
            "INSERT INTO bank_worded (found_id, titled, words) SELECT id, to_tsvector('english', title), "
            "setweight(to_tsvector('english', title), 'A') || "
            "setweight(to_tsvector('english', asked), 'C') || setweight(to_tsvector('english', solved), 'D') FROM made"
        )
        cursor.execute("SELECT id FROM made")
        note_filing(pk for (pk,) in cursor.fetchall())
        cursor.execute("DROP TABLE made")
        cursor.execute("DROP TABLE given")
    connection.connection.autocommit = True
    with connection.cursor() as cursor:
        # as a database stands that has had its night, and was not filled within a minute
        cursor.execute("VACUUM (FULL) bank_found")
        cursor.execute("VACUUM (FULL) bank_worded")
        cursor.execute("VACUUM (ANALYZE) bank_question, bank_found, bank_worded, bank_revision, bank_word, bank_filed")
    return writers[0]


def searches(count: int = 100) -> list[str]:
    """What people ask for, as addresses: words as frequent as they are, words that are not finished, topics, levels and
    kinds, words among them, and now and then everything."""
    from vorlage.web.bank.models import Topic

    chance = random.Random("searches")
    words = vocabulary(random.Random("bank"), 6_000)
    weights = [1 / (k + 30) for k in range(len(words))]
    topics = list(Topic.objects.filter(department__name="Everything").values_list("pk", flat=True))

    def typed(most: int) -> str:
        return "search=" + "+".join(chance.choices(words, weights, k=chance.randint(1, most)))

    def facets() -> str:
        return chance.choice((
            f"topic={chance.choice(topics)}", f"level={chance.randint(1, 5)}&kind={chance.choice(KINDS)}",
            f"topic={chance.choice(topics)}&level=2&level=3", f"used=no&figure=yes&marks={chance.randint(1, 6)}",
        ))  # fmt: skip

    found = []
    for k in range(count):
        kind = k % 20
        if kind < 8:
            found.append(typed(3))
        elif kind < 11:
            found.append("search=" + chance.choices(words, weights)[0][: chance.randint(3, 5)])
        elif kind < 15:
            found.append(facets())
        elif kind < 19:
            found.append(f"{typed(2)}&{facets()}")
        else:
            found.append(f"sort={chance.choice(('', 'newest', 'used', 'level', 'marks'))}")
    return found


def found_and_counted(user: Any = None) -> tuple[list[float], list[float]]:
    """How long it takes in a bank of a hundred thousand, in milliseconds: the pages of what is found, the counts."""
    from django.test import Client
    from django.urls import reverse

    client = Client()
    client.force_login(user or fill())
    pages: list[float] = []
    counts: list[float] = []
    for asked in searches():
        for name, times, headers in (("questions", pages, {"HX-Request": "true"}), ("facets", counts, {})):
            started = time.perf_counter()
            answer = client.get(f"{reverse(name)}?{asked}", headers=headers)
            times.append(1000 * (time.perf_counter() - started))
            if answer.status_code != 200:
                raise AssertionError(f"{name} answers {asked} with {answer.status_code}")
    return pages, counts
