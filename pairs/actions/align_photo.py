"""Lay a reference photograph onto another one, once; a person's landmarks or nudges take its place."""

import numpy as np

from assay.imaging.foreground import find_foreground
from assay.imaging.pyramid import pyramid_of
from assay.register.affine import Alignment, align
from assay.register.features import Features, features_of
from library.known_views import keys_where
from pairs.actions.check_scale import hold_scale_against
from pairs.models import Photo, PhotoAlignment
from pairs.pictures import features, features_file, pixels
from pairs.queries import alignment_of


def align_photo(*, reference: Photo, photo: Photo) -> Alignment:
    """The alignment, kept from before or found now. Raises CannotAlign."""
    known = alignment_of(reference, photo)
    if known:
        return known
    found = align(offered(reference), offered(photo), close_up=reference.view in keys_where(close_up=True))
    keep_alignment(reference=reference, photo=photo, alignment=found)
    hold_scale_against(photo, reference, found)
    Photo.objects.filter(pk=photo.pk).update(scale=photo.scale)
    return found


def offered(photo: Photo) -> Features:
    """What a photograph offers for recognition; found now where it was read before such things were kept."""
    known = features(photo)
    if known is None or not known.small.size:
        pyramid = pyramid_of(pixels(photo.full.path))
        known = features_of(pyramid, find_foreground(pyramid))
        photo.features.save("features.npz", features_file(known), save=False)
        Photo.objects.filter(pk=photo.pk).update(features=photo.features.name)
    return known


def keep_alignment(*, reference: Photo, photo: Photo, alignment: Alignment, by=None) -> None:
    """Store an alignment; ``by``: the person whose landmarks or nudge it is."""
    kept = {
        "matrix": alignment.matrix.tolist(),
        "anchors": np.round(alignment.anchors, 2).tolist(),
        "matches": alignment.matches,
        "error_px": alignment.error_px,
        "how": alignment.how,
        "by": by,
    }
    PhotoAlignment.objects.bulk_create(
        [PhotoAlignment(reference=reference, photo=photo, **kept)],
        update_conflicts=True,
        unique_fields=["reference", "photo"],
        update_fields=list(kept),
    )
