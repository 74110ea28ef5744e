"""Takes the letters of Greek, Cyrillic and Vietnamese out of Noto Serif (Debian's fonts-noto-core), for what TeX Gyre
Schola has not, joins the face that is easier to read from what the screen has, and writes down which characters the
fonts of the papers can set.

Run it with the folder that holds NotoSerif-*.ttf: ``python tools/fonts.py FOLDER`` (fontTools with brotli is needed).
"""

from __future__ import annotations

import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from fontTools.merge import Merger
from fontTools.subset import Options, Subsetter, load_font, save_font
from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parent.parent
PRINT_FONTS = ROOT / "src/vorlage/core/documents/fonts"
SCREEN_FONTS = ROOT / "src/vorlage/web/design/static/design/fonts"
TABLE = ROOT / "src/vorlage/core/text/settable.txt"
STYLES = ("Regular", "Bold", "Italic", "BoldItalic")
# Greek with its accents, Cyrillic, the Latin letters of Vietnamese and of other languages, combining accents.
SCRIPTS = [
    (0x100, 0x24F),
    (0x300, 0x36F),
    (0x370, 0x3FF),
    (0x400, 0x52F),
    (0x1E00, 0x1FFF),
    # punctuation, raised and lowered figures, currencies, fractions, Roman numerals
    (0x2000, 0x218F),
]
# What typesets text where no other font of ours has the sign.
TEXT_FONTS = ("texgyreschola-regular.otf", "notoserif-regular.ttf")
MATHS_FONT = "texgyreschola-math.otf"


def subset(folder: Path, style: str) -> None:
    options = Options()
    options.layout_features = ["*"]
    font = load_font(str(folder / f"NotoSerif-{style}.ttf"), options)
    subsetter = Subsetter(options)
    subsetter.populate(unicodes=[code for low, high in SCRIPTS for code in range(low, high + 1)])
    subsetter.subset(font)
    save_font(font, str(PRINT_FONTS / f"notoserif-{style.lower()}.ttf"), options)
    options.flavor = "woff2"
    save_font(font, str(SCREEN_FONTS / f"notoserif-{style.lower()}.woff2"), options)


def legible(weight: int, style: str) -> None:
    """The face that is easier to read, from the pieces of it that the screen has."""
    with TemporaryDirectory() as folder:
        pieces = []
        for piece in ("latin", "latin-ext"):
            font = TTFont(SCREEN_FONTS / f"atkinson-hyperlegible-next-{piece}-{weight}-normal.woff2")
            font.flavor = None
            pieces.append(f"{folder}/{piece}.ttf")
            font.save(pieces[-1])
        Merger().merge(pieces).save(PRINT_FONTS / f"atkinsonhyperlegible-{style}.ttf")


def settable() -> list[tuple[int, int]]:
    """The characters that every style of a text font has, or the font for maths, as ranges."""
    # control characters stand in some fonts without a sign, and letters of the maths alphabets are maths
    maths = load_font(str(PRINT_FONTS / MATHS_FONT), Options()).getBestCmap()
    codes = {code for code in maths if 0x20 <= code < 0xE000}
    for name in TEXT_FONTS:
        regular = PRINT_FONTS / name
        others = [
            regular.with_name(regular.name.replace("regular", style)) for style in ("bold", "italic", "bolditalic")
        ]
        known = [set(load_font(str(each), Options()).getBestCmap()) for each in (regular, *others)]
        codes |= set.intersection(*known)
    found: list[tuple[int, int]] = []
    for code in sorted(code for code in codes if (code >= 0xA0 and not 0xD800 <= code < 0xF900) or 0x20 <= code < 0x7F):
        if found and code == found[-1][1] + 1:
            found[-1] = (found[-1][0], code)
        else:
            found.append((code, code))
    return found


def main() -> None:
    for style in STYLES:
        subset(Path(sys.argv[1]), style)
    legible(400, "regular")
    legible(700, "bold")
    lines = [f"{low:04X}" if low == high else f"{low:04X}-{high:04X}" for low, high in settable()]
    TABLE.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
