"""The demo's close-ups: what they show of every pair."""

from dataclasses import replace

import numpy as np

from assay.simulator.camera import Camera, pose
from assay.simulator.close_ups import (
    FRAME,
    NEUTRAL_AT,
    CloseUp,
    brushed_close,
    emblem_close,
    lamp_moved_close,
    under_close,
)

MM_PER_PX = 0.05
COARSE_MM_PER_PX = 0.1
"""Of the second photographs of a place: they are held against the first for tone only."""
EMBLEM = "emblem-close"
BRUSHED = "suede-brushed-back"
LAMP_MOVED = "badge-lamp-moved"
UNDER = "sole-and-insole-close"
TAKES = {EMBLEM: emblem_close, UNDER: under_close, BRUSHED: brushed_close, LAMP_MOVED: lamp_moved_close}
STEP = {EMBLEM: MM_PER_PX, UNDER: MM_PER_PX, BRUSHED: COARSE_MM_PER_PX, LAMP_MOVED: COARSE_MM_PER_PX}

CAMERAS = {
    "R1": Camera(mm_per_px=MM_PER_PX),
    "R2": Camera(mm_per_px=MM_PER_PX, turn_deg=0.8, shift_mm=(0.6, -0.4), exposure=1.03),
    "R3": Camera(mm_per_px=MM_PER_PX, turn_deg=-0.7, shift_mm=(-0.5, 0.5), exposure=0.96),
    "crude": Camera(mm_per_px=MM_PER_PX, turn_deg=1.1, shift_mm=(0.4, 0.6), exposure=1.05),
    "sloppy": Camera(mm_per_px=MM_PER_PX, turn_deg=-1.2, shift_mm=(0.8, -0.6), exposure=0.97),
    "good": Camera(mm_per_px=MM_PER_PX, turn_deg=0.5, shift_mm=(-0.7, 0.3)),
}
SHOWN = {
    "R1": CloseUp(seed=11),
    "R2": CloseUp(seed=12, emblem_tilt_deg=0.3, emblem_low_mm=-0.2, ring_gap_mm=0.7, glue_share=0.78),
    "R3": CloseUp(seed=13, emblem_tilt_deg=-0.4, emblem_low_mm=0.3, ring_gap_mm=0.8, glue_share=0.83, thread_mm=0.72),
    # Everything that a cheap copy gets wrong at once.
    "crude": CloseUp(
        seed=31,
        leather=(236, 234, 230),
        suede=(78, 116, 128),
        emblem=(38, 66, 118),
        thread=(206, 186, 158),
        grain_mm=0.7,
        emblem_low_mm=1.6,
        emblem_tilt_deg=2.4,
        stub=True,
        ring_gap_mm=0.0,
        loose_threads=3,
        specks_per_cm2=0.0,
        glue_share=0.5,
        lining_mm=1.9,
        nap=0.0,
        badge_gloss=0.9,
    ),
    # A regular's pair: loosely made, within what retail does.
    "sloppy": CloseUp(
        seed=21, emblem_tilt_deg=-0.5, emblem_low_mm=0.4, ring_gap_mm=0.68, glue_share=0.77, loose_threads=1
    ),
    # A good copy: emblem 1.2 mm low and 1.5 degrees off, thread a shade bright, finer grain, a stub, a touching ring.
    "good": CloseUp(
        seed=41,
        thread=(196, 172, 142),
        grain_mm=0.82,
        emblem_low_mm=1.2,
        emblem_tilt_deg=1.5,
        stub=True,
        ring_gap_mm=0.0,
        lining_mm=1.7,
        nap=0.02,
    ),
}


def camera_of(key: str, view: str) -> Camera:
    """The camera of a pair's close-up."""
    return replace(CAMERAS[key], mm_per_px=STEP[view])


def neutral_px(key: str, view: str) -> tuple[float, float]:
    """Where the grey tile stands in a pair's close-up, as a person would click it."""
    step = STEP.get(view, COARSE_MM_PER_PX)
    shape = tuple(round(side / step) for side in FRAME[::-1])
    camera = replace(CAMERAS[key], mm_per_px=step)
    return tuple(pose(camera, shape).through(np.array([NEUTRAL_AT]) / step)[0].tolist())
