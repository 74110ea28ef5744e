"""The bank: filing, finding, collecting, many questions at once."""

import random
from collections import Counter
from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.db import connection
from django.http import QueryDict
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from vorlage.core.questions import Filing, load_document
from vorlage.library import samples
from vorlage.web.bank.facets import FACETS
from vorlage.web.bank.models import (
    Collected,
    Done,
    Filed,
    Found,
    KeptSearch,
    Pool,
    Proved,
    Question,
    Revision,
    Topic,
    Tree,
)
from vorlage.web.bank.models.finding import words_in
from vorlage.web.bank.models.topics import questions_under
from vorlage.web.bank.search import Hunt, Search, counts
from vorlage.web.bank.tasks import prove_at_night
from vorlage.web.forms.models import FormItem
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import NIGHTLY, perform
from vorlage.web.people.models import Membership
from vorlage.web.plans.models import Candidate, Test

from .reading import read_page
from .samples import department, frozen, person, question, test_of


def filed(held: Any, author: Any, title: str, topics: str = "", wording: str = "$m$", **filing: Any) -> Question:
    """A small question that is filed somewhere."""
    raw = {
        "title": title, "wording": wording, "parameters": [{"name": "m", "definition": filing.pop("draws", "2..9")}],
        "parts": filing.pop("parts", [{"answer": {"kind": "number", "key": "2*m"}, "marks": filing.pop("marks", 1)}]),
    }  # fmt: skip
    paths = [tuple(path.split(" > ")) for path in topics.split("; ") if path]
    document = load_document(raw)
    return Question.save_revision(held, author, document, Filing.model_validate({"topics": paths, **filing})).question


class Bank(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.colleague = person("colleague", cls.physics)
        cls.reader = person("reader", cls.physics, "reader")

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def found(self, asked: str) -> list[str]:
        return [entry.question.title for entry in self.client.get(f"{reverse('questions')}?{asked}").context["entries"]]

    def page(self, name: str, *arguments: Any, **query: Any) -> str:
        return read_page(self.client.get(reverse(name, args=arguments), query))

    def topic(self, *path: str) -> Topic:
        return Topic.objects.get(pk=Tree(self.physics).paths[path])


class Finding(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        solved = [{"answer": {"kind": "number", "key": "2*m"}, "solution": "Turning effects balance."}]
        for title, topics, wording, filing in (
            ("Harbour crane", "Physics > Energy", "A crane lifts $m$ crates.", {"tags": ["machines"]}),
            ("Lifting", "Physics > Energy > Work done", "The winch of a ship lifts $m$ nets.", {}),
            ("A beam", "Physics > Moments", "$m$ sits on a beam.", {"parts": solved}),
            ("Łódź ferry", "Physics > Motion", "Calculating a journey of $m$.", {"note": "from the old crane sheet"}),
        ):
            filed(cls.physics, cls.author, title, topics, wording, **filing)
        filed(department("Chemistry"), person("chemist"), "Somebody else's crane")

    def test_words_are_found_in_all_that_is_said(self) -> None:
        for typed, titles in {
            "crane": ["Harbour crane", "Łódź ferry"],  # the title before the note
            "CRATE": ["Harbour crane"], "lifted": ["Lifting", "Harbour crane"], "machine": ["Harbour crane"],
            "turning balanced": ["A beam"], "moments": ["A beam"], "moment": ["A beam"],
            "energy": ["Lifting", "Harbour crane"], "work": ["Lifting"], "lodz": ["Łódź ferry"],
            "calculati": ["Łódź ferry"], "the crane": ["Harbour crane", "Łódź ferry"],
            "energy crane": ["Harbour crane"], "crane beam": [], "2*m": [], "zebra": [],
        }.items():  # fmt: skip
            with self.subTest(typed):
                found = self.found(f"search={typed}")
                self.assertEqual(sorted(found), sorted(titles))
                self.assertEqual(found[:1], titles[:1])

    def test_what_nothing_has_is_taken_for_what_is_alike(self) -> None:
        for typed in ("crnae", "craen", "crane5", "krane"):
            with self.subTest(typed):
                page = self.page("questions", search=typed)
                self.assertIn("Harbour crane", page)
                self.assertIn(f"No question has “{typed}”. These have “crane”", page)

    def test_a_search_never_breaks(self) -> None:
        for typed in (
            "'",
            "\\",
            "a' | 'b",
            "%",
            "()",
            "<->",
            ":*",
            "\0",
            "x" * 5000,
            "🦀",
            "' & !'",
            "a b c d e f g h i j",
        ):
            for name in ("questions", "facets", "jump"):
                with self.subTest(f"{name} {typed[:10]}"):
                    answer = self.client.get(reverse(name), {"search": typed, "jump": typed})
                    self.assertEqual(answer.status_code, 400 if "\0" in typed else 200)
        for asked in ("level=x", "level=99999999999999999999", "marks=1e999", "marks=nan", "topic=-1", "kind=zebra",
                      "tag=" + "x" * 99, "draws=7", "sort=zebra", "page=99999", "page=x", "look=zebra", "owner=0", "topic=0"):  # fmt: skip
            for name in ("questions", "facets"):
                with self.subTest(asked):
                    self.assertEqual(self.client.get(f"{reverse(name)}?{asked}").status_code, 200)

    def test_what_changed_is_found_as_it_is_now(self) -> None:
        crane = Question.objects.get(current__title="Harbour crane")
        document = load_document(crane.newest.document | {"title": "Derrick"})
        Question.save_revision(self.physics, self.author, document, crane.filing, question=crane)
        self.assertEqual(self.found("search=derrick"), ["Derrick"])
        self.assertEqual(self.found("search=harbour"), [])
        self.assertEqual(self.found("search=crates"), ["Derrick"])

    def test_the_page_and_the_counts_ask_as_often_however_much_there_is(self) -> None:
        def asked() -> list[int]:
            found = []
            for name in ("questions", "facets"):
                for query in ("", "search=lifted", "level=1", "look=rows"):
                    with CaptureQueriesContext(connection) as queries:
                        self.client.get(f"{reverse(name)}?{query}")
                    found.append(len(queries))
            return found

        before = asked()
        for k in range(5):
            filed(self.physics, self.author, f"More {k} lifted", f"Physics > New {k}", tags=[f"t{k}"])
        self.assertEqual(asked(), before)

    def test_a_search_is_kept_named_and_shared(self) -> None:
        level = "search=crane&level=1&sort=marks"
        self.client.post(reverse("keep-search"), {"asked": level, "name": " My cranes ", "shared": "yes"})
        self.client.post(reverse("keep-search"), {"asked": "level=2", "name": "Mine alone"})
        kept = KeptSearch.objects.get(name="My cranes")
        self.assertEqual(kept.asked, level)
        unnamed = self.client.post(reverse("keep-search"), {"asked": level, "name": " "}, follow=True)
        self.assertContains(unnamed, "A search needs a name to be kept.")
        self.client.force_login(self.reader)
        page = self.page("questions")
        self.assertIn("My cranes", page)
        self.assertNotIn("Mine alone", page)
        self.assertEqual(self.client.post(reverse("drop-search", args=[kept.pk])).status_code, 403)
        self.client.force_login(self.author)
        self.client.post(reverse("drop-search", args=[kept.pk]))
        self.assertFalse(KeptSearch.objects.filter(name="My cranes").exists())


class Counting(Bank):
    """Facets are counted by PostgreSQL; here they are counted once more, question by question."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        chance = random.Random("facets")
        ways = ["Physics > Energy", "Physics > Energy > Work", "Physics > Waves", "Physics", "Music > Sound", ""]
        for k in range(40):
            kind = chance.choice(["number", "formula"])
            parts: list[dict[str, Any]] = [
                {"answer": {"kind": kind, "key": "2*m"}, "marks": chance.choice([1, 2, "2.5"])}
            ]
            if chance.random() < 0.3:
                parts.append({"answer": {"kind": "essay"}, "marks": 3, "wording": "Say why."})
            filed(
                cls.physics, chance.choice([cls.author, cls.colleague]), f"Question {k} {chance.choice(['crane', 'ship'])}",
                "; ".join(chance.sample(ways[:5], chance.randint(0, 2))), parts=parts, level=chance.randint(1, 3),
                demand=chance.randint(0, 3), calculator=chance.random() < 0.5, tags=chance.sample(["a", "b", "c"], chance.randint(0, 2)),
                draws=chance.choice(["2", "2..9", "2..99"]),
            )  # fmt: skip
        rows = list(Question.objects.all())
        cls.test = test_of(cls.physics, cls.author, *chance.sample(rows, 7))
        Question.objects.filter(pk__in=[each.pk for each in chance.sample(rows, 5)]).update(
            archived="2026-11-01T00:00Z"
        )
        from vorlage.web.bank.models.finding import note_found

        note_found(each.pk for each in rows)

    def values(self, each: Question, tree: Tree) -> dict[str, list[str]]:
        """What a question has of every facet, worked out from its filing and its document."""
        document, filing = load_document(each.newest.document), each.filing
        ways = [tree.paths[path[:k]] for path in filing.topics for k in range(1, len(path) + 1)]
        used = Candidate.objects.filter(revision__question=each).exists()
        draws = each.newest.draws or 0
        return {
            "topic": [str(pk) for pk in set(ways)], "level": [str(filing.level)], "demand": [str(filing.demand)],
            "kind": list(document.kinds), "marks": [f"{document.marks.normalize():f}"],
            "calculator": [str(filing.calculator)], "owner": [str(each.owner_id)], "used": [str(used)],
            "figure": [str(bool(document.figures))], "by": [str("essay" in document.kinds)],
            "draws": ["0" if draws == 1 else "1" if draws < 10 else "2"], "tag": list(filing.tags),
        }  # fmt: skip

    def test_every_count_is_the_count(self) -> None:
        tree, chance = Tree(self.physics), random.Random("searches")
        everything = [
            (each, self.values(each, tree)) for each in Question.objects.select_related("current", "department")
        ]
        as_asked = {"True": "yes", "False": "no"}
        tried = 0
        for k in range(60):
            asked = QueryDict(mutable=True)
            names = chance.sample(
                [facet.name for facet in FACETS if facet.name != "figure"], chance.choice([0, 1, 1, 2, 3])
            )
            for name in names:
                there = sorted({value for _, values in everything for value in values[name]})
                chosen = chance.sample(there, min(len(there), chance.choice([1, 1, 2])))
                asked.setlist(name, [as_asked.get(value, value) for value in chosen])
            asked["search"] = chance.choice(["", "", "crane"])
            if k % 7 == 0:
                asked["archive"] = "yes"
            search = Search.of(asked)
            with self.subTest(asked.urlencode()):
                wanted: dict[str, set[str]] = {}
                for name in names:
                    wanted[name] = set(asked.getlist(name))
                if "topic" in wanted:
                    above = {str(pk) for value in wanted["topic"] for pk in tree.way(int(value))[:-1]}
                    wanted["topic"] -= above

                def passes(values: dict[str, list[str]], but: str = "", wanted: Any = wanted) -> bool:
                    return all(
                        {as_asked.get(value, value) for value in values[name]} & chosen
                        for name, chosen in wanted.items()
                        if name != but
                    )

                among = [
                    (each, values)
                    for each, values in everything
                    if (each.archived is not None) == search.archive and asked["search"] in each.title
                ]
                total, counted = counts(Hunt(search, self.physics))
                expected = [each for each, values in among if passes(values)]
                self.assertEqual(total, len(expected))
                hunted = set(Hunt(search, self.physics).matching().values_list("pk", flat=True))
                self.assertEqual(hunted, {each.pk for each in expected})
                for facet in FACETS:
                    there = Counter(
                        value for _, values in among if passes(values, facet.name) for value in values[facet.name]
                    )
                    got = {value: count for value, count in counted[facet.name].items() if count}
                    if facet.name == "marks":
                        got = {f"{Decimal(value).normalize():f}": count for value, count in got.items()}
                    if facet.name == "demand":
                        there.pop("0", None)
                    self.assertEqual(got, dict(there), facet.name)
                tried += bool(expected)
        self.assertGreater(tried, 25)

    def test_all_facets_are_shown_and_lead_on(self) -> None:
        answer = self.client.get(reverse("facets"))
        page = read_page(answer)
        for words in (
            "Topic",
            "Level",
            "Kind of answer",
            "with a calculator",
            "never used",
            "marks itself",
            "Whose",
            "Tags",
        ):
            self.assertIn(words, page)
        self.assertEqual(answer.context["total"], 35)
        subject = self.topic("Physics")
        self.assertNotIn("Work", page)
        deeper = self.page("facets", topic=str(subject.pk))
        self.assertIn("Energy", deeper)
        chips = self.page("questions", topic=str(subject.pk), level="2")
        self.assertIn("Topic: Physics", chips)
        self.assertIn("Level: 2", chips)

    def test_pages_follow_each_other_and_have_each_question_once(self) -> None:
        for sort in ("worked", "newest", "used", "level", "marks"):
            with self.subTest(sort):
                titles = [title for page in (1, 2) for title in self.found(f"sort={sort}&page={page}")]
                self.assertEqual((len(titles), len(set(titles))), (35, 35))
        marks = [each.marks for each in Hunt(Search(sort="marks"), self.physics).ordered()]
        self.assertEqual(marks, sorted(marks))
        uses = [each.uses for each in Hunt(Search(sort="used"), self.physics).ordered()]
        self.assertEqual(uses, sorted(uses, reverse=True))


class Topics(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.beam = filed(cls.physics, cls.author, "Beam", "Physics > Moments > Balance; Physics > Forces")
        cls.wave = filed(cls.physics, cls.author, "Wave", "Physics > Waves")
        cls.sine = filed(cls.physics, cls.author, "Sine", "Mathematics > Waves > Sine")

    def counted(self) -> dict[str, int]:
        tree = Tree(self.physics)
        return {" > ".join(tree.path(pk)): count for pk, count in questions_under(self.physics.pk).items()}

    def change(self, topic: Topic, **posted: Any) -> Any:
        return self.client.post(reverse("change-topic", args=[topic.pk]), posted, follow=True)

    def test_a_question_stands_under_several_and_counts_once_above(self) -> None:
        self.assertEqual(
            self.counted(),
            {
                "Physics": 2, "Physics > Moments": 1, "Physics > Moments > Balance": 1, "Physics > Forces": 1,
                "Physics > Waves": 1, "Mathematics": 1, "Mathematics > Waves": 1, "Mathematics > Waves > Sine": 1,
            },
        )  # fmt: skip

    def test_renaming_changes_where_it_is_found(self) -> None:
        self.change(self.topic("Physics", "Moments"), do="rename", name="Turning effects")
        self.assertEqual(self.beam.filing.topics[0], ("Physics", "Turning effects", "Balance"))
        self.assertEqual(self.found("search=turning"), ["Beam"])
        self.assertEqual(self.found("search=moments"), [])

    def test_what_cannot_be_is_told_beside_it(self) -> None:
        moments = self.topic("Physics", "Moments")
        for posted, words in (
            ({"do": "rename", "name": "forces"}, "There is a “forces” already"),
            ({"do": "rename", "name": " "}, "A name is needed"),
            ({"do": "rename", "name": "a > b"}, "A name has no"),
            ({"do": "rename", "name": "x" * 101}, "at most 100"),
            ({"do": "move", "parent": "0"}, "Choose where"),
            (
                {"do": "move", "parent": str(self.topic("Physics", "Moments", "Balance").pk)},
                "cannot stand below itself",
            ),
            ({"do": "move", "parent": str(self.topic("Mathematics", "Waves").pk)}, "more than 3 heights"),
            ({"do": "remove"}, "Something stands under it"),
            ({"do": "merge", "into": str(moments.pk)}, "Choose the topic"),
        ):
            with self.subTest(words):
                self.assertContains(self.change(moments, **posted), words, status_code=422)
        before = Topic.objects.count()
        refused = self.client.post(reverse("add-topic"), {"name": "physics"})
        self.assertContains(refused, "There is a “physics” here already", status_code=422)
        self.assertEqual(Topic.objects.count(), before)

    def test_moving_takes_all_below_along(self) -> None:
        self.change(self.topic("Physics", "Moments"), do="move", parent=str(self.topic("Mathematics").pk))
        self.assertEqual(self.beam.filing.topics, (("Mathematics", "Moments", "Balance"), ("Physics", "Forces")))
        self.assertEqual((self.counted()["Mathematics"], self.counted()["Physics"]), (2, 2))
        self.assertEqual(sorted(self.found(f"topic={self.topic('Mathematics').pk}")), ["Beam", "Sine"])
        self.assertEqual(sorted(self.found("search=mathematics")), ["Beam", "Sine"])

    def test_two_become_one_with_what_is_below(self) -> None:
        self.change(self.topic("Physics", "Waves"), do="merge", into=str(self.topic("Mathematics", "Waves").pk))
        self.assertEqual(self.wave.filing.topics, (("Mathematics", "Waves"),))
        filed(self.physics, self.author, "Tilt", "Physics > Levers > Balance; Physics > Levers")
        self.change(self.topic("Physics", "Levers"), do="merge", into=str(self.topic("Physics", "Moments").pk))
        tilt = Question.objects.get(current__title="Tilt")
        self.assertEqual(set(tilt.filing.topics), {("Physics", "Moments", "Balance"), ("Physics", "Moments")})
        self.assertEqual(self.counted()["Physics > Moments > Balance"], 2)
        self.assertNotIn("Physics > Levers", self.counted())
        whole = self.topic("Physics")
        self.change(whole, do="merge", into=str(self.topic("Mathematics").pk))
        self.assertEqual(set(Tree(self.physics).below[None]), {self.topic("Mathematics")})
        self.assertEqual(self.counted()["Mathematics"], 4)

    def test_order_is_kept(self) -> None:
        self.change(self.topic("Physics", "Waves"), do="up")
        names = [each.name for each in Tree(self.physics).below[self.topic("Physics").pk]]
        self.assertEqual(names, ["Moments", "Waves", "Forces"])

    def test_readers_look_and_do_not_change(self) -> None:
        self.client.force_login(self.reader)
        self.assertNotIn("Rename", self.page("topics", topic=str(self.topic("Physics").pk)))
        self.assertEqual(self.client.post(reverse("change-topic", args=[self.topic("Physics").pk])).status_code, 403)

    def test_topics_are_offered_while_one_types(self) -> None:
        self.assertIn("Physics ▸ Moments", self.page("topic-offers", topics="mom"))
        self.assertIn("Mathematics ▸ Waves", self.page("topic-offers", topics="Physics; math > wav"))
        self.assertIn("makes it", self.page("topic-offers", topics="zebra"))


class Many(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.questions = [
            filed(cls.physics, cls.author, f"Question {k}", "Physics > Waves", tags=["old"]) for k in range(6)
        ]
        cls.test = test_of(cls.physics, cls.author, cls.questions[0])

    def do(self, do: str, count: int = 3, **posted: Any) -> Any:
        ticked = [str(each.pk) for each in self.questions[:count]]
        return self.client.post(reverse("with-questions"), {"do": do, "question": ticked, **posted}, follow=True)

    def state(self) -> list[Any]:
        return [(each.filing, each.owner_id, each.archived) for each in Question.objects.order_by("pk")]

    def test_each_is_done_found_by_and_taken_back(self) -> None:
        for do, posted, asked, words in (
            ("level", {"level": "3"}, "level=3", "Level 3 for 3 questions."),
            ("demand", {"demand": "2"}, "demand=2", "Demand “method” for 3 questions."),
            ("calculator", {"calculator": "no"}, "calculator=no", "Without a calculator: 3 questions."),
            ("minutes", {"minutes": "2,5"}, "", "2.5 minutes for 3 questions."),
            ("tag", {"tags": "new, Old"}, "tag=new", "Tagged new, Old: 3 questions."),
            ("untag", {"tags": "OLD"}, "", "Without the tag OLD: 3 questions."),
            ("put-under", {"topics": "Physics > Sound"}, "search=sound", "Filed under Sound: 3 questions."),
            ("only-under", {"topics": "Music > Sound"}, "search=music", "Filed under Sound alone: 3 questions."),
            ("take-from", {"topics": "Waves"}, "", "No longer under Waves: 3 questions."),
            (
                "hand-over",
                {"colleague": str(self.colleague.pk)},
                f"owner={self.colleague.pk}",
                "Handed over to Colleague: 3",
            ),
            ("archive", {}, "archive=yes", "Put into the archive: 3 questions."),
        ):
            with self.subTest(do):
                before = self.state()
                self.assertContains(self.do(do, **posted), words)
                self.assertNotEqual(self.state(), before)
                self.assertEqual(self.state()[3:], before[3:])
                if asked:
                    self.assertEqual(len(self.found(asked)), 3)
                again = self.do(do, **posted)
                self.assertContains(again, "Nothing changed")
                self.assertTrue(all(each.revisions.count() == 1 for each in self.questions))
                done = Done.objects.first()
                back = self.client.post(reverse("take-back", args=[done.pk]), follow=True)
                self.assertContains(back, "Taken back.")
                self.assertEqual(self.state(), before)
                if asked and do != "archive":
                    self.assertEqual(self.found(asked), [])
        self.assertFalse(self.test.ordered()[0].outdated)

    def test_what_was_changed_since_stays(self) -> None:
        self.do("level", level="4")
        self.do("level", 1, level="5")
        first = Done.objects.last()
        answer = self.client.post(reverse("take-back", args=[first.pk]), follow=True)
        self.assertContains(answer, "1 has been changed since and stayed as they are.")
        self.assertEqual([each.filing.level for each in Question.objects.order_by("pk")][:4], [5, 1, 1, 1])

    def test_all_that_were_found_are_meant_also_on_other_pages(self) -> None:
        answer = self.client.post(
            reverse("with-questions"), {"do": "level", "level": "2", "all": "yes", "asked": "tag=old"}
        )
        self.assertEqual(answer["Location"], f"{reverse('questions')}?tag=old")
        self.assertEqual(set(Question.objects.values_list("level", flat=True)), {2})

    def test_what_cannot_be_done_is_told_and_changes_nothing(self) -> None:
        before = self.state()
        for do, posted, words in (
            ("level", {"level": "9"}, "Choose a level"), ("minutes", {"minutes": "long"}, "no number of minutes"),
            ("tag", {"tags": " "}, "Write the tags"), ("tag", {"tags": "x" * 61}, "too long"),
            ("put-under", {"topics": ""}, "Write the topic"), ("put-under", {"topics": "Zebras"}, "There is no topic"),
            ("take-from", {"topics": "Physics > Zebras"}, "There is no topic “Zebras”"),
            ("hand-over", {"colleague": str(self.reader.pk)}, "Choose a colleague"), ("explode", {}, "Choose what"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertContains(self.do(do, **posted), words)
        self.assertContains(self.do("level", 0, level="2"), "No question is ticked")
        elsewhere = filed(department("Chemistry"), person("chemist"), "Brine")
        posted = {"do": "level", "level": "4", "question": [str(elsewhere.pk)]}
        self.client.post(reverse("with-questions"), posted)
        elsewhere.refresh_from_db()
        self.assertEqual((self.state()[:6], elsewhere.level), (before, 1))

    def test_somebody_elses_deed_is_not_taken_back(self) -> None:
        self.do("level", level="3")
        done = Done.objects.get()
        self.client.force_login(self.colleague)
        self.assertEqual(self.client.post(reverse("take-back", args=[done.pk])).status_code, 404)

    def test_what_is_in_the_archive_is_out_of_the_way_and_still_there(self) -> None:
        self.do("archive", 1)
        self.assertEqual(len(self.found("")), 5)
        self.assertNotIn("Question 0", self.page("jump", jump="question"))
        self.assertNotIn("Question 0", self.page("offers", test_of(self.physics, self.author, title="New").pk))
        self.assertEqual(self.found("archive=yes"), ["Question 0"])
        self.assertEqual(self.client.get(reverse("question", args=[self.questions[0].pk])).status_code, 200)
        self.assertEqual(frozen(self.test, 2).forms.count(), 2)
        self.do("restore", 1)
        self.assertEqual(len(self.found("")), 6)


class Desks(Bank):
    def test_what_was_filed_meanwhile_stays_where_the_desk_does_not_change_it(self) -> None:
        from .test_questions import FIELDS

        self.client.post(reverse("save-question"), FIELDS)
        made = Question.objects.get(current__title=FIELDS["title"])
        opened = self.client.get(reverse("question", args=[made.pk])).context["desk"]
        # a colleague files it while it is open
        self.client.post(reverse("with-questions"), {"do": "tag", "tags": "exam", "question": [str(made.pk)]})
        self.client.post(reverse("with-questions"), {"do": "level", "level": "5", "question": [str(made.pk)]})
        fields = FIELDS | {
            "question": str(made.pk), "base": "1", "filed_before": opened.filed_before, "minutes": "4",
            "wording": FIELDS["wording"] + " Hurry.",
        }  # fmt: skip
        self.client.post(reverse("save-question"), fields)
        made.refresh_from_db()
        filing = Question.objects.get(pk=made.pk).filing
        self.assertEqual((filing.tags, filing.level, filing.minutes), (("exam",), 5, Decimal(4)))
        self.assertEqual(made.revisions.count(), 2)

    def test_a_topic_that_cannot_be_told_is_asked_for_beside_its_field(self) -> None:
        from .test_questions import FIELDS

        filed(self.physics, self.author, "Other", "Physics > Waves; Mathematics > Waves")
        answer = self.client.post(reverse("save-question"), FIELDS | {"topics": "Waves"})
        self.assertContains(answer, "stands there more than once", status_code=422)
        self.assertFalse(Question.objects.filter(current__title=FIELDS["title"]).exists())
        saved = self.client.post(reverse("save-question"), FIELDS | {"topics": "mathematics > waves; Physics > Mass"})
        self.assertEqual(saved.status_code, 302)
        made = Question.objects.get(current__title=FIELDS["title"])
        self.assertEqual(made.filing.topics, (("Mathematics", "Waves"), ("Physics", "Mass")))


class Sharing(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.maths = department("Mathematics")
        cls.music = department("Music")
        cls.reckoner = person("reckoner", cls.maths)
        cls.piper = person("piper", cls.music)
        cls.outsider = person("outsider", department("Physics", "Lighthouse School"))
        cls.crane = question(cls.physics, cls.author)
        cls.wave = filed(cls.physics, cls.author, "Wave", "Physics > Waves", tags=["exam"])

    def share(self, one: Question, share: str) -> None:
        self.client.force_login(self.author)
        self.client.post(reverse("with-questions"), {"do": "share", "share": share, "question": [str(one.pk)]})

    def reach(self, user: Any, one: Question) -> int:
        self.client.force_login(user)
        found = self.found("others=yes")
        status = self.client.get(reverse("question", args=[one.pk])).status_code
        self.assertEqual(one.title in found, status == 200)
        self.assertNotIn(one.title, self.found(""))
        return int(status)

    def test_who_may_use_it(self) -> None:
        everybody = [self.reckoner, self.piper, self.outsider]
        for share, expected in (
            ("", [404, 404, 404]), (str(self.maths.pk), [200, 404, 404]), (str(self.music.pk), [200, 200, 404]),
            ("none", [404, 404, 404]), ("school", [200, 200, 404]), ("0", [200, 200, 404]), ("none", [404, 404, 404]),
        ):  # fmt: skip
            with self.subTest(share):
                self.share(self.wave, share)
                self.assertEqual([self.reach(user, self.wave) for user in everybody], expected)

    def test_sharing_is_taken_back(self) -> None:
        self.share(self.wave, "school")
        self.client.post(reverse("take-back", args=[Done.objects.get().pk]))
        self.assertEqual(self.reach(self.reckoner, self.wave), 404)

    def test_what_is_shared_is_used_and_not_changed(self) -> None:
        self.share(self.crane, "school")
        self.client.force_login(self.reckoner)
        page = self.page("question", self.crane.pk)
        self.assertIn("Change it for me", page)
        self.assertNotIn('id="save"', page)
        from .test_questions import FIELDS

        posted = FIELDS | {"question": str(self.crane.pk), "base": "1"}
        self.assertEqual(self.client.post(reverse("save-question"), posted).status_code, 403)
        self.client.post(reverse("preview-question"), posted)
        self.client.post(reverse("with-questions"), {"do": "level", "level": "5", "question": [str(self.crane.pk)]})
        found = {"do": "level", "level": "5", "all": "yes", "asked": "others=yes"}
        self.assertContains(self.client.post(reverse("with-questions"), found, follow=True), "No question is ticked")
        self.crane.refresh_from_db()
        self.assertEqual((self.crane.latest, self.crane.level), (1, 2))
        # following: the test has the colleague's question, and a new revision is offered
        self.client.post(reverse("collect", args=[self.crane.pk]))
        self.client.post(reverse("test-from-tray"), {"title": "Lifting"})
        test = Test.objects.get(title="Lifting")
        self.assertEqual(frozen(test, 3).forms.count(), 3)
        document = load_document(self.crane.current.document | {"title": "Derrick"})
        Question.save_revision(self.physics, self.author, document, self.crane.filing, question=self.crane)
        self.assertTrue(test.ordered()[0].outdated)
        self.client.force_login(self.author)
        self.assertIn("In 1 test of other departments.", self.page("question", self.crane.pk))

    def test_a_change_for_oneself_leaves_the_colleagues_as_it_is(self) -> None:
        from vorlage.web.bank.models import Picture
        from vorlage.web.files.models import Stored

        kept = Stored.keep(b"a picture")
        values = {"media_type": "image/png", "width": 10, "height": 10}
        Picture.objects.create(department=self.physics, file=kept, **values)
        shown = {"name": "quay", "digest": kept.digest, "width": 10, "height": 10}
        document = load_document(self.wave.current.document | {"pictures": [shown]})
        Question.save_revision(self.physics, self.author, document, self.wave.filing, question=self.wave)
        picture = reverse("picture", args=[kept.digest])
        self.client.force_login(self.reckoner)
        self.assertEqual(self.client.get(picture).status_code, 404)
        self.share(self.wave, str(self.maths.pk))
        self.client.force_login(self.reckoner)
        self.assertEqual(self.client.get(picture).status_code, 200)
        sent = {"once": "8c5b4a8e-5f43-4b8f-9d0c-0d8c4ac6c002"}
        for _ in range(2):
            self.client.post(reverse("copy-question", args=[self.wave.pk]), sent)
        made = Question.objects.get(department=self.maths)
        self.assertEqual((made.title, made.owner, made.latest), ("Wave", self.reckoner, 1))
        self.assertEqual((made.filing.topics, made.filing.tags), ((("Physics", "Waves"),), ("exam",)))
        self.assertTrue(Picture.objects.filter(department=self.maths, file=kept).exists())
        self.assertNotEqual(made.key, self.wave.key)
        changed = load_document(made.current.document | {"title": "Mine"})
        Question.save_revision(self.maths, self.reckoner, changed, made.filing, question=made)
        self.wave.refresh_from_db()
        self.assertEqual(self.wave.newest.title, "Wave")
        self.assertIn("Copied from revision 2 of", self.page("question", made.pk))
        self.share(self.wave, "none")
        self.client.force_login(self.reckoner)
        self.assertEqual(self.client.get(picture).status_code, 200)

    def test_a_newer_revision_is_offered_with_what_it_changes_and_draws_of_both(self) -> None:
        test = test_of(self.physics, self.author, self.crane, title="A")
        place = test.ordered()[0].candidate
        document = load_document(self.crane.current.document | {"wording": "A derrick lifts $m$ by $h$."})
        Question.save_revision(self.physics, self.author, document, self.crane.filing, question=self.crane)
        self.assertIn("Compare", self.page("test", test.pk))
        page = self.client.get(f"{reverse('newer', args=[test.pk, place.pk])}?draw=3")
        self.assertContains(page, "draw 3 of both")
        self.assertContains(page, 'class="sheet"', 2)
        self.assertContains(page, "<ins>derrick</ins>")
        self.assertEqual([revision.number for revision, _ in page.context["sheets"]], [1, 2])
        self.client.force_login(self.reader)
        self.assertEqual(self.client.get(reverse("newer", args=[test.pk, place.pk])).status_code, 200)

    def test_the_author_picks_which_tests_move_on(self) -> None:
        tests = [test_of(self.physics, self.author, self.crane, title=title) for title in ("A", "B")]
        made = frozen(tests[0], 2)
        values = list(FormItem.objects.filter(form__form_set=made).values_list("values", flat=True))
        document = load_document(self.crane.current.document | {"title": "Derrick"})
        Question.save_revision(self.physics, self.author, document, self.crane.filing, question=self.crane)
        page = self.page("question", self.crane.pk)
        self.assertIn("revision 1, 1 frozen set that stays as it is", page)
        answer = self.client.post(
            reverse("move-on", args=[self.crane.pk]), {"moving": [str(tests[1].pk)]}, headers={"HX-Request": "true"}
        )
        self.assertContains(answer, "Move A on")
        self.assertNotContains(answer, "Move B on")
        self.assertEqual([test.ordered()[0].revision.number for test in tests], [1, 2])
        self.assertEqual(list(FormItem.objects.filter(form__form_set=made).values_list("values", flat=True)), values)
        # nobody else's tests are moved
        other = test_of(self.maths, self.reckoner, self.crane, title="C")
        Candidate.objects.filter(place__test=other).update(revision=self.crane.revisions.get(number=1))
        self.client.post(reverse("move-on", args=[self.crane.pk]), {"moving": [str(other.pk)]})
        self.assertEqual(other.ordered()[0].revision.number, 1)


class Marks(Bank):
    """Marks of many at once: a revision of each, by the worker."""

    def perform(self) -> Job:
        job = Job.objects.latest("pk")
        perform(job.pk)
        job.refresh_from_db()
        return job

    def setUp(self) -> None:
        super().setUp()
        parts = [
            {"answer": {"kind": "number", "key": "m"}, "marks": 1},
            {"answer": {"kind": "number", "key": "2*m"}, "marks": 2},
        ]
        self.two = filed(self.physics, self.author, "Two parts", parts=parts)
        self.one = filed(self.physics, self.author, "One part", marks=3)

    def order(self, marks: str, **more: Any) -> Any:
        chosen = {"question": [str(self.two.pk), str(self.one.pk)], "do": "marks", "marks": marks}
        return self.client.post(reverse("with-questions"), chosen | more, follow=True)

    def marks(self) -> list[list[str]]:
        questions = [Question.objects.get(pk=each.pk) for each in (self.two, self.one)]
        return [[str(part["marks"]) for part in each.newest.document["parts"]] for each in questions]

    def test_parts_are_scaled_exactly_and_it_is_undone(self) -> None:
        page = self.order("4,5")
        self.assertContains(page, "0 of 2</progress>")
        job = self.perform()
        self.assertEqual((job.state, job.reason), ("done", "4.5 marks for 2 questions."))
        self.assertEqual(self.marks(), [["1.5", "3"], ["4.5"]])
        self.assertContains(self.client.get(reverse("work", args=[job.pk])), "4.5 marks for 2 questions.")
        # filing and identities stay, and what a list shows is of the new revision
        revision = Question.objects.get(pk=self.two.pk).newest
        self.assertEqual((revision.number, str(revision.marks), revision.note), (2, "4.5", "4.5 marks"))
        self.assertContains(self.client.get(reverse("questions")), "4.5 marks for 2 questions.")
        # one of them is changed since: it stays
        document = load_document(revision.document | {"title": "Two parts anew"})
        Question.save_revision(self.physics, self.author, document, question=self.two)
        self.client.post(reverse("take-back", args=[Done.objects.get().pk]))
        job = self.perform()
        self.assertEqual(self.marks(), [["1.5", "3"], ["3"]])
        self.assertIn("1 stayed as they are, because their marks were changed since: Two parts anew.", job.reason)
        self.assertEqual((Done.objects.count(), Revision.objects.count()), (0, 6))

    def test_what_cannot_be_shared_exactly_stays_and_is_named(self) -> None:
        self.order("4")
        job = self.perform()
        self.assertEqual(self.marks(), [["1", "2"], ["4"]])
        self.assertIn(
            "1 stayed as they are, because their marks cannot be shared exactly among their parts: Two parts.",
            job.reason,
        )

    def test_what_is_no_number_of_marks_is_told(self) -> None:
        for typed, words in (("many", "Marks are a number"), ("", "Marks are a number"), ("0", "Write the marks")):
            with self.subTest(typed):
                self.assertContains(self.order(typed), words)
        self.assertEqual(Job.objects.count(), 0)

    def test_it_is_stopped(self) -> None:
        self.order("6")
        self.client.post(reverse("work", args=[Job.objects.get().pk]))
        self.assertEqual(self.perform().state, "cancelled")
        self.assertEqual(self.marks(), [["1", "2"], ["3"]])
        self.assertContains(
            self.client.get(reverse("work", args=[Job.objects.get().pk])), "Every question is as it was."
        )


class Proofs(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.questions = [question(cls.physics, cls.author, name) for name in ("harbour-crane", "foghorn", "lock-gate")]

    def perform(self) -> Job:
        job = Job.objects.latest("pk")
        perform(job.pk)
        job.refresh_from_db()
        return job

    def alter(self, one: Question, **values: Any) -> None:
        """As nobody can: what is stored is changed, as a fault of a version would change what comes out."""
        Revision.objects.filter(pk=one.current_id).update(**values)

    def test_what_holds_holds_and_says_when(self) -> None:
        self.client.post(reverse("prove-all"))
        self.assertIn("0 of 3</progress>", self.page("proofs"))
        self.client.post(reverse("prove-all"))
        self.assertEqual(Job.objects.count(), 1)
        job = self.perform()
        self.assertEqual((job.state, Proved.objects.count()), ("done", 3))
        self.assertIn("All 3 questions hold.", self.page("proofs"))
        self.assertTrue(all(len(each.current.prints) == 8 for each in self.questions))

    def test_what_does_not_is_listed_with_its_reason(self) -> None:
        crane, foghorn, lock = self.questions
        self.alter(crane, prints=["0" * 16, *crane.current.prints[1:]])
        raw = load_document(foghorn.current.document).model_dump(mode="json")
        wrong = {"response": "1", "outcome": "right"}
        self.alter(foghorn, document=raw | {"parts": [raw["parts"][0] | {"trials": [wrong]}, *raw["parts"][1:]]})
        self.alter(lock, document={"format": "vorlage-question-3", "title": "Lost"})
        self.client.post(reverse("prove-all"))
        self.assertEqual(self.perform().state, "done")
        page = self.page("proofs")
        for words in (
            "<strong>3</strong> of 3 questions fail", "Draw 1 is not what it was when this was kept.", "The sample answer “1”",
            "comes out as wrong in draw 1", "parts: This is needed.",
        ):  # fmt: skip
            self.assertIn(words, page)

    def test_what_runs_off_its_frame_and_has_no_key(self) -> None:
        crane, foghorn, _ = self.questions
        raw = load_document(crane.current.document).model_dump(mode="json")
        figures = [{"name": "path", "lines": "frame 0..4, 0..4\nline (0, 0) (9, 9)"}]
        self.alter(
            crane, document=raw | {"figures": figures, "wording": raw["wording"] + " ![path](figure:path)"}, prints=[]
        )
        raw = load_document(foghorn.current.document).model_dump(mode="json")
        part = raw["parts"][0] | {"answer": raw["parts"][0]["answer"] | {"key": "sqrt(0 - 1)"}}
        self.alter(foghorn, document=raw | {"parts": [part]})
        chosen = {"do": "prove", "question": [str(crane.pk), str(foghorn.pk)]}
        self.client.post(reverse("with-questions"), chosen)
        self.perform()
        faults = {each.question_id: " ".join(each.faults) for each in Proved.objects.all()}
        self.assertIn("runs off its frame", faults[crane.pk])
        self.assertIn("has no value", faults[foghorn.pk])
        self.assertEqual(len(faults), 2)

    def test_a_proof_is_stopped(self) -> None:
        self.client.post(reverse("prove-all"))
        self.client.post(reverse("prove-all"), {"do": "cancel"})
        self.assertEqual((self.perform().state, Proved.objects.count()), ("cancelled", 0))

    def test_every_night_once(self) -> None:
        chemistry = department("Chemistry")
        filed(chemistry, person("chemist", chemistry), "Brine")
        department("Empty")
        for _ in range(3):
            prove_at_night()
        self.assertEqual(Job.objects.count(), 2)
        self.assertIn(prove_at_night, NIGHTLY)
        Job.objects.update(created=timezone.now() - timedelta(hours=21))
        prove_at_night()
        self.assertEqual(Job.objects.count(), 4)


class Trays(Bank):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.questions = [filed(cls.physics, cls.author, f"Question {k}", marks=k + 1) for k in range(4)]

    def collect(self, *places: int, draw: str = "1") -> Any:
        for k in places:
            answer = self.client.post(
                reverse("collect", args=[self.questions[k].pk]), {"draw": draw}, headers={"HX-Request": "true"}
            )
        return answer

    def held(self) -> list[str]:
        return [
            each.question.title
            for each in Collected.objects.filter(user=self.author).select_related("question__current")
        ]

    def test_it_keeps_what_was_collected_in_order_with_the_marks(self) -> None:
        self.assertContains(self.collect(2, 0, 3, 0), "3 questions · 8 marks")
        self.client.logout()
        self.client.force_login(self.author)
        self.assertEqual(self.held(), ["Question 2", "Question 0", "Question 3"])
        order = [str(self.questions[k].pk) for k in (3, 2)] + ["999", "x"]
        self.client.post(reverse("arrange-tray"), {"collected": order})
        self.assertEqual(self.held(), ["Question 3", "Question 2", "Question 0"])
        self.client.post(reverse("arrange-tray"), {"move": str(self.questions[0].pk), "to": "up"})
        self.assertEqual(self.held(), ["Question 3", "Question 0", "Question 2"])
        self.client.post(reverse("put-back", args=[self.questions[0].pk]))
        self.assertEqual(self.held(), ["Question 3", "Question 2"])
        self.client.force_login(self.colleague)
        self.assertIn("Nothing collected", self.page("questions"))

    def test_it_becomes_a_test_with_the_draws_that_were_seen(self) -> None:
        self.collect(1, draw="5")
        self.collect(0)
        sent = {"title": "From the tray", "once": "8c5b4a8e-5f43-4b8f-9d0c-0d8c4ac6c001"}
        made = self.client.post(reverse("test-from-tray"), sent)
        test = Test.objects.get(title="From the tray")
        self.assertEqual(made["Location"], reverse("test", args=[test.pk]))
        self.assertEqual(self.client.post(reverse("test-from-tray"), sent)["Location"], made["Location"])
        self.assertEqual([held.candidate.draw for held in test.ordered()], [5, 1])
        self.assertEqual(self.held(), [])
        self.assertEqual(Found.objects.get(pk=self.questions[1].pk).uses, 1)
        made_set = frozen(test, 4)
        drawn = FormItem.objects.filter(form__form_set=made_set).order_by("form__position", "position")
        self.assertEqual([each.draw for each in drawn][:2], [5, 1])
        self.assertEqual(len({str(each.values) for each in drawn[0::2]}), 4)

    def test_it_is_added_to_a_test_or_named_as_a_pool(self) -> None:
        test = test_of(self.physics, self.author, self.questions[0])
        self.collect(1, 2)
        self.client.post(reverse("make-pool"), {"name": "Waves"})
        pool = Pool.objects.get(name="Waves")
        self.assertEqual([each.question.title for each in pool.pooled.all()], ["Question 1", "Question 2"])
        self.client.post(reverse("test-from-tray"), {"test": str(test.pk)})
        self.assertEqual(test.places.count(), 3)
        self.collect(3, 1)
        self.client.post(reverse("make-pool"), {"name": "Waves"})
        self.assertEqual(pool.pooled.count(), 3)
        self.client.post(reverse("edit-pool", args=[pool.pk]), {"do": f"out {self.questions[1].pk}"})
        self.client.post(reverse("edit-pool", args=[pool.pk]), {"do": "rename", "name": "Sound", "note": "easy ones"})
        page = self.page("pools")
        self.assertIn("easy ones", page)
        self.assertNotIn("Question 1", page)
        self.client.post(reverse("edit-pool", args=[pool.pk]), {"do": "archive"}, follow=True)
        self.assertNotIn("Sound", self.page("pools"))
        self.assertIn("Sound", self.page("pools", archive="yes"))

    def test_a_test_is_put_out_of_the_way_and_back(self) -> None:
        test = test_of(self.physics, self.author, self.questions[0], title="Old test")
        made = frozen(test, 2)
        self.client.post(reverse("archive-test", args=[test.pk]), follow=True)
        self.assertNotIn("Old test", self.page("tests"))
        self.assertNotIn("Old test", self.page("jump", jump="old"))
        self.assertIn("Old test", self.page("tests", archive="yes"))
        self.assertIn("in the archive since", self.page("test", test.pk))
        self.assertEqual(self.client.get(reverse("form-set", args=[made.pk])).status_code, 200)
        self.client.post(reverse("archive-test", args=[test.pk]), {"do": "restore"}, follow=True)
        self.assertIn("Old test", self.page("tests"))

    def test_an_unnamed_pool_and_an_empty_tray_are_told(self) -> None:
        self.collect(0)
        refused = self.client.post(reverse("make-pool"), {"name": " "}, headers={"HX-Request": "true"})
        self.assertContains(refused, "A pool needs a name", status_code=422)
        self.client.post(reverse("empty-tray"))
        self.assertContains(
            self.client.post(reverse("test-from-tray"), {"title": "x"}, follow=True), "nothing in the tray"
        )
        self.assertFalse(Test.objects.exists())

    def test_what_belongs_to_another_department_cannot_be_collected(self) -> None:
        other = filed(department("Chemistry"), person("chemist"), "Brine")
        self.assertEqual(self.client.post(reverse("collect", args=[other.pk])).status_code, 404)
        # a reader collects too, and makes nothing of it
        self.client.force_login(self.reader)
        self.collect(0)
        self.assertEqual(self.client.post(reverse("test-from-tray"), {"title": "x"}).status_code, 403)


class Looking(Bank):
    def test_a_question_is_seen_whole_beside_the_list(self) -> None:
        crane = question(self.physics, self.author)
        page = self.page("look", crane.pk)
        self.assertIn("As a marker", page)
        self.assertNotIn("Key", page)
        self.assertIn("draw 1", page)
        test_of(self.physics, self.author, crane, title="Cranes")
        marker = self.page("look", crane.pk, **{"as": "marker", "draw": "3"})
        self.assertIn("Key", marker)
        self.assertIn("draw 3", marker)
        self.assertIn("Cranes", marker)
        self.assertIn('{"draw": "3"}', marker)
        for draw in ("0", "-4", "999999999", "x", "6616", "6617"):
            with self.subTest(draw):
                self.assertIn("draw ", self.page("look", crane.pk, draw=draw))

    def test_all_samples_can_be_looked_at(self) -> None:
        for name in samples():
            with self.subTest(name):
                shown = question(self.physics, self.author, name)
                for role in ("student", "marker"):
                    self.assertNotIn("cannot be drawn", self.page("look", shown.pk, **{"as": role}))


class Words(TestCase):
    def test_formulas_and_marks_are_no_words(self) -> None:
        for text, words in {
            "A **crane** lifts $m*g$ by ![a crane](figure:path)": ["a", "crane", "lifts", "by", "a", "crane"],
            "Łódź, naïve; half-life x_1": ["lodz", "naive", "half", "life", "x", "1"],
            "costs $5 and\n$6": ["costs", "5", "and", "6"],
        }.items():
            self.assertEqual(words_in(text), words)

    def test_everybody_who_leaves_hands_over_questions(self) -> None:
        held = department("Physics")
        leaver, stayer = person("leaver", held), person("stayer", held)
        made = filed(held, leaver, "Mine")
        Membership.objects.get(user=stayer)
        from vorlage.web.people.owned import hand_over

        hand_over(leaver, stayer, [held])
        made.refresh_from_db()
        self.assertEqual((made.owner, Found.objects.get().owner_id), (stayer, stayer.pk))
        self.assertEqual(Filed.objects.count(), 0)
