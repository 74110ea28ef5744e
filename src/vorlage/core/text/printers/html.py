"""Texts as sanitised HTML, their maths as MathML."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

import nh3
from markdown_it.common.utils import escapeHtml
from markdown_it.renderer import RendererHTML
from markdown_it.token import Token

from ...notation import Node, Style, mathml
from ..reading import FIGURE_SIGN, PARSER, QuestionText
from .base import TextPrinter, filled

MATHML = [
    "math",
    "mrow",
    "mi",
    "mn",
    "mo",
    "mtext",
    "msup",
    "msub",
    "msubsup",
    "mfrac",
    "msqrt",
    "mroot",
    "mtable",
    "mtr",
    "mtd",
    "mspace",
    "munder",
    "munderover",
]
TAGS = [
    "p",
    "em",
    "strong",
    "ul",
    "ol",
    "li",
    "table",
    "thead",
    "tbody",
    "tr",
    "th",
    "td",
    "br",
    "hr",
    "code",
    "pre",
    "blockquote",
    "h1",
    "h2",
    "h3",
    "h4",
    "span",
]
ATTRIBUTES = {
    "math": {"display", "aria-label"},
    "mi": {"mathvariant"},
    "mo": {"form", "stretchy"},
    "mrow": {"class"},
    "span": {"class"},
    "ol": {"start"},
    "td": {"class"},
    "mtd": {"class"},
    "mspace": {"width"},
    "mfrac": {"linethickness"},
    "th": {"class"},
}


# A unit that is kept together with the formula before it.
TOGETHER = re.compile(r"[\N{WORD JOINER}\N{NO-BREAK SPACE}][^\s,;:.?!)]*")


def beside(tokens: Sequence[Token], index: int) -> bool:
    """Whether a formula in a line has to stay together with the text after it."""
    after = tokens[index + 1] if index + 1 < len(tokens) else None
    inside = tokens[index].type == "math_inline" and after is not None and after.type == "text"
    return inside and after is not None and TOGETHER.match(after.content) is not None


class Renderer(RendererHTML):
    """The parser's own renderer, with maths shown by ``env["show"]`` and figures kept for later."""

    def math_inline(self, tokens: Sequence[Token], index: int, options: object, env: dict[str, object]) -> str:
        show: Callable[[str, bool], str] = env["show"]  # type: ignore[assignment]
        token = tokens[index]
        shown = show(token.content.strip(), token.type == "math_block")
        # what stands in a span of its own is not broken from what follows, as a formula would be
        return f'<span class="whole">{shown}' if beside(tokens, index) else shown

    math_block = math_inline

    def text(self, tokens: Sequence[Token], index: int, options: object, env: object) -> str:
        written = escapeHtml(tokens[index].content)
        found = TOGETHER.match(written) if index and beside(tokens, index - 1) else None
        return f"{found[0]}</span>{written[found.end() :]}" if found else written

    def image(self, tokens: Sequence[Token], index: int, options: object, env: object) -> str:
        return FIGURE_SIGN


class HtmlPrinter(TextPrinter):
    name = "html"
    renderer = Renderer()

    def text(
        self,
        text: QuestionText,
        show: Callable[[Node, bool], str],
        gaps: Sequence[str] = (),
        figures: Sequence[str] = (),
        inline: bool = False,
    ) -> str:
        def span(content: str, block: bool) -> str:
            tree = text.trees.get(content)
            return f'<span class="unread">{nh3.clean_text(content)}</span>' if tree is None else show(tree, block)

        tokens = [token for token in text.tokens if token.type == "inline"] if inline else text.tokens
        rendered = str(self.renderer.render(tokens, PARSER.options, {"show": span}))
        cleaned: str = nh3.clean(rendered, tags={*MATHML, *TAGS}, attributes=ATTRIBUTES, link_rel=None)
        return filled(filled(cleaned, gaps, '<span class="blank"></span>'), figures, "", FIGURE_SIGN)

    def maths(self, tree: Node, style: Style, block: bool) -> str:
        return mathml(tree, style, block)

    def gap(self, number: int, offered: Sequence[tuple[str, str]]) -> str:
        inside = " ".join(f"<b>{letter}</b> {written}" for letter, written in offered)
        kind = "blank is-choice" if inside else "blank"
        return f'<span class="{kind}"><small>{number}</small>{inside}</span>'

    def picture(self, draw: Callable[[str], str], says: str, number: int = 0) -> str:
        drawn = draw(says)
        return f'<span class="numbered">{drawn}<small>Figure {number}</small></span>' if number and drawn else drawn


HTML = HtmlPrinter()
