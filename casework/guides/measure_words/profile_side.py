"""What is said of the measure ``profile_side``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Shape from the side",
    how="Click loosely round the shoe, clear of the bench card.",
    numbers={
        "toe_ratio": "Toe height over length",
        "length_mm": "Length",
        "height_mm": "Height",
        "toe_10_mm": "Toe height at a tenth of the length",
        "toe_slope_deg": "Slope of the toe",
        "heel_lean_deg": "Lean of the heel",
        "heel_bow_mm": "Bow of the heel's back",
        "heel_radius_mm": "Radius of the heel's back",
        "collar_dip_mm": "Depth of the collar's dip",
    },
)
