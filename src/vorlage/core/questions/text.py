"""Question text: the safe part of CommonMark with maths spans, for the web and for print.

The text is cut into tokens once; a draw's values enter the maths spans when it is shown.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import nh3
from markdown_it import MarkdownIt
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token
from mdit_py_plugins.dollarmath import dollarmath_plugin

from ..notation import AUTHOR_FUNCTIONS, Call, Node, NotationError, Settings, quoted, read, walk

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
HTML = [
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


def make_parser() -> MarkdownIt:
    parser = MarkdownIt("commonmark", {"html": False})
    parser.enable("table")
    parser.disable(["link", "autolink", "html_inline", "html_block", "reference", "code"])
    parser.use(dollarmath_plugin, allow_space=False, allow_digits=False, allow_labels=False, double_inline=False)
    parser.inline.ruler.at("math_inline", maths_span)
    parser.add_render_rule("math_inline", render_maths)
    parser.add_render_rule("math_block", render_maths)
    parser.add_render_rule("image", render_figure)
    return parser


def maths_span(state: StateInline, silent: bool) -> bool:
    """``$…$``: a sign that opens stands before something, one that closes stands after something and before no
    figure, so that ``$5 and $6`` stay money. What opens and is never closed is noted in ``env["unclosed"]``.
    """
    source, start = state.src, state.pos
    if source[start] != "$":
        return False
    follows = source[start + 1 : start + 2]
    if not follows.strip() or follows == "$":
        if not silent and not source[:start].rstrip()[-1:].isdecimal() and SPACED.match(source, start):
            note_unclosed(state)
        return False
    end = source.find("$", start + 1)
    while end > 0 and source[end - 1] == "\\":
        end = source.find("$", end + 1)
    if end < 0 or source[end - 1].isspace() or source[end + 1 : end + 2].isdecimal():
        if not silent and re.match(r"[^\W\d_]|[\\({[−-]", follows):
            note_unclosed(state)
        return False
    if not silent:
        token = state.push("math_inline", "math", 0)
        token.content, token.markup = source[start + 1 : end], "$"
    state.pos = end + 1
    return True


def note_unclosed(state: StateInline) -> None:
    state.env.setdefault("unclosed", []).append(state.src[state.pos : state.pos + 30])


def render_maths(self: object, tokens: Sequence[Token], index: int, options: object, env: dict[str, object]) -> str:
    show: Callable[[str, bool], str] = env["show"]  # type: ignore[assignment]
    token = tokens[index]
    return show(token.content.strip(), token.type == "math_block")


def render_figure(self: object, tokens: Sequence[Token], index: int, options: object, env: dict[str, object]) -> str:
    return FIGURE_SIGN


PARSER = make_parser()
# A place for an answer inside the text, three low lines or more; a sign of its own while the text is parsed.
BLANK = re.compile(r"(?<![\w$])_{3,}(?![\w$])")
BLANK_SIGN = "\ue000"
# Where a figure stands in what has been written, until it is put in.
FIGURE_SIGN = "\ue001"
SPAN_SIGN = "\ue002"
# Nobody types these; whoever pastes one loses nothing that could be seen.
OUR_SIGNS = dict.fromkeys(map(ord, (BLANK_SIGN, FIGURE_SIGN, SPAN_SIGN)))
LONE_SPAN = re.compile(r"\s*\$(?:value\((?P<computed>.+)\)|(?P<plain>[^$]+))\$(?P<after>[^$]*)\Z")
# ``$ x $``: a sign that opens maths has no space after it
SPACED = re.compile(r"\$ +[^\s$][^$]{0,20}\$")
FIGURE, PICTURE = "figure:", "image:"
# What authors write to be worked out: no student reads it. A formula by cases is shown by its cases.
WORKED_OUT = AUTHOR_FUNCTIONS - frozenset(["if", "diff", "integral", "sum", "product", "limit"])
UNCLOSED = (
    "This `$` is shown as a dollar sign: maths stands between two of them, without spaces just inside, as in `$x$`; "
    "money is written `\\$`."
)


@dataclass(frozen=True, slots=True)
class TextProblem:
    """A maths span that cannot be used, and where in the text it stands."""

    code: str
    message: str
    place: int
    length: int
    about: str = ""


class QuestionText:
    """A text, cut up and its maths spans read, once."""

    def __init__(self, source: str, settings: Settings) -> None:
        self.source = source
        source = source.translate(OUR_SIGNS)
        env: dict[str, list[str]] = {}
        self.tokens = PARSER.parse(BLANK.sub(BLANK_SIGN, source), env)
        # how many answers have their place inside the text
        self.blanks = len(BLANK.findall(source))
        self.trees: dict[str, Node] = {}
        self.problems: list[TextProblem] = []
        # dollar signs that look as if they began maths
        self.doubts = [
            TextProblem("unclosed", UNCLOSED, max(0, source.find(left.partition(BLANK_SIGN)[0])), 1)
            for left in env.get("unclosed", [])
        ]
        # the figures and pictures in their order: ``figure:name``, and what is said that they show
        self.figures: list[tuple[str, Sequence[Token]]] = []
        for image in images(self.tokens):
            address = str(image.attrs.get("src", ""))
            place = max(0, source.find(address))
            if not address.startswith((FIGURE, PICTURE)):
                message = "Only what belongs to the question can be shown: `![what it shows](figure:name)`."
                self.problems.append(TextProblem("picture", message, place, len(address)))
            elif not image.content.strip():
                message = "Say between the square brackets what the figure shows, for those who cannot see it."
                self.problems.append(TextProblem("picture", message, place, len(address)))
            self.figures.append((address, image.children or []))
        search_from = 0
        for content in self.spans(self.tokens):
            place = max(0, source.find(content, search_from))
            search_from = place
            try:
                self.trees[content] = read(content, settings)
            except NotationError as problem:
                self.problems.append(TextProblem(problem.code, problem.message, place + problem.place, problem.length))

    def spans(self, tokens: Sequence[Token]) -> list[str]:
        found: list[str] = []
        for token in tokens:
            if token.type in {"math_inline", "math_block"}:
                found.append(token.content.strip())
            if token.children:
                found.extend(self.spans(token.children))
        return found

    @cached_property
    def to_be_worked_out(self) -> list[Call]:
        """Everything in the maths that only authors write."""
        nodes = (node for tree in self.trees.values() for node in walk(tree))
        return [node for node in nodes if isinstance(node, Call) and node.function in WORKED_OUT]

    @property
    def has_blank(self) -> bool:
        return self.blanks > 0

    def html(
        self,
        show: Callable[[Node, bool], str],
        gaps: Sequence[str] = (),
        inline: bool = False,
        figures: Sequence[str] = (),
    ) -> str:
        """Sanitised HTML; ``show`` turns a maths span's tree into markup.

        ``gaps`` is the markup that stands in the places for answers, ``figures`` that of the figures, in their
        order. ``inline`` leaves out the paragraphs around the text.
        """

        def span(content: str, block: bool) -> str:
            tree = self.trees.get(content)
            return f'<span class="unread">{nh3.clean_text(content)}</span>' if tree is None else show(tree, block)

        tokens = [token for token in self.tokens if token.type == "inline"] if inline else self.tokens
        rendered: str = PARSER.renderer.render(tokens, PARSER.options, {"show": span})
        cleaned: str = nh3.clean(rendered, tags={*MATHML, *HTML}, attributes=ATTRIBUTES, link_rel=None)
        return filled(filled(cleaned, gaps, '<span class="blank"></span>'), figures, "", FIGURE_SIGN)

    def typst(
        self,
        show: Callable[[Node, bool], str],
        gaps: Sequence[str] = (),
        inline: bool = False,
        figures: Sequence[str] = (),
    ) -> str:
        """Typst markup in which every piece of text is a quoted string."""
        markup, spans = self.inline_markup if inline else self.block_markup
        pieces = markup.split(SPAN_SIGN)
        written = pieces[0] + "".join(
            show(tree, block) + piece for (tree, block), piece in zip(spans, pieces[1:], strict=True)
        )
        return filled(filled(written, gaps, "#blank;"), figures, "", FIGURE_SIGN)

    @cached_property
    def block_markup(self) -> tuple[str, list[tuple[Node, bool]]]:
        """Typst markup with signs where maths goes, and the maths: the text is walked through once for all draws."""
        writer = TypstText(self)
        return writer.blocks(self.tokens), writer.spans

    @cached_property
    def inline_markup(self) -> tuple[str, list[tuple[Node, bool]]]:
        """As ``block_markup``, without paragraphs."""
        writer = TypstText(self)
        written = "".join(writer.inline(token.children or []) for token in self.tokens if token.type == "inline")
        return written, writer.spans

    def shows(self, place: int, speak: Callable[[Node], str]) -> str:
        """What is said that a figure shows, with its maths in words."""
        words = ""
        for token in self.figures[place][1]:
            tree = self.trees.get(token.content.strip()) if token.type == "math_inline" else None
            words += speak(tree) if tree is not None else token.content
        return " ".join(words.split())


def lone_span(source: str) -> tuple[str, str] | None:
    """The formula of a text that is one span of maths, and the words after it; None for other texts.

    >>> lone_span("$value(m*g)$ N"), lone_span("$x$"), lone_span("$a$ or $b$")
    (('m*g', 'N'), ('x', ''), None)
    """
    found = LONE_SPAN.match(source)
    return (found["computed"] or found["plain"], found["after"].strip()) if found else None


def images(tokens: Sequence[Token]) -> list[Token]:
    return [token for block in tokens for token in block.children or () if token.type == "image"]


def filled(markup: str, gaps: Sequence[str], otherwise: str, sign: str = BLANK_SIGN) -> str:
    """Markup with the places for answers, or for figures, filled in their order."""
    pieces = markup.split(sign)
    written = pieces[0]
    for k, piece in enumerate(pieces[1:]):
        written += (gaps[k] if k < len(gaps) else otherwise) + piece
    return written


def literal_text(text: str) -> str:
    pieces = text.split(BLANK_SIGN)
    return BLANK_SIGN.join(f"#{quoted(piece)};" if piece else "" for piece in pieces)


class TypstText:
    """Walks the tokens and writes Typst; nothing a person typed becomes markup."""

    def __init__(self, text: QuestionText) -> None:
        self.trees = text.trees
        # the maths, in the order of its signs
        self.spans: list[tuple[Node, bool]] = []

    def blocks(self, tokens: Sequence[Token]) -> str:
        written = ""
        columns = 0
        for k, token in enumerate(tokens):
            kind = token.type
            if kind == "inline":
                written += self.inline(token.children or [])
            elif kind == "math_block":
                written += self.maths(token, True) + "\n\n"
            elif kind == "fence":
                written += f"#raw({quoted(token.content)}, block: true)\n\n"
            elif kind == "hr":
                written += "#line(length: 100%, stroke: 0.4pt)\n\n"
            elif kind == "table_open":
                columns = self.count_columns(tokens[k:])
                written += f"#table(columns: {columns}, stroke: 0.4pt,\n"
            else:
                written += PIECES.get(kind, "")
        return written

    def count_columns(self, tokens: Sequence[Token]) -> int:
        columns = 0
        for token in tokens:
            if token.type == "th_open":
                columns += 1
            if token.type == "thead_close":
                break
        return max(1, columns)

    def inline(self, tokens: Sequence[Token]) -> str:
        written = ""
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
    "paragraph_open": "#block[", "paragraph_close": "]\n\n",
    "heading_open": "#block[#strong[", "heading_close": "]]\n\n",
    "bullet_list_open": "#list(", "bullet_list_close": ")\n\n",
    "ordered_list_open": "#enum(", "ordered_list_close": ")\n\n",
    "list_item_open": "[", "list_item_close": "], ",
    "blockquote_open": "#pad(left: 1em)[", "blockquote_close": "]\n\n",
    "table_close": ")\n\n", "th_open": "[#strong[", "th_close": "]],", "td_open": "[", "td_close": "],",
}  # fmt: skip
INLINE_PIECES = {
    "em_open": "#emph[", "em_close": "];", "strong_open": "#strong[", "strong_close": "];",
    "hardbreak": "#linebreak();",
}  # fmt: skip
