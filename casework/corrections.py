"""How often sure readings were wrong here: what people put right and what they confirmed, measure by measure.

No random sample: people look at what is flagged, and that is misread more often than the rest."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from math import hypot

from django.core.cache import cache
from django.db.models import Count, Max, Q

from assay.judge.copy_model import learned_reading_error
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.measure.registry import MEASURES
from casework.models import Finding
from casework.retail import compares, quantity_of, uncertainty_of
from pairs.models import PLACED, Organisation, Reading

KEPT_S = 86_400
FAR_OFF = 3.0
"""A length was misread where a person's lies so many joint standard uncertainties off."""


@dataclass(frozen=True, slots=True)
class Looked:
    """Sure readings that a person looked at."""

    wrong: int
    of: int


def looked_at(organisation: Organisation) -> dict[str, Looked]:
    """By measure, in signed cases, whose readings no longer change. One query where nothing was signed since, else
    three."""
    signed = organisation.cases.aggregate(last=Max("signed_at"), many=Count("signed_at"))
    last = signed["last"].timestamp() if signed["last"] else 0
    key = f"looked-at-{organisation.pk}-{last}-{signed['many']}"
    return cache.get_or_set(key, lambda: _looked_at(organisation), KEPT_S)


def reading_errors(organisation: Organisation) -> Mapping[str, float]:
    """How often sure readings of each measure are wrong: by belief, test images and what was looked at here."""
    seen = looked_at(organisation)
    return {
        name: learned_reading_error(
            measure.misread[0] + (seen[name].wrong if name in seen else 0),
            measure.misread[1] + (seen[name].of if name in seen else 0),
        )
        for name, measure in MEASURES.items()
    }


def _looked_at(organisation: Organisation) -> dict[str, Looked]:
    findings = list(
        Finding.objects.filter(
            Q(confirmed_by__isnull=False)
            | Q(**{f"reading__details__{PLACED}": True})
            | Q(reading__corrects__isnull=False),
            case__organisation=organisation,
            case__signed_at__isnull=False,
            checkpoint__kind__in=(Kind.CONTINUOUS, Kind.COUNT),
            reading__photo__isnull=False,
        ).select_related("checkpoint", "reading")
    )
    first = _first_readings(findings)
    wrong, of = Counter(), Counter()
    for finding in findings:
        earlier = first.get((finding.reading.pair_id, finding.checkpoint_id))
        if not finding.reading.put_right:
            earlier = finding.reading
        off = None if earlier is None else _is_off(finding, earlier)
        if off is not None:
            of[finding.checkpoint.measure] += 1
            wrong[finding.checkpoint.measure] += off
    return {measure: Looked(wrong[measure], of[measure]) for measure in of}


def _first_readings(findings: list) -> dict[tuple[int, int], Reading]:
    """What the program read before anybody put it right, by pair and check."""
    pairs = {finding.reading.pair_id for finding in findings}
    checks = {finding.checkpoint_id for finding in findings}
    rows = Reading.objects.filter(pair__in=pairs, checkpoint__in=checks, photo__isnull=False).order_by("-pk")
    return {(row.pair_id, row.checkpoint_id): row for row in rows if not row.put_right}


def _is_off(finding: Finding, earlier: Reading) -> bool | None:
    """Whether the program's own reading was wrong; None where it was not sure, is of another unit, or compares
    pairs."""
    check = finding.checkpoint
    if compares(check):
        return None
    before, now = (quantity_of(check, row, finding.compared) for row in (earlier, finding.reading))
    if before is None or now is None:
        return None
    unsure = uncertainty_of(check, earlier)
    if check.kind == Kind.COUNT:
        return None if unsure >= UNSURE_COUNT else before != now
    return abs(before - now) > FAR_OFF * hypot(unsure, uncertainty_of(check, finding.reading))
