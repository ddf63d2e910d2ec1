"""What is said of the measure ``lettering``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Line of print",
    section="Marks",
    how="Click round one line of letters, close to it.",
    numbers={
        "stroke_mm": "Weight of a stroke",
        "height_mm": "Height of a capital",
        "pitch_mm": "Spacing of the letters",
        "gap_mm": "Gap between letters",
    },
    reasons={
        "no_print_found": "No print was found in the region. Move it onto the line of letters.",
        "print_too_small": "A stroke is only {px} pixels wide; {needed} are needed. Photograph the label closer.",
    },
    doubts={
        "letters_touch": "letters touch or run together: look closely",
        "strokes_broken": "strokes are seen as single threads: count the letters yourself, their weight is not known",
    },
)
