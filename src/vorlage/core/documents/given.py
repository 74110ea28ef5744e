"""A PDF that somebody gives, laid page by page on A4.

Each page becomes a figure whose words are the text of the page; scripts, forms, links and attachments stay behind. It
is read in a process of its own with a bounded time and memory, since such a file can be made to do harm: this file is
run by itself, and needs nothing of the rest.
"""

from __future__ import annotations

import io
import resource
import sys
from collections.abc import Sequence

import pypdfium2
from pikepdf import Array, Dictionary, Name, PasswordError, Pdf, PdfError, Rectangle

# Points of A4, upright.
SHORT, LONG = 595.276, 841.89
MOST_PAGES, MOST_WORDS = 20, 4_000
# Seconds of work, and bytes.
WORKING, MEMORY = 10, 1_500_000_000
# With what the process ends.
LOCKED, UNREADABLE, TOO_MANY = 3, 4, 5


def laid(title: str, pdf: bytes) -> bytes:
    """The pages of a PDF on A4, each a figure with the words that stand on it; as PDF/UA has it where the fonts of what
    was given are embedded. Raises as pikepdf does, and ``IndexError`` for too many pages."""
    with Pdf.open(io.BytesIO(pdf)) as source, Pdf.new() as made:
        if not 0 < len(source.pages) <= MOST_PAGES:
            raise IndexError(len(source.pages))
        tree = made.make_indirect(Dictionary(Type=Name.StructTreeRoot))
        whole = made.make_indirect(Dictionary(Type=Name.StructElem, S=Name.Document, P=tree))
        figures = []
        for number, (page, words) in enumerate(zip(source.pages, words_of(pdf))):
            left, bottom, right, top = map(float, page.trimbox)
            wide = (right - left > top - bottom) != (int(page.obj.get(Name.Rotate, 0)) % 180 == 90)
            width, height = (LONG, SHORT) if wide else (SHORT, LONG)
            made.add_blank_page(page_size=(width, height))
            own = made.pages[-1]
            shape = made.copy_foreign(page.as_form_xobject())
            called = own.add_resource(shape, Name.XObject)
            placed = own.calc_form_xobject_placement(shape, called, Rectangle(0, 0, width, height))
            own.obj.Contents = made.make_stream(b"/Figure <</MCID 0>> BDC\n" + placed + b"\nEMC\n")
            own.obj.StructParents, own.obj.Tabs = number, Name.S
            alt = words[:MOST_WORDS] or f"Page {number + 1} of {title}"
            box = Dictionary(O=Name.Layout, BBox=Array([0, 0, width, height]), Placement=Name.Block)
            figure = Dictionary(Type=Name.StructElem, S=Name.Figure, P=whole, Pg=own.obj, K=0, Alt=alt, A=box)
            figures.append(made.make_indirect(figure))
        whole.K, tree.K = Array(figures), Array([whole])
        numbered = [each for number, figure in enumerate(figures) for each in (number, Array([figure]))]
        tree.ParentTree = made.make_indirect(Dictionary(Nums=Array(numbered)))
        tree.ParentTreeNextKey = len(figures)
        root = made.Root
        root.StructTreeRoot, root.MarkInfo, root.Lang = tree, Dictionary(Marked=True), "en-GB"
        root.ViewerPreferences = Dictionary(DisplayDocTitle=True)
        made.docinfo[Name.Title] = title
        with made.open_metadata(set_pikepdf_as_editor=False) as about:
            about["dc:title"], about["pdfuaid:part"] = title, "1"
        written_to = io.BytesIO()
        made.save(written_to, deterministic_id=True)
    return written_to.getvalue()


def words_of(pdf: bytes) -> list[str]:
    """The words on every page, in one line each."""
    document = pypdfium2.PdfDocument(pdf)
    try:
        return [" ".join(page.get_textpage().get_text_range().split()) for page in document]
    finally:
        document.close()


def main(arguments: Sequence[str]) -> int:
    """Read a PDF from the standard input and write it to the standard output as it is printed."""
    resource.setrlimit(resource.RLIMIT_CPU, (WORKING, WORKING))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    try:
        sys.stdout.buffer.write(laid(arguments[0], sys.stdin.buffer.read()))
    except PasswordError:
        return LOCKED
    except IndexError:
        return TOO_MANY
    except (PdfError, pypdfium2.PdfiumError, ValueError, KeyError, AttributeError, TypeError):
        return UNREADABLE
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
