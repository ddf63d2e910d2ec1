"""What is said of the measure ``profile_top``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Shape from above",
    how="Click loosely round the shoe, clear of the bench card.",
    numbers={
        "squareness_ratio": "Squareness of the toe",
        "ball_mm": "Width at the ball",
        "toe_10_mm": "Width at a tenth of the length",
        "length_mm": "Length",
    },
)
