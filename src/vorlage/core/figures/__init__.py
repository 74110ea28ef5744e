"""Pictures drawn from parameters: lines of a small language, read once, drawn with the values of a draw, as SVG.

A figure is a frame and what lies in it, a statement a line, in the coordinates of the frame. A kind of statement is
one module of ``statements`` and its line in the register there.
"""

from .drawing import DrawnFigure, Figure
from .reading import FigureProblem
from .region import DrawnRegion, Region, fine_step, moved_region, region_line
from .statements import REGISTER as STATEMENTS
from .statements import STYLES, Outline
from .svg import framed, svg

__all__ = [
    "STATEMENTS",
    "STYLES",
    "DrawnFigure",
    "DrawnRegion",
    "Figure",
    "FigureProblem",
    "Outline",
    "Region",
    "fine_step",
    "framed",
    "moved_region",
    "region_line",
    "svg",
]
