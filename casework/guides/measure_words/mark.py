"""What is said of the measure ``mark``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Emblem or word",
    first=4,
    section="Marks",
    how="Click twice along the edge it is held against, then round the mark.",
    numbers={
        "turned_deg": "Turned against retail’s",
        "across_mm": "Moved away from the edge, against retail’s",
        "shifted_mm": "Moved along the edge, against retail’s",
        "size_pct": "Size against retail’s",
        "stroke_pct": "Strokes against retail’s",
        "spacing_pct": "Gaps against retail’s",
        "missing": "Parts that are missing",
        "too_much": "Parts that are too much",
        "from_edge_mm": "From the edge to its middle",
        "along_mm": "Along the edge",
        "tilt_deg": "Tilt to the edge",
        "width_mm": "Width",
        "height_mm": "Height",
        "stroke_mm": "Weight of a stroke",
        "parts": "How many parts",
        "spacing_mm": "Spacing of its parts",
        "corner_mm": "Radius of its corners",
        "contrast_dE": "Contrast with its ground",
    },
    reasons={
        "edge_then_region": "Five places or more are wanted, not {points}: two on the edge, then round the mark.",
    },
    doubts={
        "faint_mark": "the mark hardly stands out from its ground: look closely",
    },
)
