"""How much each finding speaks for retail or for a copy, in decibans, and how it all adds up.

Weight of evidence is 10·log10 of p(reading | retail) over p(reading | copy) (Good, Probability and the Weighing of
Evidence, 1950; decibans after Turing). Positive speaks for retail, negative for a copy, everywhere.

A copy is of one of the known batches, or of none that is known. **Batches are joint**: a copy of a batch has all of
its habits, so that the total is p(all | retail) over the mixture of p(all | batch). An unknown copy is rough, middling
or close, and is that at every check: a hundred checks that agree rule out the rough ones and leave the close ones, so
they do not add up without end. Each finding's piece is what the
running total moves by when it is taken in, in working order: the pieces add up to the total exactly (the chain rule;
Wald, Sequential Analysis, 1947). Within a group of one part or cause the strongest counts whole, the next half, the
next a quarter, each sign by itself. On either side every finding is capped: a sign that is cheap to repair, a worn
pair, a photograph alone, an unsure reading say less.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from assay.errors import CannotJudge
from assay.judge import spread
from assay.judge.judgement import Kind, Prior, spread_of

UNKNOWN = "unknown"
"""The copy that is of no known batch."""
LEVELS = {"rough": (0.25, 0.35), "middling": (1.0, 0.44), "close": (8.0, 0.2), "nearly perfect": (200.0, 0.01)}
"""How well unknown copies are made: by so much the odds of getting a thing right are multiplied; share. Made up. The
last one bounds what agreeing may ever say: a hundred to one, and hardly more."""
MIDDLING = f"{UNKNOWN}, middling"
WIDER = 4.0
"""κ: what an unknown copy gets wrong scatters so many times as wide as retail's, where nothing was learned. Made up."""
WIDER_WORTH = 4.0
"""How many batches that belief is worth."""
UNKNOWN_DOF = 3.0
RIGHT = 0.75
"""How often a copy gets a count or an answer right, where nothing was learned. Made up."""
RIGHT_LENGTH = 0.5
"""The same of a length or another number that scatters. Made up."""
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
OUTLYING = 2.0
"""A batch whose centre lies so many of retail's scales from retail's got the thing wrong."""
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
    right: float | None = None
    """How often copies get it right; None: as is believed of its kind."""
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
    ([1.7, -14.9], -13.3)
    """
    told = [sign for sign in signs if sign.value is not None]
    batches = sorted({name for sign in signs for name in sign.batches})
    prior = by_level(shares or even_shares(batches))
    free = [against_each(sign, prior) for sign in told]
    singles = [_capped(sign, single) for sign, single in zip(told, free, strict=True)]
    alone = [mixed(single, prior) for single in singles]
    factors = _factors(told, alone)
    running, last, pieces = dict.fromkeys(prior, 0.0), 0.0, []
    for sign, single, uncapped, own, factor in zip(told, singles, free, alone, factors, strict=True):
        share = {name: factor * single[name] for name in prior}
        running = {name: running[name] + share[name] for name in prior}
        total = mixed(running, prior)
        against = {name: factor * value for name, value in uncapped.items()}
        pieces.append(Weighed(sign.key, sign.group, own, factor, total - last, total, against))
        last = total
    # Caps bound what speaks for retail or a copy; which copy it would be is told by all that was read.
    whole = {
        name: math.fsum(factor * single[name] for single, factor in zip(free, factors, strict=True)) for name in prior
    }
    copies = _posterior(whole, prior)
    unknown = math.fsum(share for name, share in copies.items() if name not in batches)
    return Balance(tuple(pieces), last, {**{name: copies[name] for name in batches}, UNKNOWN: unknown}, copies)


def by_level(shares: Mapping[str, float]) -> dict[str, float]:
    """Shares of every copy there may be, the unknown one by how well it is made.

    >>> by_level({"Bowline": 0.5, "unknown": 0.5})  # doctest: +NORMALIZE_WHITESPACE
    {'Bowline': 0.5, 'unknown, rough': 0.175, 'unknown, middling': 0.22, 'unknown, close': 0.1,
     'unknown, nearly perfect': 0.005}
    """
    known = {name: share for name, share in shares.items() if name != UNKNOWN}
    return known | {f"{UNKNOWN}, {level}": shares[UNKNOWN] * part for level, (_, part) in LEVELS.items()}


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


def against_each(sign: Sign, names: Iterable[str]) -> dict[str, float]:
    """Decibans of retail against every single copy there may be, before caps; a batch of which nothing is known there
    is like any copy."""
    own = _log10(density(sign, sign.value))
    return {name: 10 * (own - _log10(copy_density(sign, name, sign.value))) for name in names}


def _capped(sign: Sign, against: Mapping[str, float]) -> dict[str, float]:
    up, down = caps(sign)
    return {name: min(up, max(-down, value)) for name, value in against.items()}


def _log10(value: float) -> float:
    return math.log10(max(value, FLOOR))


def mixed(against: Mapping[str, float], prior: Mapping[str, float]) -> float:
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


def density(sign: Sign, value):  # noqa: ANN001, ANN201 - a number, an answer, or many numbers at once
    """p(reading | retail): a density for lengths (of one or of many at once), a probability for the rest. Raises
    CannotJudge."""
    if sign.kind is Kind.PAPER:
        return _slip(value, RETAIL_SLIPS if value >= 1 else float(value))
    if sign.kind is Kind.CONTINUOUS:
        return spread_of(sign.kind, sign.retail, sign.prior, sign.uncertainty).density(value)
    known = spread_of(sign.kind, sign.retail, sign.prior)
    return _misread(known.probability, value, sign)


def copy_density(sign: Sign, name: str, value):  # noqa: ANN001, ANN201 - as above
    """p(reading | a copy of this batch, or one of no known batch that is made so well).

    What an unknown copy gets right reads as retail does; what it gets wrong lies about retail's centre by a t of three
    degrees, ``wider`` times as wide, or on another count or answer.
    """
    if name in sign.batches and sign.kind is not Kind.PAPER:
        return density(replace(sign, retail=sign.batches[name], batches={}), value)
    factor = LEVELS.get(name.removeprefix(f"{UNKNOWN}, "), LEVELS["middling"])[0]
    if sign.kind is Kind.PAPER:
        return _slip(value, 1 - _more_often(1 - COPY_SLIPS, factor))
    if sign.kind is Kind.CONTINUOUS:
        right = _more_often(RIGHT_LENGTH if sign.right is None else sign.right, factor)
        own = spread_of(sign.kind, sign.retail, sign.prior)
        wrong = spread.Continuous(own.centre, math.hypot(sign.wider * own.scale, sign.uncertainty), UNKNOWN_DOF, 0)
        return right * density(sign, value) + (1 - right) * wrong.density(value)
    return _misread(_unknown(sign, factor), value, sign)


def _more_often(right: float, factor: float) -> float:
    """A probability whose odds are multiplied."""
    return right * factor / (right * factor + 1 - right)


def _slip(value: float, rate: float) -> float:
    """Of print and packing: the rate of a slip where there is one, else of none."""
    return 1 - rate if value >= 1 else rate


def _unknown(sign: Sign, factor: float):  # noqa: ANN202 - a function of one outcome
    """Probability of an outcome for a copy of no known batch."""
    known = spread_of(sign.kind, sign.retail, sign.prior)
    usual = known.expected
    right = _more_often(RIGHT if sign.right is None else sign.right, factor)
    if sign.kind is Kind.ANSWER:
        possible = sign.prior.possible or tuple(known.probabilities)
        # Frequencies that do not know every answer would make the others a wonder.
        if set(possible) <= set(sign.copies):
            right = _more_often(sign.copies[usual], factor) if sign.copies[usual] < 1 else 1.0
            others = max(math.fsum(share for answer, share in sign.copies.items() if answer != usual), FLOOR)
            return lambda outcome: right if outcome == usual else (1 - right) * sign.copies.get(outcome, 0.0) / others
        rest = (1 - right) / max(1, len(possible) - 1)
        return lambda outcome: right if outcome == usual else rest
    falls = {d: STEP_DOWN ** (abs(d) - 1) for d in range(-FURTHEST, FURTHEST + 1) if d and usual + d >= 0}
    whole = math.fsum(falls.values())
    return lambda outcome: right if outcome == usual else (1 - right) * falls.get(outcome - usual, FLOOR) / whole


def _misread(probability, value: float | str, sign: Sign) -> float:  # noqa: ANN001 - a function of one outcome
    """The probability of reading a count that may be one off: its standard uncertainty as a rate of misreading."""
    rate = min(0.5, sign.uncertainty**2) if sign.kind is Kind.COUNT else 0.0
    if not rate:
        return probability(value)
    return (1 - rate) * probability(value) + rate / 2 * (probability(value - 1) + probability(value + 1))


def learned_wider(distances: Sequence[float], share: float = 1.0) -> float:
    """κ from how far known batches' centres lie from retail's, in retail's own scales: the root of a weighted mean of
    squares with a belief worth ``WIDER_WORTH`` batches. ``share``: what each of them counts.

    >>> learned_wider([]), round(learned_wider([8.0, 8.0, 8.0, 8.0]), 2)
    (4.0, 6.32)
    """
    squares = WIDER_WORTH * WIDER**2 + share * math.fsum(one**2 for one in distances)
    return max(1.5, math.sqrt(squares / (WIDER_WORTH + share * len(distances))))


def learned_right(right: int, wrong: int, believed: float = RIGHT) -> float:
    """How often copies get such a thing right: the mean of a Beta with a belief worth ``RIGHT_WORTH`` batches.

    >>> learned_right(0, 0), learned_right(0, 4)
    (0.75, 0.375)
    """
    return (RIGHT_WORTH * believed + right) / (RIGHT_WORTH + right + wrong)


def learned(signs: Sequence[Sign]) -> list[Sign]:
    """The same findings with what their batches teach of unknown copies, by kind: how often a batch gets such a thing
    right (within ``OUTLYING`` of retail's scales, or its commonest count or answer being retail's), and κ from how far
    the others lie. A finding without batches takes what its kind's have taught; without any, what is believed.

    >>> one = Sign(key="a", group="g", kind=Kind.COUNT, value=7, retail=[7, 7], batches={"x": [6, 6], "y": [6]})
    >>> learned([one])[0].right
    0.5
    """
    far: dict[Kind, list[float]] = {kind: [] for kind in Kind}
    right: dict[Kind, int] = dict.fromkeys(Kind, 0)
    for sign in signs:
        for values in sign.batches.values() if sign.kind is not Kind.PAPER else ():
            distance = _off(sign, values)
            if distance is not None:
                right[sign.kind] += distance <= OUTLYING
                far[sign.kind] += [distance] if distance > OUTLYING else []
    taught = []
    for sign in signs:
        wrong, kind = len(far[sign.kind]), sign.kind
        # Batches, not checks, are what the belief is worth: many checks of one batch are one batch's word.
        names = {name for one in signs if one.kind is kind for name in one.batches}
        share = len(names) / max(1, right[kind] + wrong)
        believed = RIGHT_LENGTH if kind is Kind.CONTINUOUS else RIGHT
        taught.append(
            replace(
                sign,
                wider=learned_wider(far[kind], share) if kind is Kind.CONTINUOUS else sign.wider,
                right=learned_right(share * right[kind], share * wrong, believed),
            )
        )
    return taught


def _off(sign: Sign, values: Sequence) -> float | None:
    """How far a batch lies from retail, in retail's scales; of counts and answers nothing or infinitely far."""
    try:
        own = spread_of(sign.kind, sign.retail, sign.prior)
        theirs = spread_of(sign.kind, values, sign.prior)
    except CannotJudge:
        return None
    if sign.kind is Kind.CONTINUOUS:
        return abs(theirs.centre - own.centre) / own.scale
    return 0.0 if theirs.expected == own.expected else math.inf


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
        "minutes": sign.minutes,
    }


def from_data(finding: Mapping) -> Sign:
    """A sign from an exported finding, see docs/formats.md."""
    kept = dict(finding["weighing"])
    return Sign(
        key=finding["checkpoint"],
        group=finding["group"],
        kind=Kind(finding["kind"]),
        value=finding["reading"]["judged_value"] if finding["grade"] != "not_compared" else None,
        retail=[one["value"] for one in finding["retail"]],
        prior=Prior(**finding["prior"], possible=tuple(finding["possible_answers"])),
        **{**kept, "lessened": tuple(kept["lessened"])},
    )


def telling(balance: Balance, batch: str, most: int = 4) -> list[str]:
    """Keys of the findings that speak most for one batch against an unknown copy."""
    gains = [(one.against[MIDDLING] - one.against[batch], one.key) for one in balance.pieces if batch in one.against]
    return [key for gain, key in sorted(gains, reverse=True)[:most] if gain > 1]


def checked(sign: Sign) -> bool:
    """Whether it can be weighed at all: retail is known there."""
    try:
        density(sign, sign.value)
    except CannotJudge:
        return False
    return True
