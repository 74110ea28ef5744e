"""The filing of a question in the fields of the desk."""

from __future__ import annotations

from typing import Any

from vorlage.core.answers import number_or_text
from vorlage.core.questions import ARROW, Filing, listed, read_paths, written_paths

# Fields that hold texts; whether a calculator is allowed is ticked.
FILED_FIELDS = ("topics", "level", "demand", "minutes", "tags", "references", "source", "licence", "note")


def as_typed(filing: Filing) -> dict[str, str]:
    """What stands in the fields of a filing."""
    return {
        "topics": written_paths(filing.topics),
        "level": str(filing.level),
        "demand": str(filing.demand),
        "minutes": "" if filing.minutes is None else f"{filing.minutes.normalize():f}",
        "tags": ", ".join(filing.tags),
        "references": ", ".join(filing.references),
        "source": filing.source,
        "licence": filing.licence,
        "note": filing.note,
    }


def as_filed(typed: dict[str, str], calculator: bool) -> dict[str, Any]:
    """The JSON object of the filing that the fields spell; it may not be one."""
    minutes = typed["minutes"].strip().replace(",", ".")
    return {
        "topics": read_paths(typed["topics"]),
        "level": number_or_text(typed["level"]),
        "demand": number_or_text(typed["demand"] or "0"),
        "calculator": calculator,
        "minutes": minutes or None,
        "tags": listed(typed["tags"]),
        "references": listed(typed["references"]),
        "source": typed["source"],
        "licence": typed["licence"],
        "note": typed["note"].replace("\r\n", "\n"),
    }


def earlier_fields(kept: dict[str, Any]) -> dict[str, Any]:
    """The fields of a draft; those of versions before had a subject and a topic."""
    subject, topic = kept.get("subject"), kept.get("topic")
    if "topics" in kept or not isinstance(subject, str) or not subject:
        return kept
    path = [subject.capitalize(), *([topic] if isinstance(topic, str) and topic else [])]
    return {**kept, "topics": ARROW.join(path)}
