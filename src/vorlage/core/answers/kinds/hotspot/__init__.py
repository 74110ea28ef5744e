"""Places in a figure."""

from ...kind import Kind
from .document import HotspotAnswer

KINDS = (
    Kind(
        "hotspot",
        "place in a figure",
        HotspotAnswer,
        (
            {"figure": "figure", "regions": [{"region": "circle (1, 1) 1"}]},
            {
                "figure": "f",
                "clicks": 2,
                "regions": [{"region": "circle (1, 2) 1"}, {"region": "box (3, 3) (4, 5)"}],
            },
        ),
    ),
)

__all__ = ["KINDS", "HotspotAnswer"]
