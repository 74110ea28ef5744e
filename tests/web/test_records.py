"""What is kept, and how: facts with revisions, one gate, forms as rows, keys apart, files by content, forms sent twice."""

import json
import re
import uuid
from html.parser import HTMLParser
from threading import Barrier, Thread
from typing import Any
from unittest import mock

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.urls import reverse

from vorlage.core.documents import page_picture
from vorlage.core.questions import CompiledQuestion, Unsound, load_document
from vorlage.web.bank.models import Question, Revision
from vorlage.web.files.models import Piece, Stored
from vorlage.web.forms.models import FormItem, FormSet, ItemKey, Page
from vorlage.web.once.models import Sending
from vorlage.web.plans.models import Test

from .samples import called, department, frozen, person, question, sent, test_of
from .test_questions import FIELDS


def worth(marks: Any, **more: Any) -> dict[str, Any]:
    """Changes of a question: one part with such marks."""
    part = {"wording": "How heavy?", "answer": {"kind": "number", "key": "m"}, "marks": marks}
    return {"parts": [part], "conditions": [], "pins": []} | more


class Records(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.crane = question(cls.physics, cls.author)
        cls.test = test_of(cls.physics, cls.author, cls.crane)

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def page(self, name: str, *arguments: Any, **query: str) -> str:
        return self.client.get(reverse(name, args=arguments), query).content.decode()

    def revise(self, **changes: Any) -> Revision:
        document = load_document(self.crane.current.document | changes)
        return Question.save_revision(self.physics, self.author, document, self.crane.filing, question=self.crane)


class Revisions(Records):
    def test_every_page_shows_the_revision_that_it_speaks_of(self) -> None:
        before = self.crane.current
        after = self.revise(**worth(11, title="A crane worth more"))
        self.assertEqual((before.marks, after.marks), (4, 11))
        # the bank and the offers show the newest one, the plan, its total and its sets the one that was placed
        self.assertIn("A crane worth more", self.page("questions"))
        self.assertIn("11 marks", self.page("questions"))
        plan = self.page("test", self.test.pk).partition('id="plan"')[2].partition("</section>")[0]
        self.assertIn("Harbour crane", plan)
        self.assertNotIn("A crane worth more", plan)
        self.assertIn("4 marks", plan)
        self.assertEqual(Test.objects.with_totals().get().total_marks, 4)
        self.assertRegex(self.page("tests"), r'<td class="number">4</td>')
        form_set = frozen(self.test)
        shown = self.page("form-set", form_set.pk)
        self.assertIn("4 marks each", shown)
        self.assertNotIn("A crane worth more", shown)
        self.assertEqual([place.each for place in form_set.ordered], [4])

    def test_marks_may_be_fractions_everywhere(self) -> None:
        self.revise(**worth(2.5))
        half = question(
            self.physics,
            self.author,
            "foghorn",
            **worth("1/2", parameters=[{"name": "m", "definition": "2..90"}], wording="", figures=[]),
        )
        mixed = test_of(self.physics, self.author, Question.objects.get(pk=self.crane.pk), half, title="Fractions")
        self.assertIn("2.5 marks", self.page("questions"))
        plan = self.page("test", mixed.pk)
        self.assertIn("0.5 marks", plan)
        self.assertIn("3 marks", plan)
        form_set = frozen(mixed)
        self.assertIn("3 marks each", self.page("form-set", form_set.pk))
        self.assertEqual([float(place.each) for place in form_set.ordered], [2.5, 0.5])

    def test_nothing_is_compiled_for_a_list_or_a_plan(self) -> None:
        form_set = frozen(self.test)
        with mock.patch.object(CompiledQuestion, "__init__", side_effect=AssertionError("compiled")):
            for name, arguments in [
                ("questions", []), ("tests", []), ("test", [self.test.pk]), ("offers", [self.test.pk]),
                ("form-set", [form_set.pk]), ("question-history", [self.crane.pk]),
            ]:  # fmt: skip
                with self.subTest(name):
                    self.assertEqual(self.client.get(reverse(name, args=arguments)).status_code, 200)
            self.assertIn("Harbour crane", self.page("jump", jump="crane"))
            code = form_set.forms.get(position=0).code
            self.assertEqual(self.client.get(reverse("paper", args=[form_set.pk, code])).status_code, 200)

    def test_filing_belongs_to_the_question(self) -> None:
        self.client.post(reverse("save-question"), FIELDS)
        made = called("Anchor chain")
        self.assertEqual((made.filing.topics, made.level), ((("Physics", "Mass"),), 2))
        page = self.client.get(reverse("question", args=[made.pk]))
        fields = FIELDS | {"question": str(made.pk), "base": "1", "topics": "Physics > Weight", "level": "4"}
        self.assertIn("draft kept", self.client.post(reverse("preview-question"), fields).content.decode())
        said = self.client.post(reverse("save-question"), fields, follow=True)
        self.assertContains(said, "Filed anew; revision 1 stands as it is.")
        made.refresh_from_db()
        self.assertEqual((made.filing.topics, made.level, made.revisions.count()), ((("Physics", "Weight"),), 4, 1))
        self.assertIn("Anchor chain", self.page("questions", search="weight"))
        self.assertNotIn("Anchor chain", self.page("questions", search="mass"))
        again = self.client.post(reverse("save-question"), fields, follow=True)
        self.assertContains(again, "Nothing has changed since revision 1.")
        wrong = self.client.post(reverse("save-question"), fields | {"level": "nine"})
        self.assertContains(wrong, "whole number", status_code=422)
        self.assertEqual(page.status_code, 200)


class TheGate(Records):
    def test_nothing_stores_what_the_core_refuses(self) -> None:
        revisions = Revision.objects.count()
        for changes in (
            {"parameters": [{"name": "m", "definition": "150.."}]},
            worth(1, parts=[{"answer": {"kind": "number", "key": "m/0"}}]),
            {"pictures": [{"name": "quay", "digest": "a" * 64, "width": 4, "height": 3}]},
        ):
            with self.subTest(str(changes)):
                with self.assertRaises(Unsound):
                    self.revise(**changes)
                with self.assertRaises(Unsound):
                    question(self.physics, self.author, **changes)
        self.assertEqual((Revision.objects.count(), Question.objects.count()), (revisions, 1))

    def test_what_is_refused_is_all_still_on_the_desk(self) -> None:
        sent_fields = FIELDS | {"parameter-p1-definition": "150..", "title": "Everything typed"}
        refused = self.client.post(reverse("save-question"), sent_fields)
        self.assertContains(refused, "Not saved yet", status_code=422)
        self.assertContains(refused, "Everything typed", status_code=422)
        self.assertContains(refused, "150..", status_code=422)
        self.assertEqual(Question.objects.count(), 1)


class Fields(HTMLParser):
    """What a browser would send of the form of a desk."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.sent: dict[str, list[str]] = {}
        self.name, self.writing, self.picked = "", False, False
        self.feed(page.partition('id="desk"')[2].partition("</form>")[0])

    def handle_starttag(self, tag: str, given: list[tuple[str, str | None]]) -> None:
        found = {name: value or "" for name, value in given}
        if tag == "input" and found.get("name") and (found.get("type") != "checkbox" or "checked" in found):
            self.sent.setdefault(found["name"], []).append(found.get("value", ""))
        elif tag in {"textarea", "select"}:
            self.name, self.writing, self.picked = found.get("name", ""), tag == "textarea", False
            self.sent[self.name] = [""]
        elif tag == "option" and self.name and ("selected" in found or not self.picked):
            self.picked = True
            self.sent[self.name] = [found.get("value", "")]
            self.writing = "value" not in found

    def handle_data(self, text: str) -> None:
        if self.writing:
            self.sent[self.name][0] += text

    def handle_endtag(self, tag: str) -> None:
        if tag in {"textarea", "select", "option"}:
            self.name, self.writing = self.name if tag == "option" else "", False


class Identities(Records):
    """What the desk sends keeps its identity through every change."""

    def test_they_outlive_words_places_and_names(self) -> None:
        rows = [{"name": "m", "definition": "2..9"}, {"name": "h", "definition": "3..8"}]
        choice = {"kind": "choice", "options": [{"text": "up", "share": "1"}, {"text": "down"}]}
        spots = {
            "kind": "hotspot",
            "figure": "f",
            "regions": [{"region": "circle (1, 1) 1"}, {"region": "circle (4, 3) 1", "share": "0"}],
        }
        parts = [
            {"wording": "Which way?", "answer": choice},
            {"wording": "How heavy?", "answer": {"kind": "number", "key": "m*h"}, "marks": 2},
            {"wording": "![path](figure:f)", "answer": spots},
            {"wording": "Put in order.", "answer": {"kind": "order", "items": ["one", "two", "three"]}},
        ]
        made = question(self.physics, self.author, title="Kept", parameters=rows, parts=parts, conditions=[], pins=[],
                        wording="$m$ and $h$", figures=[{"name": "f", "lines": "frame 0..8, 0..5"}])  # fmt: skip
        first = load_document(made.current.document)
        fields: dict[str, Any] = Fields(self.page("question", made.pk)).sent
        uids = fields["part"]
        self.assertEqual(uids, [part.id for part in first.parts])
        # words changed, parts and options moved, a parameter renamed, an option and a region new, one region moved
        fields["part"] = [uids[1], uids[0], *uids[2:]]
        fields[f"part-{uids[1]}-wording"] = ["How heavy is it?"]
        fields[f"part-{uids[1]}-key"] = ["mass*h"]
        fields["wording"] = ["$mass$ and $h$"]
        fields[f"parameter-{first.parameters[0].id}-name"] = ["mass"]
        options = fields[f"part-{uids[0]}-option"]
        fields[f"part-{uids[0]}-option"] = [*reversed(options), "0badcafe"]
        fields |= {"option-0badcafe-text": ["sideways"], "option-0badcafe-share": ["0"]}
        fields[f"part-{uids[2]}-regions"] = ["circle (2, 1) 1\r\ncircle (4, 3) 1 | 0"]
        saved = self.client.post(reverse("save-question"), fields)
        self.assertEqual(saved.status_code, 302, re.findall(r'role="alert"[^>]*>([^<]*)', saved.content.decode()))
        made.refresh_from_db()
        after = load_document(made.current.document)
        self.assertEqual(made.latest, 2)
        self.assertEqual([row.id for row in after.parameters], [row.id for row in first.parameters])
        self.assertEqual([part.id for part in after.parts], [uids[1], uids[0], uids[2], uids[3]])
        before, now = first.parts[0].answer.options, after.parts[1].answer.options
        self.assertEqual([option.id for option in now], [before[1].id, before[0].id, "0badcafe"])
        spots_before, spots_now = (each.parts[2].answer.regions for each in (first, after))
        self.assertEqual([spot.id for spot in spots_now], [spot.id for spot in spots_before])
        items = [[item.id for item in each.parts[3].answer.items] for each in (first, after)]
        self.assertEqual(*items)

    def test_what_browsers_make_up_does_no_harm(self) -> None:
        hostile = {"part": ["<b>", "k1"], "part-<b>-kind": "number", "part-<b>-key": "2", "part-<b>-marks": "1",
                   "part-k1-kind": "number", "part-k1-key": "n", "part-k1-marks": "1", "part-k1-known": "{]"}  # fmt: skip
        fields = {name: value for name, value in FIELDS.items() if not name.startswith("part")}
        saved = self.client.post(reverse("save-question"), fields | hostile)
        self.assertEqual(saved.status_code, 302)
        first, second = load_document(called("Anchor chain").current.document).parts
        self.assertRegex(first.id, r"^[a-z0-9-]+$")
        self.assertEqual(second.id, "k1")


class FormsAsRows(Records):
    def test_keys_lie_apart_from_what_students_see(self) -> None:
        form_set = frozen(self.test, 3)
        self.assertEqual((FormItem.objects.count(), ItemKey.objects.count()), (3, 3))
        self.assertNotIn(
            "itemkey", str(FormItem.objects.select_related("form", "place", "candidate__revision").query).lower()
        )
        for item in FormItem.objects.all():
            document = load_document(item.candidate.revision.document)
            drawn = {row.name for row in document.parameters}
            self.assertEqual((set(item.values), item.orders, item.texts.keys() & {"key"}), (drawn, {}, set()))
        key = ItemKey.objects.first().parts[0]
        self.assertEqual(set(key), {"part", "key", "tolerance", "marks", "after", "says", "shown", "shared"})
        self.assertEqual(key["part"], form_set.ordered[0].revision.parts[0]["id"])

    def test_a_set_reads_what_it_shows_and_no_more(self) -> None:
        form_set = frozen(self.test, 45)
        with self.assertNumQueries(13) as asked:
            page = self.client.get(reverse("form-set", args=[form_set.pk]))
        self.assertEqual(len(page.context["forms"]), 40)
        self.assertEqual(page.context["stretches"], [(1, 40), (41, 45)])
        read = " ".join(query["sql"] for query in asked.captured_queries)
        for unread in ('"files_piece"', '"document"', '"sheet"', '."values"'):
            self.assertNotIn(unread, read)
        # a form that is not among those shown is found by its code
        last = form_set.forms.get(position=44)
        self.assertEqual(self.page("form-set", form_set.pk, form=last.code).count(f"Form {last.code}<"), 1)
        self.assertIn("Harbour crane", self.page("form-set", form_set.pk, form="nonsense"))

    def test_a_page_is_made_once_and_shows_the_paper_itself(self) -> None:
        form_set = frozen(self.test)
        form = form_set.forms.get(position=0)
        address = reverse("paper-page", args=[form_set.pk, form.code, 1])
        with mock.patch("vorlage.web.forms.models.page_picture", side_effect=page_picture) as made:
            first, second = (self.client.get(address) for _ in range(2))
        self.assertEqual((made.call_count, Page.objects.count()), (1, 1))
        self.assertEqual(sent(first), sent(second))
        self.assertEqual(made.call_args.args[0], form.paper.read())
        with mock.patch("vorlage.core.documents.papers.compiled", side_effect=AssertionError("typeset")):
            beside = self.client.get(reverse("paper-beside", args=[form_set.pk, form.code]))
            self.assertEqual(beside.content.decode().count("<img"), form.pages)
            self.client.get(reverse("paper-page", args=[form_set.pk, form.code, form.pages]))
        unchanged = self.client.get(address, headers={"if-none-match": first["ETag"]})
        self.assertEqual((unchanged.status_code, unchanged.content), (304, b""))


class FilesByContent(TestCase):
    def test_the_same_content_is_kept_once_and_comes_back_in_pieces(self) -> None:
        content = bytes(range(256)) * 4096
        first, second = Stored.keep(content), Stored.keep(content)
        self.assertEqual((first, Stored.objects.count(), Piece.objects.count()), (second, 1, 4))
        self.assertEqual(max(map(len, first.pieces())), 256 * 1024)
        self.assertEqual(first.read(), content)
        self.assertEqual(Stored.keep(b"").read(), b"")


class SentTwice(Records):
    def test_the_same_form_makes_one_thing_and_leads_to_it(self) -> None:
        name = {"once": str(uuid.uuid4())}
        for address, fields, count in [
            (reverse("new-test"), {"title": "Waves"}, Test.objects.filter(title="Waves").count),
            (reverse("make-forms", args=[self.test.pk]), {"count": "3"}, FormSet.objects.count),
        ]:
            with self.subTest(address):
                answers = [self.client.post(address, fields | name) for _ in range(3)]
                self.assertEqual(count(), 1)
                self.assertEqual(len({answer.url for answer in answers}), 1)
                # a form that was changed is another, and so is that of a page that was loaded again
                self.client.post(address, fields | name | {"count": "2", "title": "Waves"} | {"instructions": "!"})
                self.client.post(address, fields | {"once": str(uuid.uuid4())})
                self.assertEqual(count(), 3)

    def test_what_was_refused_may_be_sent_again(self) -> None:
        name = {"once": str(uuid.uuid4())}
        empty = test_of(self.physics, self.author, title="Empty")
        address = reverse("make-forms", args=[empty.pk])
        for _ in range(2):
            self.assertContains(self.client.post(address, {"count": "2"} | name), "no questions", status_code=422)
        empty.add(self.crane)
        self.assertEqual(self.client.post(address, {"count": "2"} | name).status_code, 302)
        self.assertEqual(Sending.objects.count(), 1)

    def test_pages_give_their_forms_names(self) -> None:
        for page in (self.page("tests"), self.page("test", self.test.pk)):
            self.assertRegex(page, r'name="once" value="[0-9a-f-]{36}"')
        other = question(self.physics, self.author, "foghorn")
        offers = self.page("offers", self.test.pk)
        names = [json.loads(found) for found in re.findall(r"hx-vals='([^']*)'", offers)]
        self.assertEqual(len(names), 1)
        for _ in range(4):
            self.client.post(reverse("add-place", args=[self.test.pk, other.pk]), names[0])
        self.assertEqual(self.test.places.count(), 2)


class AtTheSameMoment(TransactionTestCase):
    """Several requests that are under way together: the database decides which is the first."""

    def setUp(self) -> None:
        self.physics = department("Physics")
        self.author = person("author", self.physics)
        self.crane = question(self.physics, self.author)
        self.test = test_of(self.physics, self.author, self.crane)

    def together(self, address: str, *forms: dict[str, Any]) -> list[Any]:
        answers: list[Any] = [None] * len(forms)
        start = Barrier(len(forms))
        clients = [Client() for _ in forms]
        for client in clients:
            client.force_login(self.author)

        def send(place: int) -> None:
            start.wait()
            answers[place] = clients[place].post(address, forms[place])
            connection.close()

        threads = [Thread(target=send, args=(place,)) for place in range(len(forms))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return answers

    def test_one_form_sent_four_times_makes_one_thing(self) -> None:
        name = {"once": str(uuid.uuid4())}
        foghorn = question(self.physics, self.author, "foghorn")
        for address, fields, count in [
            (reverse("new-test"), {"title": "Waves"}, Test.objects.filter(title="Waves").count),
            (reverse("make-forms", args=[self.test.pk]), {"count": "3"}, FormSet.objects.count),
            (reverse("save-question"), FIELDS | {"key": str(uuid.uuid4())}, Question.objects.filter(current__title="Anchor chain").count),
            (reverse("add-place", args=[self.test.pk, foghorn.pk]), {}, self.test.places.filter(candidates__revision__question=foghorn).count),
        ]:  # fmt: skip
            with self.subTest(address):
                answers = self.together(address, *[fields | name] * 4)
                self.assertEqual({answer.status_code for answer in answers}, {302})
                self.assertEqual((count(), len({answer.url for answer in answers})), (1, 1))

    def test_two_sets_that_are_ordered_together_have_numbers_of_their_own(self) -> None:
        forms = [{"count": "2", "once": str(uuid.uuid4())} for _ in range(4)]
        self.together(reverse("make-forms", args=[self.test.pk]), *forms)
        self.assertEqual(sorted(FormSet.objects.values_list("number", flat=True)), [1, 2, 3, 4])

    def test_the_same_picture_is_kept_once(self) -> None:
        content = b"x" * 600_000
        kept: list[Stored] = []
        start = Barrier(4)

        def keep() -> None:
            start.wait()
            kept.append(Stored.keep(content))
            connection.close()

        threads = [Thread(target=keep) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((len(kept), Stored.objects.count(), kept[0].read()), (4, 1, content))
