"""What is said of the measure ``place``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Marked places",
    section="Stitches and holes",
    how="Click two places; three for an angle at the second; four to set one distance against another.",
    numbers={
        "distance_mm": "Distance",
        "angle_deg": "Angle",
        "ratio": "Ratio of distances",
    },
    reasons={
        "two_to_four_places": "Two to four places are wanted, not {points}. Draw them anew.",
    },
)
