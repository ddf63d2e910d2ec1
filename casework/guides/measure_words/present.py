"""What the bench shows of a reading besides the number that is judged; a measure names its presenter with its words."""

from collections.abc import Mapping

import numpy as np

from assay.compare.contour import ZONES
from assay.imaging.colour import lab_to_linear, linear_to_srgb

MOST_LAYERS = 12
"""Layers of a cut edge that may be named."""
LEAST_TOLD = 0.5
"""A smaller difference of a colour has no direction, dE00."""
TONE_TOLD = 0.5
"""A smaller part of it is not named, dE00."""
LIGHT_UNSURE = 2.0
"""From here on the light is said to be unsure, dE00."""
WAYS = (("lighter", "darker"), ("redder", "greener"), ("yellower", "bluer"), ("stronger", "duller"))


def zones(known: Mapping[str, float], _reading) -> dict:
    """Of an outline: what each zone of the shoe departs by, mm to a tenth, no minus before a zero."""
    return {
        "zones": [
            {"name": zone, **{key: round(known[f"{zone}_{key}_mm"], 1) + 0.0 for key in ("most", "p95", "mean")}}
            for zone in ZONES
            if f"{zone}_most_mm" in known
        ]
    }


def layers(known: Mapping[str, float], _reading) -> dict:
    """Of a cut edge: which layer is missing, and which the verified pairs have not."""
    lost, extra = (
        [round(known[f"{name}_{n}"]) for n in range(1, MOST_LAYERS + 1) if f"{name}_{n}" in known]
        for name in ("missing", "extra")
    )
    return {
        "layers": [
            *(f"Layer {n} of the verified pairs, counted from outside, is missing." for n in lost),
            *(f"Layer {n} here has no partner on the verified pairs." for n in extra),
        ]
    }


def tones(known: Mapping[str, float], reading) -> dict:
    """Of colours compared: both as they look on screen, and which way this pair's differs."""
    seen = reading.parts
    if not {"lighter", "redder", "yellower"} <= set(known) or not {"a", "b"} <= set(seen):
        return {}
    here = np.array([float(reading.value), seen["a"], seen["b"]])
    away = [known["lighter"], known["redder"], known["yellower"]]
    unsure = max(LEAST_TOLD, known.get("apart_dE00_uncertainty", 0.0))
    swatches = {"here": _on_screen(here), "retail": _on_screen(here - away)}
    return {"tones": swatches | {"words": tone_words(known, unsure)}}


def tone_words(known: Mapping[str, float], unsure: float) -> list[str]:
    """Which way a colour differs from retail's, the largest first, and how firmly that is known; ``unsure``: dE00."""
    told = [(abs(known[up]), up if known[up] > 0 else down) for up, down in WAYS if up in known]
    lines = [f"{way.capitalize()} by {size:.1f}." for size, way in sorted(told, reverse=True) if size >= TONE_TOLD]
    if unsure >= known.get("apart_dE00", 0.0):
        lines.append(f"No more than the light is unsure of (± {unsure:.1f}).")
    elif unsure >= LIGHT_UNSURE:
        lines.append(f"The light is known to ± {unsure:.1f} only: with the bench card in the picture, shades tell.")
    return lines or ["No difference to tell."]


def _on_screen(lab: np.ndarray) -> str:
    red, green, blue = np.round(linear_to_srgb(lab_to_linear(lab))).astype(int)
    return f"#{red:02x}{green:02x}{blue:02x}"
