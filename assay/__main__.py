"""The core alone, from the command line: ``python -m assay measure|compare|read|judge …``.

The same functions that the application calls. JSON goes to standard output, units in the names or beside the numbers;
what is refused goes to standard error as one sentence, with exit code 2.
"""

import argparse
import json
import math
import sys
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from assay.contracts import Marks, Measurement, StrokeKind
from assay.errors import AssayError, CannotMeasure
from assay.imaging.card import BAR_MM
from assay.imaging.fitness import judge_fitness
from assay.imaging.opening import Received, decode, receive
from assay.imaging.plane import CameraModel, camera_model_of, scaled
from assay.imaging.white_balance import correction_from_neutral
from assay.judge.case_io import judge_document, read_document
from assay.measure.registry import MEASURES
from assay.pipeline.align import align_photos, place_marks
from assay.pipeline.measure import PhotoFacts, Session, Task
from assay.pipeline.open import OpenedPhoto, open_photo
from assay.pipeline.scale import scale_photo
from assay.pipeline.sort import codes_of

REFUSED = 2
"""Exit code where the core says no."""
DRAWN = (255, 255, 255)
HALO = (30, 30, 30)


def main(given: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    arguments = _parser().parse_args(given)
    try:
        print(json.dumps(arguments.run(arguments), indent=1, ensure_ascii=False))  # noqa: T201 - that is its job
    except AssayError as refusal:
        numbers = ", ".join(f"{name} {value}" for name, value in refusal.numbers.items())
        words = refusal.reason.replace("_", " ")
        sys.stderr.write(f"Refused: {words}{f' ({numbers})' if numbers else ''}.\n")
        return REFUSED
    except (OSError, ValueError, KeyError) as error:
        sys.stderr.write(f"Cannot be read: {error}.\n")
        return REFUSED
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="python -m assay", description=__doc__.splitlines()[0])
    commands = parser.add_subparsers(required=True)
    measure = commands.add_parser("measure", help="read one measure off a photograph")
    measure.add_argument("measure", choices=sorted(MEASURES))
    measure.add_argument("photo", type=Path)
    measure.add_argument("--path", "--region", dest="points", required=True, help='marks in pixels: "x,y x,y …"')
    scale = measure.add_mutually_exclusive_group()
    scale.add_argument("--mm-per-px", type=float, help="size of a pixel on the object; else the bench card's, if any")
    scale.add_argument("--bar-mm", type=float, default=BAR_MM, help="what the card's check bar really measures")
    measure.add_argument("--draw", type=Path, help="write the photograph with what was seen, PNG or JPEG")
    measure.add_argument("--json", action="store_true", help="JSON is what comes anyway")
    measure.set_defaults(run=_measure)
    compare = commands.add_parser("compare", help="one measure on a retail and on a suspect photograph of a view")
    compare.add_argument("measure", choices=sorted(MEASURES))
    compare.add_argument("retail", type=Path)
    compare.add_argument("suspect", type=Path)
    compare.add_argument("--path", "--region", dest="points", required=True, help="marks on the retail photograph")
    compare.add_argument("--on-suspect", help="marks on the suspect's; without them the retail's are carried over")
    compare.add_argument("--close-up", action="store_true", help="both are close-ups of one part")
    compare.add_argument("--neutral", help='a neutral part of either photograph, px: "x,y x,y"')
    compare.add_argument("--reflectance", type=float, help="what that part reflects, 0 to 1, where it is known")
    compare.add_argument("--mm-per-px", type=float)
    compare.add_argument("--bar-mm", type=float, default=BAR_MM)
    compare.set_defaults(run=_compare)
    read = commands.add_parser("read", help="card, scale, light, fitness and codes of a photograph")
    read.add_argument("photo", type=Path)
    read.add_argument("--bar-mm", type=float, default=BAR_MM)
    read.set_defaults(run=_read)
    again = commands.add_parser("judge", help="grades, weights, verdicts and plan of an exported case")
    again.add_argument("case", type=Path)
    again.set_defaults(run=_judge)
    return parser


def _measure(given: argparse.Namespace) -> dict[str, Any]:
    received, rgb = _decoded(given.photo)
    entry = MEASURES[given.measure]
    task = Task("asked", given.measure, Marks(entry.marks, _points(given.points)))
    if given.mm_per_px is not None:
        facts = PhotoFacts(given.mm_per_px, received.doubts, surface=scaled(given.mm_per_px, 0.0, "stand"))
    else:
        facts = _facts_by_card(open_photo(rgb, bar_mm=given.bar_mm), received, given.bar_mm)
    found = Session(rgb, facts).measure(task)
    if given.draw:
        _draw(rgb, found, given.draw)
    return _measured(found)


def _compare(given: argparse.Namespace) -> dict[str, Any]:
    """Both readings, what each number differs by, and what only comparing tells."""
    entry, neutral = MEASURES[given.measure], _points(given.neutral) if given.neutral else (None, None)
    photos = [_decoded(path) for path in (given.retail, given.suspect)]
    offered = [open_photo(rgb, bar_mm=given.bar_mm) for _, rgb in photos]
    facts = []
    for (received, rgb), opened, spot in zip(photos, offered, neutral, strict=True):
        own = _facts_by_card(opened, received, given.bar_mm)
        if given.mm_per_px is not None:
            own = replace(own, surface=scaled(given.mm_per_px, 0.0, "stand"), mm_per_px=given.mm_per_px)
        if spot is not None:
            own = replace(own, light=correction_from_neutral(rgb, spot, given.reflectance))
        facts.append(own)
    drawn, aligned = Marks(entry.marks, _points(given.points)), None
    if given.on_suspect:
        there = Marks(entry.marks, _points(given.on_suspect))
    else:
        alignment = align_photos(*(opened.features for opened in offered), close_up=given.close_up)
        [placed] = place_marks([drawn], alignment, photos[1][0].size)
        if isinstance(placed, CannotMeasure):
            raise placed
        there, aligned = placed, {"matches": alignment.matches, "error_px": alignment.error_px, "how": alignment.how}
    tasks = (Task("retail", given.measure, drawn), Task("suspect", given.measure, there, carried=aligned is not None))
    retail, suspect = (
        Session(rgb, own).measure(task) for (_, rgb), own, task in zip(photos, facts, tasks, strict=True)
    )
    told = {"retail": _measured(retail), "suspect": _measured(suspect), "aligned": aligned}
    told["numbers"] = {name or "value": _apart(name, retail, suspect) for name in entry.units if _has(name, suspect)}
    if entry.comparing and retail.descriptor and suspect.descriptor:
        try:
            told["compared"] = dict(entry.comparing.compare(retail.descriptor, suspect.descriptor).parts)
        except AssayError as refusal:
            told["compared"] = {"refusal": refusal.reason}
    return told


def _has(name: str, measurement: Measurement) -> bool:
    return not name or name in measurement.parts


def _apart(name: str, retail: Measurement, suspect: Measurement) -> dict[str, Any]:
    """How far a number of the suspect lies from retail's, and the standard uncertainty of that."""
    if not _has(name, retail):
        return {"refusal": "not_on_retail"}
    (ours, u), (theirs, v) = ((one.parts[name], one.parts.get(f"{name}_uncertainty", 0.0)) if name else
                              (float(one.value), one.uncertainty) for one in (suspect, retail))  # fmt: skip
    return {"retail": theirs, "suspect": ours, "difference": ours - theirs, "uncertainty": math.hypot(u, v)}


def _facts_by_card(opened: OpenedPhoto, received: Received, bar_mm: float) -> PhotoFacts:
    """Scale and light by the card in the picture; in pixels where there is none."""
    camera = camera_model_of(received.size, received.focal_35mm)
    seen = scale_photo(opened, camera, bar_mm=bar_mm, stand_mm_per_px=None)
    light = seen.light.correction(received.size)
    return PhotoFacts(seen.mm_per_px, received.doubts, seen.scale.card_px, seen.scale.plane(), light)


def _read(given: argparse.Namespace) -> dict[str, Any]:
    received, rgb = _decoded(given.photo)
    opened, camera = open_photo(rgb, bar_mm=given.bar_mm), camera_model_of(received.size, received.focal_35mm)
    seen = scale_photo(opened, camera, bar_mm=given.bar_mm, stand_mm_per_px=None)
    thing = opened.foreground
    fit = judge_fitness(opened.pyramid, thing, mm_per_px=seen.mm_per_px, tilt_deg=seen.scale.tilt_deg)
    return {
        "size_px": list(received.size),
        "sha256": received.sha256,
        "taken_at": received.taken_at and received.taken_at.isoformat(),
        "focal_35mm": received.focal_35mm,
        "card": _card(opened, seen.mm_per_px, camera),
        "light": _light(opened),
        "thing": {"found": thing.found, "box_px": [round(n) for n in thing.box], "cut_off": thing.cut_off},
        "fitness": {"verdict": fit.fitness.value, "doubts": [*received.doubts, *fit.doubts], "retake": list(fit.retake)}
        | {"numbers": dict(fit.numbers)},
        "codes": [asdict(code) for code in codes_of(rgb)],
    }


def _card(opened: OpenedPhoto, mm_per_px: float | None, camera: CameraModel) -> dict[str, Any]:
    found = opened.card
    if isinstance(found, CannotMeasure):
        return {"refusal": found.reason}
    return {
        "corners_px": np.round(found.corners_px, 1).tolist(),
        "matrix_mm_to_px": found.plane.matrix.tolist(),
        "mm_per_px": mm_per_px,
        "relative_uncertainty": found.plane.relative_uncertainty,
        "tilt_deg": found.plane.tilt_deg(camera),
        "doubts": list(found.doubts),
    }


def _light(opened: OpenedPhoto) -> dict[str, Any]:
    found = opened.light
    if isinstance(found, AssayError):
        return {"refusal": found.reason}
    return {"residual_de00": found.residual_de00, "uneven_ratio": found.uneven, "doubts": list(found.doubts)}


def _judge(given: argparse.Namespace) -> dict[str, Any]:
    return judge_document(read_document(given.case.read_text()))


def _decoded(path: Path) -> tuple[Received, np.ndarray]:
    received = receive(path.read_bytes())
    return received, decode(received.stored)


def _points(text: str) -> tuple[Any, ...]:
    try:
        return tuple((float(x), float(y)) for x, y in (place.split(",") for place in text.split()))
    except ValueError as error:
        raise AssayError("bad_points", got=text[:60]) from error


def _measured(measurement: Measurement) -> dict[str, Any]:
    kept = measurement.descriptor
    return {
        "method": measurement.method,
        "value": measurement.value,
        "unit": measurement.unit,
        "uncertainty": measurement.uncertainty,
        "parts": dict(measurement.parts),
        "doubts": list(measurement.doubts),
        "overlay_px": [asdict(stroke) for stroke in measurement.overlay],
        "descriptor": kept and {"kind": kept.kind, "unit": kept.unit, "points": np.round(kept.points, 3).tolist()},
    }


def _draw(rgb: np.ndarray, measurement: Measurement, onto: Path) -> None:
    """The photograph with what was seen: white on a dark halo."""
    drawn = np.ascontiguousarray(rgb[..., ::-1])
    for width, colour in ((5, HALO), (2, DRAWN)):
        pen = {"color": colour, "thickness": width, "lineType": cv2.LINE_AA, "shift": 4}
        for stroke in measurement.overlay:
            points = np.round(np.array(stroke.points) * 16).astype(np.int32)
            if stroke.kind is StrokeKind.RING:
                cv2.circle(drawn, tuple(points[0].tolist()), round(16 * stroke.radius_px), **pen)
            else:
                cv2.polylines(drawn, [points], isClosed=False, **pen)
    if not cv2.imwrite(str(onto), drawn):
        raise OSError(f"{onto} cannot be written")


if __name__ == "__main__":
    sys.exit(main())
