"""Simulated close-ups with a fault of known size, harder from level to level, or without."""

from dataclasses import replace
from functools import lru_cache
from importlib import import_module
from typing import Any

MM_PER_PX = 0.17
# What copies are caught by, and what kind of card it makes.
FAULTS = {
    "tilt": "mark",
    "low": "mark",
    "ring": "mark",
    "size": "mark",
    "thread": "shade",
    "suede": "shade",
    "grain": "texture",
    "lining": "texture",
    "specks": "count",
}
SIZES = {
    "tilt": (4.0, 2.5, 1.6, 1.0, 0.7),
    "low": (3.2, 2.2, 1.4, 0.9, 0.6),
    "ring": (0.0, 0.15, 0.3, 0.42, 0.52),
    "size": (0.9, 0.94, 0.96, 0.975, 0.985),
    "thread": (40, 28, 20, 14, 10),
    "suede": (34, 24, 16, 11, 8),
    "grain": (2.6, 2.1, 1.7, 1.5, 1.35),
    "lining": (2.6, 2.25, 2.0, 1.86, 1.76),
    "specks": (5.0, 3.6, 2.6, 2.0, 1.6),
}
WORDS = {
    "tilt": "The emblem is turned by {:.1f}°.",
    "low": "The emblem sits {:.1f} mm nearer to the sole.",
    "ring": "Letter and ring are {:.2f} mm apart; retail’s are 0.75.",
    "size": "The emblem is {:.3f} of retail’s size.",
    "thread": "The row’s thread is darker.",
    "suede": "The suede is darker.",
    "grain": "The grain is {:.2f} mm coarse; retail’s 1.15.",
    "lining": "The lining’s yarns are {:.2f} mm apart; retail’s 1.60.",
    "specks": "{:.1f} specks a cm²; retail’s 1.1.",
}
UNDER = ("lining", "specks")


def told(fault: str, level: int, *, there: bool) -> str:
    """What is to be seen, in words."""
    return WORDS[fault].format(SIZES[fault][level - 1]) if there else "No fault: the two differ as two retail pairs do."


def _with(one: Any, fault: str, size: float) -> Any:
    darker = lambda colour: tuple(max(0, n - size) for n in colour)  # noqa: E731
    return {
        "tilt": lambda: replace(one, emblem_tilt_deg=size),
        "low": lambda: replace(one, emblem_low_mm=size),
        "ring": lambda: replace(one, ring_gap_mm=size),
        "size": lambda: replace(one, emblem_size=size),
        "thread": lambda: replace(one, thread=darker(one.thread)),
        "suede": lambda: replace(one, suede=darker(one.suede)),
        "grain": lambda: replace(one, grain_mm=size),
        "lining": lambda: replace(one, lining_mm=size),
        "specks": lambda: replace(one, specks_per_cm2=size),
    }[fault]()


@lru_cache(maxsize=64)
def close_up(fault: str, level: int, seed: int, which: int) -> bytes:
    """JPEG; ``which``: 0 retail, 1 with the fault, 2 another without."""
    # Only who draws loads it: pages need no simulator.
    drawn = import_module("assay.simulator.close_ups")
    one = drawn.CloseUp(seed * 3 + which)
    if which == 1:
        one = _with(one, fault, SIZES[fault][level - 1])
    camera = import_module("assay.simulator.camera").Camera(mm_per_px=MM_PER_PX)
    shot = (drawn.under_close if fault in UNDER else drawn.emblem_close)(one, camera)
    return shot.jpeg
