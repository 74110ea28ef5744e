"""Ready questions to start from, each for one idea; checked like anything typed."""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from vorlage.core.questions import QuestionDocument, load_document
from vorlage.demo_data import documents

FILE = Path(__file__).resolve().parents[2] / "gallery/questions.toml"


@dataclass(frozen=True, slots=True)
class Ready:
    """A ready question: its short name, the one idea it shows, and its document."""

    name: str
    idea: str
    document: QuestionDocument


@cache
def ready_questions() -> dict[str, Ready]:
    """All ready questions by their short names, in the order of subjects and topics."""
    raw = tomllib.loads(FILE.read_text("utf-8"))
    found = [ready(entry) for entry in raw["question"]]
    samples = documents()
    found += [Ready(name, idea, samples[name]) for name, idea in raw["sample"].items()]
    found.sort(key=lambda each: (each.document.subject, each.document.topic, each.document.title))
    return {each.name: each for each in found}


def ready(entry: dict[str, Any]) -> Ready:
    """A ready question from its table."""
    document = {name: value for name, value in entry.items() if name not in {"idea", "parameters"}}
    document["parameters"] = [
        {"name": name, "definition": definition, "unit": unit, "shown": shown or "exact"}
        for name, definition, unit, shown in entry.get("parameters", [])
    ]
    name = "-".join(re.findall(r"[a-z0-9]+", entry["title"].lower()))
    return Ready(name, entry["idea"], load_document(document))
