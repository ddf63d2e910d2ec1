"""Worlds of retail pairs and copies, drawn in numbers, and an oracle that knows how they were drawn.

A guide has 40 checks in some 20 groups: 20 lengths in units of the factory's own scatter, 12 counts, 8 closed
answers. Retail scatters about its centre. A source of copies gets every check right or wrong once and for all, more
or fewer of them by its quality; what is wrong lies normally six scatters off, or one or two counts off, or at another
answer; its pairs scatter 1.3 times as much as retail's. Three counts are sure signs: no retail pair is odd there. Two
sources are known by two or three pairs each; half of the copies shown come from these, half from sources that nobody
has seen. The oracle is told the generating numbers, the known sources' true centres among them, and works out the
exact likelihood ratio: no method can do better than it does.
"""

from dataclasses import dataclass, field
from itertools import product

import numpy as np

from assay.judge.assumptions import READING_ERROR, READING_ERROR_SEEN
from assay.judge.evidence import EvidenceItem, SharedScale
from assay.judge.judgement import Kind, Prior

OFF = 6.0
COPY_SCATTER = 1.3
QUALITIES = np.linspace(0.03, 0.97, 7)
ANSWERS = ("usual", "other", "third")
RETAIL_ODD_COUNT, RETAIL_ODD_ANSWER = 0.004, 0.03
LOOSE = 2.0
CAUSES = 5
SEEN_BY_EYE = 0.9
"""How many misreadings a person sees where they are asked to confirm. Assumed."""
RETAIL_PARTS = 0.5
READ = 0.3
"""Standard uncertainty of a length, of the factory's scatter."""
PHOTOS = 5
"""Photographs that the groups' lengths are read on, in turn."""
SIZES_SEED = (2024, 5)
SIZES = 20.0, 150.0
"""How long lengths are, of the factory's scatter."""
SCALE = 0.003
"""Relative standard uncertainty that a scale claims."""
SCALE_OFF = 0.02
"""The same of one that is off."""
OTHER_SIZE = 0.04
"""By so much, relative, a pair of another size is longer."""
HIDDEN = 0.7
"""Share of its faults that a seller who selects does not photograph."""


@dataclass(frozen=True)
class World:
    """What differs from the plain one."""

    name: str
    retail_pairs: int = 3
    correlation: float = 0.0
    """Of lengths within a group, retail and copies alike."""
    looseness: float = 1.0
    """The factory's true scatter over what the guide's writer believed."""
    improves: float = 0.0
    """Share of its faults that a known batch has put right since."""
    known: float = 0.5
    """Share of copies from known batches."""
    missing: float = 0.0
    """Share of checks that nobody could do."""
    worn: bool = False
    miscounts: float = 0.0
    quality: tuple[float, float] = (2.5, 2.5)
    """Beta that sources' share of right things is drawn from."""
    loose_pairs: float = 0.0
    """Share of pairs, of all they are, that scatter ``LOOSE`` times as much as usual throughout."""
    mislabelled: bool = False
    """One of the retail pairs is a copy."""
    misread: float = 0.0
    """Share of readings that are far off and sure of it."""
    hidden_cause: float = 0.0
    """Correlation of lengths by causes that no group names."""
    mixes: bool = False
    """Copies are built around genuine parts: half of the groups are right throughout."""

    scales_off: float = 0.0
    """Share of photographs whose scale is off by far more than it claims."""
    other_size: bool = False
    """One of the retail pairs is of another size than its record says."""
    selects: bool = False
    """Sellers of copies leave out most of what is wrong; of the rest, and of retail pairs, a third is missing too."""

    @property
    def is_adverse(self) -> bool:
        """Drawn in a way that the oracle does not know."""
        own = (self.loose_pairs, self.mislabelled, self.misread, self.hidden_cause, self.mixes)
        return any((*own, self.scales_off, self.other_size, self.selects))


WORLDS = (
    World("plain"),
    World("correlated signs", correlation=0.7),
    World("sloppy factory", looseness=2.0),
    World("batches improve", improves=0.5),
    World("unknown batches only", known=0.0),
    World("nearly perfect copies", quality=(30.0, 1.5), known=0.0),
    World("worn pairs", worn=True),
    World("one retail pair", retail_pairs=1),
    World("two retail pairs", retail_pairs=2),
    World("five retail pairs", retail_pairs=5),
    World("half not photographed", missing=0.5),
    World("unsure counts", miscounts=0.15),
    World("one pair in five loose", loose_pairs=0.2),
    World("a copy among retail", mislabelled=True),
    World("1 % of readings wrong", misread=0.01),
    World("causes without a group", hidden_cause=0.6),
    World("copies with retail parts", mixes=True, known=0.0),
    World("one scale in ten off", scales_off=0.1),
    World("retail of another size", other_size=True),
    World("sellers hide faults", selects=True, missing=0.3, known=0.0),
)


@dataclass
class Source:
    """A source of copies: by check, how far off it is (lengths), or what it has."""

    right: np.ndarray
    lengths: np.ndarray
    others: list


@dataclass
class Guide:
    """Checks of one model, its retail pairs and known batches."""

    kinds: list[Kind]
    groups: list[str]
    minutes: np.ndarray
    usual: list
    retail: list[list]
    batches: dict[str, list[list]]
    sources: dict[str, Source]
    world: World
    decisive: set[int] = field(default_factory=set)
    sizes: np.ndarray = field(default_factory=lambda: np.zeros(0))
    """How long each length is; nothing of counts and answers."""

    def photo_of(self, n: int) -> int:
        """The photograph that a check is read on."""
        return int(self.groups[n][1:]) % PHOTOS


def draw_guide(world: World, rng: np.random.Generator) -> Guide:
    """A guide with its library."""
    kinds = [Kind.CONTINUOUS] * 20 + [Kind.COUNT] * 12 + [Kind.ANSWER] * 8
    groups = [f"g{rng.integers(20)}" for _ in kinds]
    usual: list = [0.0] * 20 + [int(n) for n in rng.integers(5, 30, 12)] + ["usual"] * 8
    minutes = rng.uniform(0.1, 0.6, len(kinds))
    guide = Guide(kinds, groups, minutes, usual, [[] for _ in kinds], {}, {}, world, {20, 21, 22})
    # Drawn apart, so that worlds without scales are the same pairs as before there were any.
    sizes = np.random.default_rng([*SIZES_SEED, len(kinds)]).uniform(*SIZES, len(kinds))
    guide.sizes = np.where([kind is Kind.CONTINUOUS for kind in kinds], sizes, 0.0)
    for n in range(world.retail_pairs):
        is_last = n == world.retail_pairs - 1
        is_copy = world.mislabelled and is_last
        pair = copy_pair(guide, draw_source(guide, rng), rng) if is_copy else retail_pair(guide, rng)
        if world.other_size and is_last:
            pair = [value + OTHER_SIZE * size if size else value for value, size in zip(pair, guide.sizes, strict=True)]
        for values, read in zip(guide.retail, pair, strict=True):
            values.append(read)
    for name in ("Bowline", "Sheepshank"):
        guide.sources[name] = draw_source(guide, rng)
        guide.batches[name] = [[] for _ in kinds]
        for _ in range(int(rng.integers(2, 4))):
            for values, read in zip(guide.batches[name], copy_pair(guide, guide.sources[name], rng), strict=True):
                values.append(read)
    return guide


def draw_source(guide: Guide, rng: np.random.Generator) -> Source:
    """A new source of copies."""
    right = rng.random(len(guide.kinds)) < rng.beta(*guide.world.quality)
    if guide.world.mixes:
        genuine = {group for group in sorted(set(guide.groups)) if rng.random() < RETAIL_PARTS}
        right |= np.array([group in genuine for group in guide.groups])
    lengths = np.where(right, 0.0, rng.normal(0, OFF, len(right))) * guide.world.looseness
    others: list = []
    for n, kind in enumerate(guide.kinds):
        if right[n] or kind is Kind.CONTINUOUS:
            others.append(guide.usual[n])
        elif kind is Kind.COUNT:
            others.append(guide.usual[n] + int(rng.choice([-2, -1, 1, 2], p=[1 / 6, 1 / 3, 1 / 3, 1 / 6])))
        else:
            others.append(str(rng.choice(ANSWERS[1:])))
    return Source(right, lengths, others)


def improved(guide: Guide, source: Source, rng: np.random.Generator) -> Source:
    """The same source later, with a share of its faults put right."""
    fixed = ~source.right & (rng.random(len(source.right)) < guide.world.improves)
    others = [guide.usual[n] if fixed[n] else other for n, other in enumerate(source.others)]
    return Source(source.right | fixed, np.where(fixed, 0.0, source.lengths), others)


def _residuals(guide: Guide, scatter: float, rng: np.random.Generator) -> np.ndarray:
    """Scatter of one pair's lengths, alike within a group as far as the world says, and of reading them."""
    shared = {group: rng.normal() for group in sorted(set(guide.groups))}
    part = np.sqrt(guide.world.correlation)
    own = np.array([part * shared[g] + np.sqrt(1 - part**2) * rng.normal() for g in guide.groups])
    if guide.world.hidden_cause:
        hidden = np.sqrt(guide.world.hidden_cause)
        own = hidden * rng.normal(size=CAUSES)[np.arange(len(own)) % CAUSES] + np.sqrt(1 - hidden**2) * own
    if guide.world.loose_pairs and rng.random() < guide.world.loose_pairs:
        scatter *= LOOSE
    return guide.world.looseness * scatter * own + READ * rng.normal(size=len(own))


def _pair(guide: Guide, lengths: np.ndarray, others: list, scatter: float, rng: np.random.Generator) -> list:
    noise = _residuals(guide, scatter, rng)
    found: list = []
    for n, kind in enumerate(guide.kinds):
        value = others[n]
        if kind is Kind.CONTINUOUS:
            found.append(float(lengths[n] + noise[n]))
        elif kind is Kind.COUNT:
            odd = n not in guide.decisive and rng.random() < 2 * RETAIL_ODD_COUNT
            found.append(value + int(odd) * int(rng.choice([-1, 1])))
        else:
            odd = rng.random() < RETAIL_ODD_ANSWER
            found.append(str(rng.choice([a for a in ANSWERS if a != value])) if odd else value)
    return found


def retail_pair(guide: Guide, rng: np.random.Generator) -> list:
    """What a retail pair reads, check by check."""
    return _pair(guide, np.zeros(len(guide.kinds)), guide.usual, 1.0, rng)


def copy_pair(guide: Guide, source: Source, rng: np.random.Generator) -> list:
    """What a copy of a source reads."""
    return _pair(guide, source.lengths, source.others, COPY_SCATTER, rng)


def suspect(guide: Guide, rng: np.random.Generator, *, retail: bool) -> tuple[list, list[float]]:
    """What a pair shown to the shop reads (None: not compared), and the stated standard uncertainties."""
    world = guide.world
    source = None if retail else _source(guide, rng)
    read = copy_pair(guide, source, rng) if source else retail_pair(guide, rng)
    unsure = [READ if kind is Kind.CONTINUOUS else 0.0 for kind in guide.kinds]
    _misread(guide, read, rng)
    if world.scales_off:
        _misscale(guide, read, unsure, rng)
    for n, kind in enumerate(guide.kinds):
        if kind is Kind.COUNT and rng.random() < 2 * world.miscounts:
            unsure[n] = 0.5
            if rng.random() < 0.5:
                read[n] += int(rng.choice([-1, 1]))
        if world.worn and kind is Kind.CONTINUOUS:
            read[n] += float(rng.normal(0, 0.8))
            unsure[n] = float(np.hypot(READ, 0.8))
        if rng.random() < (world.missing if not (world.worn and kind is Kind.ANSWER) else 0.6):
            read[n] = None
    if world.selects and source:
        hidden = ~source.right & (rng.random(len(read)) < HIDDEN)
        read = [None if hides else value for value, hides in zip(read, hidden, strict=True)]
    return read, unsure


def _source(guide: Guide, rng: np.random.Generator) -> Source:
    """Where a copy that is shown comes from."""
    if rng.random() >= guide.world.known:
        return draw_source(guide, rng)
    known = guide.sources[str(rng.choice(sorted(guide.sources)))]
    return improved(guide, known, rng) if guide.world.improves else known


def _misscale(guide: Guide, read: list, unsure: list[float], rng: np.random.Generator) -> None:
    """Lengths of one photograph are off together, by what its scale claims or by far more."""
    wide = np.where(rng.random(PHOTOS) < guide.world.scales_off, SCALE_OFF, SCALE)
    errors = wide * rng.normal(size=PHOTOS)
    for n, size in enumerate(guide.sizes):
        if size:
            read[n] += float(errors[guide.photo_of(n)] * size)
            unsure[n] = float(np.hypot(unsure[n], SCALE * size))


def _misread(guide: Guide, read: list, rng: np.random.Generator) -> None:
    """Far off, and sure of it; of sure signs, which a person looks at before they count, one in ten stays."""
    for n, kind in enumerate(guide.kinds):
        rate = guide.world.misread * (1 - SEEN_BY_EYE if n in guide.decisive else 1)
        if kind is not Kind.ANSWER and rng.random() < rate:
            read[n] += float(rng.normal(0, OFF)) if kind is Kind.CONTINUOUS else int(rng.choice([-2, -1, 1, 2]))


def signs(guide: Guide, read: list, unsure: list[float]) -> list[EvidenceItem]:
    """The same as the weighing takes it."""
    belief = {
        Kind.CONTINUOUS: Prior(4, 1.05),
        Kind.COUNT: Prior(2, off_by_one=RETAIL_ODD_COUNT),
        Kind.ANSWER: Prior(2, possible=ANSWERS, rare=dict.fromkeys(ANSWERS[1:], RETAIL_ODD_ANSWER / 2)),
    }
    return [
        EvidenceItem(
            key=f"c{n}",
            group=guide.groups[n],
            kind=kind,
            value=read[n],
            uncertainty=unsure[n],
            retail=guide.retail[n],
            prior=belief[kind],
            batches={name: values[n] for name, values in guide.batches.items()},
            cap_against=30.0 if n in guide.decisive else 15.0,
            lessened=("unsure",) if kind is Kind.COUNT and unsure[n] >= 0.3 else ("worn",) if guide.world.worn else (),
            minutes=float(guide.minutes[n]),
            reading_error=READING_ERROR_SEEN if n in guide.decisive else READING_ERROR,
            scale=SharedScale(f"photo {guide.photo_of(n)}", SCALE, float(guide.sizes[n]))
            if guide.world.scales_off and guide.sizes[n]
            else None,
        )
        for n, kind in enumerate(guide.kinds)
    ]


def oracle(guide: Guide, read: list, unsure: list[float]) -> float:
    """log10 of the exact likelihood ratio, retail against copy."""
    told = [n for n, value in enumerate(read) if value is not None]
    ours = _log_known(guide, read, unsure, told, np.zeros(len(guide.kinds)), guide.usual, 1.0)
    parts = []
    if guide.world.known > 0:
        for source in guide.sources.values():
            one = _log_known(guide, read, unsure, told, source.lengths, source.others, COPY_SCATTER, source.right)
            parts.append(np.log(guide.world.known / len(guide.sources)) + one)
    if guide.world.known < 1:
        steps = (np.arange(200) + 0.5) / 200
        a, b = guide.world.quality
        weights = steps ** (a - 1) * (1 - steps) ** (b - 1)
        each = np.array([_log_unknown(guide, read, unsure, told, q) for q in QUALITIES])
        at = np.interp(steps, QUALITIES, each)
        top = at.max()
        parts.append(np.log(1 - guide.world.known) + top + np.log((weights * np.exp(at - top)).sum() / weights.sum()))
    return float((ours - np.logaddexp.reduce(parts)) / np.log(10))


def _covariance(guide: Guide, members: list[int], unsure: list[float], scatter: float) -> np.ndarray:
    alike = np.full((len(members),) * 2, guide.world.correlation)
    np.fill_diagonal(alike, 1.0)
    return (guide.world.looseness * scatter) ** 2 * alike + np.diag([unsure[n] ** 2 for n in members])


def _log_normal(values: np.ndarray, covariance: np.ndarray) -> float:
    _, size = np.linalg.slogdet(covariance)
    return float(-0.5 * (values @ np.linalg.solve(covariance, values) + size + len(values) * np.log(2 * np.pi)))


def _by_group(guide: Guide, told: list[int]) -> list[list[int]]:
    found: dict[str, list[int]] = {}
    for n in told:
        if guide.kinds[n] is Kind.CONTINUOUS:
            found.setdefault(guide.groups[n], []).append(n)
    return list(found.values())


def _log_known(guide, read, unsure, told, lengths, others, scatter, right=None) -> float:  # noqa: PLR0917
    """log p(all | retail, or a known source, which may have improved)."""
    fixed = guide.world.improves if right is not None else 0.0
    total = 0.0
    for members in _by_group(guide, told):
        here = np.array([read[n] for n in members])
        covariance = _covariance(guide, members, unsure, scatter)
        wrong = [m for m, n in enumerate(members) if fixed and not right[n]]
        logs = []
        for pattern in product((0, 1), repeat=len(wrong)):
            mean = np.array([lengths[n] for n in members], float)
            mean[[m for m, put in zip(wrong, pattern, strict=True) if put]] = 0.0
            share = np.prod([fixed if put else 1 - fixed for put in pattern]) if wrong else 1.0
            logs.append(np.log(share) + _log_normal(here - mean, covariance))
        total += np.logaddexp.reduce(logs)
    for n in told:
        if guide.kinds[n] is not Kind.CONTINUOUS:
            chance = _chance(guide, n, read[n], others[n], unsure[n])
            if fixed and not right[n]:
                chance = fixed * _chance(guide, n, read[n], guide.usual[n], unsure[n]) + (1 - fixed) * chance
            total += np.log(chance)
    return total


def _log_unknown(guide, read, unsure, told, quality) -> float:
    """log p(all | a source nobody has seen, of this quality)."""
    total = 0.0
    for members in _by_group(guide, told):
        here = np.array([read[n] for n in members])
        covariance = _covariance(guide, members, unsure, COPY_SCATTER)
        logs = []
        for pattern in product((0, 1), repeat=len(members)):
            wrong = np.diag([(OFF * guide.world.looseness) ** 2 * one for one in pattern])
            share = np.prod([1 - quality if one else quality for one in pattern])
            logs.append(np.log(share) + _log_normal(here, covariance + wrong))
        total += np.logaddexp.reduce(logs)
    for n in told:
        usual = guide.usual[n]
        if guide.kinds[n] is Kind.COUNT:
            others = [(usual - 2, 1 / 6), (usual - 1, 1 / 3), (usual + 1, 1 / 3), (usual + 2, 1 / 6)]
        elif guide.kinds[n] is Kind.ANSWER:
            others = [(answer, 0.5) for answer in ANSWERS[1:]]
        else:
            continue
        wrong = sum(share * _chance(guide, n, read[n], other, unsure[n]) for other, share in others)
        total += np.log(quality * _chance(guide, n, read[n], usual, unsure[n]) + (1 - quality) * wrong)
    return total


def _chance(guide: Guide, n: int, value: object, true: object, unsure: float) -> float:
    """Probability of reading a count or answer where the source's own is ``true``."""
    if guide.kinds[n] is Kind.ANSWER:
        return 1 - RETAIL_ODD_ANSWER if value == true else RETAIL_ODD_ANSWER / (len(ANSWERS) - 1)
    odd = {0: 1 - 2 * RETAIL_ODD_COUNT, 1: RETAIL_ODD_COUNT, -1: RETAIL_ODD_COUNT}
    if not unsure:
        return max(odd.get(value - true, 0.0), 1e-9)
    misread, off = ((0, 0.5), (1, 0.25), (-1, 0.25)), value - true
    return max(sum(p * share for d, p in odd.items() for e, share in misread if d + e == off), 1e-9)
