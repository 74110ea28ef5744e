"""Every form of the application with values that nobody means: whatever is sent, no answer is a fault of ours."""

import re
from itertools import cycle
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from django.core.files.uploadedfile import SimpleUploadedFile, UploadedFile
from django.test import TestCase
from django.urls import get_resolver, reverse

import vorlage.web
from vorlage.web.classes.models import Class
from vorlage.web.desk.models import Draft
from vorlage.web.seating.models import Room, SeatPlan

from .reading import sent_by
from .samples import department, frozen, person, question, test_of
from .test_access import addresses

HOSTILE = [
    "9" * 5_000,
    "1" + "0" * 389,
    "-1",
    "1e999",
    "٣٤",
    "²",
    "NaN",
    "\ud83d\ude00".encode("utf-16", "surrogatepass").decode("utf-16"),
    "漢\u202e\ufffd\u0000",
    "\ud800".encode("utf-8", "surrogatepass").decode("utf-8", "replace"),
    "(a+1)^4000",
    "((((" * 200,
    "$" * 300,
    "{" * 300,
    "<script>alert(1)</script>",
    "\"'`\\%_",
    "a" * 60_000,
    "\n" * 2_000,
    "![](figure:x)" * 300,
    "matrix(" + "1," * 500 + "1)",
    "/../../etc/passwd",
    "[]",
    '{"a": [1, {"b": null}]}',
    "null",
]
SENT = re.compile(r"""(?:POST|GET|FILES)\.(?:get|getlist)\(f?["']([^"']+)["']""")
NAMED = re.compile(r'name="([A-Za-z_]+)"')


def known_fields() -> list[str]:
    """The names of all fields that a view reads or a template has, where they do not depend on a row."""
    found: set[str] = set()
    for path in Path(vorlage.web.__file__).parent.rglob("*"):
        if path.suffix == ".py" and "migrations" not in path.parts:
            found |= set(SENT.findall(path.read_text("utf-8")))
        elif path.suffix == ".html":
            found |= set(NAMED.findall(path.read_text("utf-8")))
    return sorted(name for name in found if "{" not in name and name != "csrfmiddlewaretoken")


class Hostile(TestCase):
    """What a view raises is raised by the client of the tests: an answer is all that is asked for."""

    @classmethod
    def setUpTestData(cls) -> None:
        physics = department("Physics")
        cls.lead = person("lead", physics, "lead")
        cls.question = question(physics, cls.lead)
        cls.test = test_of(physics, cls.lead, cls.question)
        cls.form_set = frozen(cls.test)
        held = Class.objects.create(department=physics, name="10 A", year="2026/27")
        room = Room.objects.create(school=physics.school, name="2.14", rows=2, columns=3)
        plan = {"form_set": cls.form_set, "held": held, "room_name": "2.14", "rows": 2, "columns": 3}
        cls.found = {
            "classes": held.pk,
            "rooms": room.pk,
            "seat-plans": SeatPlan.objects.create(author=cls.lead, **plan).pk,
        }
        file = cls.form_set.forms.all()[0].paper
        cls.insert = cls.test.inserts.create(name="Data sheet", position=0, text="Data.", file=file, pages=1)

    def setUp(self) -> None:
        self.client.force_login(self.lead)

    def asked(self, method: str, address: str, sent: dict[str, Any]) -> bool:
        """Whether the address is asked so at all."""
        if method == "post" and not any(isinstance(value, UploadedFile) for value in sent.values()):
            # as a form without files is sent
            words = urlencode(sent, doseq=True)
            answer = self.client.post(address, words, "application/x-www-form-urlencoded")
        else:
            answer = getattr(self.client, method)(address, sent)
        if answer.streaming:
            list(answer)
        self.assertLess(answer.status_code, 500, (method, address, str(sent)[:200]))
        return bool(answer.status_code != 405)

    def address(self, pattern: Any, number: int, word: str) -> str:
        """The address of a pattern with these in its places."""
        arguments: dict[str, Any] = {}
        for name, converter in pattern.pattern.converters.items():
            arguments[name] = number if type(converter).__name__ == "IntConverter" else word
        if number < 10**30:
            # what there is, wherever numbers are not the test's own
            kind = str(pattern.pattern).partition("/")[0]
            arguments |= {"pk": self.found[kind]} if kind in self.found and "pk" in arguments else {}
            arguments |= {"insert": self.insert.pk} if "insert" in arguments else {}
        if pattern.name == "picture":
            arguments["digest"] = "0" * 64
        return reverse(pattern.name, kwargs=arguments)

    def test_every_address_with_hostile_fields(self) -> None:
        fields = known_fields()
        self.assertGreater(len(fields), 45)
        Draft.objects.create(
            user=self.lead,
            department=self.question.department,
            key=self.question.key,
            question=self.question,
            fields={},
        )
        for turn, pattern in enumerate(addresses(get_resolver().url_patterns)):
            if pattern.name == "account_logout":
                continue
            # an address that is never asked in one way is told so once
            posted = got = True
            for number, word in [(self.test.pk, "numbers"), (10**30, "x" * 200)]:
                place = self.address(pattern, number, word)
                # every address gets half of them, every one of them half of the addresses
                for k, value in enumerate(HOSTILE[turn % 2 :: 2] if number < 10**30 else HOSTILE[:1]):
                    # all of them that long would be refused before anybody looks at them
                    some = fields if len(value) < 3_000 else fields[(turn + k) % 8 :: 8]
                    sent: dict[str, Any] = dict.fromkeys(some, value)
                    if k % 4 == turn % 4:
                        sent["picture"] = SimpleUploadedFile("\u202e.png", value.encode())
                    posted = posted and self.asked("post", place, sent)
                    # few pages read anything: one gets these values, the next one those
                    if got and (k + turn) % 3 == 0:
                        got = self.asked("get", place, dict.fromkeys(fields, value[:200]))

    def test_the_desk_with_one_hostile_field_after_another(self) -> None:
        page = sent_by(self.client.get(reverse("question", args=[self.question.pk])))
        hostile = cycle(HOSTILE)
        for name, values in page.items():
            if name == "csrfmiddlewaretoken":
                continue
            sent = page | {name: [next(hostile)] * len(values)}
            for view in ("preview-question", "save-question"):
                self.asked("post", reverse(view), sent)

    def test_the_desk_with_all_texts_hostile(self) -> None:
        page = sent_by(self.client.get(reverse("question", args=[self.question.pk])))
        texts = {name for name, values in page.items() if any(len(value) > 3 for value in values)}
        kept = {"csrfmiddlewaretoken", "key", "question", "parameter", "condition", "part", "figure", "table"}
        for value in HOSTILE:
            sent = page | {name: [value] * len(page[name]) for name in texts - kept}
            for view in ("preview-question", "survey-question", "save-question"):
                self.asked("post", reverse(view), sent)

    def test_a_fixed_question_with_hostile_numbers(self) -> None:
        for text in [
            f"A pump lifts {'9' * 390} kg.",
            " ".join(map(str, range(1200))),
            "0.000000000000000000000000000000000000000001 kg " * 20,
            "1e308 kg and 1e-308 m and 9e999 s",
            "−" * 500,
        ]:
            for answer in ["27.1", "9" * 390, "0", "-0.0", "1e400"]:
                sent = {"text": text, "answer": answer, "wording": text, "question": text}
                self.asked("post", reverse("look-for-numbers"), sent)
                self.asked("post", reverse("vary"), sent)
