"""Every page of cases of every kind of answer: what is right, what is partly right, what is wrong, what cannot be read."""

from collections.abc import Iterator
from typing import Any
from unittest import TestCase

from vorlage.core.answers import KINDS, chapters, check_case

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
