"""Students who are not there: what they would answer, right, nearly right, or not at all."""

from __future__ import annotations

import random
import re
from collections.abc import Mapping
from typing import Any

UNIT = re.compile(r"\[([^\]]*)\]")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
# What is written at length.
SENTENCES = (
    "The tide carries more water, so the current is stronger at the narrow place.",
    "Because both forces turn about the same hinge, their moments have to be equal.",
    "It is warmer, so the air can hold more water vapour than before.",
)
# What cannot be read, as people type it.
UNREADABLE = ("2*(", "about", "5,,2", "= ?")


def as_typed(part: Mapping[str, Any], key: str) -> Any:
    """A key as it stands in the table of keys, as a student would give it for a part of a sheet."""
    shape, plain = part["shape"], key.strip().strip('“”"')
    if shape == "options":
        letters = re.findall(r"[A-Z]", plain)
        return letters if part["many"] else "".join(letters[:1])
    if shape == "items":
        return ", ".join(re.findall(r"[A-Z]", plain))
    if shape == "pairs":
        return dict(re.findall(r"(\d+) ([A-Z])", plain))
    if shape == "places":
        found = [[float(x), float(y)] for x, y in re.findall(r"\((-?[\d.]+)[,;] (-?[\d.]+)\)", plain)]
        return found[: part["places"]]
    if shape == "gaps":
        inside = plain.removeprefix("list(").removesuffix(")")
        return [piece.strip().strip('“”"') for piece in inside.split(",")]
    return UNIT.sub(lambda found: found[1], plain).strip()


def answer_of(chance: random.Random, part: Mapping[str, Any], key: str, skill: float = 0.65) -> Any:
    """What a student answers who is right so often; nothing where they leave it out."""
    shape, luck = part["shape"], chance.random()
    if shape == "ruled":
        return chance.choice(SENTENCES) if luck < 0.9 else ""
    if shape == "scale":
        return str(chance.randint(1, part["steps"]))
    if luck < skill:
        return as_typed(part, key)
    if luck > 0.96:
        return ""
    if shape == "options":
        letter = chance.choice(part["offers"])[0]
        return [letter] if part["many"] else letter
    if shape == "words":
        return chance.choice(part["words"])
    if shape in {"items", "pairs", "places", "gaps"}:
        return as_typed(part, key) if luck < 0.8 else ""
    if luck > 0.93:
        return chance.choice(UNREADABLE)
    return nearly(chance, str(as_typed(part, key)))


def nearly(chance: random.Random, text: str) -> str:
    """A line with a slip in it: a digit, a sign, a power of ten, a unit left out."""
    found = NUMBER.search(text)
    if found is None:
        return f"2{text}" if chance.random() < 0.5 else f"-{text}"
    number = found[0]
    slips = (
        f"{float(number) * 10:g}",
        f"{float(number) / 10:g}",
        f"-{number}" if not number.startswith("-") else number[1:],
        f"{float(number) + chance.choice((-1, 1)):g}",
        f"{float(f'{float(number) * 1.04:.4g}'):g}",
    )
    changed = text[: found.start()] + chance.choice(slips) + text[found.end() :]
    return changed.split(" ")[0] if chance.random() < 0.2 else changed
