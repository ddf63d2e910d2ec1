"""What measures and their numbers are called where a check is drawn."""

from dataclasses import dataclass

from assay.contracts import MarkKind
from assay.measure.registry import MEASURES

COUNT = "count"
LENGTH = "mm"
RATIO = "ratio"
ANGLE = "deg"


@dataclass(frozen=True, slots=True)
class Choice:
    """A number that a check may judge."""

    measure: str
    quantity: str
    name: str
    unit: str

    @property
    def key(self) -> str:
        return f"{self.measure}:{self.quantity}"


# measure: (heading, how its marks are drawn, (number, its name, its unit) …); an empty number is the reading's value.
WORDS = {
    "seam": (
        "A row of stitches",
        "Click along the row, from the first stitch to the last, following its curve.",
        (
            ("", "How many stitches", COUNT),
            ("pitch_mm", "Spacing of the stitches", LENGTH),
            ("stitch_mm", "Length of a stitch", LENGTH),
            ("slant_deg", "Lean of a bar to its row", ANGLE),
            ("rows", "How many rows", COUNT),
            ("row_gap_mm", "Distance to the second row", LENGTH),
            ("bend_radius_mm", "Radius of the tightest bend", LENGTH),
            ("missing", "Missing stitches", COUNT),
            ("doubled", "Doubled stitches", COUNT),
        ),
    ),
    "row_end": (
        "Where a row ends, against an edge",
        "Click along the row to its last stitch before the edge, then twice on the edge. Past the edge counts below 0.",
        (
            ("end_mm", "From its end to the edge", LENGTH),
            ("past", "Stitches past the edge", COUNT),
            ("angle_deg", "Angle of the row to the edge", ANGLE),
        ),
    ),
    "holes": (
        "Holes",
        "Click round the holes, a little outside them. One kind of hole in one region.",
        (
            ("", "How many holes", COUNT),
            ("diameter_mm", "Diameter of the holes", LENGTH),
            ("roundness_ratio", "Roundness: short over long diameter", RATIO),
            ("darkness_ratio", "Darkness: a dent is lighter than a hole", RATIO),
        ),
    ),
    "line_edge_intersection": (
        "The line through holes, carried on",
        "Click the row’s first and last hole; on the next panel’s edge the place to hold it against, then another.",
        (("landing_mm", "Where it lands, from the third place", LENGTH), ("angle_deg", "Angle to the edge", ANGLE)),
    ),
    "layers": (
        "Layers of a cut edge",
        "Click a short line straight across the edge, from the outside in.",
        (("", "How many layers", COUNT), ("total_mm", "Thickness of all layers", LENGTH)),
    ),
    "parallel": (
        "Two lines that run beside each other",
        "Click along the gap between them, from end to end.",
        (
            ("mean_mm", "Distance, mean", LENGTH),
            ("drift_mm", "Drift from end to end", LENGTH),
            ("least_mm", "Narrowest place", LENGTH),
            ("most_mm", "Widest place", LENGTH),
        ),
    ),
    "edge_distance": (
        "From one edge to another",
        "Click the first edge, then the second, straight across.",
        (("span_mm", "Distance", LENGTH), ("lean_deg", "Angle between the edges", ANGLE)),
    ),
    "place": (
        "Marked places",
        "Click two places; three for an angle at the second; four to set one distance against another.",
        (("distance_mm", "Distance", LENGTH), ("angle_deg", "Angle", ANGLE), ("ratio", "Ratio of distances", RATIO)),
    ),
    "outline": (
        "The whole outline",
        "Click loosely round the shoe, clear of the bench card.",
        (
            ("p95_mm", "Departure of all but a twentieth of the rim", LENGTH),
            ("departure_mm", "Largest departure", LENGTH),
        ),
    ),
    "profile_side": (
        "The shape from the side",
        "Click loosely round the shoe, clear of the bench card.",
        (
            ("toe_ratio", "Toe height over length", RATIO),
            ("length_mm", "Length", LENGTH),
            ("height_mm", "Height", LENGTH),
            ("toe_10_mm", "Toe height at a tenth of the length", LENGTH),
            ("toe_slope_deg", "Slope of the toe", ANGLE),
            ("heel_lean_deg", "Lean of the heel", ANGLE),
            ("heel_bow_mm", "Bow of the heel's back", LENGTH),
            ("heel_radius_mm", "Radius of the heel's back", LENGTH),
            ("collar_dip_mm", "Depth of the collar's dip", LENGTH),
        ),
    ),
    "profile_rear": (
        "The shape from behind",
        "Click loosely round the heel, clear of the bench card.",
        (
            ("hourglass_ratio", "Hourglass: waist over collar and base", RATIO),
            ("collar_mm", "Width of the collar", LENGTH),
            ("waist_mm", "Width of the waist", LENGTH),
            ("base_mm", "Width of the base", LENGTH),
            ("flank_mm", "Bend of the flanks", LENGTH),
        ),
    ),
    "profile_top": (
        "The shape from above",
        "Click loosely round the shoe, clear of the bench card.",
        (
            ("squareness_ratio", "Squareness of the toe", RATIO),
            ("ball_mm", "Width at the ball", LENGTH),
            ("toe_10_mm", "Width at a tenth of the length", LENGTH),
            ("length_mm", "Length", LENGTH),
        ),
    ),
    "lettering": (
        "A line of print",
        "Click round one line of letters, close to it.",
        (
            ("stroke_mm", "Weight of a stroke", LENGTH),
            ("height_mm", "Height of a capital", LENGTH),
            ("pitch_mm", "Spacing of the letters", LENGTH),
            ("gap_mm", "Gap between letters", LENGTH),
        ),
    ),
}
CHOICES = {
    choice.key: choice
    for measure, (_, _, numbers) in WORDS.items()
    for choice in (Choice(measure, *number) for number in numbers)
}


def pickable() -> list[dict]:
    """Measures with their numbers, for the picker."""
    return [
        {
            "name": WORDS[measure][0],
            "how": WORDS[measure][1],
            "closed": MEASURES[measure].marks is MarkKind.REGION,
            "choices": [choice for choice in CHOICES.values() if choice.measure == measure],
        }
        for measure in WORDS
    ]
