"""A set made by several processes is the set that one makes, and joined documents keep all that makes them accessible."""

import io
import multiprocessing
import os
import pickle
import select
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import BinaryIO
from unittest import TestCase, mock

import pikepdf
import pypdfium2

from vorlage.core import crew
from vorlage.core.crew import NotDone
from vorlage.core.documents import Heading, Joined, Order, Press, Printing, joining, press
from vorlage.core.forms import choosing, drawn_forms, make_forms, outlined
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import CompiledQuestion, load_document
from vorlage.library import samples


def plan(*names: str) -> Plan:
    return Plan("Quay", [Place(CompiledQuestion(samples()[name][0]), name, 1) for name in names])


def joined(parts: list[tuple[str, bytes]], into: BinaryIO) -> None:
    whole = Joined(into, len(parts))
    for name, part in parts:
        whole.add(name, part)
    whole.finish()


def titles(pdf: pikepdf.Pdf) -> list[str]:
    """The titles of the headings of the first level, in the order in which they were written."""
    return [str(each.T) for each in pdf.objects if isinstance(each, pikepdf.Dictionary) and each.get("/S") == "/H1"]


def titles_of(pdf: bytes) -> list[str]:
    with pikepdf.open(io.BytesIO(pdf)) as opened:
        return titles(opened)


def words(pdf: bytes) -> list[str]:
    return [" ".join(page.get_textpage().get_text_range().split()) for page in pypdfium2.PdfDocument(pdf)]


class Pressing(TestCase):
    def setUp(self) -> None:
        self.enterContext(mock.patch.object(press, "STRETCH", 2))
        # the processes in which tests run may have none of their own, unless they say so
        self.enterContext(mock.patch.dict(multiprocessing.current_process()._config, daemon=False))
        self.plan = plan(*list(samples())[:2])
        self.order = Order(self.plan, Heading("Quay"), outlined(self.plan, 5, "seed"), "seed")

    def test_several_processes_make_what_one_makes(self) -> None:
        told: list[int] = []
        found = list(Press(self.order, 2).stretches(told.append))
        self.assertEqual([len(each.forms) for each in found], [2, 2, 1])
        forms = tuple(form for each in found for form in each.forms)
        self.assertEqual(Press(self.order).set_of(forms), make_forms(self.plan, 5, "seed"))
        printing = Printing(self.plan, Heading("Quay"))
        self.assertEqual(
            [paper for each in found for paper in each.papers], [printing.papers([form]) for form in forms]
        )
        # the key says once what it is of, and counts the pages of every form by themselves
        keys = [page for each in found for page in words(each.key)]
        self.assertEqual(["Key to 5 forms" in page for page in keys], [True, *[False] * (len(keys) - 1)])
        for form in forms:
            counted = [page for page in keys if page.endswith(tuple(f"Form {form.code} {k} of 1" for k in (1, 2)))]
            self.assertEqual(len(counted), 1)

    def test_several_processes_look_through_what_one_does(self) -> None:
        alone, told = make_forms(self.plan, 5, "seed"), list[int]()
        with mock.patch.object(choosing, "BY_SEVERAL", 1):
            chosen = outlined(self.plan, 5, "seed", progress=told.append)
        self.assertEqual((chosen, told[-1]), (alone.outlines, 2))
        self.assertEqual((len(chosen.made), len(chosen.made_for([3]))), (10, 2))
        self.assertEqual(tuple(drawn_forms(self.plan, chosen, "seed", range(5))), alone.forms)
        forms = [form for each in Press(Order(self.plan, Heading("Quay"), chosen, "seed"), 2).stretches(told.append)
                 for form in each.forms]  # fmt: skip
        self.assertEqual(tuple(forms), alone.forms)

    def test_what_ends_the_work_ends_the_processes(self) -> None:
        class Cancelled(Exception):
            pass

        def cancel(done: int) -> None:
            raise Cancelled

        with mock.patch.object(crew, "TOLD_EVERY", 0.01), self.assertRaises(Cancelled):
            list(Press(self.order, 2).stretches(cancel))

    def test_the_processes_have_the_library_for_memory_and_this_one_stays_as_it_is(self) -> None:
        for library, before, during in [
            ("libmemory.so.9", None, "libmemory.so.9"),
            ("libmemory.so.9", "libother.so", "libmemory.so.9 libother.so"),
            (None, None, None),
            (None, "libother.so", "libother.so"),
        ]:
            seen: list[str | None] = []

            def begin(seen: list[str | None] = seen) -> None:
                seen.append(os.environ.get("LD_PRELOAD"))

            with (
                self.subTest(library=library, before=before),
                mock.patch.object(crew, "find_library", return_value=library),
                mock.patch.object(crew.forkserver, "ensure_running", begin),
                mock.patch.dict(os.environ, {} if before is None else {"LD_PRELOAD": before}),
            ):
                crew.begin_first.__wrapped__()
                self.assertEqual((seen, os.environ.get("LD_PRELOAD")), ([during], before))

    def test_what_goes_back_between_processes_is_short(self) -> None:
        """A process that is ended in the middle of a message which is not written at once leaves the other waiting."""
        with TemporaryDirectory() as folder:
            failing = mock.Mock(side_effect=NotDone("not_done", "ü" * 5000))
            with mock.patch.object(crew, "AT_HAND", [self.order, failing, [0] * 5, folder]):
                self.assertLess(
                    len(pickle.dumps(crew.done_there(0, press.Stretch(range(2), {})))), select.PIPE_BUF // 2
                )
            with mock.patch.object(crew, "AT_HAND", [self.order, press.made, [0] * 5, folder]):
                self.assertEqual(crew.done_there(1, press.Stretch(range(2, 4), {})), "")
            self.assertEqual(len(crew.taken_over(Path(folder) / "1").papers), 2)
            self.assertEqual(os.listdir(folder), [])

    def test_why_a_set_cannot_be_made_comes_back_in_words(self) -> None:
        broken = load_document({
            "title": "Sometimes", "parameters": [{"name": "a", "definition": "0..4"}], "wording": "$a$",
            "parts": [{"marks": "1", "answer": {"kind": "number", "key": "1/a"}}],
        })  # fmt: skip
        plan = Plan("Broken", [Place(CompiledQuestion(broken), "broken", 1)])
        order = Order(plan, Heading("Broken"), outlined(plan, 5, "seed"), "seed")
        with mock.patch.object(choosing, "BY_SEVERAL", 1):
            looked = outlined(plan, 5, "seed")
        self.assertEqual((looked, len(looked.made)), (order.outlines, 4))
        for stretch, each in [(2, order), (50, order), (2, Order(plan, Heading("Broken"), looked, "seed"))]:
            with self.subTest(stretch), mock.patch.object(press, "STRETCH", stretch):
                with self.assertRaisesRegex(NotDone, "the key does not pass its own check|has no value"):
                    list(Press(each, 2).stretches(lambda done: None))


class Joining(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        chosen = plan(*list(samples())[:3])
        forms = make_forms(chosen, 3, "seed").forms
        printing = Printing(chosen, Heading("Quay"))
        cls.parts = [(f"Form {form.code}", printing.papers([form])) for form in forms]
        cls.whole = io.BytesIO()
        joined(cls.parts, cls.whole)

    def test_every_page_is_there_in_order(self) -> None:
        self.assertEqual(words(self.whole.getvalue()), [page for _, part in self.parts for page in words(part)])

    def test_the_same_parts_give_the_same_bytes(self) -> None:
        again = io.BytesIO()
        joined(self.parts, again)
        self.assertEqual(again.getvalue(), self.whole.getvalue())

    def test_the_structure_of_every_page_is_there(self) -> None:
        def elements(node: pikepdf.Object) -> list[pikepdf.Object]:
            if isinstance(node, pikepdf.Array):
                return [found for each in node for found in elements(each)]
            if isinstance(node, pikepdf.Dictionary) and "/S" in node:
                return [node, *elements(node.get("/K", pikepdf.Array()))]
            return []

        def said(pdf: pikepdf.Pdf) -> list[tuple[str, str]]:
            return [(str(each.S), str(each.get("/Alt", ""))) for each in elements(pdf.Root.StructTreeRoot.K)]

        with pikepdf.open(self.whole) as whole:
            expected = []
            for _, part in self.parts:
                with pikepdf.open(io.BytesIO(part)) as single:
                    expected += said(single)
            self.assertEqual(said(whole), expected)
            self.assertTrue(any(alt for _, alt in expected))
            pages = {page.obj.objgen: page for page in whole.pages}
            owners = pikepdf.NumberTree(whole.Root.StructTreeRoot.ParentTree)
            self.assertEqual(len(owners), int(whole.Root.StructTreeRoot.ParentTreeNextKey))
            for page in pages.values():
                for owner in owners[int(page.obj.StructParents)]:
                    # what stands on a page belongs to an element of that page
                    self.assertEqual(owner.Pg.objgen, page.obj.objgen)
            self.assertEqual(str(whole.Root.Lang), "en-GB")
            self.assertTrue(bool(whole.Root.MarkInfo.Marked))
            self.assertTrue(bool(whole.Root.ViewerPreferences.DisplayDocTitle))
            self.assertIn(b"pdfuaid", whole.Root.Metadata.read_bytes())
            with whole.open_outline() as outline:
                self.assertEqual([item.title for item in outline.root], [name for name, _ in self.parts])
                # below each, closed, those that it has by itself, which lead to its own pages
                for item, (_, part) in zip(outline.root, self.parts):
                    with pikepdf.open(io.BytesIO(part)) as single, single.open_outline() as own:
                        self.assertEqual([each.title for each in item.children], [each.title for each in own.root])
                    self.assertTrue(item.is_closed)
                first = [whole.pages.index(pikepdf.Page(each.destination[0])) for each in outline.root]
                inner = [
                    [whole.pages.index(pikepdf.Page(each.destination[0])) for each in item.children]
                    for item in outline.root
                ]
                ends = [*first[1:], len(whole.pages)]
                self.assertTrue(
                    all(a <= at < b for a, b, own_pages in zip(first, ends, inner) for at in own_pages), (first, inner)
                )
                self.assertTrue(any(inner))

    def test_an_object_is_called_by_its_number_and_the_place_of_its_document(self) -> None:
        parts = self.parts * 4
        expected = [page for _, part in parts for page in words(part)]
        _, second = self.parts[1]
        with pikepdf.open(io.BytesIO(second)) as single:
            own = {number for number, _ in (each.objgen for each in single.objects)}
        for highest in (joining.HIGHEST, 1000):
            whole = io.BytesIO()
            with self.subTest(highest=highest), mock.patch.object(joining, "HIGHEST", highest):
                joined(parts, whole)
                self.assertEqual(words(whole.getvalue()), expected)
                with pikepdf.open(whole) as pdf:
                    self.assertEqual((pdf.get_warnings(), pdf.check_pdf_syntax()), ([], []))
                    numbers = {number for number, _ in (each.objgen for each in pdf.objects)}
                    self.assertEqual(titles(pdf), [title for _ in parts for title in titles_of(second)])
                    with pdf.open_outline() as outline:
                        self.assertEqual([item.title for item in outline.root], [name for name, _ in parts])
                others = [number for number in numbers if number % 100 >= len(parts)]
                kept = [number for number in own if 100 * number + 1 in numbers]
                if highest > 1000:
                    self.assertEqual(others, [])
                    self.assertGreater(len(kept), len(own) // 2)
                else:
                    # there are not so many numbers for each place: those of places without a document are taken
                    self.assertGreater(len(others), len(own))
                    self.assertLess(len(kept), 10)

    def test_no_more_documents_come_than_were_said(self) -> None:
        whole = Joined(io.BytesIO(), 1)
        whole.add("", self.parts[0][1])
        with self.assertRaisesRegex(ValueError, "more documents than 1"):
            whole.add("", self.parts[1][1])

    def test_one_reference_is_exchanged_and_not_the_end_of_another(self) -> None:
        told = b"/P 12 0 R/K[2 0 R 312 0 R 12 0 R]/Pg 112 0 R"
        self.assertEqual(joining.exchanged(told, b"12 0 R", b"7 0 R"), b"/P 7 0 R/K[2 0 R 312 0 R 7 0 R]/Pg 112 0 R")
        self.assertEqual(joining.exchanged(told, b"13 0 R", b"7 0 R"), told)

    def test_a_key_joined_of_its_parts_has_every_name_once(self) -> None:
        forms = make_forms(plan(*list(samples())[:2]), 4, "seed").forms
        printing = Printing(plan(*list(samples())[:2]), Heading("Quay"))
        whole = io.BytesIO()
        joined([("", printing.key(forms[:2], 4)), ("", printing.key(forms[2:], 4, continued=True))], whole)
        with pikepdf.open(whole) as key:
            self.assertEqual(key.check_pdf_syntax(), [])
            tree = key.Root.StructTreeRoot
            named = list(pikepdf.NameTree(tree.IDTree).items())
            self.assertEqual(len(dict(named)), len(named))
            own = [str(each.ID) for each in key.objects if isinstance(each, pikepdf.Dictionary) and "/ID" in each]
            self.assertEqual(sorted(own), sorted(name for name, _ in named))
            self.assertTrue(all(str(element.ID) == name for name, element in named))

    def test_whatever_stands_in_a_text_stays_as_it_is(self) -> None:
        odd = ["((((((", "))) 12 0 R ((", "\\\\) 3 0 R (", "/StructParents 4 /ID (x)", ">>\nstream\nendobj", "π 7 0 R"]
        printing = Printing(plan(*list(samples())[:1]), Heading("Quay"))
        forms = make_forms(plan(*list(samples())[:1]), 1, "seed").forms
        parts = []
        for text in odd:
            printing.heading = Heading(text)
            parts.append((text, printing.papers(forms)))
        whole = io.BytesIO()
        joined(parts, whole)
        self.assertEqual(words(whole.getvalue()), [page for _, part in parts for page in words(part)])
        with pikepdf.open(whole) as pdf:
            self.assertEqual(pdf.check_pdf_syntax(), [])
            self.assertEqual(titles(pdf), [title for _, part in parts for title in titles_of(part)])
            with pdf.open_outline() as outline:
                self.assertEqual([item.title for item in outline.root], odd)

    def test_documents_that_others_have_written_anew_are_joined_as_well(self) -> None:
        parts = []
        for name, part in self.parts:
            packed = io.BytesIO()
            with pikepdf.open(io.BytesIO(part)) as pdf:
                pdf.save(packed, object_stream_mode=pikepdf.ObjectStreamMode.generate)
            parts.append((name, packed.getvalue()))
        whole = io.BytesIO()
        joined(parts, whole)
        self.assertEqual(words(whole.getvalue()), words(self.whole.getvalue()))
        with pikepdf.open(whole) as pdf:
            self.assertEqual(pdf.check_pdf_syntax(), [])

    def test_what_documents_have_in_common_is_kept_once(self) -> None:
        twice, once = io.BytesIO(), io.BytesIO()
        joined(self.parts[:1] * 2, twice)
        joined(self.parts[:1], once)
        counts = []
        for whole in (once, twice):
            with pikepdf.open(whole) as pdf:
                fonts = [each for each in pdf.objects if isinstance(each, pikepdf.Dictionary)]
                files = [each[key] for each in fonts for key in ("/FontFile2", "/FontFile3") if key in each]
                counts.append(len({file.objgen for file in files}))
                self.assertEqual(len(files), counts[-1])
        self.assertEqual(counts[0], counts[1])
        self.assertGreater(counts[0], 0)
