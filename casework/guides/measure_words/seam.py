"""What is said of the measure ``seam``."""

from casework.guides.measure_words.words import MeasureWords

WORDS = MeasureWords(
    heading="Row of stitches",
    first=1,
    section="Stitches and holes",
    how="Click along the row, following its curve, from its first stitch to its last.",
    numbers={
        "": "How many stitches",
        "pitch_mm": "Spacing of the stitches",
        "stitch_mm": "Length of a stitch",
        "slant_deg": "Lean of a bar to its row",
        "rows": "How many rows",
        "row_gap_mm": "Distance to the second row",
        "bend_radius_mm": "Radius of the tightest bend",
        "missing": "Missing stitches",
        "doubled": "Doubled stitches",
    },
    doubts={
        "crossed_stitch": "a second thread seems to lie across a stitch, where it is crossed out: look",
        "gap_in_row": "there is a gap in the row: a stitch may be missing",
        "row_ends_early": "the row ends before the path does: set the path’s ends half a stitch past the row’s",
        "row_goes_on": "something like a stitch stands past the path’s end: does the row pass the edge?",
        "pitch_changes": "the spacing changes along the path: does it cross from one row to another?",
    },
)
