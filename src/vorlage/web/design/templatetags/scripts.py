"""Scripts of a page: ``{% script "desk/desk.js" %}`` names all that it imports too, and nothing is waited for twice."""

from __future__ import annotations

import posixpath
import re
from functools import cache
from pathlib import Path

from django import template
from django.contrib.staticfiles import finders
from django.templatetags.static import static
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

IMPORT = re.compile(r"""^(?:import|\} from|import .* from) ?["'](\.[^"']+)["'];""", re.MULTILINE)

register = template.Library()


@cache
def imported(name: str) -> tuple[str, ...]:
    """Every script that a script imports, by its name among the static files, those that it needs first."""
    path = finders.find(name)
    if path is None:
        raise ValueError(f"There is no script {name}.")
    found: dict[str, None] = {}
    for relative in IMPORT.findall(Path(path).read_text("utf-8")):
        inner = posixpath.normpath(posixpath.join(posixpath.dirname(name), relative))
        found |= dict.fromkeys((*imported(inner), inner))
    return tuple(found)


@register.simple_tag
def script(name: str) -> SafeString:
    """A script, and what it imports, to be fetched at once."""
    links = format_html_join(
        "\n  ", '<link rel="modulepreload" href="{}">', ((static(each),) for each in imported(name))
    )
    return format_html('{}\n  <script type="module" src="{}"></script>', links, static(name))
