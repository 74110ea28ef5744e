"""Pictures drawn from parameters: lines of a small language, read once, drawn with the values of a draw, as SVG.

A figure is a frame and what lies in it, a statement a line, in the coordinates of the frame.
"""

from .drawing import DrawnFigure, Figure, Outline
from .region import DrawnRegion, Region
from .statements import FigureProblem
from .svg import framed, svg

__all__ = ["DrawnFigure", "DrawnRegion", "Figure", "FigureProblem", "Outline", "Region", "framed", "svg"]
