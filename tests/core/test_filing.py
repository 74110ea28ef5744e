"""Where a question is filed, as it is typed: paths of topics, tags, and what is meant by them."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from vorlage.core.questions import Filing, listed, read_paths, topics_meant, written_paths

TREE = [
    ("Physics",), ("Physics", "Moments"), ("Physics", "Moments", "Balance of a beam"), ("Physics", "Waves"),
    ("Mathematics",), ("Mathematics", "Waves"), ("Mathematics", "Équations"),
]  # fmt: skip

# what is typed: the paths that are meant, those among them that are new, and the beginning of what is doubted
MEANT = {
    "Physics > Moments": ([("Physics", "Moments")], [], ""),
    "physics ▸ MOMENTS": ([("Physics", "Moments")], [], ""),
    "Moments": ([("Physics", "Moments")], [], ""),
    "Moments > balance of a beam": ([("Physics", "Moments", "Balance of a beam")], [], ""),
    "Balance  of a beam; Physics": ([("Physics", "Moments", "Balance of a beam"), ("Physics",)], [], ""),
    "Waves": ([], [], "“Waves” stands there more than once: write “Physics ▸ Waves” or “Mathematics ▸ Waves”"),
    "Physics > Heat": ([("Physics", "Heat")], [("Physics", "Heat")], ""),
    "moments > Levers": ([("Physics", "Moments", "Levers")], [("Physics", "Moments", "Levers")], ""),
    "Biology > Cells": ([("Biology", "Cells")], [("Biology", "Cells")], ""),
    "Momants": ([], [], "There is no topic “Momants” yet. Did you mean “Moments”?"),
    "Heat": ([], [], "There is no topic “Heat” yet. To make it, write where it belongs: Mathematics ▸ Heat."),
    "Physics > Moments > Balance of a beam > Pivot": ([], [], "“Physics ▸ Moments ▸ Balance of a beam ▸ Pivot” has 4 names"),
    "x" * 101 + " > y": ([], [], "“xxx"),
    " ; > ;": ([], [], ""),
}  # fmt: skip
NAMES = st.text("abcdeÉß 1", min_size=1, max_size=6).filter(lambda text: text.strip())


class Topics(TestCase):
    def test_what_is_typed_is_what_is_meant(self) -> None:
        for typed, (paths, new, doubt) in MEANT.items():
            with self.subTest(typed[:40]):
                found = topics_meant(read_paths(typed), TREE)
                self.assertEqual((found.paths, found.new), (paths, new))
                self.assertEqual(bool(found.doubts), bool(doubt))
                self.assertTrue("".join(found.doubts).startswith(doubt))

    def test_where_nothing_is_yet_a_single_name_is_a_subject(self) -> None:
        self.assertEqual(topics_meant([("Physics",)], []).new, [("Physics",)])

    @given(
        st.lists(st.lists(NAMES, min_size=1, max_size=3).map(lambda names: tuple(" ".join(n.split()) for n in names)))
    )
    def test_what_is_written_reads_back(self, paths: list[tuple[str, ...]]) -> None:
        self.assertEqual(read_paths(written_paths(paths)), paths)

    @given(
        st.lists(st.lists(NAMES.map(str.strip), min_size=1, max_size=3).map(tuple), max_size=6), st.text(max_size=40)
    )
    def test_whatever_is_typed_is_answered(self, tree: list[tuple[str, ...]], typed: str) -> None:
        whole = {path[:k] for path in tree for k in range(1, len(path) + 1)}
        found = topics_meant(read_paths(typed), sorted(whole))
        self.assertTrue(set(found.new) <= set(found.paths))
        self.assertTrue(all(path in whole or path in found.new for path in found.paths))


class Filings(TestCase):
    def test_nothing_stands_twice_and_blanks_are_as_one(self) -> None:
        filing = Filing.model_validate(
            {"tags": ["  two  words", "Two words", "b"], "topics": [["A", " b "], ["a", "B"]]}
        )
        self.assertEqual((filing.tags, filing.topics), (("two words", "b"), (("A", "b"),)))

    def test_what_cannot_be_filed_is_told(self) -> None:
        for wrong in (
            {"level": 0}, {"level": 6}, {"demand": 7}, {"minutes": "0"}, {"minutes": "-1"}, {"minutes": "1.005"},
            {"tags": ["x" * 61]}, {"tags": [str(k) for k in range(31)]}, {"topics": [[]]}, {"topics": [[""]]},
            {"topics": "Physics"}, {"tags": "a"}, {"note": "x" * 5001}, {"subject": "Physics"},
        ):  # fmt: skip
            with self.subTest(wrong), self.assertRaises(ValidationError):
                Filing.model_validate(wrong)

    def test_lists_are_read_with_commas_semicolons_and_lines(self) -> None:
        self.assertEqual(listed(" a, b ;;c\nd  e,"), ["a", "b", "c", "d e"])
