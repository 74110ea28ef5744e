"""Reading pages in tests as a browser does: lines and indents of the templates mean nothing."""

import re
from html.parser import HTMLParser
from typing import Any

BLOCKS = r"(?:p|div|li|td|th|tr|ul|ol|button|span|h[1-6]|label|option|a|summary)"
OPENED = re.compile(rf"(<{BLOCKS}\b[^<>]*>) ")
CLOSED = re.compile(rf" (</{BLOCKS}>)")


def read_page(response: Any) -> str:
    """The markup of a response with its white space collapsed, and none at the edges of blocks."""
    text = re.sub(r"\s+", " ", response.content.decode()).replace(" >", ">")
    while True:
        closer = CLOSED.sub(r"\1", OPENED.sub(r"\1", text))
        if closer == text:
            return closer
        text = closer


class Fields(HTMLParser):
    """What a browser would send of the desk's form: the fields outside templates, by their names."""

    def __init__(self) -> None:
        super().__init__()
        self.sent: dict[str, list[str]] = {}
        self.templates = 0
        self.select = self.text = ""
        # whether the words of an option are what is sent of it
        self.option = False
        self.written: list[str] = []

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        given = {name: value or "" for name, value in attributes}
        name = given.get("name", "")
        if tag == "template":
            self.templates += 1
        if self.templates or (tag in {"input", "select", "textarea"} and not name) or given.get("form") == "upload":
            return
        if tag == "select":
            self.select = name
        elif tag == "option" and ("selected" in given or self.select not in self.sent):
            # without a choice the first is chosen
            self.sent[self.select] = [given.get("value", "")]
            self.option = "value" not in given
        elif tag == "textarea":
            self.text, self.written = name, []
        elif tag == "input" and (given.get("type") not in {"checkbox", "radio"} or "checked" in given):
            self.sent.setdefault(name, []).append(given.get("value", ""))

    def handle_endtag(self, tag: str) -> None:
        if tag == "template":
            self.templates -= 1
        elif tag == "textarea" and self.text:
            self.sent[self.text] = ["".join(self.written)]
            self.text = ""

    def handle_data(self, text: str) -> None:
        if self.option:
            self.sent[self.select], self.option = [text.strip()], False
        if self.text:
            self.written.append(text)


def sent_by(response: Any) -> dict[str, list[str]]:
    """What a browser would send of the desk on a page."""
    fields = Fields()
    form = re.search(r'<form class="desk".*?</form>', response.content.decode(), re.DOTALL)
    assert form is not None
    fields.feed(form[0])
    return fields.sent
