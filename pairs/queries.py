"""Reads of pairs, photographs and readings, each in a known number of queries."""

from collections.abc import Iterable

import numpy as np

from assay.contracts import OTHER_FOOT
from assay.register.affine import Alignment
from library.models import Checkpoint, Release
from pairs.models import Inscription, Marking, Pair, Photo, PhotoAlignment, Reading, Standing

# Of a reading and its photograph: large, and of no use to who judges.
DRAWN_OF_READING = ("overlay", "descriptor", "marks")
DRAWN_OF_PHOTO = ("scale", "light", "guess", "codes")
DRAWN = (*DRAWN_OF_READING, *(f"photo__{name}" for name in DRAWN_OF_PHOTO))

# Photographs by their verdict, the fittest first.
FITTEST = {"usable": 0, "doubts": 0, "retake": 1}


def photos_in_use(pair: Pair) -> dict[tuple[str, str], Photo]:
    """Of every view and foot the photograph that is used: what a person prefers, else the fittest, of those the latest.
    One query."""
    in_use = {}
    for photo in sorted(pair.photos.all(), key=_standing):
        if photo.view and photo.state == Photo.State.READ and not photo.set_aside:
            in_use.setdefault((photo.view, photo.foot), photo)
    return in_use


def _standing(photo: Photo) -> tuple:
    return not photo.preferred, FITTEST.get(photo.fitness.verdict, len(FITTEST)), -photo.pk


def in_use(photo: Photo) -> bool:
    """Whether it is the one that ``photos_in_use`` has for its view and foot. One query."""
    alike = Photo.objects.filter(pair=photo.pair_id, view=photo.view, foot=photo.foot, state=Photo.State.READ)
    best = min(alike.filter(set_aside=False).only("preferred", "fitness"), key=_standing, default=None)
    return bool(photo.view) and best == photo


def beside(photos: dict[tuple[str, str], Photo], view: str, foot: str) -> Photo | None:
    """The photograph that stands beside one of this view and foot: the same foot's, else the other foot's, which is
    then to be shown mirrored."""
    return photos.get((view, foot)) or (photos.get((view, OTHER_FOOT[foot])) if foot else None)


def inscriptions_of(pair: Pair) -> dict[str, Inscription]:
    """What stands at every place that was read, the latest of each. One query."""
    latest = {}
    for kept in pair.inscriptions.select_related("read_by"):
        latest.setdefault(kept.place, kept)
    return latest


def latest_readings(
    pairs: Iterable[Pair], *, drawn: bool = True, checkpoints: Iterable[Checkpoint] | None = None
) -> dict[tuple[int, int], Reading]:
    """The latest reading of every (pair, checkpoint), or of some checkpoints. One query.

    Not ``drawn``: without what only the stage shows.
    """
    latest = {}
    readings = Reading.objects.filter(pair__in=list(pairs)).select_related("taken_by", "photo", "pair")
    if checkpoints is not None:
        readings = readings.filter(checkpoint__in=list(checkpoints))
    for reading in readings if drawn else readings.defer(*DRAWN):
        latest.setdefault((reading.pair_id, reading.checkpoint_id), reading)
    return latest


def latest_numbers(pairs: Iterable[Pair]) -> dict[tuple[int, int], tuple]:
    """The same as rows of ``pk``, ``value``, ``unit``, ``uncertainty`` and ``parts`` alone, for many pairs at once. One
    query."""
    read = Reading.objects.filter(pair__in=list(pairs)).order_by("pk")
    rows = read.values_list("pk", "pair_id", "checkpoint_id", "value", "unit", "uncertainty", "parts", named=True)
    return {(row.pair_id, row.checkpoint_id): row for row in rows}


def retail_pairs(pair: Pair) -> list[Pair]:
    """Verified pairs of the same shop and the same model's generation, the release's own first, the pair itself left
    out: a shared check is taught by every colourway. One query."""
    found = of_generation(pair.release, organisation=pair.organisation_id, standing=Standing.RETAIL).exclude(pk=pair.pk)
    return sorted(found, key=lambda one: (one.release_id != pair.release_id, one.label))


def teaching_pairs(pair: Pair) -> list[Pair]:
    """The same, and behind them the verified pairs of models that lend checks: those speak for these checks only, as
    they have no readings of any other. Three queries."""
    return [*retail_pairs(pair), *lending_pairs(pair.release, pair.organisation_id)]


def lending_pairs(release: Release, organisation) -> list[Pair]:
    """Verified pairs of the models that lend this one a check. Two queries."""
    known = Pair.objects.filter(organisation=organisation, standing=Standing.RETAIL, release__in=release.lenders)
    return list(known.select_related("release__shoe_model").order_by("label"))


def of_generation(release: Release, **wanted):
    """Pairs of any colourway of a release's model and tooling generation."""
    same = {"release__shoe_model": release.shoe_model_id, "release__generation": release.generation}
    return Pair.objects.filter(**same, **wanted)


def alignment_of(reference: Photo, photo: Photo) -> Alignment | None:
    """How the reference lies on the photograph, where that is known. One query."""
    kept = PhotoAlignment.objects.filter(reference=reference, photo=photo).first()
    return None if kept is None else alignment_kept(kept)


def alignment_kept(alignment: PhotoAlignment) -> Alignment:
    """As the core takes it."""
    anchors = np.array(alignment.anchors, float).reshape(-1, 4)
    return Alignment(np.array(alignment.matrix), alignment.matches, alignment.error_px, alignment.how, anchors)


def markings_on(photos: Iterable[Photo]) -> dict[tuple[int, int], Marking]:
    """Markings by (photo, checkpoint). One query."""
    found = Marking.objects.filter(photo__in=list(photos))
    return {(marking.photo_id, marking.checkpoint_id): marking for marking in found}
