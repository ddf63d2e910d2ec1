"""A new checkpoint drawn on a retail pair's photograph: tried on all verified pairs, then kept."""

import math
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from statistics import stdev
from types import MappingProxyType

from django.db import transaction
from django.utils.text import slugify

from assay.contracts import Measurement
from assay.errors import AssayError, CannotMeasure
from assay.judge.judgement import Kind
from assay.measure.entry import Measure
from assay.measure.registry import MEASURES
from assay.pipeline.measure import Task, as_carried
from assay.units import Unit
from library.models import Checkpoint
from library.writers import must_write
from pairs.actions.mark_photo import mark_photo
from pairs.comparisons import compared, typical_of
from pairs.models import Marking, Pair, Photo
from pairs.pictures import facing, marks
from pairs.pipeline import align_photo, reading_of, session_of
from pairs.queries import photos_in_use, retail_pairs

RARELY_OFF = 0.004
"""Before retail pairs are many: a count is one more, or one less, on so many of them. Assumed."""
LEAST_SCATTER = {
    Unit.MM: (0.15, 0.015),
    Unit.MM2: (0.1, 0.03),
    Unit.RATIO: (0.001, 0.02),
    Unit.PERCENT: (1.0, 0.0),
    Unit.DEGREE: (0.8, 0.01),
    Unit.DE00: (0.8, 0.1),
    Unit.LIGHTNESS: (1.0, 0.03),
    Unit.PER_CM2: (0.5, 0.2),
    Unit.PER_MM: (0.02, 0.03),
}
"""And a number scatters by at least so much, in its unit, or by this share of it: hand work on one last. Assumed; the
guide shows it, and a guide writer may say otherwise."""
BELIEVED_PAIRS = {Kind.COUNT: 2, Kind.CONTINUOUS: 4}
ROOM_BETWEEN = 4


@dataclass(frozen=True, slots=True)
class Tried:
    """What the drawn marks read on one verified pair's photograph."""

    photo: Photo
    points: list
    """Where the marks lie there; empty where they could not be carried over."""
    reading: Measurement | None
    refusal: AssayError | None

    @property
    def pair(self) -> Pair:
        """Whose photograph it is."""
        return self.photo.pair


def try_checkpoint(*, photo: Photo, measure: str, points: list) -> list[Tried]:
    """Measure on the photograph that was drawn on, and on the same view of the other verified pairs. Keeps nothing.

    Raises CannotMeasure where the marks themselves will not do.
    """
    drawn = Checkpoint(release=photo.pair.release, measure=measure, view=photo.view, foot=photo.foot)
    marks(drawn, points).checked((photo.width, photo.height))
    tried = []
    for theirs in (photo, *_others(photo)):
        placed: list = []
        try:
            placed = points if theirs == photo else _carried(drawn, points, photo, theirs)
            put, reading = session_of(theirs).snapped(Task("tried", measure, marks(drawn, placed)))
            tried.append(Tried(theirs, [list(point) for point in put.points], reading, None))
        except AssayError as refusal:
            tried.append(Tried(theirs, placed, None, refusal))
    return _beside_each_other(measure, tried)


def _beside_each_other(measure: str, tried: list[Tried]) -> list[Tried]:
    """Of a measure that compares: each with the numbers of how it lies beside the others."""
    entry = MEASURES[measure].comparing
    seen = {
        n: replace(one.reading.descriptor, facing=facing(one.photo), lamp=one.photo.lamp)
        for n, one in enumerate(tried)
        if entry and one.reading and one.reading.descriptor
    }
    with_numbers = list(tried)
    for n, ours in seen.items():
        beside = typical_of(compared(entry, ours, [(theirs, False) for k, theirs in seen.items() if k != n]))
        if beside:
            reading = tried[n].reading
            parts = MappingProxyType({**reading.parts, **beside.parts})
            with_numbers[n] = replace(tried[n], reading=replace(reading, parts=parts))
    return with_numbers


@transaction.atomic
def draw_checkpoint(*, photo: Photo, tried: list[Tried], given: Mapping, by) -> Checkpoint:
    """Keep a checkpoint: marks on the photograph, carried to the other verified pairs and measured there.

    ``tried``: as ``tried_well`` found it, before anything is written. ``given``: name, instruction, measure, quantity,
    unit, section, group, size_rule, minutes, decisive, mandatory, applies_when. Raises AssayError ``not_allowed`` or
    what the marks raise.
    """
    must_write(by, photo.pair.release)
    release = photo.pair.release
    kind = Kind.COUNT if given["unit"] == "count" else Kind.CONTINUOUS
    checkpoint = Checkpoint(
        release=release,
        key=free_key(release, given["name"]),
        kind=kind.value,
        view=photo.view,
        foot=photo.foot,
        position=place_in(release, given["section"]),
        prior=believed(given["measure"], kind, given["quantity"], tried),
        of_shoe=bool(photo.foot),
        **given,
    )
    checkpoint.clean()
    checkpoint.save()
    _put_on_retail(checkpoint, tried, by)
    return checkpoint


@transaction.atomic
def redraw_checkpoint(*, checkpoint: Checkpoint, tried: list[Tried], by) -> None:
    """Put its marks where they were ``tried``, carry them to the other verified pairs anew and measure there.

    Marks that a person put in place on one of those stay. Raises AssayError ``not_allowed`` or what the marks raise.
    """
    must_write(by, checkpoint.release)
    _put_on_retail(checkpoint, tried, by)


def tried_well(*, photo: Photo, measure: str, points: list) -> list[Tried]:
    """As ``try_checkpoint``; raises as well what refuses on the photograph itself."""
    tried = try_checkpoint(photo=photo, measure=measure, points=points)
    if tried[0].refusal:
        raise tried[0].refusal
    return tried


def _put_on_retail(checkpoint: Checkpoint, tried: list[Tried], by) -> None:
    """Keep marks and readings as they were tried; the first is the photograph that was drawn on."""
    for one in tried:
        first = one is tried[0]
        by_hand = one.photo.markings.filter(checkpoint=checkpoint, origin=Marking.Origin.MOVED)
        if not one.points or (not first and by_hand.exists()):
            continue
        origin = Marking.Origin.DRAWN if first else Marking.Origin.CARRIED
        with suppress(CannotMeasure):
            marking = mark_photo(checkpoint=checkpoint, photo=one.photo, points=one.points, origin=origin)
            reading_of(_as_placed(one, checkpoint.measure, origin), marking=marking, by=by).save()


def _as_placed(tried: Tried, measure: str, origin: str) -> Measurement | AssayError:
    """What was tried, as unsure as its annotation is where that is what is measured and was carried over."""
    if tried.reading is None:
        return tried.refusal
    carried = origin == Marking.Origin.CARRIED and MEASURES[measure].marks_are_measured
    return as_carried(tried.reading) if carried else tried.reading


def _others(photo: Photo) -> list[Photo]:
    found = (photos_in_use(other).get((photo.view, photo.foot)) for other in retail_pairs(photo.pair))
    return [theirs for theirs in found if theirs]


def _carried(drawn: Checkpoint, points: list, photo: Photo, theirs: Photo) -> list:
    alignment = align_photo(reference=photo, photo=theirs)
    return [list(p) for p in alignment.carry(marks(drawn, points), (theirs.width, theirs.height)).points]


def _every(release):
    """The release's checks, withdrawn ones as well: they hold their key and place."""
    return Checkpoint.every.filter(release=release)


def free_key(release, name: str) -> str:
    """A key that no check of the release has or had."""
    key, taken = slugify(name)[:50] or "check", set(_every(release).values_list("key", flat=True))
    return next(one for one in (key, *(f"{key}-{n}" for n in range(2, len(taken) + 3))) if one not in taken)


def place_in(release, section: str) -> int:
    """Behind the section's last check; whatever stands there moves on."""
    known = list(_every(release).order_by("position"))
    same = [n for n, one in enumerate(known) if one.section == section]
    at = same[-1] + 1 if same else len(known)
    place = known[at - 1].position + 1 if at else 1
    if at < len(known) and known[at].position <= place:
        for one in reversed(known[at:]):
            one.position += ROOM_BETWEEN
            one.save(update_fields=["position"])
    return place


def believed(measure: str, kind: Kind, quantity: str, tried: list[Tried]) -> dict:
    """What is believed of a new check before retail pairs are many: that they scatter by no less than such parts do,
    whatever these few showed. What measuring scatters is not theirs."""
    if kind is Kind.COUNT:
        return {"pairs": BELIEVED_PAIRS[kind], "off_by_one": RARELY_OFF}
    read = [one.reading for one in tried if one.reading]
    values = [value for value in (number_of(reading, quantity) for reading in read) if value is not None]
    unsure = [
        reading.parts.get(f"{quantity}_uncertainty", 0.0) if quantity else reading.uncertainty for reading in read
    ]
    own = math.sqrt(sum(one**2 for one in unsure) / len(unsure)) if unsure else 0.0
    showed = math.sqrt(max(0.0, (stdev(values) if len(values) > 1 else 0.0) ** 2 - own**2))
    entry = MEASURES[measure]
    floor = (
        entry.comparing.floors.get(quantity, 0.0)
        if entry.compares(quantity)
        else _least_scatter(entry, quantity, values)
    )
    return {"pairs": BELIEVED_PAIRS[kind], "scatter": round(max(showed, floor), 5)}


def _least_scatter(entry: Measure, quantity: str, values: list[float]) -> float:
    """Of a number that is read on each pair by itself."""
    least, share = LEAST_SCATTER.get(Unit(entry.numbers[quantity]), (0.001, 0.02))
    return max(least, share * max(map(abs, values), default=0.0))


def number_of(reading: Measurement, quantity: str) -> float | None:
    """The reading's value, or one of its parts; None where it has none, such as a length without a scale."""
    return reading.parts.get(quantity) if quantity else float(reading.value)
