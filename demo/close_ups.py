"""The demo's close-ups: what they show of every pair, where checks are drawn on them, and the checks."""

from dataclasses import replace

import numpy as np

from assay.simulator.camera import Camera, pose
from assay.simulator.close_ups import (
    BADGE_MM,
    FRAME,
    GLUE_IN,
    LINING_IN,
    NEUTRAL_AT,
    RING_AT,
    RING_MM,
    ROW,
    SATIN,
    SOLE_EDGE,
    SPECKS_IN,
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
VIEWS = [
    {
        "key": EMBLEM,
        "name": "emblem, close",
        "position": 12,
        "how": "Fill the frame with the emblem, the badge and the sole's edge; a plain grey tile in the corner.",
        "sketch": "close",
        "close_up": True,
        "card_gap_mm": 0.5,
    },
    {
        "key": BRUSHED,
        "name": "suede, brushed back",
        "position": 13,
        "how": "The frame of “emblem, close”, camera and lamp where they were, the suede brushed towards the heel.",
        "sketch": "close",
        "close_up": True,
        "card_gap_mm": 0.5,
    },
    {
        "key": LAMP_MOVED,
        "name": "badge, lamp moved",
        "position": 14,
        "how": "The same frame as “emblem, close”, camera where it was, the lamp low on the other side.",
        "sketch": "close",
        "close_up": True,
        "card_gap_mm": 0.5,
    },
    {
        "key": UNDER,
        "name": "sole and insole, close",
        "position": 45,
        "how": "Forefoot of the sole, the insole's underside and a piece of lining beside each other; the grey tile.",
        "sketch": "close",
        "close_up": True,
        "card_gap_mm": 0.5,
    },
]
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


def _box(low: tuple[float, float], high: tuple[float, float], inset: float = 1.5) -> list[tuple[float, float]]:
    (left, top), (right, bottom) = low, high
    left, top, right, bottom = left + inset, top + inset, right - inset, bottom - inset
    return [(left, top), (right, top), (right, bottom), (left, bottom)]


_LEATHER = [(64, 12), (76, 12), (76, 17), (64, 17)]
_SUEDE = [(2.5, 3), (6.5, 3), (5.5, 24), (2.5, 24)]
_GRAIN = [(12, 4), (62, 4), (62, 20), (12, 22)]
_EMBLEM = [(6, SOLE_EDGE), (106, SOLE_EDGE), (8, 20), (67, 20), (67, 57), (8, 57)]
_X, _Y = RING_AT
_R = RING_MM + 0.9
_RING = [(_X - _R, _Y - _R), (_X + _R, _Y - _R), (_X + _R, _Y + _R), (_X - _R, _Y + _R)]
_BADGE = [(_X - 6.8, _Y - 5), (_X + 6.8, _Y - 5), (_X + 6.8, _Y + 5), (_X - 6.8, _Y + 5)]
_SATIN = [(SATIN[0][0] - 3, 36), (SATIN[1][0] + 3, 36), (SATIN[1][0] + 3, 57), (SATIN[0][0] - 3, 57)]
_GLUE = [(70, 28), *_box(*GLUE_IN, inset=0.6)]
_ROUND = np.radians(np.arange(-160, 161, 20))
# Marks as a guide writer drew them on the first retail pair's close-ups, mm from the top left corner.
DRAWN = {
    "leather-shade": _GRAIN,
    "suede-shade": _SUEDE,
    "emblem-shade": [(18, 36), (48, 30), (46, 44), (18, 48)],
    "suede-on-leather": [(3.5, 14), (16, 14)],
    "leather-grain": _GRAIN,
    "emblem-place": _EMBLEM,
    "emblem-turn": _EMBLEM,
    "emblem-size": _EMBLEM,
    "emblem-parts": _EMBLEM,
    "ring-touches": _RING,
    "ring-gap": _RING,
    "satin-threads": _SATIN,
    "satin-loose": _SATIN,
    "seam-thread": [ROW[0], (32, 60.6), ROW[1], (82, 60.9), ROW[2]],
    "seam-thread-shade": [ROW[0], (32, 60.6), ROW[1], (82, 60.9), ROW[2]],
    "badge-sheen": _BADGE,
    "sole-specks": _box(*SPECKS_IN),
    "insole-glue": _GLUE,
    "lining-weave": _box(*LINING_IN),
    "suede-nap": _SUEDE,
    "suede-lies": [(3.5, 14), (16, 14)],
    "suede-back": [(3.5, 14), (16, 14)],
    "badge-lamp": _BADGE,
    "badge-round": [
        (_X + BADGE_MM * np.cos(a), _Y + BADGE_MM * np.sin(a)) for a in np.radians(np.arange(-160, 161, 20))
    ],
}


def camera_of(key: str, view: str) -> Camera:
    """The camera of a pair's close-up."""
    return replace(CAMERAS[key], mm_per_px=STEP[view])


def drawn(key: str, view: str) -> list[list[float]]:
    """A drawn mark in pixels of the first retail pair's close-up."""
    return [[round(x / STEP[view], 1), round(y / STEP[view], 1)] for x, y in DRAWN[key]]


def neutral_px(key: str, view: str) -> tuple[float, float]:
    """Where the grey tile stands in a pair's close-up, as a person would click it."""
    step = STEP.get(view, COARSE_MM_PER_PX)
    shape = tuple(round(side / step) for side in FRAME[::-1])
    camera = replace(CAMERAS[key], mm_per_px=step)
    return tuple(pose(camera, shape).through(np.array([NEUTRAL_AT]) / step)[0].tolist())


ELSEWHERE = {
    "sole-specks": UNDER,
    "insole-glue": UNDER,
    "lining-weave": UNDER,
    "suede-back": BRUSHED,
    "badge-lamp": LAMP_MOVED,
}
"""Checks that are not made on the emblem's close-up."""


def _twice(key: str, name: str, unit: str, group: str, first: str, second: str, scatter: float) -> dict:
    """The first less the second of two checks of one number."""
    return {
        "key": key,
        "name": name,
        "instruction": "The first less the second: one place photographed twice.",
        "unit": unit,
        "group": group,
        "kind": "continuous",
        "minutes": 0.1,
        "left": first,
        "right": second,
        "prior": _spread(scatter),
    }


def _check(key: str, name: str, instruction: str, measure: str, quantity: str, unit: str, group: str, **rest) -> dict:
    view = ELSEWHERE.get(key, EMBLEM)
    kind = "count" if unit == "count" else "continuous"
    return {
        "key": key,
        "name": name,
        "instruction": instruction,
        "measure": measure,
        "quantity": quantity,
        "unit": unit,
        "group": group,
        "kind": kind,
        "view": view,
        "foot": "left",
        "minutes": 0.3,
        **rest,
    }


def _spread(scatter: float) -> dict:
    return {"pairs": 4, "scatter": scatter}


RARELY = {"pairs": 2, "off_by_one": 0.01}
_IN_ORDER = [
    ("Colour", [
        _check("leather-shade", "Leather’s shade", "Quarter leather against the verified pairs’, by the grey tile.",
               "colour", "apart_dE00", "dE00", "shade", prior=_spread(1.6)),
        _check("suede-shade", "Suede’s shade", "Suede against the verified pairs’, by the grey tile.",
               "colour", "apart_dE00", "dE00", "shade", prior=_spread(1.6)),
        _check("emblem-shade", "Emblem’s shade", "The pennant’s blue against the verified pairs’.",
               "colour", "apart_dE00", "dE00", "shade", prior=_spread(1.6)),
        _check("suede-on-leather", "Suede against leather", "The two tones must differ by as much as retail’s do.",
               "contrast", "", "dE00", "shade", prior=_spread(2.0)),
    ]),
    ("Material", [
        _check("leather-grain", "Leather’s grain", "The quarter’s texture against the verified pairs’, blind to tone.",
               "texture", "distance", "ratio", "leather", prior=_spread(0.5)),
        _check("suede-nap", "Suede, as it lies", "Which way the hair lies, and how deep it is.",
               "nap", "depth_ratio", "ratio", "suede", prior=_spread(0.03)),
        _check("lining-weave", "Lining’s weave", "Spacing of the lining’s yarns.",
               "weave", "pitch_mm", "mm", "lining", prior=_spread(0.03)),
        _check("badge-sheen", "Sheen of the badge", "How far its highlight stands over its own tone.",
               "sheen", "highlight_ratio", "ratio", "badge", prior=_spread(0.25)),
        _check("suede-lies", "Suede as it lies", "How much darker than the leather beside it, hair as it lies.",
               "contrast", "lighter", "L*", "suede", prior=_spread(2.0)),
        _check("suede-back", "Suede brushed back", "The same two places on the photograph with the hair brushed back.",
               "contrast", "lighter", "L*", "suede", prior=_spread(2.0)),
        _twice("suede-moves", "Suede moves", "L*", "suede", "suede-lies", "suede-back", 1.0),
        _check("badge-lamp", "Badge, lamp moved", "Its highlight with the lamp low on the other side.",
               "sheen", "highlight_ratio", "ratio", "badge", prior=_spread(0.25)),
        _twice("badge-moves", "Highlight follows the lamp", "ratio", "badge", "badge-sheen", "badge-lamp", 0.15),
    ]),
    ("Marks", [
        _check("emblem-place", "Emblem’s height", "How much higher over the sole’s edge than verified pairs’.",
               "mark", "across_mm", "mm", "emblem", prior=_spread(0.35)),
        _check("emblem-turn", "Emblem’s tilt", "Turned by how much against the verified pairs’, by the sole’s edge.",
               "mark", "turned_deg", "deg", "emblem", prior=_spread(0.5)),
        _check("emblem-size", "Emblem’s width", "Along the sole’s edge, from tip to tip.",
               "mark", "width_mm", "mm", "emblem", prior=_spread(0.4)),
        _check("emblem-parts", "Emblem, part by part", "What the verified pairs’ has and this has not, outlined.",
               "mark", "missing", "count", "emblem-form", prior=RARELY),
        _check("badge-round", "Badge’s roundness", "Radius along its rim; a flat spot shows in the numbers beside.",
               "curvature", "", "mm", "badge-ring", prior=_spread(0.15)),
        _check("ring-touches", "Circled letter", "Its foot stands clear of the ring on retail pairs.",
               "ring", "touches", "count", "badge-ring", prior=RARELY),
        _check("ring-gap", "Gap in the ring", "From the letter’s foot to its ring.",
               "ring", "gap_mm", "mm", "badge-ring", prior=_spread(0.08)),
    ]),
    ("Embroidery and thread", [
        _check("satin-threads", "Threads of the satin field", "How many threads lie on a millimetre.",
               "embroidery", "threads_per_mm", "per mm", "satin", prior=_spread(0.12)),
        _check("satin-loose", "Loose threads", "Loose or jumping threads beside the satin field.",
               "embroidery", "", "count", "satin", prior={"pairs": 2, "off_by_one": 0.12}),
        _check("seam-thread", "Thread’s thickness", "Of the row under the emblem.",
               "thread", "thick_mm", "mm", "seam-thread", prior=_spread(0.05)),
        _check("seam-thread-shade", "Thread against leather", "How far the thread stands off the leather.",
               "thread", "apart_dE00", "dE00", "seam-thread", prior=_spread(1.8)),
    ]),
    ("Sole and insole", [
        _check("sole-specks", "Specks on the sole", "Specks a square centimetre; a sole without any is wrong as well.",
               "speckle", "", "per cm²", "sole-specks", prior=_spread(0.25)),
        _check("insole-glue", "Glue under the insole", "Share of the underside that adhesive covers.",
               "coverage", "share_ratio", "ratio", "insole-glue", prior=_spread(0.03)),
    ]),
]  # fmt: skip
FIRST_POSITION = 200
CHECKPOINTS = [
    {**check, "section": section, "position": FIRST_POSITION + 2 * n}
    for n, (section, check) in enumerate((section, check) for section, checks in _IN_ORDER for check in checks)
]
