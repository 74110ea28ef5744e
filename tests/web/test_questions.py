"""The list of questions and the desk, as the server sees them."""

import re
from dataclasses import replace
from html import unescape
from threading import Barrier, Thread
from typing import Any

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.urls import reverse

from tests.web.reading import read_page, sent_by
from vorlage.core.questions import load_document
from vorlage.library import ready_questions, samples
from vorlage.web.bank.models import Question, Revision, Topic
from vorlage.web.desk.form import Desk
from vorlage.web.desk.models import Draft
from vorlage.web.desk.preview import Wish, preview

from .samples import called, department, person, question

SHARES = {"slips": [{"key": "7", "share": "1/4", "feedback": "No."}]}
EVERY_KIND: list[dict[str, Any]] = [
    {"kind": "number", "key": "2", "tolerance": {"mode": "between", "low": "1", "high": "3"}, "written": {"form": "integer", "share": "1/3"}, **SHARES},
    {"kind": "quantity", "key": "10", "unit": "m/s", "unit_rule": "any", "convert": True, "share": "1/3", "recognise": ["sign"], **SHARES},
    {"kind": "formula", "key": "5x", "form": "expanded", "up_to": "sign", "where": ["x > 0", "x < 9"], "share": "1/5", "slips": []},
    {"kind": "equation", "key": "y = 2x", "form": "any", "subject": "", "where": ["x > 0"], "slips": [{"key": "y = x", "share": "1/4"}]},
    {"kind": "inequality", "key": "x > 3", "slips": [{"key": "x > 4"}]},
    {"kind": "interval", "key": "[1, 2)"},
    {"kind": "set", "key": "{1, 2}", "cost": "1/7", "tolerance": {"mode": "absolute", "value": "0.1"}},
    {"kind": "list", "key": "1, 4", "partial": True},
    {"kind": "point", "key": "(3, 4)", "slips": [{"key": "(4, 3)", "share": "1/2", "feedback": "Turned round."}]},
    {"kind": "vector", "key": "vec(3, 4)"},
    {"kind": "matrix", "key": "matrix(1, 2; 3, 4)"},
    {"kind": "chemical", "key": "H2O", "multiple": True, "states": True, "share": "1/3"},
    {"kind": "choice", "choose": "many", "shuffle": False, "options": [
        {"text": "$2$", "share": "1", "feedback": "Yes.", "fixed": True}, {"text": "$3$", "share": "-1/2"}, {"text": "none"}]},
    {"kind": "true_false", "key": "2 > 1"},
    {"kind": "match", "pairs": [{"left": "a", "right": "1"}, {"left": "b", "right": "2"}], "distractors": ["3"]},
    {"kind": "order", "items": ["one", "two", "three"], "score": "position"},
    {"kind": "blanks", "gaps": [
        {"answer": {"kind": "number", "key": "3", "tolerance": {"mode": "decimal_places", "value": "1"}, "slips": [{"key": "4"}]}, "share": "1/2"},
        {"answer": {"kind": "choice", "options": [{"text": "falls", "feedback": "No."}, {"text": "rises", "share": "1"}, {"text": "stays", "share": "1/4"}]}},
        {"answer": {"kind": "text", "accept": ["fast", "quickly"], "case": True}}, {"answer": {"kind": "quantity", "key": "5", "unit": "m"}}]},
    {"kind": "essay", "words": 120, "rubric": "Clear | 0 no | 2 yes, fully\nTrue"},
    {"kind": "scale", "steps": 4, "low": "no", "high": "yes"},
    {"kind": "none"},
    {"kind": "text", "accept": ["North Sea", "the North Sea"], "match": "whole", "case": False, "spacing": False},
]  # fmt: skip
FIELDS = {
    "touched": "1",
    "title": "Anchor chain",
    "topics": "Physics ▸ Mass",
    "level": "2",
    "angle": "degrees",
    "wording": "A chain has $n$ links of $w$.",
    "parameter": ["p1", "p2"],
    "parameter-p1-name": "n",
    "parameter-p1-definition": "20..60 step 5",
    "parameter-p2-name": "w",
    "parameter-p2-definition": "2..9",
    "parameter-p2-unit": "kg",
    "condition": ["c1"],
    "condition-c1": "n*w < 400",
    "part": ["q1"],
    "part-q1-kind": "number",
    "part-q1-key": "n*w",
    "part-q1-mode": "relative",
    "part-q1-tolerance": "1%",
    "part-q1-marks": "2",
    "part-q1-after": "kg",
    "part-q1-slips": "n + w | 1/4 | Multiply.",
    "part-q1-recognise": ["sign", "rounding|1/2"],
    "part-q1-solution": "$n*w = value(n*w)$ kg",
}


class Desks(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.reader = person("reader", cls.physics, "reader")
        cls.crane = question(cls.physics, cls.author)

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def save(self, **changes: Any) -> Any:
        return self.client.post(reverse("save-question"), FIELDS | changes)

    def preview(self, **changes: Any) -> str:
        return read_page(self.client.post(reverse("preview-question"), FIELDS | changes))

    def test_saving_makes_a_question_and_then_revisions(self) -> None:
        self.save()
        made = called("Anchor chain")
        self.assertEqual((made.latest, made.current.marks, made.department), (1, 2, self.physics))
        answer = load_document(made.current.document).parts[0].answer
        self.assertEqual(
            [(near.name, str(near.share)) for near in answer.recognise], [("sign", "0"), ("rounding", "1/2")]
        )
        self.save(question=made.pk, base=1, title="Anchor chains")
        made.refresh_from_db()
        self.assertEqual((made.latest, made.title), (2, "Anchor chains"))
        self.assertEqual(made.revisions.get(number=1).document["title"], "Anchor chain")

    def test_a_new_desk_counts_the_marks_that_stand_on_it(self) -> None:
        self.assertIn("Not saved yet · 2 marks", read_page(self.client.get(reverse("new-question"))))

    def test_a_revision_is_never_changed(self) -> None:
        revision = self.crane.current
        revision.note = "changed"
        with self.assertRaises(TypeError):
            revision.save()

    def test_what_cannot_be_saved_is_named_and_everything_typed_is_still_there(self) -> None:
        for changes, said in [
            ({"title": ""}, "Nothing is written here yet."),
            ({"parameter-p1-definition": "20.."}, "needs an upper limit"),
            ({"parameter-p1-name": ""}, "needs a name"),
            ({"condition-c1": "n*w < k"}, "k is not a parameter"),
            ({"part-q1-key": "n*"}, "Something is missing"),
            ({"part-q1-key": ""}, "Nothing is written here yet."),
            ({"part-q1-marks": "many"}, "Marks are a number from 0 to 100"),
            ({"part-q1-tolerance": ""}, "needs a value"),
            ({"part-q1-slip": ["s1"], "slip-s1-key": "n +", "slip-s1-share": "1/4"}, "Something is missing"),
            ({"part-q1-slip": ["s1"], "slip-s1-key": "n", "slip-s1-share": "lots"}, "A share is a fraction"),
            ({"part": []}, "At least one part"),
            ({"wording": "See $2 3$."}, "Two numbers side by side"),
        ]:  # fmt: skip
            with self.subTest(str(changes)):
                before = Revision.objects.count()
                response = self.save(**changes)
                page = read_page(response)
                self.assertEqual(response.status_code, 422)
                self.assertIn(said, page)
                self.assertIn("Nothing you typed is lost", page)
                for typed in [value for value in changes.values() if isinstance(value, str) and value]:
                    self.assertIn(typed, unescape(page))
                self.assertEqual(Revision.objects.count(), before)

    def test_two_authors_do_not_overwrite_each_other(self) -> None:
        response = self.save(question=self.crane.pk, base=0)
        self.assertEqual(response.status_code, 409)
        self.assertIn("saved revision 1 while you were writing", read_page(response))
        self.assertEqual(self.save(question=self.crane.pk, base=1).status_code, 302)

    def test_the_preview_shows_eight_draws_and_marks_what_is_wrong(self) -> None:
        page = self.preview()
        self.assertEqual(page.count('type="radio" name="draw"'), 8)
        self.assertIn('class="drawn"', page)
        broken = self.preview(**{"parameter-p1-definition": "20.."})
        self.assertIn('id="message-parameter-p1" hx-swap-oob="true"><p class="field-error"', broken)
        self.assertIn('data-mark="parameter-p1-definition" data-place="2" data-length="2"', broken)
        self.assertIn("needs an upper limit, such as <code>20..40</code>", broken)

    def test_a_tried_answer_gets_its_verdict(self) -> None:
        for tried, outcome in [("1", "is-wrong"), ("(", "is-unreadable")]:
            with self.subTest(tried):
                self.assertIn(outcome, self.preview(**{"try-q1": tried}))

    def post_data(self) -> Any:
        from django.http import QueryDict

        posted = QueryDict(mutable=True)
        for name, value in FIELDS.items():
            posted.setlist(name, value if isinstance(value, list) else [value])
        return posted

    def test_the_desk_keeps_everything_of_a_document(self) -> None:
        for name, filed in samples().items():
            with self.subTest(name):
                read = Desk.from_document(*filed).read
                self.assertEqual((read.document, read.filing, read.problems), (*filed, []))

    def test_the_desk_keeps_every_kind_of_answer(self) -> None:
        for answer in EVERY_KIND:
            with self.subTest(answer["kind"]):
                part = {"answer": answer, "gives": "W" if answer["kind"] in {"number", "quantity", "formula"} else ""}
                document = load_document({"title": "Kinds", "complex": True, "parts": [part]})
                desk = Desk.from_document(document)
                self.assertEqual((desk.read.document, desk.read.problems), (document, []))
                if answer["kind"] == "text":
                    continue
                # what one kind needs waits while another is chosen
                desk.parts[0].kind = "text"
                desk.parts[0].typed["accept"] = "pier"
                turned = replace(desk)
                self.assertEqual((turned.read.document is not None, turned.read.problems), (True, []))
                desk.parts[0].kind = answer["kind"]
                self.assertEqual(replace(desk).read.document, document)

    def test_every_kind_is_shown_and_tried(self) -> None:
        tries = {"number": "2", "quantity": "36 km/h", "formula": "x*5", "equation": "2y=4x", "inequality": "3<x", "interval": "1<=x<2",
                 "set": "x=2 or x=1", "list": "1,4", "point": "(3|4)", "vector": "3i+4j", "matrix": "[[1,2],[3,4]]", "chemical": "H₂O", "text": "north sea", "choice": "1", "true_false": "yes", "match": "1 2", "order": "1 2 3", "blanks": "3; 2; fast; 500 cm"}  # fmt: skip
        for answer in [answer for answer in EVERY_KIND if answer["kind"] in tries]:
            with self.subTest(answer["kind"]):
                wording = "Say ___, ___, ___ and ___." if answer["kind"] == "blanks" else "Say it."
                desk = Desk.from_document(
                    load_document({"title": "Kinds", "parts": [{"answer": answer, "wording": wording}]})
                )
                part = desk.parts[0].uid
                shown = preview(desk, "kinds", 1, Wish(tried={part: tries[answer["kind"]]}))
                self.assertEqual(shown.messages, {})
                verdict = shown.tries[part].verdict
                assert verdict is not None
                self.assertEqual(verdict.outcome, "right", verdict)
                self.assertTrue(shown.tries[part].reading)

    def test_the_draw_table_is_sorted_and_lengthened(self) -> None:
        desk = Desk.from_post(self.post_data())
        shown = preview(desk, "table", 1, Wish(rows=16, sort="-1"))
        self.assertEqual(len(shown.table.rows), 16)
        weights = [int(str(row.cells[1][0]).strip()) for row in shown.table.rows]
        self.assertEqual(weights, sorted(weights, reverse=True))
        further = preview(desk, "table", 1, Wish(draw=30)).table.rows
        self.assertEqual([row.number for row in further], [*range(1, 9), 30])

    def test_the_ruler_shows_key_tolerance_slips_and_the_tried_answer(self) -> None:
        desk = Desk.from_post(self.post_data())
        desk.parts[0].typed["bands"] = [{"id": "b1", "tolerance": "10%", "share": "1/2", "feedback": "Close."}]
        found = preview(desk, "ruler", 1, Wish(tried={"q1": "1"})).tries["q1"].ruler
        assert found is not None
        self.assertEqual((found.key, found.drags, found.tried, len(found.slips)), (500.0, "relative", 0.0, 1))
        # 1 % is a tenth of the band's 10 %
        self.assertAlmostEqual(found.full[1] * 10, found.bands[0][1], delta=1)
        desk.parts[0].typed["mode"] = "exact"
        exact = preview(replace(desk), "ruler", 1).tries["q1"].ruler
        self.assertEqual(exact.drags if exact else "", "")

    def test_own_tests_feedback_and_hints_are_kept_and_used(self) -> None:
        desk = Desk.from_post(self.post_data())
        part = desk.parts[0]
        part.hints, part.said_wrong = [{"id": "h1", "text": "Multiply.", "cost": "1/4"}], "Count again."
        tests = [("$value(n*w)$", "right"), ("$value(n + w)$", "partly"), ("1", "right")]
        part.trials = [{"id": f"t{k}", "response": typed, "outcome": due} for k, (typed, due) in enumerate(tests)]
        document = desk.read.document
        assert document is not None
        self.assertEqual((desk.read.problems, Desk.from_document(document).read.document), ([], document))
        self.assertEqual(str(document.parts[0].hints[0].cost), "1/4")
        shown = preview(desk, "own", 1, Wish(tried={"q1": "1"}))
        self.assertEqual([warning.message for warning in shown.warnings if warning.code == "trial"],
                         ["The answer: your sample answer “1” is wrong, and not right."])  # fmt: skip
        verdict = shown.tries["q1"].verdict
        assert verdict is not None
        self.assertIn("Count again.", verdict.feedback)

    def test_a_strange_letter_can_become_a_parameter(self) -> None:
        page = self.preview(**{"part-q1-key": "n*w*z"})
        self.assertIn("Make z a parameter", page)
        self.assertIn('data-make="parameters" data-values="{&quot;name&quot;: &quot;z&quot;}"', page)

    def test_a_letter_of_the_wording_can_become_a_parameter(self) -> None:
        shown = self.preview(wording="A chain has $n$ links; solve $x + 1 = n$ for $x$ or $y$.")
        offered = re.findall(r"Make (\w+) a parameter", shown)
        self.assertEqual(offered, ["x", "y"])
        self.assertNotIn("a parameter</button>", self.preview())

    def test_the_sheet_is_looked_at_in_several_ways(self) -> None:
        self.assertIn("is-phone", self.preview(view="phone"))
        self.assertIn("is-large", self.preview(view="large"))
        self.assertRegex(self.preview(view="aloud"), r'class="aloud"><li>\d+</li><li>\d kilograms?</li>')

    def test_a_thousand_draws_at_a_glance(self) -> None:
        page = read_page(self.client.post(reverse("survey-question"), FIELDS))
        self.assertRegex(page, r"\d+ draws at a glance")
        self.assertRegex(page, r'data-go="\d+">greatest \d+')
        broken = read_page(self.client.post(reverse("survey-question"), FIELDS | {"part-q1-key": "n*"}))
        self.assertIn("Mend what is marked first", broken)
        troubled = FIELDS | {"part-q1-key": "n - 40", "condition": [], "part-q1-slips": ""}
        self.assertIn("Keep only n - 40 != 0", read_page(self.client.post(reverse("survey-question"), troubled)))

    def test_a_warning_offers_the_condition_that_ends_it(self) -> None:
        page = self.preview(**{"part-q1-key": "n - 40", "condition": [], "part-q1-slips": ""})
        self.assertIn("Keep only n - 40 &gt; 0", page)
        self.assertIn('data-make="conditions" data-values="{&quot;condition&quot;: &quot;n - 40 &gt; 0&quot;}"', page)

    def test_units_that_do_not_fit_are_told_where_they_stand(self) -> None:
        desk = Desk.from_document(load_document({
            "title": "Units", "parameters": [{"name": "m", "definition": "2..9", "unit": "kg"}, {"name": "h", "definition": "2..9", "unit": "m"}],
            "parts": [{"answer": {"kind": "quantity", "key": "m*h", "unit": "J"}}],
        }))  # fmt: skip
        (messages,) = preview(desk, "units", 1).messages.values()
        self.assertEqual(messages[0].text, "The answer comes out in kg m, and not in J.")

    def test_a_reader_sees_the_draws_but_cannot_change_anything(self) -> None:
        self.client.force_login(self.reader)
        page = read_page(self.client.get(reverse("question", args=[self.crane.pk])))
        self.assertIn("<fieldset disabled>", page)
        self.assertNotIn("Save revision", page)
        answer = self.client.post(reverse("preview-question"), FIELDS | {"question": self.crane.pk, "draw": "3"})
        self.assertIn("harbour crane", read_page(answer))

    def test_hostile_fields_do_no_harm(self) -> None:
        page = self.preview(wording="<script>alert(1)</script> $x$", title='"><img src=x>')
        self.assertNotIn("<script>alert", page)
        for changes in [
            {"draw": "99999999999999"}, {"draw": "-1"}, {"question": "abc"}, {"key": "../../etc"}, {"active": "77", "try-q9": "1"},
            {"part-q1-kind": "riddle"}, {"part-q1-mode": "guess"}, {"level": "1e9"}, {"wording": "x" * 30_000},
            {"parameter": [f"u{n}" for n in range(300)]}, {"part-q1-key": "9^9^9^9"}, {"part-q1-key": "(" * 900},
            {"parameter-p1-definition": "1..9999999999 step 1"}, {"part-q1-slips": "|" * 500}, {"title": "\x00"},
        ]:  # fmt: skip
            with self.subTest(str(changes)[:60]):
                response = self.client.post(reverse("preview-question"), FIELDS | changes)
                self.assertIn(response.status_code, {200, 400})
                self.assertIn(self.save(**changes).status_code, {302, 400, 422})


class AtOnce(TransactionTestCase):
    """Several requests at the same moment, each with a connection of its own."""

    def setUp(self) -> None:
        self.physics = department("Physics")
        self.author = person("author", self.physics)
        self.crane = question(self.physics, self.author)

    def together(self, *sent: dict[str, Any]) -> list[int]:
        """The statuses of saves and previews that are sent together."""
        start, statuses = Barrier(len(sent), timeout=120), []

        def send(fields: dict[str, Any]) -> None:
            client = Client()
            client.force_login(self.author)
            start.wait()
            name = "save-question" if fields.pop("save", False) else "preview-question"
            statuses.append(client.post(reverse(name), FIELDS | fields).status_code)
            connection.close()

        threads = [Thread(target=send, args=(fields,)) for fields in sent]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return sorted(statuses)

    def test_of_several_saves_on_one_base_one_wins(self) -> None:
        page = {"save": True, "question": self.crane.pk, "base": 1}
        self.assertEqual(self.together(*(page | {"title": f"Crane {k}"} for k in range(4))), [302, 409, 409, 409])
        self.assertEqual(self.crane.revisions.count(), 2)

    def test_previews_around_a_save_leave_no_draft(self) -> None:
        page = {"key": "0b64d2f2-6a7c-4f0e-9a51-6f2a3a6f8f11", "leaf": "a1"}
        previews = [page | {"stroke": k, "title": f"Chain{'s' * k}"} for k in range(1, 6)]
        save = page | {"save": True, "stroke": 5, "title": "Chain of an anchor"}
        found = self.together(*previews, save, dict(save))
        # of many at once the page asks again for what one person has no turn for
        self.assertEqual([status for status in found if status not in {200, 204}], [302, 302])
        self.assertGreaterEqual(found.count(200), 2)
        self.assertEqual(called("Chain of an anchor").latest, 1)
        self.assertEqual((Question.objects.count(), Draft.objects.count()), (2, 0))


class Drafts(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author, cls.other = person("author", cls.physics), person("other", cls.physics)
        cls.crane = question(cls.physics, cls.author)

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def type(self, **changes: Any) -> str:
        return read_page(self.client.post(reverse("preview-question"), FIELDS | changes))

    def test_what_is_typed_is_kept_and_lies_there_again(self) -> None:
        page = self.type(question=self.crane.pk, title="Crane at night", base=1)
        self.assertIn("draft kept", page)
        again = read_page(self.client.get(reverse("question", args=[self.crane.pk])))
        self.assertIn('value="Crane at night"', again)
        self.assertIn("This is your draft of", again)
        # nobody else sees it, and no revision was made
        self.client.force_login(self.other)
        self.assertNotIn("Crane at night", read_page(self.client.get(reverse("question", args=[self.crane.pk]))))
        self.assertEqual(self.crane.revisions.count(), 1)

    def test_a_draft_is_put_away_or_becomes_a_revision(self) -> None:
        self.type(question=self.crane.pk, title="Crane at night", base=1)
        self.client.post(reverse("drop-draft", args=[Draft.objects.get().pk]))
        self.assertNotIn("Crane at night", read_page(self.client.get(reverse("question", args=[self.crane.pk]))))
        self.type(question=self.crane.pk, title="Crane by day", base=1)
        self.client.post(
            reverse("save-question"), FIELDS | {"question": self.crane.pk, "title": "Crane by day", "base": 1}
        )
        self.assertEqual((Draft.objects.count(), self.crane.revisions.count()), (0, 2))

    def test_what_was_sent_before_a_save_and_arrives_after_it_brings_no_draft_back(self) -> None:
        key = "0b64d2f2-6a7c-4f0e-9a51-6f2a3a6f8f11"
        for named, saved in [
            ({"key": key}, {"key": key}),
            ({"question": self.crane.pk, "base": 1}, {"question": self.crane.pk, "base": 1}),
        ]:
            with self.subTest(str(named)):
                page = named | {"leaf": "a1"}
                self.type(**page, title="Half a tit", stroke=1)
                self.assertEqual(Draft.objects.count(), 1)
                response = self.client.post(
                    reverse("save-question"), FIELDS | saved | {"leaf": "a1", "stroke": "3", "title": "Half a title"}
                )
                self.assertEqual(response.status_code, 302)
                for stroke, title in [(2, "Half a titl"), (3, "Half a title"), (4, "Half a title")]:
                    self.assertNotIn("draft kept", self.type(**page, title=title, stroke=stroke))
                self.assertEqual(Draft.objects.count(), 0)
                # what is typed after the save, on the page that is about to go, is kept and goes on from there
                self.assertIn("draft kept", self.type(**page, title="Half a title, and more", stroke=5))
                kept = Draft.objects.get()
                newest = called("Half a title").latest
                self.assertEqual((kept.question.title, kept.base), ("Half a title", newest))
                kept.delete()
                Revision.objects.filter(title="Half a title").update(title="Done")

    def test_an_older_state_that_arrives_later_does_not_lie_over_a_newer_one(self) -> None:
        page = {"question": self.crane.pk, "base": 1, "leaf": "a1"}
        self.type(**page, title="Newer", stroke=7)
        self.assertIn("draft kept", self.type(**page, title="Older", stroke=6))
        self.assertEqual(Draft.objects.get().title, "Newer")
        # another page has a count and a draft of its own
        self.type(**page | {"leaf": "b2"}, title="Elsewhere", stroke=1)
        self.assertEqual([draft.title for draft in Draft.objects.all()], ["Elsewhere", "Newer"])

    def test_what_is_typed_in_two_windows_is_brought_together(self) -> None:
        page = {"question": self.crane.pk, "base": 1}
        fields = self.fields()
        self.client.post(
            reverse("preview-question"), fields | page | {"leaf": "a1", "stroke": 1, "title": "Crane in fog"}
        )
        self.client.post(
            reverse("preview-question"), fields | page | {"leaf": "b2", "stroke": 1, "wording": "Fog on $h$."}
        )
        # a window that only looks takes nothing away
        self.client.post(reverse("preview-question"), fields | page | {"leaf": "c3", "stroke": 1})
        opened = read_page(self.client.get(reverse("question", args=[self.crane.pk])))
        self.assertIn('value="Crane in fog"', opened)
        self.assertIn("Fog on $h$.</textarea>", opened)
        self.assertIn("This was written in more than one window. Put in from the other: the title.", opened)
        covers = re.search(r'name="covers" value="([\d,]+)"', opened)[1]
        self.assertEqual(sorted(map(int, covers.split(","))), sorted(Draft.objects.values_list("pk", flat=True)))
        listed = read_page(self.client.get(reverse("questions")))
        self.assertEqual(listed.count("Your drafts"), 1)
        together = {"leaf": "d4", "stroke": 1, "title": "Crane in fog", "wording": "Fog on $h$.", "covers": covers}
        self.client.post(reverse("preview-question"), fields | page | together)
        self.assertEqual(Draft.objects.get().leaf, "d4")
        # the first window is still open, and goes on
        self.client.post(
            reverse("preview-question"), fields | page | {"leaf": "a1", "stroke": 2, "title": "Crane in thick fog"}
        )
        opened = read_page(self.client.get(reverse("question", args=[self.crane.pk])))
        self.assertIn('value="Crane in thick fog"', opened)
        self.assertIn("Fog on $h$.</textarea>", opened)

    def test_a_save_in_one_window_leaves_what_is_typed_in_another(self) -> None:
        page, fields = {"question": self.crane.pk, "base": 1}, self.fields()
        self.client.post(
            reverse("preview-question"), fields | page | {"leaf": "a1", "stroke": 1, "title": "Crane in fog"}
        )
        self.client.post(
            reverse("preview-question"), fields | page | {"leaf": "b2", "stroke": 1, "wording": "Fog on $h$."}
        )
        self.client.post(reverse("save-question"), fields | page | {"leaf": "a1", "stroke": 2, "title": "Crane in fog"})
        self.assertEqual(Draft.objects.get().leaf, "b2")
        opened = read_page(self.client.get(reverse("question", args=[self.crane.pk])))
        self.assertIn('value="Crane in fog"', opened)
        self.assertIn("Fog on $h$.</textarea>", opened)

    def fields(self) -> dict[str, Any]:
        """What a browser sends of the crane as it was saved."""
        return sent_by(self.client.get(reverse("question", args=[self.crane.pk])))

    def test_a_draft_that_was_put_away_stays_away(self) -> None:
        page = {"question": self.crane.pk, "base": 1, "leaf": "a1"}
        self.type(**page, title="Crane at night", stroke=1)
        self.client.post(reverse("drop-draft", args=[Draft.objects.get().pk]), {"leaf": "a1", "stroke": 2})
        self.type(**page, title="Crane at nigh", stroke=2)
        self.assertEqual(Draft.objects.count(), 0)

    def test_the_same_form_sent_twice_makes_one_revision(self) -> None:
        sent = FIELDS | {"key": "0b64d2f2-6a7c-4f0e-9a51-6f2a3a6f8f11", "leaf": "a1", "stroke": "3"}
        first, second = (self.client.post(reverse("save-question"), sent) for _ in range(2))
        made = called("Anchor chain")
        self.assertEqual((first.url, made.revisions.count()), (second.url, 1))
        sent |= {"question": str(made.pk), "base": "1", "stroke": "4", "title": "Anchor chains"}
        for _ in range(2):
            self.assertEqual(self.client.post(reverse("save-question"), sent).status_code, 302)
        self.assertEqual(made.revisions.count(), 2)

    def test_newer_text_under_the_same_count_is_no_second_sending(self) -> None:
        sent = FIELDS | {"question": str(self.crane.pk), "base": "1", "leaf": "a1", "stroke": "3"}
        self.assertEqual(self.client.post(reverse("save-question"), sent | {"title": "Crane"}).status_code, 302)
        # typed and saved at once, before the page had sent a preview of it
        answer = self.client.post(reverse("save-question"), sent | {"title": "Crane, and more"})
        self.assertContains(answer, 'value="Crane, and more"', status_code=409)
        self.assertEqual(
            self.client.post(reverse("save-question"), sent | {"title": "Crane, and more", "base": "2"}).status_code,
            302,
        )
        self.assertEqual(Question.objects.get(pk=self.crane.pk).title, "Crane, and more")

    def test_a_new_question_waits_in_the_list(self) -> None:
        key = "0b64d2f2-6a7c-4f0e-9a51-6f2a3a6f8f11"
        self.type(key=key)
        self.assertIn(f"?draft={key}", read_page(self.client.get(reverse("questions"))))
        page = read_page(self.client.get(reverse("new-question"), {"draft": key}))
        self.assertIn('value="Anchor chain"', page)
        self.assertIn('value="20..60 step 5"', page)

    def test_two_who_write_at_once_are_told(self) -> None:
        self.type(question=self.crane.pk, title="Mine", base=1)
        self.client.force_login(self.other)
        self.assertIn(f"{self.author} is writing here too", self.type(question=self.crane.pk, title="Theirs", base=1))
        self.client.post(reverse("save-question"), FIELDS | {"question": self.crane.pk, "title": "Theirs", "base": 1})
        self.client.force_login(self.author)
        self.assertIn("has saved revision 2 meanwhile", self.type(question=self.crane.pk, title="Mine still", base=1))

    def test_history_shows_what_changed_and_takes_a_revision_up_again(self) -> None:
        self.client.post(
            reverse("save-question"), FIELDS | {"question": self.crane.pk, "base": 1, "revision_note": "Chains"}
        )
        page = read_page(self.client.get(reverse("question-history", args=[self.crane.pk])))
        for words in ("Revision 2", "Chains", "<del>", "<ins>", "Parameter n ▸ definition", "20..60 step 5"):
            self.assertIn(words, page)
        self.assertIn("The question as it was first written.", page)
        old = read_page(self.client.get(reverse("question", args=[self.crane.pk]), {"revision": 1}))
        self.assertIn("This is revision 1.", old)
        self.assertIn('value="Harbour crane"', old)

    def test_a_question_is_copied_and_keeps_its_title(self) -> None:
        answer = self.client.post(reverse("copy-question", args=[self.crane.pk]), follow=True)
        made = Question.objects.exclude(pk=self.crane.pk).get(current__title="Harbour crane")
        self.assertEqual(made.origin, self.crane.current)
        page = read_page(answer)
        self.assertIn("Copied from revision 1 of", page)
        self.assertIn('value="Harbour crane"', page)


class Gallery(TestCase):
    def test_every_ready_question_is_offered_and_opens_on_the_desk(self) -> None:
        self.client.force_login(person("author", department("Physics")))
        page = read_page(self.client.get(reverse("gallery")))
        for ready in ready_questions().values():
            self.assertIn(f"?ready={ready.name}", page)
        chosen = read_page(self.client.get(reverse("gallery"), {"subject": "Chemistry"}))
        self.assertIn("Why ice floats", chosen)
        self.assertNotIn("Harbour crane", chosen)
        desk = read_page(self.client.get(reverse("new-question"), {"ready": "speed-of-a-ferry"}))
        self.assertIn('value="Speed of a ferry"', desk)
        for ready in ready_questions().values():
            with self.subTest(ready.name):
                again = Desk.from_document(ready.document).read
                self.assertEqual((again.document, again.problems), (ready.document, []))


class FromFixed(TestCase):
    TEXT = {"text": "In 1951 a crane lifts a crate of 350 kg by 6.4 m.", "answer": "22.0 kJ"}

    def setUp(self) -> None:
        self.client.force_login(person("author", department("Physics")))

    def test_what_is_found_is_shown(self) -> None:
        page = read_page(self.client.post(reverse("look-for-numbers"), self.TEXT))
        for words in ("m*9.81*d/1000", "180..520 step 10", "350 kg", 'name="vary-d"'):
            self.assertIn(words, page)
        self.assertIn(
            "no number",
            read_page(self.client.post(reverse("look-for-numbers"), {"text": "None.", "answer": "3"})),
        )

    def test_several_are_shown_and_none_is_picked_without_words(self) -> None:
        page = self.client.post(
            reverse("look-for-numbers"), {"text": "Take 12, 7 and 5.", "answer": "24"}
        ).content.decode()
        self.assertIn("More than one formula", page)
        self.assertNotRegex(page, r'type="radio"[^>]*checked')
        one = {"text": "Find the volume of a cone with radius 3 cm and height 8 cm.", "answer": "75.4 cm^3"}
        page = read_page(self.client.post(reverse("look-for-numbers"), one))
        self.assertRegex(page, r'value="pi\*l\^2\*l_1/3"[^>]*checked')
        self.assertIn(f"{reverse('formula-book')}?topic=Solids", page)

    def test_none_leads_to_the_formula_book(self) -> None:
        page = read_page(self.client.post(reverse("look-for-numbers"), {"text": "Of 17 and 25.", "answer": "1234.567"}))
        self.assertIn("No formula was found", page)
        self.assertIn("Look through the formula book", page)

    def test_standard_form_goes_to_the_desk(self) -> None:
        fixed = {"text": "A photon has a frequency of 6.0·10^14 Hz. What is its energy?", "answer": "3.98·10^-19 J"}
        picked = {"vary-f": "on", "definition-f": "4*10^14..7*10^14 step 10^13", "formula": "f*6.63*10^-34"}
        self.client.post(reverse("vary"), fixed | picked)
        desk = Desk.from_draft(Draft.objects.get().fields)
        self.assertEqual((desk.parameters[0].shown, desk.parts[0].typed["mode"], desk.parts[0].typed["tolerance"]),
                         ("standard 2 sf", "significant_figures", "3"))  # fmt: skip
        self.assertEqual(preview(desk, "varied", 1).messages, {})

    def test_it_goes_to_the_desk_as_a_draft(self) -> None:
        picked = {"vary-m": "on", "definition-m": "200..500 step 50", "formula": "m*9.81*d/1000"}
        response = self.client.post(reverse("vary"), self.TEXT | picked, follow=True)
        page = unescape(read_page(response))
        self.assertIn("In 1951 a crane lifts a crate of $m$ by 6.4 m.", page)
        self.assertIn('value="200..500 step 50"', page)
        self.assertIn("m*9.81*6.4/1000", page)
        desk = Desk.from_draft(Draft.objects.get().fields)
        shown = preview(desk, "varied", 1)
        self.assertEqual((shown.messages, len(shown.table.rows)), ({}, 7))

    def test_what_would_turn_the_sign_of_the_answer_is_kept_out(self) -> None:
        fixed = {
            "text": "A cube with an edge of 6 cm has a hole of radius 1 cm drilled through it. What volume remains?",
            "answer": "197 cm^3",
        }
        picked = {"vary-l": "on", "vary-l_1": "on", "definition-l": "3..9", "definition-l_1": "1..6"}
        self.client.post(reverse("vary"), fixed | picked | {"formula": "l^3 - pi*l_1^2*l"})
        desk = Desk.from_draft(Draft.objects.get().fields)
        self.assertEqual([row.text for row in desk.conditions], ["l^3 - pi*l_1^2*l > 0"])
        self.assertEqual(preview(desk, "varied", 1).messages, {})


class FormulaBook(TestCase):
    def test_it_can_be_looked_through(self) -> None:
        self.client.force_login(person("author", department("Physics")))
        page = read_page(self.client.get(reverse("formula-book")))
        for words in ("Percentages", "Electric circuits", "Solutions", 'aria-current="page"', "Rise by a percentage"):
            self.assertIn(words, page)
        page = read_page(self.client.get(reverse("formula-book"), {"topic": "Motion"}))
        self.assertIn("Constant speed", page)
        self.assertIn("<code>v*t</code>", page)
        self.assertIn("Percentages", read_page(self.client.get(reverse("formula-book"), {"topic": "<b>"})))

    def test_words_find_formulas_of_all_topics(self) -> None:
        self.client.force_login(person("author", department("Physics")))
        found = self.client.get(reverse("formula-book"), {"words": "cone volu"}, headers={"HX-Request": "true"})
        page = read_page(found)
        self.assertIn("Volume of a cone", page)
        self.assertNotIn("<html", page)
        nothing = read_page(self.client.get(reverse("formula-book"), {"words": "zebra <i>"}))
        self.assertIn("No formula has these words", nothing)
        self.assertIn("zebra &lt;i&gt;", nothing)

    def test_only_members_read_it(self) -> None:
        self.assertEqual(self.client.get(reverse("formula-book")).status_code, 302)


class Lists(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        for name in samples():
            question(cls.physics, cls.author, name)
        other = department("Chemistry")
        question(other, cls.author, "brine-dilution", title="Somebody else's crane")

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def titles(self, **query: str) -> set[str]:
        page = self.client.get(reverse("questions"), query)
        return {entry.question.title for entry in page.context["entries"]}

    def test_search_finds_words_anywhere_and_only_in_the_department(self) -> None:
        self.assertEqual(self.titles(search="crane"), {"Harbour crane"})
        self.assertEqual(self.titles(search="LOCK hinge"), {"Pushing the lock gate"})
        self.assertEqual(self.titles(search="concentration brine"), {"Concentration of brine", "Thinning out brine"})
        self.assertEqual(self.titles(search="zebra"), set())
        chemistry = Topic.objects.get(department=self.physics, name="Chemistry")
        self.assertEqual(len(self.titles(topic=str(chemistry.pk))), 3)

    def test_a_search_for_nothing_says_what_to_do(self) -> None:
        page = read_page(self.client.get(reverse("questions"), {"search": "zebra"}))
        self.assertIn("Try fewer words", page)

    def test_the_number_of_queries_does_not_grow_with_the_list(self) -> None:
        for query, count in (({"search": "crane"}, 14), ({"search": ""}, 12)):
            with self.subTest(query), self.assertNumQueries(count):
                self.client.get(reverse("questions"), query)

    def test_jump_finds_by_name(self) -> None:
        page = read_page(self.client.get(reverse("jump"), {"jump": "lock"}))
        self.assertIn("Pushing the lock gate", page)
        self.assertNotIn("Somebody else", page)
