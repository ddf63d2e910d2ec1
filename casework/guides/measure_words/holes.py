"""What is said of the measure ``holes``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Holes",
    first=2,
    section="Stitches and holes",
    how="Click round the holes, a little outside them. One kind of hole in one region.",
    numbers={
        "": "How many holes",
        "diameter_mm": "Diameter of the holes",
        "roundness_ratio": "Roundness: short over long diameter",
        "darkness_ratio": "Darkness: a dent is lighter than a hole",
        "missing": "Holes that retail has and this has not",
        "extra": "Holes that retail has not",
    },
    doubts={
        "by_likeness": "counted by likeness, not by their edges (shallow, laced, odd light): check the rings",
        "odd_holes": "what was found does not look like whole holes: check every ring, or mark a smaller region",
    },
)
