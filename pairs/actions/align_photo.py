"""Keep how a reference photograph lies on another one, and what a photograph can be recognised by."""

import numpy as np

from assay.imaging.foreground import find_foreground
from assay.imaging.pyramid import pyramid_of
from assay.register.affine import Alignment
from assay.register.features import Features, features_of
from pairs.models import Photo, PhotoAlignment
from pairs.pictures import features, features_file, pixels


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
