"""What is said of the measure ``nap``."""

from casework.guides.measure_words.present import tones
from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Nap of brushed hair",
    section="Colour",
    how="Click round one napped panel. A second photograph, brushed the other way, makes a check of the difference.",
    numbers={
        "": "Lightness as it lies",
        "direction_deg": "Which way the hair lies",
        "one_sided_ratio": "How much it lies one way",
        "depth_ratio": "Depth of hair or wrinkles",
        "apart_dE00": "Tone against retail’s",
    },
    present=tones,
)
