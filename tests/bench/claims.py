"""Do lengths' standard uncertainties hold? Of what the other tables measured: how much lies within one and within two.

Of a normal error 68 % lie within one standard uncertainty and 95 % within two.
"""

from collections import defaultdict
from collections.abc import Iterable

import numpy as np

_TOLD: dict[str, list[tuple[float, float]]] = defaultdict(list)


def told(name: str, pairs: Iterable[tuple[float, float | None]]) -> None:
    """(how far off, what was claimed) of one kind of length; without a claim it is left out."""
    _TOLD[name] += [(off, claimed) for off, claimed in pairs if claimed]


def main() -> None:
    """Print the table of all that was told, every difficulty together."""
    print("\nlengths, drawn on textures:   of  within u  within 2u  median |off| / u")
    for name, pairs in _TOLD.items():
        if pairs:
            share = np.array([off / claimed for off, claimed in pairs])
            within = f"{(share <= 1).mean():9.2f} {(share <= 2).mean():10.2f}"
            print(f"{name:28} {len(share):4} {within} {np.median(share):17.2f}")
