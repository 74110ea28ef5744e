"""Papers that are keyed in, and answers that are marked a second time."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from typing import Any

from django.test import Client
from django.urls import reverse

from vorlage.core.algebra import approximate
from vorlage.web.bank.models import Question
from vorlage.web.marking.models import Keyed, SecondMark, SecondMarking
from vorlage.web.sittings.models import Mark, Response, Sitting, Taking
from vorlage.web.sittings.questions import questions_had

from .samples import department, frozen, person, question, test_of
from .test_marking import PARTS, Marking

CHOICE = {
    "id": "way", "wording": "Which way?", "marks": 1,
    "answer": {"kind": "choice", "options": [{"text": "up", "share": "1"}, {"text": "down"}, {"text": "nowhere"}]},
}  # fmt: skip


class Paper(Marking):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        parameters = [{"name": "m", "definition": "100..900 step 10"}, {"name": "h", "definition": "3..40"}]
        made = question(
            cls.physics, cls.author, conditions=[], parameters=parameters, wording="$m$ kg up by $h$ m.",
            parts=[*PARTS, CHOICE, {**CHOICE, "id": "again"}],
        )  # fmt: skip
        cls.question = made
        cls.test = test_of(cls.physics, cls.author, made)
        cls.form_set = frozen(cls.test, 4)

    def on_paper(self) -> Sitting:
        return self.give(come_in="paper")

    def key(self, sitting: Sitting, k: int = 0, client: Client | None = None, **typed: str) -> Any:
        taking = self.taking(sitting, k)
        fields = {"code": taking.form.code if taking.form else ""} | typed
        return (client or self.client).post(reverse("key-paper", args=[sitting.pk, taking.pk]), fields)

    def right(self, taking: Taking) -> tuple[str, str]:
        """The work that is asked for, and the letters of the way that is."""
        drawn = questions_had(taking)[0].drawn
        m, h = (approximate(drawn.values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
        letters = [next(label for label, text in drawn.offered(part) if text.source == "up") for part in (2, 3)]
        return f"{m * 9.81 * h / 1000:.4f} kJ", "".join(letters)

    def test_a_row_of_letters_numbers_and_marks(self) -> None:
        sitting = self.on_paper()
        taking = self.taking(sitting)
        work, letters = self.right(taking)
        self.assertContains(self.client.get(reverse("papers-to-key", args=[sitting.pk])), taking.student.family)
        page = self.client.get(reverse("paper-to-key", args=[sitting.pk, taking.pk]))
        self.assertContains(page, "2 single choices as a row of letters")
        answer = self.key(sitting, **{"a-0-work": work, "m-0-why": "2.5", "letters": letters.lower()})
        self.assertEqual(answer.status_code, 302)
        marks = {each.part: each for each in self.taking(sitting).marks()}
        self.assertEqual(
            {part: str(each.held.marks) for part, each in marks.items()},
            {"work": "2", "why": "5/2", "way": "1", "again": "1"},
        )
        self.assertEqual((marks["why"].by, marks["work"].by), (self.author, None))
        self.assertContains(self.client.get(reverse("paper-to-key", args=[sitting.pk, taking.pk])), "6.5 of 7 marks")
        # put right afterwards: only what changed is another answer, and a mark by hand stays
        self.key(sitting, **{"a-0-work": "1 kJ", "letters": letters})
        self.assertEqual(Response.objects.filter(part="work").count(), 2)
        self.assertEqual(Response.objects.filter(part="way").count(), 1)
        marks = {each.part: str(each.held.marks) for each in self.taking(sitting).marks()}
        self.assertEqual((marks["work"], marks["why"]), ("0", "5/2"))

    def test_what_is_renewed_with_the_table_stands_on_its_page(self) -> None:
        for rules in ({"come_in": "paper"}, {"practice": "only"}, {"practice": "closed"}):
            sitting = self.give(**rules)
            page, table = (
                self.client.get(reverse(name, args=[sitting.pk])).content.decode()
                for name in ("sitting", "sitting-table")
            )
            renewed = re.findall(r'id="(\w+)" hx-swap-oob', table)
            with self.subTest(rules):
                self.assertEqual(bool(renewed), "come_in" not in rules)
                for each in renewed:
                    self.assertIn(f'id="{each}"', page)

    def test_what_only_the_paper_has_waits_until_its_marks_are_keyed(self) -> None:
        sitting = self.on_paper()
        self.key(sitting)
        self.assertEqual({each.part: each.outcome for each in self.taking(sitting).marks()}["why"], "waiting")
        self.key(sitting, **{"m-0-why": "1"})
        self.assertEqual({each.part: each.outcome for each in self.taking(sitting).marks()}["why"], "partly")

    def test_another_form_than_was_dealt(self) -> None:
        sitting = self.on_paper()
        taking, other = self.taking(sitting, 0), self.taking(sitting, 1)
        work, letters = self.right(other)
        self.key(sitting, code=other.form.code.lower(), letters=letters, **{"a-0-work": work})
        taking.refresh_from_db()
        self.assertEqual(taking.form_id, other.form_id)
        self.assertEqual({each.part: str(each.held.marks) for each in taking.marks()}["work"], "2")

    def test_what_cannot_be_keyed_is_told_and_nothing_typed_is_lost(self) -> None:
        sitting = self.on_paper()
        for typed, why in (
            ({"code": "ZZZ"}, "No form of this sitting"), ({"letters": "A"}, "The row has 1 letters"),
            ({"m-0-why": "9"}, "Marks here go from 0 to 3"),
        ):  # fmt: skip
            page = self.key(sitting, **{"a-0-work": "12.5 kJ"} | typed)
            self.assertContains(page, why, status_code=422)
            self.assertContains(page, "12.5 kJ", status_code=422)
        self.assertEqual((Keyed.objects.count(), Response.objects.count(), Mark.objects.count()), (0, 0, 0))
        on_screen = self.give()
        self.assertEqual(self.client.get(reverse("papers-to-key", args=[on_screen.pk])).status_code, 404)

    def test_two_may_key_the_same_and_are_shown_where_they_differ(self) -> None:
        sitting = self.on_paper()
        chemistry = department("Chemistry")
        marker = person("marker", chemistry)
        sitting.markers.add(marker)
        other = Client()
        other.force_login(marker)
        work, letters = self.right(self.taking(sitting))
        self.key(sitting, letters=letters, **{"a-0-work": work})
        same = self.key(sitting, client=other, letters=letters, **{"a-0-work": f" {work} "})
        self.assertEqual(same.status_code, 302)
        third = person("third", chemistry)
        sitting.markers.add(third)
        other.force_login(third)
        page = self.key(sitting, client=other, letters=letters, **{"a-0-work": "7 kJ"})
        self.assertContains(page, "keyed it otherwise", status_code=409)
        self.assertContains(page, work, status_code=409)
        self.assertEqual({each.part: str(each.held.marks) for each in self.taking(sitting).marks()}["work"], "2")
        self.key(sitting, client=other, settled="1", **{"a-0-work": "7 kJ", "letters": letters})
        self.assertEqual({each.part: str(each.held.marks) for each in self.taking(sitting).marks()}["work"], "0")

    def test_they_are_marked_like_any(self) -> None:
        sitting = self.on_paper()
        for k in range(4):
            drawn = questions_had(self.taking(sitting, k))[0].drawn
            m, h = (approximate(drawn.values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
            self.key(sitting, k, **{"a-0-work": f"{m * h / 1000:.4f} kJ"})
        self.assertContains(self.client.get(self.address("mark-part", sitting)), "the factor 9.81 was left out")
        self.assertContains(self.client.get(reverse("marking")), sitting.title)


class Second(Marking):
    def setUp(self) -> None:
        super().setUp()
        self.marker = person("marker", department("Chemistry"))
        self.other = Client()
        self.other.force_login(self.marker)

    def asked(self, **changes: str) -> tuple[Sitting, SecondMarking]:
        sitting = self.sat()
        sitting.markers.add(self.marker)
        for k, marks in enumerate(("3", "2", "1", "0")):
            at = f"{self.taking(sitting, k).pk}-0"
            self.client.post(self.address("give-marks", sitting, "why"), {"at": at, "marks": marks})
        typed = {
            "of": f"{self.candidate().pk}-why",
            "who": str(self.marker.pk),
            "choice": "all",
            "allowed": "0.5",
        } | changes
        self.client.post(reverse("ask-second-marking", args=[sitting.pk]), typed)
        return sitting, SecondMarking.objects.get()

    def give_all(self, sitting: Sitting, marking: SecondMarking, marks: dict[int, str]) -> None:
        """The second marks, by the student."""
        address = reverse("second-marking", args=[sitting.pk, marking.pk])
        while (answer := self.other.get(address).context["answer"]) is not None:
            k = next(k for k in range(4) if self.taking(sitting, k).pk == answer.taking.pk)
            given = {"at": answer.entry.place, "marks": marks[k]}
            self.other.post(reverse("give-second", args=[sitting.pk, marking.pk]), given)

    def test_differences_are_settled_by_a_third_decision(self) -> None:
        sitting, marking = self.asked()
        address = reverse("second-marking", args=[sitting.pk, marking.pk])
        self.assertNotContains(self.other.get(address), "First mark")
        self.give_all(sitting, marking, {0: "3", 1: "2.5", 2: "3", 3: "0"})
        # what holds is what was given first, until it is settled
        self.assertEqual(self.marks(sitting, "why"), ["3", "2", "1", "0"])
        page = self.client.get(reverse("second-markings", args=[sitting.pk]))
        row = page.context["rows"][0]
        self.assertEqual((row["agreement"].share, len(row["differ"])), (50, 1))
        self.assertEqual(float(row["agreement"].mean), 0.625)
        differ = self.client.get(address).context["differ"]
        self.assertEqual(differ[0].answer.taking.pk, self.taking(sitting, 2).pk)
        settle = reverse("settle-second", args=[sitting.pk, marking.pk])
        at = differ[0].answer.entry.place
        self.assertContains(self.client.post(settle, {"at": at, "marks": "9"}), "from 0 to 3", status_code=422)
        self.client.post(settle, {"at": at, "marks": "2"})
        self.assertEqual(self.marks(sitting, "why"), ["3", "2", "2", "0"])
        self.assertIn("settled between 1 and 3", Mark.objects.latest("pk").reason)
        self.assertEqual(self.client.get(address).context["differ"], [])

    def test_with_sight_of_the_first_and_a_part_of_all(self) -> None:
        sitting, marking = self.asked(sight="1", choice="nth")
        page = self.other.get(reverse("second-marking", args=[sitting.pk, marking.pk]))
        self.assertContains(page, "First mark")
        self.assertEqual(page.context["all"], 2)
        typed = {"of": f"{self.candidate().pk}-why", "who": str(self.marker.pk), "choice": "tenth"}
        self.client.post(reverse("ask-second-marking", args=[sitting.pk]), typed)
        self.assertEqual(self.other.get(reverse("second-marking", args=[sitting.pk, marking.pk])).context["all"], 1)

    def test_those_near_a_boundary(self) -> None:
        # of 5 marks the four have 3, 2, 1 and 0, and 2 are needed
        sitting, marking = self.asked()
        typed = {"of": f"{self.candidate().pk}-why", "who": str(self.marker.pk), "choice": "near"}
        ask = reverse("ask-second-marking", args=[sitting.pk])
        self.assertContains(self.client.post(ask, typed), "no grade boundaries and nothing to pass", status_code=422)
        rules = replace(sitting.held, pass_share=Fraction(2, 5))
        Sitting.objects.filter(pk=sitting.pk).update(rules=rules.kept)
        for within, whose in (("", [1]), ("20 %", [0, 1, 2])):
            self.client.post(ask, typed | {"within": within})
            marking.refresh_from_db()
            self.assertEqual(set(marking.chosen), {f"{self.taking(sitting, k).pk}-0" for k in whose})
        for within in ("0", "51", "x", "1e9999999"):
            page = self.client.post(ask, typed | {"within": within, "allowed": "0.25"})
            self.assertContains(page, "How near a boundary", status_code=422)
            self.assertContains(page, 'value="0.25"', status_code=422)
        Sitting.objects.filter(pk=sitting.pk).update(rules=replace(rules, pass_share=Fraction(9, 10)).kept)
        self.assertContains(self.client.post(ask, typed), "so near a boundary", status_code=422)

    def test_nobody_elses_and_nothing_wrong(self) -> None:
        sitting, marking = self.asked()
        at = f"{self.taking(sitting, 0).pk}-0"
        give = reverse("give-second", args=[sitting.pk, marking.pk])
        self.assertEqual(self.client.post(give, {"at": at, "marks": "1"}).status_code, 404)
        page = self.other.post(give, {"at": at, "marks": "nine", "comment": "Clear."})
        self.assertContains(page, "is no number", status_code=422)
        self.assertContains(page, "Clear.", status_code=422)
        self.assertEqual(SecondMark.objects.count(), 0)
        for typed, why in (
            ({"of": "x"}, "Say which question"), ({"who": "0"}, "Choose who marks it"), ({"allowed": "-1"}, "number of marks"),
            ({"allowed": "NaN"}, "number of marks"), ({"allowed": "1e99999999"}, "number of marks"),
        ):  # fmt: skip
            fields = {"of": f"{self.candidate().pk}-why", "who": str(self.marker.pk), "allowed": "0"} | typed
            self.assertContains(
                self.client.post(reverse("ask-second-marking", args=[sitting.pk]), fields), why, status_code=422
            )
        self.assertEqual(Question.objects.get(pk=self.question.pk).latest, 1)
