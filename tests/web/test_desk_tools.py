"""What the desk offers beside plain fields: pictures, figures, pins, kinds turned into others, rubrics, own tests."""

from __future__ import annotations

import io
import json
import re
from html import unescape
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image
from pypdf import PdfReader

from tests.web.reading import read_page
from vorlage.core.answers.kinds.blanks.document import gap_row, read_gap
from vorlage.core.answers.spelling import tolerance_of, tolerance_words
from vorlage.core.questions import load_document
from vorlage.library import ready_questions
from vorlage.web.bank.models import Picture, Question, Rubric
from vorlage.web.desk.conversion import conversion, key_of, options_of
from vorlage.web.desk.form import Desk
from vorlage.web.desk.rows import (
    ConditionRow,
    FigureRow,
    ParameterRow,
    PartRow,
    PictureRow,
    PinRow,
    TableRow,
)
from vorlage.web.desk.typed import usable_typed
from vorlage.web.desk.uploads import NotTaken, taken

from .samples import department, frozen, person, question, test_of
from .test_questions import FIELDS


def picture_file(kind: str = "PNG", size: tuple[int, int] = (40, 30), **more: Any) -> bytes:
    written = io.BytesIO()
    Image.new("RGB", size, "#557").save(written, kind, **more)
    return written.getvalue()


class Tools(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.stranger = person("stranger", department("Art"))

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def preview(self, **changes: Any) -> str:
        return read_page(self.client.post(reverse("preview-question"), FIELDS | changes))

    # pictures

    def send(self, content: bytes, name: str = "our harbour.png") -> str:
        sent = SimpleUploadedFile(name, content)
        return read_page(self.client.post(reverse("add-picture"), {"picture_file": sent}))

    def test_a_picture_is_kept_once_and_shown_to_its_department_only(self) -> None:
        said = self.send(picture_file())
        self.assertIn('value="our-harbour"', said)
        self.send(picture_file(), "again.png")
        kept = Picture.objects.get()
        self.assertEqual((kept.media_type, kept.width, kept.height), ("image/png", 40, 30))
        address = reverse("picture", args=[kept.file_id])
        got = self.client.get(address)
        self.assertEqual(got["Content-Type"], "image/png")
        self.assertEqual(Image.open(io.BytesIO(got.content)).size, (40, 30))
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_what_is_no_picture_is_refused_in_words(self) -> None:
        for content, words in [
            (b"GIF89a nothing", "no picture that can be read"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "no picture that can be read"),
            (picture_file()[:60], "no picture that can be read"),
            (b"\x00" * (9 * 2**20), "may have 8"),
        ]:
            self.assertIn(words, self.send(content))
        self.assertIn("Choose a picture", read_page(self.client.post(reverse("add-picture"))))
        self.assertFalse(Picture.objects.exists())

    def test_pictures_are_written_anew(self) -> None:
        noted = Image.Exif()
        noted[0x010E] = "where it was taken"
        noted[0x0112] = 6
        raw = picture_file("JPEG", (80, 20), exif=noted)
        kept = taken(io.BytesIO(raw), len(raw))
        self.assertNotIn(b"where it was taken", kept.content)
        # the camera lay on its side
        self.assertEqual((kept.width, kept.height), (20, 80))
        huge = picture_file("PNG", (4000, 400))
        self.assertEqual(taken(io.BytesIO(huge), len(huge)).width, 1600)
        many = picture_file("PNG", (9000, 5000))
        with self.assertRaisesMessage(NotTaken, "at most 16 million are taken"):
            taken(io.BytesIO(many), len(many))

    def test_a_picture_stands_in_a_question_and_on_its_paper(self) -> None:
        self.send(picture_file())
        kept = Picture.objects.get()
        source = {"name": "harbour", "digest": kept.file_id, "width": 40, "height": 30}
        wording = "![The harbour](image:harbour)\n\n![The same with a mark](figure:view)"
        figures = [{"name": "view", "lines": "frame 0..4, 0..3\npicture harbour\npoint (1, 1)"}]
        made = question(self.physics, self.author, wording=wording, pictures=[source], figures=figures)
        page = read_page(self.client.get(reverse("question", args=[made.pk])))
        self.assertEqual(page.count(f'<image href="{reverse("picture", args=[kept.file_id])}"'), 2)
        form_set = frozen(test_of(self.physics, self.author, made))
        self.assertEqual(form_set.job.reason, "")
        papers = PdfReader(io.BytesIO(form_set.prints.get(kind="papers").file.read()))
        self.assertTrue(papers.pages[0].images)

    # figures

    def test_a_figure_is_drawn_and_its_wrong_line_is_named(self) -> None:
        given = {
            "figure": ["f1"],
            "figure-f1-name": "chain",
            "wording": "See $n$. ![A line](figure:chain)",
        }
        self.assertIn('<svg xmlns="http://www.w3.org/2000/svg" class="figure"', self.preview(**given, **{"figure-f1-lines": "frame 0..60, 0..9\nline (0, 0) (n, w)"}))  # fmt: skip
        broken = self.preview(**given, **{"figure-f1-lines": "frame 0..60, 0..9\nlin (0, 0) (n, w)"})
        self.assertRegex(broken, r'id="message-figure-f1"[^>]*><p[^>]*>Line 2: <code>lin</code> is not known')

    # pinned draws

    def test_a_pinned_draw_stays_and_is_told_when_it_breaks(self) -> None:
        shown = self.preview()
        values = re.findall(r'data-pin="([^"]*)"', shown)[2].replace("&quot;", '"')
        pinned = {"pin": ["k1"], "pin-k1": values}
        with_pin = self.preview(**pinned, draw="-1")
        self.assertIn("pinned draw 1", with_pin)
        self.assertEqual(with_pin.count("data-unpin"), 1)
        self.assertNotIn("is broken", with_pin)
        number = int(json.loads(values)["n"])
        broken = self.preview(**pinned, **{"condition-c1": f"n != {number}"})
        self.assertIn("Pinned draw 1 is broken: condition 1 is not met.", broken)
        saved = self.client.post(reverse("save-question"), FIELDS | pinned | {"condition-c1": f"n != {number}"})
        self.assertEqual(saved.status_code, 422)
        self.client.post(reverse("save-question"), FIELDS | pinned)
        kept = load_document(Question.objects.get().current.document)
        self.assertEqual(dict(kept.pins[0].values), json.loads(values))

    # kinds

    def test_a_kind_is_turned_and_says_what_waits(self) -> None:
        slips = [{"id": "s1", "key": "m", "share": "0", "feedback": "No field."}, {"id": "s2", "key": "m/g"}]
        row = PartRow(
            kind="choice",
            typed={"key": "m*g", "mode": "relative", "tolerance": "2%", "slips": slips},
            after="N",
            solution="So.",
        )
        found = conversion(row)
        self.assertEqual(found.kept, ["the solution"])
        self.assertEqual(found.waiting, ["the answer", "the tolerance", "the slips", "what stands after the space"])
        options = [(option["text"], option["share"], option["feedback"]) for option in found.options]
        self.assertEqual(
            options,
            [("$value(m*g)$ N", "1", ""), ("$value(m)$ N", "", "No field."), ("$value(m/g)$ N", "", "")],
        )
        row.kind = "quantity"
        self.assertEqual(conversion(row).waiting, ["what stands after the space"])
        self.assertEqual(options_of(PartRow(typed={"accept": "granite\nstone"}))[0]["text"], "granite")
        self.assertEqual(options_of(PartRow()), [])

    def test_an_option_becomes_an_answer(self) -> None:
        for text, key, unit in [
            ("$value(m*g)$ N", "m*g", "N"),
            ("$x + 1$", "x + 1", ""),
            ("oak", "", ""),
            ("$a$ or $b$", "", ""),
        ]:
            self.assertEqual(key_of([{"text": "no"}, {"text": text, "share": "1"}]), (key, unit))
        row = PartRow(kind="number", typed={"options": [{"text": "$value(m*g)$ N", "share": "1"}, {"text": "$m$ N"}]})
        found = conversion(row)
        self.assertEqual((found.taken, found.waiting), ("m*g N", ["the options"]))
        self.assertEqual(found.fields, {f"part-{row.uid}-key": "m*g", f"part-{row.uid}-after": "N"})

    def test_the_page_says_it(self) -> None:
        changed = FIELDS | {"part-q1-kind": "choice"}
        said = read_page(self.client.post(reverse("part-conversion", args=["q1"]), changed))
        self.assertIn("Make options from the answer and its slips", said)
        rows = read_page(self.client.post(reverse("options-of-part", args=["q1"]), changed))
        self.assertEqual(re.findall(r'-text" value="([^"]*)"', rows), ["$value(n*w)$ kg", "$value(n + w)$ kg"])

    # what is done by hand

    def tool(self, name: str, **more: Any) -> dict[str, str]:
        response = self.client.post(reverse("desk-tool", args=[name]), FIELDS | more)
        self.assertEqual(response.status_code, 200)
        done: dict[str, Any] = response.json()
        self.rows = [(row["list"], row["cells"]) for row in done["rows"]]
        fields: dict[str, str] = done["fields"]
        return fields

    def test_an_edge_of_the_ruler_changes_the_tolerance_or_the_part_marks(self) -> None:
        moved = {"tool-part": "0", "tool-key": "120", "tool-distance": "3.04", "tool-drags": "relative"}
        self.assertEqual(self.tool("edge", **moved), {"part-q1-tolerance": "2.5%"})
        absolute = moved | {"tool-drags": "absolute", "tool-distance": "0.0312"}
        self.assertEqual(self.tool("edge", **absolute), {"part-q1-tolerance": "0.031"})
        bands = {"part-q1-band": ["b1", "b2", "b3"], "band-b1-tolerance": "10%", "band-b3-tolerance": "20%"}
        # the second of those in which something stands
        self.assertEqual(self.tool("edge", **moved, **bands, **{"tool-band": "1"}), {"band-b3-tolerance": "2.5%"})
        self.assertEqual(self.tool("edge", **moved, **bands, **{"tool-band": "7"}), {})
        for wrong in ({"tool-distance": "far"}, {"tool-key": "nan"}, {"tool-part": "7"}):
            refused = self.client.post(reverse("desk-tool", args=["edge"]), FIELDS | moved | wrong)
            self.assertEqual(refused.status_code, 404)
        self.assertEqual(self.client.post(reverse("desk-tool", args=["hammer"]), FIELDS).status_code, 404)

    def test_a_name_is_changed_wherever_it_is_used_and_nowhere_else(self) -> None:
        fields = {
            "wording": "A chain of $n$ links, n of them wet.", "condition": ["c1"], "condition-c1": "n > nn",
            "part-q1-slip": ["s1"], "slip-s1-key": "n + w", "slip-s1-share": "1/4", "slip-s1-feedback": "Not n.",
            "part-q1-trial": ["t1"], "trial-t1-response": "$value(n*w)$ n", "part-q1-solution": "$n*w$",
            "figure": ["f1"], "figure-f1-name": "chain", "figure-f1-lines": 'text (n, 0) "n is $n$"',
            "pin": ["k1"], "pin-k1": '{"n": "25", "w": "2"}',
        }  # fmt: skip
        self.assertEqual(self.tool("rename", **fields, **{"tool-old": "n", "tool-new": "links"}), {
            "wording": "A chain of $links$ links, n of them wet.", "condition-c1": "links > nn",
            "part-q1-key": "links*w", "slip-s1-key": "links + w",
            "trial-t1-response": "$value(links*w)$ n", "part-q1-solution": "$links*w$",
            "figure-f1-lines": 'text (links, 0) "n is $links$"', "pin-k1": '{"links": "25", "w": "2"}',
        })  # fmt: skip
        options = {
            "part-q1-kind": "choice",
            "part-q1-option": ["o1"],
            "option-o1-text": "$n$ kg",
            "option-o1-share": "1",
        }
        self.assertIn("option-o1-text", self.tool("rename", **options, **{"tool-old": "n", "tool-new": "links"}))
        gaps = {"part-q1-kind": "blanks", "part-q1-gap": ["g1", "g2"], "gap-g1-kind": "number", "gap-g1-key": "n*2",
                "gap-g2-kind": "text", "gap-g2-key": "n; $n$ kg"}  # fmt: skip
        found = self.tool("rename", **gaps, **{"tool-old": "n", "tool-new": "links"})
        self.assertEqual((found["gap-g1-key"], found["gap-g2-key"]), ("links*2", "n; $links$ kg"))
        self.assertEqual(self.tool("rename", **{"tool-old": "n", "tool-new": "n"}), {})

    def test_a_place_in_a_figure_is_tried_or_gets_a_region(self) -> None:
        at = {"tool-part": "0", "tool-x": "3.14159", "tool-y": "-0.5", "tool-width": "8", "part-q1-kind": "hotspot"}
        self.assertEqual(self.tool("place", **at), {"try-q1": "(3.14, -0.5)"})
        self.assertEqual(self.tool("place", **at, **{"try-q1": "(1, 1)"}), {"try-q1": "(3.14, -0.5)"})
        several = {"try-q1": "(1, 1)", "part-q1-clicks": "2"}
        self.assertEqual(self.tool("place", **at, **several), {"try-q1": "(1, 1); (3.14, -0.5)"})

    def test_a_region_is_drawn_in_a_figure(self) -> None:
        at = {"tool-part": "0", "tool-width": "8", "part-q1-kind": "hotspot"}
        for shape, places, line in [
            ("circle", "[[3.14159, -0.5]]", "circle (3.15, -0.5) 0.5"),
            ("circle", "[[3, 1], [3, 2.52]]", "circle (3, 1) 1.5"),
            ("box", "[[0, 0], [4.01, 2]]", "box (0, 0) (4, 2)"),
            ("polygon", "[[0, 0], [4, 0], [4, 2.33]]", "polygon (0, 0) (4, 0) (4, 2.35)"),
        ]:
            self.assertEqual(self.tool("draw", **at, **{"tool-shape": shape, "tool-places": places}), {})
            self.assertEqual(self.rows, [("regions-q1", {"region": line})])
        self.tool("draw", **at, **{"tool-shape": "polygon", "tool-places": "[[0, 0], [4, 0]]"})
        self.assertEqual(self.rows, [])
        for shape, places in [
            ("curve", "[[0, 0], [1, 1]]"),
            ("box", "nonsense"),
            ("box", "[[1e300, 0], [1, 1]]"),
            ("box", "[[NaN, 0], [1, 1]]"),
            ("box", "[" * 5000),
            ("box", "{}"),
            ("box", '[["a", 1], [1, 2]]'),
            ("box", "[1, 2]"),
        ]:
            sent = FIELDS | at | {"tool-shape": shape, "tool-places": places}
            self.assertEqual(self.client.post(reverse("desk-tool", args=["draw"]), sent).status_code, 404)

    def test_a_region_is_moved_and_resized(self) -> None:
        at = {"tool-part": "0", "tool-width": "8", "part-q1-kind": "hotspot", "part-q1-region": ["r0", "r1"],
              "region-r0-region": "", "region-r1-region": "circle (a, b + 0.5) 0.5", "tool-row": "0"}  # fmt: skip
        self.assertEqual(
            self.tool("region", **at, **{"tool-shifts": '{"0": 1.02, "1": -0.5}'}),
            {"region-r1-region": "circle (a + 1, b) 0.5"},
        )
        self.assertEqual(
            self.tool("region", **at, **{"tool-shifts": '{"2": 0.3}'}), {"region-r1-region": "circle (a, b + 0.5) 0.8"}
        )
        # what nobody measured changes nothing, and a figure without a width has steps all the same
        for shifts in ('{"0": 1e300}', '{"0": Infinity}', '{"0": NaN}', f'{{"{"9" * 50}": 1}}', '{"0": "far"}'):
            line = "circle (a, b + 0.5) 0.5"
            self.assertEqual(self.tool("region", **at, **{"tool-shifts": shifts}), {"region-r1-region": line})
        flat = at | {"tool-width": "0", "tool-shifts": '{"0": 1}'}
        self.assertEqual(self.tool("region", **flat), {"region-r1-region": "circle (a + 1, b + 0.5) 0.5"})
        for changes in ({"tool-row": "4", "tool-shifts": "{}"}, {"tool-shifts": "[]"}, {"tool-shifts": "x"}):
            sent = FIELDS | at | changes
            self.assertEqual(self.client.post(reverse("desk-tool", args=["region"]), sent).status_code, 404)

    def test_a_tried_answer_is_kept_once(self) -> None:
        kept = {"tool-part": "0", "try-q1": " 12 ", "tool-outcome": "right"}
        self.tool("trial", **kept)
        self.assertEqual(self.rows, [("trials-q1", {"response": "12", "outcome": "right"})])
        self.tool("trial", **kept, **{"part-q1-trial": ["t1"], "trial-t1-response": "12", "trial-t1-outcome": "right"})
        self.assertEqual(self.rows, [])

    # rubrics

    def test_a_rubric_is_kept_for_the_department(self) -> None:
        sent = FIELDS | {
            "part-q1-kind": "essay",
            "part-q1-rubric": "Method | 0 none | 2 complete",
            "part-q1-rubric_name": "Explaining",
        }
        address = reverse("keep-rubric", args=["q1"])
        self.assertIn("Kept as “Explaining”", read_page(self.client.post(address, sent)))
        self.client.post(address, sent | {"part-q1-rubric": "Method | 0 none | 3 complete"})
        self.assertEqual(Rubric.objects.get().text, "Method | 0 none | 3 complete")
        essay = (reverse("part-conversion", args=["q1"]), FIELDS | {"part-q1-kind": "essay"})
        self.assertIn("Explaining</option>", read_page(self.client.post(*essay)))
        for lines, name, said in [
            ("", "x", "needs its criteria"),
            ("A | 1 b", "", "needs its criteria"),
            ("A | good", "x", "begins with its marks"),
        ]:
            refused = self.client.post(address, sent | {"part-q1-rubric": lines, "part-q1-rubric_name": name})
            self.assertIn(said, read_page(refused))
        self.assertEqual(Rubric.objects.count(), 1)
        self.client.force_login(self.stranger)
        self.assertNotIn("Explaining", read_page(self.client.post(*essay)))

    # the author's own tests

    def test_own_tests_say_how_they_came_out(self) -> None:
        shown = self.preview(**{"part-q1-trials": "$value(n*w)$ | right\n$n$ | right\n7 | wrong"})
        results = re.findall(r"<li class=\"(.*?)\"><code>(.*?)</code> (.*?)</li>", shown)
        self.assertEqual(
            [(off, tried) for off, tried, _ in results], [("", "$value(n*w)$"), ("is-off", "$n$"), ("", "7")]
        )
        self.assertIn("has to be right, and is wrong in draw 1", results[1][2])
        self.assertIn('data-keep-trial="wrong"', self.preview(**{"try-q1": "7"}))
        self.assertNotIn("data-keep-trial", self.preview(**{"try-q1": "7", "draw": "2"}))

    # conditions, limits, shares of pairs

    def test_conditions_and_limits_are_spelled_in_lines(self) -> None:
        part = {
            "part-q1-kind": "conditions", "part-q1-key": "7n", "part-q1-count": "1", "part-q1-item_form": "any",
            "part-q1-relations": "r mod n = 0 | 1/2 | It has to be a multiple.\r\nr > n | 1/2 | Larger.",
            "part-q1-limits": "whole | In whole numbers.\r\n1..999\r\nlength ..3 | Short.\r\npattern [0-9|-]+ | Figures.",
        }  # fmt: skip
        self.assertIn("It has to be a multiple.", self.preview(**part, **{"try-q1": "1"}))
        self.assertIn("In whole numbers.", self.preview(**part, **{"try-q1": "1.5"}))
        self.assertIn("outside what may be typed", self.preview(**part, **{"try-q1": "1.5"}))
        self.assertIn("is no answer here", self.preview(**part | {"part-q1-key": "n + 1"}))
        self.client.post(reverse("save-question"), FIELDS | part)
        answer = load_document(Question.objects.get().current.document).parts[0].answer
        self.assertEqual([each.relation for each in answer.relations], ["r mod n = 0", "r > n"])
        self.assertEqual(
            [(limit.rule, limit.low, limit.high, limit.pattern, limit.words) for limit in answer.limits],
            [
                ("whole", "", "", "", "In whole numbers."),
                ("between", "1", "999", "", ""),
                ("length", "", "3", "", "Short."),
                ("pattern", "", "", "[0-9|-]+", "Figures."),
            ],
        )
        again = Desk.from_document(load_document(Question.objects.get().current.document)).parts[0]
        first = {"relation": "r mod n = 0", "share": "1/2", "feedback": "It has to be a multiple."}
        self.assertEqual({name: again.typed["relations"][0][name] for name in first}, first)
        self.assertEqual(
            [(row["rule"], row["words"]) for row in again.typed["limits"][1:]],
            [("1..999", ""), ("length ..3", "Short."), ("pattern [0-9|-]+", "Figures.")],
        )

    def test_a_wrong_condition_is_told_under_the_answer(self) -> None:
        part = {"part-q1-kind": "conditions", "part-q1-key": "7", "part-q1-relations": "r mod"}
        self.assertIn("message-part-q1-key", self.preview(**part))
        self.assertIn("The shares of the conditions", self.preview(**part | {"part-q1-relations": "r > 1 | 1/2 |"}))

    def test_a_limit_that_cannot_be_used_is_told_below_it(self) -> None:
        for limit, told in [
            ("abc", "This limit cannot be used"),
            ("..", "needs a lower or an upper end"),
            ("pattern (", "cannot be used"),
        ]:
            with self.subTest(limit):
                shown = self.preview(**{"part-q1-limits": limit})
                self.assertRegex(shown, rf'id="message-part-q1-more".{{0,160}}{told}')

    def test_limits_that_leave_nothing_wrong_are_warned_of(self) -> None:
        part = {"part-q1-key": "12", "part-q1-mode": "absolute", "part-q1-tolerance": "2"}
        self.assertIn("every answer that may be typed is right", self.preview(**part | {"part-q1-limits": "11..13"}))
        self.assertNotIn("every answer that may be typed", self.preview(**part | {"part-q1-limits": "9..13"}))

    def test_an_empty_answer_is_offered_what_the_book_has(self) -> None:
        asked = {
            "wording": "A crane lifts a crate of mass $m$ to a quay $h$ above the water.", "part-q1-kind": "quantity",
            "part-q1-key": "", "part-q1-unit": "kJ", "part-q1-wording": "Work out the energy.",
        }  # fmt: skip
        two = {
            "parameter": ["p1", "p2"], "parameter-p1-name": "m", "parameter-p1-definition": "150..600 step 50",
            "parameter-p1-unit": "kg", "parameter-p2-name": "h", "parameter-p2-definition": "4..9",
            "parameter-p2-unit": "m", "condition": [],
        }  # fmt: skip
        shown = self.preview(**asked | two)
        self.assertIn('{"part-q1-key": "m*9.81*h/1000"}', unescape(shown))
        self.assertNotIn("comes out in", shown)
        self.assertNotIn("from the formula book", self.preview(**asked | two | {"part-q1-key": "m*h"}))
        # a word is no number, and what is computed is no parameter of the formula
        words = {"parameter-p2-definition": 'one of "oak", "elm"', "parameter-p2-unit": ""}
        self.assertNotIn("m*9.81*h", self.preview(**asked | two | words))

    def test_a_demand_is_offered_where_the_wording_gives_the_answer(self) -> None:
        asked = {"part-q1-kind": "formula", "part-q1-key": "(x - 2)(x - 3)", "part-q1-wording": "Factorise $x^2 - 5x + 6$.",
                 "part-q1-slips": "", "part-q1-after": ""}  # fmt: skip
        shown = unescape(self.preview(**asked))
        self.assertIn(
            """data-fields="{"part-q1-form": "factorised", "part-q1-share": "0"}">Ask for the form factorised""", shown
        )
        again = unescape(self.preview(**asked, **{"part-q1-form": "factorised", "part-q1-share": "0"}))
        self.assertNotIn("Ask for the form", again)
        number = {
            "part-q1-key": "3 + i",
            "part-q1-wording": "Work out $(1 + i)(2 - i)$.",
            "part-q1-slips": "",
            "complex": "on",
        }
        self.assertIn('"part-q1-written": "a + b i"', unescape(self.preview(**number, **{"part-q1-after": ""})))

    def test_what_cannot_be_worked_out_keeps_a_question_from_being_saved(self) -> None:
        shown = self.preview(**{"part-q1-wording": "Think of $value(1/0)$."})
        self.assertIn("cannot be worked out", shown)
        before = Question.objects.count()
        self.client.post(reverse("save-question"), FIELDS | {"part-q1-wording": "Think of $value(1/0)$."})
        self.assertEqual(Question.objects.count(), before)

    def test_a_key_that_cannot_be_one_is_told_at_the_key(self) -> None:
        shown = self.preview(**{"part-q1-kind": "equation", "part-q1-key": "2*8 = 16", "part-q1-slips": ""})
        self.assertRegex(shown, r'id="message-part-q1-key".{0,120}holds for every value')

    def test_words_without_a_list_wait_for_a_marker(self) -> None:
        shown = self.preview(**{"part-q1-kind": "text", "part-q1-accept": "", "try-q1": "because"})
        self.assertIn("waits for a marker", shown)

    def test_another_reading_is_shown(self) -> None:
        shown = self.preview(**{"part-q1-kind": "formula", "part-q1-key": "sin(x)/2", "try-q1": "sin x/2"})
        self.assertIn("If you mean sin(x/2), write it with brackets.", shown)
        at_the_key = self.preview(**{"part-q1-kind": "formula", "part-q1-key": "sin x/2", "part-q1-slips": ""})
        self.assertRegex(at_the_key, r'(?s)id="reading-q1".{0,600}If you mean sin\(x/2\)')

    # parts

    def test_parts_under_a_letter(self) -> None:
        more = {"part": ["q1", "q2", "q3"], "active": "q3", "try-q3": "2"}
        for uid in ("q2", "q3"):
            more |= {
                f"part-{uid}-kind": "number",
                f"part-{uid}-key": "n",
                f"part-{uid}-marks": "1",
                f"part-{uid}-under": "on",
            }
        shown = self.preview(**more)
        self.assertEqual(re.findall(r"<span>(\([a-z]+\))</span>", shown), ["(a)", "(i)", "(ii)"])
        self.assertIn('aria-label="Try an answer to (a)(ii)"', shown)
        self.assertIn('id="verdict-q3"', shown)

    # history

    def test_any_two_revisions_are_compared(self) -> None:
        made = question(self.physics, self.author)
        for title in ("Crane", "Crane at the quay"):
            document = load_document(made.current.document | {"title": title})
            Question.save_revision(self.physics, self.author, document, question=made)
            made.refresh_from_db()
        address = reverse("question-history", args=[made.pk])
        page = read_page(self.client.get(address, {"from": "1", "to": "3"}))
        section = page.partition('aria-label="What differs"')[2].partition("</section>")[0]
        self.assertIn("From revision 1 to revision 3", section)
        self.assertIn("<del>Harbour", section)
        self.assertIn("Nothing differs.", read_page(self.client.get(address, {"from": "2", "to": "2"})))
        for given in ({"from": "9", "to": "1"}, {"from": "x"}, {}):
            self.assertNotIn('aria-label="What differs"', read_page(self.client.get(address, given)))

    def test_answers_that_were_tried_stay_on_the_ruler(self) -> None:
        shown = self.preview(**{"tries-q1": "1\nwhat\n2", "try-q1": "7"})
        self.assertEqual(re.findall(r'<circle class="earlier is-(\w+)"', shown), ["wrong", "wrong"])
        self.assertIn('name="tries-q1" value="1 what 2"', shown)


class NothingIsLost(TestCase):
    """What a document holds is on the desk, what is on the desk is in a draft, and it comes back the same."""

    def test_every_ready_question_goes_to_the_desk_and_back(self) -> None:
        for name, ready in ready_questions().items():
            with self.subTest(name):
                desk = Desk.from_document(ready.document)
                self.assertEqual((desk.read.document, desk.read.problems), (ready.document, []))
                self.assertEqual(Desk.from_draft(json.loads(json.dumps(desk.as_draft()))), desk)

    def test_a_draft_with_everything_in_it_comes_back(self) -> None:
        desk = Desk(
            title="All of it",
            parameters=[ParameterRow("m", "2..9", "kg", "2 dp", "a note")],
            conditions=[ConditionRow("m > 2")],
            tables=[TableRow("materials", "name; density")],
            figures=[FigureRow("path", "frame 0..1, 0..1")],
            pictures=[PictureRow("harbour", "0" * 64, "40", "30")],
            pins=[PinRow('{"m": "3"}')],
            parts=[
                PartRow(
                    kind="blanks",
                    typed=usable_typed({
                        "gaps": [{"kind": "text", "key": "rises"}], "options": [{"text": "oak", "share": "1"}],
                    }),
                    under="on",
                )
            ],
        )  # fmt: skip
        kept = json.loads(json.dumps(desk.as_draft()))
        self.assertEqual(Desk.from_draft(kept), desk)
        # a field that is unknown by now, and one that an older draft did not have
        kept["parts"][0]["forgotten"] = "x"
        del kept["parts"][0]["typed"]["gaps"], kept["pictures"]
        again = Desk.from_draft(kept)
        self.assertEqual((again.parts[0].typed, again.pictures), ({"options": desk.parts[0].typed["options"]}, []))

    def test_a_draft_of_an_earlier_version_is_all_there(self) -> None:
        """What is typed of an answer stood among the other fields of a part."""
        part = {
            "kind": "number", "key": "m*g", "mode": "relative", "tolerance": "2%", "wording": "How heavy?", "uid": "q1",
            "recognise": ["sign", "rounding|1/2"], "options": [{"text": "oak", "share": "1", "uid": "o1"}],
            "gaps": [{"kind": "text", "key": "rises", "uid": "g1"}],
        }  # fmt: skip
        (row,) = Desk.from_draft({"title": "Old", "parts": [part]}).parts
        self.assertEqual((row.wording, row.uid, row.key, row.typed["tolerance"]), ("How heavy?", "q1", "m*g", "2%"))
        self.assertEqual(row.typed["recognise"], "sign\nrounding|1/2")
        self.assertEqual([(each["id"], each["text"]) for each in row.typed["options"]], [("o1", "oak")])
        self.assertEqual([(each["id"], each["key"]) for each in row.typed["gaps"]], [("g1", "rises")])

    def test_closeness_is_written_as_it_is_read(self) -> None:
        for words, tolerance in [
            ("2%", {"mode": "relative", "value": "2%"}), ("0.02 of the key", {"mode": "relative", "value": "0.02"}),
            ("0.5", {"mode": "absolute", "value": "0.5"}), ("1 dp", {"mode": "decimal_places", "value": "1"}),
            ("3 sf", {"mode": "significant_figures", "value": "3"}), ("3..4", {"mode": "between", "low": "3", "high": "4"}),
        ]:  # fmt: skip
            with self.subTest(words):
                self.assertEqual(tolerance_of(words), tolerance)
                self.assertEqual(tolerance_words({"value": "", **tolerance}), words)
        self.assertEqual(tolerance_words({"mode": "exact", "value": ""}), "")

    def test_what_a_gap_has_no_field_for_stays_with_its_kind(self) -> None:
        gap = {
            "id": "g1",
            "answer": {
                "kind": "number",
                "key": "3",
                "tolerance": {"mode": "exact", "value": ""},
                "slips": [{"key": "4", "share": "1/4", "feedback": "One too many."}],
            },
            "share": None,
        }
        row = gap_row(gap)
        self.assertEqual(read_gap(row)["answer"]["slips"], gap["answer"]["slips"])
        row |= {"kind": "choice", "more": "no; never"}
        self.assertEqual([option["text"] for option in read_gap(row)["answer"]["options"]], ["3", "no", "never"])
        self.assertNotIn("slips", read_gap(row)["answer"])
        row |= {"kind": "number", "rest": "no JSON", "slips": "no JSON"}
        self.assertEqual(read_gap(row)["answer"]["kind"], "number")


class WhatWaits(TestCase):
    def test_rows_wait_in_another_kind_and_come_back(self) -> None:
        self.client.force_login(person("author", department("Physics")))
        slips = {"part-q1-slip": ["s1"], "slip-s1-key": "n + w", "slip-s1-feedback": "Multiply."}
        turned = FIELDS | slips | {"part-q1-kind": "choice", "part-q1-slips-here": "1"}
        page = read_page(self.client.post(reverse("part-conversion", args=["q1"]), turned))
        waiting = re.search(r'name="part-q1-waiting" value="(.*?)"', page)
        assert waiting is not None
        # the page has the kind's own fields now, and carries the others
        there = {name: value for name, value in FIELDS.items() if not name.startswith("part-q1-slips")}
        there |= {"part-q1-kind": "choice", "part-q1-options-here": "1", "part-q1-waiting": unescape(waiting[1])}
        options = read_page(self.client.post(reverse("options-of-part", args=["q1"]), there))
        self.assertIn("$value(n + w)$", options)
        self.assertIn('value="Multiply."', options)
        back = read_page(self.client.post(reverse("part-conversion", args=["q1"]), there | {"part-q1-kind": "number"}))
        self.assertIn('value="n + w"', back)


class SlipsOfGaps(TestCase):
    def test_they_have_fields_and_come_back(self) -> None:
        self.client.force_login(person("author", department("Physics")))
        given = FIELDS | {
            "part-q1-kind": "blanks", "part-q1-wording": "There are ___ links.", "part-q1-gap": ["g1"],
            "gap-g1-kind": "number", "gap-g1-key": "n*2", "gap-g1-slips-here": "1", "gap-g1-slip": ["s1", "s2"],
            "gapslip-s1-key": "n", "gapslip-s1-share": "1/4", "gapslip-s1-feedback": "Only half of them.",
        }  # fmt: skip
        self.client.post(reverse("save-question"), given)
        made = Question.objects.get()
        (gap,) = made.current.document["parts"][0]["answer"]["gaps"]
        (slip,) = gap["answer"]["slips"]
        self.assertEqual((slip["key"], slip["share"], slip["feedback"]), ("n", "1/4", "Only half of them."))
        page = read_page(self.client.get(reverse("question", args=[made.pk])))
        self.assertIn('value="Only half of them."', page)
        found = self.client.post(
            reverse("desk-tool", args=["rename"]), given | {"tool-old": "n", "tool-new": "links"}
        ).json()["fields"]
        self.assertEqual((found["gap-g1-key"], found["gapslip-s1-key"]), ("links*2", "links"))


class PicturesThatAreNotThere(TestCase):
    def test_a_question_with_one_is_not_saved(self) -> None:
        held = department("Physics")
        self.client.force_login(person("author", held))
        given = FIELDS | {"picture": ["i1"], "picture-i1-name": "quay", "picture-i1-digest": "a" * 64,
                          "picture-i1-width": "40", "picture-i1-height": "30"}  # fmt: skip
        refused = self.client.post(reverse("save-question"), given)
        self.assertContains(refused, "The picture “quay” is not there any more", status_code=422)
        self.assertContains(refused, FIELDS["wording"], status_code=422)
        self.assertFalse(Question.objects.exists())
        odd = self.client.post(reverse("preview-question"), given | {"picture-i1-digest": "../../etc/passwd"})
        self.assertEqual(odd.status_code, 200)
        self.assertNotIn("etc/passwd", read_page(odd).partition('id="message-')[0])
