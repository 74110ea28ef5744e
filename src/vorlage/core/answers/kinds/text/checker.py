"""Answers in words."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Certainty, Values, value_tree
from ....notation import NotationError, Settings, Text, line
from ....text import raised_apart
from ...answer import DrawnAnswer, of_field
from ...checking import checked
from ...patterns import pattern
from ...verdict import NOTHING, RIGHT, UNDECIDED, UNREADABLE, WAITING, WRONG, Verdict

if TYPE_CHECKING:
    from .document import TextAnswer

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")
MAXIMUM_LENGTH = 5_000
# What no pattern that asks for something fits.
UNLIKELY = ("§ 7", "zq", "-")
PARAMETER = re.compile(r"\$([A-Za-z][A-Za-z0-9_]*)\$")
QUOTES = str.maketrans("’‘“”′–—−", "''\"\"'---")


class TextChecker:
    """A text answer; patterns run on a linear-time engine (RE2), so none can hang."""

    def __init__(self, answer: TextAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        self.patterns: list[Any] = []
        if answer.match == "pattern":
            with of_field("accept"):
                self.patterns = [pattern(text, answer.case) for text in answer.accept]
                if any(all(each.fullmatch(text) for text in UNLIKELY) for each in self.patterns):
                    raise NotationError("no_key", "This pattern fits every answer.")

    def plain(self, text: str) -> str:
        """The text as it is compared: compatible characters, plain quotes, case and spacing forgiven."""
        text = unicodedata.normalize("NFKC", raised_apart(text)).translate(QUOTES)
        if text.strip()[:1] == text.strip()[-1:] == '"':
            text = text.strip().strip('"')
        if not self.answer.spacing:
            text = " ".join(text.split())
        # not casefold, to which Maße and Masse are one word
        return text if self.answer.case else text.lower()

    def drawn(self, values: Values) -> DrawnText:
        """The answer for one draw; ``$name$`` in an accepted text stands for a parameter's word."""
        accepted = tuple(PARAMETER.sub(lambda found: word(values, found), text) for text in self.answer.accept)
        return DrawnText(self, accepted)


def word(values: Values, found: re.Match[str]) -> str:
    """What a parameter shows in a text; left as it is when there is no such parameter."""
    value = values.get(found[1])
    if value is None:
        return found[0]
    tree = value_tree(value)
    return tree.text if isinstance(tree, Text) else line(tree)


def plain_s(text: str) -> str:
    return text.replace("ß", "ss")


@dataclass(frozen=True, slots=True)
class DrawnText(DrawnAnswer):
    """A text answer for one draw."""

    checker: TextChecker
    accepted: tuple[str, ...]

    @property
    def is_pattern(self) -> bool:
        return self.checker.answer.match == "pattern"

    def right_response(self) -> str | None:
        """The first accepted answer; None where somebody reads them, and a pattern is no answer to itself."""
        return None if self.is_pattern or not self.accepted else line(self.key_tree())

    def key_tree(self) -> Text:
        """The key as it is printed."""
        return Text(self.accepted[0] if self.accepted else "marked by hand")

    def closeness(self) -> str:
        """How it is compared, in words."""
        if not self.accepted:
            return "read by the teacher"
        return {"whole": "these words", "contains": "anywhere in the answer", "pattern": "by a pattern"}[
            self.checker.answer.match
        ]

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        checker = self.checker
        if not response.strip():
            return NOTHING
        if len(response) > MAXIMUM_LENGTH:
            told = f"This is too long: at most {MAXIMUM_LENGTH} characters."
            return Verdict(UNREADABLE, feedback=(told,), because="it is too long")
        if not self.accepted:
            return Verdict(WAITING, reading=response[:200], because="to be marked by hand", tree=Text(response))
        given = checker.plain(response)
        if self.is_pattern:
            subject = " ".join(response.split()) if not checker.answer.spacing else response
            found = any(each.fullmatch(unicodedata.normalize("NFKC", subject)) for each in checker.patterns)
        elif checker.answer.match == "contains":
            found = any(checker.plain(text) in given for text in self.accepted)
        else:
            # a full stop after the answer is no part of it, unless it is one of what is accepted
            accepted = set(map(checker.plain, self.accepted))
            found = given in accepted or given.removesuffix(".").rstrip() in accepted
        if found:
            return Verdict(RIGHT, Fraction(1), given, (), self.closeness(), PROVED, tree=Text(given))
        if not self.is_pattern and any(plain_s(text) == plain_s(given) for text in map(checker.plain, self.accepted)):
            # Strasse is Straße in some places, and Masse is not Maße
            return replace(UNDECIDED, reading=given, tree=Text(given))
        told = "not among the accepted words"
        return Verdict(WRONG, Fraction(0), given, (), told, REFUTED, tree=Text(given))
