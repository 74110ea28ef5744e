"""Line maths: one notation, one tree, many printers.

``read`` turns what people type into a tree; the printers turn the tree into line maths, MathML,
Typst and words; ``substitute`` and ``tidy`` put drawn values into it. Everything that authors and
students type is read here and by nothing else.
"""

from .authoring import authored, read_authored, repeated, word_with
from .errors import NotationError
from .habits import (
    USUAL,
    Habits,
    from_document,
    in_cell,
    in_figure,
    in_spans,
    to_document,
    told,
)
from .lexer import visible
from .printers import (
    ContentPrinter,
    LinePrinter,
    MathMLPrinter,
    SpokenPrinter,
    Style,
    TeXPrinter,
    TypstPrinter,
)
from .printers.mathml import unit_markup
from .printers.spoken import speak
from .printers.typst import quoted
from .reader import NOTES, noted, read, read_chemical
from .rebuild import rebuild, shared, substitute
from .renaming import SPAN, renamed_in_figure, renamed_in_line, renamed_in_text
from .settings import PLAIN, Settings
from .tidy import fraction, literal, plain_value, terminating_places, tidy
from .tree import (
    Call,
    Chemical,
    Collection,
    Constant,
    Drawn,
    Interval,
    Logic,
    Matrix,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    PlusMinus,
    Postfix,
    Power,
    Product,
    Quantity,
    Quotient,
    Relation,
    Sum,
    Text,
    children,
    fields_of,
    names_in,
    unsigned,
    walk,
)
from .vocabulary import AUTHOR, CALCULUS, COMPLETIONS, FUNCTIONS

POINT = Style()
# Functions that do an author's work and have no place in a student's answer.
AUTHOR_FUNCTIONS = frozenset(f"{AUTHOR} {CALCULUS}".split())


def line(node: Node, style: Style = POINT) -> str:
    """The tree as line maths.

    >>> line(read("sin 2x cos x"))
    'sin(2 x) cos(x)'
    """
    return LinePrinter(style).show(node)


def mathml(node: Node, style: Style = POINT, block: bool = False) -> str:
    """The tree as a MathML element with its spoken words as label."""
    return MathMLPrinter(style).whole(node, speak(node, style), block)


def typst(node: Node, style: Style = POINT, block: bool = False) -> str:
    """The tree as a Typst equation with its spoken words as alternative text; in a line figures alone are text."""
    printer = TypstPrinter(style)
    return (not block and printer.figures(node)) or printer.whole(node, speak(node, style), block)


def tex(node: Node, style: Style = POINT) -> str:
    r"""The tree as TeX mathematics, for exchange.

    >>> print(tex(read("x^2/2 - sqrt(3)")))
    \frac{x^{2}}{2} - \sqrt{3}
    """
    return TeXPrinter(style).show(node)


def content_mathml(node: Node) -> str:
    """The tree as Content MathML, for exchange with programs that compute."""
    return f'<math xmlns="http://www.w3.org/1998/Math/MathML">{ContentPrinter().show(node)}</math>'


__all__ = [
    "AUTHOR_FUNCTIONS",
    "COMPLETIONS",
    "FUNCTIONS",
    "NOTES",
    "PLAIN",
    "POINT",
    "SPAN",
    "USUAL",
    "Call",
    "Chemical",
    "Collection",
    "Constant",
    "ContentPrinter",
    "Drawn",
    "Habits",
    "Interval",
    "LinePrinter",
    "Logic",
    "MathMLPrinter",
    "Matrix",
    "Mixed",
    "Name",
    "Neg",
    "Node",
    "NotationError",
    "Number",
    "PlusMinus",
    "Postfix",
    "Power",
    "Product",
    "Quantity",
    "Quotient",
    "Relation",
    "Settings",
    "SpokenPrinter",
    "Style",
    "Sum",
    "TeXPrinter",
    "Text",
    "TypstPrinter",
    "authored",
    "children",
    "content_mathml",
    "fields_of",
    "fraction",
    "from_document",
    "in_cell",
    "in_figure",
    "in_spans",
    "line",
    "literal",
    "mathml",
    "names_in",
    "noted",
    "plain_value",
    "quoted",
    "read",
    "read_authored",
    "read_chemical",
    "rebuild",
    "renamed_in_figure",
    "renamed_in_line",
    "renamed_in_text",
    "repeated",
    "shared",
    "speak",
    "substitute",
    "terminating_places",
    "tex",
    "tidy",
    "to_document",
    "told",
    "typst",
    "unit_markup",
    "unsigned",
    "visible",
    "walk",
    "word_with",
]  # fmt: skip
