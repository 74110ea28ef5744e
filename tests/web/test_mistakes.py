"""Typical mistakes of authors: each is said beside its own field, once, and where it can be mended with a press, so."""

import json
import re
from html import unescape
from typing import Any

from django.test import TestCase
from django.urls import reverse

from tests.web.reading import read_page

from .samples import department, person

FIELDS: dict[str, Any] = {
    "title": "Crate", "wording": "A crate of $m$ is lifted by $h$.", "topics": "", "level": "1",
    "angle": "degrees", "parameter": ["p1", "p2"], "touched": "1",
    "parameter-p1-name": "m", "parameter-p1-definition": "2..40", "parameter-p1-unit": "kg",
    "parameter-p2-name": "h", "parameter-p2-definition": "3..9", "parameter-p2-unit": "m",
    "condition": ["c1"], "condition-c1": "h > 1", "part": ["q1"], "part-q1-kind": "number", "part-q1-marks": "2",
    "part-q1-key": "m*9.81*h", "part-q1-after": "J", "part-q1-mode": "relative", "part-q1-tolerance": "2%",
}  # fmt: skip
PARAMETER, CONDITION, KEY = "parameter-p1", "condition-c1", "part-q1-key"
# what was typed instead, the place of the message, what is said, and the field after its cure (None: there is none)
MISTAKES: list[tuple[dict[str, str], str, str, tuple[str, str] | None]] = [
    ({"parameter-p1-definition": "2.."}, PARAMETER, "needs an upper limit", None),
    ({"parameter-p1-definition": "2 to 40"}, PARAMETER, "two dots", ("parameter-p1-definition", "2..40")),
    ({"parameter-p1-definition": "2...40"}, PARAMETER, "two dots", ("parameter-p1-definition", "2..40")),
    ({"parameter-p1-definition": "2-40"}, PARAMETER, "minus 40 in every draw", ("parameter-p1-definition", "2..40")),
    ({"parameter-p1-definition": "rand(2,40)"}, PARAMETER, "drawn anew", ("parameter-p1-definition", "2..40")),
    ({"parameter-p1-definition": "1,5..4"}, PARAMETER, "with a point", ("parameter-p1-definition", "1.5..4")),
    ({"parameter-p1-definition": "2..40 kg"}, PARAMETER, "in the cell beside", ("parameter-p1-definition", "2..40")),
    ({"part-q1-key": "mass*9.81*h"}, KEY, "mass is not a parameter", None),
    ({"part-q1-key": "mm*9.81*h"}, KEY, "read as m*m", ("part-q1-key", "m*m*9.81*h")),
    ({"part-q1-key": "m*9,81*h"}, KEY, "9.81", ("part-q1-key", "m*9.81*h")),
    ({"part-q1-key": "SQRT(m^2)*9.81*h"}, KEY, "no function called SQRT", ("part-q1-key", "sqrt(m^2)*9.81*h")),
    ({"part-q1-key": "m*(9.81*h"}, KEY, "never closes", None),
    ({"part-q1-tolerance": "2"}, KEY, "200 % of the key", ("part-q1-tolerance", "2%")),
    ({"part-q1-after": "kJ", "parameter": ["p1", "p2", "p3"], "parameter-p3-name": "g", "parameter-p3-unit": "N/kg",
      "parameter-p3-definition": "9.81", "part-q1-key": "m*g*h"}, KEY, "factor is missing",
     ("part-q1-key", "m*g*h/1000")),
    ({"part-q1-key": "m*h", "part-q1-after": "kg m", "parameter-p2-unit": "°C"}, KEY, "comes out in K kg, and not in kg m", None),
    ({"wording": "A crate of $mas(m)$."}, "wording", "no function called mas", None),
    ({"condition-c1": "m > k"}, CONDITION, "k is not a parameter", None),
]  # fmt: skip


class Mistakes(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.author = person("author", department("Physics"))

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def messages(self, changes: dict[str, Any]) -> dict[str, str]:
        """The messages of a preview by their places; empty places are left out."""
        page = read_page(
            self.client.post(reverse("preview-question"), FIELDS | changes, headers={"HX-Request": "true"})
        )
        places = re.findall(r'<div class="row-message" id="message-([\w-]+)"[^>]*>(.*?)</div>', page)
        return {place: unescape(said) for place, said in places if said.strip()}

    def test_each_is_said_beside_its_field_and_nowhere_else(self) -> None:
        self.assertEqual(self.messages({}), {})
        for changes, place, said, cure in MISTAKES:
            with self.subTest(str(changes)):
                found = self.messages(changes)
                self.assertEqual(list(found), [place], found)
                self.assertIn(said, re.sub("<[^>]+>", "", found[place]))
                offered = re.search(r'data-fields="(.*?)">Write', found[place])
                self.assertEqual(next(iter(json.loads(offered[1]).items())) if offered else None, cure)
                if cure:
                    self.assertEqual(self.messages(changes | {cure[0]: cure[1]}), {})

    def test_the_cause_is_said_where_nothing_can_be_drawn(self) -> None:
        found = self.messages({"parameter-p1-definition": "2-40", "condition-c1": "m > 1"})
        self.assertIn("minus 40 in every draw", found["parameter-p1"])
        self.assertIn("condition-c1", found)

    def test_what_is_still_to_be_written_is_no_fault_before_saving(self) -> None:
        self.assertIn("field-wanted", self.messages({"part-q1-key": ""})["part-q1-key"])
        refused = self.client.post(
            reverse("save-question"), FIELDS | {"part-q1-key": ""}, headers={"HX-Request": "true"}
        )
        self.assertEqual(refused.status_code, 422)
        self.assertIn("field-error", read_page(refused))
        self.assertIn("Not saved yet", read_page(refused))
