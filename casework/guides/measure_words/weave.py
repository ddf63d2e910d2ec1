"""What is said of the measure ``weave``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Weave or mesh",
    section="Material",
    how="Click round an even piece, at least four repeats wide.",
    numbers={
        "pitch_mm": "Spacing, the stronger way",
        "cross_mm": "Spacing, the other way",
        "cell_mm2": "Area of a cell",
        "angle_deg": "Angle of the two ways",
        "direction_deg": "Direction of its lines",
        "regular_ratio": "How regular it is",
    },
    reasons={
        "no_period_found": "Nothing repeats in the region. Draw it on an even piece, or photograph it closer.",
    },
    doubts={
        "every_second_thread": "it is unclear whether every thread was counted or every second one: look at the lines",
        "pattern_hardly_shows": "what repeats hardly shows: look closely",
    },
)
