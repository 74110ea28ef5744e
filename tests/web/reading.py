"""Reading pages in tests as a browser does: lines and indents of the templates mean nothing."""

import re
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
