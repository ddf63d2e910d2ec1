"""Lay a known copy's readings on verified pairs', so that cases can be weighed against its batch."""

from casework.retail import compares
from pairs.comparisons import comparisons
from pairs.models import Pair
from pairs.queries import latest_numbers, retail_pairs


def know_copy(*, pair: Pair) -> int:
    """Compare what only comparing tells; what was compared before is kept. How many comparisons there are by now."""
    known = retail_pairs(pair)
    readings = latest_numbers([pair, *known])
    done = 0
    comparing = [one for one in pair.release.checkpoints.exclude(measure="") if compares(one)]
    for measure in {one.measure for one in comparing}:
        wanted = set()
        for checkpoint in comparing:
            ours = readings.get((pair.pk, checkpoint.pk))
            if checkpoint.measure != measure or ours is None or ours.value is None:
                continue
            theirs = [readings.get((other.pk, checkpoint.pk)) for other in known]
            wanted |= {(ours.pk, row.pk, False) for row in theirs if row is not None and row.value is not None}
        done += len(comparisons(measure, wanted)) if wanted else 0
    return done
