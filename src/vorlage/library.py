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
from vorlage.core.questions import Filing, QuestionDocument, load_filed

ROOT = Path(__file__).resolve().parents[2]
DEMO, GALLERY = ROOT / "demo", ROOT / "gallery/questions.toml"


def samples() -> dict[str, tuple[QuestionDocument, Filing]]:
    """The sample questions and where they are filed, by their short names."""
    found = sorted((DEMO / "questions").glob("*.json"))
    return {path.stem: load_filed(json.loads(path.read_text("utf-8"))) for path in found}


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
    name = "-".join(re.findall(r"[a-z0-9]+", entry["title"].lower()))
    return Ready(name, entry["idea"], *load_filed(document))
