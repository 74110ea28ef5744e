"""Texts as Typst markup, in which every piece of text is a quoted string."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from markdown_it.token import Token

from ...notation import Node, Style, quoted, typst
from ..reading import BLANK_SIGN, FIGURE_SIGN, SPAN_SIGN, QuestionText
from .base import TextPrinter, filled


class TypstPrinter(TextPrinter):
    name = "typst"

    def text(
        self,
        text: QuestionText,
        show: Callable[[Node, bool], str],
        gaps: Sequence[str] = (),
        figures: Sequence[str] = (),
        inline: bool = False,
    ) -> str:
        markup, spans = self.walked(text, inline)
        pieces = markup.split(SPAN_SIGN)
        written = pieces[0] + "".join(
            show(tree, block) + piece for (tree, block), piece in zip(spans, pieces[1:], strict=True)
        )
        return filled(filled(written, gaps, "#blank;"), figures, "", FIGURE_SIGN)

    def walked(self, text: QuestionText, inline: bool) -> tuple[str, list[tuple[Node, bool]]]:
        """Markup with signs where maths goes, and the maths: walked through once for all draws."""
        key = (self.name, inline)
        if key not in text.walked:
            writer = Writer(text)
            if inline:
                blocks = (token.children or [] for token in text.tokens if token.type == "inline")
                text.walked[key] = "".join(map(writer.inline, blocks)), writer.spans
            else:
                text.walked[key] = writer.blocks(text.tokens), writer.spans
        return text.walked[key]

    def maths(self, tree: Node, style: Style, block: bool) -> str:
        return typst(tree, style, block)

    def at_ease(self, maths: str, block: bool) -> str:
        return maths if block else f"#alone[{maths}]"

    def gap(self, number: int, offered: Sequence[tuple[str, str]]) -> str:
        inside = "".join(f"([{letter}], [{written}]), " for letter, written in offered)
        return f"#gap({number}, ({inside}));"

    def picture(self, draw: Callable[[str], str], says: str, number: int = 0) -> str:
        drawn = draw("")
        called = f", number: {number}" if number else ""
        return f"#picture({quoted(drawn)}, {quoted(says)}{called});" if drawn else ""


TYPST = TypstPrinter()
# A paragraph with fewer letters is one line.
A_LINE = 60


# Signs that are raised by themselves, and what they raise.
RAISED = re.compile("([⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻]+)")
LEVEL = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻", "0123456789+−")


def literal_text(text: str) -> str:
    """A text as it stands; what is raised in it is set as powers are."""
    shown = ""
    for k, piece in enumerate(RAISED.split(text)):
        if k % 2:
            shown += f"#raised({quoted(piece.translate(LEVEL))});"
        else:
            shown += BLANK_SIGN.join(f"#{quoted(each)};" if each else "" for each in piece.split(BLANK_SIGN))
    return shown


class Writer:
    """Walks the tokens and writes Typst; nothing a person typed becomes markup."""

    def __init__(self, text: QuestionText) -> None:
        self.trees = text.trees
        # the maths, in the order of its signs
        self.spans: list[tuple[Node, bool]] = []

    def blocks(self, tokens: Sequence[Token]) -> str:
        written = ""
        for k, token in enumerate(tokens):
            kind = token.type
            if kind == "inline":
                written += self.inline(token.children or [])
            elif kind == "math_block":
                written += f"#display[{self.maths(token, True)}]\n\n"
            elif kind == "fence":
                written += f"#raw({quoted(token.content)}, block: true)\n\n"
            elif kind == "hr":
                written += "#line(length: 100%, stroke: 0.4pt)\n\n"
            elif kind == "paragraph_open":
                written += self.opened(tokens[k + 1])
            elif kind == "table_open":
                sides = [self.side(each) for each in self.heads(tokens[k:])]
                written += f"#data-table(({''.join(f'{side}, ' for side in sides)}),\n"
            else:
                written += PIECES.get(kind, "")
        return written

    def opened(self, inline: Token) -> str:
        """What opens a paragraph."""
        held = {each.type for each in inline.children or []}
        if "image" in held:
            # a figure stands by itself, and a paragraph would leave it out
            return "#block["
        return "#lines-with-maths[" if "math_inline" in held and len(inline.content) > A_LINE else "#par["

    def heads(self, tokens: Sequence[Token]) -> list[Token]:
        """The heads of a table's columns."""
        end = next(k for k, token in enumerate(tokens) if token.type == "thead_close")
        return [token for token in tokens[:end] if token.type == "th_open"]

    def side(self, head: Token) -> str:
        """The side at which a column is aligned."""
        return str(head.attrs.get("class", "at-left")).removeprefix("at-")

    def inline(self, tokens: Sequence[Token]) -> str:
        written = ""
        if [token.type for token in tokens if token.type != "text" or token.content.strip()] == ["math_inline"]:
            maths = next(token for token in tokens if token.type == "math_inline")
            return f"#alone[{self.maths(maths, False)}];"
        for token in tokens:
            if token.type == "text":
                written += literal_text(token.content)
            elif token.type == "math_inline":
                written += self.maths(token, False)
            elif token.type == "code_inline":
                written += f"#raw({quoted(token.content)});"
            elif token.type == "image":
                written += FIGURE_SIGN
            elif token.type == "softbreak":
                written += " "
            else:
                written += INLINE_PIECES.get(token.type, "")
        return written

    def maths(self, token: Token, block: bool) -> str:
        tree = self.trees.get(token.content.strip())
        if tree is None:
            return literal_text(token.content)
        self.spans.append((tree, block))
        return f"{SPAN_SIGN};"


PIECES = {
    "paragraph_close": "]\n\n",
    "heading_open": "#block[#bold-text[", "heading_close": "]]\n\n",
    "bullet_list_open": "#list(", "bullet_list_close": ")\n\n",
    "ordered_list_open": "#enum(", "ordered_list_close": ")\n\n",
    "list_item_open": "[", "list_item_close": "], ",
    "blockquote_open": "#pad(left: 1em)[", "blockquote_close": "]\n\n",
    "thead_open": "table.header(", "thead_close": "),",
    "table_close": ")\n\n", "th_open": "[#bold-text[", "th_close": "]],", "td_open": "[", "td_close": "],",
}  # fmt: skip
INLINE_PIECES = {
    "em_open": "#slanted-text[", "em_close": "];", "strong_open": "#bold-text[", "strong_close": "];",
    "hardbreak": "#linebreak();",
}  # fmt: skip
