"""What is said of the measure ``profile_rear``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Shape from behind",
    how="Click loosely round the heel, clear of the bench card.",
    numbers={
        "hourglass_ratio": "Hourglass: waist over collar and base",
        "collar_mm": "Width of the collar",
        "waist_mm": "Width of the waist",
        "base_mm": "Width of the base",
        "flank_mm": "Bend of the flanks",
    },
)
