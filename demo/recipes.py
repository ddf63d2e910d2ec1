"""How the demo's pairs are drawn: their shoes, and how the counter's camera stood."""

from dataclasses import replace

from assay.simulator.camera import Camera
from assay.simulator.court_shoe import CourtShoe, Palette

MM_PER_PX = 0.13
BENCH_AT = (130.0, 138.0)
LABEL_END_AT = (120.0, 180.0)
LID_AT = (90.0, 154.0)
SOLE_AT = (100.0, 190.0)
REAR_AT = (190.0, 78.0)
"""Where shoe, box end, lid and heel lie in their pictures, mm from the top left corner."""
REAR_MM_PER_PX = 0.1
LID_MM_PER_PX = 0.22
"""Of a lid only what is stamped is read, by a person."""

RETAIL = CourtShoe()
BAR = {"left": 13, "right": 12}


def shoes(**changes) -> dict[str, CourtShoe]:
    """A pair, left and right, on the retail pattern but for the changes (a dict gives a value per foot)."""
    pair = {}
    for foot in ("left", "right"):
        own = {name: value[foot] if isinstance(value, dict) else value for name, value in changes.items()}
        pair[foot] = replace(RETAIL, foot=foot, **{"bar_stitches": BAR[foot], **own})
    return pair


FRAMING = Camera(mm_per_px=MM_PER_PX)


def camera(turn: float = 0.0, shift=(0.0, 0.0), **rest) -> Camera:
    """The counter's camera stand, the shoe put down a little differently every time."""
    return replace(FRAMING, turn_deg=turn, shift_mm=shift, **rest)


RETAIL_PAIRS = {
    "R1": (shoes(seed=11), camera()),
    "R2": (
        shoes(seed=12, looseness=1.3, emblem_tilt_deg=0.6, waist_mm=0.4),
        camera(0.8, (2, -1), exposure=1.04),
    ),
    "R3": (
        shoes(seed=13, looseness=1.5, quarter_end_mm=0.8, waist_mm=-0.5),
        camera(-0.7, (-2, 1), exposure=0.95),
    ),
}

SLOPPY = shoes(seed=21, looseness=2.0, emblem_tilt_deg=-1.5, quarter_end_mm=0.9, waist_mm=0.7)
CRUDE = shoes(
    seed=31,
    looseness=1.6,
    lace_holes=6,
    vent_rows=(5, 5, 5),
    bar_stitches=11,
    quarter_stitches=21,
    thread_mm=0.9,
    waist_mm=7.5,
    toe_lift_mm=3.0,
    emblem_tilt_deg=3.5,
    tread_mm=6.8,
    palette=Palette(suede=(78, 116, 128), emblem=(38, 66, 92), leather=(233, 232, 226)),
)
# The bar is the same on both feet, one vent is missing on the right, heel and nose are a little off: nothing else.
GOOD = shoes(
    seed=41,
    looseness=1.1,
    bar_stitches=13,
    vent_rows={"left": (5, 4, 5), "right": (5, 4, 4)},
    waist_mm=4.8,
    toe_lift_mm=2.0,
)
# What is known of two sources of copies, each by a few pairs that were bought to learn from.
BOWLINE = {"looseness": 1.1, "bar_stitches": 13, "vent_rows": {"left": (5, 4, 5), "right": (5, 4, 5)}}
SHEEPSHANK = {"looseness": 1.2, "quarter_stitches": 23, "emblem_tilt_deg": 2.4, "thread_mm": 0.85}
COPIES = {
    "B1": shoes(seed=42, waist_mm=4.4, toe_lift_mm=1.9, **BOWLINE),
    "B2": shoes(seed=43, waist_mm=5.3, toe_lift_mm=2.2, **BOWLINE),
    "K1": shoes(seed=46, **SHEEPSHANK),
    "K2": shoes(seed=47, waist_mm=0.5, **SHEEPSHANK),
}
# Genuine, and photographed from three sides only.
COSTLY = shoes(seed=61, looseness=1.2, waist_mm=0.3), camera(-0.5, (1, 1), exposure=1.02)
SPARE = shoes(seed=51, looseness=1.4, lace_holes={"left": 7, "right": 8})
CASES = {
    "crude": (CRUDE, camera(1.1, (1, 2), exposure=1.06)),
    "sloppy": (SLOPPY, camera(-1.3, (3, -2), exposure=0.97)),
    "good": (GOOD, camera(0.6, (-3, 1))),
}
