"""Markup that the core wrote, made ready for a page."""

from __future__ import annotations

import re

from django.core.signing import Signer
from django.urls import reverse
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.notation import USUAL, Habits, told, unit_markup
from vorlage.core.notation.printers.base import INVERSES, TANGENTS
from vorlage.core.quantities import as_read
from vorlage.core.text import letters_apart

# What makes the address of a picture on a student's page one that nobody else can write.
SHOWN = Signer(sep=".", salt="picture")
# An uploaded picture, as the core's printers name it.
UPLOADED = re.compile(r'href="picture:([0-9a-f]{64})"')


def unit_set(text: str) -> SafeString:
    """What stands behind a number: a unit is set as one, words stay words."""
    return safe(f"<math>{unit_markup(text)}</math>") if "^" in text else SafeString(escape(text))


def letters_set(text: str) -> SafeString:
    """What stands before an answer space: letters by themselves are set as in maths."""
    shown = (f"<i>{escape(piece)}</i>" if letter else escape(piece) for piece, letter in letters_apart(text))
    return safe("".join(shown))


NUMBERS = re.compile(r"(?<=<mn>)[^<]+(?=</mn>)|(?<=<tspan>)[−\d.]+(?=</tspan>)")
WORDS = re.compile(r"(?<=>)[^<>]+(?=<)")
LABELS = re.compile(r'(?<=aria-label=")[^"]*')


def rewritten(markup: str, habits: Habits) -> str:
    """Markup that was kept as a document's, with the decimal point, for people who write otherwise."""
    if habits == USUAL:
        return markup
    style = habits.style
    if habits.decimal_mark == "comma":
        markup = markup.replace("<mo>,</mo>", "<mo>;</mo>")
        markup = WORDS.sub(lambda found: as_read(found[0], habits), markup)
        markup = LABELS.sub(lambda found: told(found[0], habits), markup)
    if habits.times == "dot":
        markup = markup.replace("<mo>×</mo>", "<mo>·</mo>")
    if habits.thousands == "apostrophe":
        markup = NUMBERS.sub(lambda found: found[0].replace("&#x202F;", "’").replace("\u202f", "’"), markup)
    if habits.tg:
        for name, called in TANGENTS.items():
            markup = markup.replace(f"<mi>{INVERSES.get(name, name)}</mi>", f"<mi>{called}</mi>")
    return NUMBERS.sub(lambda found: found[0].replace(".", style.mark), markup)


def for_students(markup: str) -> SafeString:
    """The same for those who have no department: a picture has an address that its page alone can tell them."""
    return mark_safe(UPLOADED.sub(lambda found: f'href="{shown_picture(found[1])}"', markup))


def shown_picture(digest: str) -> str:
    """Where a picture can be seen by whoever was shown a page with it: the address is signed."""
    return reverse("shown-picture", args=[SHOWN.sign(digest)])


def safe(markup: str) -> SafeString:
    """Markup that the core's printers and its sanitiser wrote; uploaded pictures get their addresses."""
    return mark_safe(UPLOADED.sub(lambda found: f'href="{reverse("picture", args=[found[1]])}"', markup))
