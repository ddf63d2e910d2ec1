"""How far two people agree beyond chance."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

Z95 = 1.959963984540054


@dataclass(frozen=True, slots=True)
class Kappa:
    """Cohen's kappa with its 95 % interval."""

    value: float
    low: float
    high: float
    of: int


def kappa(pairs: Sequence[tuple[str, str]]) -> Kappa | None:
    """Cohen's kappa of two people's words on the same things; None where chance alone would agree always.

    Cohen, Educational and Psychological Measurement 20 (1960); standard error after Fleiss, Cohen & Everitt,
    Psychological Bulletin 72 (1969).

    >>> table = [("a", "a")] * 20 + [("a", "b")] * 5 + [("b", "a")] * 10 + [("b", "b")] * 15
    >>> round(kappa(table).value, 6)
    0.4
    """
    of = len(pairs)
    if not of:
        return None
    kinds = sorted({word for pair in pairs for word in pair})
    share = {(a, b): sum(pair == (a, b) for pair in pairs) / of for a in kinds for b in kinds}
    ours = {a: math.fsum(share[a, b] for b in kinds) for a in kinds}
    theirs = {b: math.fsum(share[a, b] for a in kinds) for b in kinds}
    seen, chance = math.fsum(share[a, a] for a in kinds), math.fsum(ours[a] * theirs[a] for a in kinds)
    if chance >= 1:
        return None
    value = (seen - chance) / (1 - chance)
    agreeing = math.fsum(share[a, a] * ((1 - chance) - (ours[a] + theirs[a]) * (1 - seen)) ** 2 for a in kinds)
    differing = (1 - seen) ** 2 * math.fsum(
        share[a, b] * (theirs[a] + ours[b]) ** 2 for a in kinds for b in kinds if a != b
    )
    rest = (seen * chance - 2 * chance + seen) ** 2
    error = math.sqrt(max(0.0, (agreeing + differing - rest) / (of * (1 - chance) ** 4)))
    return Kappa(value, max(-1.0, value - Z95 * error), min(1.0, value + Z95 * error), of)
