"""How much each finding speaks for retail or for a copy, in decibans, and how it all adds up.

Weight of evidence is 10·log10 of p(reading | retail) over p(reading | copy) (Good, Probability and the Weighing of
Evidence, 1950; decibans after Turing). Positive speaks for retail, negative for a copy, everywhere.

A copy is of one of the known batches, or of none that is known. An unknown copy is rough, middling or close, and is
that at every check: a hundred checks that agree rule out the rough ones and leave the close ones, so they do not add up
without end. **Batches are joint**, too: a copy of a batch has all of its habits. Known batches may only add to what
speaks for a copy: the total rests on the unknown copy, or half on it and half on the batch that explains all of the
findings best, whichever speaks less for retail. So a batch that this pair is surely not of changes nothing, nor does
one known twice. Each finding's piece is what the running total moves by when it is taken in, in working order: the
pieces add up to the total exactly (the chain rule; Wald, Sequential Analysis, 1947). Within a group of one part or
cause the strongest counts in full, the next half, the next a quarter, each sign by itself; of two numbers and their
difference only two count. On either side every finding
is capped: a sign that is cheap to repair, a worn pair, a photograph alone, an unsure reading say less. By itself a
finding that agrees never speaks against retail, and one that departs never for it.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from assay.errors import CannotJudge
from assay.judge import assumptions
from assay.judge.assumptions import CopyLevel
from assay.judge.common_causes import Densities, given_others, log_densities
from assay.judge.copy_model import (
    MIDDLING,
    UNKNOWN,
    by_level,
    checked_shares,
    even_shares,
    telling_batches,
)
from assay.judge.evidence import EvidenceItem, caps
from assay.judge.grade import AGREES_FROM, DRIFTS_FROM
from assay.judge.judgement import spread_of

NOTHING = 1e-6
"""Decibans that are none: what rounding leaves."""
SAME = 9
"""Decimals of a deciban to which two weights are one: a tie goes by the key."""
DECIBANS = 10 / math.log(10)
"""One natural unit of log likelihood, in decibans."""


@dataclass(frozen=True, slots=True)
class LikelihoodRatio:
    """A weight with its sign spelled out."""

    log10: float
    for_: str = "retail"
    against: str = "copy"

    @property
    def decibans(self) -> float:
        """Ten times the logarithm.

        >>> LikelihoodRatio(2.0).decibans
        20.0
        """
        return 10 * self.log10


@dataclass(frozen=True, slots=True)
class Weighed:
    """One finding's weight."""

    key: str
    group: str
    alone: float
    """Decibans by itself, against the mixture of copies, capped."""
    factor: float
    """1, ½, ¼ … by its place in its group."""
    piece: float
    """What the running total moved by, in working order: the pieces add up to the total."""
    effect: float
    """What the total would lose without it, in whatever order; never on the side that its grade rules out."""
    running: float
    against: Mapping[str, float]
    """Discounted decibans against every single copy, before caps."""


@dataclass(frozen=True, slots=True)
class Balance:
    """All of it."""

    pieces: tuple[Weighed, ...]
    total: float
    """Decibans."""
    batches: Mapping[str, float]
    """If it is a copy: the probability of every batch, and of none that is known."""
    copies: Mapping[str, float]
    """The same with the unknown copy by how well it is made."""

    groups: Mapping[str, float]
    """By group what the total would lose without it."""
    densities: Densities | None = field(default=None, repr=False, compare=False)
    """What it was weighed from."""

    @property
    def ratio(self) -> LikelihoodRatio:
        """The total as a likelihood ratio."""
        return LikelihoodRatio(self.total / 10)


def weigh(
    signs: Sequence[EvidenceItem],
    shares: Mapping[str, float] | None = None,
    levels: Mapping[CopyLevel, float] | None = None,
    known: Densities | None = None,
) -> Balance:
    """Weigh findings in working order.

    ``shares``: prior probability of every batch and ``UNKNOWN``, given a copy; without it
    ``copy_model.SHARE_OF_UNKNOWN`` and the rest evenly. ``levels``: of an unknown copy by how well it is made.
    ``known``: densities from before, used again for findings that did not change. Findings without a value are left
    out, and so are batches that no check tells from retail. Raises CannotJudge ``check_twice``, ``bad_share`` and
    what ``EvidenceItem.checked`` raises.

    >>> from assay.judge.judgement import Kind, Prior
    >>> retail = {"kind": Kind.COUNT, "retail": [7, 7, 7], "prior": Prior(2, off_by_one=0.002)}
    >>> one = EvidenceItem(key="a", group="g", value=7, **retail)
    >>> two = EvidenceItem(key="b", group="h", value=5, **retail)
    >>> balance = weigh([one, two])
    >>> [round(piece.piece, 1) for piece in balance.pieces], round(balance.total, 1)
    ([1.7, -14.9], -13.3)
    """
    keys = [sign.checked().key for sign in signs]
    if len(set(keys)) < len(keys):
        raise CannotJudge("check_twice", check=next(key for key in keys if keys.count(key) > 1))
    read = [sign for sign in signs if sign.value is not None]
    batches = telling_batches(signs)
    prior = by_level(checked_shares(shares) if shares else even_shares(batches), levels)
    names, columns = list(prior), _Columns(prior)
    told = log_densities(read, prior, known)
    # Which of a group counts in full is told by each reading alone; what it then says, by the pair's others as well.
    factors = np.array(_factors(read, columns.any(_bounded(read, _against(told, None), names, levels)).tolist()))
    free = _against(told, factors.tolist())
    singles = _bounded(read, free, names, levels)
    alone, parts = columns.any(singles), factors[:, None] * singles
    steps = np.vstack([np.zeros(len(names)), np.cumsum(parts, axis=0)])
    totals, every = columns.any(steps), steps[-1]
    effects = totals[-1] - columns.any(every - parts)
    pieces = [
        Weighed(
            key=sign.key,
            group=sign.group,
            alone=float(alone[n]),
            factor=float(factors[n]),
            piece=float(totals[n + 1] - totals[n]),
            effect=_on_side(float(effects[n]), float(alone[n])),
            running=float(totals[n + 1]),
            against=dict(zip(names, (factors[n] * free[n]).tolist(), strict=True)),
        )
        for n, sign in enumerate(read)
    ]
    members: dict[str, list[int]] = {}
    for n, sign in enumerate(read):
        members.setdefault(sign.group, []).append(n)
    groups = {
        group: float(totals[-1] - columns.any((every - parts[own].sum(0))[None])[0]) for group, own in members.items()
    }
    # Caps bound what speaks for retail or a copy; which copy it would be is told by all that was read.
    copies = _posterior(dict(zip(names, (factors @ free).tolist(), strict=True)), prior)
    unknown = math.fsum(share for name, share in copies.items() if name.startswith(UNKNOWN))
    named = {name: copies[name] for name in copies if not name.startswith(UNKNOWN)}
    return Balance(tuple(pieces), float(totals[-1]), {**named, UNKNOWN: unknown}, copies, groups, told)


def _on_side(effect: float, alone: float) -> float:
    """An effect as far as it lies on the side of what the finding says alone; of one that says nothing, nothing."""
    if abs(alone) < NOTHING:
        return 0.0
    return max(0.0, effect) if alone > 0 else min(0.0, effect)


def _against(told: Densities, worth: Sequence[float] | None) -> np.ndarray:
    """(findings, copies) decibans of retail against every single copy, before caps; each finding by itself, or given
    the others as far as these are ``worth``."""
    given = given_others(told, [0.0] * len(told.photos) if worth is None else worth)
    return DECIBANS * (given[:, :1] - given[:, 1:])


def _bounded(
    signs: Sequence[EvidenceItem],
    against: np.ndarray,
    names: Sequence[str],
    levels: Mapping[CopyLevel, float] | None,
) -> np.ndarray:
    """The same within each finding's caps and on the side that its grade allows: all copies are moved alike, so that
    which of them it would be is told as before."""
    if not signs:
        return against
    up, down = np.array([caps(sign) for sign in signs]).T
    capped = np.clip(against, -down[:, None], up[:, None])
    shares = by_level(even_shares([name for name in names if not name.startswith(UNKNOWN)]), levels)
    alone = _Columns({name: shares[name] for name in names}).any(capped)
    tail = np.array([_tail_probability(sign) for sign in signs])
    capped[(alone < 0) & (tail >= AGREES_FROM)] = np.maximum(capped, 0)[(alone < 0) & (tail >= AGREES_FROM)]
    capped[(alone > 0) & (tail < DRIFTS_FROM)] = np.minimum(capped, 0)[(alone > 0) & (tail < DRIFTS_FROM)]
    return capped


def _tail_probability(sign: EvidenceItem) -> float:
    known = spread_of(sign.kind, sign.retail, sign.prior, sign.uncertainty, sign.retail_uncertainty)
    return known.tail_probability(sign.value)


class _Columns:
    """Copies by column, with their shares: unknown ones by how well they are made, then known batches."""

    def __init__(self, shares: Mapping[str, float]) -> None:
        self._unknown = np.array([name.startswith(UNKNOWN) and share > 0 for name, share in shares.items()])
        self._batches = np.array([not name.startswith(UNKNOWN) for name in shares])
        own = np.array(list(shares.values()))[self._unknown]
        self._logs = np.log(own)
        self._full = np.logaddexp.reduce(self._logs)

    def any(self, against: np.ndarray) -> np.ndarray:
        """(rows,) of ``against`` (rows, copies), decibans: retail against a copy of whatever kind, as ``against_any``
        has it."""
        mixture = np.logaddexp.reduce(self._logs - against[:, self._unknown] / DECIBANS, axis=1)
        total = DECIBANS * (self._full - mixture)
        if not self._batches.any():
            return total
        best = against[:, self._batches].min(1)
        both = -DECIBANS * (np.logaddexp(-best / DECIBANS, -total / DECIBANS) - math.log(2))
        return np.where(best >= total, total, both)


def against_any(against: Mapping[str, float], shares: Mapping[str, float]) -> float:
    """Decibans of retail against a copy of whatever kind: against the mixture of unknown ones, or half that and half
    the best batch, whichever is less.

    >>> round(against_any({"unknown, middling": 12.0, "far": 90.0}, {"unknown, middling": 0.5, "far": 0.5}), 9)
    12.0
    """
    return float(_Columns(shares).any(np.array([[against[name] for name in shares]]))[0])


def _posterior(against: Mapping[str, float], prior: Mapping[str, float]) -> dict[str, float]:
    top = max(-value / 10 for name, value in against.items() if prior.get(name, 0.0) > 0)
    likely = {name: prior.get(name, 0.0) * 10 ** (-value / 10 - top) for name, value in against.items()}
    full = math.fsum(likely.values())
    return {name: value / full for name, value in likely.items()}


def _factors(signs: Sequence[EvidenceItem], alone: Sequence[float]) -> list[float]:
    """1, ½, ¼ … within a group, from the strongest of either sign down; of one source the strongest alone, and of two
    numbers and their difference the two strongest."""
    strongest_first = sorted(range(len(signs)), key=lambda n: (-round(abs(alone[n]), SAME), signs[n].key))
    implied = _implied(signs, strongest_first)
    places: dict[tuple[str, bool], list[int]] = {}
    for n in strongest_first:
        if n not in implied:
            places.setdefault((signs[n].group, alone[n] >= 0), []).append(n)
    factors = [0.0] * len(signs)
    for members in places.values():
        place, sources = 0, set()
        for n in members:
            if signs[n].source and signs[n].source in sources:
                continue
            sources.add(signs[n].source)
            factors[n] = assumptions.FALLING**place
            place += 1
    return factors


def _implied(signs: Sequence[EvidenceItem], strongest_first: Sequence[int]) -> set[int]:
    """Places of what follows from two others: the weakest of two numbers and their difference."""
    place = {sign.key: n for n, sign in enumerate(signs)}
    implied: set[int] = set()
    for n, sign in enumerate(signs):
        three = {n, *(place[key] for key in sign.made_of if key in place)}
        if len(three) > len(sign.made_of) > 0:
            implied.add(next(m for m in reversed(strongest_first) if m in three))
    return implied


def telling(balance: Balance, batch: str, most: int = 4) -> list[str]:
    """Keys of the findings that speak most for one batch against an unknown copy."""
    gains = [
        (piece.against[MIDDLING] - piece.against[batch], piece.key)
        for piece in balance.pieces
        if batch in piece.against
    ]
    return [key for gain, key in sorted(gains, reverse=True)[:most] if gain > 1]
