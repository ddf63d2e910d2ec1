"""Two cut edges: which layer of theirs is missing in ours, which of ours they have not, by colour and order."""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np

from assay.compare.comparing import Comparing
from assay.contracts import Comparison, Descriptor, Light
from assay.errors import CannotJudge
from assay.imaging.colour import de00

KIND = "layers"
U_COUNT = 0.2
"""Standard uncertainty of how many layers are missing or extra: that of counting them, drawn layers."""
U_APART = 1.5
"""Standard uncertainty of how far layers of thin bands lie apart, dE00: blur mixes neighbours. Assumed."""
GAP = 14.0
"""What leaving a layer out costs, in CIELAB units: two layers that differ by more are not the same one."""


def compare(theirs: Descriptor, ours: Descriptor) -> Comparison:
    """Align two sequences of layers. ``values``: (N, 3) CIELAB, outside in.

    Parts: ``missing`` and ``extra`` (layers), ``apart_dE00``, the median difference of those that correspond, and for
    every layer that is missing or extra its number, ``missing_1`` …, counted from outside, 1 the first. Raises
    CannotJudge ``no_true_colour`` where the light of one of the pictures is not known.
    """
    if theirs.light is not Light.CARD or ours.light is not Light.CARD:
        raise CannotJudge("no_true_colour")
    pairs, lost, extra = aligned(theirs.values, ours.values)
    apart = [de00(theirs.values[i], ours.values[j]) for i, j in pairs]
    parts = {"missing": float(len(lost)), "missing_uncertainty": U_COUNT}
    parts |= {"extra": float(len(extra)), "extra_uncertainty": U_COUNT}
    parts |= {"apart_dE00": float(np.median(apart)), "apart_dE00_uncertainty": U_APART} if apart else {}
    parts |= {f"missing_{n}": float(i + 1) for n, i in enumerate(lost, start=1)}
    parts |= {f"extra_{n}": float(j + 1) for n, j in enumerate(extra, start=1)}
    return Comparison(MappingProxyType(parts))


def mirrored(descriptor: Descriptor) -> Descriptor:
    """Layers run from outside in on either foot."""
    return descriptor


def aligned(
    theirs: Sequence[Sequence[float]] | np.ndarray, ours: Sequence[Sequence[float]] | np.ndarray
) -> tuple[list[tuple[int, int]], list[int], list[int]]:
    """Which layers correspond, which of theirs have no partner in ours, and which of ours none in theirs.

    Layers are CIELAB colours, outside in. Alignment of two sequences (Needleman & Wunsch, J. Mol. Biology 48, 1970); a
    gap costs ``GAP``.

    >>> aligned([(90, 0, 0), (40, 20, 20), (20, 0, 0)], [(88, 1, 0), (22, 0, 1)])
    ([(0, 0), (2, 1)], [1], [])
    """
    cost = np.zeros((len(theirs) + 1, len(ours) + 1))
    cost[:, 0], cost[0] = GAP * np.arange(len(theirs) + 1), GAP * np.arange(len(ours) + 1)
    apart = np.linalg.norm(np.asarray(theirs, float)[:, None] - np.asarray(ours, float)[None], axis=2)
    for i in range(1, len(theirs) + 1):
        for j in range(1, len(ours) + 1):
            cost[i, j] = min(cost[i - 1, j - 1] + apart[i - 1, j - 1], cost[i - 1, j] + GAP, cost[i, j - 1] + GAP)
    i, j, pairs, lost, extra = len(theirs), len(ours), [], [], []
    while i or j:
        if i and j and np.isclose(cost[i, j], cost[i - 1, j - 1] + apart[i - 1, j - 1]):
            i, j = i - 1, j - 1
            pairs.append((i, j))
        elif i and np.isclose(cost[i, j], cost[i - 1, j] + GAP):
            i -= 1
            lost.append(i)
        else:
            j -= 1
            extra.append(j)
    return pairs[::-1], lost[::-1], extra[::-1]


COMPARING = Comparing(
    KIND,
    compare,
    mirrored,
    {"missing": "count", "extra": "count", "apart_dE00": "dE00"},
    magnitudes=frozenset({"apart_dE00"}),
    # As colours of larger parts, and what blur mixes into thin bands. Assumed.
    floors={"apart_dE00": 1.5},
    typical={"apart_dE00": 2.0},
)
