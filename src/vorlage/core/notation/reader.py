"""Reading line maths: text in, tree out, or an error that says where and what would help."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import replace
from fractions import Fraction

from ..budget import charge
from .errors import NotationError
from .lexer import ROOTS, SIMPLE_NUMBER, VULGAR, Lexer, Token
from .printers.base import Style
from .printers.line import LinePrinter
from .settings import MAXIMUM_DEPTH, PLAIN, Settings
from .tree import (
    Call,
    Chemical,
    Collection,
    Constant,
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
    names_in,
)
from .vocabulary import BRACKETED, INVERSES

# What was read in one way and could be meant in another, while somebody asks for it.
NOTES: ContextVar[list[str] | None] = ContextVar("notes", default=None)
ANGULAR = frozenset("sin cos tan sec csc cot".split())
RELATIONS = frozenset(["=", "<", ">", "≤", "≥", "≠", "≈"])
# How many arguments a function takes, where it is not one.
ARITIES = {
    "root": (2, 2), "min": (1, 50), "max": (1, 50), "gcd": (2, 50), "lcm": (2, 50), "mod": (2, 2),
    "binomial": (2, 2), "choose": (2, 2), "round": (1, 2), "log": (1, 2), "diff": (2, 3), "integral": (2, 4),
    "sum": (4, 4), "product": (4, 4), "limit": (3, 3), "solve": (2, 2), "substitute": (3, 3), "mean": (1, 200),
    "median": (1, 200), "stdev": (1, 200), "variance": (1, 200), "sample_stdev": (1, 200),
    "sample_variance": (1, 200), "total": (1, 200), "count": (1, 200), "quantile": (2, 2), "item": (2, 2),
    "normal_cdf": (1, 4), "binomial_pmf": (3, 3), "if": (3, 3), "vec": (1, 20), "list": (0, 400), "matrix": (1, 400),
}  # fmt: skip


@contextmanager
def noted() -> Iterator[list[str]]:
    """Collect what is said about lines read inside that could be meant otherwise.

    >>> with noted() as notes:
    ...     tree = read("cos x/2")
    >>> notes
    ['This was read as cos(x)/2. If you mean cos(x/2), write it with brackets.']
    """
    notes: list[str] = []
    token = NOTES.set(notes)
    try:
        yield notes
    finally:
        NOTES.reset(token)


# What reading takes, in steps.
STEPS_OF_READING, STEPS_A_CHARACTER = 10, 8


def read(text: str, settings: Settings = PLAIN) -> Node:
    """The tree of one line of maths.

    Raises ``NotationError``, and nothing else, when the line cannot be read.

    >>> from vorlage.core.notation import line
    >>> line(read("2x² − 3x"))
    '2 x^2 - 3 x'
    """
    charge(STEPS_OF_READING + STEPS_A_CHARACTER * len(text))
    simple = SIMPLE_NUMBER.match(text)
    if simple and settings.decimal_mark == "point":
        decimals = simple[3] or ""
        number = Number(Fraction(int(simple[2] + decimals), 10 ** len(decimals)), len(decimals))
        return Neg(number) if simple[1] else number
    if text.lstrip().startswith("chem:"):
        return read_chemical(text.lstrip().removeprefix("chem:").strip())
    lexer = Lexer(text, settings)
    try:
        return Reader(lexer.run(), settings).whole()
    except NotationError as problem:
        raise lexer.located(problem) from None


CHEMICAL = re.compile(
    r"(?P<state>\((?:aq|s|l|g)\))|(?P<arrow><=>|->)|(?P<charge>\^\{?\d*[+-]\}?)|(?P<raised>\^\{?\d+\}?)"
    r"|(?P<lowered>_\{?\d+\}?)|(?P<count>(?<=[A-Za-z\)\]])\d+)|(?P<number>\d+)|(?P<symbol>[A-Z][a-z]?|[a-z])"
    r"|(?P<dot>[·.*])|(?P<plus>\+)|(?P<bracket>[()\[\]])|(?P<space> +)"
)


CHEMICAL_SIGNS = str.maketrans({
    **dict(zip("₀₁₂₃₄₅₆₇₈₉", "0123456789")), "→": "->", "⟶": "->", "⇌": "<=>", "−": "-", "⁺": "^+", "⁻": "^-",
})  # fmt: skip


def read_chemical(text: str) -> Chemical:
    """The pieces of a chemical formula or equation, for showing.

    >>> read_chemical("SO4^2-").pieces
    (('plain', 'SO'), ('sub', '4'), ('super', '2−'))
    """
    text = text.translate(CHEMICAL_SIGNS)
    pieces: list[tuple[str, str]] = []
    place = 0
    while place < len(text):
        found = CHEMICAL.match(text, place)
        if not found:
            raise NotationError("chemical", f"“{text[place]}” does not belong in a chemical formula.", place)
        kind, piece = found.lastgroup or "", found[0]
        if kind in {"charge", "raised"}:
            style, shown = "super", piece.strip("^{}").replace("-", "−")
        elif kind in {"count", "lowered"}:
            style, shown = "sub", piece.strip("_{}")
        else:
            style = "plain"
            shown = {"->": "→", "<=>": "⇌", ".": "·", "*": "·"}.get(piece, piece)
        if pieces and pieces[-1][0] == style == "plain":
            pieces[-1] = (style, pieces[-1][1] + shown)
        else:
            pieces.append((style, shown))
        place = found.end()
    if not pieces:
        raise NotationError("empty", "Nothing is written here yet.", 0)
    return Chemical(tuple(pieces))


class Reader:
    """A recursive descent over the tokens, loosest operator first."""

    def __init__(self, tokens: list[Token], settings: Settings) -> None:
        self.tokens = tokens
        self.settings = settings
        self.position = 0
        self.depth = 0
        # how many absolute-value bars stand open at the present bracket level
        self.bars = 0
        # inside a side-by-side argument: the next function name ends it
        self.argument = 0
        # the function whose side-by-side argument is being read
        self.function = ""
        # the sign that closed the bracket read last
        self.closing_sign = ""

    # moving about

    @property
    def token(self) -> Token:
        return self.tokens[self.position]

    def sees(self, *signs: str) -> bool:
        token = self.token
        return token.kind == "sign" and token.text in signs

    def take(self) -> Token:
        token = self.tokens[self.position]
        self.position += 1
        return token

    def expect(self, sign: str, opened: Token) -> None:
        if self.sees(sign):
            self.take()
            return
        if self.token.kind == "end":
            raise NotationError("bracket", f"“{opened.text}” opens here and never closes: add “{sign}”.", opened.place)
        raise NotationError("bracket", f"“{sign}” is missing before “{self.token.text}”.", self.token.place)

    def whole(self) -> Node:
        if self.token.kind == "end":
            raise NotationError("empty", "Nothing is written here yet.", 0)
        tree = self.statement()
        if self.settings.lists and self.sees(",", ";"):
            items = [tree]
            while self.sees(",", ";"):
                self.take()
                items.append(self.statement())
            tree = Collection("list", tuple(items))
        if self.token.kind != "end":
            raise self.leftover()
        return tree

    def leftover(self) -> NotationError:
        token = self.token
        if token.text in {")", "]", "}"}:
            return NotationError("bracket", f"“{token.text}” closes a bracket that was never opened.", token.place)
        if token.text == ",":
            if self.settings.decimal_mark == "point":
                return NotationError("comma", "A comma stands here: decimals are written with a point.", token.place)
            return NotationError("comma", "A comma stands here without digits after it.", token.place)
        if token.text == ":":
            return NotationError("colon", "“:” is not read here: a division is written with /.", token.place)
        return NotationError("unexpected", f"“{token.text}” cannot stand here.", token.place, max(1, len(token.text)))

    def descend(self) -> None:
        self.depth += 1
        if self.depth > MAXIMUM_DEPTH:
            raise NotationError("too_deep", "There are too many brackets inside brackets here.", self.token.place)

    # statements

    def statement(self) -> Node:
        return self.joined("or", self.conjunction)

    def conjunction(self) -> Node:
        return self.joined("and", self.relation)

    def joined(self, word: str, inner: Callable[[], Node]) -> Node:
        terms = [inner()]
        while self.token.kind == "word" and self.token.text == word:
            self.take()
            terms.append(inner())
        return terms[0] if len(terms) == 1 else Logic(word, tuple(terms))

    def relation(self) -> Node:
        terms, signs = [self.plus_minus()], []
        while self.sees(*RELATIONS) or (self.token.text == "in" and self.token.kind in {"word", "sign"}):
            signs.append(self.take().text)
            terms.append(self.plus_minus())
        return Relation(tuple(terms), tuple(signs)) if signs else terms[0]

    def plus_minus(self) -> Node:
        if self.sees("±"):
            self.take()
            left: Node = PlusMinus(None, self.sum())
        else:
            left = self.sum()
        while self.sees("±"):
            self.take()
            left = PlusMinus(left, self.sum())
        return left

    # arithmetic

    def sum(self) -> Node:
        terms = [self.term()]
        while self.sees("+", "-"):
            minus = self.take().text == "-"
            term = self.term()
            terms.append(Neg(term) if minus else term)
        return terms[0] if len(terms) == 1 else Sum(tuple(terms))

    def term(self) -> Node:
        if self.sees("-"):
            self.descend()
            self.take()
            inner = self.term()
            self.depth -= 1
            return Neg(inner)
        if self.sees("+"):
            self.take()
            return self.term()
        factors, signs = [self.power()], list[str]()
        while True:
            if self.argument and self.sees("*", "/") and self.tokens[self.position + 1].kind == "function":
                return product(factors, signs)
            if self.argument and self.sees("/") and not self.keeps_denominator(factors):
                self.note_slash(product(factors, signs))
                return product(factors, signs)
            if self.sees("*"):
                self.take()
                factors.append(self.signed_factor())
                signs.append("*")
            elif self.sees("/"):
                self.take()
                factors = [Quotient(product(factors, signs), self.signed_factor())]
                signs = []
            elif self.token.kind == "function" and self.token.text == "mod" and not self.calls_with_two():
                self.take()
                factors = [Call("mod", (product(factors, signs), self.signed_factor()))]
                signs = []
            elif self.starts_factor():
                self.check_neighbours(factors[-1])
                if self.argument:
                    self.note_factor(product(factors, signs))
                # a number after a bracket is a product that is written with a sign
                signs.append("*" if self.token.kind == "number" else "")
                factors.append(self.power())
            else:
                return product(factors, signs)

    def calls_with_two(self) -> bool:
        """Whether the function here is called with two values in brackets: ``r mod 7`` is written between."""
        depth = 0
        for token in self.tokens[self.position + 1 :]:
            if token.kind != "sign":
                if depth == 0:
                    return False
                continue
            depth += (token.text in {"(", "[", "{"}) - (token.text in {")", "]", "}"})
            if depth <= 0:
                return False
            if depth == 1 and token.text in {",", ";"}:
                return True
        return False

    def signed_factor(self) -> Node:
        """A factor after ``*`` or ``/``, which may carry a sign of its own."""
        if self.sees("-"):
            self.descend()
            self.take()
            inner = self.signed_factor()
            self.depth -= 1
            return Neg(inner)
        if self.sees("+"):
            self.take()
            return self.signed_factor()
        return self.power()

    def starts_factor(self) -> bool:
        token = self.token
        if token.kind == "function":
            return self.argument == 0
        if token.kind in {"number", "name", "constant", "vulgar", "text", "tex"}:
            return True
        return token.kind == "sign" and (token.text in {"(", "{", *ROOTS} or (token.text == "|" and self.bars == 0))

    def keeps_denominator(self, factors: list[Node]) -> bool:
        """Whether an argument without brackets goes on after the slash: an angle that is a multiple of π does."""
        names = [factor for factor in factors if not isinstance(factor, Number)]
        return (
            self.function in ANGULAR and names == [Constant("pi")] and self.tokens[self.position + 1].kind == "number"
        )

    def note_slash(self, argument: Node) -> None:
        """``cos x/2`` could be meant as cos(x/2): said where nothing but brackets could tell."""
        slash, following = self.token, self.tokens[self.position + 1]
        if (
            not names_in(argument)
            or following.kind not in {"number", "name", "constant"}
            or following.spaced
            or slash.spaced
        ):
            return
        inside, below = LinePrinter(Style()).show(argument), following.text
        self.note(f"{self.function}({inside})/{below}", f"{self.function}({inside}/{below})")

    def note_factor(self, argument: Node) -> None:
        """``ln x y`` could be meant as y·ln x."""
        if self.token.spaced and self.token.kind in {"name", "constant"} and names_in(argument):
            inside, beside = LinePrinter(Style()).show(argument), self.token.text
            self.note(f"{self.function}({inside} {beside})", f"{self.function}({inside}) {beside}")

    def note(self, meant: str, otherwise: str) -> None:
        notes = NOTES.get()
        if notes is not None:
            notes.append(f"This was read as {meant}. If you mean {otherwise}, write it with brackets.")

    def check_neighbours(self, before: Node) -> None:
        """Two numbers side by side are never a product: nobody can say which was meant."""
        token = self.token
        if token.kind != "number":
            return
        if isinstance(before, Power) and token.spaced and self.tokens[self.position - 1].kind in {"name", "constant"}:
            # 2^x 3^x
            return
        last = self.tokens[self.position - 1]
        if last.kind in {"number", "vulgar"} or (last.kind == "sign" and last.text in {"!", "%", "°"}):
            raise NotationError(
                "two_numbers",
                f"Two numbers side by side: did you mean {last.text}*{token.text}?",
                token.place,
                len(token.text),
            )
        if word := self.unknown_word():
            raise NotationError(
                "unknown_word",
                f"The word “{word}” cannot be read here: write the answer in figures, letters and signs.",
                last.place + len(last.text) - len(word),
                len(word),
            )
        if last.kind in {"name", "constant"}:
            raise NotationError(
                "number_after_letter",
                f"A number stands after a letter: did you mean {last.text}*{token.text} or {last.text}^{token.text}?",
                token.place,
                len(token.text),
            )

    def unknown_word(self) -> str:
        """The letters just before that were typed as one word of three letters and more."""
        word = ""
        for token in reversed(self.tokens[: self.position]):
            if token.kind not in {"name", "constant"} or not token.text.isalpha():
                break
            word = token.text + word
            if token.spaced:
                break
        return word if len(word) > 2 else ""

    def power(self) -> Node:
        base = self.postfix()
        if not self.sees("^"):
            return base
        self.descend()
        self.take()
        exponent = self.exponent()
        self.depth -= 1
        return Power(base, exponent)

    def exponent(self) -> Node:
        if self.sees("-"):
            self.take()
            return Neg(self.exponent())
        if self.sees("+"):
            self.take()
            return self.exponent()
        if self.sees("{"):
            return self.power_of_group()
        return self.power()

    def power_of_group(self) -> Node:
        inner = self.group()
        if self.sees("^"):
            self.take()
            return Power(inner, self.exponent())
        return inner

    def group(self) -> Node:
        """``{…}`` as TeX uses it: brackets that are not shown."""
        opened = self.take()
        self.descend()
        bars, self.bars = self.bars, 0
        argument, self.argument = self.argument, 0
        inner = self.statement()
        self.bars, self.argument = bars, argument
        self.expect("}", opened)
        self.depth -= 1
        return inner

    def postfix(self) -> Node:
        node = self.primary()
        while True:
            token = self.token
            if token.kind == "superscript":
                self.take()
                node = Power(node, raised(token.text))
            elif token.kind == "unit":
                self.take()
                node = Quantity(node, token.text)
            elif self.sees("!", "%", "°"):
                node = Postfix(self.take().text, node)
            else:
                return node

    # the smallest pieces

    def primary(self) -> Node:
        token = self.token
        method = getattr(self, f"read_{token.kind}", None)
        if method is None:
            raise self.missing(token)
        node: Node = method()
        return node

    def missing(self, token: Token) -> NotationError:
        if token.kind == "end":
            last = self.tokens[self.position - 1] if self.position else token
            return NotationError(
                "missing", f"Something is missing after “{last.text}”.", last.place, max(1, len(last.text))
            )
        return NotationError("unexpected", f"“{token.text}” cannot stand here.", token.place, max(1, len(token.text)))

    def read_number(self) -> Node:
        token = self.take()
        assert token.number is not None
        if token.number.form == "integer":
            return self.mixed(token.number) or token.number
        return token.number

    def mixed(self, whole: Number) -> Mixed | None:
        following = self.tokens[self.position : self.position + 7]
        if following[0].text == "frac" and following[0].kind == "tex":
            return self.mixed_in_tex(whole, following)
        if following[0].kind == "vulgar":
            self.take()
            numerator, denominator = VULGAR[following[0].text]
            return Mixed(whole, Number(Fraction(numerator)), Number(Fraction(denominator)))
        if len(following) < 4 or not following[0].spaced or following[1].text != "/":
            return None
        top, bottom, after = following[0].number, following[2].number, following[3]
        if not top or not bottom or top.form != "integer" or bottom.form != "integer" or after.text == "^":
            return None
        self.position += 3
        return Mixed(whole, top, bottom)

    def mixed_in_tex(self, whole: Number, following: list[Token]) -> Mixed | None:
        """``2\\frac{1}{2}`` is two and a half, as every schoolbook sets it; so is ``2\\frac12``."""
        braced = len(following) >= 7 and [following[k].text for k in (1, 3, 4, 6)] == ["{", "}", "{", "}"]
        if not braced and len(following) < 3:
            return None
        places = (2, 5, 7) if braced else (1, 2, 3)
        top, bottom = following[places[0]].number, following[places[1]].number
        if not top or not bottom or top.form != "integer" or bottom.form != "integer":
            return None
        self.position += places[2]
        return Mixed(whole, top, bottom)

    def read_vulgar(self) -> Node:
        numerator, denominator = VULGAR[self.take().text]
        return Quotient(Number(Fraction(numerator)), Number(Fraction(denominator)))

    def read_name(self) -> Node:
        return Name(self.take().text)

    def read_constant(self) -> Node:
        return Constant(self.take().text)

    def read_text(self) -> Node:
        return Text(self.take().text)

    def read_tex(self) -> Node:
        token = self.take()
        if token.text == "sqrt" and self.sees("["):
            opened = self.take()
            index = self.sum()
            self.expect("]", opened)
            return Call("root", (index, self.tex_argument(token)))
        if token.text == "sqrt":
            return Call("sqrt", (self.tex_argument(token),))
        if token.text == "frac":
            return Quotient(self.tex_argument(token), self.tex_argument(token))
        if token.text == "binomial":
            return Call("binomial", (self.tex_argument(token), self.tex_argument(token)))
        self.descend()
        if token.text.startswith("integral"):
            call = self.tex_integral(token)
        elif token.text == "derivative":
            call = self.tex_derivative()
        else:
            call = self.tex_running(token)
        self.depth -= 1
        return call

    def tex_integral(self, token: Token) -> Node:
        """The integrand up to its d, and the letter after it."""
        bounds = (self.group(), self.group()) if token.text == "integral from" else ()
        closing = self.differential()
        if closing is None:
            raise NotationError("tex", "The integral needs its letter at the end, such as dx.", token.place, 4)
        # from here on the d is the end of the integrand and no factor
        self.tokens[closing] = replace(self.tokens[closing], kind="differential")
        argument, self.argument = self.argument, 0
        integrand = Number(Fraction(1)) if self.position == closing else self.sum()
        self.argument = argument
        if self.position != closing:
            raise self.leftover()
        self.take()
        return Call("integral", (integrand, Name(self.take().text), *bounds))

    def differential(self) -> int | None:
        """Where the d of this integral stands: outside brackets, past those of the integrals within."""
        depth = within = 0
        for place in range(self.position, len(self.tokens) - 1):
            token = self.tokens[place]
            if token.kind == "sign" and token.text in {"(", "[", "{"}:
                depth += 1
            elif token.kind == "sign" and token.text in {")", "]", "}"}:
                depth -= 1
                if depth < 0:
                    return None
            elif depth == 0 and token.kind == "tex" and token.text.startswith("integral"):
                within += 1
            elif depth == 0 and token.text == "d" and token.kind == "name" and self.tokens[place + 1].kind == "name":
                if not within:
                    return place
                within -= 1
        return None

    def tex_derivative(self) -> Node:
        """``\\frac{d}{dx}`` with the term that follows."""
        letter, times = self.group(), self.group()
        body = self.term()
        return Call("diff", (body, letter) if times == Number(Fraction(1)) else (body, letter, times))

    def tex_running(self, token: Token) -> Node:
        """A sum, a product or a limit: its letter, its bounds, and the term that follows."""
        first, second = self.group(), self.group()
        if token.text == "limit":
            letter, low = first, second
        elif isinstance(first, Relation) and first.signs == ("=",):
            letter, low = first.terms
        else:
            raise NotationError("tex", "Below the sign stands a letter with its first value, such as k=1.", token.place)
        if not isinstance(letter, Name):
            raise NotationError("tex", "Below the sign stands a letter, such as k=1 or x \\to 0.", token.place)
        body = self.term()
        return Call(token.text, (body, letter, low) if token.text == "limit" else (body, letter, low, second))

    def tex_argument(self, command: Token) -> Node:
        if self.sees("{"):
            return self.group()
        number = self.token.number
        if number is not None and len(self.token.text) == 1:
            return self.read_number()
        raise NotationError("tex", f"\\{command.text} needs its parts in braces: {{…}}.", command.place)

    def read_sign(self) -> Node:
        token = self.token
        if token.text == "(":
            return self.parenthesis()
        if token.text == "[":
            return self.square()
        if token.text == "{":
            return Collection("set", self.items("}"))
        if token.text == "|":
            return self.bars_around()
        if token.text == "∅":
            self.take()
            return Collection("set", ())
        if token.text in ROOTS:
            self.take()
            if token.text == "√":
                return Call("sqrt", (self.postfix(),))
            return Call("root", (Number(Fraction(ROOTS[token.text])), self.postfix()))
        raise self.missing(token)

    def items(self, closing: str) -> tuple[Node, ...]:
        opened = self.take()
        self.descend()
        bars, self.bars = self.bars, 0
        argument, self.argument = self.argument, 0
        items: list[Node] = []
        if not self.sees(closing):
            items.append(self.statement())
            while self.sees(",", ";"):
                self.take()
                items.append(self.statement())
        self.bars, self.argument = bars, argument
        self.depth -= 1
        self.closing_sign = self.token.text
        if closing == ")" and opened.text in {"(", "["} and self.sees("]", ")"):
            self.take()
        else:
            self.expect(closing, opened)
        return tuple(items)

    def parenthesis(self) -> Node:
        opened = self.token
        items = self.items(")")
        if self.closing_sign == "]":
            return self.interval(opened, items, False, True)
        if not items:
            raise NotationError("empty_bracket", "There is nothing between these brackets.", opened.place, 2)
        return items[0] if len(items) == 1 else Collection("point", items)

    def square(self) -> Node:
        opened = self.token
        items = self.items(")")
        return self.interval(opened, items, True, self.closing_sign == "]")

    def interval(self, opened: Token, items: tuple[Node, ...], low: bool, high: bool) -> Node:
        if len(items) != 2:
            raise NotationError("interval", "An interval has two ends, such as [1, 3).", opened.place)
        return Interval(items[0], items[1], low, high)

    def bars_around(self) -> Node:
        opened = self.take()
        self.descend()
        argument, self.argument = self.argument, 0
        self.bars += 1
        inner = self.sum()
        self.bars -= 1
        self.argument = argument
        self.expect("|", opened)
        self.depth -= 1
        return Call("abs", (inner,))

    # functions

    def read_function(self) -> Node:
        token = self.take()
        name = token.text
        raised_by: Node | None = None
        base = self.log_base(token)
        if self.sees("^"):
            self.take()
            raised_by = self.exponent()
        elif self.token.kind == "superscript":
            raised_by = raised(self.take().text)
        if raised_by == Neg(Number(Fraction(1))) and name in INVERSES:
            name, raised_by = INVERSES[name], None
        arguments = self.arguments(token, name)
        if base is not None:
            arguments = (*arguments, base)
        call = structure(name, arguments, token)
        return Power(call, raised_by) if raised_by is not None else call

    def log_base(self, token: Token) -> Node | None:
        """The base of ``log_2 8``, which the lexer leaves beside the function's name."""
        following = self.token
        if token.text != "log" or following.kind != "subscript":
            return None
        self.take()
        if following.number is not None:
            return following.number
        return Constant("e") if following.text == "e" else Name(following.text)

    def arguments(self, token: Token, name: str) -> tuple[Node, ...]:
        if self.sees("("):
            if name == "matrix":
                return self.matrix_rows()
            arguments = self.items(")")
            if self.closing_sign == "]":
                raise NotationError("bracket", "This bracket is closed by another kind.", token.place)
            return arguments
        if self.sees("{") and name not in BRACKETED:
            return (self.group(),)
        if name in BRACKETED:
            raise NotationError("arguments", f"{name} needs brackets: {name}(…).", token.place, max(1, len(token.text)))
        return (self.side_by_side(token),)

    def side_by_side(self, token: Token) -> Node:
        """The argument of a function without brackets: up to the next + - , ) relation or function."""
        if not (self.starts_factor() or self.token.kind == "function" or self.sees("-")):
            raise NotationError(
                "arguments",
                f"{token.text} stands without what it is taken of.",
                token.place,
                max(1, len(token.text)),
            )
        self.descend()
        if self.token.kind == "function":
            inner = self.power()
        else:
            self.argument += 1
            outer, self.function = self.function, token.text
            inner = self.term()
            self.argument -= 1
            self.function = outer
        self.depth -= 1
        return inner

    def matrix_rows(self) -> tuple[Node, ...]:
        opened = self.take()
        rows: list[tuple[Node, ...]] = []
        row: list[Node] = []
        while True:
            row.append(self.statement())
            if self.sees(","):
                self.take()
                continue
            rows.append(tuple(row))
            row = []
            if self.sees(";"):
                self.take()
                continue
            break
        self.expect(")", opened)
        if len({len(cells) for cells in rows}) != 1:
            raise NotationError("matrix", "Every row of a matrix needs the same number of entries.", opened.place)
        self.closing_sign = ")"
        return (Matrix(tuple(rows)),)


def product(factors: list[Node], signs: list[str]) -> Node:
    return factors[0] if len(factors) == 1 else Product(tuple(factors), tuple(signs))


def raised(text: str) -> Node:
    """The exponent that superscript characters spell."""
    digits = text.lstrip("+-")
    node: Node = Name("n") if digits == "n" else Number(Fraction(int(digits)))
    return Neg(node) if text.startswith("-") else node


def structure(name: str, arguments: tuple[Node, ...], token: Token) -> Node:
    """A call, or the structure that is written like one; wrong numbers of arguments are named."""
    if name == "matrix":
        return arguments[0]
    low, high = ARITIES.get(name, (1, 1))
    if not low <= len(arguments) <= high:
        wanted = f"{low}" if low == high else f"{low} to {high}"
        raise NotationError(
            "arguments",
            f"{name} takes {wanted} value{'s' if wanted != '1' else ''}, not {len(arguments)}.",
            token.place,
            max(1, len(token.text)),
        )
    if name == "vec":
        return Collection("vector", arguments)
    if name == "list":
        return Collection("list", arguments)
    return Call(name, arguments)
