"""From models to the core's judgement and back: numbers in, findings out."""

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import CannotJudge
from assay.judge import applicability
from assay.judge.grade import Grade
from assay.judge.judgement import Judged, Kind, Prior, judge
from assay.judge.schools import Item, Policy
from casework.models import Case, Finding, HousePolicy
from pairs.models import Condition, Reading
from pairs.queries import latest_readings, retail_pairs

# Standard uncertainty, in counts, of a count off a photograph that should be taken again: it accuses nobody unseen.
UNFIT_COUNT = 0.5
# Reasons for which a checkpoint does not apply; it then counts neither way.
VOID = frozenset({"worn", "photographs_only"})


def prior_of(checkpoint) -> Prior:
    """The checkpoint's belief, with its closed answers filled in."""
    possible = tuple(key for key, _ in checkpoint.answers)
    return Prior(**checkpoint.prior, possible=possible)


def quantity_of(checkpoint, reading: Reading | None):
    """The number a checkpoint judges: the reading's value or one of its parts; None where there is none."""
    if reading is None or reading.value is None:
        return None
    return reading.parts.get(checkpoint.quantity) if checkpoint.quantity else reading.value


def uncertainty_of(checkpoint, reading: Reading) -> float:
    """Standard uncertainty of that number."""
    if checkpoint.quantity:
        return reading.parts.get(f"{checkpoint.quantity}_uncertainty", 0.0)
    if checkpoint.kind == Kind.COUNT and from_unfit_photo(reading):
        return max(reading.uncertainty, UNFIT_COUNT)
    return reading.uncertainty


def from_unfit_photo(reading: Reading) -> bool:
    """Whether the machine read it off a photograph that should be taken again; what a person put right is theirs."""
    unfit = reading.photo is not None and bool(reading.photo.fitness.get("retake"))
    return unfit and CORRECTED_BY_HAND not in reading.doubts


def why_void(case: Case, checkpoint) -> str | None:
    """Reason code why a checkpoint does not apply to this case, or None."""
    needs = applicability.Needs(new_only=checkpoint.new_only, in_hand=checkpoint.in_hand)
    facts = applicability.Facts(worn=case.pair.condition == Condition.WORN, in_hand=case.in_hand)
    return applicability.why_void(needs, facts)


def retail_values(case: Case, checkpoints) -> dict[int, list]:
    """[pair label, value] of every verified pair, per checkpoint. Two queries."""
    known = retail_pairs(case.pair)
    readings = latest_readings(known)
    values = {}
    for checkpoint in checkpoints:
        if checkpoint.kind == Kind.CODE:
            values[checkpoint.pk] = [["release", case.pair.release.style_code]]
            continue
        found = [(pair.label, quantity_of(checkpoint, readings.get((pair.pk, checkpoint.pk)))) for pair in known]
        values[checkpoint.pk] = [[label, value] for label, value in found if value is not None]
    return values


def judged(checkpoint, retail: list, reading: Reading, *, confirmed: bool) -> Judged:
    """Judge one reading. Raises CannotJudge."""
    value = quantity_of(checkpoint, reading)
    if value is None:
        raise CannotJudge("no_scale" if checkpoint.quantity.endswith("_mm") else "not_measured")
    if Kind(checkpoint.kind) is Kind.CONTINUOUS and from_unfit_photo(reading):
        raise CannotJudge("photo_unfit")
    return judge(
        Kind(checkpoint.kind),
        [value for _, value in retail],
        value,
        prior_of(checkpoint),
        uncertainty=uncertainty_of(checkpoint, reading),
        decisive=checkpoint.decisive,
        confirmed=confirmed,
    )


def regrade(case: Case) -> None:
    """Bring every finding of a case up to date with its readings. A changed reading must be confirmed anew."""
    checkpoints = list(case.pair.release.checkpoints.all())
    retail = retail_values(case, checkpoints)
    readings = latest_readings([case.pair])
    known = {finding.checkpoint_id: finding for finding in case.findings.all()}
    for checkpoint in checkpoints:
        finding = known.get(checkpoint.pk) or Finding(case=case, checkpoint=checkpoint)
        before = _state(finding)
        _grade_finding(finding, case, retail[checkpoint.pk], readings.get((case.pair_id, checkpoint.pk)))
        if finding.pk is None or _state(finding) != before:
            finding.save()


def _grade_finding(finding: Finding, case: Case, retail: list, reading: Reading | None) -> None:
    if reading is None or finding.reading_id != reading.pk:
        finding.confirmed_by = None
    finding.reading, finding.retail = reading, retail
    finding.grade, finding.tail_probability = Grade.NOT_COMPARED.value, None
    finding.reason = why_void(case, finding.checkpoint) or ""
    if finding.reason:
        return
    if reading is None:
        finding.reason = "not_looked_at"
        return
    if reading.refusal:
        finding.reason = "could_not_tell" if reading.refusal["reason"] == "could_not_tell" else "not_measured"
        return
    try:
        result = judged(finding.checkpoint, retail, reading, confirmed=finding.confirmed_by_id is not None)
    except CannotJudge as error:
        finding.reason = error.reason
        return
    finding.grade, finding.tail_probability = result.grade.value, result.tail_probability


def _state(finding: Finding) -> tuple:
    return (
        finding.reading_id,
        finding.grade,
        finding.tail_probability,
        finding.retail,
        finding.reason,
        finding.confirmed_by_id,
    )


def items(findings) -> list[Item]:
    """Findings as the schools take them."""
    return [
        Item(
            key=finding.checkpoint.key,
            group=finding.checkpoint.group,
            grade=Grade(finding.grade),
            mandatory=finding.checkpoint.mandatory,
            applies=finding.reason not in VOID,
        )
        for finding in findings
    ]


def policy_in_force(house) -> HousePolicy:
    """The house's newest policy. One query."""
    return house.policies.order_by("-number").first()


def core_policy(policy: HousePolicy) -> Policy:
    """The policy as the schools take it."""
    return Policy(red_flags=policy.red_flags, coverage=policy.coverage)
