"""One comparison out of several: what is typical of how a thing compares with each of the verified pairs'."""

from collections.abc import Sequence
from types import MappingProxyType

import numpy as np

from assay.contracts import Comparison


def typical(comparisons: Sequence[Comparison]) -> Comparison:
    """The median of every number that all of them have; the drawing of the one in the middle by its first number.

    >>> three = [Comparison({"apart_mm": x}) for x in (0.2, 0.9, 0.3)]
    >>> dict(typical(three).parts)
    {'apart_mm': 0.3}
    """
    first = next(iter(comparisons[0].parts))
    middle = sorted(comparisons, key=lambda comparison: abs(comparison.parts[first]))[len(comparisons) // 2]
    shared = [name for name in middle.parts if all(name in comparison.parts for comparison in comparisons)]
    medians = {name: float(np.median([comparison.parts[name] for comparison in comparisons])) for name in shared}
    return Comparison(MappingProxyType(medians), middle.overlay)
