"""What is said of the measure ``ring``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Circled letter",
    section="Marks",
    how="Click round it, a little outside the ring.",
    numbers={
        "": "Gap between letter and ring",
        "touches": "Whether it touches its ring",
        "gap_ratio": "Gap against the ring’s stroke",
        "stroke_mm": "Thickness of the ring",
        "centring_mm": "How far off its middle",
    },
    reasons={
        "no_ring_found": "No ring was found round a letter. Draw the region a little outside it, or go closer.",
    },
    doubts={
        "gap_unclear": "the gap is about as wide as what the photograph resolves: take a closer one",
    },
)
