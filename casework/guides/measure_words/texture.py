"""What is said of the measure ``texture``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Texture",
    first=6,
    section="Material",
    how="Click round one material, at least 10 mm a side, lit alike on every pair.",
    numbers={
        "distance": "Texture against retail’s",
        "grain_mm": "Size of the grain",
        "depth_ratio": "Depth of the grain",
        "unevenness_ratio": "Unevenness from place to place",
        "one_sided_ratio": "How one-sided it is",
        "direction_deg": "Its direction",
    },
    reasons={
        "too_few_pixels_for_texture": "Only {bands} sizes of grain can be read; {needed} are needed. Go closer, or "
        "draw a larger region.",
        "texture_needs_scale": "Texture needs a scale: lay the bench card beside it, or give the photograph its scale.",
    },
    doubts={
        "texture_under_noise": "the camera’s noise is as strong as the grain: more light, a steadier hand",
    },
)
