"""What stays the same of a question from revision to revision: parameters, parts, and what is offered in a part.

Marks and statistics of many revisions are joined by these identities, never by places: a part that is moved, or
reworded, stays the part that it was. All functions work on the JSON object of a document, which may be one that
cannot be used.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any

from ..answers import KINDS

Members = list[dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Listed:
    """A list whose members have identities: its name, what says most of what a member is (a name that is made from it
    is the same wherever it is made), and by what a member is found again in an earlier revision, the surest first."""

    name: str
    telling: tuple[str, ...]
    found_by: tuple[tuple[str, ...], ...]


PARAMETERS = Listed("parameters", ("name",), (("name",), ("definition", "unit")))
PARTS = Listed(
    "parts",
    ("wording", "answer"),
    (("wording", "answer"), ("wording",), ("answer",), ("gives",), ("solution",)),
)


def members_of(holder: Any, name: str) -> Members:
    """The members of a list of a document; none where it is no list."""
    found = holder.get(name) if isinstance(holder, dict) else None
    return [member for member in found if isinstance(member, dict)] if isinstance(found, list | tuple) else []


def lists_of(document: Any) -> Iterator[tuple[Listed, Members]]:
    """Every list of a document whose members have identities."""
    yield PARAMETERS, members_of(document, PARAMETERS.name)
    parts = members_of(document, PARTS.name)
    yield PARTS, parts
    for part in parts:
        yield from lists_of_answer(part.get("answer"))


def lists_of_answer(answer: Any) -> Iterator[tuple[Listed, Members]]:
    for listed in lists_of_kind(answer):
        found = members_of(answer, listed.name)
        yield listed, found
        for member in found:
            yield from lists_of_answer(member.get("answer"))


def lists_of_kind(answer: Any) -> list[Listed]:
    """The lists that an answer of its kind has; none where its kind is not known."""
    name = answer.get("kind") if isinstance(answer, dict) else None
    kind = KINDS.get(name) if isinstance(name, str) else None
    members = kind.members.items() if kind is not None else ()
    return [Listed(name, member.telling, member.found_by or (member.telling,)) for name, member in members]


# What documents of this format did not say at first: they mean it all the same.
UNSAID = {"required": False, "no_signs": False}


def without_identities(value: Any) -> Any:
    """A piece of a document as it reads, whatever its identities are, and what is empty or goes unsaid left out."""
    if isinstance(value, dict):
        cleaned = {name: without_identities(inner) for name, inner in value.items() if name != "id"}
        said = {name: inner for name, inner in cleaned.items() if inner not in (None, "", [], {})}
        return {name: inner for name, inner in said.items() if name not in UNSAID or inner != UNSAID[name]}
    return [without_identities(each) for each in value] if isinstance(value, list | tuple) else value


def says_the_same(document: dict[str, Any], other: dict[str, Any]) -> bool:
    """Whether two documents say the same, whatever the identities are under which they say it."""
    return bool(without_identities(document) == without_identities(other))


def told(member: dict[str, Any], fields: Iterable[str]) -> str:
    """What fields of a member say, to compare it with another; empty when they say nothing."""
    said = without_identities({name: member.get(name) for name in fields})
    return json.dumps(said, sort_keys=True, ensure_ascii=False, default=str) if said else ""


def identified(document: dict[str, Any]) -> dict[str, Any]:
    """The document with an identity for everything that has none, made from what it says.

    The document is changed in place. The same words give the same identity wherever they stand; where two say the
    same, the later one is told apart by its number.
    """
    taken = set[str]()
    lists = list(lists_of(document))
    for _, members in lists:
        for member in members:
            given = member.get("id")
            if not isinstance(given, str) or not given or given in taken:
                member["id"] = ""
            else:
                taken.add(given)
    for listed, members in lists:
        for member in members:
            if not member["id"]:
                member["id"] = fresh(f"{listed.name} {told(member, listed.telling)}", taken)
                taken.add(member["id"])
    return document


def fresh(words: str, taken: set[str]) -> str:
    """An identity made from words that is none of those taken."""
    made = blake2b(words.encode("utf-8", "replace"), digest_size=4, person=b"vorlage identity").hexdigest()
    number, found = 1, made
    while found in taken:
        number += 1
        found = f"{made}-{number}"
    return found


def adopted(document: dict[str, Any], earlier: dict[str, Any]) -> dict[str, Any]:
    """The document with the identities of an earlier revision for everything that it still has.

    Both are written out in full, as a checked document is. What is not found again by its words is taken for what
    stood in its place and is of its kind, and is new otherwise. The document is changed in place.
    """
    adopt(document, earlier, PARAMETERS)
    for part, before in adopt(document, earlier, PARTS):
        adopt_offered(part.get("answer"), before.get("answer"))
    return identified(document)


def adopt_offered(answer: Any, earlier: Any) -> None:
    for listed in lists_of_kind(answer):
        for member, before in adopt(answer, earlier, listed):
            adopt_offered(member.get("answer"), before.get("answer"))


def adopt(holder: Any, before: Any, listed: Listed) -> list[tuple[dict[str, Any], dict[str, Any]]]:
    """Give the members of a list the identities of those that they were, and pair the two."""
    members, earlier = members_of(holder, listed.name), members_of(before, listed.name)
    pairs: list[tuple[dict[str, Any], dict[str, Any]]] = []
    left, old = list(enumerate(members)), list(enumerate(earlier))

    def take(alike: Callable[[int, dict[str, Any]], str]) -> None:
        for entry in list(left):
            words = alike(*entry)
            found = next((other for other in old if words and alike(*other) == words), None)
            if found is not None:
                left.remove(entry)
                old.remove(found)
                pairs.append((entry[1], found[1]))

    def saying(fields: Iterable[str]) -> Callable[[int, dict[str, Any]], str]:
        return lambda place, member: told(member, fields)

    take(lambda place, member: told(member, member))
    for fields in listed.found_by:
        take(saying(fields))
    take(lambda place, member: f"{place} {kind_of(member)}")
    for member, was in pairs:
        member["id"] = was["id"]
    known = {was["id"] for was in earlier}
    for _, member in left:
        if member.get("id") in known:
            member["id"] = ""
    return pairs


def kind_of(member: dict[str, Any]) -> str:
    answer = member.get("answer")
    return str(answer.get("kind", "")) if isinstance(answer, dict) else ""
