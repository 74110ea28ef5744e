"""How papers look: what is chosen for a test, and the words that the paper itself says."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Any

from ..notation import quoted

# What can be chosen, and what it is called; the first is what is usual.
CHOICES: Mapping[str, Mapping[str, str]] = {
    "paper": {"a4": "A4", "us-letter": "Letter"},
    "letters": {"usual": "as usual, 11 pt", "large": "large print, 17 pt"},
    "face": {"school": "Schola, a schoolbook face", "plain": "Hyperlegible, easier to tell letters apart"},
    "language": {"en": "English", "de": "German"},
    "working": {"blank": "blank", "lines": "lines", "squares": "squares of 5 mm"},
    "header": {
        "plain": "the title at the left", "centred": "the title in the middle", "band": "all between two rules",
    },
    "figures": {"below": "below their text", "beside": "beside it, where it is long enough"},
}  # fmt: skip
# What a place can have in place of that; an empty one is as the test has it.
ROOMS: Mapping[str, str] = {
    "": "as the test has it", **CHOICES["working"],
    "box": "a box to draw in", "axes": "axes to draw in", "none": "none",
}  # fmt: skip
MOST_MINUTES, MOST_ROOM = 600, 200


@dataclass(frozen=True, slots=True)
class Look:
    """How the papers of a test look; ``CHOICES`` says what can stand where."""

    paper: str = "a4"
    letters: str = "usual"
    face: str = "school"
    language: str = "en"
    # what the room for working is filled with
    working: str = "blank"
    # a page of its own with what students fill in, what they may use, and a table for the marker
    cover: bool = False
    # whether there are as many pages as go on whole sheets, printed on both sides
    even: bool = False
    # how the head of the paper is set, and whether the mark of the school stands there
    header: str = "plain"
    mark: bool = False
    # where figures stand
    figures: str = "below"
    # whether what is left of a page is given to working
    fill: bool = False
    # whether answers go on a sheet of their own, with boxes for choices
    sheet: bool = False
    # the time allowed, and what is needed, as the cover says it
    minutes: int | None = None
    materials: str = ""

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Look:
        """What was kept, by this version or another; what it does not know is as usual."""
        known = {each.name: kept[each.name] for each in fields(cls) if each.name in kept}
        return cls(**{name: value for name, value in known.items() if name not in CHOICES or value in CHOICES[name]})

    @property
    def kept(self) -> dict[str, Any]:
        """What is not as usual, as it is kept: ``Look.of`` has the same look from it."""
        usual, names = Look(), [each.name for each in fields(self)]
        return {name: getattr(self, name) for name in names if getattr(self, name) != getattr(usual, name)}

    @property
    def words(self) -> Mapping[str, str]:
        return WORDS[self.language]

    @property
    def of_keys(self) -> Look:
        """How keys look, which only markers read."""
        return Look(paper=self.paper)

    @property
    def enlarged(self) -> Look:
        """The same in large print."""
        return replace(self, letters="large")

    @property
    def scale(self) -> float:
        """How much larger letters are than usual."""
        return 17 / 11 if self.letters == "large" else 1.0

    @property
    def bottom(self) -> float:
        """Millimetres from the top of a page to where its text ends."""
        return (297.0 if self.paper == "a4" else 279.4) - 21.0

    @property
    def page_height(self) -> float:
        """Millimetres that a question may fill on one page."""
        return 235.0 if self.paper == "a4" else 217.0


# What the paper itself says, beside what authors write.
ENGLISH = {
    "answer": "Answer", "mark": "mark", "marks": "marks", "of-marks": "of {} marks",
    "name": "Name", "date": "Date", "class": "Class", "number": "Candidate number", "form": "form",
    "time": "Time", "minutes": "{} minutes", "calculator": "Calculator", "allowed": "allowed",
    "not-allowed": "not allowed", "by-part": "see each part", "materials": "You need",
    "calculator-allowed": "Calculator allowed", "no-calculator": "No calculator",
    "closed": "Do not turn this page until you are told to.", "marker": "For the marker", "question": "Question",
    "total": "Total", "most": "Out of", "given": "Marks", "total-of": "Total for question {}",
    "bonus": "Bonus: these marks are beyond those of the test", "turn": "Turn over", "end": "End of the questions",
    "continued": "Question {}, continued", "blank": "This page is left blank.", "page-of": "{} of {}",
    "insert": "Insert", "sheet": "Answer sheet", "on-paper": "on the paper", "mark-of": "The mark of {}",
    "figure": "Figure {}",
}  # fmt: skip
GERMAN = {
    "answer": "Antwort", "mark": "Punkt", "marks": "Punkte", "of-marks": "von {} Punkten",
    "name": "Name", "date": "Datum", "class": "Klasse", "number": "Prüfungsnummer", "form": "Fassung",
    "time": "Zeit", "minutes": "{} Minuten", "calculator": "Taschenrechner", "allowed": "erlaubt",
    "not-allowed": "nicht erlaubt", "by-part": "siehe jeden Teil", "materials": "Du brauchst",
    "calculator-allowed": "Taschenrechner erlaubt", "no-calculator": "Ohne Taschenrechner",
    "closed": "Erst umblättern, wenn es gesagt wird.", "marker": "Für die Korrektur", "question": "Aufgabe",
    "total": "Summe", "most": "Höchstens", "given": "Punkte", "total-of": "Summe der Aufgabe {}",
    "bonus": "Zusatzaufgabe: ihre Punkte zählen über die der Arbeit hinaus", "turn": "Bitte wenden",
    "end": "Ende der Aufgaben", "continued": "Aufgabe {}, Fortsetzung", "blank": "Diese Seite bleibt frei.",
    "page-of": "{} von {}", "insert": "Beilage",
    "sheet": "Antwortblatt", "on-paper": "auf der Arbeit selbst", "mark-of": "Das Zeichen von {}",
    "figure": "Abbildung {}",
}  # fmt: skip
WORDS: Mapping[str, Mapping[str, str]] = {"en": ENGLISH, "de": GERMAN}


@lru_cache(maxsize=64)
def look_markup(look: Look) -> str:
    """What the layout asks, as an expression of Typst: ``look`` and the words ``w``."""
    said = ", ".join(f"{quoted(name)}: {quoted(text)}" for name, text in look.words.items())
    chosen = ", ".join(f"{name}: {quoted(getattr(look, name))}" for name in CHOICES)
    sizes = f"size: {11 * look.scale:g}pt, page-height: {look.page_height:g}mm"
    switched = ", ".join(f"{name}: {str(getattr(look, name)).lower()}" for name in ("even", "fill", "sheet"))
    return f"(look: ({chosen}, {switched}, {sizes}), w: ({said}))"
