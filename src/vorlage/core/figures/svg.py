"""A drawn figure as SVG: everything is written here and escaped, nothing of it is copied from an author's markup."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from html import escape

from ..notation import POINT, Number, Style
from .drawing import DrawnFigure
from .lettering import Run, maths_runs, width_of
from .region import DrawnRegion
from .statements import Frame, Outline, Spot

WIDTH = 320.0
# without true shapes a figure is this high
HEIGHT = 224.0
TALLEST, LOWEST = 420.0, 60.0
MARGIN = 10.0
SIZE = 13
LETTERS = f'font-family="Vorlage Schola, serif" font-size="{SIZE}"'
# What is written over lines has a clear edge around it.
CLEAR = 'stroke="#fffefb" stroke-width="3" stroke-linejoin="round" paint-order="stroke"'
# So far axes go beyond the frame, to their arrowheads, and so far the names of axes stand above it.
BEYOND, ABOVE = 9.0, 16.0
# A figure without axes is cut to what is drawn where so much would be empty beside it, in parts of what is drawn.
EMPTY, AROUND = 0.12, 0.04


class Canvas:
    """Turns the coordinates of a figure into those of the picture, 320 wide."""

    def __init__(self, figure: DrawnFigure, style: Style = POINT, whole: bool = True) -> None:
        self.frame = figure.frame if whole else cut(figure)
        self.below = 34.0 if figure.axes else MARGIN
        self.beside = MARGIN
        wide, high = self.frame.right - self.frame.left, self.frame.top - self.frame.bottom
        if figure.axes:
            # the numbers beside the axis that goes up have room where it stands at the left
            step = figure.steps[1] if figure.steps else nice_step(high, HEIGHT, 26)
            written = [tick(y, style) for y in multiples(self.frame.bottom, self.frame.top, step)]
            widest = max((width_of(each, SIZE) for each in written), default=0.0)
            self.beside = max(40.0, widest + 14 - max(0.0, -self.frame.left) / wide * (WIDTH - 60))
        inner = WIDTH - self.beside - MARGIN - (BEYOND if figure.axes else 0)
        tall = inner * high / wide if figure.equal else HEIGHT - self.below - MARGIN
        if tall > TALLEST:
            inner, tall = inner * TALLEST / tall, TALLEST
        if tall < LOWEST:
            tall = LOWEST
        self.across, self.up = inner / wide, tall / high
        if figure.equal:
            self.across = self.up = min(self.across, self.up)
        if figure.axes:
            # the numbers and the name below the axis have the room that is there already
            self.below = max(MARGIN, self.below - (crossing(self.frame)[1] - self.frame.bottom) * self.up)
        self.width = self.beside + MARGIN + wide * self.across + (BEYOND if figure.axes else 0)
        self.head = MARGIN + (ABOVE if figure.axes else 0)
        self.height = self.below + self.head + high * self.up

    def at(self, place: Spot) -> Spot:
        x, y = place
        return (
            round(self.beside + (x - self.frame.left) * self.across, 2),
            round(self.head + (self.frame.top - y) * self.up, 2),
        )


def svg(
    figure: DrawnFigure,
    alt: str,
    regions: Sequence[DrawnRegion] = (),
    address: str = "",
    style: Style = POINT,
    name: str = "",
    whole: bool = True,
) -> str:
    """The picture, with a text that says what it shows; ``regions`` are outlined for a key, ``style`` says how numbers
    are written, ``name`` what the figure is called in its question; unless it is to be
    ``whole``, what is empty of it is cut away.

    ``address`` leads to the picture that fills the frame.
    """
    canvas = Canvas(figure, style, whole or bool(address))
    drawn = []
    if address:
        drawn.append(background(canvas, address))
    if figure.grid:
        drawn.append(grid(canvas, figure.grid))
    if figure.axes:
        drawn.append(axes(canvas, figure, style))
    drawn += [shape(canvas, outline) for outline in figure.outlines]
    drawn += [outlined(canvas, region) for region in regions]
    if figure.axes:
        # over what is drawn, so that every number can be read
        drawn.append(numbers(canvas, figure, style))
    shown = canvas.frame
    frame = f"{shown.left!r} {shown.right!r} {shown.bottom!r} {shown.top!r}"
    where = f"{canvas.beside:g} {canvas.head:g} {canvas.across!r} {canvas.up!r}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" class="figure" role="img" aria-label="{escape(alt)}" '
        f'viewBox="0 0 {canvas.width:g} {canvas.height:g}" width="{canvas.width:g}" height="{canvas.height:g}" '
        f'data-name="{escape(name)}" data-frame="{frame}" data-place="{where}" '
        f'fill="none" stroke="currentColor" stroke-width="1.3">'
        f"{''.join(drawn)}</svg>"
    )


def background(canvas: Canvas, address: str) -> str:
    (x, y), (right, bottom) = (
        canvas.at(place)
        for place in (
            (canvas.frame.left, canvas.frame.top),
            (canvas.frame.right, canvas.frame.bottom),
        )
    )
    return image(address, x, y, right - x, bottom - y)


def image(address: str, x: float, y: float, width: float, height: float) -> str:
    return f'<image href="{escape(address)}" x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}"/>'


def framed(address: str, width: int, height: int, alt: str) -> str:
    """A picture by itself, as wide as a figure at most."""
    wide = min(WIDTH, float(width))
    high = wide * height / max(1, width)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" class="figure" role="img" aria-label="{escape(alt)}" '
        f'viewBox="0 0 {wide:g} {high:g}" width="{wide:g}" height="{high:g}">{image(address, 0, 0, wide, high)}</svg>'
    )


def shape(canvas: Canvas, outline: Outline) -> str:
    places = [canvas.at(place) for place in outline.places]
    look = looks(outline)
    if outline.kind == "text":
        return label(places[0], outline.runs, "middle", 4.0)
    if outline.kind == "point":
        x, y = places[0]
        dot = f'<circle cx="{x}" cy="{y}" r="3" fill="currentColor" stroke="none"/>'
        return dot + (label((x + 6, y - 6), outline.runs, "start") if outline.runs else "")
    if outline.kind == "circle":
        x, y = places[0]
        across, up = outline.radius * canvas.across, outline.radius * canvas.up
        round_one = f'<ellipse cx="{x}" cy="{y}" rx="{across:.2f}" ry="{up:.2f}"{look}/>'
        return round_one + (label((x, y), outline.runs, "middle", 4.0) if outline.runs else "")
    path = "M" + "L".join(f"{x} {y}" for x, y in places) + ("Z" if outline.kind == "polygon" else "")
    drawn = f'<path d="{path}"{look}/>'
    if outline.arrow:
        drawn += arrowhead(places[-2], places[-1])
    if outline.runs and outline.kind == "polygon":
        # what is closed is named in its middle
        return drawn + label(DrawnRegion(tuple(places)).middle, outline.runs, "middle", 4.0)
    if outline.runs:
        (a, b), (c, d) = places[0], places[1]
        drawn += label(((a + c) / 2 + 6, (b + d) / 2 - 6), outline.runs, "start")
    return drawn


def looks(outline: Outline) -> str:
    words = ' stroke-dasharray="5 4"' if "dashed" in outline.styles else ""
    words += ' stroke-width="2.4"' if "thick" in outline.styles else ""
    return words + (' fill="currentColor" fill-opacity="0.13"' if "filled" in outline.styles else "")


def arrowhead(start: Spot, end: Spot) -> str:
    (a, b), (c, d) = start, end
    length = math.hypot(c - a, d - b) or 1.0
    along, across = ((c - a) / length, (d - b) / length), (-(d - b) / length, (c - a) / length)
    left = (c - 9 * along[0] + 3.4 * across[0], d - 9 * along[1] + 3.4 * across[1])
    right = (c - 9 * along[0] - 3.4 * across[0], d - 9 * along[1] - 3.4 * across[1])
    corners = f"M{c:.2f} {d:.2f}L{left[0]:.2f} {left[1]:.2f}L{right[0]:.2f} {right[1]:.2f}Z"
    return f'<path d="{corners}" fill="currentColor" stroke="none"/>'


def label(place: Spot, runs: Sequence[Run], anchor: str, drop: float = 0.0) -> str:
    words, height = "", 0.0
    for text, italic, shift in runs:
        wanted = {1: -0.4 * SIZE, 0: 0.0, -1: 0.22 * SIZE}[shift]
        moved = f' dy="{wanted - height:.2f}"' if wanted != height else ""
        small = f' font-size="{0.75 * SIZE:g}"' if shift else ""
        sloping = ' font-style="italic"' if italic else ""
        words += f"<tspan{moved}{small}{sloping}>{escape(text)}</tspan>"
        height = wanted
    x, y = place
    return (
        f'<text x="{x:.2f}" y="{y + drop:.2f}" text-anchor="{anchor}" fill="currentColor" '
        f"{CLEAR} {LETTERS}>{words}</text>"
    )


def outlined(canvas: Canvas, region: DrawnRegion) -> str:
    """A region as it is shown with a key."""
    kind = "circle" if region.radius else "polygon"
    outline = Outline(kind, region.places, frozenset(["dashed", "filled"]), region.radius)
    return f'<g class="region">{shape(canvas, outline)}</g>'


def grid(canvas: Canvas, steps: tuple[float, float]) -> str:
    frame = canvas.frame
    lines = [((x, frame.bottom), (x, frame.top)) for x in multiples(frame.left, frame.right, steps[0])]
    lines += [((frame.left, y), (frame.right, y)) for y in multiples(frame.bottom, frame.top, steps[1])]
    path = ""
    for start, end in lines:
        (a, b), (c, d) = canvas.at(start), canvas.at(end)
        path += f"M{a} {b}L{c} {d}"
    return f'<path d="{path}" stroke-width="0.5" stroke-opacity="0.45"/>'


def multiples(low: float, high: float, step: float) -> list[float]:
    """The multiples of a step between two ends; none where there would be too many to be told apart."""
    if (high - low) / step > 200:
        return []
    first = math.ceil(low / step - 1e-9)
    return [k * step for k in range(first, math.floor(high / step + 1e-9) + 1)]


def nice_step(length: float, pixels: float, least: float) -> float:
    """1, 2 or 5 times a power of ten, so that marks are at least so many pixels apart."""
    wanted = length * least / pixels
    power = 10.0 ** math.floor(math.log10(wanted))
    return next((factor * power for factor in (1, 2, 5) if factor * power >= wanted), 10 * power)


def crossing(frame: Frame) -> Spot:
    """Where the axes cross: at the origin, or along the frame where that lies outside."""
    return min(max(0.0, frame.left), frame.right), min(max(0.0, frame.bottom), frame.top)


def axes(canvas: Canvas, figure: DrawnFigure, style: Style) -> str:
    """Two axes, a little longer than the frame, with marks."""
    frame, (x0, y0) = canvas.frame, crossing(canvas.frame)
    (a, b), (c, _), (_, f) = (canvas.at(each) for each in ((frame.left, y0), (frame.right, y0), (x0, frame.top)))
    x, bottom = canvas.at((x0, frame.bottom))
    drawn = f'<path d="M{a} {b}H{c + BEYOND}M{x} {bottom}V{f - BEYOND}" stroke-width="1"/>'
    drawn += arrowhead((a, b), (c + BEYOND, b)) + arrowhead((x, bottom), (x, f - BEYOND))
    across, up = marked(canvas, figure, style)
    marks = "".join(f"M{canvas.at((each, y0))[0]} {b - 3}v6" for each in across)
    marks += "".join(f"M{x - 3} {canvas.at((x0, each))[1]}h6" for each in up)
    return drawn + (f'<path d="{marks}" stroke-width="1"/>' if marks else "")


def marked(canvas: Canvas, figure: DrawnFigure, style: Style) -> tuple[list[float], list[float]]:
    """The numbers that the axes have, across and up, without that of the crossing."""
    frame, (x0, y0) = canvas.frame, crossing(canvas.frame)
    wide, high = frame.right - frame.left, frame.top - frame.bottom
    widest = max(width_of(tick(each, style), SIZE) for each in (frame.left, frame.right))
    across = figure.steps[0] if figure.steps else nice_step(wide, wide * canvas.across, max(38, widest + 12))
    up = figure.steps[1] if figure.steps else nice_step(high, high * canvas.up, 26)
    return (
        [x for x in multiples(frame.left, frame.right, across) if abs(x - x0) > across / 2],
        [y for y in multiples(frame.bottom, frame.top, up) if abs(y - y0) > up / 2],
    )


def numbers(canvas: Canvas, figure: DrawnFigure, style: Style) -> str:
    """The numbers of the axes, and their names."""
    frame, (x0, y0) = canvas.frame, crossing(canvas.frame)
    across, up = marked(canvas, figure, style)
    a, b = canvas.at((x0, y0))
    drawn = "".join(label((canvas.at((x, y0))[0], b + 15), tick(x, style), "middle") for x in across)
    drawn += "".join(label((a - 6, canvas.at((x0, y))[1] + 4), tick(y, style), "end") for y in up)
    drawn += label((a - 6, b + 15), tick(x0, style), "end")
    across_name, up_name = figure.axes or ((), ())
    right, _ = canvas.at((frame.right, y0))
    _, top = canvas.at((x0, frame.top))
    drawn += label((right + BEYOND, b + 30), across_name, "end") if across_name else ""
    # beside the arrowhead, or ending at the edge where there is no room beside it
    fits = a + 8 + width_of(up_name, SIZE) < canvas.width
    place, anchor = ((a + 8, top - BEYOND + 3), "start") if fits else ((canvas.width - 4, top - BEYOND - 6), "end")
    return drawn + (label(place, up_name, anchor) if up_name else "")


def tick(value: float, style: Style) -> list[Run]:
    """A number at an axis, written as in a text; very large and very small ones with a power of ten."""
    usual = not value or 1e-4 <= abs(value) < 1e7
    written, _, power = (f"{value:.10f}" if usual else f"{value:.6e}").partition("e")
    exact = Decimal(written).normalize()
    decimals, size = max(0, -int(exact.as_tuple().exponent)), Fraction(abs(exact))
    number = Number(size, decimals) if usual else Number(size * Fraction(10) ** int(power), decimals, int(power))
    runs = maths_runs(number, style)
    return [Run("−" + runs[0].text), *runs[1:]] if exact < 0 else runs


def ends(low: float, high: float, drawn: Sequence[float]) -> tuple[float, float]:
    """Two ends of a frame, each drawn in where much between it and what is drawn is empty."""
    least, most = max(low, min(drawn)), min(high, max(drawn))
    size = most - least
    return (
        least - AROUND * size if least - low > EMPTY * size else low,
        most + AROUND * size if high - most > EMPTY * size else high,
    )


def cut(figure: DrawnFigure) -> Frame:
    """The frame of a figure, cut to what is drawn where much of it is empty."""
    frame = figure.frame
    wide, high = frame.right - frame.left, frame.top - frame.bottom
    if figure.axes or figure.grid or not figure.outlines:
        return frame
    scale = (WIDTH - 2 * MARGIN) / wide
    xs, ys = list[float](), list[float]()
    for each in figure.outlines:
        # letters take room around their place, as far as is known before it is known how large all is; what is closed
        # has them in its middle
        around = bool(each.runs) and each.kind not in ("polygon", "circle")
        beside = width_of(each.runs, SIZE) / scale if around else 0.0
        above = 1.4 * SIZE / scale if around else 0.0
        if not figure.equal:
            above = above * high / wide * WIDTH / HEIGHT
        for x, y in each.places:
            xs += [x - each.radius - beside, x + each.radius + beside]
            ys += [y - each.radius - above, y + each.radius + above]
    left, right = ends(frame.left, frame.right, xs)
    bottom, top = ends(frame.bottom, frame.top, ys)
    return replace(frame, left=left, right=right, bottom=bottom, top=top) if left < right and bottom < top else frame
