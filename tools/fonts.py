"""Takes the letters of Greek, Cyrillic and Vietnamese out of Noto Serif (Debian's fonts-noto-core), for what TeX Gyre
Schola has not, joins the face that is easier to read from what the screen has, sets the brackets of the font for maths
(TeX Gyre Schola Math of the Debian package tex-gyre) closer to what stands beside them, and writes down which
characters the fonts of the papers can set.

Run it with the folders that hold NotoSerif-*.ttf and texgyreschola-math.otf: ``python tools/fonts.py NOTO TEX_GYRE``
(fontTools with brotli is needed).
"""

from __future__ import annotations

import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from fontTools.merge import Merger
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.transformPen import TransformPen
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
MATHS_FONT = "vorlageschola-math.otf"
# The brackets whose outer side has twice the room of the inner one, which of their sides that is, and by how many
# thousandths of the size it is cut: with it two brackets back to back look like two factors apart.
OUTER = {"(": "left", ")": "right", "[": "left", "]": "right"}
CUT = 100
# How far below the top of what it is raised from a power stands at most, as in the first fonts for maths: so x² and b²
# are at one height.
DROP = 386


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


def tightened(folder: Path) -> None:
    """The font for maths with closer brackets and powers at one height, under a name of its own as its licence asks."""
    font = TTFont(folder / "texgyreschola-math.otf")
    names, glyphs, letters = font.getBestCmap(), font.getGlyphSet(), font["CFF "].cff.topDictIndex[0].CharStrings
    variants = font["MATH"].table.MathVariants
    built = dict(zip(variants.VertGlyphCoverage.glyphs, variants.VertGlyphConstruction))
    for sign, side in OUTER.items():
        first = names[ord(sign)]
        larger = [each.VariantGlyph for each in built[first].MathGlyphVariantRecord]
        parts = [each.glyph for each in built[first].GlyphAssembly.PartRecords]
        for name in dict.fromkeys([first, *larger, *parts]):
            width, start = font["hmtx"][name]
            pen = T2CharStringPen(width - CUT, glyphs)
            glyphs[name].draw(TransformPen(pen, (1, 0, 0, 1, -CUT if side == "left" else 0, 0)))
            old = letters[name]
            letters[name] = pen.getCharString(private=old.private, globalSubrs=old.globalSubrs)
            font["hmtx"][name] = (width - CUT, start - CUT if side == "left" else start)
    font["MATH"].table.MathConstants.SuperscriptBaselineDropMax.Value = DROP
    for record in font["name"].names:
        text = str(record).replace("TeX Gyre Schola Math", "Vorlage Schola Math")
        record.string = text.replace("TeXGyreScholaMath", "VorlageScholaMath")
    cff = font["CFF "].cff
    cff.fontNames = ["VorlageScholaMath-Regular"]
    cff.topDictIndex[0].FullName = cff.topDictIndex[0].FamilyName = "Vorlage Schola Math"
    font.save(PRINT_FONTS / MATHS_FONT)
    font.flavor = "woff2"
    font.save(SCREEN_FONTS / MATHS_FONT.replace(".otf", ".woff2"))


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
    tightened(Path(sys.argv[2]))
    lines = [f"{low:04X}" if low == high else f"{low:04X}-{high:04X}" for low, high in settable()]
    TABLE.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
