"""A drawn figure as SVG: everything is written here and escaped, nothing of it is copied from an author's markup."""

from __future__ import annotations

import math
from collections.abc import Sequence
from html import escape

from ..notation import POINT, Style
from .drawing import DrawnFigure
from .region import DrawnRegion
from .statements import Outline, Run, Spot

WIDTH = 320.0
# without true shapes a figure is this high
HEIGHT = 224.0
TALLEST, LOWEST = 420.0, 60.0
MARGIN = 10.0
LETTERS = 'font-family="TeX Gyre Schola, serif" font-size="13"'


class Canvas:
    """Turns the coordinates of a figure into those of the picture, 320 wide."""

    def __init__(self, figure: DrawnFigure) -> None:
        self.frame = figure.frame
        self.below = 34.0 if figure.axes else MARGIN
        self.beside = 40.0 if figure.axes else MARGIN
        wide, high = figure.frame.right - figure.frame.left, figure.frame.top - figure.frame.bottom
        inner = WIDTH - self.beside - MARGIN
        tall = inner * high / wide if figure.equal else HEIGHT - self.below - MARGIN
        if tall > TALLEST:
            inner, tall = inner * TALLEST / tall, TALLEST
        if tall < LOWEST:
            tall = LOWEST
        self.across, self.up = inner / wide, tall / high
        if figure.equal:
            self.across = self.up = min(self.across, self.up)
        self.width = self.beside + MARGIN + wide * self.across
        self.height = self.below + MARGIN + high * self.up + (14 if figure.axes else 0)
        self.head = MARGIN + (14 if figure.axes else 0)

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
) -> str:
    """The picture, with a text that says what it shows; ``regions`` are outlined for a key, ``style`` says how numbers
    are written, ``name`` what the figure is called in its question.

    ``address`` leads to the picture that fills the frame.
    """
    canvas = Canvas(figure)
    drawn = []
    if address:
        drawn.append(background(canvas, address))
    if figure.grid:
        drawn.append(grid(canvas, figure.grid))
    if figure.axes:
        drawn.append(axes(canvas, figure, style))
    drawn += [shape(canvas, outline) for outline in figure.outlines]
    drawn += [outlined(canvas, region) for region in regions]
    frame = f"{figure.frame.left!r} {figure.frame.right!r} {figure.frame.bottom!r} {figure.frame.top!r}"
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
    words = "".join(
        f'<tspan font-style="italic">{escape(text)}</tspan>' if italic else f"<tspan>{escape(text)}</tspan>"
        for text, italic in runs
    )
    x, y = place
    return (
        f'<text x="{x:.2f}" y="{y + drop:.2f}" text-anchor="{anchor}" fill="currentColor" stroke="none" '
        f"{LETTERS}>{words}</text>"
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


def axes(canvas: Canvas, figure: DrawnFigure, style: Style) -> str:
    """Two axes through the origin, or along the frame where the origin lies outside it."""
    frame = figure.frame
    wide, high = frame.right - frame.left, frame.top - frame.bottom
    across = figure.steps[0] if figure.steps else nice_step(wide, wide * canvas.across, 38)
    up = figure.steps[1] if figure.steps else nice_step(high, high * canvas.up, 26)
    x0 = min(max(0.0, frame.left), frame.right)
    y0 = min(max(0.0, frame.bottom), frame.top)
    drawn = ""
    for start, end in (((frame.left, y0), (frame.right, y0)), ((x0, frame.bottom), (x0, frame.top))):
        (a, b), (c, d) = canvas.at(start), canvas.at(end)
        drawn += f'<path d="M{a} {b}L{c} {d}" stroke-width="1"/>' + arrowhead((a, b), (c, d))
    for x in multiples(frame.left, frame.right, across):
        a, b = canvas.at((x, y0))
        if abs(x - x0) > across / 2:
            drawn += f'<path d="M{a} {b - 3}V{b + 3}" stroke-width="1"/>' + label((a, b + 15), tick(x, style), "middle")
    for y in multiples(frame.bottom, frame.top, up):
        a, b = canvas.at((x0, y))
        if abs(y - y0) > up / 2:
            drawn += f'<path d="M{a - 3} {b}H{a + 3}" stroke-width="1"/>' + label((a - 6, b + 4), tick(y, style), "end")
    a, b = canvas.at((x0, y0))
    drawn += label((a - 6, b + 15), tick(x0, style), "end")
    across_name, up_name = figure.axes or ((), ())
    right, bottom = canvas.at((frame.right, y0))
    left, top = canvas.at((x0, frame.top))
    drawn += label((right, bottom + 30), across_name, "end") + label((left - 4, top - 8), up_name, "start")
    return drawn


def tick(value: float, style: Style) -> list[Run]:
    return [(f"{round(value, 10):g}".replace("-", "−").replace(".", style.mark), False)]
