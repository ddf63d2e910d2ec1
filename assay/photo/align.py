"""Carry marks from the reference photograph onto another photograph of the same view and foot.

Method: local features (SIFT; Lowe, Int. J. Computer Vision 60(2), 2004) and the affine map that most of them agree on
(MAGSAC++; Barath et al., CVPR 2020). Both pictures must show the same foot from the same side: a mirror image is
refused, since it would swap left and right.
Refuses: ``no_common_features``, ``mirrored``.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.contracts import Marks, Picture
from assay.errors import CannotAlign

WORKING_SIDE = 1100
# Lowe's ratio: a match must be clearly better than the second best.
RATIO = 0.8
# Agreeing matches needed: unrelated pictures were seen to reach 14, pairs of one release over 100.
FEWEST_MATCHES = 24
# Longest stretch against shortest: two photographs of one side of a shoe do not differ more than a tilt of 50° does.
MOST_UNEVEN = 1.6
AGREE_PX = 6.0
SEED = 7


@dataclass(frozen=True, slots=True)
class Alignment:
    """How the reference lies on the other picture."""

    matrix: np.ndarray
    """2 × 3, reference pixels to the other picture's pixels."""
    matches: int
    """Features that agree."""
    error_px: float
    """Their median distance after mapping, in pixels of the other picture."""

    def carry(self, marks: Marks, size: tuple[int, int]) -> Marks:
        """The marks on the other picture, kept inside its ``size``."""
        points = np.asarray(marks.points) @ self.matrix[:, :2].T + self.matrix[:, 2]
        points = points.clip(0, np.asarray(size) - 1)
        return Marks(marks.kind, tuple((float(x), float(y)) for x, y in points))


def align(reference: Picture, other: Picture) -> Alignment:
    """Lay the reference onto the other picture. Raises CannotAlign."""
    ours = _features(reference)
    found = _fit(ours, _features(other))
    if found is None:
        mirrored = Picture(np.ascontiguousarray(other.rgb[:, ::-1]))
        raise CannotAlign("mirrored" if _fit(ours, _features(mirrored)) else "no_common_features")
    return found


def _fit(ours: tuple, theirs: tuple) -> Alignment | None:
    """The affine map that most matches agree on; None where too few do or where it is no view of the same thing."""
    our_points, our_features, our_scale = ours
    their_points, their_features, their_scale = theirs
    if len(our_points) < FEWEST_MATCHES or len(their_points) < FEWEST_MATCHES:
        return None
    pairs = [
        pair[0]
        for pair in cv2.BFMatcher(cv2.NORM_L2).knnMatch(our_features, their_features, k=2)
        if len(pair) == 2 and pair[0].distance < RATIO * pair[1].distance
    ]
    if len(pairs) < FEWEST_MATCHES:
        return None
    source = np.array([our_points[m.queryIdx].pt for m in pairs]) / our_scale
    target = np.array([their_points[m.trainIdx].pt for m in pairs]) / their_scale
    cv2.setRNGSeed(SEED)
    matrix, agree = cv2.estimateAffine2D(
        source, target, method=cv2.USAC_MAGSAC, ransacReprojThreshold=AGREE_PX / their_scale, maxIters=4000
    )
    if matrix is None or agree.sum() < FEWEST_MATCHES or np.linalg.det(matrix[:, :2]) <= 0:
        return None
    stretch = np.linalg.svd(matrix[:, :2], compute_uv=False)
    if stretch[0] / stretch[1] > MOST_UNEVEN:
        return None
    kept = agree.ravel().astype(bool)
    off = np.hypot(*(source[kept] @ matrix[:, :2].T + matrix[:, 2] - target[kept]).T)
    return Alignment(matrix, int(kept.sum()), float(np.median(off)))


def _features(picture: Picture) -> tuple:
    grey = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY)
    scale = min(1.0, WORKING_SIDE / max(grey.shape))
    if scale < 1:
        grey = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    grey = cv2.createCLAHE(2.0, (8, 8)).apply(grey)
    points, features = cv2.SIFT_create(nfeatures=2500, contrastThreshold=0.02).detectAndCompute(grey, None)
    return points, features, scale
