"""What is said of the measure ``outline``."""

from casework.guides.measure_words.present import zones
from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Outline",
    first=3,
    how="Click loosely round the shoe, clear of the bench card.",
    numbers={
        "p95_mm": "Distance within which 95 % of the outline lies",
        "departure_mm": "Largest distance from retail",
    },
    present=zones,
)
