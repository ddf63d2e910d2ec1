"""What is said of the measure ``thread``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Thread of a row",
    section="Stitches and holes",
    how="Click along the row, from the first stitch to the last.",
    numbers={
        "": "Thickness of the thread",
        "apart_dE00": "Thread against panel",
        "lighter": "Thread lighter than panel",
        "shine_ratio": "How much it shines",
    },
    reasons={
        "thread_not_told": "Thread and panel have nearly one colour: its thickness cannot be told.",
    },
)
