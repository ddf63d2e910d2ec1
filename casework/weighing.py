"""Findings as the core weighs them, known copies' readings beside them, prior odds, and the plan of what is left."""

from collections.abc import Iterator
from dataclasses import replace

from assay.contracts import CORRECTED_BY_HAND
from assay.errors import CannotJudge
from assay.judge.assumptions import (
    BELIEVED_AGAINST,
    CAP_AGAINST,
    CAP_FOR,
    DECISIVE_AGAINST,
    ONE_WAY_AGAINST,
    PAPER_AGAINST,
    PAPER_FOR,
    READING_ERROR,
    READING_ERROR_SEEN,
)
from assay.judge.copy_model import learned
from assay.judge.evidence import EvidenceItem, SharedScale, can_be_weighed
from assay.judge.grade import Grade
from assay.judge.judgement import UNSURE_COUNT, Kind, fit_for_judging
from assay.judge.planner import Plan, plan
from assay.judge.prior import CIRCUMSTANCES, PriorOdds, prior_odds
from assay.judge.rules import organisation_verdict
from assay.measure.registry import MEASURES
from assay.pipeline.scale import relative_of
from assay.units import Unit
from casework.corrections import reading_errors
from casework.grading import CLEAN, VOID
from casework.models import Case
from casework.outcomes import known_ends
from casework.retail import carried_over, compares, from_unfit_photo, one_way, prior_of, quantity_of, uncertainty_of
from pairs import pictures
from pairs.comparisons import kept_beside
from pairs.models import Condition, Photo, Standing
from pairs.queries import latest_numbers, of_generation

# What is said of a price without anybody being asked: shares of the release's own, and the answers of the question.
PRICE_FAR_UNDER, PRICE_UNDER = 0.5, 0.67
WAITING = ("not_looked_at",)
"""Reasons of findings that a person may still look at."""
CLOSED = (VOID, CLEAN, "could_not_tell")
"""Reasons of findings that nothing more will come of."""


def signs_of(case: Case, findings: list) -> list[EvidenceItem]:
    """Every finding that is graded or waits to be, as the core weighs it; those that wait have no value. Five
    queries at most."""
    found = []
    for finding, sign in _signs(case, findings):
        waits = finding.grade == Grade.NOT_COMPARED
        if (waits and finding.reason in WAITING) or (not waits and can_be_weighed(sign)):
            found.append(sign)
    return learned(found)


def unread_signs(case: Case, findings: list) -> list[EvidenceItem]:
    """Every check that applies, as if nothing had been read yet. Five queries at most."""
    return learned([replace(sign, value=None) for finding, sign in _signs(case, findings) if finding.reason != VOID])


def _signs(case: Case, findings: list) -> Iterator[tuple]:
    """Every finding but those of the deal, and what the core weighs of it. Five queries at most, two of
    them where cases were signed since."""
    copies = list(
        of_generation(case.pair.release, organisation=case.organisation_id, standing=Standing.COPY)
        .exclude(pk=case.pair_id)
        .select_related("batch")
    )
    readings = latest_numbers(copies) if copies else {}
    beside = kept_beside([row.pk for row in readings.values()]) if readings else {}
    sources = _sources(findings)
    photos = {finding.reading.photo_id: finding.reading.photo for finding in findings if finding.reading}
    scales = {key: _scale_uncertainty(photo) for key, photo in photos.items() if photo}
    errors = reading_errors(case.organisation)
    for finding in findings:
        checkpoint = finding.checkpoint
        if checkpoint.group != CIRCUMSTANCES:
            rows = [(pair, readings.get((pair.pk, checkpoint.pk))) for pair in copies]
            sign = _sign(case, finding, _known_copies(case, checkpoint, rows, beside))
            scale = _shared_scale(finding, scales) if sign.value is not None else None
            error = READING_ERROR_SEEN if _by_person(finding) else errors.get(checkpoint.measure, READING_ERROR)
            yield finding, replace(sign, source=sources.get(checkpoint.pk, ""), scale=scale, reading_error=error)


def _sources(findings: list) -> dict[int, str]:
    """By check what it reads where, of those that may read the same number at the same marks: two such are one. A query
    for each of these."""
    alike: dict[tuple, list] = {}
    for finding in findings:
        one = finding.checkpoint
        if one.measure and finding.reading and finding.reading.value is not None:
            alike.setdefault((one.measure, one.quantity, one.view, one.foot), []).append(finding)
    doubled = [(place, one) for place, some in alike.items() if len(some) > 1 for one in some]
    return {one.checkpoint_id: f"{place} {one.reading.photo_id} {one.reading.marks}" for place, one in doubled}


def open_bounds(findings: list) -> dict[str, tuple[float, float]]:
    """By key the most that every check may still weigh for retail and against that applies and is not compared,
    whatever it waits for; what a person could not tell stays so."""
    found = {}
    for finding in findings:
        waits = finding.grade == Grade.NOT_COMPARED and finding.reason not in CLOSED
        if waits and finding.checkpoint.group != CIRCUMSTANCES:
            found[finding.checkpoint.key] = caps_of(finding.checkpoint, Kind(finding.checkpoint.kind))
    return found


def _known_copies(case: Case, checkpoint, rows: list, beside: dict) -> dict[str, list]:
    """What known copies read there, by batch, lengths carried over to this pair's size."""
    kind = Kind(checkpoint.kind)
    if kind is Kind.PAPER:
        return {}
    found = []
    for pair, row in rows:
        parts = {"parts": beside.get(row.pk, {})} if row is not None and compares(checkpoint) else None
        value = quantity_of(checkpoint, row, parts)
        if value is not None:
            found.append((pair, value))
    if kind is Kind.CONTINUOUS and not compares(checkpoint):
        found = carried_over(case, checkpoint, found)
    batches: dict[str, list] = {}
    for pair, value in found:
        batches.setdefault(pair.batch.name if pair.batch else pair.label, []).append(value)
    return batches


def _sign(case: Case, finding, batches: dict[str, list]) -> EvidenceItem:
    checkpoint, reading = finding.checkpoint, finding.reading
    kind = Kind(checkpoint.kind)
    up, down = caps_of(checkpoint, kind)
    if kind is Kind.ANSWER and not batches and not checkpoint.decisive and checkpoint.cap_against is None:
        down = BELIEVED_AGAINST
    told = finding.grade != Grade.NOT_COMPARED
    return EvidenceItem(
        key=checkpoint.key,
        group=checkpoint.group,
        kind=kind,
        value=quantity_of(checkpoint, reading, finding.compared) if told else None,
        uncertainty=_uncertainty(kind, finding) if told else 0.0,
        retail=[value for _, value in finding.retail],
        retail_uncertainty=tuple(finding.retail_uncertainty),
        prior=prior_of(checkpoint),
        batches=batches,
        copies=checkpoint.prior.get("copies", {}),
        cap_for=up,
        cap_against=down,
        lessened=_lessened(case, finding),
        made_of=tuple(end.key for end in (checkpoint.left, checkpoint.right) if end),
        minutes=checkpoint.minutes,
    )


def _by_person(finding) -> bool:
    """Whether a person measured it, put its marks right or confirmed it."""
    reading = finding.reading
    by_hand = reading and (not reading.photo_id or CORRECTED_BY_HAND in reading.doubts)
    return bool(by_hand or finding.confirmed_by_id)


def _shared_scale(finding, scales: dict[int, float | None]) -> SharedScale | None:
    """The scale that a length has in common with all others of its photograph; ``scales``: relative standard
    uncertainties, by photograph."""
    checkpoint, reading = finding.checkpoint, finding.reading
    unsure = scales.get(reading.photo_id)
    if unsure is None or checkpoint.kind != Kind.CONTINUOUS or checkpoint.measure not in MEASURES:
        return None
    unit = Unit(MEASURES[checkpoint.measure].numbers[checkpoint.quantity])
    if compares(checkpoint):
        # A size in per cent of retail's; how far two outlines lie apart follows the scale in no fixed way.
        moves = 100.0 if unit is Unit.PERCENT else 0.0
    else:
        moves = unit.length_power * quantity_of(checkpoint, reading)
    return SharedScale(str(reading.photo_id), unsure, moves) if moves else None


def _scale_uncertainty(photo: Photo) -> float | None:
    """Relative standard uncertainty of a photograph's scale; None without one."""
    surface = pictures.plane(photo)
    return None if surface is None else relative_of(surface)


def _uncertainty(kind: Kind, finding) -> float:
    own = uncertainty_of(finding.checkpoint, finding.reading, finding.compared)
    try:
        return fit_for_judging(kind, own, unfit_photo=from_unfit_photo(finding.reading))
    except CannotJudge:
        return own


def caps_of(checkpoint, kind: Kind) -> tuple[float, float]:
    """The most it says for retail and against, before anything lowers it: the checkpoint's own, else its kind's."""
    up, down = CAP_FOR, DECISIVE_AGAINST if checkpoint.decisive else CAP_AGAINST
    if one_way(checkpoint):
        up, down = 0.0, ONE_WAY_AGAINST
    elif kind is Kind.PAPER:
        up, down = PAPER_FOR, DECISIVE_AGAINST if checkpoint.decisive else PAPER_AGAINST
    return (
        up if checkpoint.cap_for is None else checkpoint.cap_for,
        down if checkpoint.cap_against is None else checkpoint.cap_against,
    )


def _lessened(case: Case, finding) -> tuple[str, ...]:
    """Why it says less than it might: keys of the core's ``LESS``."""
    reading, why = finding.reading, []
    if not case.in_hand:
        why.append("photo_only")
    if case.pair.condition == Condition.WORN:
        why.append("worn")
    if reading is None:
        return tuple(why)
    unsure = finding.checkpoint.kind == Kind.COUNT and reading.uncertainty >= UNSURE_COUNT
    if unsure and not finding.confirmed_by_id:
        why.append("unsure")
    if from_unfit_photo(reading):
        why.append("unfit_photo")
    return tuple(why)


def prior_of_case(case: Case, findings: list) -> PriorOdds:
    """Prior odds: the stated share of copies, and what was answered of price and provenance; a price that nobody
    answered for is taken from the intake."""
    named = []
    for finding in findings:
        checkpoint = finding.checkpoint
        if checkpoint.group != CIRCUMSTANCES or not checkpoint.answers:
            continue
        ours, theirs = checkpoint.prior.get("rare", {}), checkpoint.prior.get("copies", {})
        possible = [key for key, *_ in checkpoint.answers]
        usual = (1 - sum(ours.values())) / max(1, len([key for key in possible if key not in ours]))
        # Asked of the deal, not of the shoe: no verified pair is needed to weigh it.
        answered = finding.reading.value if finding.reading and finding.reason != VOID else None
        if answered is None and checkpoint.key == "price" and finding.reason in WAITING:
            answered = _price_answer(case)
        if answered and theirs.get(answered):
            named.append((checkpoint.name, {key: ours.get(key, usual) for key in possible}, theirs, answered))
    return prior_odds(*known_ends(case.organisation), circumstances=named)


def _price_answer(case: Case) -> str | None:
    retail = case.pair.release.retail_price
    if case.asked_price is None or not retail:
        return None
    share = float(case.asked_price) / float(retail)
    return "far-under" if share < PRICE_FAR_UNDER else "under" if share < PRICE_UNDER else "usual"


def plan_of(case: Case, findings: list, stand, *, settle: bool = True) -> Plan:
    """What to do next, given where the case stands; ``settle``: also what would settle it. No query."""
    decisive = {finding.checkpoint.key for finding in findings if finding.checkpoint.decisive}
    odds = stand.prior.decibans
    more = {"prior": odds, "decisive": decisive, "open_bounds": open_bounds(findings), "settle": settle}
    return plan(stand.unread, stand.sheet, stand.balance, stand.policy, organisation_verdict, **more)
