"""What stands on papers beside their questions: the code of each page, whose a paper is, inserts, options in columns."""

from __future__ import annotations

import io
from itertools import pairwise
from typing import Any
from unittest import TestCase

import pikepdf
import pypdfium2
import segno
import zxingcpp
from PIL import Image

from vorlage.core.documents import (
    Heading,
    Holder,
    InsertError,
    Joined,
    PageCode,
    Printing,
    compiled_insert,
    laid_insert,
    page_count,
    page_picture,
    typeset_insert,
)
from vorlage.core.documents.page_codes import squares
from vorlage.core.forms import make_forms
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import CompiledQuestion, load_document
from vorlage.library import samples


def words(pdf: bytes) -> list[str]:
    return [" ".join(page.get_textpage().get_text_range().split()) for page in pypdfium2.PdfDocument(pdf)]


def codes(pdf: bytes) -> list[PageCode | None]:
    """What an independent reader finds on every page, as a scanner of a low resolution sees it."""
    found = []
    for page in range(1, page_count(pdf) + 1):
        read = zxingcpp.read_barcodes(Image.open(io.BytesIO(page_picture(pdf, page))))
        found.append(PageCode.read(read[0].text) if len(read) == 1 else None)
    return found


def given(*pages: tuple[float, float], **about: Any) -> bytes:
    """A PDF with empty pages of these sizes."""
    with pikepdf.Pdf.new() as made:
        for size in pages:
            made.add_blank_page(page_size=size)
        written = io.BytesIO()
        made.save(written, **about)
    return written.getvalue()


def plan_of(*documents: Any, **more: Any) -> Plan:
    return Plan("Quay", [Place(CompiledQuestion(each), f"q{k}", 1) for k, each in enumerate(documents)], **more)


class Codes(TestCase):
    def setUp(self) -> None:
        self.plan = plan_of(*(document for document, _ in list(samples().values())[:6]))
        self.forms = make_forms(self.plan, 3, "seed").forms

    def test_the_squares_are_those_that_another_writer_draws(self) -> None:
        # long numbers are packed in more than one way
        for code in (PageCode(17, "K4T", 2), PageCode(4_321, "ABCDEFG9", 120, 88_123)):
            ours = [[not square for square in row] for row in squares(str(code))]
            theirs = [
                segno.make(str(code), error="m", micro=False, boost_error=False, mode="alphanumeric", mask=mask)
                for mask in range(8)
            ]
            self.assertIn(ours, [[list(map(bool, row)) for row in each.matrix] for each in theirs])

    def test_every_page_says_what_it_is_and_whose(self) -> None:
        printing = Printing(self.plan, Heading("Quay", form_set=17))
        holders = [Holder(311, "Ada Abara", "10 B", "row 2, seat 3"), None, Holder(4, "Ünsal Çağlar")]
        for form, holder in zip(self.forms, holders):
            paper = printing.papers([form], [holder] if holder else [])
            pages = page_count(paper)
            self.assertGreater(pages, 1)
            student = holder.student if holder else None
            self.assertEqual(codes(paper), [PageCode(17, form.code, page, student) for page in range(1, pages + 1)])
            text = words(paper)
            if holder:
                self.assertTrue(all(holder.name in page for page in text))
                self.assertIn(holder.seat, text[0])
        together = printing.papers(self.forms)
        self.assertEqual(
            [code.form for code in codes(together) if code and code.page == 1], [f.code for f in self.forms]
        )

    def test_without_a_set_there_is_none(self) -> None:
        self.assertEqual(set(codes(Printing(self.plan, Heading("Quay")).papers(self.forms[:1]))), {None})

    def test_codes_are_read_and_others_are_not(self) -> None:
        for code in (PageCode(1, "A3C", 1), PageCode(999_999, "ZZ9", 99, 12_345)):
            self.assertEqual(PageCode.read(str(code)), code)
        for text in ("", "VORLAGE/1/A3C", "VORLAGE/x/A3C/1", "VORLAGE/1/A3C/1/2/3", "other/1/A3C/1", "VORLAGE/1//1"):
            self.assertIsNone(PageCode.read(text))


class Inserts(TestCase):
    def test_a_sheet_is_typeset_with_its_formulas_and_tables(self) -> None:
        pdf = typeset_insert("Data sheet", "| a | b |\n|---|---|\n| force | $F = m*a$ |\n\nUse $pi$.", "Physics")
        (text,) = words(pdf)
        for said in ("Data sheet", "Physics", "force", "π", "1 of 1"):
            self.assertIn(said, text)

    def test_what_is_wrong_with_a_sheet_is_said(self) -> None:
        for text in ("$(a + b$", "$sqrt($", "$x^$"):
            with self.assertRaises(InsertError, msg=text) as caught:
                compiled_insert("Sheet", text)
            self.assertTrue(caught.exception.message)

    def test_pages_are_laid_on_a4_upright_or_across(self) -> None:
        pdf = laid_insert("Map", given((595, 842), (842, 595), (200, 100), (1200, 2400)))
        with pikepdf.open(io.BytesIO(pdf)) as made:
            sizes = [tuple(round(float(each)) for each in page.mediabox[2:]) for page in made.pages]
            self.assertEqual(sizes, [(595, 842), (842, 595), (842, 595), (595, 842)])
            figures = made.Root.StructTreeRoot.K[0].K
            self.assertEqual([str(each.Alt) for each in figures], [f"Page {k} of Map" for k in range(1, 5)])

    def test_the_words_of_a_page_are_its_wording_and_nothing_that_runs_is_taken(self) -> None:
        source = typeset_insert("Wanted words", "Some words.")
        with pikepdf.open(io.BytesIO(source)) as loaded:
            script = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS="app.alert(1)")
            loaded.Root.OpenAction = loaded.make_indirect(script)
            loaded.pages[0].obj.Annots = pikepdf.Array([])
            written = io.BytesIO()
            loaded.save(written)
        pdf = laid_insert("Given", written.getvalue())
        self.assertIn("Some words.", words(pdf)[0])
        with pikepdf.open(io.BytesIO(pdf)) as made:
            self.assertNotIn("/OpenAction", made.Root)
            self.assertIn("Wanted words", str(made.Root.StructTreeRoot.K[0].K[0].Alt))
            self.assertFalse([each for each in made.objects if isinstance(each, pikepdf.Dictionary) and "/JS" in each])

    def test_what_cannot_be_read_is_refused_in_words(self) -> None:
        locked = given((595, 842), encryption=pikepdf.Encryption(owner="a", user="b"))
        cases = [
            (b"", "not_a_pdf"), (b"%PDF-1.7\nnothing", "not_a_pdf"), (b"\x89PNG\r\n", "not_a_pdf"),
            (locked, "locked"), (given(*[(595, 842)] * 21), "too_many_pages"), (b"0" * (10 * 2**20 + 1), "too_large"),
        ]  # fmt: skip
        for content, code in cases:
            with self.assertRaises(InsertError) as caught:
                laid_insert("Given", content)
            self.assertEqual(caught.exception.code, code)

    def test_they_are_joined_with_papers(self) -> None:
        plan = plan_of(samples()["foghorn"][0])
        paper = Printing(plan, Heading("Quay", form_set=3)).papers(make_forms(plan, 1, "seed").forms)
        written = io.BytesIO()
        parts = (paper, laid_insert("Map", given((595, 842))), typeset_insert("Sheet", "Words."), paper)
        whole = Joined(written, len(parts))
        for part in parts:
            whole.add("", part)
        whole.finish()
        self.assertEqual(len(words(written.getvalue())), page_count(paper) * 2 + 2)
        with pikepdf.open(io.BytesIO(written.getvalue())) as joined:
            self.assertEqual(joined.check_pdf_syntax(), [])


METALS = ("zinc", "iron", "copper", "tin")


class OptionsInColumns(TestCase):
    def document(self, more: str = "") -> Any:
        options = [{"text": f"{metal}{more}", "share": "1" if metal == "iron" else "0"} for metal in METALS]
        answer = {"kind": "choice", "options": options}
        return load_document({"title": "Metal", "wording": "Which rusts?", "parts": [{"marks": "1", "answer": answer}]})

    def rows(self, document: Any, **more: Any) -> int:
        """In how many rows the options stand on the paper."""
        plan = plan_of(document, **more)
        page = pypdfium2.PdfDocument(Printing(plan, Heading("Quay")).papers(make_forms(plan, 1, "seed").forms))[0]
        text = page.get_textpage()
        found = [text.search(word).get_next() for word in METALS]
        heights = sorted(text.get_charbox(at[0])[1] for at in found if at)
        return 1 + sum(after - before > 4 for before, after in pairwise(heights))

    def test_short_ones_stand_beside_each_other_and_long_ones_do_not(self) -> None:
        self.assertEqual(self.rows(self.document()), 4)
        self.assertEqual(self.rows(self.document(), across=True), 1)
        self.assertEqual(self.rows(self.document(" with some more"), across=True), 2)
        self.assertEqual(self.rows(self.document(" and more of it" * 9), across=True), 4)

    def test_they_stay_in_order_where_a_test_says_so(self) -> None:
        document = self.document()
        mixed, ordered = plan_of(document), plan_of(document.in_order)
        orders = {str(form.items[0].draw.orders) for form in make_forms(mixed, 8, "seed").forms}
        self.assertGreater(len(orders), 2)
        for form in make_forms(ordered, 8, "seed").forms:
            self.assertEqual([list(order) for order in form.items[0].draw.orders.values()], [[0, 1, 2, 3]])
