"""Reads for the stage: the two photographs beside each other, their marks, and how one lies on the other."""

from assay.measure.registry import MEASURES
from casework.drawings import focus, laid_onto, marks_drawn, near
from casework.models import Case
from library.models import OTHER_FOOT
from pairs.queries import alignment_of, latest_readings, markings_on, photos_in_use


def sides(case: Case, finding) -> list[dict]:
    """Reference and suspect for the stage; empty for checkpoints without a photograph."""
    checkpoint = finding.checkpoint
    if not checkpoint.measure:
        return []
    photos = _photos(case, checkpoint)
    readings = latest_readings([case.reference])
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
                "closed": MEASURES[checkpoint.measure].marks.value == "region",
                "scale": f"{photo.mm_per_px:.2f} mm/px" if photo.mm_per_px else "no scale",
                "card": "" if "matrix" in photo.light else "no card",
                "mirrored": photo.foot != checkpoint.foot,
            }
        sides.append(side)
    if all(photos):
        alignment = alignment_of(*photos)
        about = sides[0]["box"]
        sides[1]["onto"] = laid_onto(near(alignment, about)) if alignment else None
    _lend_marks(sides)
    return sides


def _photos(case: Case, checkpoint) -> list:
    """The two photographs; where the retail pair has none of this foot, its other foot's, to be shown mirrored."""
    theirs, ours = photos_in_use(case.reference), photos_in_use(case.pair)
    place, other = (checkpoint.view, checkpoint.foot), (checkpoint.view, OTHER_FOOT[checkpoint.foot])
    return [theirs.get(place) or theirs.get(other), ours.get(place)]


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
