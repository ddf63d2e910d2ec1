"""Readings that match one verified pair more closely than verified pairs match each other: is it that pair again?

A pair's own photographs sent once more, cut or compressed anew, read as the pair does; another retail pair does not.
The medians of distances are compared, so that a few odd lengths change nothing.
"""

from collections.abc import Mapping
from itertools import combinations
from statistics import median

FEWEST = 15
"""Lengths that both must have."""
SHARE = 0.25
"""So much of the least distance of two verified pairs. Drawn normally, 2 genuine pairs in 1,000 are that near with
fifteen lengths and two verified pairs, fewer with more; no other source."""


def too_alike(
    lengths: Mapping[str, float], retail: Mapping[str, Mapping[str, float]], scales: Mapping[str, float]
) -> str:
    """The verified pair that a pair's ``lengths``, by check, are too much like; empty: none, or too few to say.

    ``retail``: by pair, its lengths by check; ``scales``: by check, what retail pairs scatter by, in the same unit.

    >>> scales = {f"c{n}": 1.0 for n in range(15)}
    >>> retail = {"R1": {key: 0.0 for key in scales}, "R2": {key: 0.8 for key in scales}}
    >>> [too_alike({key: value for key in scales}, retail, scales) for value in (0.05, 0.4)]
    ['R1', '']
    """
    apart = [_apart(one, other, scales) for one, other in combinations(retail.values(), 2)]
    known = [distance for distance in apart if distance is not None]
    if not known:
        return ""
    near = {label: _apart(lengths, own, scales) for label, own in retail.items()}
    told = {label: distance for label, distance in near.items() if distance is not None}
    label = min(told, key=lambda one: told[one], default="")
    return label if label and told[label] < SHARE * min(known) else ""


def _apart(one: Mapping[str, float], other: Mapping[str, float], scales: Mapping[str, float]) -> float | None:
    """Median distance of what both have; None of too few."""
    both = [abs(one[key] - other[key]) / scales[key] for key in scales if key in one and key in other]
    return median(both) if len(both) >= FEWEST else None
