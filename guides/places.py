"""Where on a shoe something lies."""

import numpy as np

TOE_SHARE, HEEL_SHARE, LOW_SHARE = 0.3, 0.72, 0.86
"""Of a shoe's length from the toe, and of its height from the top. Assumed."""


def place_of(points: np.ndarray, outline: np.ndarray, toe: int) -> str:
    """``toe``, ``side``, ``heel`` or ``sole``, of marks (N, 2) inside an outline (N, 2) of one picture. ``toe``: 1
    where the toe is at the left, −1 at the right; 0, no side: empty."""
    if not toe:
        return ""
    low, high = outline.min(0), outline.max(0)
    x, y = (np.mean(points, axis=0) - low) / np.maximum(1.0, high - low)
    along = x if toe > 0 else 1 - x
    if y > LOW_SHARE:
        return "sole"
    return "toe" if along < TOE_SHARE else "heel" if along > HEEL_SHARE else "side"
