"""What the fields of a part spell: the answer of a question document, and the fields that show one."""

from __future__ import annotations

import json
import re
from typing import Any

from vorlage.core.answers import read_rubric, rubric_lines
from vorlage.core.questions import DataTable

from .closeness import closeness_words, tolerance, tolerance_of
from .gap_rows import gap_row, raw_gap
from .rows import COLLECTIONS, WRITTEN_FORMS, OptionRow, PartRow, TableRow, number_or_text
from .uids import identity_of, new_uid


def raw_part(row: PartRow) -> dict[str, Any]:
    return {
        "id": identity_of(row.uid),
        "wording": row.wording.replace("\r\n", "\n"),
        "marks": row.marks,
        "after": "" if row.kind in CHOSEN_KINDS else row.after,
        "solution": row.solution.replace("\r\n", "\n"),
        "under": bool(row.under),
        "gives": row.gives if row.kind in {"number", "quantity", "formula"} else "",
        "hints": [{"text": text, "cost": cost or "0"} for text, cost, _ in table(row.hints)],
        "feedback": {"right": row.said_right, "partly": row.said_partly, "wrong": row.said_wrong},
        "trials": [{"response": response, "outcome": outcome or "right"} for response, outcome in tried(row.trials)],
        "answer": raw_answer(row),
    }


def tried(text: str) -> list[tuple[str, str]]:
    """Lines of an answer and its outcome after the last stroke."""
    found = []
    for written in text.splitlines():
        response, stroke, outcome = written.rpartition("|")
        if written.strip():
            found.append((response.strip(), outcome.strip()) if stroke else (written.strip(), ""))
    return found


def raw_answer(row: PartRow) -> dict[str, Any]:
    """What the fields of a kind spell; fields of other kinds wait until they are wanted again."""
    answer = answer_of_kind(row)
    if row.limits.strip() and row.kind not in CHOSEN_KINDS:
        answer["limits"] = [raw_limit(text) for text in row.limits.splitlines() if text.strip()]
    return answer


def answer_of_kind(row: PartRow) -> dict[str, Any]:
    if row.kind == "number":
        return raw_number(row)
    if row.kind == "quantity":
        rules: dict[str, Any] = {
            "unit": row.unit,
            "unit_rule": row.unit_rule or "required",
            "convert": not row.same_unit,
        }
        if row.unit_share:
            rules["share"] = row.unit_share
        return {**raw_number(row), **rules, "kind": "quantity"}
    if row.kind in CHOSEN_KINDS:
        return raw_choice(row)
    if row.kind == "text":
        accepted = [text.strip() for text in row.accept.splitlines() if text.strip()]
        return {
            "kind": "text", "accept": accepted, "match": row.match or "whole", "case": bool(row.case),
            "spacing": bool(row.spacing),
        }  # fmt: skip
    if row.kind == "conditions":
        return raw_conditions(row)
    answer: dict[str, Any] = {"kind": row.kind, "key": row.key, "slips": raw_slips(row)}
    if row.kind == "formula":
        answer |= {"form": row.form or "any", "where": raw_where(row)}
        if row.up_to:
            answer["up_to"] = row.up_to
    if row.kind == "equation":
        answer |= {"form": row.equation_form or "any", "subject": row.subject, "where": raw_where(row)}
    if row.kind in {"inequality", "interval"} and row.solved:
        answer["form"] = "solved"
    if row.kind in COLLECTIONS:
        answer |= {"tolerance": tolerance(row.mode, row.tolerance), "partial": bool(row.partial)}
        if row.cost and row.kind == "set":
            answer["cost"] = row.cost
    if row.kind == "chemical":
        answer |= {"multiple": bool(row.multiple), "states": bool(row.states)}
    if row.share and row.kind in {"formula", "equation", "inequality", "chemical"}:
        answer["share"] = row.share
    return answer


def raw_conditions(row: PartRow) -> dict[str, Any]:
    """The example, and a line for each condition: the relation, its share, what is said when it is not met."""
    relations = [
        {"relation": relation, "feedback": feedback} | ({"share": share} if share else {})
        for relation, share, feedback in table(row.relations)
    ]
    return {
        "kind": "conditions", "key": row.key, "relations": relations, "count": number_or_text(row.count or "1"),
        "different": not row.alike, "form": row.item_form or "any",
    }  # fmt: skip


def raw_limit(text: str) -> dict[str, Any]:
    """``whole``, ``0..100``, ``length ..12`` or ``pattern [a-z]+``, and after a stroke what is said."""
    rule, stroke, words = text.rpartition(" | ")
    rule, words = (rule, words) if stroke else (text.strip().removesuffix("|"), "")
    rule, words = rule.strip(), words.strip()
    name, _, rest = rule.partition(" ")
    if name == "pattern":
        return {"rule": "pattern", "pattern": rest.strip(), "words": words}
    if rule == "whole":
        return {"rule": "whole", "words": words}
    low, _, high = (rest if name == "length" else rule).partition("..")
    ends = {"low": low.strip(), "high": high.strip(), "words": words}
    return {"rule": "length" if name == "length" else "between", **ends}


def limit_words(limit: dict[str, Any]) -> str:
    """A limit as ``raw_limit`` reads it."""
    rule = limit["rule"]
    said = {
        "whole": "whole",
        "pattern": f"pattern {limit['pattern']}",
        "between": f"{limit['low']}..{limit['high']}",
        "length": f"length {limit['low']}..{limit['high']}",
    }[rule]
    return f"{said} | {limit['words']}" if limit["words"] else said


CHOSEN_KINDS = frozenset(["blanks", "hotspot", "choice", "true_false", "match", "order", "essay", "scale", "none"])


def raw_choice(row: PartRow) -> dict[str, Any]:
    """What the fields of a kind spell that is not typed."""
    used = [option for option in row.options if option.text.strip() or option.pair.strip()]
    answer: dict[str, Any] = {"kind": row.kind}
    if row.kind == "choice":
        options = [
            {
                "id": identity_of(option.uid),
                "text": option.text,
                "share": option.share or "0",
                "feedback": option.feedback,
                "fixed": bool(option.fixed),
            }
            for option in used
        ]
        answer |= {"choose": row.choose or "one", "shuffle": not row.keep_order, "options": options}
    elif row.kind == "blanks":
        answer["gaps"] = [raw_gap(gap) for gap in row.gaps if not gap.empty]
    elif row.kind == "hotspot":
        rows = table(row.regions)
        regions = [
            {"id": identity, "region": region, "feedback": feedback} | ({"share": share} if share else {})
            for identity, (region, share, feedback) in zip(known_again(row, [first for first, _, _ in rows]), rows)
        ]
        answer |= {"figure": row.figure, "regions": regions, "clicks": number_or_text(row.clicks or "1")}
    elif row.kind == "true_false":
        answer["key"] = row.key
    elif row.kind == "match":
        pairs = [
            {"id": identity_of(option.uid), "left": option.text, "right": option.pair}
            | ({"share": option.share} if option.share.strip() else {})
            for option in used
            if option.text.strip()
        ]
        distractors = [
            {"id": identity_of(option.uid), "text": option.pair} for option in used if not option.text.strip()
        ]
        answer |= {"pairs": pairs, "distractors": distractors}
        if row.cost:
            answer["cost"] = row.cost
    elif row.kind == "order":
        items = [{"id": identity_of(option.uid), "text": option.text} for option in used]
        answer |= {"items": items, "score": row.score or "run"}
    elif row.kind == "essay":
        answer |= {"words": number_or_text(row.words or "0"), "rubric": raw_rubric(row)}
    elif row.kind == "scale":
        answer |= {"steps": number_or_text(row.steps or "5"), "low": row.low, "high": row.high}
    return answer


def raw_rubric(row: PartRow) -> Any:
    """The criteria of the rubric's lines; the lines themselves where they cannot be read, so that it is said why."""
    lines = row.rubric.replace("\r\n", "\n")
    try:
        criteria = read_rubric(lines)
    except ValueError:
        return lines
    for identity, criterion in zip(known_again(row, [each["name"] for each in criteria]), criteria):
        criterion["id"] = identity
    return criteria


def known_again(row: PartRow, words: list[str]) -> list[str]:
    """The identities of what stands in the lines of a part, one a line: of a line that is as it was, and of a changed
    one in its place; empty for a new one."""
    try:
        kept = [(str(said), str(identity)) for said, identity in json.loads(row.known or "[]")]
    except (ValueError, TypeError):
        kept = []
    found = [""] * len(words)
    for place, said in enumerate(words):
        same = next((each for each in kept if each[0] == said), None)
        if same:
            kept[kept.index(same)] = ("", "")
            found[place] = identity_of(same[1])
    if len(kept) == len(words):
        found = [identity or identity_of(other) for identity, (_, other) in zip(found, kept)]
    return found


def as_known(members: list[dict[str, Any]], name: str) -> str:
    """What ``known_again`` needs of the members of a list that is typed as lines."""
    return json.dumps([[member[name], member["id"]] for member in members], ensure_ascii=False) if members else ""


HEADING = re.compile(r"(?P<name>.*?)\s*(?:[\[(](?P<unit>[^\])]*)[\])])?\s*\Z")


def raw_table(row: TableRow) -> dict[str, Any]:
    """A table from what was pasted: cells between tabs (or semicolons), the first line names the columns,
    with a unit in brackets where there is one."""
    separator = "\t" if "\t" in row.text else ";"
    cells = [[cell.strip() for cell in line.split(separator)] for line in row.text.splitlines() if line.strip()]
    columns = []
    for heading in cells[0] if cells else []:
        found = HEADING.match(heading)
        name = "_".join((found["name"] if found else heading).split())
        columns.append({"name": name, "unit": (found["unit"] or "") if found else ""})
    return {"name": row.name.strip(), "columns": columns, "rows": cells[1:]}


def pasted(table: DataTable) -> str:
    """A table as a spreadsheet would paste it."""
    heads = [f"{column.name} [{column.unit}]" if column.unit else column.name for column in table.columns]
    return "\n".join("\t".join(row) for row in (heads, *table.rows))


def raw_where(row: PartRow) -> list[str]:
    return [piece.strip() for piece in row.where.split(";") if piece.strip()]


def raw_number(row: PartRow) -> dict[str, Any]:
    answer: dict[str, Any] = {"kind": "number", "key": row.key, "tolerance": tolerance(row.mode, row.tolerance)}
    if row.written.strip():
        answer["written"] = raw_written(row.written, row.share)
    answer["bands"] = [
        {"tolerance": tolerance_of(first), "share": share or "1/2", "feedback": feedback}
        for first, share, feedback in table(row.bands)
    ]
    answer["slips"] = raw_slips(row)
    answer["recognise"] = [
        {"name": name, "share": share or "0"} for name, _, share in (value.partition("|") for value in row.recognise)
    ]
    return answer


def raw_slips(row: PartRow) -> list[dict[str, Any]]:
    return [{"key": key, "share": share or "0", "feedback": feedback} for key, share, feedback in table(row.slips)]


def table(text: str) -> list[tuple[str, str, str]]:
    """Lines of three cells between upright strokes; an absolute value is written abs(…) here."""
    rows = []
    for written in text.splitlines():
        if written.strip():
            first, second, third = [*(cell.strip() for cell in written.split("|", 2)), "", ""][:3]
            rows.append((first, second, third))
    return rows


def raw_written(text: str, share: str) -> dict[str, Any]:
    """``2 dp``, ``3 sf``, ``fraction``, ``fraction in lowest terms``, ``standard form``, …"""
    demand: dict[str, Any] = {"share": share} if share else {}
    words = " ".join(text.lower().split())
    if words.endswith("in lowest terms"):
        demand["lowest_terms"] = True
        words = words.removesuffix("in lowest terms").strip()
    count, _, unit = words.partition(" ")
    if count.isdecimal() and unit in {"dp", "sf"}:
        demand["decimal_places" if unit == "dp" else "significant_figures"] = int(count)
    elif words:
        demand["form"] = WRITTEN_FORMS.get(words, words)
    return demand


def part_row(part: dict[str, Any]) -> PartRow:
    """The fields that show a part of a document."""
    answer = part["answer"]
    row = PartRow(
        uid=part["id"] or new_uid(),
        wording=part["wording"],
        kind=answer["kind"],
        key=answer.get("key", ""),
        marks=str(part["marks"]),
        after=part["after"],
        solution=part["solution"],
        gives=part["gives"],
        under=ticked(part["under"]),
        hints=lines((hint["text"], hint["cost"]) for hint in part["hints"]),
        said_right=part["feedback"]["right"],
        said_partly=part["feedback"]["partly"],
        said_wrong=part["feedback"]["wrong"],
        trials=lines((trial["response"], trial["outcome"]) for trial in part["trials"]),
        slips=lines((slip["key"], slip["share"], slip["feedback"]) for slip in answer.get("slips", ())),
        where="; ".join(answer.get("where", ())),
        limits="\n".join(map(limit_words, answer.get("limits", ()))),
    )
    if "tolerance" in answer:
        tolerance = answer["tolerance"]
        row.mode = tolerance["mode"]
        between = row.mode == "between"
        row.tolerance = f"{tolerance['low']}..{tolerance['high']}" if between else tolerance["value"]
    if row.kind in {"number", "quantity"}:
        row.bands = lines(
            (closeness_words(band["tolerance"]), band["share"], band["feedback"]) for band in answer["bands"]
        )
        row.recognise = [
            item["name"] if item["share"] == "0" else f"{item['name']}|{item['share']}" for item in answer["recognise"]
        ]
        if answer["written"]:
            row.written = written_words(answer["written"])
            row.share = answer["written"]["share"]
    elif "share" in answer:
        row.share = answer["share"]
    if row.kind == "quantity":
        row.unit, row.unit_rule, row.same_unit = answer["unit"], answer["unit_rule"], ticked(not answer["convert"])
        row.unit_share = answer["share"]
    elif row.kind == "formula":
        row.form, row.up_to = answer["form"], answer["up_to"] or ""
    elif row.kind == "equation":
        row.equation_form, row.subject = answer["form"], answer["subject"]
    elif row.kind in {"inequality", "interval"}:
        row.solved = ticked(answer["form"] == "solved")
    elif row.kind in COLLECTIONS:
        row.partial, row.cost = ticked(answer["partial"]), answer["cost"] or ""
    elif row.kind == "conditions":
        row.relations = lines((each["relation"], each["share"] or "", each["feedback"]) for each in answer["relations"])
        row.count, row.alike = str(answer["count"]), ticked(not answer["different"])
        row.item_form = answer["form"]
    elif row.kind == "chemical":
        row.multiple, row.states = ticked(answer["multiple"]), ticked(answer["states"])
    elif row.kind == "choice":
        row.choose, row.keep_order = answer["choose"], ticked(not answer["shuffle"])
        row.options = [
            OptionRow(
                option["text"], "", "" if option["share"] == "0" else option["share"], option["feedback"],
                ticked(option["fixed"]), option["id"] or new_uid(),
            )
            for option in answer["options"]
        ]  # fmt: skip
    elif row.kind == "hotspot":
        row.figure, row.clicks = answer["figure"], str(answer["clicks"])
        row.regions = lines((spot["region"], spot["share"] or "", spot["feedback"]) for spot in answer["regions"])
        row.known = as_known(answer["regions"], "region")
    elif row.kind == "blanks":
        row.gaps = [gap_row(gap) for gap in answer["gaps"]]
    elif row.kind == "match":
        row.options = [
            OptionRow(pair["left"], pair["right"], pair["share"] or "", uid=pair["id"] or new_uid())
            for pair in answer["pairs"]
        ]
        row.cost = "" if answer["cost"] == "0" else answer["cost"]
        row.options += [OptionRow("", each["text"], uid=each["id"] or new_uid()) for each in answer["distractors"]]
    elif row.kind == "order":
        row.options = [OptionRow(item["text"], uid=item["id"] or new_uid()) for item in answer["items"]]
        row.score = answer["score"]
    elif row.kind == "essay":
        row.words, row.rubric = str(answer["words"] or ""), rubric_lines(answer["rubric"])
        row.known = as_known(answer["rubric"], "name")
    elif row.kind == "scale":
        row.steps, row.low, row.high = str(answer["steps"]), answer["low"], answer["high"]
    elif row.kind == "text":
        row.accept, row.match = "\n".join(answer["accept"]), answer["match"]
        row.case, row.spacing = ticked(answer["case"]), ticked(answer["spacing"])
    return row


def ticked(on: bool) -> str:
    """What a box sends."""
    return "on" if on else ""


def written_words(demand: dict[str, Any]) -> str:
    if demand["decimal_places"] is not None:
        return f"{demand['decimal_places']} dp"
    if demand["significant_figures"] is not None:
        return f"{demand['significant_figures']} sf"
    names = {form: words for words, form in WRITTEN_FORMS.items()}
    words = names.get(demand["form"], "")
    return f"{words} in lowest terms".strip() if demand["lowest_terms"] else words


def lines(rows: Any) -> str:
    """Rows of cells between upright strokes, without those that are empty at the end."""
    return "\n".join(" | ".join(cells) for cells in rows)
