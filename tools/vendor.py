"""Copies the pinned front-end files into the application, so that running it needs neither npm nor a network.

Run it after changing a version in package.json: ``npm install --no-package-lock && python tools/vendor.py``.
Of Bootstrap only what tools/bootstrap.scss names is taken, compiled by Sass.
"""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
MODULES = ROOT / "node_modules"
STATIC = ROOT / "src/vorlage/web/design/static/design"

FILES = {
    "htmx.org/dist/htmx.min.js": STATIC / "vendor/htmx.js",
    "@alpinejs/csp/dist/cdn.min.js": STATIC / "vendor/alpine-csp.js",
    "axe-core/axe.min.js": ROOT / "tests/browser/axe.min.js",
    "bootstrap/LICENSE": STATIC / "vendor/bootstrap.LICENSE",
    "@fontsource/atkinson-hyperlegible-next/LICENSE": STATIC / "fonts/atkinson-hyperlegible-next.LICENSE",
    "@fontsource/atkinson-hyperlegible-mono/LICENSE": STATIC / "fonts/atkinson-hyperlegible-mono.LICENSE",
}
SCREEN_FONTS = [
    f"@fontsource/atkinson-hyperlegible-{family}/files/atkinson-hyperlegible-{family}-latin{extended}-{weight}-normal.woff2"
    for family in ("next", "mono")
    for extended in ("", "-ext")
    for weight in ("400", "700")
]


def copy(source: Path, target: Path) -> None:
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.suffix in {".js", ".css"}:
        # a source map that is not shipped is not referred to
        text = re.sub(r"/[/*][#@] sourceMappingURL=.*?(\*/)?$", "", source.read_text("utf-8"), flags=re.MULTILINE)
        target.write_text(text, "utf-8")
    else:
        shutil.copyfile(source, target)


def styles() -> None:
    """Compiles vendor/bootstrap.css."""
    parts = MODULES / "bootstrap/scss"
    # Bootstrap's own sources use what Sass deprecates: nothing that could be mended here
    sass = [MODULES / ".bin/sass", "--no-source-map", "--style=compressed", "--quiet", f"--load-path={parts}"]
    subprocess.run([*sass, ROOT / "tools/bootstrap.scss", STATIC / "vendor/bootstrap.css"], check=True)


def main() -> None:
    for source, target in FILES.items():
        copy(MODULES / source, target)
    styles()
    for source in SCREEN_FONTS:
        copy(MODULES / source, STATIC / "fonts" / Path(source).name)


if __name__ == "__main__":
    main()
