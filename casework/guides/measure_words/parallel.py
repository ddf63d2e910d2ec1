"""What is said of the measure ``parallel``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Parallel lines",
    section="Stitches and holes",
    how="Click along the gap between them, from end to end.",
    numbers={
        "mean_mm": "Distance, mean",
        "drift_mm": "Drift from end to end",
        "least_mm": "Narrowest place",
        "most_mm": "Widest place",
    },
    reasons={
        "no_line_beside": "No line runs along the {side} side of the path. Trace the gap between the two lines.",
    },
    doubts={
        "lines_touch": "the two lines touch or cross",
    },
)
