"""The questions that come with the application: those of the demo, and ready ones to start from, each for one idea.

They are checked like anything typed.
"""

from __future__ import annotations

import json
import re
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vorlage.core.budget import loaded_once
from vorlage.core.exchange.plain import read_plain
from vorlage.core.questions import Filing, QuestionDocument, load_filed

ROOT = Path(__file__).resolve().parents[2]
DEMO, GALLERY = ROOT / "demo", ROOT / "gallery/questions.toml"


def samples() -> dict[str, tuple[QuestionDocument, Filing]]:
    """The sample questions and where they are filed, by their short names."""
    found = sorted((DEMO / "questions").glob("*.json"))
    return {path.stem: load_filed(json.loads(path.read_text("utf-8"))) for path in found}


def bank() -> dict[str, tuple[QuestionDocument, Filing]]:
    """The questions of the demo's bank and where they are filed, by their short names: pages of plain text, a subject
    each. Raises ``ValueError`` for a page that is not read without a guess."""
    found: dict[str, tuple[QuestionDocument, Filing]] = {}
    for path in sorted((DEMO / "bank").glob("*.md")):
        reading = read_plain(path.read_text("utf-8"))
        for each in reading.questions:
            loaded = each.loaded()
            if loaded is None or each.guesses or each.unread or each.lacking:
                raise ValueError(f"{path.name}, line {each.line}: {each.faults or each.guesses or each.unread}")
            found[short_name(each.title)] = loaded
    return found


def short_name(title: str) -> str:
    return "-".join(re.findall(r"[a-z0-9]+", title.lower()))


@dataclass(frozen=True, slots=True)
class Ready:
    """A ready question: its short name, the one idea it shows, its document, and where it is filed."""

    name: str
    idea: str
    document: QuestionDocument
    filing: Filing


@loaded_once
def ready_questions() -> dict[str, Ready]:
    """All ready questions by their short names, in the order of subjects and topics."""
    raw = tomllib.loads(GALLERY.read_text("utf-8"))
    found = [ready(entry) for entry in raw["question"]]
    there = samples()
    found += [Ready(name, idea, *there[name]) for name, idea in raw["sample"].items()]
    found.sort(key=lambda each: (each.filing.topic, each.document.title))
    return {each.name: each for each in found}


def ready(entry: dict[str, Any]) -> Ready:
    """A ready question from its table."""
    document = {name: value for name, value in entry.items() if name not in {"idea", "parameters"}}
    document["parameters"] = [
        {"name": name, "definition": definition, "unit": unit, "shown": shown or "exact"}
        for name, definition, unit, shown in entry.get("parameters", [])
    ]
    return Ready(short_name(entry["title"]), entry["idea"], *load_filed(document))
