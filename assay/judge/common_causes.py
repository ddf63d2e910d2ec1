"""Common causes: one looseness a pair, one scale a photograph. What a pair's other lengths tell of them goes into each.

Neither is known, and each goes through many lengths: how much this pair scatters through all of them, by how much a
photograph's scale is off through all that were read on it. So each length is held against what the others tell:
p(x_i | others) = Σ_wk λ_wk p(x_i | w, k), where λ_wk is the probability of looseness w and scale error k given the
others (Bayes' rule; a mixture over scales as in Gelman et al., Bayesian Data Analysis, 3rd ed., 17.2). What the product
of these lacks of the joint probability Σ_w π_w Π_photo Σ_k π_k Π_i p(x_i | w, k), such as how seldom a pair is so loose
or a scale so far off, is shared out evenly: a scale's among the lengths of its photograph, a looseness' among all. In
whatever order they are taken, it is the same. Retail and every kind of copy have a belief of their own.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from assay.judge import assumptions
from assay.judge.copy_model import log_copy_density, log_copy_of_length
from assay.judge.evidence import EvidenceItem, log_density, log_density_of_loose
from assay.judge.judgement import Kind

SHARES = np.log(list(assumptions.LOOSENESS.values()))
CLAIMED = np.linspace(-3, 3, 13)
"""Scale errors that are tried, in units of what the photograph's scale claims: half a standard deviation apart."""
BEYOND = np.linspace(-3, 3, 49)
"""The same of a scale that is off altogether, in units of ``SCALE_ERROR_SIZE``: .0025 apart."""


@dataclass(frozen=True, slots=True)
class Densities:
    """Natural logarithms of p(reading), by copy, looseness and scale error."""

    logs: np.ndarray
    """(signs, 1 + copies, loosenesses, scale errors); retail stands first."""
    photos: np.ndarray
    """(signs,) number of the photograph whose scale each shares."""
    signs: tuple[EvidenceItem, ...]
    names: tuple[str, ...]
    """Of the copies."""

    def of(self, sign: EvidenceItem, names: Sequence[str]) -> np.ndarray | None:
        """(1 + copies, loosenesses, scale errors) of a sign that is among these but for its caps; None otherwise."""
        known = next((n for n, one in enumerate(self.signs) if one.key == sign.key), None)
        if known is None or not set(names) <= set(self.names):
            return None
        own = self.signs[known]
        if own is not sign and replace(own, cap_for=sign.cap_for, cap_against=sign.cap_against) != sign:
            return None
        return self.logs[known][[0, *(1 + self.names.index(name) for name in names)]]


def log_densities(signs: Sequence[EvidenceItem], names: Iterable[str], known: Densities | None = None) -> Densities:
    """p(reading) of every sign on a retail pair, then on every copy; of counts, answers and print the same for every
    looseness and scale. ``known``: from before, used again for what did not change. Raises CannotJudge."""
    names = list(names)
    errors = len(CLAIMED) + len(BEYOND) if any(sign.scale for sign in signs) else 1
    logs = np.empty((len(signs), 1 + len(names), len(SHARES), errors))
    number: dict[str, int] = {}
    photos = [number.setdefault(sign.scale.photo if sign.scale else "", len(number)) for sign in signs]
    for n, sign in enumerate(signs):
        before = known.of(sign, names) if known else None
        # Without any scale there is one error alone, that of none.
        alike = before is not None and before.shape[2] in (1, errors)
        logs[n] = before if alike else _of_one(sign, names)
    return Densities(logs, np.array(photos, int), tuple(signs), tuple(names))


def given_others(told: Densities, worth: Sequence[float]) -> np.ndarray:
    """(signs, 1 + copies): each reading given the pair's others; weighted they add up to the joint probability.

    ``worth``: one a sign: what it counts, 1, less where others share its cause; all 0: each by itself.
    """
    shares = np.asarray(worth, float)
    if not len(told.logs):
        return told.logs[:, :, 0, 0]
    groups = [_of_photo(told, shares, n) for n in range(int(told.photos.max()) + 1)]
    scale_out = np.array([np.logaddexp.reduce(group.joint, axis=2) for group in groups])
    every = SHARES + scale_out.sum(0)
    whole = np.logaddexp.reduce(every, axis=1)
    lengths = shares * (np.ptp(told.logs[:, 0], axis=(1, 2)) > 0)
    given, by_photo = np.empty(told.logs.shape[:2]), np.zeros_like(whole)
    for group, own in zip(groups, scale_out, strict=True):
        rest, here = every - own, group.places
        others = (rest[..., None] + group.joint - group.weighted).reshape(*given[here].shape, -1)
        logs = group.logs.reshape(others.shape)
        alone = np.logaddexp.reduce(others + logs, axis=2) - np.logaddexp.reduce(others, axis=2)
        joint = whole - np.logaddexp.reduce(rest, axis=1)
        by_photo += joint
        given[here] = alone + _each(joint - (shares[here, None] * alone).sum(0), lengths[here])
    return given + _each(whole - by_photo, lengths)


@dataclass(frozen=True, slots=True)
class _OfPhoto:
    """The signs that share a scale, or that share none."""

    places: np.ndarray
    logs: np.ndarray
    """(signs, 1 + copies, loosenesses, scale errors), the last 1 where they share none."""
    weighted: np.ndarray
    joint: np.ndarray
    """(1 + copies, loosenesses, scale errors) of all of them and the scale error."""


def _of_photo(told: Densities, shares: np.ndarray, number: int) -> _OfPhoto:
    places = np.flatnonzero(told.photos == number)
    logs = told.logs[places]
    if told.signs[places[0]].scale is None:
        logs = logs[..., :1]
    weighted = logs * shares[places, None, None, None]
    return _OfPhoto(places, logs, weighted, weighted.sum(0) + (_log_shares() if logs.shape[3] > 1 else 0.0))


def _each(lacking: np.ndarray, lengths: np.ndarray) -> np.ndarray:
    """(signs, copies) of what is lacking, shared out evenly over the lengths by what these count."""
    return (lengths > 0)[:, None] * lacking / max(float(lengths.sum()), 1e-12)


def scale_errors(signs: Sequence[EvidenceItem]) -> Mapping[str, tuple[float, float]]:
    """By photograph how far off its scale is if the pair is retail, as its lengths tell: mean and standard deviation,
    relative. Raises CannotJudge.
    """
    found = {}
    for photo in sorted({sign.scale.photo for sign in signs if sign.scale}):
        here = [sign for sign in signs if sign.scale and sign.scale.photo == photo]
        logs = log_densities(here, []).logs[:, 0].sum(0) + SHARES[:, None] + _log_shares()
        likely = np.exp(np.logaddexp.reduce(logs, axis=0) - np.logaddexp.reduce(logs, axis=None))
        errors = _errors(here[0])
        mean = float(likely @ errors)
        found[photo] = mean, math.sqrt(max(0.0, float(likely @ (errors - mean) ** 2)))
    return found


def _of_one(sign: EvidenceItem, names: list[str]) -> np.ndarray:
    """(1 + copies, loosenesses, scale errors), each of the last two 1 where all are alike."""
    if sign.kind is not Kind.CONTINUOUS:
        alike = [log_density(sign, sign.value), *(log_copy_density(sign, name, sign.value) for name in names)]
        return np.array(alike, float)[:, None, None]
    values = np.full(1, sign.value, float)
    if sign.scale:
        values = sign.value - sign.scale.moves * _errors(sign)
        sign = replace(sign, uncertainty=_without_scale(sign))
    own = log_density_of_loose(sign, values)
    copies = log_copy_of_length(sign, names, own, values)
    return np.array([own, *(copies[name] for name in names)])


def _errors(sign: EvidenceItem) -> np.ndarray:
    """(scale errors,) relative, of the photograph that a sign was read on."""
    claimed = sign.scale.uncertainty if sign.scale else 0.0
    return np.concatenate([claimed * CLAIMED, assumptions.SCALE_ERROR_SIZE * BEYOND])


def _without_scale(sign: EvidenceItem) -> float:
    """A reading's standard uncertainty without the scale's part in it; whole where that is not in it."""
    part = sign.scale.moves * sign.scale.uncertainty if sign.scale else 0.0
    left = sign.uncertainty**2 - part**2
    return math.sqrt(left) if left >= 0 else sign.uncertainty


def _normal(at: np.ndarray) -> np.ndarray:
    """Shares of a normal distribution's places."""
    height = np.exp(-0.5 * at**2)
    return height / height.sum()


def _log_shares() -> np.ndarray:
    """(scale errors,) natural logarithms of how often each is."""
    off = assumptions.SCALE_ERROR
    return np.log(np.concatenate([(1 - off) * _normal(CLAIMED), off * _normal(BEYOND)]))
