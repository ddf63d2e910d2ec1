"""What is said of the measure ``glow``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="UV glow",
    first=8,
    section="UV light",
    how="Click round the part of the shoe, or the face of the box, that the lamp lights. Leave table and hands out.",
    numbers={
        "drawn_beyond": "Lines and stamps beyond retail’s",
        "": "Guide lines and stamps",
        "lines": "Guide lines",
        "stamps": "Stamps",
        "smears": "Smears of adhesive",
        "smears_beyond": "Smears beyond retail’s places",
        "smear_beyond_mm": "Length of smears beyond retail’s places",
        "panels": "Parts that glow as a whole",
        "panels_beyond": "Parts that glow as a whole, not on retail",
        "panels_lacking": "Parts that glow on retail only",
        "lines_beyond": "Guide lines beyond retail’s",
        "stamps_beyond": "Stamps beyond retail’s",
        "lines_mm": "Length of guide lines",
        "smear_mm": "Length of smears",
        "glows_ratio": "Share that glows",
        "brightness_ratio": "Brightest over the dark ground",
    },
    reasons={
        "not_ultraviolet": "This was not taken by the lamp alone: daylight or room light is in it. Darken the room, "
        "switch everything else off, take it again.",
        "glow_burnt_out": "{percent} % of it is burnt out. Hold the lamp further away or shorten the exposure, and "
        "keep both the same for the retail pair.",
    },
    doubts={
        "purple_veil": "the lamp’s own violet is bright and hides weak glow: use a filtered lamp, hold it further away",
        "lint_storm": "a lot of lint glows: brush it off and take the photograph again",
        "glow_unscaled": "the photograph has no scale: what glows is sorted by form only",
    },
)
