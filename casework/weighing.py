"""Findings as the core weighs them, and known copies' readings beside them."""

from assay.errors import CannotJudge
from assay.judge.grade import Grade
from assay.judge.judgement import UNSURE_COUNT, Kind, fit_for_judging
from assay.judge.weight import (
    CAP_AGAINST,
    CAP_FOR,
    DECISIVE_AGAINST,
    ONE_WAY_AGAINST,
    PAPER_AGAINST,
    PAPER_FOR,
    Sign,
    checked,
)
from casework.models import Case
from casework.retail import compares, from_unfit_photo, one_way, prior_of, quantity_of, uncertainty_of
from pairs.models import Condition, Pair, Standing
from pairs.queries import latest_numbers


def signs_of(case: Case, findings: list) -> list[Sign]:
    """Every graded finding as the core weighs it. Two queries."""
    copies = list(
        Pair.objects.filter(house=case.house_id, release=case.pair.release_id, standing=Standing.COPY)
        .exclude(pk=case.pair_id)
        .select_related("batch")
    )
    readings = latest_numbers(copies) if copies else {}
    signs = []
    for finding in findings:
        if finding.grade == Grade.NOT_COMPARED:
            continue
        sign = _sign(case, finding, [(pair, readings.get((pair.pk, finding.checkpoint_id))) for pair in copies])
        if checked(sign):
            signs.append(sign)
    return signs


def _sign(case: Case, finding, copies: list) -> Sign:
    checkpoint, reading = finding.checkpoint, finding.reading
    kind = Kind(checkpoint.kind)
    batches: dict[str, list] = {}
    for pair, row in copies:
        # What comes of comparing is not worked out for copies yet: there they are like any copy.
        value = None if compares(checkpoint) else quantity_of(checkpoint, row)
        if value is not None and kind is not Kind.PAPER:
            batches.setdefault(pair.batch.name if pair.batch else pair.label, []).append(value)
    up, down = _caps(checkpoint, kind)
    return Sign(
        key=checkpoint.key,
        group=checkpoint.group,
        kind=kind,
        value=quantity_of(checkpoint, reading, finding.compared),
        uncertainty=_uncertainty(kind, finding),
        retail=[value for _, value in finding.retail],
        prior=prior_of(checkpoint),
        batches=batches,
        copies=checkpoint.prior.get("copies", {}),
        cap_for=up,
        cap_against=down,
        lessened=_lessened(case, finding),
        minutes=checkpoint.minutes,
    )


def _uncertainty(kind: Kind, finding) -> float:
    own = uncertainty_of(finding.checkpoint, finding.reading, finding.compared)
    try:
        return fit_for_judging(kind, own, unfit_photo=from_unfit_photo(finding.reading))
    except CannotJudge:
        return own


def _caps(checkpoint, kind: Kind) -> tuple[float, float]:
    """How much it may say for retail and against, before anything lowers it."""
    if one_way(checkpoint):
        return 0.0, ONE_WAY_AGAINST
    if kind is Kind.PAPER:
        return PAPER_FOR, DECISIVE_AGAINST if checkpoint.decisive else PAPER_AGAINST
    return CAP_FOR, DECISIVE_AGAINST if checkpoint.decisive else CAP_AGAINST


def _lessened(case: Case, finding) -> tuple[str, ...]:
    """Why it says less than it might: keys of the core's ``LESS``."""
    reading, why = finding.reading, []
    if not case.in_hand:
        why.append("photo_only")
    if case.pair.condition == Condition.WORN:
        why.append("worn")
    unsure = finding.checkpoint.kind == Kind.COUNT and reading.uncertainty >= UNSURE_COUNT
    if unsure and not finding.confirmed_by_id:
        why.append("unsure")
    if from_unfit_photo(reading):
        why.append("unfit_photo")
    return tuple(why)
