"""What is said of the measure ``curvature``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Bend of an edge",
    section="Marks",
    how="Click along the edge of a panel, an emblem or a sole, from where its bend begins to where it ends.",
    numbers={
        "radius_mm": "Radius, typical",
        "tightest_mm": "Radius at the tightest place",
        "flat_mm": "Longest flat stretch",
        "turn_deg": "Turn from end to end",
    },
    reasons={
        "no_edge_followed": "No edge runs along the path. Click closer to it, or take a sharper photograph.",
        "edge_is_straight": "This edge is straight as far as can be told: it has no radius.",
    },
    doubts={},
)
