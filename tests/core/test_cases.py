"""Every page of cases of every kind of answer: what is right, what is partly right, what is wrong, what cannot be read."""

import json
from collections import Counter
from collections.abc import Iterator
from typing import Any
from unittest import TestCase

from vorlage.core.answers import KINDS, chapters, check_case
from vorlage.core.answers.check import batch_checker, case_settings, case_values

from .second_opinion import NotCovered, fault_of_proof, fault_of_refutation

OUTCOMES = ("right", "partly", "wrong", "unreadable", "blank", "waiting")


def cases(page: dict[str, Any]) -> Iterator[tuple[Any, str, str, str]]:
    """Response (a string, or what names options), outcome, share and what decides; the last two are empty where the page does not say."""
    for outcome in OUTCOMES:
        listed = page.get(outcome, [])
        for response in listed:
            expected = listed[response] if isinstance(listed, dict) else ""
            share, colon, because = expected.partition(": ")
            if outcome != "partly":
                share, because = "", expected
            elif not colon:
                because = ""
            yield response, "wrong" if share == "0" else outcome, share, because


class Cases(TestCase):
    def test_every_page(self) -> None:
        count = 0
        shown = set[str]()
        for chapter in chapters():
            for page in chapter["page"]:
                shown.add(page["answer"]["kind"])
                for response, outcome, share, because in cases(page):
                    count += 1
                    with self.subTest(f"{page['title']}: {response}"):
                        case = {name: page[name] for name in ("answer", "parameters", "settings") if name in page}
                        verdict = check_case(case | {"response": response})
                        self.assertEqual(verdict.outcome, outcome, verdict)
                        if share:
                            self.assertEqual(str(verdict.share), share)
                        if because:
                            self.assertEqual(verdict.because, because)
                        if outcome == "unreadable":
                            self.assertTrue(verdict.feedback)
        self.assertGreater(count, 1000)
        # whoever adds a kind shows what it does; where nothing is asked there is nothing to show
        self.assertEqual(shown, {name for name, kind in KINDS.items() if kind.document.asks})


class SecondOpinion(TestCase):
    """What is proved or refuted on these pages, looked at by an evaluator that shares no code with the checker."""

    def test_every_refutation_has_a_witness_that_speaks_and_every_proof_holds_elsewhere(self) -> None:
        looked: Counter[str] = Counter()
        for chapter in chapters():
            for page in chapter["page"]:
                kind = page["answer"]["kind"]
                if kind not in {"formula", "equation", "inequality"} or page["answer"].get("up_to"):
                    continue
                given = page.get("settings", {})
                settings = case_settings(given, page.get("parameters", {}), {})
                _, checker = batch_checker(json.dumps(page["answer"], sort_keys=True), settings)
                drawn: Any = checker.drawn(case_values(page.get("parameters", {}), settings))
                if settings.complex or getattr(drawn, "where", ()):
                    continue
                for response, outcome, _, _ in cases(page):
                    verdict = drawn.check(response)
                    if verdict.certainty is None or verdict.tree is None or verdict.code == "slip":
                        continue
                    degrees = settings.angle == "degrees"
                    with self.subTest(f"{page['title']}: {response}"):
                        try:
                            # between numbers there is nothing to say where
                            told_apart = verdict.certainty.kind == "refuted" and kind == "formula"
                            if verdict.certainty.witness or told_apart:
                                told = kind, drawn.key, verdict.tree, verdict.certainty, degrees
                                self.assertEqual(fault_of_refutation(*told), "")
                            elif verdict.certainty.kind == "proved":
                                self.assertEqual(fault_of_proof(kind, drawn.key, verdict.tree, degrees), "")
                            else:
                                looked[f"{verdict.certainty.kind} {outcome}"] += 1
                                continue
                        except NotCovered:
                            looked["not covered"] += 1
                            continue
                        looked[verdict.certainty.kind] += 1
        self.assertGreater(looked["refuted"], 200, looked)
        self.assertGreater(looked["proved"], 300, looked)
        self.assertLess(looked["not covered"], 60, looked)
        # 0 = 0, and letters that the key has not
        self.assertLess(looked["refuted wrong"], 6, looked)
