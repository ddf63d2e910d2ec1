"""The demo's insides and its photographs under UV: what they show of every pair."""

from dataclasses import replace

from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe
from assay.simulator.insides import Insides, board_close, insole_close, tongue_close
from assay.simulator.ultraviolet import UnderUv
from demo import close_ups

MM_PER_PX = 0.1
TONGUE_VIEW, INSOLE_VIEW, BOARD_VIEW = "tongue-front", "insole-face", "footbed-board"
INNER, UV_SIDE, UV_LID = "side_in", "uv_side", "uv_lid"
STEP = {INNER: 0.16, UV_SIDE: 0.22, UV_LID: 0.22}
"""Size of a pixel, mm: no finer than their checks ask, so that the first start is no slower."""
SOLE_MM_PER_PX = 0.2
SOLED = ("R1",)
"""Whose sole is photographed on the table, with the others of its views."""
TAKES = {TONGUE_VIEW: tongue_close, INSOLE_VIEW: insole_close, BOARD_VIEW: board_close}
SHOWN = {
    "R1": Insides(seed=11),
    "R2": Insides(seed=12, tag_low_mm=0.3, tag_tilt_deg=0.4, word_shift=(0.4, -0.2), slits_apart_mm=12.1),
    "R3": Insides(seed=13, tag_low_mm=-0.4, tag_tilt_deg=-0.3, word_shift=(-0.5, 0.2), slits_apart_mm=11.9),
    "crude": Insides(
        seed=31, tag_low_mm=2.6, tag_tilt_deg=2.8, slits_apart_mm=14.5, insole=(186, 190, 196), word="QUAYS DE",
        word_shift=(2.0, 1.5), guide_holes=2, board_thread=(96, 92, 90), row_stitches=26,
    ),
    "sloppy": Insides(seed=21, tag_low_mm=0.6, tag_tilt_deg=-0.8, word_shift=(0.8, 0.3)),
    "good": Insides(seed=41, slits_apart_mm=13.4, guide_holes=2, tag_low_mm=0.3),
}  # fmt: skip
GLUED = UnderUv(smear_mm=(60.0, 96.0))
"""This release shows adhesive behind the toe cap as a rule."""
LIT = {
    "R1": GLUED,
    "R2": replace(GLUED, smear_mm=(62.0, 94.0)),
    "R3": replace(GLUED, smear_mm=(58.0, 98.0)),
    # Drawn lines and a stamp on the shoe, the same stamp in the lid.
    "crude": UnderUv(lines=True, stamp="K7", smear_mm=(40.0, 190.0), insert=True),
    # Genuine: adhesive where it is expected.
    "sloppy": replace(GLUED, smear_mm=(60.0, 100.0), lint=9),
    # Clean under the lamp, wrong in its tooling.
    "good": UnderUv(),
}
LID_STAMPS = {"R1": "", "crude": "K7"}
LAMP, LAMP_MM = "365f", 300
UV_EXPOSURE = 1.25


def camera_of(key: str) -> Camera:
    """The camera of a pair's close-ups."""
    return replace(close_ups.CAMERAS[key], mm_per_px=MM_PER_PX)


def inner(shoe: CourtShoe) -> CourtShoe:
    """The same shoe from its inner side."""
    return replace(shoe, inner=True)
