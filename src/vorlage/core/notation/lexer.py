"""Cutting a line of maths into tokens, whatever keyboard it came from."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, replace
from fractions import Fraction

from .errors import NotationError
from .settings import MAXIMUM_DIGITS, MAXIMUM_EXPONENT, MAXIMUM_LENGTH, MAXIMUM_TOKENS, Settings
from .tex import Pasted
from .tree import Number
from .vocabulary import BRACKETED, CONSTANTS, FUNCTIONS, GREEK, SYNONYMS

GREEK_NAMES = {letter: name for name, letter in GREEK.items()} | {"ϕ": "phi", "ϵ": "epsilon", "ϑ": "theta"}

# The full-width signs of East Asian keyboards.
FULL_WIDTH = {chr(code + 0xFEE0): chr(code) for code in range(0x21, 0x7F)}
# signs of units that Unicode has beside the letters that they are
UNIT_SIGNS = {"\N{OHM SIGN}": "Ω", "\N{KELVIN SIGN}": "K", "\N{ANGSTROM SIGN}": "Å"}
# One character for another: what word processors, phones and other alphabets produce.
PLAIN_CHARACTERS = {
    "−": "-", "–": "-", "—": "-", "‐": "-", "‑": "-", "×": "*", "·": "*", "⋅": "*", "∙": "*", "•": "*",
    "∘": "°", "˚": "°",
    "÷": "/", "∕": "/", "⁄": "/", "≤": "≤", "⩽": "≤", "≥": "≥", "⩾": "≥", "≠": "≠", "≅": "≈",
    "“": '"', "”": '"', "„": '"', "’": "'", "‘": "'", "′": "'", "∣": "|", "∶": ":", "º": "°",
    "\t": " ", "\n": " ", "\r": " ", "µ": "μ", "∆": "Δ",
    "∗": "*", "ℓ": "l", "\u3000": " ", "≦": "≤", "≧": "≥",
    **FULL_WIDTH, **UNIT_SIGNS,
}  # fmt: skip
# What has no width and means nothing: joiners, marks of direction, soft hyphens, variation selectors.
INVISIBLE = re.compile(
    "[\u00ad\u034f\u061c\u180e\u200b-\u200f\u202a-\u202e\u2060-\u2064\u2066-\u206f\ufe00-\ufe0f\ufeff]"
)
ROOTS = {"√": 2, "∛": 3, "∜": 4}


def visible(text: str) -> str:
    """The text with its characters as a plain keyboard types them, and without those that cannot be seen.

    >>> visible("３\u200b０º")
    '30°'
    """
    return "".join(PLAIN_SPELLINGS.get(character, character) for character in INVISIBLE.sub("", text))


PLAIN_SPELLINGS = {**FULL_WIDTH, **UNIT_SIGNS, "º": "°", "∘": "°", "˚": "°", "\u3000": " "}
DIGITS = frozenset("0123456789")
SPACES = frozenset(" \u00a0\u2009\u202f\u2007\u2002\u2003\u2005\u2006\u2008\u200a")
SUPERSCRIPTS = dict(zip("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻ⁿ", "0123456789+-n"))
SUBSCRIPTS = dict(zip("₀₁₂₃₄₅₆₇₈₉", "0123456789"))
VULGAR = {"½": (1, 2), "⅓": (1, 3), "⅔": (2, 3), "¼": (1, 4), "¾": (3, 4), "⅕": (1, 5), "⅖": (2, 5),
          "⅗": (3, 5), "⅘": (4, 5), "⅙": (1, 6), "⅚": (5, 6), "⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8),
          "⅞": (7, 8), "⅐": (1, 7), "⅑": (1, 9), "⅒": (1, 10)}  # fmt: skip
TWO_CHARACTERS = {"<=": "≤", "=<": "≤", ">=": "≥", "!=": "≠", "~=": "≈", "**": "^", "..": "..", "->": "->", "==": "="}
ONE_CHARACTER = frozenset("+-*/^!%°()[]{}|,;=<>≤≥≠≈±√∛∜∈:")

TEX_SIGNS = {
    "cdot": "*", "times": "*", "div": "/", "pm": "±", "leq": "≤", "le": "≤", "geq": "≥", "ge": "≥",
    "neq": "≠", "ne": "≠", "approx": "≈", "simeq": "≈", "lt": "<", "gt": ">", "in": "in",
    "lbrace": "{", "rbrace": "}", "vert": "|", "lvert": "|", "rvert": "|", "mid": "|",
}  # fmt: skip
TEX_IGNORED = frozenset({"left", "right", "displaystyle", "quad", "qquad", "mathrm", "limits"})
TEX_FRACTIONS = frozenset({"frac", "dfrac", "tfrac"})
# Commands that take what follows in a way of their own, by the name the reader gives them.
TEX_STRUCTURES = {
    "sqrt": "sqrt", "int": "integral", "boundedint": "integral from", "boundedsum": "sum",
    "boundedprod": "product", "derivative": "derivative", "boundedlim": "limit",
    "binom": "binomial", "dbinom": "binomial",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Token:
    # "number", "name", "function", "constant", "word", "sign", "superscript", "unit", "text", "vulgar",
    # "tex" or "end"
    kind: str
    text: str
    place: int
    # whether white space stands before it
    spaced: bool = False
    number: Number | None = None


WITH_MARKS = re.compile(r"\d+(?:[.,]\d+)*")
GROUPED = re.compile(r"\d{1,3}(?:[.,]\d{3})+\Z")
POINT_NUMBER = re.compile(r"\d+(?:\.\d+)?|\.\d+")
COMMA_NUMBER = re.compile(r"\d+(?:,\d+)?|,\d+")
POINT_GROUPS = re.compile(r"[1-9]\d{0,2}(?:[ \u00a0\u2009\u202f']\d{3})+(?!\d)(?:\.\d+)?")
COMMA_GROUPS = re.compile(r"[1-9]\d{0,2}(?:(?:[ \u00a0\u2009\u202f']\d{3})+|(?:\.\d{3})+)(?!\d)(?:,\d+)?")
POINT_THOUSANDS = re.compile(r"[1-9]\d{0,2}(?:,\d{3})+(?![\d,])(?:\.\d+)?")
TIMES_TEN = re.compile(
    r"(?: ?[*×·⋅]| ?\\times| ?\\cdot) ?10(?:\^ ?(?:([-−+]?\d+)|\{([-−+]?\d+)\}|\(([-−+]?\d+)\))|([⁺⁻]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))"
)
LETTER_E = re.compile(r"[eE]([-+−]?\d+)(?![\d_.])")
TWO_DIGITS = re.compile(r"[0-9]{2}(?![0-9.,])")
TEX_TEXT = re.compile(r"\\text\{([^{}\\]*)\}")
UNIT = re.compile(r"\[([^\[\]()<>=]*[A-Za-zΩμµ°%][^\[\]<>=,;]*)\]")
LOG_BASE = re.compile(r"_(?:\{(\d{1,6}|[a-z])\}|(\d{1,6}|[a-z]))|([₀₁₂₃₄₅₆₇₈₉]{1,6})")
WORD = re.compile(r"[A-Za-zÀ-ÖØ-öø-ÿ\u0370-\u03ff]+")
# Functions whose names have a low line in them, which elsewhere begins a subscript.
JOINED = re.compile("(?:" + "|".join(name for name in sorted(FUNCTIONS) if "_" in name) + r")(?![A-Za-z0-9_])")
# a subscript without braces is a number, or letters with a number after them: x_1y_1 is a product
SUBSCRIPT = re.compile(r"_(?:\{([A-Za-z0-9, ]{1,20})\}|(\d+|[A-Za-z]+\d*))")
SIMPLE_NUMBER = re.compile(r"\s*([-−]?)(\d{1,40})(?:\.(\d{1,40}))?\s*\Z", re.ASCII)

# The known words by their first letter, the longest first.
KNOWN_WORDS: dict[str, list[str]] = {}
for known_word in sorted(FUNCTIONS | set(SYNONYMS) | set(CONSTANTS) | set(GREEK), key=lambda word: (-len(word), word)):
    KNOWN_WORDS.setdefault(known_word[0], []).append(known_word)


class Lexer:
    """Turns one line into tokens; made anew for every line."""

    def __init__(self, text: str, settings: Settings) -> None:
        if len(text) > MAXIMUM_LENGTH:
            raise NotationError(
                "too_long",
                f"This is too long to be read: at most {MAXIMUM_LENGTH} characters.",
                MAXIMUM_LENGTH,
            )
        # where each character stood in what was typed, when some were left out
        self.origins: list[int] | None = None
        if INVISIBLE.search(text):
            self.origins = [place for place, character in enumerate(text) if not INVISIBLE.match(character)]
            self.origins.append(len(text))
            text = INVISIBLE.sub("", text)
        self.text = "".join(PLAIN_CHARACTERS.get(character, character) for character in text)
        self.pasted: Pasted | None = None
        if "\\" in self.text:
            self.pasted = Pasted(self.text)
            self.pasted.plain()
            self.text = self.pasted.text
        self.settings = settings
        self.place = 0
        self.spaced = False
        self.depth = 0
        self.tokens: list[Token] = []
        self.comma = settings.decimal_mark == "comma"
        self.signs = {"∈": "in", ":": "/"} if settings.colon else {"∈": "in"}

    def run(self) -> list[Token]:
        while self.place < len(self.text):
            self.step()
            self.check_count()
        self.add("end", "", 0)
        return self.tokens

    def check_count(self) -> None:
        if len(self.tokens) > MAXIMUM_TOKENS:
            raise NotationError("too_long", "This formula has too many pieces to be read.", self.place)

    def located(self, problem: NotationError) -> NotationError:
        """The problem with its place in what was typed."""
        if self.pasted is not None:
            problem.place = self.pasted.origin(problem.place)
        if self.origins is not None and problem.place is not None:
            problem.place = self.origins[min(problem.place, len(self.origins) - 1)]
        return problem

    def add(self, kind: str, text: str, length: int, number: Number | None = None) -> None:
        self.tokens.append(Token(kind, text, self.place, self.spaced, number))
        self.spaced = False
        self.place += length

    def step(self) -> None:
        text, place = self.text, self.place
        character = text[place]
        if character in SPACES:
            self.spaced = True
            self.place += 1
        elif (character in DIGITS) or self.starts_with_mark(character):
            self.number()
        elif character == "[" and self.follows_operand() and (unit := UNIT.match(text, place)):
            self.add("unit", " ".join(unit[1].split()), len(unit[0]))
        elif text.startswith("+/-", place):
            self.add("sign", "±", 3)
        elif text[place : place + 2] in TWO_CHARACTERS and text[place : place + 2] != "..":
            self.add("sign", TWO_CHARACTERS[text[place : place + 2]], 2)
        elif character in ONE_CHARACTER:
            self.depth += (character in "([{") - (character in ")]}")
            self.add("sign", self.signs.get(character, character), 1)
        elif character in "∪∩":
            self.add("word", "or" if character == "∪" else "and", 1)
        elif character == "∅":
            self.add("sign", "∅", 1)
        elif character in SUPERSCRIPTS:
            self.superscript()
        elif character in VULGAR:
            self.add("vulgar", character, 1)
        elif character == '"':
            self.quoted()
        elif character == "\\":
            self.tex()
        elif WORD.match(character) or character == "∞":
            self.word()
        else:
            self.refuse(character)

    def starts_with_mark(self, character: str) -> bool:
        following = self.text[self.place + 1 : self.place + 2]
        return character == ("," if self.comma else ".") and following in DIGITS and not self.follows_operand()

    def follows_operand(self) -> bool:
        if not self.tokens:
            return False
        last = self.tokens[-1]
        return last.kind in {"number", "name", "constant", "superscript", "unit", "vulgar"} or (
            last.kind == "sign" and last.text in {")", "]", "}", "!", "%", "°"}
        )

    def refuse(self, character: str) -> None:
        if character == "." or character == "'":
            help_text = f"“{character}” stands where no number goes on."
        elif unicodedata.category(character).startswith("C") or unicodedata.combining(character):
            help_text = "There is an invisible or combining character here; type this part again."
        else:
            help_text = f"“{character}” is not a sign that can be read here."
        raise NotationError("strange_character", help_text, self.place)

    # numbers

    def number(self) -> None:
        start = self.place
        literal = self.literal(start)
        digits = sum(character.isdigit() for character in literal)
        if digits > MAXIMUM_DIGITS:
            raise NotationError("too_many_digits", f"A number may have at most {MAXIMUM_DIGITS} digits.", start, 1)
        self.check_marks(start, literal)
        mark = "," if self.comma else "."
        plain = "".join(c for c in literal if c.isdigit() or c == mark).replace(",", ".")
        decimals = len(plain.split(".")[1]) if "." in plain else 0
        mantissa = Fraction(plain if plain[0] != "." else "0" + plain)
        length, exponent = len(literal), None
        power = LETTER_E.match(self.text, start + length)
        # a letter that the question has, e_9, wins
        if power and not {f"{power[0][0]}_{power[1]}", power[0]} & self.settings.names:
            length, exponent = length + len(power[0]), power[1]
        else:
            ten = TIMES_TEN.match(self.text, start + length)
            if ten and self.may_be_standard_form(start + length + len(ten[0])):
                raised = ten[1] or ten[2] or ten[3] or "".join(SUPERSCRIPTS[c] for c in ten[4])
                length, exponent = length + len(ten[0]), raised
        if exponent is None:
            self.add("number", literal, length, Number(mantissa, decimals))
            return
        raised_to = int(exponent.replace("−", "-"))
        if abs(raised_to) > MAXIMUM_EXPONENT:
            raise NotationError("too_large", "This power of ten is too large to be worked out.", start, length)
        self.add("number", literal, length, Number(mantissa * Fraction(10) ** raised_to, decimals, raised_to))

    def literal(self, start: int) -> str:
        groups = COMMA_GROUPS if self.comma else POINT_GROUPS
        found = groups.match(self.text, start)
        if not found and not self.comma and self.depth == 0 and not self.settings.lists:
            found = POINT_THOUSANDS.match(self.text, start)
        if not found:
            found = (COMMA_NUMBER if self.comma else POINT_NUMBER).match(self.text, start)
        assert found
        return found[0]

    def check_marks(self, start: int, literal: str) -> None:
        """Refuse a number that goes on with the decimal mark of the other setting."""
        rest = self.text[start + len(literal) : start + len(literal) + 2]
        if len(rest) < 2 or rest[1] not in DIGITS:
            return
        wrong = "." if self.comma else ","
        separates = not self.comma and (self.depth > 0 or self.settings.lists)
        if rest[0] == wrong and not separates:
            right, word = (",", "comma") if self.comma else (".", "point")
            found = WITH_MARKS.match(self.text, start)
            assert found
            whole = found[0]
            # the last mark is that of the decimals, those before it part thousands
            ahead, _, decimals = whole.rpartition(wrong)
            grouped = ahead.isdecimal() or GROUPED.match(ahead)
            meant = re.sub(r"\D", "", ahead) + right + decimals if grouped and decimals.isdecimal() else ""
            said = f": {meant}" if meant else ""
            raise NotationError(
                "decimal_mark",
                f"Decimals are written with a {word} here{said}",
                start,
                len(whole),
                instead=meant,
            )
        if rest[0] == "." and not self.comma:
            raise NotationError("decimal_mark", "This number has two decimal points.", start + len(literal))

    def may_be_standard_form(self, end: int) -> bool:
        before = self.tokens[-1].text if self.tokens and self.tokens[-1].kind == "sign" else ""
        after = self.text[end : end + 1]
        return before not in {"^", "/"} and after not in {"^", "!", ".", ","} and after not in SUPERSCRIPTS

    # everything else

    def superscript(self) -> None:
        end = self.place
        while end < len(self.text) and self.text[end] in SUPERSCRIPTS:
            end += 1
        raised = "".join(SUPERSCRIPTS[character] for character in self.text[self.place : end])
        if not re.fullmatch(r"[+-]?(\d+|n)", raised) or len(raised) > 6:
            raise NotationError("superscript", "This raised part is not a whole number.", self.place, len(raised))
        self.add("superscript", raised, len(raised))

    def quoted(self) -> None:
        end = self.text.find('"', self.place + 1)
        if end < 0:
            raise NotationError("quote", "A quotation mark opens here and never closes.", self.place)
        self.add("text", self.text[self.place + 1 : end], end + 1 - self.place)

    def tex(self) -> None:
        word = re.compile(r"\\([A-Za-z]+)").match(self.text, self.place)
        if not word:
            following = self.text[self.place + 1 : self.place + 2]
            if following and following in ",;!: ":
                self.place += 2
                self.spaced = True
                return
            if following and following in "{}%":
                self.depth += (following == "{") - (following == "}")
                self.add("sign", following, 2)
                return
            raise NotationError("tex", "A backslash stands here without a command.", self.place)
        command = word[1]
        if command in TEX_IGNORED:
            self.place += len(word[0])
            self.spaced = True
        elif command in TEX_SIGNS:
            self.add("sign", TEX_SIGNS[command], len(word[0]))
        elif command in TEX_FRACTIONS:
            self.add("tex", "frac", len(word[0]))
            if TWO_DIGITS.match(self.text, self.place):
                # \\frac12 is a half
                for _ in range(2):
                    digit = self.text[self.place]
                    self.add("number", digit, 1, Number(Fraction(int(digit))))
        elif command in TEX_STRUCTURES:
            self.add("tex", TEX_STRUCTURES[command], len(word[0]))
        elif command == "text" and (words := TEX_TEXT.match(self.text, self.place)):
            said = words[1].strip()
            self.add("word" if said in {"or", "and"} else "text", said, len(words[0]))
        elif command in {"cup", "cap", "lor", "land", "vee", "wedge"}:
            self.add("word", "or" if command in {"cup", "lor", "vee"} else "and", len(word[0]))
        elif command in {"emptyset", "varnothing"}:
            self.add("sign", "∅", len(word[0]))
        elif command in {"degree", "circ"}:
            self.add("sign", "°", len(word[0]))
        elif command in {"infty", "pi"}:
            self.add("constant", "infinity" if command == "infty" else "pi", len(word[0]))
        elif command.removeprefix("var") in GREEK:
            self.name(command.removeprefix("var"), len(word[0]))
        elif (known := SYNONYMS.get(command, command)) in FUNCTIONS:
            self.add("function", known, len(word[0]))
            if known == "log":
                self.log_base()
        else:
            raise NotationError("tex", f"The command \\{command} is not known here.", self.place, len(word[0]))

    def word(self) -> None:
        if self.text[self.place] == "∞":
            self.add("constant", "infinity", 1)
            return
        found = WORD.match(self.text, self.place)
        assert found
        run = found[0]
        joined = JOINED.match(self.text, self.place)
        if joined and joined[0] not in self.settings.names:
            self.add("function", joined[0], len(joined[0]))
            return
        if run in {"or", "and", "in", "except", "step", "of"} and run not in self.settings.names:
            self.add("word", run, len(run))
            return
        while run:
            run = run[self.first_word(run) :]
            self.check_count()

    def first_word(self, run: str) -> int:
        """Take the longest known word off the front of a run of letters, else one letter."""
        declared = self.declared(run)
        if declared:
            return declared
        for known in KNOWN_WORDS.get(run[0], ()):
            if run.startswith(known) and (known not in BRACKETED or len(run) == len(known)):
                return self.known_word(known, run)
        if run[0] == "i" and self.settings.complex:
            self.add("constant", "i", 1)
            return 1
        if run[0] > "z" and run[0] not in GREEK_NAMES:
            self.refuse(run[0])
        self.name(GREEK_NAMES.get(run[0], run[0]), 1)
        return 1

    def declared(self, run: str) -> int:
        columns = [name for name in self.settings.names if "." in name and self.text.startswith(name, self.place)]
        if columns:
            # a column of a drawn row: material.density
            longest = max(columns, key=len)
            self.add("name", longest, len(longest))
            return len(run)
        for name in sorted(self.settings.names, key=len, reverse=True):
            stem, _, subscript = name.partition("_")
            if not run.startswith(stem):
                continue
            written = GREEK.get(stem)
            if subscript:
                end = self.place + len(stem)
                below, length = self.lowered(end)
                if below == subscript:
                    self.add("name", name, len(stem) + length)
                    return len(run)
                if self.text.startswith(f"_{subscript}", end) and not self.text[end + 1 + len(subscript)].isdigit():
                    # v_xt, where v_x is a letter of the question
                    self.add("name", name, len(name))
                    return len(run)
            elif (len(stem) > 1 or (stem in {"e", "i"} and not self.known_at(run))) and not written:
                longest = max((n for n in self.settings.names if run.startswith(n)), key=len)
                self.name(longest, len(longest))
                return len(longest)
        return 0

    def known_at(self, run: str) -> bool:
        """Whether a known word of several letters begins a run: ``exp`` is a function though e is declared."""
        return any(
            len(known) > 1 and run.startswith(known) and (known not in BRACKETED or len(run) == len(known))
            for known in KNOWN_WORDS.get(run[0], ())
        )

    def known_word(self, known: str, run: str) -> int:
        length = len(known)
        if known in GREEK:
            self.name(known, length)
        elif known in CONSTANTS:
            following = self.text[self.place + length : self.place + length + 1]
            if length == 1 and known == "e" and (following == "_" or following.isdigit()) and len(run) == 1:
                self.name(known, length)
                if self.tokens[-1].text == known:
                    # no subscript after all
                    self.tokens[-1] = replace(self.tokens[-1], kind="constant")
            else:
                self.add("constant", CONSTANTS[known], length)
        else:
            self.add("function", SYNONYMS.get(known, known), length)
            if known in {"log", "lg"} and len(run) == length:
                self.log_base()
        return length

    def log_base(self) -> None:
        """``log_2 8`` and ``log_{10} x``: a base written below becomes a token of its own."""
        base = LOG_BASE.match(self.text, self.place)
        if not base:
            return
        written = base[1] or base[2] or "".join(SUBSCRIPTS[c] for c in base[3])
        number = Number(Fraction(int(written))) if written.isdigit() else None
        self.add("subscript", written, len(base[0]), number)

    def name(self, stem: str, length: int) -> None:
        """A name with its subscript or digits: ``v0``, ``v_0``, ``v₀`` and ``v_{0}`` are one name."""
        subscript, further = self.lowered(self.place + length)
        self.add("name", f"{stem}_{subscript}" if subscript else stem, length + further)

    def lowered(self, end: int) -> tuple[str, int]:
        """The subscript that begins at a place, however it is written, and how many characters it takes."""
        tail = SUBSCRIPT.match(self.text, end)
        if tail:
            return (tail[1] or tail[2]).replace(" ", ""), len(tail[0])
        digits = end
        while digits < len(self.text) and (self.text[digits] in SUBSCRIPTS or self.text[digits] in "0123456789"):
            digits += 1
        if self.text[digits : digits + 1] == "." and self.text[digits + 1 : digits + 2].isdigit():
            # 2.5 is a number
            return "", 0
        return "".join(SUBSCRIPTS.get(c, c) for c in self.text[end:digits]), digits - end
