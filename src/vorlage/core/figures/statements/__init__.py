"""The statements that the lines of a figure can make: one module and one line of this register each.

``dashed``, ``thick`` and ``filled`` may stand before any of them.
"""

from .arrow import Arrow
from .axes import Axes
from .base import STYLES, Formulas, Frame, Line, Outline, Pen, Spot, Statement, StatementError, StatementKind
from .box import Box
from .circle import Circle
from .curve import Curve
from .frame import FrameLine
from .grid import Grid
from .line import LineShape
from .picture import Picture
from .point import Point
from .polygon import Polygon
from .shape import Shape
from .text import Words

# In the order in which they are offered.
REGISTER: tuple[StatementKind, ...] = (
    FrameLine(),
    Picture(),
    Axes(),
    Grid(),
    Curve(),
    LineShape(),
    Arrow(),
    Polygon(),
    Box(),
    Circle(),
    Point(),
    Words(),
)
STATEMENTS = {kind.word: kind for kind in REGISTER}

__all__ = [
    "REGISTER",
    "STATEMENTS",
    "STYLES",
    "Formulas",
    "Frame",
    "Line",
    "Outline",
    "Pen",
    "Shape",
    "Spot",
    "Statement",
    "StatementError",
    "StatementKind",
]
