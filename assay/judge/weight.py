"""How much each finding speaks for retail or for a copy, in decibans, and how it all adds up.

Weight of evidence is 10·log10 of p(reading | retail) over p(reading | copy) (Good, Probability and the Weighing of
Evidence, 1950; decibans after Turing). Positive speaks for retail, negative for a copy, everywhere.

A copy is of one of the known batches, or of none that is known. **Batches are joint**: a copy of a batch has all of
its habits, so that the total is p(all | retail) over the mixture of p(all | batch). Each finding's piece is what the
running total moves by when it is taken in, in working order: the pieces add up to the total exactly (the chain rule;
Wald, Sequential Analysis, 1947). Within a group of one part or cause the strongest counts whole, the next half, the
next a quarter, each sign by itself. On either side every finding is capped: a sign that is cheap to repair, a worn
pair, a photograph alone, an unsure reading say less.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from assay.errors import CannotJudge
from assay.judge import spread
from assay.judge.judgement import Kind, Prior, spread_of

UNKNOWN = "unknown"
"""The copy that is of no known batch."""
WIDER = 4.0
"""κ: an unknown copy's readings scatter so many times as wide as retail's, where nothing was learned. Made up."""
WIDER_WORTH = 4.0
"""How many batches that belief is worth."""
UNKNOWN_DOF = 3.0
RIGHT = 0.75
"""How often a copy gets a count or an answer right, where nothing was learned. Made up."""
RIGHT_WORTH = 4.0
COPY_SLIPS = 0.3
"""How often a copy's print or packing slips at one place. Made up."""
RETAIL_SLIPS = 0.01
STEP_DOWN = 0.5
"""The rest of an unknown copy's counts falls off by this from neighbour to neighbour."""
FURTHEST = 6
CAP_FOR, CAP_AGAINST = 6.0, 15.0
DECISIVE_AGAINST = 30.0
PAPER_FOR, PAPER_AGAINST = 2.0, 12.0
ONE_WAY_AGAINST = 12.0
"""Caps, decibans: agreeing is cheap to copy, so it says less. Made up, as common practice has it: no source."""
LESS = {"photo_only": 0.8, "worn": 0.7, "unsure": 0.5, "unfit_photo": 0.5}
"""What lowers a cap, and by which factor."""
FALLING = 0.5
"""Of one group the second strongest sign counts half, the third a quarter."""
FLOOR = 1e-12
SHARE_OF_UNKNOWN = 0.5
"""How likely a copy is of no known batch, before anything is seen; the batches share the rest."""


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """One finding, as the weighing takes it. Plain numbers."""

    key: str
    group: str
    kind: Kind
    value: float | int | str | None
    """What it reads; of print and packing how often retail is like this. None: not compared."""
    uncertainty: float = 0.0
    retail: Sequence[float | int | str] = ()
    prior: Prior = field(default_factory=Prior)
    batches: Mapping[str, Sequence[float | int | str]] = field(default_factory=dict)
    """What known copies read, by batch; a batch without a reading is taken for unknown there."""
    copies: Mapping[str, float] = field(default_factory=dict)
    """ANSWER: how often copies give each, where that is believed."""
    wider: float = WIDER
    """κ."""
    right: float = RIGHT
    cap_for: float = CAP_FOR
    cap_against: float = CAP_AGAINST
    lessened: tuple[str, ...] = ()
    """Why its caps are lower: keys of ``LESS``."""
    minutes: float = 0.5


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
    """What the running total moved by."""
    running: float
    against: Mapping[str, float]
    """Capped, discounted decibans against every single copy."""


@dataclass(frozen=True, slots=True)
class Balance:
    """All of it."""

    pieces: tuple[Weighed, ...]
    total: float
    """Decibans."""
    batches: Mapping[str, float]
    """If it is a copy: the probability of every batch, and of none that is known."""

    @property
    def ratio(self) -> LikelihoodRatio:
        """The total as a likelihood ratio."""
        return LikelihoodRatio(self.total / 10)


def weigh(signs: Sequence[Sign], shares: Mapping[str, float] | None = None) -> Balance:
    """Weigh findings in working order. ``shares``: prior probability of every batch and ``UNKNOWN``, given a copy;
    without it ``SHARE_OF_UNKNOWN`` and the rest evenly. Findings without a value are left out.

    >>> one = Sign(key="a", group="g", kind=Kind.COUNT, value=7, retail=[7, 7, 7], prior=Prior(2, off_by_one=0.002))
    >>> two = Sign(key="b", group="h", kind=Kind.COUNT, value=5, retail=[7, 7, 7], prior=Prior(2, off_by_one=0.002))
    >>> balance = weigh([one, two])
    >>> [round(piece.piece, 1) for piece in balance.pieces], round(balance.total, 1)
    ([1.2, -15.0], -13.8)
    """
    told = [sign for sign in signs if sign.value is not None]
    names = [*sorted({name for sign in told for name in sign.batches}), UNKNOWN]
    prior = dict(shares or even_shares(names[:-1]))
    singles = [_singles(sign, names) for sign in told]
    alone = [_mixed(single, prior) for single in singles]
    factors = _factors(told, alone)
    running, last, pieces = dict.fromkeys(names, 0.0), 0.0, []
    for sign, single, own, factor in zip(told, singles, alone, factors, strict=True):
        share = {name: factor * single[name] for name in names}
        running = {name: running[name] + share[name] for name in names}
        total = _mixed(running, prior)
        pieces.append(Weighed(sign.key, sign.group, own, factor, total - last, total, share))
        last = total
    return Balance(tuple(pieces), last, _posterior(running, prior))


def even_shares(batches: Sequence[str]) -> dict[str, float]:
    """Prior shares of known batches and of the unknown copy.

    >>> even_shares(["Bowline", "Sheepshank"])
    {'Bowline': 0.25, 'Sheepshank': 0.25, 'unknown': 0.5}
    """
    if not batches:
        return {UNKNOWN: 1.0}
    return {**dict.fromkeys(batches, (1 - SHARE_OF_UNKNOWN) / len(batches)), UNKNOWN: SHARE_OF_UNKNOWN}


def caps(sign: Sign) -> tuple[float, float]:
    """What it may speak at most for retail and against, decibans."""
    less = math.prod(LESS[why] for why in sign.lessened)
    return less * sign.cap_for, less * sign.cap_against


def _singles(sign: Sign, names: Sequence[str]) -> dict[str, float]:
    """Decibans of retail against every single copy, capped."""
    up, down = caps(sign)
    own = _log10(density(sign, sign.value))
    unknown = own - _log10(copy_density(sign, UNKNOWN, sign.value))
    found = {}
    for name in names:
        # Nothing is known of this batch there: it is like any copy.
        ratio = unknown if name not in sign.batches else own - _log10(copy_density(sign, name, sign.value))
        found[name] = min(up, max(-down, 10 * ratio))
    return found


def _log10(value: float) -> float:
    return math.log10(max(value, FLOOR))


def _mixed(against: Mapping[str, float], prior: Mapping[str, float]) -> float:
    """Decibans of retail against the mixture: −10·log10 Σ π 10^(−L/10), kept from overflow."""
    known = [(prior[name], -value / 10) for name, value in against.items() if prior.get(name, 0.0) > 0]
    top = max(power for _, power in known)
    return -10 * (top + math.log10(math.fsum(share * 10 ** (power - top) for share, power in known)))


def _posterior(against: Mapping[str, float], prior: Mapping[str, float]) -> dict[str, float]:
    top = max(-value / 10 for name, value in against.items() if prior.get(name, 0.0) > 0)
    likely = {name: prior.get(name, 0.0) * 10 ** (-value / 10 - top) for name, value in against.items()}
    whole = math.fsum(likely.values())
    return {name: value / whole for name, value in likely.items()}


def _factors(signs: Sequence[Sign], alone: Sequence[float]) -> list[float]:
    """1, ½, ¼ … within a group, from the strongest of either sign down."""
    places: dict[tuple[str, bool], list[int]] = {}
    for n, (sign, weight) in enumerate(zip(signs, alone, strict=True)):
        places.setdefault((sign.group, weight >= 0), []).append(n)
    factors = [1.0] * len(signs)
    for members in places.values():
        for place, n in enumerate(sorted(members, key=lambda m: (-abs(alone[m]), m))):
            factors[n] = FALLING**place
    return factors


def density(sign: Sign, value: float | str) -> float:
    """p(reading | retail): a density for lengths, a probability for the rest. Raises CannotJudge."""
    if sign.kind is Kind.PAPER:
        return _slip(value, RETAIL_SLIPS if value >= 1 else float(value))
    if sign.kind is Kind.CONTINUOUS:
        return spread_of(sign.kind, sign.retail, sign.prior, sign.uncertainty).density(float(value))
    known = spread_of(sign.kind, sign.retail, sign.prior)
    return _misread(known.probability, value, sign)


def copy_density(sign: Sign, batch: str, value: float | str) -> float:
    """p(reading | a copy of this batch, or of none that is known)."""
    if sign.kind is Kind.PAPER:
        return _slip(value, COPY_SLIPS)
    if batch != UNKNOWN:
        return density(_of_batch(sign, batch), value)
    if sign.kind is Kind.CONTINUOUS:
        own = spread_of(sign.kind, sign.retail, sign.prior)
        scale = math.hypot(sign.wider * own.scale, sign.uncertainty)
        return spread.Continuous(own.centre, scale, UNKNOWN_DOF, own.pairs).density(float(value))
    return _misread(_unknown(sign), value, sign)


def _of_batch(sign: Sign, batch: str) -> Sign:
    return Sign(
        key=sign.key,
        group=sign.group,
        kind=sign.kind,
        value=sign.value,
        uncertainty=sign.uncertainty,
        retail=sign.batches[batch],
        prior=sign.prior,
    )


def _slip(value: float, rate: float) -> float:
    """Of print and packing: the rate of a slip where there is one, else of none."""
    return 1 - rate if value >= 1 else rate


def _unknown(sign: Sign):  # noqa: ANN202 - a function of one outcome
    """Probability of an outcome for a copy of no known batch."""
    known = spread_of(sign.kind, sign.retail, sign.prior)
    usual = known.expected
    if sign.kind is Kind.ANSWER:
        possible = sign.prior.possible or tuple(known.probabilities)
        # Frequencies that do not know every answer would make the others a wonder.
        if set(possible) <= set(sign.copies):
            return lambda outcome: sign.copies.get(outcome, FLOOR)
        rest = (1 - sign.right) / max(1, len(possible) - 1)
        return lambda outcome: sign.right if outcome == usual else rest
    falls = {d: STEP_DOWN ** (abs(d) - 1) for d in range(-FURTHEST, FURTHEST + 1) if d and usual + d >= 0}
    whole = math.fsum(falls.values())
    rest = 1 - sign.right
    return lambda outcome: sign.right if outcome == usual else rest * falls.get(outcome - usual, FLOOR) / whole


def _misread(probability, value: float | str, sign: Sign) -> float:  # noqa: ANN001 - a function of one outcome
    """The probability of reading a count that may be one off: its standard uncertainty as a rate of misreading."""
    rate = min(0.5, sign.uncertainty**2) if sign.kind is Kind.COUNT else 0.0
    if not rate:
        return probability(value)
    return (1 - rate) * probability(value) + rate / 2 * (probability(value - 1) + probability(value + 1))


def learned_wider(distances: Sequence[float]) -> float:
    """κ from how far known batches' centres lie from retail's, in retail's own scales: the root of a weighted mean of
    squares with a belief worth ``WIDER_WORTH`` batches.

    >>> learned_wider([]), round(learned_wider([8.0, 8.0, 8.0, 8.0]), 2)
    (4.0, 6.32)
    """
    squares = WIDER_WORTH * WIDER**2 + math.fsum(one**2 for one in distances)
    return max(1.5, math.sqrt(squares / (WIDER_WORTH + len(distances))))


def learned_right(right: int, wrong: int) -> float:
    """How often copies get such a thing right: the mean of a Beta with a belief worth ``RIGHT_WORTH`` batches.

    >>> learned_right(0, 0), learned_right(0, 4)
    (0.75, 0.375)
    """
    return (RIGHT_WORTH * RIGHT + right) / (RIGHT_WORTH + right + wrong)


def as_data(sign: Sign) -> dict:
    """What the weighing of a finding needs besides its grade, as plain data."""
    return {
        "uncertainty": sign.uncertainty,
        "batches": {name: list(values) for name, values in sign.batches.items()},
        "copies": dict(sign.copies),
        "wider": sign.wider,
        "right": sign.right,
        "cap_for": sign.cap_for,
        "cap_against": sign.cap_against,
        "lessened": list(sign.lessened),
    }


def from_data(finding: Mapping) -> Sign:
    """A sign from an exported finding, see docs/formats.md."""
    kept = dict(finding["weighing"])
    return Sign(
        key=finding["checkpoint"],
        group=finding["group"],
        kind=Kind(finding["kind"]),
        value=finding["reading"]["judged_value"],
        retail=[one["value"] for one in finding["retail"]],
        prior=Prior(**finding["prior"], possible=tuple(finding["possible_answers"])),
        **{**kept, "lessened": tuple(kept["lessened"])},
    )


def telling(balance: Balance, batch: str, most: int = 4) -> list[str]:
    """Keys of the findings that speak most for one batch against an unknown copy."""
    gains = [(one.against[UNKNOWN] - one.against[batch], one.key) for one in balance.pieces if batch in one.against]
    return [key for gain, key in sorted(gains, reverse=True)[:most] if gain > 1]


def checked(sign: Sign) -> bool:
    """Whether it can be weighed at all: retail is known there."""
    try:
        density(sign, sign.value)
    except CannotJudge:
        return False
    return True
