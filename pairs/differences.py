"""Where a suspect's photographs differ from the verified pairs' at places that no check names."""

from collections.abc import Iterator
from dataclasses import asdict

import numpy as np

from assay.compare.anywhere import Difference, differences
from assay.errors import CannotAlign
from library.photo_kinds import keys_where
from pairs.actions.align_photo import offered
from pairs.models import Pair, Photo
from pairs.pictures import pixels
from pairs.pipeline import align_photo
from pairs.queries import photos_in_use, retail_pairs

MOST_RETAIL = 3


def undiffered(pair: Pair, reference: Pair) -> list[Photo]:
    """Photographs in use whose differences were not sought against the verified pairs' as they are now."""
    # Print differs from pair to pair, and is read.
    theirs, printed = _retail(pair, reference), set(keys_where(printed=True))
    return [
        photo
        for place, photo in photos_in_use(pair).items()
        if place in theirs and place[0] not in printed
        if photo.differences is None or photo.differences["retail"] != [their.pk for their in theirs[place]]
    ]


def seek_differences(photo: Photo, reference: Pair) -> None:
    """Find and keep them; where the pictures cannot be laid on each other there are none. A case that was signed
    meanwhile keeps what it had."""
    retail = _retail(photo.pair, reference)[photo.view, photo.foot]
    found = _found(photo, retail)
    photo.differences = {"retail": [one.pk for one in retail], "regions": [asdict(one) for one in found]}
    Photo.objects.filter(pk=photo.pk, pair__case__signed_at=None).update(differences=photo.differences)


def _found(photo: Photo, retail: list[Photo]) -> list[Difference]:
    first, *more = retail
    outline = np.asarray(offered(first).outline, float)
    if not len(outline):
        width, height = first.width, first.height
        outline = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
    try:
        suspect = pixels(photo.full.path), align_photo(reference=first, photo=photo)
    except CannotAlign:
        return []
    return differences(pixels(first.full.path), outline, suspect, list(_aligned(first, more)))


def _aligned(first: Photo, more: list[Photo]) -> Iterator[tuple]:
    for other in more:
        try:
            yield pixels(other.full.path), align_photo(reference=first, photo=other)
        except CannotAlign:
            continue


def _retail(pair: Pair, reference: Pair) -> dict[tuple[str, str], list[Photo]]:
    """Photographs of verified pairs of the same colourway by view and foot, the reference's own first."""
    found: dict[tuple[str, str], list[Photo]] = {}
    others = [
        retail_pair
        for retail_pair in retail_pairs(pair)
        if retail_pair.release_id == pair.release_id and retail_pair.pk != reference.pk
    ]
    for one in (reference, *others):
        for place, photo in photos_in_use(one).items():
            found.setdefault(place, []).append(photo)
    own = set(photos_in_use(reference))
    return {place: photos[:MOST_RETAIL] for place, photos in found.items() if place in own}
