"""From models to the core's judgement and back: numbers in, findings out."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from types import MappingProxyType

from django.db.models import Q

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import CannotJudge
from assay.judge import applicability
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import Judged, Kind, fit_for_judging, judge
from assay.judge.rules import GradedItem, Policy, Ultraviolet
from assay.measure.registry import MEASURES
from assay.paperwork.size_rule import band_of
from assay.units import Unit
from casework.models import Case, Finding, OrganisationPolicy
from casework.retail import (
    Retail,
    compared_with,
    compares,
    from_unfit_photo,
    one_way,
    prior_of,
    quantity_of,
    reads_its_own_marks,
    rests_on_carried_marks,
    retail_values,
    uncertainty_of,
)
from pairs.actions.compare_feet import compare_feet
from pairs.known import size_of
from pairs.models import Reading
from pairs.queries import inscriptions_of

# The reason of a finding whose checkpoint does not apply; it then counts neither way.
VOID = "void"
# The reason where what was looked for was not found, and that says nothing: it counts neither way as well.
CLEAN = "clean_says_nothing"
# What a finding says; the rest is what it is about.
STATE = (
    "reading",
    "grade",
    "tail_probability",
    "retail",
    "retail_uncertainty",
    "compared",
    "reason",
    "void",
    "confirmed_by",
)


def facts_of(case: Case) -> dict:
    """What is known of a case before anything is looked at, as conditions ask for it. One query."""
    pair, maker = case.pair, case.pair.release.shoe_model.maker
    box = _box_size(pair)
    return {
        "condition": pair.condition,
        "arrival": case.arrival,
        "in_hand": case.in_hand,
        "reference_in_hand": case.reference_in_hand,
        "region": pair.region,
        "generation": pair.generation or pair.release.generation,
        "release_generation": pair.release.generation,
        "year": pair.release.year,
        "size_us": pair.size_us,
        "box_size_us": box,
        "box_class": _class_name(maker, box),
        "size_class": _class_name(maker, pair.size_us),
        "feet": pair.feet,
        "tools": case.tools,
    }


def _box_size(pair) -> str:
    """The size on the box: as its label's row has it, else as somebody said."""
    row = inscriptions_of(pair).get("box.sizes")
    named = dict(part.split(" ", 1) for part in row.text.split("  ")) if row else {}
    return named.get("US", "") or pair.box_size_us


def _class_name(maker, size_us: str) -> str:
    band = band_of(size_of(size_us), maker.box_classes)
    return "" if band is None else maker.box_classes[band][2]


def judged(checkpoint, retail: Retail, finding: Finding, ultraviolet: str = Ultraviolet.FOUND_COUNTS) -> Judged:
    """Judge a finding's reading, by the shop's rule on ultraviolet light. Raises CannotJudge."""
    reading, compared = finding.reading, finding.compared
    value = quantity_of(checkpoint, reading, compared)
    if compares(checkpoint) and not (retail.readings or retail.values):
        raise CannotJudge("other_size" if retail.other_sizes else "no_retail_pairs")
    if value is None:
        raise CannotJudge(compared.get("why") or _why_no_value(checkpoint))
    if reads_its_own_marks(checkpoint) and rests_on_carried_marks(checkpoint, reading):
        # It would measure how well marks were carried, and hide the fault.
        raise CannotJudge("marks_to_place")
    if retail.other_sizes and not retail.values:
        raise CannotJudge("other_size")
    if retail.readings and not retail.values:
        raise CannotJudge("one_retail_pair")
    kind = Kind(checkpoint.kind)
    strict = ultraviolet == Ultraviolet.DIRTY_IS_FAKE
    own = uncertainty_of(checkpoint, reading, compared)
    return judge(
        kind,
        [value for _, value in retail.values],
        value,
        replace(prior_of(checkpoint), one_way=one_way(checkpoint) and not strict),
        retail_uncertainty=retail.uncertainty,
        uncertainty=fit_for_judging(kind, own, unfit_photo=from_unfit_photo(reading)),
        decisive=checkpoint.decisive or (strict and one_way(checkpoint)),
        confirmed=finding.confirmed_by_id is not None,
    )


def _why_no_value(checkpoint) -> str:
    if checkpoint.kind == Kind.PAPER:
        return "not_contradicted"
    unit = MEASURES[checkpoint.measure].numbers.get(checkpoint.quantity) if checkpoint.measure else checkpoint.unit
    return "no_scale" if unit and unit in set(Unit) and Unit(unit).length_power else "not_measured"


@dataclass(frozen=True, slots=True)
class GradingContext:
    """What findings of a case are graded against; it stays the same while its photographs are measured."""

    checkpoints: list
    retail: dict[int, Retail]
    facts: dict
    ultraviolet: str


def grading_context(case: Case, checkpoints: list | None = None) -> GradingContext:
    """The ground as it is now, for all checks or for some."""
    rows = case.pair.release.checkpoints.select_related("left", "right")
    checkpoints = list(rows) if checkpoints is None else checkpoints
    policy = policy_in_force(case.organisation)
    return GradingContext(
        checkpoints,
        retail_values(case, checkpoints),
        facts_of(case),
        policy.ultraviolet if policy else Ultraviolet.FOUND_COUNTS,
    )


def regrade(case: Case) -> None:
    """Bring every finding of a case up to date with its readings. A changed reading must be confirmed anew."""
    readings = compare_feet(pair=case.pair)
    ground = grading_context(case)
    regrade_these(case, ground, {checkpoint.pk: readings.get(checkpoint.pk) for checkpoint in ground.checkpoints})


def regrade_touched(case: Case, checkpoint) -> None:
    """Bring one checkpoint's finding up to date, and those that hold two numbers against each other of which it is one.
    Some ten queries: the write lock is held a sixth as long as for all."""
    readings = compare_feet(pair=case.pair)
    ends = Q(pk=checkpoint.pk) | Q(left=checkpoint) | Q(right=checkpoint)
    touched = list(case.pair.release.checkpoints.filter(ends).select_related("left", "right"))
    regrade_these(case, grading_context(case, touched), {one.pk: readings.get(one.pk) for one in touched})


def regrade_these(case: Case, ground: GradingContext, readings: dict[int, Reading | None]) -> None:
    """Bring the findings of some checkpoints, by their keys, up to date with these readings. One query and the news."""
    known = {finding.checkpoint_id: finding for finding in case.findings.filter(checkpoint__in=readings)}
    changed = []
    for checkpoint in ground.checkpoints:
        if checkpoint.pk in readings:
            finding = known.get(checkpoint.pk) or Finding(case=case)
            before = _state(finding)
            finding.compared = compared_with(checkpoint, ground.retail[checkpoint.pk], readings[checkpoint.pk])
            _bring_up_to_date(finding, checkpoint, ground, readings[checkpoint.pk])
            if finding.pk is None or _state(finding) != before:
                finding.pk = None  # known by case and checkpoint
                changed.append(finding)
    Finding.objects.bulk_create(
        changed, update_conflicts=True, unique_fields=["case", "checkpoint"], update_fields=STATE
    )


def grade_again(finding: Finding) -> None:
    """A finding that a person confirmed, or no longer does: against the verified pairs it was graded against. Two
    queries."""
    if finding.grade == Grade.NOT_COMPARED:
        finding.save(update_fields=["confirmed_by"])
        return
    retail = Retail(finding.retail, uncertainty=tuple(finding.retail_uncertainty))
    policy = policy_in_force(finding.case.organisation)
    result = judged(finding.checkpoint, retail, finding, policy.ultraviolet)
    finding.grade, finding.tail_probability = result.grade.value, result.tail_probability
    finding.save(update_fields=["confirmed_by", "grade", "tail_probability"])


def _bring_up_to_date(finding: Finding, checkpoint, ground: GradingContext, reading: Reading | None) -> None:
    finding.checkpoint = checkpoint
    void = applicability.why_void(checkpoint.conditions, ground.facts)
    finding.void = asdict(void) if void else {}
    _grade_finding(finding, ground.retail[checkpoint.pk], reading, ground.ultraviolet)


def _grade_finding(finding: Finding, retail: Retail, reading: Reading | None, ultraviolet: str) -> None:
    if reading is None or finding.reading_id != reading.pk:
        finding.confirmed_by = None
    finding.reading, finding.retail = reading, retail.values
    finding.retail_uncertainty = [round(one, 6) for one in retail.uncertainty]
    finding.grade, finding.tail_probability = Grade.NOT_COMPARED.value, None
    finding.reason = VOID if finding.void else ""
    if finding.reason:
        return
    if reading is None:
        finding.reason = "not_looked_at"
        return
    if reading.refusal:
        finding.reason = "could_not_tell" if reading.refusal["reason"] == "could_not_tell" else "not_measured"
        return
    try:
        result = judged(finding.checkpoint, retail, finding, ultraviolet)
    except CannotJudge as error:
        finding.reason = error.reason
        return
    finding.grade, finding.tail_probability = result.grade.value, result.tail_probability


def _state(finding: Finding) -> tuple:
    return tuple(getattr(finding, Finding._meta.get_field(name).attname) for name in STATE)


def is_pending(finding) -> bool:
    """Whether a flag waits for an eye: it rests on marks that a machine carried over, and nobody has looked."""
    if Grade(finding.grade) not in RED_FLAGS or finding.confirmed_by_id:
        return False
    return rests_on_carried_marks(finding.checkpoint, finding.reading)


def is_settled(finding) -> bool:
    """Whether a person has nothing more to do at this checkpoint."""
    if finding.reason in (VOID, "could_not_tell") or finding.confirmed_by_id:
        return True
    if finding.reading is None or finding.reading.refusal:
        # Left against right follows by itself from what is read on both.
        return bool(finding.checkpoint.left_id)
    if finding.checkpoint.measure:
        return CORRECTED_BY_HAND in finding.reading.doubts and finding.grade == Grade.AGREES
    return not (finding.grade == Grade.DEPARTS and finding.checkpoint.decisive)


def is_done_here(finding) -> bool:
    """Whether the bench may go on by itself: settled, and no flag that its person has not seen and confirmed."""
    return is_settled(finding) and (bool(finding.confirmed_by_id) or Grade(finding.grade) not in RED_FLAGS)


def items(findings, weights: Mapping[str, float] = MappingProxyType({})) -> list[GradedItem]:
    """Findings as the decision rules take them. ``weights``: decibans by the checkpoint's key."""
    return [
        GradedItem(
            key=finding.checkpoint.key,
            group=finding.checkpoint.group,
            grade=Grade(finding.grade),
            mandatory=finding.checkpoint.mandatory,
            applies=finding.reason not in (VOID, CLEAN),
            of_shoe=finding.checkpoint.of_shoe,
            weight=weights.get(finding.checkpoint.key, 0.0),
            confirmed=finding.confirmed_by_id is not None,
            pairs=len(finding.retail) or None,
            pending=is_pending(finding),
        )
        for finding in findings
    ]


def seen_items(case: Case) -> list[GradedItem]:
    """What was seen on no list, as the decision rules take it: flags of its part, never coverage. One query."""
    kept = case.sightings.filter(taken_back=False)
    counted = [one for one in kept if one.grade != Grade.NOT_COMPARED]
    return [
        GradedItem(key=f"seen-{one.pk}", group=one.group, grade=Grade(one.grade), of_shoe=False, noted=True)
        for one in counted
    ]


def policy_in_force(organisation) -> OrganisationPolicy:
    """The shop's newest policy. One query."""
    return organisation.policies.order_by("-number").first()


def core_policy(policy: OrganisationPolicy) -> Policy:
    """The policy as the decision rules take it."""
    return Policy(
        red_flags=policy.red_flags,
        coverage=policy.coverage,
        legit_from=policy.legit_from,
        fake_from=policy.fake_from,
        decision_rule=policy.decision_rule,
        near_perfect=policy.near_perfect,
    )
