"""What is said of the measure ``embroidery``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Embroidery",
    section="Embroidery and thread",
    how="Click round it, a few mm outside, on plain ground.",
    numbers={
        "": "Loose or jumping threads",
        "threads_per_mm": "Threads per mm",
        "direction_deg": "Direction of the threads",
        "cover_ratio": "Cover: ground showing through",
        "edge_mm": "Width of its outline",
        "parts": "How many pieces",
    },
    doubts={
        "every_second_thread": "it is unclear whether every thread was counted or every second one: look at the lines",
        "threads_not_told": "single threads can’t be distinguished: photograph it closer",
        "loose_threads": "something like a loose thread is drawn: look whether it is one",
    },
)
