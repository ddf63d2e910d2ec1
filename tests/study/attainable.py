"""The best anyone could do with what the application is shown: exact Bayes with the worlds' generating numbers known.

Where the oracle knows the sources' true centres and what retail is, this is told the same retail and batch readings as
the application and nothing of the source that a copy comes of. It knows how such things are drawn: the factory's
scatter, how far and how often copies are off, the share of known sources, and each world's own adversity. Lengths of a
group are normal given which of them are wrong, so that all patterns of right and wrong are summed; a source's quality
goes over a grid. Not worked out (``None``): a reference that is not what it seems, and causes that no group names.
"""

import math
from dataclasses import dataclass
from itertools import product

import numpy as np

from assay.judge.judgement import Kind
from tests.study.worlds import (
    ANSWERS,
    COPY_SCATTER,
    HIDDEN,
    LOOSE,
    OFF,
    PHOTOS,
    QUALITIES,
    READ,
    RETAIL_PARTS,
    SCALE,
    SCALE_OFF,
    SEEN_BY_EYE,
    Guide,
    World,
    _chance,
)

ERRORS = np.linspace(-0.05, 0.05, 81)
"""Scale errors that are tried."""
RETAIL_SCATTER = 1.0
COUNTS_OFF = ((-2, 1 / 6), (-1, 1 / 3), (1, 1 / 3), (2, 1 / 6))


def is_known(world: World) -> bool:
    """Whether the best possible is worked out for a world."""
    return not (world.mislabelled or world.other_size or world.hidden_cause)


@dataclass(frozen=True)
class _State:
    """What may be so of one length: whether the source has it right, and whose variance that adds to."""

    right: int
    batch: int
    shared: int
    suspect: int
    share: float


def log10_ratio(guide: Guide, read: list, unsure: list[float]) -> float:
    """log10 of the likelihood ratio, retail against copy."""
    world = guide.world
    looseness = [(1.0, 1 - world.loose_pairs), (LOOSE, world.loose_pairs)] if world.loose_pairs else [(1.0, 1.0)]
    found = [(share, _Suspect(guide, read, unsure, loose)) for loose, share in looseness]
    retail = np.logaddexp.reduce([math.log(share) + pair.of_retail() for share, pair in found])
    copies = []
    if world.known < 1:
        copies += [math.log(share * (1 - world.known)) + pair.of_unknown() for share, pair in found]
    for name in guide.batches if world.known else ():
        part = world.known / len(guide.batches)
        copies += [math.log(share * part) + pair.of_batch(name) for share, pair in found]
    return float((retail - np.logaddexp.reduce(copies)) / math.log(10))


class _Suspect:
    """One pair that is shown, as loose as it may be."""

    def __init__(self, guide: Guide, read: list, unsure: list[float], loose: float) -> None:
        self.guide, self.read, self.unsure, self.loose = guide, read, unsure, loose
        self.members: dict[str, list[int]] = {}
        for n, kind in enumerate(guide.kinds):
            if kind is Kind.CONTINUOUS:
                self.members.setdefault(guide.groups[n], []).append(n)
        a, b = guide.world.quality
        logs = (a - 1) * np.log(QUALITIES) + (b - 1) * np.log1p(-QUALITIES)
        self.qualities = logs - np.logaddexp.reduce(logs)
        self.errors = np.zeros(1)
        self.error_shares = np.zeros(1)
        if guide.world.scales_off:
            off = guide.world.scales_off
            self.errors = ERRORS
            shares = (1 - off) * _normal(ERRORS, SCALE) + off * _normal(ERRORS, SCALE_OFF)
            self.error_shares = np.log(shares / shares.sum())

    def of_retail(self) -> float:
        states = self._misread([_State(1, 0, 0, 0, 1.0)])
        lengths = self._lengths(lambda told: [states] * len(told), RETAIL_SCATTER, None)
        others = sum(math.log(self._retail_chance(n)) for n in self._others())
        return float(lengths[0]) + others + self._shown(0.0)[0]

    def of_unknown(self) -> float:
        wrong = 1 - HIDDEN * self.guide.world.selects
        states = self._misread([_State(1, 0, 0, 0, 1.0), _State(0, 0, 0, 1, wrong)])
        logs = self._lengths(lambda told: [states] * len(told), COPY_SCATTER, None)
        for n in self._others():
            right, off = self._retail_chance(n), self._wrong_chance(n)
            logs = logs + np.log(QUALITIES * right + (1 - QUALITIES) * wrong * off)
        return float(np.logaddexp.reduce(self.qualities + logs + self._shown(HIDDEN * self.guide.world.selects)))

    def of_batch(self, name: str) -> float:
        """Given what the batch's own pairs read."""
        fixed = self.guide.world.improves
        kept = [_State(1, 0, 0, 0, 1.0), _State(0, 1, 1, 1, 1 - fixed)]
        states = self._misread([*kept, *([_State(0, 1, 0, 0, fixed)] if fixed else [])])
        both = self._lengths(lambda told: [states if n in told else kept[:2] for n in told], COPY_SCATTER, name)
        alone = self._lengths(None, COPY_SCATTER, name)
        for n, kind in enumerate(self.guide.kinds):
            if kind is not Kind.CONTINUOUS:
                with_, without = self._batch_chances(n, name)
                both, alone = both + np.log(with_), alone + np.log(without)
        given = np.logaddexp.reduce(self.qualities + both) - np.logaddexp.reduce(self.qualities + alone)
        return float(given)

    def _misread(self, states: list[_State]) -> list[_State]:
        rate = self.guide.world.misread
        if not rate:
            return states
        off = [_State(one.right, one.batch, one.shared, one.suspect + 1, rate * one.share) for one in states]
        return [_State(s.right, s.batch, s.shared, s.suspect, (1 - rate) * s.share) for s in states] + off

    def _others(self) -> list[int]:
        kinds = self.guide.kinds
        return [n for n, value in enumerate(self.read) if value is not None and kinds[n] is not Kind.CONTINUOUS]

    def _shown(self, hidden: float) -> np.ndarray:
        """(qualities,) log probability of what is left out and what is shown, as far as the source matters."""
        if not self.guide.world.selects:
            return np.zeros(len(QUALITIES))
        missing = self.guide.world.missing
        left_out = sum(value is None for value in self.read)
        share = QUALITIES * missing + (1 - QUALITIES) * (missing + (1 - missing) * hidden) if hidden else missing
        return left_out * np.log(share) + np.zeros(len(QUALITIES))

    def _lengths(self, states_of, scatter: float, batch: str | None) -> np.ndarray:
        """(qualities,) log density of all lengths; without states of the batch's own alone."""
        by_photo = np.zeros((PHOTOS, len(self.errors), len(QUALITIES)))
        for members in self.members.values():
            told = [n for n in members if self.read[n] is not None] if states_of else []
            if told or batch:
                by_photo[self.guide.photo_of(members[0])] += self._group(members, told, states_of, scatter, batch)
        return np.logaddexp.reduce(self.error_shares[:, None] + by_photo, axis=1).sum(0)

    def _group(self, members, told, states_of, scatter: float, batch: str | None) -> np.ndarray:
        """(errors, qualities) log density of a group's lengths, of the batch's mean as well where there is one."""
        guide, world = self.guide, self.guide.world
        whole = [n for n in members if batch or n in told]
        usual = np.array([np.mean(guide.retail[n]) for n in whole])
        alike = np.full((len(whole),) * 2, world.correlation) + (1 - world.correlation) * np.eye(len(whole))
        # Pairs of the library are as loose as they come: their mean square is what their means scatter by.
        square = world.looseness**2 * (1 + world.loose_pairs * (LOOSE**2 - 1))
        centre = (square * alike + READ**2 * np.eye(len(whole))) / world.retail_pairs
        at = [whole.index(n) for n in told]
        own = (world.looseness * scatter * self.loose) ** 2 * alike[np.ix_(at, at)]
        own = own + np.diag([self._own_square(n) for n in told])
        kept = [_State(1, 0, 0, 0, 1.0), _State(0, 1, 0, 0, 1.0)]
        told_states = dict(zip(told, states_of(told), strict=True)) if told else {}
        patterns = list(product(*(told_states.get(n, kept) for n in whole)))
        wrong = (OFF * world.looseness) ** 2
        blocks, logs, rights = [], [], []
        for pattern in patterns:
            suspect = np.diag([wrong * pattern[m].suspect for m in at]).reshape(len(at), len(at))
            here = centre[np.ix_(at, at)] + own + suspect
            if batch:
                pairs = len(guide.batches[batch][whole[0]])
                theirs = (COPY_SCATTER**2 * square * alike + READ**2 * np.eye(len(whole))) / pairs
                habit = centre + theirs + np.diag([wrong * one.batch for one in pattern])
                shared = centre[:, at] + np.diag([wrong * one.shared for one in pattern])[:, at]
                here = np.block([[habit, shared], [shared.T, here]])
            blocks.append(here)
            logs.append(math.log(math.prod(one.share for one in pattern)))
            rights.append(sum(one.right for one in pattern))
        values = np.array([self.read[n] for n in told], float) - usual[at]
        sizes = np.array([guide.sizes[n] for n in told])
        residuals = values[:, None] - sizes[:, None] * self.errors
        if batch:
            theirs_mean = np.array([np.mean(guide.batches[batch][n]) for n in whole]) - usual
            residuals = np.vstack([np.repeat(theirs_mean[:, None], len(self.errors), 1), residuals])
        density = _log_normals(np.array(blocks), residuals) + np.array(logs)[:, None]
        many = np.array(rights)[:, None, None]
        quality = many * np.log(QUALITIES) + (len(whole) - many) * np.log1p(-QUALITIES)
        if scatter == RETAIL_SCATTER:
            quality = np.zeros((1, 1, len(QUALITIES)))
        summed = np.logaddexp.reduce(density[:, :, None] + quality, axis=0)
        if world.mixes and len(patterns) > 1:
            whole_right = np.logaddexp.reduce(density[np.array(rights) == len(whole)], axis=0)[:, None]
            summed = np.logaddexp(math.log(RETAIL_PARTS) + whole_right, math.log(1 - RETAIL_PARTS) + summed)
        return summed

    def _own_square(self, n: int) -> float:
        """What reading a length adds by itself; the scale's part is tried apart."""
        scale = SCALE * self.guide.sizes[n] if self.guide.world.scales_off else 0.0
        return self.unsure[n] ** 2 - scale**2

    def _reads(self, n: int, true: object) -> float:
        """Probability of what was read where that is true, misreadings included."""
        value, unsure = self.read[n], self.unsure[n]
        rate = self.guide.world.misread * (1 - SEEN_BY_EYE if n in self.guide.decisive else 1)
        chance = _chance(self.guide, n, value, true, unsure)
        if not rate or self.guide.kinds[n] is Kind.ANSWER:
            return chance
        off = sum(share * _chance(self.guide, n, value - step, true, unsure) for step, share in COUNTS_OFF)
        return (1 - rate) * chance + rate * off

    def _usual(self, n: int) -> list[tuple[object, float]]:
        """What retail may have there, by what its pairs read."""
        if self.guide.kinds[n] is Kind.ANSWER:
            return [(self.guide.usual[n], 1.0)]
        seen = self.guide.retail[n]
        may = sorted({value + step for value in seen for step in (-1, 0, 1)})
        likely = [math.prod(_chance(self.guide, n, value, true, 0.0) for value in seen) for true in may]
        return [(true, one / sum(likely)) for true, one in zip(may, likely, strict=True)]

    def _wrong(self, n: int, usual: object) -> list[tuple[object, float]]:
        if self.guide.kinds[n] is Kind.ANSWER:
            return [(answer, 1 / (len(ANSWERS) - 1)) for answer in ANSWERS if answer != usual]
        return [(usual + step, share) for step, share in COUNTS_OFF]

    def _retail_chance(self, n: int) -> float:
        return sum(share * self._reads(n, usual) for usual, share in self._usual(n))

    def _wrong_chance(self, n: int) -> float:
        return sum(
            share * part * self._reads(n, other)
            for usual, share in self._usual(n)
            for other, part in self._wrong(n, usual)
        )

    def _batch_chances(self, n: int, name: str) -> tuple[np.ndarray, np.ndarray]:
        """(qualities,) probability of the batch's readings with this pair's, and of the batch's alone."""
        guide, fixed = self.guide, self.guide.world.improves
        both, alone = np.zeros(len(QUALITIES)), np.zeros(len(QUALITIES))
        for usual, share in self._usual(n):
            here = 1.0 if self.read[n] is None else self._reads(n, usual)
            habits = [(usual, QUALITIES, here)]
            for other, part in self._wrong(n, usual):
                theirs = 1.0 if self.read[n] is None else self._reads(n, other)
                habits.append((other, part * (1 - QUALITIES), (1 - fixed) * theirs + fixed * here))
            for habit, often, reads in habits:
                likely = share * often * math.prod(_chance(guide, n, v, habit, 0.0) for v in guide.batches[name][n])
                both, alone = both + likely * reads, alone + likely
        return both, alone


def _normal(at: np.ndarray, scale: float) -> np.ndarray:
    return np.exp(-0.5 * (at / scale) ** 2) / scale


def _log_normals(covariances: np.ndarray, residuals: np.ndarray) -> np.ndarray:
    """(P, E) log densities of residuals (d, E) under normal distributions of covariances (P, d, d)."""
    if not residuals.size:
        return np.zeros((len(covariances), residuals.shape[1]))
    solved = np.linalg.solve(covariances, np.broadcast_to(residuals, (len(covariances), *residuals.shape)))
    squares = np.einsum("de,pde->pe", residuals, solved)
    _, size = np.linalg.slogdet(covariances)
    return -0.5 * (squares + size[:, None] + residuals.shape[0] * math.log(2 * math.pi))
