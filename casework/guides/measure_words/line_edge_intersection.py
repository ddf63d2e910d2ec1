"""What is said of the measure ``line_edge_intersection``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Line of holes to an edge",
    how="Click the row’s first and last hole; on the next panel’s edge the place to hold it against, then another.",
    numbers={
        "landing_mm": "Where it lands, from the third place",
        "angle_deg": "Angle to the edge",
    },
    reasons={
        "four_places": "Four places are wanted, not {points}: first and last hole, then two places on the edge.",
        "too_few_on_line": "Only {holes} holes stand in a line; {needed} are needed. Click its first and last hole.",
    },
)
