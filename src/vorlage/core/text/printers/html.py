"""Texts as sanitised HTML, their maths as MathML."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import nh3
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
    "mo": {"form"},
    "mrow": {"class"},
    "span": {"class"},
    "ol": {"start"},
    "td": {"class"},
    "mtd": {"class"},
    "mspace": {"width"},
    "mfrac": {"linethickness"},
    "th": {"class"},
}


class Renderer(RendererHTML):
    """The parser's own renderer, with maths shown by ``env["show"]`` and figures kept for later."""

    def math_inline(self, tokens: Sequence[Token], index: int, options: object, env: dict[str, object]) -> str:
        show: Callable[[str, bool], str] = env["show"]  # type: ignore[assignment]
        token = tokens[index]
        return show(token.content.strip(), token.type == "math_block")

    math_block = math_inline

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

    def picture(self, draw: Callable[[str], str], says: str) -> str:
        return draw(says)


HTML = HtmlPrinter()
