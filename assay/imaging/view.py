"""Which view of the shoe is this? Sorts a photograph by colour, by what it has in common with known views, by outline.

Method: ultraviolet light first (almost everything violet); then the alignment with each known view of the release: most
agreeing features win, if clearly; then the outlines. A guess says how sure it is; an unsure one is left to a person.
"""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

import cv2
import numpy as np

from assay.errors import CannotAlign
from assay.imaging.pyramid import Pyramid
from assay.register.affine import OUTLINE_AGREES, Alignment, by_appearance, by_features, by_outlines
from assay.register.features import Features, mirrored
from assay.register.matching import prefilter_score

# Share of the picture that is violet or blue and saturated before it was taken in ultraviolet light; and how many
# pixels of its shorter side are looked at.
VIOLET_SHARE = 0.7
SAMPLES = 120
# From and to which hue (halves of a degree), saturation and value.
VIOLET = ((105, 91, 0), (160, 255, 255))
# The best view must have so many times the matches of the second best.
CLEARLY = 1.5
# Fewer matches than this decide no view, even alone.
FEWEST_TO_SORT = 24
# Outlines of which one is so much longer for its width (log) do not lie on each other.
UNLIKE = 0.25
# So many matches, and neither another kind of view nor the mirror image is tried.
BEYOND_DOUBT = 30
# Of the views known, so many kinds are matched in full: the right one scored most or second most on all 49 tried.
MOST_TRIED = 2
# What one of two sides alone explains must lean to it by so many standard deviations of a fair coin (McNemar's test).
SIDE_CLEARLY = 2.0


Place = tuple[str, str]


@dataclass(frozen=True, slots=True)
class KnownView:
    """A view that is known, from a retail pair."""

    key: Place
    """Kind of photograph and foot; the foot is empty where there is no left and right."""
    kind: str
    """What left and right have in common: the same for both."""
    ultraviolet: bool
    two_feet: bool
    """There is such a view of the other foot."""
    features: Features
    close_up: bool = False
    """A part fills the picture: it is known by where panels meet in it."""
    side: bool = False
    """An outer or inner side: the inner side of one shoe looks much like the outer side of the other."""


@dataclass(frozen=True, slots=True)
class Guess:
    """What a photograph seems to show."""

    key: Place | None
    """None: not sure enough."""
    how: str
    """``features``, ``mirror`` (the other foot of the view ``key`` names), ``outline``, ``appearance``, ``nothing``."""
    alignment: Alignment | None
    ultraviolet: bool
    between: tuple[tuple[Place, bool], ...] = ()
    """Where two views or more explain it almost equally: their keys, best first; True: the other foot of that view."""


@dataclass(frozen=True, slots=True)
class _Fit:
    """A photograph laid on one side of the shoe; ``mirror``: as a mirror shows it, so on the other foot's."""

    view: KnownView
    mirror: bool
    alignment: Alignment
    explains: frozenset[tuple[int, int]]
    """Which of the photograph's features it explains."""


def is_ultraviolet(pyramid: Pyramid) -> bool:
    """Whether the picture was taken in ultraviolet light."""
    step = max(1, min(pyramid.quarter.shape[:2]) // SAMPLES)
    small = np.ascontiguousarray(pyramid.quarter[::step, ::step])
    violet = cv2.inRange(cv2.cvtColor(small, cv2.COLOR_RGB2HSV), *VIOLET)
    return cv2.countNonZero(violet) > VIOLET_SHARE * violet.size


def sort_view(
    pyramid: Pyramid,
    features: Features,
    known: list[KnownView],
    mirrored_too: Callable[[], Features] | None = None,
    said: Place | None = None,
) -> Guess:
    """The known view that the photograph shows.

    ``said``: the key of a close-up that a person named. If the picture can be laid on that one, it is that one:
    close-ups of one place, brushed two ways, cannot be told apart by how they look.

    ``mirrored_too`` gives the photograph's features as a mirror shows them: asked for where no view is clear, and tried
    against views that are known of one foot alone.
    """
    ultraviolet = is_ultraviolet(pyramid)
    close_ups = [view for view in known if view.ultraviolet == ultraviolet and view.close_up]
    named = _close_up(features, [view for view in close_ups if view.key == said], ultraviolet=ultraviolet)
    if named:
        return named
    alike = [view for view in known if view.ultraviolet == ultraviolet and not view.close_up]
    tried = _tried(features, alike)
    if tried and tried[0][1].side and tried[0][0] >= FEWEST_TO_SORT:
        return _which_side(features, [view for view in alike if view.side], mirrored_too, said, ultraviolet=ultraviolet)
    most, second = ([matches for matches, *_ in tried] + [0, 0])[:2]
    sure = most >= max(FEWEST_TO_SORT, CLEARLY * second)
    # An emblem reads the same on both feet.
    doubtful = not sure or (most < BEYOND_DOUBT and tried[0][1].two_feet)
    other = _other_foot(mirrored_too(), alike) if mirrored_too and doubtful else None
    if other and other[0] >= CLEARLY * most:
        return Guess(other[1].key, "mirror", other[2], ultraviolet)
    if sure:
        return Guess(tried[0][1].key, "features", tried[0][2], ultraviolet)
    close = _close_up(features, close_ups, ultraviolet=ultraviolet)
    return close or (_unsure(ultraviolet) if tried else _by_outline(features, alike, ultraviolet=ultraviolet))


def _which_side(
    features: Features,
    sides: list[KnownView],
    mirrored_too: Callable[[], Features] | None,
    said: Place | None,
    *,
    ultraviolet: bool,
) -> Guess:
    """Which of the sides, those included that are known by the other foot's mirror image; ``between`` where two explain
    the photograph almost equally."""
    kinds = [view.kind for view in sides]
    alone = [view for view in sides if view.two_feet and kinds.count(view.kind) == 1]
    fits = [_fit(view, features, mirror=False) for view in sides]
    if mirrored_too and alone:
        turned = mirrored_too()
        fits += [_fit(view, turned, mirror=True) for view in alone]
    known = [fit for fit in fits if fit]
    known.sort(key=lambda fit: -len(fit.explains))
    named = [fit for fit in known if fit.view.key == said and not fit.mirror]
    best = (named or known)[0]
    rivals = [] if named else [fit for fit in known[1:] if not _clearly(best, fit)]
    if rivals:
        between = tuple((fit.view.key, fit.mirror) for fit in (best, *rivals))
        return Guess(None, "nothing", None, ultraviolet, between)
    return Guess(best.view.key, "mirror" if best.mirror else "features", best.alignment, ultraviolet)


def _fit(view: KnownView, features: Features, *, mirror: bool) -> _Fit | None:
    found = by_features(view.features, features, mirror=mirror)
    if found is None:
        return None
    ours, missed = found.anchors[:, :2], found.anchors[:, 2:]
    explained = ours @ found.matrix[:, :2].T + found.matrix[:, 2] + missed
    return _Fit(view, mirror, found, frozenset(map(tuple, np.round(explained).astype(int).tolist())))


def _clearly(best: _Fit, rival: _Fit) -> bool:
    """Whether the best explains significantly more of what only one of the two does."""
    ours, theirs = len(best.explains - rival.explains), len(rival.explains - best.explains)
    return ours - theirs >= SIDE_CLEARLY * np.sqrt(max(ours + theirs, 1))


def _tried(
    features: Features, views: list[KnownView], *, mirror: bool = False
) -> list[tuple[int, KnownView, Alignment]]:
    """(matches, view, alignment) of those that fit, most matches first: the kinds that prefilter_score most are tried.

    Left and right look much alike from above: where one is tried, so is the other.
    """
    scored = prefilter_score([view.features.descriptors for view in views], features.descriptors)
    kinds = dict.fromkeys(views[n].kind for n in np.argsort(scored, kind="stable")[::-1])
    tried: list[tuple[int, KnownView, Alignment]] = []
    for kind in list(kinds)[:MOST_TRIED]:
        laid = [(v, by_features(v.features, features, mirror=mirror)) for v in views if v.kind == kind]
        tried += [(found.matches, view, found) for view, found in laid if found]
        if any(matches >= BEYOND_DOUBT for matches, *_ in tried):
            break
    return sorted(tried, key=lambda one: -one[0])


def _other_foot(turned: Features, alike: list[KnownView]) -> tuple[int, KnownView, Alignment] | None:
    """The best fit of the mirror image to a view of which the other foot is not known."""
    kinds = [view.kind for view in alike]
    single = [view for view in alike if kinds.count(view.kind) == 1]
    return next(iter(_tried(turned, single, mirror=True)), None)


def _close_up(features: Features, close_ups: list[KnownView], *, ultraviolet: bool) -> Guess | None:
    """The one close-up that the picture can be laid on; None where there are two or none."""
    laid = []
    for view in close_ups:
        with suppress(CannotAlign):
            laid.append((view.key, by_appearance(view.features, features)))
    return Guess(laid[0][0], "appearance", laid[0][1], ultraviolet) if len(laid) == 1 else None


def _by_outline(features: Features, alike: list[KnownView], *, ultraviolet: bool) -> Guess:
    """By outline alone: a mirror image and every other view must be clearly worse."""
    if not len(features.outline):
        return _unsure(ultraviolet)
    extent = float(np.ptp(features.outline, axis=0).max())
    long = _elongation(features.outline)
    near = [view for view in alike if abs(np.log(_elongation(view.features.outline) / long)) <= UNLIKE]
    shapes = [(view, turned) for view in near for turned in (False, True)]
    found = by_outlines([mirrored(view.features) if turned else view.features for view, turned in shapes], features)
    laid = [(one.error_px, turned, view, one) for (view, turned), one in zip(shapes, found, strict=True) if one]
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
