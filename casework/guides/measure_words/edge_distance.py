"""What is said of the measure ``edge_distance``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Distance between edges",
    first=7,
    how="Click the first edge, then the second, straight across.",
    numbers={
        "span_mm": "Distance",
        "lean_deg": "Angle between the edges",
    },
    reasons={
        "no_edge_here": "No clear edge at dot {end}. Drag that dot onto the edge (M).",
    },
    doubts={
        "edges_lean": "the two edges are not parallel",
    },
)
