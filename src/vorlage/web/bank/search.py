"""A search of the bank: what is asked for, the questions found, and how many there are of each.

A search is what stands behind the question mark of an address, so it can be kept, named and sent to somebody. Words are
reduced to their stems by PostgreSQL; a word that is not finished finds all that it begins, and one that nothing has is
taken for the most similar ones that something has.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from difflib import get_close_matches
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from django.contrib.postgres.search import SearchQuery, SearchRank
from django.db import connection, transaction
from django.db.models import BooleanField, ExpressionWrapper, F, Q, QuerySet
from django.http import QueryDict

from vorlage.web.design.asking import chosen_number
from vorlage.web.people.models import Department

from .facets import FACETS, VALUES, Facet
from .models import Found, Question, Tree, Worded
from .models.finding import STEMMER, words_in

MOST_WORDS, LONGEST = 8, 200
# how many words a beginning may stand for
MEANT = 40
# how many letters a slip has, what it shares with its word in groups of three, and how alike both are
SHORTEST_SLIP, SHARED, ALIKE = 4, 0.15, 0.72
# All that have the words are put in the order of relevance, up to so many; of more than that, so many whose titles have
# the words, or were last worked on.
ALL, RANKED = 600, 300
# what a word in the solution, in what is asked, in the filing and in the title is worth
WEIGHTS = [0.1, 0.3, 0.6, 1.0]

SORTS = {
    # where there are no words, what was last worked on
    "": "relevance, or last worked on",
    "worked": "last worked on",
    "newest": "newest",
    "used": "most used",
    "level": "level",
    "marks": "marks",
}
ORDERS = {
    "worked": ("-changed", "-pk"),
    "newest": ("-created", "-pk"),
    "used": ("-uses", "-changed", "-pk"),
    "level": ("level", "-changed", "-pk"),
    "marks": ("marks", "-changed", "-pk"),
}
LOOKS = {"sheets": "Sheets", "rows": "List"}


@dataclass(frozen=True)
class Search:
    """What is asked for. ``chosen`` has the values that were chosen of each facet, as they stand in the address."""

    text: str = ""
    chosen: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    archive: bool = False
    # what other departments share, in the place of the department's own
    others: bool = False
    sort: str = ""
    look: str = "sheets"
    page: int = 1

    @staticmethod
    def of(asked: QueryDict) -> Search:
        """The search of an address; what it has that is no value of a facet is passed over."""
        chosen = {}
        for facet in FACETS:
            values = tuple(dict.fromkeys(each for each in asked.getlist(facet.name)[:VALUES] if facet.takes(each)))
            if values:
                chosen[facet.name] = values
        sort, look = asked.get("sort", ""), asked.get("look", "")
        return Search(
            asked.get("search", "")[:LONGEST].replace("\0", ""),
            chosen,
            asked.get("archive") == "yes",
            asked.get("others") == "yes",
            sort if sort in SORTS else "",
            look if look in LOOKS else "sheets",
            min(max(1, chosen_number(asked.get("page", ""), 1)), 100_000),
        )

    @property
    def is_asked(self) -> bool:
        """Whether anything is asked for, or else everything."""
        return bool(self.text.strip() or self.chosen or self.archive or self.others)

    @property
    def by(self) -> str:
        """What it is sorted by: by relevance where there are words, if nothing was chosen."""
        return self.sort or ("relevance" if self.text.strip() else "worked")

    @property
    def address(self) -> str:
        """What stands behind the question mark, without the page."""
        asked: list[tuple[str, str]] = [("search", self.text)] if self.text else []
        asked += [(name, each) for name, values in self.chosen.items() for each in values]
        asked += [("archive", "yes")] if self.archive else []
        asked += [("others", "yes")] if self.others else []
        asked += [("sort", self.sort)] if self.sort else []
        asked += [("look", self.look)] if self.look != "sheets" else []
        return urlencode(asked)

    def without(self, name: str, value: str) -> str:
        """The address without one value of a facet."""
        kept = tuple(each for each in self.chosen[name] if each != value)
        chosen = {each: values for each, values in self.chosen.items() if each != name}
        return replace(self, chosen={**chosen, **({name: kept} if kept else {})}).address


@dataclass
class Meant:
    """What a typed word stands for: stems. ``instead`` are the words that it was taken for, where nothing has it."""

    typed: str
    stems: list[str]
    instead: list[str] = field(default_factory=list)

    @property
    def in_its_place(self) -> str:
        return " or ".join(f"“{word}”" for word in self.instead)

    @property
    def query(self) -> str:
        return "(" + " | ".join(f"'{stem}'" for stem in self.stems) + ")"


class Hunt:
    """A search in a department."""

    def __init__(self, search: Search, department: Department):
        self.search, self.department = search, department

    @cached_property
    def tree(self) -> Tree:
        return Tree(self.department)

    @cached_property
    def meant(self) -> list[Meant]:
        """What every typed word stands for; words that say nothing by themselves are passed over."""
        typed = list(dict.fromkeys(words_in(self.search.text)))[:MOST_WORDS]
        found = []
        known = known_words(self.department.school_id, typed) if typed else {}
        for word, (own, stems) in known.items():
            if not own and not stems:
                continue
            alike = words_like(self.department.school_id, word) if not stems else []
            if alike:
                found.append(Meant(word, list(dict.fromkeys(stem for _, stem in alike)), [each for each, _ in alike]))
            else:
                found.append(Meant(word, list(dict.fromkeys([own or word, *stems]))))
        return found

    @property
    def slips(self) -> list[Meant]:
        """The words that nothing has, with those that they were taken for."""
        return [each for each in self.meant if each.instead]

    @cached_property
    def chosen(self) -> list[tuple[Facet, list[Any]]]:
        """What was chosen of the facets, as their columns have it."""
        chosen = dict(self.search.chosen)
        if "topic" in chosen:
            # who chooses a topic and something below it means what is below
            above = {each for value in chosen["topic"] for each in self.tree.way(int(value))[:-1]}
            chosen["topic"] = tuple(value for value in chosen["topic"] if int(value) not in above)
        return [(facet, facet.read_all(chosen[facet.name])) for facet in FACETS if facet.name in chosen]

    def everything(self) -> QuerySet[Found]:
        """All that is searched, whatever words it has."""
        if self.search.others:
            found = others(self.department)
        else:
            found = Found.objects.filter(department=self.department, archived=self.search.archive)
        return found.order_by()

    def among(self) -> QuerySet[Found]:
        """What has the words, whatever was chosen of the facets."""
        found = self.everything()
        return found.filter(worded__words=raw_query(self.meant)) if self.meant else found

    def matching(self) -> QuerySet[Found]:
        """What is found, in no order."""
        return self.narrowed(self.among())

    def narrowed(self, found: QuerySet[Found] | None = None) -> QuerySet[Found]:
        """Of some, or of everything, what has all that was chosen of the facets."""
        found = self.everything() if found is None else found
        for facet, values in self.chosen:
            found = found.filter(facet.chosen(values))
        return found

    def ordered(self) -> QuerySet[Found]:
        """What is found, in the order that was chosen."""
        found = self.matching()
        if self.search.by != "relevance" or not self.meant:
            return found.order_by(*ORDERS.get(self.search.by, ORDERS["worked"]))
        query = raw_query(self.meant)
        having = Worded.objects.filter(words=query).values("pk")
        if having[: ALL + 1].count() > ALL:
            # Common words are in half of the bank: then those that have them in the title are put in order, and those
            # last worked on.
            titled = Worded.objects.filter(titled=query).values("pk")[:ALL]
            near: set[int] = set()
            for found in (self.narrowed().filter(pk__in=titled), self.matching()):
                if len(near) < RANKED:
                    newest = found.order_by(*ORDERS["worked"])
                    near |= set(newest.values_list("pk", flat=True)[:RANKED])
            found = Found.objects.filter(pk__in=near)
        ranked = found.annotate(rank=SearchRank(F("worded__words"), query, weights=WEIGHTS))
        return ranked.order_by("-rank", "-uses", "-changed", "-pk")


def others(department: Department) -> QuerySet[Found]:
    """What other departments of the school share with one, and is in use."""
    school = Q(whole_school=True, department__school=department.school_id)
    found = Found.objects.filter(school | Q(shared__contains=[department.pk]), archived=False)
    return found.exclude(department=department)


def raw_query(meant: Iterable[Meant]) -> SearchQuery:
    """All of the words; stems are letters and figures only, and in quotes."""
    return SearchQuery(" & ".join(each.query for each in meant), config="simple", search_type="raw")


def known_words(school: int, typed: list[str]) -> dict[str, tuple[str, list[str]]]:
    """Of every word its stem (empty for one that says nothing by itself), and the stems of known words that it begins
    or shares its own with."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"""
            SELECT typed.word, coalesce((ts_lexize('{STEMMER}_stem', typed.word))[1], ''),
                ARRAY(
                    SELECT DISTINCT known.stem FROM (
                        (SELECT stem FROM bank_word WHERE school_id = %(school)s
                            AND word LIKE typed.word || '%%' AND char_length(typed.word) > 1 LIMIT %(most)s)
                        UNION ALL
                        (SELECT stem FROM bank_word WHERE school_id = %(school)s
                            AND stem = (ts_lexize('{STEMMER}_stem', typed.word))[1] LIMIT 1)
                    ) AS known WHERE known.stem <> ''
                )
            FROM unnest(%(typed)s::text[]) AS typed(word)
            """,
            {"school": school, "typed": typed, "most": MEANT},
        )
        return {word: (own, stems) for word, own, stems in cursor.fetchall()}


def words_like(school: int, typed: str) -> list[tuple[str, str]]:
    """The known words that a word may be a slip for, with their stems, the most similar first.

    What has letters changed over, as in *momnet*, shares few groups of three: those that share some are compared letter
    by letter.
    """
    if len(typed) < SHORTEST_SLIP:
        return []
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT word, stem FROM bank_word WHERE school_id = %(school)s AND stem <> '' AND char_length(word) "
            "BETWEEN %(length)s - 2 AND %(length)s + 3 AND similarity(word, %(typed)s) > %(alike)s "
            "ORDER BY similarity(word, %(typed)s) DESC, word LIMIT %(most)s",
            {"school": school, "typed": typed, "length": len(typed), "alike": SHARED, "most": MEANT},
        )
        near = dict(cursor.fetchall())
    return [(word, near[word]) for word in get_close_matches(typed, near, n=3, cutoff=ALIKE)]


def found_by(department: Department, text: str, most: int, without: Iterable[int] = ()) -> list[Question]:
    """The questions in use that have these words, the most relevant first, but for those without which."""
    rows = Hunt(Search(text), department).ordered().exclude(pk__in=list(without))
    return [row.question for row in shown(rows, 0, most)]


def shown(found: QuerySet[Found], first: int, most: int) -> list[Found]:
    """Some of what is found, with all that a list shows of the questions but their documents. They are put in order by
    themselves first: what is shown of them is wide."""
    keys = list(found.values_list("pk", flat=True)[first : first + most])
    unread = ("question__note", "question__source", "question__current__document")
    wide = Found.objects.filter(pk__in=keys).select_related("question__current", "department", "owner").defer(*unread)
    by_key = {each.pk: each for each in wide}
    return [by_key[key] for key in keys if key in by_key]


@dataclass
class Counting:
    """A statement that counts, in readings of one set of questions that are shared out to PostgreSQL's workers."""

    hunt: Hunt
    pieces: list[tuple[str, list[Any]]] = field(default_factory=list)

    def chosen(self, but: Facet | None = None) -> tuple[str, list[Any]]:
        """That what was chosen of the facets holds, of all but one."""
        held = [(each, values) for each, values in self.hunt.chosen if each != but]
        return " AND ".join(each.condition for each, _ in held) or "true", [values for _, values in held]

    def few(self, facets: Sequence[Facet], but: Facet | None = None) -> None:
        """All of some facets with few known values, side by side in one reading, after the count of all."""
        condition, values = self.chosen(but)
        sides = [f"count(*) FILTER (WHERE {facet.name} = {value})" for facet in facets for value in facet.few]
        number = FEW if but is None else FACETS.index(but)
        counted = ", ".join(["count(*)", *sides])
        self.pieces.append(
            (f"SELECT {number}, '{{{{}}}}'::text[], ARRAY[{counted}] FROM {{base}} WHERE {condition}", values)
        )

    def some(self, facets: Sequence[Facet], but: Facet | None = None) -> None:
        """All of some facets with more values: by their combinations, of which there are many fewer than questions."""
        condition, values = self.chosen(but)
        texts = [f"array_to_string({each.name}, ' ')" if each.many else each.name for each in facets]
        names = [each.name for each in facets]
        combined = f"SELECT {', '.join(names)}, count(*) FROM {{base}} WHERE {condition} GROUP BY {', '.join(names)}"
        number = SOME if but is None else FACETS.index(but)
        piece = (
            f"SELECT {number}, ARRAY[{', '.join(f'{each}::text' for each in texts)}], ARRAY[sum(count)::bigint] "
            f"FROM ({combined}) AS combined GROUP BY GROUPING SETS ({', '.join(f'({each})' for each in names)})"
        )
        self.pieces.append((piece, values))

    def each(self, facet: Facet, but: Facet | None = None) -> None:
        """A facet of which a question has several of a great many values."""
        condition, values = self.chosen(but)
        read = f"SELECT unnest({facet.name}) AS value FROM {{base}} WHERE {condition}"
        piece = (
            f"SELECT {FACETS.index(facet)}, ARRAY[value::text], ARRAY[count(*)] FROM ({read}) AS each GROUP BY value"
        )
        self.pieces.append((piece, values))

    def rows(self) -> list[tuple[int, list[str], list[int]]]:
        among = self.hunt.among().annotate(used=ExpressionWrapper(Q(uses__gt=0), BooleanField()))
        base, given = among.values_list(*(facet.column for facet in FACETS)).query.sql_with_params()
        names = f"base ({', '.join(facet.name for facet in FACETS)})"
        statement = " UNION ALL ".join(piece for piece, _ in self.pieces)
        asked: list[Any] = []
        if self.hunt.meant:
            # what has the words is found once
            statement = f"WITH {names} AS MATERIALIZED ({base}) {statement.format(base='base')}"
            asked += given
        else:
            statement = statement.format(base=f"({base}) AS {names}")
        for _, values in self.pieces:
            asked += [*(() if self.hunt.meant else given), *values]
        with transaction.atomic(), connection.cursor() as cursor:
            # a list walks an index until it has enough; here everything is read
            cursor.execute("SET LOCAL max_parallel_workers_per_gather = 2")
            cursor.execute(statement, asked)
            found: list[tuple[int, list[str], list[int]]] = cursor.fetchall()
        return found


# The readings of several facets at once.
FEW, SOME = -1, -2


def counts(hunt: Hunt) -> tuple[int, dict[str, dict[str, int]]]:
    """How many questions are found, and of each facet how many there would be with each of its values, as text, beside
    what is chosen of the others.

    Reading many rows is what costs: facets of which nothing is chosen are counted in as few readings as can be.
    """
    counting, narrowed = Counting(hunt), [facet for facet, _ in hunt.chosen]
    few, some, apart = list[Facet](), list[Facet](), list[Facet]()
    for facet in FACETS:
        (few if facet.few else apart if facet.apart else some).append(facet)
    open_few, open_some = ([each for each in kind if each not in narrowed] for kind in (few, some))
    counting.few(open_few)
    if open_some:
        counting.some(open_some)
    for facet in apart:
        counting.each(facet, facet if facet in narrowed else None)
    for facet in narrowed:
        if facet in few:
            counting.few([facet], facet)
        elif facet in some:
            counting.some([facet], facet)
    found: dict[str, dict[str, int]] = {facet.name: {} for facet in FACETS}
    total = 0

    def add(facet: Facet, value: str, count: int) -> None:
        found[facet.name][value] = found[facet.name].get(value, 0) + count

    for number, values, counted in counting.rows():
        if number == FEW:
            total = counted[0]
        of = open_few if number == FEW else open_some if number == SOME else [FACETS[number]]
        if number == FEW or of[0] in few:
            beside = [(each, str(value)) for each in of for value in each.few]
            for (each, value), count in zip(beside, counted[1:]):
                add(each, value, count)
            continue
        for facet, text in zip(of, values):
            # a question has all of its kinds; what is not grouped by in this row has no text
            for value in () if text is None else text.split() if facet.many and not facet.apart else [text]:
                add(facet, value, counted[0])
    return total, found
