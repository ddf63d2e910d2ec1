"""Reads for the stage: the two photographs beside each other, their marks, and how one lies on the other."""

import numpy as np

from assay.compare.point_pattern import EXTRA, MISSING
from assay.contracts import BASELINE, MarkKind
from casework.bench.drawings import focus, laid_onto, marks_drawn, near
from casework.models import Case
from library.photo_kinds import keys_where
from pairs.pictures import mark_kind
from pairs.queries import alignment_of, beside, latest_readings, markings_on, photos_in_use

# Of the cut: how much wider than the longer line it is, its height over its width, and where the line stands in it.
WIDER = 1.25
HELD = 1.06
"""What is marked is shown with at least so much around it."""
TALL = 0.42
LINE_AT = 0.62
# What stands high above its line, such as bars, is shown whole: so much taller than it is, its line nearer to the foot.
TALLER = 1.2
LOW_LINE_AT = 0.92


def sides(case: Case, finding) -> list[dict]:
    """Reference and suspect for the stage; empty for checkpoints without a photograph."""
    checkpoint = finding.checkpoint
    if checkpoint.left_id:
        return _both_feet(case, checkpoint)
    if not checkpoint.view:
        return []
    photos = _photos(case, checkpoint)
    readings = latest_readings([case.reference], checkpoints=[checkpoint])
    taken = [readings.get((case.reference_id, checkpoint.pk)), finding.reading]
    marked = markings_on([photo for photo in photos if photo])
    sides = []
    for name, pair, photo, reading in zip(
        ("Retail", "Suspect"), (case.reference, case.pair), photos, taken, strict=True
    ):
        side = {"name": name, "pair": pair, "photo": photo, "editable": name == "Suspect" and not case.signed_at}
        if photo:
            marking = marked.get((photo.pk, checkpoint.pk))
            here = reading if reading and reading.photo_id == photo.pk else None
            side |= {
                "marking": marking,
                "marks": marks_drawn(here.overlay) if here else [],
                "points": " ".join(f"{x:.1f},{y:.1f}" for x, y in marking.points) if marking else "",
                "handles": [{"x": round(x, 1), "y": round(y, 1)} for x, y in marking.points] if marking else [],
                "box": focus(marking.points if marking else [], (photo.width, photo.height)),
                "closed": mark_kind(checkpoint) is MarkKind.REGION,
                "scale": f"{photo.mm_per_px:.2f} mm/px" if photo.mm_per_px else "no scale",
                "card": "" if photo.light.is_true else "no card",
                "mirrored": photo.foot != checkpoint.foot,
                "codes": _outlines(photo, checkpoint, finding.reading, "found" if name == "Suspect" else "expected"),
            }
        shown = (photo if side.get("mirrored") else checkpoint).get_foot_display()
        sides.append(side | _caption(side, checkpoint, shown))
    if all(photos):
        alignment = alignment_of(*photos)
        about = sides[0]["box"]
        sides[1]["onto"] = laid_onto(near(alignment, about)) if alignment else None
    if sides[1].get("marks") is not None and finding.compared.get("overlay"):
        _draw_compared(sides[1], finding.compared["overlay"])
    _lend_marks(sides)
    _one_scale(sides)
    # Of print the two pictures are turned level and cut alike, so that lines of letters stand one above the other.
    if checkpoint.view in keys_where(printed=True):
        _share_baseline(sides, taken)
    return sides


def _caption(side: dict, checkpoint, shown: str) -> dict:
    """Words over a side: what it shows; then the pair, and how far its photograph can be measured on."""
    words = [shown, "mirrored" if side.get("mirrored") else "", checkpoint.view_name if checkpoint.foot else ""]
    caption = ", ".join(word for word in words if word)
    if not checkpoint.foot:
        caption = f"{caption} {checkpoint.view_name}".strip()
    label = [side["pair"].label, side.get("scale"), side.get("card")]
    return {"caption": caption, "label": " · ".join(word for word in label if word)}


def crops(case: Case, finding, used: dict[int, dict]) -> list[dict]:
    """The same two places without what was read on them, as a small picture beside a flag. ``used``: the photographs in
    use by the pair's key. One query."""
    checkpoint = finding.checkpoint
    if checkpoint.left_id:
        places = [(name, one, case.pair) for name, one in (("Left", checkpoint.left), ("Right", checkpoint.right))]
    else:
        places = [("Retail", checkpoint, case.reference), ("Suspect", checkpoint, case.pair)]
    if not all(one.view for _, one, _ in places):
        return []
    shown = [(name, one, used[pair.pk].get((one.view, one.foot))) for name, one, pair in places]
    marked, found = markings_on([photo for *_, photo in shown if photo]), []
    for name, one, photo in shown:
        marking = photo and marked.get((photo.pk, one.pk))
        points = marking.points if marking else []
        side = {"name": name, "photo": photo, "closed": mark_kind(one) is MarkKind.REGION}
        side["points"] = " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
        found.append(side | {"box": focus(points, (photo.width, photo.height)) if photo else None})
    return found


def _draw_compared(side: dict, overlay: list) -> None:
    """What came of comparing with the verified pairs: rings where a hole is missing or too many, all else as marks."""
    odd = {
        label: [
            {"x": round(x, 1), "y": round(y, 1), "r": round(stroke["radius_px"], 1)}
            for stroke in overlay
            if stroke["label"] == label
            for x, y in stroke["points"]
        ]
        for label in (MISSING, EXTRA)
    }
    if any(odd.values()):
        side["pattern"] = odd
    side["marks"] = side["marks"] + marks_drawn([stroke for stroke in overlay if stroke["label"] not in odd])


def _both_feet(case: Case, checkpoint) -> list[dict]:
    """The suspect's own two feet beside each other, each with what was read on it, the right one mirrored; or one place
    of one foot, photographed twice."""
    readings, sides = latest_readings([case.pair]), []
    feet = checkpoint.left.foot != checkpoint.right.foot
    names = ("Left", "Right") if feet else ("First", "Second")
    for foot, one in zip(names, (checkpoint.left, checkpoint.right), strict=True):
        reading = readings.get((case.pair_id, one.pk))
        side = {
            "name": foot,
            "pair": case.pair,
            "photo": reading and reading.photo,
            "editable": False,
            "foot": one.foot,
        }
        if side["photo"]:
            photo, points = side["photo"], reading.marks
            side |= {
                "marks": marks_drawn(reading.overlay),
                "points": " ".join(f"{x:.1f},{y:.1f}" for x, y in points),
                "handles": [],
                "box": focus(points, (photo.width, photo.height)),
                "closed": mark_kind(one) is MarkKind.REGION,
                "scale": f"{photo.mm_per_px:.2f} mm/px" if photo.mm_per_px else "no scale",
                "card": "" if photo.light.is_true else "no card",
                "mirrored": foot == "Right",
            }
        shown = f"{'shoe' if feet else 'photograph'}, this pair"
        sides.append(side | _caption(side, checkpoint, shown))
    return sides


def _photos(case: Case, checkpoint) -> list:
    """The two photographs; where the retail pair has none of this foot, its other foot's, to be shown mirrored."""
    place = (checkpoint.view, checkpoint.foot)
    return [beside(photos_in_use(case.reference), *place), photos_in_use(case.pair).get(place)]


def _outlines(photo, checkpoint, reading, which: str) -> list[dict]:
    """Where barcodes were read, and what they say; or words that are not as on retail. ``which``: the words ``found``
    or ``expected``."""
    outlined = photo.codes if checkpoint.paper == "barcode" else []
    if reading and checkpoint.paper.startswith("words_on"):
        wrong = {line[which] for line in reading.details.get("lines", ()) if line["is_wrong"]}
        outlined = [
            print_line
            for print_line in photo.print_lines or []
            if " ".join(print_line["text"].upper().split()) in wrong
        ]
    return [
        {"points": " ".join(f"{x:.1f},{y:.1f}" for x, y in one["corners"]), "text": one["text"]} for one in outlined
    ]


def _lend_marks(sides: list[dict]) -> None:
    """Where nothing is marked on the suspect yet, offer the reference's marks, stretched to the picture."""
    theirs, ours = sides
    if not (theirs.get("handles") and ours["photo"]) or ours["handles"]:
        return
    fx, fy = ours["photo"].width / theirs["photo"].width, ours["photo"].height / theirs["photo"].height
    ours["handles"] = [{"x": round(h["x"] * fx, 1), "y": round(h["y"] * fy, 1)} for h in theirs["handles"]]
    ours["points"] = " ".join(f"{h['x']},{h['y']}" for h in ours["handles"])
    ours["box"] = focus([(h["x"], h["y"]) for h in ours["handles"]], (ours["photo"].width, ours["photo"].height))
    ours["lent"] = True


def _one_scale(sides: list[dict]) -> None:
    """Both pictures show as many mm, where both have a scale: the smaller look that still holds what is marked on both,
    each about its own middle."""
    if len(sides) != 2 or not all(
        side.get("photo") and side.get("handles") and side["photo"].mm_per_px for side in sides
    ):
        return
    units = np.array([[side["photo"].mm_per_px] for side in sides])
    boxes = np.array([side["box"] for side in sides], float)
    spans = np.array([np.ptp([(h["x"], h["y"]) for h in side["handles"]], axis=0) for side in sides])
    shown = np.maximum((boxes[:, 2:] * units).min(0), HELD * (spans * units).max(0))
    for side, box, unit in zip(sides, boxes, units[:, 0], strict=True):
        size = shown / unit
        side["box"] = [round(float(n), 1) for n in (*(box[:2] + box[2:] / 2 - size / 2), *size)]


def _share_baseline(sides: list[dict], taken: list) -> None:
    """Both pictures level, at one scale, with the foot of the print at one height and its middle at one place."""
    lines = [_foot(side, reading) for side, reading in zip(sides, taken, strict=True)]
    known = [(side, line) for side, line in zip(sides, lines, strict=True) if line is not None]
    # Without a scale on both, each line is shown as wide as the other.
    scaled = all(side["photo"].mm_per_px for side, _ in known)
    units = [side["photo"].mm_per_px if scaled else 1 / float(np.hypot(*(line[1] - line[0]))) for side, line in known]
    lengths = [float(np.hypot(*(line[1] - line[0]))) * unit for (_, line), unit in zip(known, units, strict=True)]
    wide = WIDER * max(lengths, default=0)
    tall = max(TALL * wide, *(TALLER * _height(side) * unit for (side, _), unit in zip(known, units, strict=True)), 0)
    for (side, (left, right)), unit in zip(known, units, strict=True):
        along = (right - left) / np.hypot(*(right - left))
        down = np.array([-along[1], along[0]])
        width, height = wide / unit, tall / unit
        middle = (left + right) / 2 + down * height * (0.5 - (LINE_AT if tall == TALL * wide else LOW_LINE_AT))
        ends = [(left + right) / 2 + along * width * share for share in (-0.5, 0.5)]
        side["box"] = [round(float(n), 1) for n in (*(middle - np.array([width, height]) / 2), width, height)]
        side["turn"] = round(-float(np.degrees(np.arctan2(along[1], along[0]))), 2)
        side["baseline"] = " ".join(f"{x:.1f},{y:.1f}" for x, y in ends)


def _height(side: dict) -> float:
    """How high what is marked stands, px."""
    if not side["closed"]:
        return 0.0
    return float(np.ptp([handle["y"] for handle in side["handles"]]))


def _foot(side: dict, reading) -> np.ndarray | None:
    """The line that the letters stand on: as it was measured, else the lower edge of what is marked."""
    if not side.get("photo") or not side.get("handles"):
        return None
    here = reading if reading and reading.photo_id == side["photo"].pk else None
    drawn = [stroke["points"] for stroke in here.overlay if stroke["label"] == BASELINE] if here else []
    if drawn:
        return np.array(drawn[0], float)
    points = np.array([(h["x"], h["y"]) for h in side["handles"]], float)
    if not side["closed"]:
        return points[[0, -1]]
    low = points[np.argsort(points[:, 1])[-2:]]
    return low[np.argsort(low[:, 0])]
