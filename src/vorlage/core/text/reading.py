"""A text is cut into tokens and its maths read once; a draw's values enter the maths spans when it is written."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

from markdown_it import MarkdownIt
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token
from mdit_py_plugins.dollarmath import dollarmath_plugin

from ..budget import charge
from ..memory import Memory
from ..notation import AUTHOR_FUNCTIONS, Call, Node, NotationError, Settings, read_authored, walk


def make_parser() -> MarkdownIt:
    parser = MarkdownIt("commonmark", {"html": False})
    parser.enable("table")
    parser.disable(["link", "autolink", "html_inline", "html_block", "reference", "code"])
    parser.use(dollarmath_plugin, allow_space=False, allow_digits=False, allow_labels=False, double_inline=False)
    parser.inline.ruler.at("math_inline", maths_span)
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


PARSER = make_parser()
# A place for an answer inside the text, three low lines or more; a sign of its own while the text is parsed.
BLANK = re.compile(r"(?<![\w$])_{3,}(?![\w$])")
BLANK_SIGN = "\ue000"
# Where a figure stands in what has been written, until it is put in.
FIGURE_SIGN = "\ue001"
# Where maths goes in what is walked through once for all draws.
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


# What cutting up a text takes, in steps.
STEPS_OF_READING = 300
# So many figures and pictures are shown in one text.
MOST_FIGURES = 20


@dataclass(frozen=True, slots=True)
class TextProblem:
    """A maths span that cannot be used, and where in the text it stands."""

    code: str
    message: str
    place: int
    length: int
    about: str = ""
    instead: str = ""


# A number and the unit after it, of one sign, a few letters, or several of these with strokes and dots between.
SYMBOL = r"(?:°C|[%°Ω‰]|[µμ]?[A-Za-z]{1,3})[²³⁻¹]*(?:\^-?\d)?"
WITH_UNIT = re.compile(rf"(?<![\w.,])(\d[\d.,]*)[ \u00a0\u202f](?={SYMBOL}(?:[/·]{SYMBOL})*(?![\w]))")
OF_UNIT = re.compile(rf"(?<=\d\u202f)({SYMBOL}(?:[/·]{SYMBOL})+)")
BEHIND_SPAN = re.compile(rf"[ \u00a0\u202f](?={SYMBOL}(?:[/·]{SYMBOL})*(?![\w]))")
# Words of a few letters that follow numbers and are no units.
WORDS = re.compile(r"(?:a|an|and|are|as|at|be|by|do|for|if|in|is|it|no|not|of|on|or|per|so|the|to|up|was|we)\b")
# As they are typed, and set otherwise: the sign of a missing letter, and a dash between words.
APOSTROPHE = re.compile(r"(?<=[^\W\d_])'(?=[^\W\d_])")
DASH = re.compile(r"(?<=[^\W\d_])( )-( )(?=[^\W\d_])")
# Between a number and its unit, as in a formula.
JOINER, NARROW = "\N{WORD JOINER}", "\N{NARROW NO-BREAK SPACE}"


def keep_together(tokens: Sequence[Token]) -> None:
    """A number never stands on another line than its unit, nor does what is drawn, nor is a unit broken; signs that are
    typed for others are set as these."""
    for block in tokens:
        if block.type in ("th_open", "td_open"):
            # how a column is aligned, by a name in place of a style
            side = str(block.attrs.pop("style", "")).removeprefix("text-align:")
            block.attrs |= {"class": f"at-{side}"} if side in ("right", "center") else {}
        before: Token | None = None
        for token in block.children or ():
            if token.type == "text":
                text = DASH.sub(r"\1–\2", APOSTROPHE.sub("’", token.content))
                if before is not None and before.type == "math_inline":
                    if text[:1] in {"°", "%", "‰"}:
                        text = JOINER + text
                    elif BEHIND_SPAN.match(text) and not WORDS.match(text, 1):
                        text = NARROW + text[1:]
                text = WITH_UNIT.sub(
                    lambda found: found[0] if WORDS.match(found.string, found.end()) else f"{found[1]}{NARROW}",
                    text,
                )
                token.content = OF_UNIT.sub(lambda found: found[1].replace("/", f"/{JOINER}"), text)
            before = token


class QuestionText:
    """A text, cut up and its maths spans read, once."""

    def __init__(self, source: str, settings: Settings) -> None:
        self.source = source
        charge(STEPS_OF_READING + 2 * len(source))
        source = source.translate(OUR_SIGNS)
        env: dict[str, list[str]] = {}
        self.tokens = PARSER.parse(BLANK.sub(BLANK_SIGN, source), env)
        keep_together(self.tokens)
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
            if len(self.figures) == MOST_FIGURES:
                message = f"A text shows at most {MOST_FIGURES} figures and pictures."
                place = max(0, source.rfind(str(image.attrs.get("src", ""))))
                self.problems.append(TextProblem("too_many", message, place, 0))
                break
            address = str(image.attrs.get("src", ""))
            place = max(0, source.find(address))
            if not address.startswith((FIGURE, PICTURE)):
                message = "Only what belongs to the question can be shown: `![what it shows](figure:name)`."
                self.problems.append(TextProblem("picture", message, place, len(address)))
            elif not image.content.strip():
                message = "Say between the square brackets what the figure shows, for those who cannot see it."
                self.problems.append(TextProblem("picture", message, place, len(address)))
            self.figures.append((address, image.children or []))
        # what printers have made of the text for all draws, by their name and whether it stands in a line
        self.walked: dict[tuple[str, bool], tuple[str, list[tuple[Node, bool]]]] = {}
        search_from = 0
        for content in self.spans(self.tokens):
            place = max(0, source.find(content, search_from))
            search_from = place
            try:
                self.trees[content] = read_authored(content, settings)
            except NotationError as problem:
                where = place + problem.place
                self.problems.append(
                    TextProblem(problem.code, problem.message, where, problem.length, problem.about, problem.instead)
                )

    @property
    def is_line(self) -> bool:
        """Whether it is one paragraph of words and maths."""
        return [token.type for token in self.tokens] == [
            "paragraph_open",
            "inline",
            "paragraph_close",
        ] and not self.figures

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

    def shows(self, place: int, speak: Callable[[Node], str]) -> str:
        """What is said that a figure shows, with its maths in words."""
        words = ""
        for token in self.figures[place][1]:
            tree = self.trees.get(token.content.strip()) if token.type == "math_inline" else None
            words += speak(tree) if tree is not None else token.content
        return " ".join(words.split())


# The latest texts, by their characters: what is written stays as it is while something else is being typed.
TEXTS: Memory[tuple[str, Settings], QuestionText] = Memory(500_000)


def read_text(source: str, settings: Settings) -> QuestionText:
    """A text, cut up and its maths spans read; the same text is read once."""
    known = TEXTS.get((source, settings))
    if known is None:
        known = QuestionText(source, settings)
        TEXTS.keep((source, settings), known, len(source) + 50)
    return known


def lone_span(source: str) -> tuple[str, str] | None:
    """The formula of a text that is one span of maths, and the words after it; None for other texts.

    >>> lone_span("$value(m*g)$ N"), lone_span("$x$"), lone_span("$a$ or $b$")
    (('m*g', 'N'), ('x', ''), None)
    """
    found = LONE_SPAN.match(source)
    return (found["computed"] or found["plain"], found["after"].strip()) if found else None


def images(tokens: Sequence[Token]) -> list[Token]:
    return [token for block in tokens for token in block.children or () if token.type == "image"]
