"""What is said of the measure ``layers``."""

from casework.guides.measure_words.present import layers
from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Layers of a cut edge",
    section="Material",
    how="Click a short line straight across the edge, from the outside in.",
    numbers={
        "": "How many layers",
        "total_mm": "Thickness of all layers",
        "missing": "Layers that retail has and this has not",
        "extra": "Layers that retail has not",
        "apart_dE00": "Colour of the layers against retail’s",
    },
    reasons={
        "no_layers_found": "No layers can be seen there. Draw straight across the edge, from outside to inside.",
    },
    present=layers,
)
