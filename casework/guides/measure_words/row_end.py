"""What is said of the measure ``row_end``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="End of a row",
    section="Stitches and holes",
    how="Click along the row to its last stitch before the edge, then twice on the edge. Past the edge counts below 0.",
    numbers={
        "end_mm": "From its end to the edge",
        "past": "Stitches past the edge",
        "angle_deg": "Angle of the row to the edge",
    },
    reasons={
        "row_then_edge": "Four places or more are wanted, not {points}: along the row, then two on the edge.",
    },
    doubts={
        "row_passes_edge": "the row passes the edge: the stitches beyond it are ringed",
    },
)
