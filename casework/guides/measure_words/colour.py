"""What is said of the measure ``colour``."""

from casework.guides.measure_words.present import tones
from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Colour of a panel",
    first=5,
    section="Colour",
    how="Click round one material, dry and free of dust, clear of seams and shine.",
    numbers={
        "apart_dE00": "Colour against retail’s",
        "": "Lightness",
        "a": "Green to red",
        "b": "Blue to yellow",
        "chroma": "Strength of the colour",
        "scatter_dE": "Scatter of single pixels",
    },
    doubts={
        "two_tones": "the region seems to hold two materials: draw it inside one",
        "mixed_light": "the colour drifts from one side to the other: two lamps of different colour? Light it with one",
        "light_not_known": "no bench card, no neutral part: the colour is as the camera made it, and is not compared",
    },
    present=tones,
)
