"""What is said of the measure ``contrast``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Contrast of two tones",
    section="Colour",
    how="Click one place on the first tone, then one on the second, both clear of seams.",
    numbers={
        "": "Difference of the two tones",
        "lighter": "First lighter than second",
        "stronger": "First stronger than second",
    },
    reasons={
        "two_places": "Two places are wanted, not {points}: one on either tone.",
    },
)
