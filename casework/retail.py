"""What verified pairs do, check by check: the numbers that a reading is judged against."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from assay.contracts import CORRECTED_BY_HAND, OTHER_FOOT, Comparison
from assay.errors import AssayError, CannotJudge
from assay.judge.judgement import Kind, Prior, fit_for_judging
from assay.measure.registry import MEASURES
from assay.paperwork.size_rule import carried
from assay.paperwork.sizes import Group
from assay.units import must_be_one_unit
from casework.models import Case
from library.models import Checkpoint, rule_of
from pairs.comparisons import compared, comparisons, descriptor_of, typical_of
from pairs.known import size_of
from pairs.models import Reading
from pairs.pictures import stroke_on_photo
from pairs.queries import latest_numbers, teaching_pairs

NOT_OF_RETAIL = ("rates", "copies")


def prior_of(checkpoint) -> Prior:
    """The checkpoint's belief, with its closed answers filled in."""
    belief = {name: value for name, value in checkpoint.prior.items() if name not in NOT_OF_RETAIL}
    if checkpoint.measure:
        belief |= {"usual": MEASURES[checkpoint.measure].usual.get(checkpoint.quantity), "one_way": one_way(checkpoint)}
    if compares(checkpoint) and checkpoint.kind == Kind.CONTINUOUS:
        entry, number = MEASURES[checkpoint.measure].comparing, checkpoint.quantity
        belief |= {"compares": True, "magnitude": number in entry.magnitudes}
        belief |= {"floor": entry.floors.get(number, 0.0), "typical": entry.typical.get(number, 0.0)}
    return Prior(**belief, possible=tuple(key for key, *_ in checkpoint.answers))


def numbers_of(reading: Reading, compared: dict | None = None) -> dict:
    """Every number of a reading, those that come of comparing it included."""
    return {**reading.parts, **(compared or {}).get("parts", {})}


def quantity_of(checkpoint, reading: Reading | None, compared: dict | None = None):
    """The number a checkpoint judges: the reading's value, one of its parts, or one that comes of comparing it; None
    where there is none in the check's own unit: pixels are no millimetres."""
    if reading is None or reading.value is None or not _in_its_unit(checkpoint, reading):
        return None
    if checkpoint.kind == Kind.PAPER:
        return reading.parts.get("retail_rate")
    if not checkpoint.quantity:
        return reading.value
    number = numbers_of(reading, compared).get(checkpoint.quantity)
    return int(number) if checkpoint.kind == Kind.COUNT and number is not None else number


def _in_its_unit(checkpoint, reading) -> bool:
    """Whether a reading's value is in the unit that its check judges; parts carry theirs in their names."""
    if checkpoint.quantity or checkpoint.kind in (Kind.PAPER, Kind.ANSWER):
        return True
    wanted = MEASURES[checkpoint.measure].unit if checkpoint.measure in MEASURES else checkpoint.unit
    try:
        must_be_one_unit(reading.unit, wanted)
    except CannotJudge:
        return False
    return True


def uncertainty_of(checkpoint, reading: Reading, compared: dict | None = None) -> float:
    """Standard uncertainty of that number."""
    own = reading.uncertainty
    if checkpoint.quantity:
        own = numbers_of(reading, compared).get(f"{checkpoint.quantity}_uncertainty", 0.0)
    if checkpoint.kind == Kind.COUNT:
        return fit_for_judging(Kind.COUNT, own, unfit_photo=from_unfit_photo(reading))
    return own


def number_uncertainty(checkpoint, reading) -> float:
    """Standard uncertainty of the number that a check judges, as it was read."""
    return reading.parts.get(f"{checkpoint.quantity}_uncertainty", 0.0) if checkpoint.quantity else reading.uncertainty


def rests_on_carried_marks(checkpoint, reading: Reading) -> bool:
    """Whether it was read by a machine at marks that nobody has put in place or looked at."""
    if not checkpoint.measure and not checkpoint.left_id:
        return False
    return not reading.put_right and (reading.photo_id is not None or bool(checkpoint.left_id))


def reads_its_own_marks(checkpoint) -> bool:
    """Whether the marks are what it measures: nothing is found in the picture."""
    return bool(checkpoint.measure) and MEASURES[checkpoint.measure].marks_are_measured


def from_unfit_photo(reading: Reading) -> bool:
    """Whether the machine read it off a photograph that should be taken again; what a person put right is theirs."""
    unfit = reading.photo is not None and bool(reading.photo.fitness.retake)
    return unfit and CORRECTED_BY_HAND not in reading.doubts


def one_way(checkpoint) -> bool:
    """Whether only what is found speaks: what is not there may have been washed off."""
    return bool(checkpoint.measure) and checkpoint.quantity in MEASURES[checkpoint.measure].one_way


def compares(checkpoint) -> bool:
    """Whether what it judges is there only once two readings are compared."""
    return bool(checkpoint.measure) and MEASURES[checkpoint.measure].compares(checkpoint.quantity)


@dataclass(frozen=True, slots=True)
class Retail:
    """[pair label, value] of every verified pair that can be compared, and how many cannot for their size."""

    values: list
    other_sizes: int = 0
    readings: tuple[int, ...] = ()
    """Of comparing measures: the readings that a pair's own is laid beside."""
    uncertainty: tuple[float, ...] = ()
    """Standard uncertainties of ``values``, one each."""


def retail_values(case: Case, checkpoints) -> dict[int, Retail]:
    """What verified pairs read, per checkpoint, lengths carried over to this pair's size. Two queries, and two for
    every measure that compares."""
    known = teaching_pairs(case.pair)
    readings = latest_numbers(known)
    plain = {
        checkpoint.pk: _retail_of(case, checkpoint, [(p, readings.get((p.pk, checkpoint.pk))) for p in known])
        for checkpoint in checkpoints
        if not compares(checkpoint)
    }
    return plain | retail_compared(case, [one for one in checkpoints if one.pk not in plain], known, readings)


def _retail_of(case: Case, checkpoint, read: list) -> Retail:
    found = [(pair, quantity_of(checkpoint, reading)) for pair, reading in read]
    found = [(pair, value) for pair, value in found if value is not None]
    ids = tuple(reading.pk for _, reading in read if reading is not None and reading.value is not None)
    if checkpoint.kind == Kind.PAPER:
        return Retail([])
    unsure = {pair.pk: number_uncertainty(checkpoint, reading) for pair, reading in read if reading is not None}
    if checkpoint.kind != Kind.CONTINUOUS:
        off = tuple(unsure[pair.pk] for pair, _ in found) if checkpoint.kind == Kind.COUNT else ()
        return Retail([[pair.label, value] for pair, value in found], readings=ids, uncertainty=off)
    carried = carried_over(case, checkpoint, found)
    values = [[pair.label, value] for pair, value in carried]
    return Retail(values, len(found) - len(values), ids, tuple(unsure[pair.pk] for pair, _ in carried))


def carried_over(case: Case, checkpoint, found: list) -> list:
    """(pair, length) of other pairs as they would be on this pair's size; those that cannot be compared left out."""
    release = case.pair.release
    rule, group, onto = rule_of(checkpoint, release.shoe_model.maker), Group(release.group), size_of(case.pair.size_us)
    moved = ((pair, carried(value, rule, size_of(pair.size_us), onto, group)) for pair, value in found)
    return [(pair, value) for pair, value in moved if value is not None]


def retail_compared(case: Case, checkpoints: list[Checkpoint], known: list, readings: Mapping) -> dict[int, Retail]:
    """Of checks that compare: how each verified pair lies beside the others, itself left out.

    A single pair is laid beside its own other foot, as a mirror shows it. ``known``: verified pairs; ``readings``:
    their latest, by pair and check.
    """
    usable = {checkpoint.pk: _usable(case, checkpoint, known, readings) for checkpoint in checkpoints}
    typical = beside_each_other(checkpoints, {pk: mine for pk, (mine, _) in usable.items()}, readings)
    found = {}
    for checkpoint in checkpoints:
        mine, other_sizes = usable[checkpoint.pk]
        told = [
            (pair, beside) for pair, beside in typical[checkpoint.pk] if beside and checkpoint.quantity in beside.parts
        ]
        values = [[pair.label, _judged_part(checkpoint, beside)] for pair, beside in told]
        unsure = tuple(beside.parts.get(f"{checkpoint.quantity}_uncertainty", 0.0) for _, beside in told)
        found[checkpoint.pk] = Retail(values, other_sizes, tuple(pk for _, pk in mine), unsure)
    return found


def beside_each_other(checkpoints: list[Checkpoint], usable: Mapping[int, list[tuple]], readings: Mapping) -> dict:
    """By check (pair, how it typically lies beside the others). ``usable``: (pair, reading) that may be compared."""
    wanted = {
        checkpoint.pk: list(_each_beside_others(checkpoint, usable[checkpoint.pk], readings))
        for checkpoint in checkpoints
    }
    found: dict[tuple, Comparison | AssayError] = {}
    for measure in {checkpoint.measure for checkpoint in checkpoints}:
        keys = {
            key
            for checkpoint in checkpoints
            if checkpoint.measure == measure
            for _, keys in wanted[checkpoint.pk]
            for key in keys
        }
        found |= comparisons(measure, keys)
    return {pk: [(pair, typical_of(found[key] for key in keys)) for pair, keys in each] for pk, each in wanted.items()}


def retail_numbers(case: Case, checkpoint: Checkpoint) -> list[tuple]:
    """(pair, every number of its reading, compared ones included) of the verified pairs. Three queries or so."""
    known = teaching_pairs(case.pair)
    readings = latest_numbers(known)
    rows = [(pair, readings.get((pair.pk, checkpoint.pk))) for pair in known]
    rows = [(pair, row) for pair, row in rows if row is not None and row.value is not None]
    beside: dict = {}
    if MEASURES[checkpoint.measure].comparing is not None:
        usable, _ = _usable(case, checkpoint, known, readings)
        beside = dict(beside_each_other([checkpoint], {checkpoint.pk: usable}, readings)[checkpoint.pk])
    return [(pair, {**row.parts, **(beside[pair].parts if beside.get(pair) else {})}) for pair, row in rows]


def compared_with(checkpoint: Checkpoint, retail: Retail, reading: Reading | None) -> dict:
    """A reading beside the verified pairs': numbers, what to draw on its photograph, with how many; or why not."""
    entry = MEASURES[checkpoint.measure] if checkpoint.measure else None
    if entry is None or entry.comparing is None or reading is None or reading.value is None or not retail.readings:
        return {}
    found = comparisons(entry.name, {(reading.pk, theirs, False) for theirs in retail.readings})
    beside = typical_of(found.values())
    if beside is None:
        return {"why": next(iter(found.values())).reason}
    used = sum(isinstance(one, Comparison) for one in found.values())
    return {
        "parts": {name: round(value, 6) for name, value in beside.parts.items()},
        "overlay": [stroke_on_photo(stroke, reading) for stroke in beside.overlay],
        "with": used,
    }


def ahead_of_keeping(checkpoint: Checkpoint, retail: Retail, reading: Reading) -> dict[int, Comparison | AssayError]:
    """A reading that is not kept yet compared with the verified pairs', by theirs: outside of any transaction."""
    entry = MEASURES[checkpoint.measure].comparing
    if entry is None or not reading.descriptor or not retail.readings:
        return {}
    kept = Reading.objects.filter(pk__in=retail.readings).exclude(descriptor=None).values_list("pk", "descriptor")
    known = [(pk, descriptor_of(one)) for pk, one in kept]
    found = compared(entry, descriptor_of(reading.descriptor), [(one, False) for _, one in known])
    return {pk: one for (pk, _), one in zip(known, found, strict=True)}


def _usable(case: Case, checkpoint: Checkpoint, known: list, readings: Mapping) -> tuple[list[tuple], int]:
    """(pair, reading) of verified pairs whose lengths are as they would be on this pair's size; how many are not."""
    release, onto = case.pair.release, size_of(case.pair.size_us)
    rule, group = rule_of(checkpoint, release.shoe_model.maker), Group(release.group)
    read = [(pair, readings.get((pair.pk, checkpoint.pk))) for pair in known]
    read = [(pair, row.pk) for pair, row in read if row is not None and row.value is not None]
    alike = [(pair, pk) for pair, pk in read if carried(1.0, rule, size_of(pair.size_us), onto, group) == 1.0]
    return alike, len(read) - len(alike)


def _each_beside_others(checkpoint: Checkpoint, mine: list[tuple], readings: Mapping) -> Iterable[tuple]:
    """(pair, what its reading is compared with): (ours, theirs, mirrored)."""
    if len(mine) == 1 and checkpoint.foot:
        (pair, ours), twin = mine[0], _twin(checkpoint)
        theirs = readings.get((pair.pk, twin.pk)) if twin else None
        if theirs is not None and theirs.value is not None:
            yield pair, [(ours, theirs.pk, True)]
        return
    for pair, ours in mine:
        others = [(ours, theirs, False) for _, theirs in mine if theirs != ours]
        if others:
            yield pair, others


def _twin(checkpoint: Checkpoint) -> Checkpoint | None:
    """The same check of the other foot. One query."""
    same = {name: getattr(checkpoint, name) for name in ("release_id", "view", "measure", "quantity")}
    return Checkpoint.objects.filter(foot=OTHER_FOOT[checkpoint.foot], **same).first()


def _judged_part(checkpoint: Checkpoint, beside: Comparison) -> float | int:
    number = beside.parts[checkpoint.quantity]
    return int(number) if checkpoint.kind == Kind.COUNT else number
