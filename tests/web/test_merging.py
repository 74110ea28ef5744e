"""A draft and a revision that was saved meanwhile: both sides' changes stand, and what both changed is named."""

from copy import deepcopy
from typing import Any

from django.test import TestCase
from django.urls import reverse

from tests.web.reading import read_page
from vorlage.core.questions import Filing, load_document
from vorlage.web.bank.models import Question
from vorlage.web.desk.form import Desk
from vorlage.web.desk.merging import merged
from vorlage.web.desk.models import Draft

from .samples import department, person, question

DOCUMENT = {
    "title": "Crane", "wording": "A crane lifts $m$.", "conditions": ["m > 2"],
    "parameters": [{"id": "p1", "name": "m", "definition": "2..9"}, {"id": "p2", "name": "h", "definition": "1..5"}],
    "parts": [
        {"id": "q1", "wording": "The work?", "answer": {"kind": "number", "key": "m*h", "slips": [{"key": "m"}]}},
        {"id": "q2", "wording": "The power?", "answer": {"kind": "number", "key": "m"}},
    ],
}  # fmt: skip


def desk(**changes: Any) -> Desk:
    return Desk.from_document(load_document(deepcopy(DOCUMENT) | changes), Filing())


class Merging(TestCase):
    def test_what_one_side_changed_is_taken_from_that_side(self) -> None:
        base, mine, theirs = desk(), desk(), desk()
        mine.wording, mine.parameters[0].definition = "A crane lifts $m$ tonnes.", "2..90"
        mine.parts[0].typed["slips"][0]["key"] = "m + h"
        theirs.title, theirs.parts[1].typed["key"] = "Harbour crane", "m/2"
        theirs.parameters.append(deepcopy(theirs.parameters[0]))
        theirs.parameters[-1].uid, theirs.parameters[-1].name = "p3", "t"
        found = merged(base, mine, theirs)
        self.assertEqual(found.conflicts, [])
        both = found.desk
        self.assertEqual((both.title, both.wording), ("Harbour crane", "A crane lifts $m$ tonnes."))
        self.assertEqual([row.name for row in both.parameters], ["m", "h", "t"])
        self.assertEqual(both.parameters[0].definition, "2..90")
        self.assertEqual([part.key for part in both.parts], ["m*h", "m/2"])
        self.assertEqual(both.parts[0].typed["slips"][0]["key"], "m + h")
        self.assertIn("a new parameter", found.taken)

    def test_what_both_changed_stays_and_is_named(self) -> None:
        base, mine, theirs = desk(), desk(), desk()
        mine.title, theirs.title = "My crane", "Their crane"
        mine.parts[0].wording, theirs.parts[0].wording = "Mine?", "Theirs?"
        found = merged(base, mine, theirs)
        self.assertEqual((found.desk.title, found.desk.parts[0].wording), ("My crane", "Mine?"))
        named = [(each.words, each.theirs, each.input) for each in found.conflicts]
        self.assertEqual(
            named,
            [("the title", "Their crane", "title"), ("the wording of part 1", "Theirs?", "part-q1-wording")],
        )
        # the same change on both sides is none to be settled
        theirs.title = mine.title
        self.assertEqual([each.words for each in merged(base, mine, theirs).conflicts], ["the wording of part 1"])

    def test_rows_that_are_taken_out(self) -> None:
        base, mine, theirs = desk(), desk(), desk()
        del mine.parts[1], theirs.parameters[1]
        found = merged(base, mine, theirs)
        self.assertEqual([row.name for row in found.desk.parameters], ["m"])
        self.assertEqual([part.uid for part in found.desk.parts], ["q1"])
        # what the other side took out and this one changed stays
        base, mine, theirs = desk(), desk(), desk()
        mine.parameters[1].definition = "1..50"
        del theirs.parameters[1]
        found = merged(base, mine, theirs)
        self.assertEqual([row.name for row in found.desk.parameters], ["m", "h"])
        self.assertEqual([each.words for each in found.conflicts], ["parameter h, which was taken out there"])

    def test_conditions_and_pins_are_taken_whole(self) -> None:
        base, mine, theirs = desk(), desk(), desk(conditions=["m > 3", "h < 5"])
        self.assertEqual([row.text for row in merged(base, mine, theirs).desk.conditions], ["m > 3", "h < 5"])
        mine = desk(conditions=["m > 4"])
        found = merged(base, mine, theirs)
        self.assertEqual([row.text for row in found.desk.conditions], ["m > 4"])
        self.assertEqual([each.words for each in found.conflicts], ["the conditions"])

    def test_the_desk_opens_with_both(self) -> None:
        physics = department("Physics")
        author, other = person("author", physics), person("lead", physics, "lead")
        made = question(physics, author)
        draft = Desk.from_document(load_document(made.current.document), made.filing)
        draft.wording = "My wording."
        given = {"user": author, "department": physics, "key": made.key, "question": made, "base": 1}
        Draft.objects.create(**given, title=draft.title, fields=draft.as_draft())
        theirs = load_document(made.current.document | {"title": "Their title"})
        Question.save_revision(physics, other, theirs, question=made)
        self.client.force_login(author)
        page = read_page(self.client.get(reverse("question", args=[made.pk])))
        self.assertIn("saved revision 2 while this draft was open", page)
        self.assertIn("Taken over from there: the title", page)
        self.assertIn('value="Their title"', page)
        self.assertIn("My wording.</textarea>", page)
        self.assertIn('<input type="hidden" name="base" value="2">', page)
