"""Which view of the shoe is this? Sorts a photograph by colour, by what it has in common with known views, by outline.

Method: ultraviolet light first (almost everything violet); then the alignment with each known view of the release: most
agreeing features win, if clearly; then the outlines. A guess says how sure it is; an unsure one is left to a person.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from assay.photo.align import OUTLINE_AGREES, Alignment, Features, by_features, by_outline, mirrored
from assay.photo.frame import Frame

# Share of the picture that is violet or blue and saturated before it was taken in ultraviolet light.
VIOLET_SHARE = 0.7
# The best view must have so many times the matches of the second best.
CLEARLY = 1.5
# Fewer matches than this decide no view, even alone: the other foot's sole was seen to reach 38.
FEWEST_TO_SORT = 45
# Outlines of which one is so much longer for its width (log) do not lie on each other.
UNLIKE = 0.25
# So many matches and no other view needs to be tried: unrelated views were seen to reach 40.
BEYOND_DOUBT = 90


@dataclass(frozen=True, slots=True)
class Known:
    """A view that is known, from a retail pair."""

    key: str
    """Whatever the caller calls it."""
    kind: str
    """What left and right have in common: the same for both."""
    ultraviolet: bool
    features: Features


@dataclass(frozen=True, slots=True)
class Guess:
    """What a photograph seems to show."""

    key: str | None
    """None: not sure enough."""
    how: str
    """``features``, ``mirror`` (the other foot of the view ``key`` names), ``outline`` or ``nothing``."""
    alignment: Alignment | None
    ultraviolet: bool


def is_ultraviolet(frame: Frame) -> bool:
    """Whether the picture was taken in ultraviolet light."""
    small = cv2.resize(frame.quarter, (160, 120), interpolation=cv2.INTER_AREA)
    hue, saturation, _ = np.moveaxis(cv2.cvtColor(small, cv2.COLOR_RGB2HSV), -1, 0).astype(int)
    return bool(((hue >= 105) & (hue <= 160) & (saturation > 90)).mean() > VIOLET_SHARE)


def sort_view(
    frame: Frame,
    features: Features,
    known: list[Known],
    mirrored_too: Callable[[], Features] | None = None,
) -> Guess:
    """The known view that the photograph shows.

    ``mirrored_too`` gives the photograph's features as a mirror shows them: asked for where nothing fits beyond doubt,
    and tried against views that are known of one foot alone.
    """
    ultraviolet = is_ultraviolet(frame)
    alike = [view for view in known if view.ultraviolet == ultraviolet]
    # Likely ones first: a view of the same proportions, so that the search can stop early.
    alike.sort(key=lambda view: abs(_long(view.features) - _long(features)))
    tried: list[tuple[int, Known, Alignment]] = []
    settled = ""
    for view in alike:
        # Left and right look much alike from above: both are tried before the search stops.
        if settled and view.kind != settled:
            continue
        found = by_features(view.features, features)
        if found:
            tried.append((found.matches, view, found))
            if found.matches >= BEYOND_DOUBT:
                settled = settled or view.kind
    other = None if settled or mirrored_too is None else _other_foot(mirrored_too(), alike)
    if other and other[0] >= CLEARLY * max((entry[0] for entry in tried), default=0):
        return Guess(other[1].key, "mirror", other[2], ultraviolet)
    if tried:
        tried.sort(key=lambda entry: entry[0], reverse=True)
        second = tried[1][0] if len(tried) > 1 else 0
        sure = tried[0][0] >= max(FEWEST_TO_SORT, CLEARLY * second)
        return Guess(tried[0][1].key, "features", tried[0][2], ultraviolet) if sure else _unsure(ultraviolet)
    return _by_outline(features, alike, ultraviolet=ultraviolet)


def _other_foot(turned: Features, alike: list[Known]) -> tuple[int, Known, Alignment] | None:
    """The best fit of the mirror image to a view of which the other foot is not known."""
    kinds = [view.kind for view in alike]
    found = [
        (laid.matches, view, laid)
        for view in alike
        if kinds.count(view.kind) == 1 and (laid := by_features(view.features, turned, mirror=True))
    ]
    return max(found, key=lambda entry: entry[0], default=None)


def _by_outline(features: Features, alike: list[Known], *, ultraviolet: bool) -> Guess:
    """By outline alone: a mirror image and every other view must be clearly worse."""
    if not len(features.outline):
        return _unsure(ultraviolet)
    extent = float(np.ptp(features.outline, axis=0).max())
    laid, long = [], _elongation(features.outline)
    for view in alike:
        if abs(np.log(_elongation(view.features.outline) / long)) > UNLIKE:
            continue
        for turned in (False, True):
            found = by_outline(mirrored(view.features) if turned else view.features, features)
            if found:
                laid.append((found.error_px, turned, view, found))
    laid.sort(key=lambda entry: entry[0])
    if not laid or laid[0][1] or laid[0][0] > OUTLINE_AGREES * extent:
        return _unsure(ultraviolet)
    if len(laid) > 1 and laid[1][0] < CLEARLY * laid[0][0]:
        return _unsure(ultraviolet)
    return Guess(laid[0][2].key, "outline", laid[0][3], ultraviolet)


def _elongation(outline: np.ndarray) -> float:
    """How much further a loop's places scatter along than across, however it is turned."""
    if len(outline) < 3:
        return np.inf
    across, along = np.sqrt(np.linalg.eigvalsh(np.cov(outline.T)).clip(1e-9))
    return float(along / across)


def _unsure(ultraviolet: bool) -> Guess:  # noqa: FBT001 - private
    return Guess(None, "nothing", None, ultraviolet)


def _long(features: Features) -> float:
    if not len(features.outline):
        return 0.0
    width, height = np.ptp(features.outline, axis=0)
    return float(np.log((width + 1) / (height + 1)))
