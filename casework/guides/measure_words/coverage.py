"""What is said of the measure ``coverage``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Share of one tone",
    section="Material",
    how="Click one place on the tone, then round the region.",
    numbers={
        "share_ratio": "Share of the region",
        "patches": "How many patches",
    },
    reasons={
        "tone_then_region": "Four places or more are wanted, not {points}: one on the tone, then round the region.",
        "one_tone_only": "The region holds one tone only. Draw it over both, and click the tone first.",
    },
)
