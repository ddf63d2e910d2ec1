"""Cards: one checkpoint of one pair beside retail's, nothing marked; made of what the shop knows and of simulated
close-ups with known truth. A card's key says all of it, so that it is the same whenever it comes back."""

import random
from collections.abc import Iterator
from dataclasses import dataclass, field

from django.core.exceptions import ObjectDoesNotExist
from django.db.models import OuterRef, Q, Subquery

from assay.errors import AssayError
from assay.judge.applicability import why_void
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, judge
from assay.measure.registry import MEASURES
from casework.bench.panel import answer_names, written
from casework.models import Outcome
from casework.paper_wording import condition_words
from casework.retail import compares, prior_of, quantity_of
from drills.simulated import FAULTS, told
from library.models import Checkpoint
from pairs.models import Marking, Organisation, Pair, Photo, Reading, Standing
from pairs.queries import latest_numbers

KINDS = {
    "count": "Counts", "shade": "Shades", "texture": "Textures", "mark": "Marks and print", "uv": "Under UV",
    "shape": "Shape", "which": "Which of two is retail", "facts": "Facts first", "case": "A whole pair, by the clock",
}  # fmt: skip
# What is said with the keys 1 to 5: how likely the signal is there.
SAID = (0.05, 0.25, 0.5, 0.75, 0.95)
WORDS = {
    "which": ("Left, surely", "Left, I think", "Can’t tell", "Right, I think", "Right, surely"),
    "facts": ("It counts, surely", "It counts, I think", "Can’t tell", "It is void, I think", "It is void, surely"),
}  # fmt: skip
LEGIT_OR_FAKE = ("Legit, surely", "Legit, I think", "Can’t tell", "Fake, I think", "Fake, surely")
CLOCK_S = 60


@dataclass(frozen=True, slots=True)
class Picture:
    """A piece of a photograph, or a simulated close-up."""

    name: str
    photo: int = 0
    box: tuple[float, ...] = ()
    strokes: tuple = ()
    """(points, radius of a ring in px or 0) of what was measured."""
    mm_per_px: float | None = None
    simulated: tuple = ()


@dataclass(frozen=True, slots=True)
class Card:
    """A question with its answer."""

    key: str
    kind: str
    level: int
    title: str
    asks: str
    signal: bool
    """Whether what the keys 4 and 5 stand for is so."""
    pictures: tuple[Picture, ...] = ()
    lines: tuple[str, ...] = ()
    """Shown with the question: facts of a case, say."""
    shown: tuple[str, ...] = field(default=())
    """Told once it was answered."""

    @property
    def answers(self) -> tuple[str, ...]:
        return WORDS.get(self.kind, LEGIT_OR_FAKE)


def _rng(seed: str | int) -> random.Random:
    """Chance that stays the same for a card; no secret."""
    return random.Random(seed)  # noqa: S311


def card_of(key: str, organisation: Organisation) -> Card | None:
    """The card of a key, as far as it is still the shop's to show. Few queries."""
    made, _, rest = key.partition(":")
    parts = rest.split(":")
    try:
        return MAKERS[made](organisation, *parts)
    except (KeyError, ValueError, TypeError, StopIteration, OverflowError, ObjectDoesNotExist, AssayError):
        return None


def pool(organisation: Organisation, kind: str, level: int, seed: int) -> Iterator[str]:
    """Keys of cards of a kind, in an order of their own."""
    rng, keys = _rng(seed), []
    if kind == "facts":
        wanted = [check for check in _checks(organisation) if check.applies_when]
        keys = [f"facts:{one.pk}:{n}" for one in wanted for n in range(3)]
    elif kind == "case":
        keys = [f"case:{retail.pk}:{other.pk}" for retail, other in _pairs(organisation)]
    else:
        keys = list(_of_pairs(organisation, kind))
        if kind in set(FAULTS.values()):
            keys += [
                f"sim:{fault}:{level}:{rng.randrange(10_000)}"
                for fault, of in FAULTS.items() if of == kind for _ in range(6)
            ]  # fmt: skip
    rng.shuffle(keys)
    yield from keys


def _kind_of(checkpoint: Checkpoint) -> str:
    """Which kind of exercise a check makes."""
    return MEASURES[checkpoint.measure].drill if checkpoint.measure in MEASURES else "shape"


def _checks(organisation: Organisation) -> list[Checkpoint]:
    found = Checkpoint.objects.filter(release__pairs__organisation=organisation).distinct()
    return list(found.select_related("release").order_by("pk"))


def _known(organisation: Organisation):
    """Pairs of which it is known what they are: the library's, and those of closed cases whose outcome was learned."""
    learned = Outcome.objects.filter(case__pair=OuterRef("pk"), case__discarded_at=None).order_by("-pk")
    pairs = Pair.objects.filter(organisation=organisation).annotate(turned_out=Subquery(learned.values("so")[:1]))
    closed = Q(standing=Standing.SUSPECT, turned_out__isnull=False, photos__isnull=False)
    pairs = pairs.filter(Q(standing__in=(Standing.RETAIL, Standing.COPY)) | closed).distinct()
    return pairs.select_related("release", "batch")


def _is_copy(pair: Pair) -> bool:
    """Of one of ``_known``."""
    return pair.standing == Standing.COPY or (pair.standing == Standing.SUSPECT and pair.turned_out == "fake")


def _pairs(organisation: Organisation) -> list[tuple[Pair, Pair]]:
    """(the first verified pair, another one of which it is known what it is) of every generation."""
    groups: dict[tuple, list] = {}
    for pair in _known(organisation).order_by("label"):
        groups.setdefault((pair.release.shoe_model_id, pair.release.generation), []).append(pair)
    found = []
    for pairs in groups.values():
        first = next((one for one in pairs if one.standing == Standing.RETAIL), None)
        found += [(first, one) for one in pairs if first and one != first]
    return found


def _of_pairs(organisation: Organisation, kind: str) -> Iterator[str]:
    """Checks that are marked on a retail pair and on another: fair ones, whose readings tell what the truth is."""
    pairs = _pairs(organisation)
    read = latest_numbers({one for both in pairs for one in both})
    marked = set(
        Marking.objects.filter(photo__pair__in={one.pk for both in pairs for one in both}).values_list(
            "photo__pair", "checkpoint"
        )
    )
    checks = {one.pk: one for one in _checks(organisation) if one.measure and not compares(one)}
    for retail, other in pairs:
        for key, check in checks.items():
            if kind != "which" and _kind_of(check) != kind:
                continue
            if kind == "which" and not _is_copy(other):
                continue
            if {(retail.pk, key), (other.pk, key)} <= marked and _fair(check, retail, other, pairs, read):
                yield f"{'which' if kind == 'which' else 'pair'}:{key}:{retail.pk}:{other.pk}"


def _fair(check, retail, other, pairs, read) -> bool:
    grade = _grade(check, other, pairs, read)
    return grade in (Grade.DEPARTS, Grade.DRIFTS) if _is_copy(other) else grade == Grade.AGREES


def _grade(check, other, pairs, read) -> Grade | None:
    known = {one for both in pairs for one in both if one.standing == Standing.RETAIL and one != other}
    values = [quantity_of(check, read.get((one.pk, check.pk))) for one in known]
    value = quantity_of(check, read.get((other.pk, check.pk)))
    try:
        return judge(Kind(check.kind), [one for one in values if one is not None], value, prior_of(check)).grade
    except (AssayError, TypeError):
        return None


def _marked(check: Checkpoint, pair: Pair, name: str) -> Picture:
    marking = Marking.objects.filter(checkpoint=check, photo__pair=pair).select_related("photo").latest("pk")
    photo, xs, ys = marking.photo, *zip(*marking.points, strict=True)
    middle, half = (max(xs) + min(xs)) / 2, max(max(xs) - min(xs), max(ys) - min(ys), 160) * 0.75
    high = (max(ys) + min(ys)) / 2
    box = (middle - half, high - half * 0.8, middle + half, high + half * 0.8)
    read = Reading.objects.filter(checkpoint=check, pair=pair, photo=photo).only("overlay").first()
    strokes = [(one["points"], one.get("radius_px") or 0.0) for one in read.overlay] if read else []
    strokes = strokes or [(marking.points, 0.0)]
    return Picture(name, photo.pk, tuple(round(n, 1) for n in box), _plain(strokes), photo.mm_per_px)


def _plain(strokes: list) -> tuple:
    return tuple((tuple(map(tuple, points)), float(radius)) for points, radius in strokes)


def _both(organisation: Organisation, check: str, retail: str, other: str) -> tuple[Checkpoint, Pair, Pair]:
    pairs = _known(organisation)
    return (
        Checkpoint.objects.select_related("release").get(pk=int(check)),
        pairs.get(pk=int(retail)),
        pairs.get(pk=int(other)),
    )


def _told(check: Checkpoint, retail: Pair, other: Pair) -> tuple[str, ...]:
    read = latest_numbers([retail, other])
    names = answer_names(check)
    values = [quantity_of(check, read.get((one.pk, check.pk))) for one in (retail, other)]
    words = [written(check, value, names) if value is not None else "–" for value in values]
    return f"{check.name}: retail {words[0]}, this pair {words[1]}.", _what_it_is(other), check.instruction


def _what_it_is(pair: Pair) -> str:
    if pair.standing == Standing.SUSPECT:
        return f"A closed case: it turned out to be {pair.turned_out}."
    if pair.standing == Standing.COPY:
        return f"A known copy, batch {pair.batch.name}." if pair.batch else "A known copy."
    return f"Verified retail, {pair.label}."


def _pair_card(organisation: Organisation, check: str, retail: str, other: str) -> Card:
    one, ours, theirs = _both(organisation, check, retail, other)
    pictures = (_marked(one, ours, "Retail"), _marked(one, theirs, "This pair"))
    key, kind = f"pair:{check}:{retail}:{other}", _kind_of(one)
    return Card(
        key,
        kind,
        1,
        one.section,
        "Is this pair legit or fake?",
        _is_copy(theirs),
        pictures,
        (),
        _told(one, ours, theirs),
    )


def _which_card(organisation: Organisation, check: str, retail: str, other: str) -> Card:
    one, ours, theirs = _both(organisation, check, retail, other)
    key = f"which:{check}:{retail}:{other}"
    right = _rng(key).random() < 0.5
    order = (theirs, ours) if right else (ours, theirs)
    pictures = tuple(_marked(one, pair, name) for pair, name in zip(order, ("Left", "Right"), strict=True))
    return Card(
        key, "which", 1, one.section, "Which of the two is retail?", right, pictures, (), _told(one, ours, theirs)
    )


def _facts_card(organisation: Organisation, check: str, seed: str) -> Card:
    one = next(known for known in _checks(organisation) if known.pk == int(check))
    rng = _rng(f"{check}:{seed}")
    facts = {
        "condition": rng.choice(("deadstock", "tried_on", "worn")), "arrival": rng.choice(("own_box", "no_box")),
        "in_hand": rng.random() < 0.6, "reference_in_hand": rng.random() < 0.5,
        "region": rng.choice(("eu", "us", "asia")),
        "generation": one.release.generation, "year": one.release.year, "size_us": "9", "box_size_us": "9",
        "box_class": "", "size_class": "", "feet": rng.choice(("both", "left")), "tools": [],
    }  # fmt: skip
    void = why_void(one.applies_when, facts) is not None
    lines = (
        {"deadstock": "Never worn", "tried_on": "Tried on", "worn": "Worn"}[facts["condition"]],
        {"own_box": "Came in its own box", "no_box": "Came without a box"}[facts["arrival"]],
        "In the hand" if facts["in_hand"] else "From photographs only",
        "Both shoes" if facts["feet"] == "both" else "The left shoe only",
    )
    told = (condition_words(one.applies_when) or "It always applies.",)
    asks = f"Does “{one.name}” count here, or is it void?"
    return Card(f"facts:{check}:{seed}", "facts", 1, one.section, asks, void, (), lines, told)


def _case_card(organisation: Organisation, retail: str, other: str) -> Card:
    pairs = _known(organisation)
    ours, theirs = pairs.get(pk=int(retail)), pairs.get(pk=int(other))
    pictures = []
    for photo in (
        theirs.photos.filter(state=Photo.State.READ, set_aside=False).exclude(view="").order_by("view", "foot")
    ):
        beside = ours.photos.filter(view=photo.view, foot=photo.foot, state=Photo.State.READ).first()
        if beside:
            pictures += [Picture("Retail", beside.pk), Picture(photo.showing, photo.pk)]
    if not pictures:
        raise ValueError(other)
    asks = f"Legit or fake? {CLOCK_S} seconds."
    key, told = f"case:{retail}:{other}", (_what_it_is(theirs),)
    return Card(key, "case", 1, "A whole pair", asks, _is_copy(theirs), tuple(pictures[:8]), (), told)


def _simulated_card(_organisation: Organisation, fault: str, level: str, seed: str) -> Card:
    there = _rng(f"{fault}:{seed}").random() < 0.5
    level_, seed_ = min(5, max(1, int(level))), int(seed)
    pictures = (
        Picture("Retail", simulated=(fault, level_, seed_, 0)),
        Picture("This pair", simulated=(fault, level_, seed_, 1 if there else 2)),
    )
    key, kind = f"sim:{fault}:{level_}:{seed_}", FAULTS[fault]
    asks = "Is this pair legit or fake?"
    return Card(
        key, kind, level_, "Close-up, simulated", asks, there, pictures, (), (told(fault, level_, there=there),)
    )


MAKERS = {
    "pair": _pair_card, "which": _which_card, "facts": _facts_card, "case": _case_card, "sim": _simulated_card,
}  # fmt: skip
