"""How two descriptors of one kind are compared: what every file of this folder offers as ``COMPARING``."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from assay.contracts import Comparison, Descriptor


@dataclass(frozen=True, slots=True)
class Comparing:
    """How a measure whose readings are things (a contour, a pattern) gets its numbers: by comparing two of them."""

    kind: str
    """Of the descriptors that it takes."""
    compare: Callable[[Descriptor, Descriptor], Comparison]
    """Theirs (a verified pair's), ours. Raises CannotJudge where the two cannot be compared, CannotAlign where they
    have too little in common."""
    mirrored: Callable[[Descriptor], Descriptor]
    """The other foot's, as a mirror shows it."""
    parts: Mapping[str, str]
    """Numbers that come of it, and their units."""
    sometimes: frozenset[str] = frozenset()
    """Those of them that are only there where there is such a thing."""
    magnitudes: frozenset[str] = frozenset()
    """Those that are distances: the less, the more alike; never negative."""
    floors: Mapping[str, float] = field(default_factory=dict)
    """By number, what retail pairs of this kind scatter by at least, in its unit: practice materials."""
    typical: Mapping[str, float] = field(default_factory=dict)
    """By magnitude, what two retail pairs of this kind typically lie apart: practice materials."""
