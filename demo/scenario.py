"""What the demo holds, as plain data."""

from dataclasses import replace

from assay.catalogue import catalogue
from assay.simulator.camera import Camera
from assay.simulator.court_shoe import FRAME, CourtShoe, Palette
from demo import boxes, close_ups, insides, papers
from library.questions import fields_of

HOUSE = "Pier Nine"
PASSWORD = "lindhaven-demo"  # noqa: S105 - printed on the demo's start screen
CHECKERS = {"mara": "Mara", "jory": "Jory"}

MAKERS = {"Veltrane": "AA-99999-A", "Oskpell": "999999-999"}
# maker, model, colourway, style code, year, generation, price
RELEASES = [
    ("Veltrane", "Quayside Low", "Brackish", "VQ-44127-B", 2024, 2, 130),
    ("Veltrane", "Quayside Low", "Lamp Oil", "VQ-44127-L", 2024, 2, 130),
    ("Veltrane", "Quayside Low", "Slate Heron", "VQ-20731-S", 2021, 1, 120),
    ("Oskpell", "Drift 2", "Ferry Rust", "305518-402", 2025, 1, 145),
]
SIZES_US = [f"{n / 2:g}" for n in range(12, 27)]

DIE = {"pairs": 2, "off_by_one": 0.0008}
PROGRAM = {"pairs": 2, "off_by_one": 0.004}

# Marks as a guide writer drew them on the left reference photograph, in mm from its top left corner.
DRAWN_LEFT = {
    "heel-bar": [(275.9, 75.1), (280.6, 77.5), (284.9, 79.0), (289.4, 79.7), (294.0, 79.8), (299.0, 79.1)],
    "quarter-row": [(121.5, 99.3), (122.7, 110.8), (127.2, 120.8), (133.6, 129.5), (141.9, 136.7), (151.7, 143.4)],
    "lace-holes": [
        (121, 86.5),
        (141.5, 74.6),
        (161.5, 64.4),
        (180.5, 55),
        (186.5, 59),
        (167, 73.8),
        (147, 84.4),
        (128, 93),
    ],
    "vents": [(82.5, 105.5), (115, 101), (119, 122), (86.5, 127)],
}


# Loosely round the shoe, clear of the card.
AROUND_SHOE = [
    (3, 112),
    (52, 84),
    (118, 64),
    (166, 24),
    (216, 26),
    (262, 52),
    (322, 32),
    (327, 110),
    (327, 184),
    (3, 184),
]
AROUND_HEEL = [(29, 12), (121, 12), (127, 160), (25, 160)]
GAP = [(119.3, 103), (121.3, 113), (124.5, 121), (131, 130), (138, 137), (147.5, 144.5)]
DRAWN_LEFT |= {"quarter-gap": GAP, "toe-height": AROUND_SHOE, "side-outline": AROUND_SHOE}


# The same for the runner.
DRAWN_RUNNER_LEFT = {
    "eyelets": [(128, 87), (132, 79), (182, 51), (189, 56), (186, 64), (138, 92)],
    "heel-row": [(247.5, 132.5), (250.5, 121.5), (256.5, 110.5), (264, 100), (272.5, 90), (281, 82)],
}


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


STEPS = {
    "rear": REAR_MM_PER_PX,
    "size_tag": boxes.TAG_MM_PER_PX,
    "box_lid": LID_MM_PER_PX,
    **insides.STEP,
}


def drawn(key: str, view: str, foot: str) -> list[list[float]]:
    """A drawn mark in pixels of the reference photograph."""
    if view in close_ups.TAKES:
        return close_ups.drawn(key, view)
    if view in insides.TAKES:
        return insides.drawn(key)
    step = STEPS.get(view, MM_PER_PX)
    points, at = _drawn_mm(key, view)
    if (foot == "right" and view == "side_out") or view == insides.INNER:
        points = [(FRAME[0] - x, y) for x, y in points]
    return [[round((x + at[0]) / step, 1), round((y + at[1]) / step, 1)] for x, y in points]


def _drawn_mm(key: str, view: str) -> tuple[list, tuple[float, float]]:
    """The same in mm on the thing, and where the thing lies in its picture."""
    plain = {
        "rear": ({key: AROUND_HEEL}, REAR_AT),
        "box_lid": (boxes.LID_MARKS, LID_AT),
        "size_tag": (boxes.TAG_MARKS, (0.0, 0.0)),
        "sole": (insides.ON_SOLE, SOLE_AT),
        insides.UV_SIDE: (insides.ON_SIDE, (0.0, 0.0)),
        insides.UV_LID: (insides.ON_LID, (0.0, 0.0)),
        insides.INNER: ({f"inner-{name}": points for name, points in DRAWN_LEFT.items()}, (0.0, 0.0)),
    }
    if view == "box_label":
        return boxes.label_marks()[key], LABEL_END_AT
    if view in plain:
        marks, at = plain[view]
        return marks[key], at
    return (DRAWN_LEFT | DRAWN_RUNNER_LEFT)[key.rsplit("-", 1)[0]], BENCH_AT


def _both_feet(key, name, instruction, position, **rest):
    return [
        {
            "key": f"{key}-{foot}",
            "name": f"{name}, {foot}",
            "instruction": instruction,
            "view": "side_out",
            "foot": foot,
            "position": position + offset,
            "section": "Stitches and holes",
            **rest,
        }
        for offset, foot in enumerate(("left", "right"))
    ]


def _left_and_right(key, name, position, **rest):
    return {
        "key": f"{key}-feet",
        "name": f"{name}, feet",
        "instruction": "Left less right. The two shoes of a retail pair differ in their own way, or not at all.",
        "position": position + 2,
        "section": "Stitches and holes",
        "minutes": 0.1,
        "left": f"{key}-left",
        "right": f"{key}-right",
        **rest,
    }


def _inner(key: str, name: str, instruction: str, position: int, **rest) -> dict:
    return {
        "key": f"inner-{key}",
        "name": name,
        "instruction": instruction,
        "view": insides.INNER,
        "foot": "left",
        "section": "Inner side",
        "position": position,
        **rest,
    }


_INNER_SIDE = [
    _inner("lace-holes", "Lace holes, inner side", "Count the lace holes on the inner side.", 190,
           kind="count", measure="holes", unit="count", group="lace-holes", prior=DIE),
    _inner("quarter-row", "Quarter pitch, inner side", "Spacing of the row along the quarter’s edge.", 192,
           kind="continuous", measure="seam", quantity="pitch_mm", unit="mm", group="quarter-row",
           prior={"pairs": 4, "scatter": 0.05}),
    _inner("side-outline", "Outline, inner side", "The whole rim laid on the verified pairs’ rims.", 194,
           kind="continuous", measure="outline", quantity="p95_mm", unit="mm", group="outline",
           prior={"pairs": 4, "scatter": 0.2}),
]  # fmt: skip

CHECKPOINTS = [
    *papers.CHECKPOINTS,
    {
        "key": "smell",
        "name": "Smell on opening",
        "section": "First look",
        "position": 60,
        "instruction": "What did the box smell of when it was opened?",
        "group": "smell",
        "kind": "answer",
        "unit": "answer",
        "applies_when": [papers.UNWORN, papers.IN_HAND],
        "minutes": 0.2,
        "prior": {"pairs": 2, "rare": {"solvent": 0.03}},
        "answers": [
            ["maker", "The maker’s own faint scent", "scent"],
            ["neutral", "Nothing in particular", "no-scent"],
            ["solvent", "Heavy solvent or glue", "solvent"],
        ],
        "caution": "One short breath at arm’s length. Adhesive fumes: do not sniff at length, open a window.",
    },
    *_both_feet(
        "toe-height",
        "Toe height",
        "How high the toe box stands at a tenth of the length, over the length.",
        110,
        kind="continuous",
        measure="profile_side",
        quantity="toe_ratio",
        unit="ratio",
        group="toe",
        section="Shape",
        prior={"pairs": 4, "scatter": 0.004},
    ),
    *_both_feet(
        "side-outline",
        "Side outline",
        "The whole rim laid on the verified pairs’ rims: all but a twentieth of it lies nearer than this.",
        108,
        kind="continuous",
        measure="outline",
        quantity="p95_mm",
        unit="mm",
        group="outline",
        section="Shape",
        prior={"pairs": 4, "scatter": 0.2},
    ),
    {
        "key": "heel-waist",
        "name": "Hourglass of the heel",
        "section": "Shape",
        "position": 112,
        "instruction": "The waist over the mean of collar and base: a straight or bellied heel is a classic fault.",
        "group": "heel-shape",
        "kind": "continuous",
        "measure": "profile_rear",
        "quantity": "hourglass_ratio",
        "unit": "ratio",
        "view": "rear",
        "foot": "left",
        "prior": {"pairs": 4, "scatter": 0.012},
    },
    *_both_feet(
        "lace-holes",
        "Lace holes",
        "Count the punched lace holes along the eyestay.",
        130,
        kind="count",
        measure="holes",
        unit="count",
        group="lace-holes",
        decisive=True,
        mandatory=True,
        prior=DIE,
    ),
    *_both_feet(
        "vents",
        "Toe vents",
        "Count the small vent holes behind the toe cap.",
        140,
        kind="count",
        measure="holes",
        unit="count",
        group="vents",
        decisive=True,
        prior=DIE,
    ),
    _left_and_right("vents", "Toe vents", 140, kind="count", unit="count", group="vents", prior=DIE),
    *_both_feet(
        "heel-bar",
        "Heel bar",
        "Count the stitches on the bar below the heel tab. Left and right differ.",
        150,
        kind="count",
        measure="seam",
        unit="count",
        group="heel-bar",
        mandatory=True,
        prior=PROGRAM,
    ),
    _left_and_right("heel-bar", "Heel bar", 150, kind="count", unit="count", group="heel-bar", prior=PROGRAM),
    *_both_feet(
        "quarter-row",
        "Quarter pitch",
        "Spacing of the row along the quarter’s front edge.",
        160,
        kind="continuous",
        measure="seam",
        quantity="pitch_mm",
        unit="mm",
        group="quarter-row",
        prior={"pairs": 4, "scatter": 0.05},
    ),
    _left_and_right(
        "quarter-row",
        "Quarter pitch",
        160,
        kind="continuous",
        unit="mm",
        group="quarter-row",
        prior={"pairs": 4, "scatter": 0.05},
    ),
    *_both_feet(
        "quarter-gap",
        "Row to edge",
        "How far the quarter row runs from the quarter’s edge. A row that wanders is a fault.",
        164,
        kind="continuous",
        measure="parallel",
        quantity="mean_mm",
        unit="mm",
        group="quarter-row",
        prior={"pairs": 4, "scatter": 0.25},
    ),
    {
        "key": "fingertip",
        "name": "Leather under a fingertip",
        "section": "Material",
        "position": 170,
        "instruction": "Press the quarter leather lightly and push it a little. What does the surface do?",
        "group": "leather",
        "kind": "answer",
        "unit": "answer",
        "applies_when": [papers.IN_HAND],
        "minutes": 0.3,
        "prior": {"pairs": 2, "rare": {"flat": 0.01, "cracks": 0.004}},
        "answers": [
            ["fine", "Fine wrinkles that go when you let go", "fine"],
            ["flat", "Stays flat and rubbery", "flat"],
            ["cracks", "Sharp cracks in the coat", "cracks"],
        ],
        "caution": "Fingertip only, no nail: pressing a seam or the coat can mark the pair.",
    },
    *close_ups.CHECKPOINTS,
    *insides.CHECKPOINTS,
    *_INNER_SIDE,
]
# The catalogue's questions, as its guide writer added them with one click each.
_ASKED = {one["key"] for one in CHECKPOINTS}
_PLACES = {"Box": 7, "Packing": 56, "Size tag": 49, "First look": 62, "Shape": 116, "Stitches and holes": 153}
_PLACES |= {"Hands": 172, "Marks": 251, "Inside": 330, "Sole": 360}
for _question in catalogue():
    if _question.key not in _ASKED:
        CHECKPOINTS.append({**fields_of(_question), "position": _PLACES[_question.section]})
        _PLACES[_question.section] += 1

SHARED = ("Shape", "Stitches and holes", "Inner side", "Hands", "Sole")
"""Sections of what all colourways of a model's generation have in common."""
RUNNER_CODE = "305518-402"
RUNNER_PAIR = "O1"
PRINTED = (
    "label-code",
    "label-colour",
    "label-sizes",
    "barcode",
    "label-stroke",
    "label-pitch",
    "packing",
    "style-code",
)
_OF_PRINT = [checkpoint for checkpoint in CHECKPOINTS if checkpoint["key"] in (*PRINTED, "smell")]
HERON_CODE = "VQ-20731-S"
HERON_PAIR = "H1"
RUNNER_CHECKPOINTS = [
    *_OF_PRINT,
    *_both_feet(
        "eyelets",
        "Eyelets",
        "Count the punched eyelets along the stay.",
        130,
        kind="count",
        measure="holes",
        unit="count",
        group="eyelets",
        decisive=True,
        mandatory=True,
        prior=DIE,
    ),
    *_both_feet(
        "heel-row",
        "Heel row pitch",
        "Spacing of the row along the heel overlay, above the midsole.",
        140,
        kind="continuous",
        measure="seam",
        quantity="pitch_mm",
        unit="mm",
        group="heel-row",
        prior={"pairs": 4, "scatter": 0.08},
    ),
]

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
    "R1": (shoes(seed=11), camera(), {"smell": "maker", "fingertip": "fine"}),
    "R2": (
        shoes(seed=12, looseness=1.3, emblem_tilt_deg=0.6, waist_mm=0.4),
        camera(0.8, (2, -1), exposure=1.04),
        {"smell": "neutral", "fingertip": "fine"},
    ),
    "R3": (
        shoes(seed=13, looseness=1.5, quarter_end_mm=0.8, waist_mm=-0.5),
        camera(-0.7, (-2, 1), exposure=0.95),
        {"smell": "maker", "fingertip": "fine"},
    ),
}

OF_BOX = {
    "lid-gloss": "matt",
    "label-border": "none",
    "inlay-look": "coil",
    "tissue-sheen": "matt",
    "tissue-print": "crisp",
    "tag-sheen": "matt",
}
# What verified pairs answered to the catalogue's questions: the usual.
USUAL = {one.key: next(key for key, *_ in one.answers if key not in one.retail) for one in catalogue()}
SAID_OF_RETAIL = {label: USUAL | said | OF_BOX for label, (_, _, said) in RETAIL_PAIRS.items()}
SAID_OF_RETAIL["R2"]["label-tab"] = "free"
SAID_OF_RETAIL["R3"] |= {"paint-specks": "few", "insole-lifts": "easily"}
SAID_OF_RETAIL |= {RUNNER_PAIR: {"smell": "neutral"}, HERON_PAIR: {"smell": "neutral"}}
REGIONS = {"R1": "eu", "R2": "us", "R3": "asia", RUNNER_PAIR: "us", HERON_PAIR: "asia"}
CHECKPOINTS_OF = {
    RELEASES[0][3]: CHECKPOINTS,
    RUNNER_CODE: RUNNER_CHECKPOINTS,
    HERON_CODE: _OF_PRINT,
}
PAIRS_OF = {RELEASES[0][3]: tuple(RETAIL_PAIRS), RUNNER_CODE: (RUNNER_PAIR,), HERON_CODE: (HERON_PAIR,)}

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
BATCHES = {
    "Bowline": "Same heel bar on both feet, a straight heel, a toe that stands high.",
    "Sheepshank": "Good box, blank inlay, certificate card; few stitches on the quarter, a tilted pennant.",
}
COPIES = {
    "B1": ("Bowline", shoes(seed=42, waist_mm=4.4, toe_lift_mm=1.9, **BOWLINE), {"smell": "neutral"}),
    "B2": ("Bowline", shoes(seed=43, waist_mm=5.3, toe_lift_mm=2.2, **BOWLINE), {"smell": "solvent"}),
    "K1": ("Sheepshank", shoes(seed=46, **SHEEPSHANK), {"smell": "solvent", "label-border": "none"}),
    "K2": ("Sheepshank", shoes(seed=47, waist_mm=0.5, **SHEEPSHANK), {"smell": "solvent", "label-border": "none"}),
}
SPARE = shoes(seed=51, looseness=1.4, lace_holes={"left": 7, "right": 8})

FELT = (
    *(
        "bulk",
        "weight",
        "price",
        "toe-squeeze",
        "toe-springs",
        "insert-edge",
        "coat",
        "hair-moves",
        "emboss",
        "counter",
    ),
    *("row-path", "row-ends", "hole-rings", "cut-edge", "seam-cuts", "tongue-top", "tongue-stuffing", "inside-thread"),
    *("see-through", "sole-pattern", "sole-text", "paint-specks", "toe-above", "shape-lean"),
)
"""What was felt and looked at on the regular's pair before it was laid aside."""
FACTS = {"size_us": "9.5", "region": "eu", **boxes.ON_TABLE}
# key, shoes, camera, facts, what was answered
CASES = [
    (
        "crude",
        CRUDE,
        camera(1.1, (1, 2), exposure=1.06),
        {
            **FACTS,
            "size_us": "10",
            "condition": "deadstock",
            "source": "meet-up at the ferry pier",
            "asked_price": "60",
        },
        {
            "smell": "solvent",
            "fingertip": "flat",
            "lid-gloss": "glossy",
            "inlay-look": "none",
            "tissue-print": "smeared",
            "label-border": "border",
            "toe-springs": "dent",
            "hair-moves": "still",
            "paint-wipes": "stays",
            "insole-lifts": "loose",
        },
    ),
    (
        "sloppy",
        SLOPPY,
        camera(-1.3, (3, -2), exposure=0.97),
        {**FACTS, "condition": "tried_on", "source": "consigned by a regular", "asked_price": "115"},
        {key: USUAL[key] for key in FELT},
    ),
    (
        "good",
        GOOD,
        camera(0.6, (-3, 1)),
        {
            **FACTS,
            "size_us": "8.5",
            "arrival": "no_box",
            "condition": "deadstock",
            "source": "online seller, sent without its box",
            "asked_price": "120",
        },
        {"smell": "neutral"},
    ),
]
CRUDE_WORDS = (
    "The code on the tag belongs to no release, one lace hole is missing on each shoe and the toe vents form a "
    "different pattern. The seller was told what we examined."
)
SIGNED = {
    "crude": ("fake", CRUDE_WORDS),
}
