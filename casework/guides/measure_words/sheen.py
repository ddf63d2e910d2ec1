"""What is said of the measure ``sheen``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Sheen",
    section="Colour",
    how="Click round one material that a highlight falls on. The lamp must stand alike on every pair.",
    numbers={
        "": "Highlight over its own tone",
        "width_ratio": "Share of it that shines",
    },
    reasons={"sheen_needs_scale": "Sheen is judged over a known size. Give the photo a scale first."},
)
