"""Readings compared with each other: contours, patterns of holes, layers. Each two are compared once and kept."""

from base64 import b64decode, b64encode
from collections import OrderedDict
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from hashlib import blake2b
from types import MappingProxyType

import cv2
import numpy as np

from assay.compare.typical import typical
from assay.contracts import Comparison, Descriptor, Light, Measurement, Stroke, StrokeKind
from assay.errors import AssayError
from assay.measure.entry import Comparing
from assay.measure.registry import MEASURES
from pairs.models import Reading, ReadingComparison, Standing

MOST_LAST = 64
_LAST: OrderedDict[tuple, Comparison | AssayError] = OrderedDict()
Known = Mapping[int, Descriptor]


def descriptor_kept(measurement: Measurement, facing: int, lamp: str = "") -> dict | None:
    """A descriptor as it is stored; ``facing``, ``lamp``: see ``Descriptor``."""
    kept = measurement.descriptor
    if kept is None:
        return None
    return {
        "kind": kept.kind,
        "unit": kept.unit,
        "points": np.round(kept.points, 3).tolist(),
        "marks": np.round(kept.marks, 3).tolist(),
        "values": np.round(kept.values, 4).tolist(),
        "light": kept.light.value,
        "facing": facing,
        **({"lamp": lamp} if lamp else {}),
        "relative_uncertainty": round(kept.relative_uncertainty, 6),
        "departure_share": round(kept.departure_share, 6),
        "count_uncertainty": round(kept.count_uncertainty, 4),
        **(_image_kept(kept) if kept.image is not None else {}),
    }


def _image_kept(descriptor: Descriptor) -> dict:
    """A descriptor's image as PNG in base64, and where it lies."""
    data = cv2.imencode(".png", descriptor.image)[1].tobytes()
    place = {"image_at": [round(n, 4) for n in descriptor.image_at], "image_step": round(descriptor.image_step, 6)}
    return {"image": b64encode(data).decode(), **place}


def descriptor_of(kept: dict) -> Descriptor:
    """The same back again."""
    values = np.array(kept["values"], float)
    image = {}
    if "image" in kept:
        data = np.frombuffer(b64decode(kept["image"]), np.uint8)
        image = {"image": cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), "image_at": tuple(kept["image_at"])}
        image |= {"image_step": kept["image_step"]}
    return Descriptor(
        kept["kind"],
        np.array(kept["points"], float).reshape(-1, 2),
        np.array(kept["marks"], float).reshape(-1, 2),
        kept["unit"],
        values=values if values.ndim == 2 else np.zeros((0, 0)),
        light=Light(kept["light"]),
        lamp=kept.get("lamp", ""),
        facing=kept["facing"],
        relative_uncertainty=kept["relative_uncertainty"],
        departure_share=kept.get("departure_share", 0.0),
        count_uncertainty=kept.get("count_uncertainty", 0.0),
        **image,
    )


def compared(
    entry: Comparing, ours: Descriptor, theirs: Iterable[tuple[Descriptor, bool]]
) -> list[Comparison | AssayError]:
    """Ours with each of theirs; ``True`` beside one: as a mirror shows it. What cannot be compared says why."""
    return [_once(entry, ours, descriptor, mirror) for descriptor, mirror in theirs]


def _once(entry: Comparing, ours: Descriptor, theirs: Descriptor, mirror: bool) -> Comparison | AssayError:  # noqa: FBT001
    """Several checks judge different numbers of one thing: the last few comparisons are kept."""
    same = (entry.kind, _digest(ours), _digest(theirs), mirror)
    found = _LAST.get(same)
    if found is None:
        try:
            if ours.kind != entry.kind or theirs.kind != entry.kind:
                raise AssayError("other_marks")
            found = entry.compare(entry.mirrored(theirs) if mirror else theirs, ours)
        except AssayError as refusal:
            # Without its traceback, which would keep both things' pictures.
            found = refusal.with_traceback(None)
        # Other threads may drop it again at once.
        _LAST[same] = found
        while len(_LAST) > MOST_LAST:
            _LAST.popitem(last=False)
    return found


def _digest(descriptor: Descriptor) -> bytes:
    found = blake2b(digest_size=16)
    for part in (descriptor.points, descriptor.marks, descriptor.values, descriptor.image):
        if part is not None:
            found.update(np.ascontiguousarray(part).tobytes())
    found.update(
        repr(
            (
                descriptor.kind,
                descriptor.unit,
                descriptor.light,
                descriptor.lamp,
                descriptor.facing,
                descriptor.image_at,
                descriptor.image_step,
            )
        ).encode()
    )
    found.update(
        repr((descriptor.relative_uncertainty, descriptor.departure_share, descriptor.count_uncertainty)).encode()
    )
    return found.digest()


def comparisons(
    measure: str, wanted: Iterable[tuple[int, int, bool]], given: Known = MappingProxyType({})
) -> dict[tuple[int, int, bool], Comparison | AssayError]:
    """(our reading, their reading, mirrored) compared, by what was kept before; the rest is compared now and kept.

    ``given``: descriptors that are at hand. Two queries, and one more where something is new.
    """
    entry, wanted = MEASURES[measure].comparing, set(wanted)
    ids = {one for ours, theirs, _ in wanted for one in (ours, theirs)}
    rows = ReadingComparison.objects.filter(ours__in=ids, theirs__in=ids)
    found = {(row.ours_id, row.theirs_id, row.mirrored): _comparison(row) for row in rows}
    missing = sorted(wanted - set(found))
    if not missing:
        return {key: found[key] for key in wanted}
    lacking = {one for ours, theirs, _ in missing for one in (ours, theirs)} - set(given)
    known = dict(given) | {
        pk: descriptor_of(kept)
        for pk, kept in Reading.objects.filter(pk__in=lacking).values_list("pk", "descriptor")
        if kept
    }
    new = {}
    for ours, theirs, mirror in missing:
        if ours in known and theirs in known:
            (new[ours, theirs, mirror],) = compared(entry, known[ours], [(known[theirs], mirror)])
        else:
            new[ours, theirs, mirror] = AssayError("nothing_to_compare")
    keep(new)
    return {key: (found | new)[key] for key in wanted}


def keep(found: Mapping[tuple[int, int, bool], Comparison | AssayError]) -> None:
    """Keep comparisons of readings that are kept themselves. One query."""
    ReadingComparison.objects.bulk_create([_row(*key, one) for key, one in found.items()], ignore_conflicts=True)


def _row(ours: int, theirs: int, mirrored: bool, found: Comparison | AssayError) -> ReadingComparison:  # noqa: FBT001
    row = ReadingComparison(ours_id=ours, theirs_id=theirs, mirrored=mirrored)
    if isinstance(found, AssayError):
        row.refusal = {"reason": found.reason, **found.numbers}
    else:
        row.parts = {name: float(value) for name, value in found.parts.items()}
        row.overlay = [asdict(stroke) for stroke in found.overlay]
    return row


def _comparison(row: ReadingComparison) -> Comparison | AssayError:
    if row.refusal:
        return AssayError(**row.refusal)
    strokes = (
        Stroke(StrokeKind(s["kind"]), tuple(map(tuple, s["points"])), s["label"], s["radius_px"]) for s in row.overlay
    )
    return Comparison(MappingProxyType(row.parts), tuple(strokes))


def kept_beside(readings: Iterable[int]) -> dict[int, dict]:
    """By reading: what came of laying it on verified pairs' readings, as kept; numbers only. One query."""
    rows = ReadingComparison.objects.filter(
        ours__in=list(readings), theirs__pair__standing=Standing.RETAIL, mirrored=False, refusal__isnull=True
    )
    found: dict[int, list] = {}
    for ours, parts in rows.order_by("pk").values_list("ours_id", "parts"):
        found.setdefault(ours, []).append(Comparison(MappingProxyType(parts), ()))
    return {ours: dict(typical(each).parts) for ours, each in found.items()}


def typical_of(found: Iterable[Comparison | AssayError]) -> Comparison | None:
    """What is typical of those that came to something; None where none did."""
    done = [one for one in found if isinstance(one, Comparison)]
    return typical(done) if done else None
