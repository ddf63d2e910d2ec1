"""What is said of the measure ``speckle``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Specks",
    section="Material",
    how="Click round a piece of at least 2 cm².",
    numbers={
        "": "Specks per cm²",
        "specks": "How many specks",
        "size_mm": "Size of a speck",
        "kinds": "Kinds of colour",
        "share_ratio": "Share of the region",
    },
    reasons={
        "speckle_needs_scale": "Specks are counted per cm²: the photograph needs a scale.",
        "ground_unclear": "{percent} % of the region stands off its ground: there is none to tell specks from.",
    },
)
