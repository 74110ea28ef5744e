"""Finding the mistake: one formula of the parameters that gives the wrong answers of several students, each to their
own draw.

``find_mistakes`` tries what students do with a key (``alterations``), then formulas built freely from what the key is
made of (``search``), and claims nothing that chance could have brought about (``chance``).
"""

from .batch import ClassError, class_mistakes
from .finding import Claim, find_mistakes
from .observed import Observed, observed

__all__ = ["Claim", "ClassError", "Observed", "class_mistakes", "find_mistakes", "observed"]
