"""Groups of holes anywhere on a shoe: round spots of one size, near to each other.

Method: OpenCV's blob detector (connected components over many thresholds, filtered by circularity and convexity), dark
and light; spots of like diameter that lie within a few diameters of each other are one group.
"""

from collections.abc import Iterator

import cv2
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from assay.contracts import MarkKind
from assay.draft.scene import MM_PER_PX, Proposal, Scene

DIAMETERS_MM = (1.0, 7.0)
LEAST_CIRCULAR = 0.72
LEAST_CONVEX = 0.85
LEAST_ROUND = 0.45
"""Smallest second moment over largest: a hole seen from the side is an ellipse."""
LIKE = 1.45
"""Diameters of one group differ by no more than this ratio."""
WITHIN = 4.6
"""Of one group are holes whose centres are so many diameters apart at most;"""
FAR, SAME = 10.0, 1.12
"""those of all but one size, so many."""
FEWEST = 3
ROOM = 0.9
"""Around the outermost holes the region leaves so many diameters."""


def holes(scene: Scene, spots: np.ndarray) -> Iterator[Proposal]:
    """Groups of at least ``FEWEST`` holes, the largest first; each also with room for one more at its ends."""
    if len(spots) < FEWEST:
        return
    apart = np.hypot(*(spots[:, None, :2] - spots[None, :, :2]).transpose(2, 0, 1))
    larger = np.maximum(spots[:, None, 2], spots[None, :, 2])
    smaller = np.minimum(spots[:, None, 2], spots[None, :, 2])
    near = (apart < WITHIN * smaller) & (larger < LIKE * smaller)
    far = (apart < FAR * smaller) & (larger < SAME * smaller)
    many, group = connected_components(coo_matrix(near | far))
    members = sorted((spots[group == n] for n in range(many)), key=len, reverse=True)
    for own in members:
        if len(own) >= FEWEST:
            for some in (own, *_one_further(own)):
                region = scene.to_picture(_around(some))
                yield Proposal("holes", "", MarkKind.REGION, region, "holes")


def _one_further(spots: np.ndarray) -> Iterator[np.ndarray]:
    """With room for one more hole at one end of their longest way, or at the other: one in the dark was not seen."""
    middle = spots[:, :2].mean(0)
    way = np.linalg.svd(spots[:, :2] - middle)[2][0]
    run = np.sort((spots[:, :2] - middle) @ way)
    step = float(np.median(np.diff(run)[np.diff(run) > 0.5 * np.median(spots[:, 2])])) if len(run) > 1 else 0.0
    first, last = spots[((spots[:, :2] - middle) @ way).argsort()[[0, -1]]]
    shift = np.array([*(step * way), 0.0])
    for further in (first - shift, last + shift):
        yield np.vstack([spots, further])


def painted(scene: Scene, spots: np.ndarray) -> np.ndarray:
    """(h, w) bool: every round spot and a little around it."""
    mask = np.zeros(scene.inside.shape, np.uint8)
    for x, y, wide in spots:
        cv2.circle(mask, (round(x), round(y)), round(0.75 * wide) + 1, 1, -1)
    return mask > 0


def round_spots(scene: Scene) -> np.ndarray:
    """(N, 3): x, y and diameter of every round spot, finder pixels."""
    wanted = cv2.SimpleBlobDetector_Params()
    wanted.filterByArea = wanted.filterByCircularity = wanted.filterByConvexity = wanted.filterByInertia = True
    wanted.minArea, wanted.maxArea = (np.pi / 4 * (mm / MM_PER_PX) ** 2 for mm in DIAMETERS_MM)
    wanted.minCircularity, wanted.minConvexity, wanted.minInertiaRatio = LEAST_CIRCULAR, LEAST_CONVEX, LEAST_ROUND
    wanted.minThreshold, wanted.maxThreshold, wanted.thresholdStep = 10, 240, 8
    wanted.minDistBetweenBlobs = DIAMETERS_MM[0] / MM_PER_PX
    found = []
    light = np.clip(scene.lab[..., 0] * 2.55, 0, 255).astype(np.uint8)
    for blob_colour in (0, 255):
        wanted.blobColor = blob_colour
        # Twice as large: the detector's components need some pixels.
        big = cv2.resize(light, None, fx=2, fy=2, interpolation=cv2.INTER_LINEAR)
        wanted.minArea, wanted.maxArea = (np.pi * (mm / MM_PER_PX) ** 2 for mm in DIAMETERS_MM)
        for key in cv2.SimpleBlobDetector_create(wanted).detect(big):
            x, y = (np.array(key.pt) + 0.5) / 2 - 0.5
            if scene.inside[round(y), round(x)]:
                found.append((x, y, key.size / 2))
    return np.array(found).reshape(-1, 3)


def _around(spots: np.ndarray) -> np.ndarray:
    """(N, 2): a polygon round the spots with room around them."""
    turns = np.linspace(0, 2 * np.pi, 12, endpoint=False)
    ring = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    reach = spots[:, 2] * (0.5 + ROOM)
    rim = spots[:, None, :2] + reach[:, None, None] * ring
    hull = cv2.convexHull(rim.reshape(-1, 2).astype(np.float32))
    return cv2.approxPolyDP(hull, 0.5 / MM_PER_PX, closed=True)[:, 0]
