"""Stage 3, sort: which kind of photograph it is, of which foot, and whether it will do."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from assay.contracts import OTHER_FOOT
from assay.imaging.fitness import Needs, judge_fitness
from assay.imaging.pyramid import pyramid_of
from assay.imaging.view import Guess, KnownView, Place, sort_view
from assay.paperwork import barcode
from assay.paperwork.barcode import Barcode
from assay.pipeline.facts import PhotoFitness, Sorting
from assay.pipeline.open import OpenedPhoto
from assay.pipeline.scale import ScaledPhoto
from assay.register.affine import Alignment
from assay.register.features import features_of


@dataclass(frozen=True, slots=True)
class KnownKinds:
    """What a photograph may be of."""

    views: tuple[KnownView, ...] = ()
    """Of a verified pair, their keys are places."""
    needs: Mapping[str, Needs] = field(default_factory=dict)
    """What the checks of a kind ask of its photograph."""
    with_codes: frozenset[str] = frozenset()
    """Kinds that show barcodes."""


@dataclass(frozen=True, slots=True)
class SortedPhoto:
    """What a photograph shows and whether it will do."""

    place: Place | None
    """None: not sure enough, a person must say."""
    sorting: Sorting
    fitness: PhotoFitness
    codes: tuple[Barcode, ...]
    reference: Place | None
    """Whose photograph was aligned with it on the way: of this place or, mirrored, of the other foot."""
    alignment: Alignment | None


def sort_photo(
    opened: OpenedPhoto,
    scaled: ScaledPhoto,
    kinds: KnownKinds,
    *,
    said: Place | None,
    by_person: bool,
    doubts: tuple[str, ...] = (),
) -> SortedPhoto:
    """Sort a photograph and judge it. ``said``: where it is filed already, ``by_person`` or by an earlier run; that
    stands. ``doubts``: found before it was opened."""
    views = {view.key: view for view in kinds.views}
    guess = sort_view(
        opened.pyramid,
        opened.features,
        list(kinds.views),
        lambda: features_of(opened.pyramid, opened.foreground, mirror=True),
        said=said if by_person and said in views else None,
    )
    sorting = _sorting(guess, views, opened)
    place = said or sorting.place
    codes = tuple(barcode.find(opened.pyramid)) if place and place[0] in kinds.with_codes else ()
    fit = judge_fitness(
        opened.pyramid,
        opened.foreground,
        kinds.needs.get(place[0] if place else "", Needs()),
        mm_per_px=scaled.mm_per_px,
        tilt_deg=scaled.scale.tilt_deg,
    )
    mirrored = scaled.scale.refusal == "mirrored_photo" or sorting.mirrored
    known = (*doubts, *code_doubts(codes), *(("mirrored_photo",) if mirrored else ()))
    reference = guess.key if sorting.place is not None and place == sorting.place else None
    alignment = guess.alignment if reference is not None else None
    return SortedPhoto(place, sorting, PhotoFitness.of(fit, known), codes, reference, alignment)


def codes_of(rgb: np.ndarray) -> tuple[Barcode, ...]:
    """Barcodes on a decoded photograph (H, W, 3) uint8."""
    return tuple(barcode.find(pyramid_of(rgb)))


def code_doubts(codes: tuple[Barcode, ...]) -> tuple[str, ...]:
    """What is odd about the barcodes of one label."""
    numbers = [code for code in codes if code.gtin14]
    several = ("several_codes",) if len(numbers) > 1 else ()
    return (*several, *(("upside_down",) if any(not code.upright for code in numbers) else ()))


def _sorting(guess: Guess, views: Mapping[Place, KnownView], opened: OpenedPhoto) -> Sorting:
    place, mirrored = guess.key, None
    x, y, width, height = opened.foreground.box
    if place and guess.how == "mirror":
        mirrored = not place[1]
        place = _other_foot(place) if place[1] else None
    return Sorting(
        how=guess.how,
        matches=guess.alignment.matches if guess.alignment else 0,
        between=tuple(_other_foot(key) if other else key for key, other in guess.between) or None,
        mirrored=mirrored,
        view=place[0] if place else None,
        foot=place[1] if place else None,
        assumed=_is_foot_assumed(place, views) if place else None,
        box=(round(x), round(y), round(width), round(height)),
        found=opened.foreground.found,
        ultraviolet=guess.ultraviolet,
    )


def _other_foot(place: Place) -> Place:
    return place[0], OTHER_FOOT.get(place[1], "")


def _is_foot_assumed(place: Place, views: Mapping[Place, KnownView]) -> bool:
    """Whether left and right look so alike from there that, with one of them known, the foot is an assumption."""
    other = _other_foot(place)
    known = views.get(place) or views.get(other)
    return bool(place[1]) and not (known and known.side) and other not in views
