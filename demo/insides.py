"""The demo's insides and its photographs under UV: what they show of every pair, where checks are drawn, the checks."""

from dataclasses import replace

from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe
from assay.simulator.insides import (
    BOARD_ROW,
    GUIDE_HOLES,
    SLIT_MM,
    SLITS_Y,
    STAMP_AT,
    TAG,
    TONGUE,
    WORD_AT,
    Insides,
    board_close,
    insole_close,
    tongue_close,
)
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


def _corners(low: tuple[float, float], high: tuple[float, float]) -> list[tuple[float, float]]:
    return [low, (high[0], low[1]), high, (low[0], high[1])]


_TOP = TONGUE[0][1]
_TAG_AT = _corners((TAG[0][0] - 5, TAG[0][1] - 5), (TAG[2][0] + 5, TAG[2][1] + 5))
_WORD = _corners((WORD_AT[0] - 4, WORD_AT[1] - 4), (WORD_AT[0] + 48, WORD_AT[1] + 11))
_STAMP = _corners((STAMP_AT[0] - 3, STAMP_AT[1] - 3), (STAMP_AT[0] + 12, STAMP_AT[1] + 9))
_HOLES = _corners((GUIDE_HOLES[0][0] - 8, 34), (GUIDE_HOLES[2][0] + 8, 54))
_MIDDLE = SLITS_Y + SLIT_MM / 2
# Close-ups: mm from the top left corner.
DRAWN = {
    "tag-place": [(32, _TOP), (80, _TOP), *_TAG_AT],
    "tag-tilt": [(32, _TOP), (80, _TOP), *_TAG_AT],
    "slits-apart": [(49.2, _MIDDLE), (61.2, _MIDDLE)],
    "tongue-shade": _corners((30, 68), (82, 78)),
    "insole-word": [(62, 10), (94, 10), *_WORD],
    "insole-letters": [(62, 10), (94, 10), *_WORD],
    "insole-shade": _corners((26, 50), (70, 64)),
    "board-row": [BOARD_ROW[0], (30, 12.0), BOARD_ROW[1], (72, 11.6), BOARD_ROW[2]],
    "board-thread": [BOARD_ROW[0], (30, 12.0), BOARD_ROW[1], (72, 11.6), BOARD_ROW[2]],
    "board-holes": _HOLES,
}
# The shoe's side under UV, on the stand; the lid: mm from the thing's own corner.
_BODY = [(16, 150), (24, 100), (110, 74), (178, 40), (204, 46), (214, 74), (262, 74), (282, 44), (312, 50), (316, 146)]
ON_SIDE = {"uv-drawn": _BODY, "uv-lines": _BODY, "uv-stamps": _BODY, "uv-smears": _BODY, "uv-panels": _BODY}
# The sole, mm from the corner of its own frame.
ON_SOLE = {"sole-outline": _corners((3, 3), (327, 137)), "sole-repeat": _corners((226, 56), (288, 86))}
ON_LID = {"uv-lid": _corners((26, 24), (274, 166))}


def _check(key: str, name: str, instruction: str, place: tuple[str, str], read: tuple[str, str, str], **rest) -> dict:
    """``place``: view and foot; ``read``: measure, quantity, unit."""
    view, foot = place
    measure, quantity, unit = read
    return {
        "key": key,
        "name": name,
        "instruction": instruction,
        "view": view,
        "foot": foot,
        "measure": measure,
        "quantity": quantity,
        "unit": unit,
        "kind": "count" if unit == "count" else "continuous",
        "minutes": 0.3,
        **rest,
    }


def _scatter(size: float) -> dict:
    return {"pairs": 4, "scatter": size}


RARELY = {"pairs": 2, "off_by_one": 0.004}
PEEL = "Lift the insole only with the owner’s consent: it can tear, and its glue is evidence."
_TONGUE, _INSOLE, _BOARD = (TONGUE_VIEW, "left"), (INSOLE_VIEW, "left"), (BOARD_VIEW, "left")
_SIDE, _LID = (UV_SIDE, "left"), (UV_LID, "")
INSIDE = [
    _check("tag-place", "Tongue tag’s height", "How far the tag stands from the tongue’s top edge.", _TONGUE,
           ("mark", "across_mm", "mm"), group="tongue-tag", prior=_scatter(0.5)),
    _check("tag-tilt", "Tongue tag’s tilt", "Against the tongue’s top edge, by verified pairs’.", _TONGUE,
           ("mark", "turned_deg", "deg"), group="tongue-tag", prior=_scatter(0.6)),
    _check("slits-apart", "Lace slits", "From the left edge of one slit to the left edge of the other.", _TONGUE,
           ("edge_distance", "", "mm"), group="tongue-slits", prior=_scatter(0.3)),
    _check("tongue-shade", "Tongue’s shade", "The tongue’s leather by the grey tile.", _TONGUE,
           ("colour", "apart_dE00", "dE00"), group="shade", prior=_scatter(1.6)),
    _check("insole-word", "Word on the insole", "How far it stands from the insole’s edge.", _INSOLE,
           ("mark", "across_mm", "mm"), group="insole-print", prior=_scatter(0.5), caution=PEEL),
    _check("insole-letters", "Letters on the insole", "What verified pairs’ word has and this has not, outlined.",
           _INSOLE, ("mark", "missing", "count"), group="insole-print", prior=RARELY),
    _check("insole-shade", "Insole’s shade", "The insole’s face by the grey tile.", _INSOLE,
           ("colour", "apart_dE00", "dE00"), group="insole", prior=_scatter(1.6)),
    _check("board-row", "Stitches on the footbed board", "Count the row at the board’s edge.", _BOARD,
           ("seam", "", "count"), group="board-row", prior=RARELY, caution=PEEL),
    _check("board-thread", "Thread on the footbed board", "How far its colour stands off the board.", _BOARD,
           ("thread", "apart_dE00", "dE00"), group="board-row", prior=_scatter(1.8)),
    _check("board-holes", "Guide holes in the board", "Count the holes through the footbed board.", _BOARD,
           ("holes", "", "count"), group="board-holes", prior=RARELY),
]  # fmt: skip
SOLE = [
    _check("sole-outline", "Outline of the sole", "The whole rim laid on the verified pairs’ rims.", ("sole", "left"),
           ("outline", "p95_mm", "mm"), group="sole", prior=_scatter(0.3)),
    _check("sole-repeat", "Tread’s repeat", "From zigzag to zigzag under the heel.", ("sole", "left"),
           ("weave", "pitch_mm", "mm"), group="sole", prior=_scatter(0.06)),
]  # fmt: skip
UNDER_UV = [
    _check("uv-drawn", "Lines and stamps beyond retail’s", "Drawn or stamped here, and glowing on no verified pair.",
           _SIDE, ("glow", "drawn_beyond", "count"), group="uv-drawn", prior=RARELY),
    _check("uv-lines", "Guide lines", "Lines beside panel edges and round the emblem. No control is needed.", _SIDE,
           ("glow", "lines", "count"), group="uv-drawn", prior=RARELY),
    _check("uv-stamps", "Factory stamps on the shoe", "Rings, dots, figures. No control is needed.", _SIDE,
           ("glow", "stamps", "count"), group="uv-drawn", prior=RARELY),
    _check("uv-smears", "Adhesive beyond retail’s places", "Smears where verified pairs show none.", _SIDE,
           ("glow", "smears_beyond", "count"), group="uv-adhesive", prior={"pairs": 2, "off_by_one": 0.04}),
    _check("uv-panels", "Parts that glow as a whole", "A panel or insert that glows here and not on retail.", _SIDE,
           ("glow", "panels_beyond", "count"), group="uv-panels", prior=RARELY),
    _check("uv-lid", "Stamps in the lid", "Under the lamp; many houses forget the box.", _LID,
           ("glow", "", "count"), group="uv-box", prior=RARELY, of_shoe=False),
]  # fmt: skip
FIRST_INSIDE, FIRST_SOLE, FIRST_UV = 300, 352, 400
CHECKPOINTS = [
    *({**one, "section": "Inside", "position": FIRST_INSIDE + 2 * n} for n, one in enumerate(INSIDE)),
    *({**one, "section": "Sole", "position": FIRST_SOLE + 2 * n} for n, one in enumerate(SOLE)),
    *({**one, "section": "UV light", "position": FIRST_UV + 2 * n} for n, one in enumerate(UNDER_UV)),
]


def drawn(key: str) -> list[list[float]]:
    """A drawn mark in pixels of the first retail pair's close-up."""
    return [[round(x / MM_PER_PX, 1), round(y / MM_PER_PX, 1)] for x, y in DRAWN[key]]
