"""Texts are made alike before they are looked up: two different things never become one by it."""

from __future__ import annotations

import itertools
import string
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from vorlage.core.answers import check_case
from vorlage.core.answers.kinds.chemical.reactions import ELEMENTS
from vorlage.core.forms.form_set import form_codes
from vorlage.core.marking.groups import folded
from vorlage.core.notation import FUNCTIONS, Call, NotationError, read, walk
from vorlage.core.notation.vocabulary import SYNONYMS

GREEK = (
    "alpha beta gamma delta epsilon theta lambda mu nu xi pi rho sigma tau phi chi psi omega Gamma Delta Omega".split()
)
LETTERS = [*string.ascii_letters, *GREEK]
# Letters that phones and word processors put in place of others, and what they are.
STAND_INS = {
    "µ": "mu",
    "\N{OHM SIGN}": "Omega",
    "∆": "Delta",
    "ϕ": "phi",
    "ϵ": "epsilon",
    "ℓ": "l",
    "\N{KELVIN SIGN}": "K",
}


def right(answer: dict[str, object], response: str) -> bool:
    return check_case({"answer": answer, "response": response}).outcome == "right"


class Letters(TestCase):
    def test_every_letter_is_itself_and_no_other(self) -> None:
        trees = {letter: read(letter) for letter in LETTERS}
        for one, other in itertools.combinations(LETTERS, 2):
            self.assertNotEqual(trees[one], trees[other], f"{one} and {other}")
        for stand_in, letter in STAND_INS.items():
            self.assertEqual(read(stand_in), read(letter))

    def test_functions_in_other_capitals_are_no_functions(self) -> None:
        for name in sorted(FUNCTIONS | set(SYNONYMS)):
            for changed in {name.upper(), name.capitalize(), name.swapcase()} - {name}:
                if not name.isascii() or "_" in name:
                    continue
                with self.subTest(changed):
                    try:
                        tree = read(f"{changed}(x)")
                    except NotationError:
                        continue
                    called = {node.function for node in walk(tree) if isinstance(node, Call)}
                    self.assertNotIn(SYNONYMS.get(name, name), called)


class Elements(TestCase):
    def test_two_elements_are_not_one_of_two_letters(self) -> None:
        for first, second in itertools.product([each for each in ELEMENTS if len(each) == 1], string.ascii_lowercase):
            pair, single = first + second.upper(), first + second
            if single in ELEMENTS and second.upper() in ELEMENTS:
                with self.subTest(f"{pair} and {single}"):
                    self.assertFalse(right({"kind": "chemical", "key": pair}, single))
                    self.assertFalse(right({"kind": "chemical", "key": single}, pair))

    def test_no_element_is_left_out_before_what_follows(self) -> None:
        for element in sorted(ELEMENTS):
            with self.subTest(element):
                key = {"kind": "chemical", "key": "2 H2 + O2 -> 2 H2O"}
                self.assertFalse(right(key, f"{element}2H2 + O2 -> 2 H2O"))
                self.assertTrue(right({"kind": "chemical", "key": f"{element}^2+"}, f"{element}2+"))


class Words(TestCase):
    @given(
        st.text("abß ²³⁻-0123xyÄäOoΩµ½①", min_size=1, max_size=8),
        st.text("abß ²³⁻-0123xyÄäOoΩµ½①", min_size=1, max_size=8),
    )
    def test_accepted_words_are_told_apart(self, accepted: str, given_: str) -> None:
        if not accepted.strip() or not given_.strip():
            return
        # by hand: nothing is raised in what is compared but after a caret
        apart = ("²", "^2"), ("³", "^3"), ("⁻", "^-"), ("^-^", "^-"), ("^2^", "^2"), ("^3^", "^3")

        def plain(text: str) -> str:
            for sign, instead in apart:
                text = text.replace(sign, instead)
            text = text.replace("½", "1⁄2").replace("①", "1").replace("µ", "μ")
            return " ".join(text.lower().split())

        if right({"kind": "text", "accept": [accepted]}, given_):
            self.assertEqual(plain(accepted), plain(given_))

    def test_answers_of_one_group_are_one_answer(self) -> None:
        for one, other in itertools.combinations(
            ["x²", "x2", "x^3", "10⁻³", "10-3", "Maße", "Masse", "x", "-x", "½", "12"], 2
        ):
            self.assertNotEqual(folded(one), folded(other), f"{one} and {other}")


class Codes(TestCase):
    def test_codes_of_forms_are_told_apart_however_they_are_typed(self) -> None:
        # what is typed is looked up in capitals; O, 0, 1, I, 2, Z, 5, S, 8 and B, which are taken for each other, are not used
        for seed in ("a", "b", "c"):
            codes = form_codes(seed, 400)
            self.assertEqual(len({code.lower().upper() for code in codes}), 400)
            self.assertFalse(set("".join(codes)) & set("O01I2Z5S8BGQ6"))


class Circa(TestCase):
    @given(
        st.sampled_from(["ca", "Ca", "CA", "ca.", "approx"]),
        st.sampled_from(["b", "2b", "-b", "x^2", "(x + 1)", "sin x"]),
    )
    def test_nothing_is_taken_from_before_a_formula(self, before: str, formula: str) -> None:
        self.assertFalse(right({"kind": "formula", "key": formula}, before + formula))
        self.assertFalse(right({"kind": "formula", "key": formula}, f"{before} {formula}"))
