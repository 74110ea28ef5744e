"""Makes Vorlage Schola from TeX Gyre Schola and TeX Gyre Schola Math (Debian's package tex-gyre): the same letters, for
paper with outlines of another kind and one font for text and maths, and the brackets of maths closer to what stands
beside them. Takes the letters of
Greek, Cyrillic and Vietnamese out of Noto Serif (fonts-noto-core), for what Schola has not, joins the face that is
easier to read from what the screen has, and writes down which characters the fonts of the papers can set.

Run it with the folders in or under which NotoSerif-*.ttf and texgyreschola-*.otf are:
``python tools/fonts.py NOTO TEX_GYRE`` (fontTools with brotli is needed).
"""

from __future__ import annotations

import io
import sys
from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

from fontTools.merge import Merger
from fontTools.otlLib.builder import buildLookup, buildSingleSubstSubtable
from fontTools.pens.cu2quPen import Cu2QuPen
from fontTools.pens.recordingPen import RecordingPen
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.transformPen import TransformPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.subset import Options, Subsetter, load_font, save_font
from fontTools.ttLib import TTFont, newTable
from fontTools.ttLib.reorderGlyphs import reorderGlyphs
from fontTools.ttLib.tables import otTables

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
TEXT_FONTS = ("vorlageschola-regular.ttf", "notoserif-regular.ttf")
MATHS_FONT = "vorlageschola-math.ttf"
# The brackets whose outer side has twice the room of the inner one, which of their sides that is, and by how many
# thousandths of the size it is cut: with it two brackets back to back look like two factors apart.
OUTER = {"(": "left", ")": "right", "[": "left", "]": "right"}
CUT = 100
# The style in which the font for text and maths has signs as in maths.
AS_IN_MATHS = "ss20"
# How far below the top of what it is raised from a power stands at most, as in the first fonts for maths: so x² and b²
# are at one height.
DROP = 386
# How far an outline on paper may be from the one it is made of, in thousandths of the size: a few thousandths of a
# millimetre.
APART = 0.5


def found(folder: Path, name: str) -> Path:
    return next(folder.rglob(name))


def subset(folder: Path, style: str) -> None:
    options = Options()
    options.layout_features = ["*"]
    font = load_font(str(found(folder, f"NotoSerif-{style}.ttf")), options)
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


def written_out(font: TTFont, name: str) -> TTFont:
    """Saves a font for the screen, under a name of its own as its licence asks; the same for papers."""
    cff = font["CFF "].cff
    for record in font["name"].names:
        record.string = (
            str(record).replace("TeX Gyre Schola", "Vorlage Schola").replace("TeXGyreSchola", "VorlageSchola")
        )
    cff.fontNames = [each.replace("TeXGyreSchola", "VorlageSchola") for each in cff.fontNames]
    top = cff.topDictIndex[0]
    top.FullName, top.FamilyName = (
        each.replace("TeXGyreSchola", "Vorlage Schola").replace("TeX Gyre Schola", "Vorlage Schola")
        for each in (top.FullName, top.FamilyName)
    )
    # smaller when packed with every outline whole
    cff.desubroutinize()
    font.flavor = "woff2"
    font.save(SCREEN_FONTS / f"{name}.woff2")
    font.flavor = None
    to_quadratic(font)
    return font


def to_quadratic(font: TTFont) -> None:
    """Replaces the cubic outlines of a font by quadratic ones, which are taken out of it for a paper in less time:
    those need no program to be read. They are apart by less than a printer can show."""
    glyphs, order, drawn = font.getGlyphSet(), font.getGlyphOrder(), {}
    for name in order:
        pen = TTGlyphPen(glyphs)
        glyphs[name].draw(Cu2QuPen(pen, APART, reverse_direction=True))
        drawn[name] = pen.glyph()
    del font["CFF "]
    font["loca"], font["glyf"] = newTable("loca"), newTable("glyf")
    font["glyf"].glyphOrder, font["glyf"].glyphs = order, drawn
    sizes = font["maxp"]
    sizes.tableVersion = 0x00010000
    # no outline has a program
    for each in ("Zones", "TwilightPoints", "Storage", "FunctionDefs", "InstructionDefs", "StackElements"):
        setattr(sizes, f"max{each}", int(each == "Zones"))
    sizes.maxSizeOfInstructions = sizes.maxComponentElements = 0
    names = font["post"]
    names.formatType, names.extraNames, names.mapping, names.glyphOrder = 2.0, [], {}, order
    font.sfntVersion = "\0\1\0\0"


def tightened(font: TTFont) -> TTFont:
    """The font for maths with closer brackets and powers at one height."""
    names, glyphs, letters = font.getBestCmap(), font.getGlyphSet(), font["CFF "].cff.topDictIndex[0].CharStrings
    variants = font["MATH"].table.MathVariants
    built = dict(zip(variants.VertGlyphCoverage.glyphs, variants.VertGlyphConstruction))
    for sign, side in OUTER.items():
        first = names[ord(sign)]
        larger = [each.VariantGlyph for each in built[first].MathGlyphVariantRecord]
        parts = [each.glyph for each in built[first].GlyphAssembly.PartRecords]
        for name in dict.fromkeys([first, *larger, *parts]):
            width, start = font["hmtx"][name]
            old = letters[name]
            # an outline tells its width as well, beyond one for all: whoever fits letters to dots reads it there
            pen = T2CharStringPen(width - CUT - old.private.nominalWidthX, glyphs)
            glyphs[name].draw(TransformPen(pen, (1, 0, 0, 1, -CUT if side == "left" else 0, 0)))
            letters[name] = pen.getCharString(private=old.private, globalSubrs=old.globalSubrs)
            font["hmtx"][name] = (width - CUT, start - CUT if side == "left" else start)
    font["MATH"].table.MathConstants.SuperscriptBaselineDropMax.Value = DROP
    return font


def drawings(font: TTFont) -> dict[str, tuple[list[object], tuple[int, int]]]:
    """How each glyph is drawn, and its width."""
    glyphs, found = font.getGlyphSet(), {}
    for name in font.getGlyphOrder():
        pen = RecordingPen()
        glyphs[name].draw(pen)
        found[name] = pen.value, font["hmtx"][name]
    return found


def with_maths(text: TTFont, maths: TTFont) -> TTFont:
    """The font for maths with everything of one for text: a paper then has one font where it would have two, and is
    made in nine tenths of the time. What is drawn in another way in maths, a bracket or a sign between numbers, takes
    the place of what text has where the script is that of maths, and by a style of its own in words and numbers
    there."""
    of_text, of_maths = drawings(text), drawings(maths)
    first = text.getGlyphOrder()[0]
    names = [
        name if name == first or of_maths.get(name, drawn) == drawn else f"{name}.text"
        for name, drawn in of_text.items()
    ]
    # every table read from here on speaks of the new names
    text = copied(text)
    text.setGlyphOrder(names)
    both, rest = [each for each in names if each in of_maths], [each for each in of_maths if each not in set(names)]
    reorderGlyphs(maths, both + rest)
    for name in names:
        if name not in of_maths:
            maths["glyf"][name], maths["hmtx"][name] = text["glyf"][name], text["hmtx"][name]
    maths["glyf"].glyphOrder = names + rest
    maths.setGlyphOrder(names + rest)

    in_text, in_maths = text.getBestCmap(), maths.getBestCmap()
    replaced = {name: in_maths[code] for code, name in in_text.items() if in_maths.get(code, name) != name}
    for table in maths["cmap"].tables:
        if table.isUnicode():
            table.cmap.update(in_text)
    # text binds a number to its unit with the one, maths with the other
    maths["hmtx"][in_maths[0x202F]] = maths["hmtx"][in_maths[0x2006]]
    changes, own = text["GSUB"].table, maths["GSUB"].table
    at = len(changes.LookupList.Lookup)
    wanted = {"ccmp": [at]}
    for record in own.FeatureList.FeatureRecord:
        if record.FeatureTag in ("ssty", "dtls"):
            wanted[record.FeatureTag] = [at + 1 + each for each in record.Feature.LookupListIndex]
    changes.LookupList.Lookup += [buildLookup([buildSingleSubstSubtable(replaced)]), *own.LookupList.Lookup]
    for_maths(changes, wanted)
    for record in changes.ScriptList.ScriptRecord:
        if record.ScriptTag != "math":
            for usual in (record.Script.DefaultLangSys, *(each.LangSys for each in record.Script.LangSysRecord)):
                usual.FeatureIndex.append(with_feature(changes, AS_IN_MATHS, [at]))
    # text moves letters together, maths does not
    for_maths(text["GPOS"].table, {})
    for each in ("GSUB", "GPOS", "OS/2", "hhea", "name"):
        maths[each] = text[each]
    for each in ("GDEF", "FFTM"):
        del maths[each]
    return maths


def copied(font: TTFont) -> TTFont:
    """A font as it is read from a file."""
    file = io.BytesIO()
    font.save(file)
    file.seek(0)
    return TTFont(file)


def with_feature(table: otTables.GSUB | otTables.GPOS, tag: str, lookups: Sequence[int]) -> int:
    """Adds a feature by the lookups that it takes; its number."""
    record = otTables.FeatureRecord()
    record.FeatureTag, record.Feature = tag, otTables.Feature()
    record.Feature.FeatureParams, record.Feature.LookupListIndex = None, list(lookups)
    table.FeatureList.FeatureRecord.append(record)
    return len(table.FeatureList.FeatureRecord) - 1


def for_maths(table: otTables.GSUB | otTables.GPOS, features: dict[str, Sequence[int]]) -> None:
    """Gives the script of maths these features, and none of those of text; each by the lookups that it takes."""
    usual = otTables.DefaultLangSys()
    usual.LookupOrder, usual.ReqFeatureIndex = None, 0xFFFF
    usual.FeatureIndex = [with_feature(table, tag, lookups) for tag, lookups in features.items()]
    record = otTables.ScriptRecord()
    record.ScriptTag, record.Script = "math", otTables.Script()
    record.Script.DefaultLangSys, record.Script.LangSysRecord = usual, []
    table.ScriptList.ScriptRecord = sorted([*table.ScriptList.ScriptRecord, record], key=lambda each: each.ScriptTag)


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
    gyre = Path(sys.argv[2])
    text = {
        style: written_out(TTFont(found(gyre, f"texgyreschola-{style}.otf")), f"vorlageschola-{style}")
        for style in map(str.lower, STYLES)
    }
    maths = written_out(tightened(TTFont(found(gyre, "texgyreschola-math.otf"))), Path(MATHS_FONT).stem)
    # for what stands in bold or slanted text
    maths.save(PRINT_FONTS / MATHS_FONT)
    text["regular"] = with_maths(text["regular"], maths)
    for style, font in text.items():
        font.save(PRINT_FONTS / f"vorlageschola-{style}.ttf")
    lines = [f"{low:04X}" if low == high else f"{low:04X}-{high:04X}" for low, high in settable()]
    TABLE.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
