"""What a printed answer means: the kind of answer and its key, and what of that is a guess."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from ...algebra import Compiled, EvaluationError
from ...answers import KINDS
from ...formulas import VaryingError, given_answer
from ...notation import FUNCTIONS, Habits, NotationError, Settings, names_in, read_authored, to_document
from ...quantities import is_unit

NUMBER = re.compile(
    r"(?P<number>[-−+]?\s*(?:\d+(?:[  ]\d{3})*(?:[.,]\d+)?|[.,]\d+)"
    r"(?:\s*[x×*·]\s*10\s*(?:\^\s*[-−]?\d+|\^\{[-−]?\d+\}|[⁻⁺]?[⁰¹²³⁴-⁹]+)|[eE][-+−]?\d+)?"
    r"|[-−]?\s*(?:\d+\s+)?\d+\s*/\s*\d+)(?P<rest>.*)$",
    re.DOTALL,
)
ABOUT = re.compile(r"\s*(?:≈|~|about|approximately|approx\.?|ca\.?|roughly|circa)\s*", re.IGNORECASE)
ASSIGNED = re.compile(r"\s*(?P<name>[^\W\d_](?:_?\w{1,3})?)\s*(?:=|≈)\s*(?P<value>[^=<>]+)$")
TRUTHS = {
    "true": "true", "t": "true", "right": "true", "correct": "true", "yes": "true", "false": "false", "f": "false",
    "wrong": "false", "incorrect": "false", "no": "false",
}  # fmt: skip
REACTION = re.compile(r"\s*(?:\d*\s*[A-Z][A-Za-z0-9()·^+\-₀-₉⁰-⁹]*.*)(?:->|→|⟶|⇌|<=>).*[A-Z]")
MOLECULE = re.compile(r"(?:[A-Z][a-z]?[\d₀-₉]*|\((?:[A-Z][a-z]?[\d₀-₉]*)+\)[\d₀-₉]*)+(?:\^?[\d⁰-⁹]*[+\-⁺⁻])?$")
CHEMICAL_WORDS = re.compile(r"\b(?:chemical|formula of|symbol|equation for|ion|compound|balanced?)\b", re.IGNORECASE)
# a word that is no function of what stands in brackets after it
WORD = re.compile(r"[^\W\d_]{3,}(?!\w*\s*\()")
# So many words are no answer on a line.
AT_LENGTH = 12
MONEY = re.compile(r"\s*(?P<sign>[£$€])\s*(?=\d)")
# What can stand beside a number.
BESIDE = re.compile(r"[\[(]?[A-Za-zΩµμ°%£$€]")
CODED = re.compile(r"[`$]+")
BETWEEN_WAYS = re.compile(r"\s*(?:;|/|\bor\b|\|)\s*")
NAMES = {kind.words.casefold(): name for name, kind in KINDS.items()} | {
    name.replace("_", " "): name for name in KINDS
} | {
    "multiple choice": "choice", "single choice": "choice", "options": "choice", "numeric": "number",
    "numerical": "number", "short answer": "text", "word": "text", "true/false": "true_false",
    "fill in the gaps": "blanks", "fill in the blanks": "blanks", "gaps": "blanks", "expression": "formula",
    "order": "order", "information": "none",
}  # fmt: skip


@dataclass
class Meant:
    """What an answer was taken for: what the inputs of its kind would hold, what stands after the space, what was
    guessed, and a model answer where it is one."""

    kind: str
    typed: dict[str, Any] = field(default_factory=dict)
    after: str = ""
    guesses: list[str] = field(default_factory=list)
    model: str = ""
    # one number, as it is printed, where it is nothing else
    printed: str = ""


def kind_named(words: str) -> str:
    """The name of a kind from what it is called; empty for none."""
    return NAMES.get(" ".join(words.casefold().replace("_", " ").split()), "")


@dataclass(frozen=True)
class Around:
    """What is known around an answer: the words of the question, the names that are declared, habits."""

    wording: str
    names: frozenset[str]
    habits: Habits
    angle: str = "degrees"

    @property
    def settings(self) -> Settings:
        return Settings(angle=self.angle, names=self.names)

    @property
    def between(self) -> str:
        """What stands between values here."""
        return "; " if self.habits.decimal_mark == "comma" else ", "

    def can_be(self, kind: str, key: str) -> bool:
        """Whether a key, as it is typed here, can be the key of a kind, with nothing drawn."""
        try:
            document = KINDS[kind].document.model_validate({"kind": kind, "key": to_document(key, self.habits)})
            document.checker(self.settings).drawn({})
        except (NotationError, EvaluationError, ValueError, KeyError):
            return False
        return True


SAID_CLOSE = re.compile(
    r"\s*(?:,|\()?\s*(?:correct\s+)?(?:to\s+)?(?P<count>\d)\s*(?P<what>d\.?\s?p\.?|decimal\s+places?|s\.?\s?f\.?|"
    r"sig(?:nificant)?\.?\s*fig(?:ure)?s?\.?)\s*\)?$|\s*(?:±|\+/-)\s*(?P<distance>\d+(?:[.,]\d+)?\s*%?)$",
    re.IGNORECASE,
)


# What may be maths in plain words: letters, numbers and signs in a row, with a power among them.
TERM = r"(?:\d+(?:[.,]\d+)?|[A-Za-z](?![A-Za-z])|[()+\-−*/^=<>≤≥])"
RUN = re.compile(rf"(?<![\w$^.,]){TERM}(?:\s?{TERM})*\^{TERM}(?:\s?{TERM})*(?![\w$])")
# A single letter before it that is a word.
ARTICLE = re.compile(r"(?:[aAI]\s+)+(?=[A-Za-z0-9(])")


def with_maths(text: str, names: frozenset[str]) -> tuple[str, list[str]]:
    """A text with a span around what is maths in it, as far as a power tells that it is, and what that was.

    >>> with_maths("Solve x^2 - 5x + 6 = 0.", frozenset())
    ('Solve $x^2 - 5x + 6 = 0$.', ['x^2 - 5x + 6 = 0'])
    >>> with_maths("Take 9.81 m/s^2 here.", frozenset())
    ('Take 9.81 m/s^2 here.', [])
    """
    if "$" in text or "`" in text or "^" not in text:
        return text, []
    found: list[str] = []

    def spanned(match: re.Match[str]) -> str:
        article = ARTICLE.match(match[0])
        run = match[0][article.end() :] if article else match[0]
        number = NUMBER.match(run)
        if (number and number["rest"].strip() and is_unit(number["rest"].strip())) or is_unit(run):
            return match[0]
        try:
            read_authored(run, Settings(names=names))
        except NotationError:
            return match[0]
        found.append(run)
        return f"{match[0][: len(match[0]) - len(run)]}${run}$"

    return RUN.sub(spanned, text), found


def said_close(answer: str) -> tuple[str, dict[str, str]]:
    """An answer without how close is close enough, where it says that, and this: ``3.46 (2 d.p.)``, ``12 ± 0.5``."""
    found = SAID_CLOSE.search(answer)
    if found is None or not found.start():
        return answer, {}
    if found["distance"]:
        distance = found["distance"].replace(" ", "")
        close = {"mode": "relative" if distance.endswith("%") else "absolute", "tolerance": distance}
    else:
        places = found["what"].casefold().startswith("d")
        close = {"mode": "decimal_places" if places else "significant_figures", "tolerance": found["count"]}
    return answer[: found.start()].rstrip(), close


def meant(answer: str, around: Around, unit: str = "", tolerance: bool = False) -> Meant:
    """What a printed answer means. What is no more than likely is told as a guess.

    ``unit`` is a unit that is said apart; ``tolerance`` is whether it is said how close is close enough.
    """
    text = CODED.sub("", answer).strip().strip("*").strip()
    text = text.removesuffix(".").rstrip() if not re.search(r"\d\.$|\.\.\.$", text) else text.rstrip(".")
    if text.casefold() in TRUTHS and not around.names & {text}:
        sure = text.casefold() in {"true", "false"}
        guesses = [] if sure else [f"“{text}” was taken as {TRUTHS[text.casefold()]}."]
        return Meant("true_false", {"key": TRUTHS[text.casefold()]}, guesses=guesses)
    for attempt in (numbered, reacted, assigned, formal):
        found = attempt(text, around, unit, tolerance)
        if found is not None:
            return found
    return worded(text, unit)


def numbered(text: str, around: Around, unit: str, tolerance: bool) -> Meant | None:
    """One number, with a unit if it has one."""
    guesses: list[str] = []
    bare = ABOUT.sub("", text, count=1) if ABOUT.match(text) else text
    money = MONEY.match(bare)
    if money:
        bare, guesses = bare[money.end() :], [f"The answer was taken as a number of {money['sign']}."]
    found = NUMBER.match(bare)
    if found is None:
        return None
    written, rest = found["number"].strip(), found["rest"].strip()
    if (rest and not BESIDE.match(rest)) or (unit and rest and unit_of_words(rest) != unit):
        # a formula that begins with a number
        return None
    names_unit = unit or unit_of_words(rest)
    if rest and not names_unit and not re.fullmatch(r"%|per ?cent|[£$€]|°|degrees?", rest):
        return one_noun(written, rest, around, tolerance)
    key = re.sub(r"\s*[x×]\s*10", " × 10", written).replace("^{", "^").replace("}", "")
    if not around.can_be("number", key):
        return None
    typed: dict[str, Any] = {"key": key}
    if not tolerance:
        typed |= closeness(written, guesses, around.habits)
    printed = f"{written} {rest}".strip()
    if names_unit in {"°", "%"} or re.fullmatch(r"%|per ?cent|[£$€]|°|degrees?", rest):
        after = {"degrees": "°", "degree": "°", "percent": "%", "per cent": "%"}.get(rest, rest) or names_unit
        return Meant("number", typed, after, guesses, printed=printed)
    if names_unit:
        if not unit and names_unit != rest:
            guesses.append(f"“{rest}” was taken as the unit {names_unit}.")
        return Meant("quantity", typed | {"unit": names_unit}, "", guesses, printed=printed)
    return Meant("number", typed, money["sign"] if money else "", guesses, printed=printed)


def one_noun(written: str, rest: str, around: Around, tolerance: bool) -> Meant | None:
    """A number of things: ``12 crates``, ``3 boats``."""
    if not re.fullmatch(r"[^\W\d_]{3,}(?: [^\W\d_]{2,}){0,2}", rest) or "/" in written:
        return None
    if not around.can_be("number", written):
        return None
    guesses: list[str] = []
    close = {} if tolerance else closeness(written, guesses, around.habits)
    guesses.append(f"“{rest}” was taken as a word after the number, not as a unit.")
    return Meant("number", {"key": written, **close}, rest[:40], guesses, printed=f"{written} {rest}")


def unit_of_words(rest: str) -> str:
    """The unit that words after a number name, in symbols; empty where they name none."""
    if not rest:
        return ""
    plain = rest.strip("[]() ").replace("−", "-")
    if is_unit(plain):
        return plain
    try:
        goal = given_answer(f"1 {plain}")
    except VaryingError:
        return ""
    # words that go on after the unit are no unit
    return goal.unit if goal.unit and len(plain.split()) <= 5 and not re.search(r"\d\s\d", plain) else ""


def closeness(written: str, guesses: list[str], habits: Habits) -> dict[str, str]:
    """How close is close enough where nothing is said: as it is written."""
    scaled = re.search(r"10|[eE]", written[1:]) and re.search(r"[x×*·]\s*10|[eE]", written)
    mark = "," if habits.decimal_mark == "comma" else "."
    mantissa = re.split(r"\s*[x×*·]\s*10|[eE]", written)[0].strip("+-− ")
    if scaled:
        figures = len(re.sub(r"\D", "", mantissa).lstrip("0")) or 1
        guesses.append(f"Nothing says how close: {figures} significant figures, as the answer is written.")
        return {"mode": "significant_figures", "tolerance": str(figures)}
    if mark in mantissa and "/" not in mantissa:
        places = len(mantissa.split(mark, 1)[1].strip())
        guesses.append(
            f"Nothing says how close: {places} decimal place{'' if places == 1 else 's'}, as the answer is written."
        )
        return {"mode": "decimal_places", "tolerance": str(places)}
    return {}


def reacted(text: str, around: Around, unit: str, tolerance: bool) -> Meant | None:
    """A reaction, or a formula of chemistry where the question speaks of one."""
    plain = text.removeprefix("chem:").strip()
    if REACTION.match(plain) and around.can_be("chemical", plain):
        return Meant("chemical", {"key": plain})
    spoken = CHEMICAL_WORDS.search(around.wording) and MOLECULE.match(plain) and re.search(r"[A-Z]", plain)
    if spoken and around.can_be("chemical", plain):
        return Meant("chemical", {"key": plain}, guesses=["The answer was taken as a chemical formula."])
    return None


def assigned(text: str, around: Around, unit: str, tolerance: bool) -> Meant | None:
    """``x = 5``, or several such, or several values: ``2 or 3``."""
    pieces = [piece for piece in re.split(r"\s*(?:;|\bor\b|\band\b|,(?!\d)|,\s+)\s*", text) if piece]
    found = [ASSIGNED.match(piece) for piece in pieces]
    first = found[0] if found else None
    if first is None:
        return several(pieces, around, f"“{text}” was taken as a set of values.") if len(pieces) > 1 else None
    if first["name"] in around.names:
        return None
    if len(pieces) == 1:
        number = numbered(first["value"].strip(), around, unit, tolerance)
        if number is None:
            return None
        number.guesses.append(f"“{text}” was taken as a number: what {first['name']} is.")
        return number
    names = [match["name"] if match else first["name"] for match in found]
    values = [match["value"].strip() if match else piece.strip() for match, piece in zip(found, pieces)]
    if len(set(names)) == 1:
        return several(values, around, f"“{text}” was taken as the set of the values of {first['name']}.")
    # x = 2, y = 3
    key = f"({around.between.join(values)})"
    if len(set(names)) < len(names) or not around.can_be("point", key):
        return None
    return Meant("point", {"key": key}, guesses=[f"The answers were taken as one point ({', '.join(names)})."])


def several(values: Sequence[str], around: Around, guess: str) -> Meant | None:
    """Several numbers as a set; one that is written in two ways is one number."""
    if not all(NUMBER.match(value) and around.can_be("number", value) for value in values):
        return None
    worked = {Compiled(read_authored(to_document(value, around.habits))).value({}) for value in values}
    if len(worked) == 1:
        return Meant("number", {"key": values[0]})
    key = "{" + around.between.join(values) + "}"
    return Meant("set", {"key": key}, guesses=[guess]) if around.can_be("set", key) else None


def formal(text: str, around: Around, unit: str, tolerance: bool) -> Meant | None:
    """Line maths: with parameters, or with letters that stay."""
    bracketed = re.match(r"(?P<key>.+?)\s*\[(?P<unit>[^\[\]]+)\]$", text)
    if bracketed and is_unit(bracketed["unit"]):
        text, unit = bracketed["key"], unit or bracketed["unit"]
    words = set(WORD.findall(text))
    strange = words - around.names - FUNCTIONS
    if len(text) > 200 or any(len(word) > 3 or not re.search(r"[\d=<>^*+(]", text) for word in strange):
        return None
    try:
        tree = read_authored(to_document(text, around.habits), around.settings)
    except NotationError:
        return None
    names = names_in(tree)
    shape = shape_of(text)
    if names and names <= around.names and not shape:
        close, guesses = {}, []
        if not tolerance:
            close = {"mode": "relative", "tolerance": "1%"}
            guesses = ["Nothing says how close: within 1 % of the answer."]
        typed = {"key": text, **close} | ({"unit": unit} if unit else {})
        return Meant("quantity" if unit else "number", typed, "", guesses)
    if any(len(name) > 1 and not re.search(r"[\d_]", name) for name in names - around.names):
        return None
    # a single letter is an answer to a choice that was lost, or a word
    if names - around.names and re.fullmatch(r"[A-Za-z]+", text):
        return None
    kind = shape or ("formula" if names else "number")
    if names <= around.names and names:
        # worked out in every draw: what is wrong with it is told when the question is read
        return Meant(kind, {"key": text})
    if not around.can_be(kind, text):
        return None
    words_of = KINDS[kind].words
    told = [f"The answer was taken as {'an' if words_of[0] in 'aeiou' else 'a'} {words_of}."]
    return Meant(kind, {"key": text}, guesses=told if kind in {"formula", "equation"} else [])


def shape_of(text: str) -> str:
    """The kind of answer that the signs of a line speak of; empty where they speak of one value."""
    if text.startswith("{"):
        return "set"
    named = re.match(r"(vec|matrix|list)\b", text)
    if named:
        return {"vec": "vector"}.get(named[1], named[1])
    if re.match(r"\([^()]*(?:\([^()]*\)[^()]*)*[,;].*\)$", text):
        return "point"
    if re.search(r"[<>≤≥]", text):
        return "inequality"
    return "equation" if "=" in text else ""


def worded(text: str, unit: str) -> Meant:
    """Words: compared when they are few, read by somebody when they are many."""
    sentences = len(re.findall(r"[.!?](?:\s|$)", text))
    if len(text.split()) > AT_LENGTH or sentences > 1 or "\n" in text:
        return Meant("essay", guesses=["An answer of this length is read by a person; it was taken as the solution."],
                     model=text)  # fmt: skip
    accepted = [each for each in BETWEEN_WAYS.split(text) if each] if len(text.split()) <= 8 else [text]
    guesses = ["The answer is compared as words; capitals and spaces do not matter."]
    if len(accepted) > 1:
        guesses.append(f"Any of these is accepted: {'; '.join(accepted)}.")
    return Meant("text", {"accept": "\n".join(accepted)}, guesses=guesses)


def lettered_answer(answer: str, letters: Sequence[str], texts: Sequence[str]) -> list[int] | None:
    """The options that an answer names, by their letters or by what they say; None where it names none."""
    plain = CODED.sub("", answer).strip().strip("*.").strip()
    lone = re.match(r"(?:option\s+)?\(?([A-Za-z])\)?(?:[.):]|\s*[-–—]|\s|$)", plain, re.IGNORECASE)
    said = [folded(text) for text in texts]
    if folded(plain) in said:
        return [said.index(folded(plain))]
    pieces = [each for each in re.split(r"\s*(?:,|;|&|\band\b|\s)\s*", plain) if each]
    bare = [each.strip("().").upper() for each in pieces]
    known = [letter.upper() for letter in letters]
    if len(bare) == 1 and 1 < len(bare[0]) <= len(known) and set(bare[0]) <= set(known):
        bare = list(bare[0])
    if bare and all(each in known for each in bare):
        return [known.index(each) for each in bare]
    if lone and lone[1].upper() in known:
        rest = folded(plain[lone.end() :])
        k = known.index(lone[1].upper())
        if not rest or rest == said[k] or said[k].startswith(rest) or rest.startswith(said[k]):
            return [k]
    every = [piece for piece in re.split(r"\s*;\s*", plain) if piece]
    if len(every) > 1 and all(folded(each) in said for each in every):
        return [said.index(folded(each)) for each in every]
    return None


def folded(text: str) -> str:
    return " ".join(CODED.sub("", text).casefold().split()).strip(" .*")
