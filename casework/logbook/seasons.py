"""Batches through the seasons: which copies came when, what one of them gets right by now, and what would have settled
the cases that were left undecided."""

from collections import Counter, defaultdict

from django.db.models import Case as SqlCase
from django.db.models import CharField, Count, F, OuterRef, Q, Subquery, Value, When
from django.db.models.functions import Coalesce, TruncQuarter

from assay.judge.detection import wilson
from assay.judge.grade import RED_FLAGS
from casework.models import Case, Finding, Opinion
from casework.outcomes import LAST_OPINION, LAST_OUTCOME
from library.models import Batch, Checkpoint
from pairs.models import Organisation

RED = [grade.value for grade in RED_FLAGS]
UNKNOWN = "of no batch we know"
SHOWN = 8
"""Quarters that are drawn, the last ones."""
WAS_WRONG, IS_RIGHT = 0.5, 0.4
"""A batch got a thing right where before it was surely wrong in more than half, and since surely in fewer than so many:
both ends of Wilson's 95 % interval."""
LAST_UNDECIDED = 1500


def quarter_of(at) -> str:
    """2026 Q3."""
    return f"{at.year} Q{(at.month + 2) // 3}"


def _fakes(organisation: Organisation):
    """Cases that ended fake by what was learned, else by what was signed, with the batch that they were told as."""
    cases = Case.objects.filter(organisation=organisation, signed_at__isnull=False, discarded_at=None)
    cases = cases.annotate(
        batch=Subquery(LAST_OPINION.values("batch")[:1]),
        ended=Coalesce(Subquery(LAST_OUTCOME.values("so")[:1]), Subquery(LAST_OPINION.values("verdict")[:1])),
    )
    return cases.filter(ended="fake")


def batches(organisation: Organisation) -> dict:
    """Copies by batch and quarter. One query."""
    counts: dict[str, Counter] = defaultdict(Counter)
    rows = _fakes(organisation).annotate(season=TruncQuarter("signed_at")).values("batch", "season")
    for row in rows.annotate(many=Count("pk")).order_by("season"):
        counts[row["batch"] or UNKNOWN][quarter_of(row["season"])] += row["many"]
    quarters = sorted({name for given in counts.values() for name in given})[-SHOWN:]
    most = max((many for given in counts.values() for many in given.values()), default=1)
    lanes = []
    for name in sorted(counts, key=lambda count: (count == UNKNOWN, count)):
        cells = [
            # The area of a square tells how many.
            {"many": counts[name][quarter], "side": round(26 * (counts[name][quarter] / most) ** 0.5, 1)}
            for quarter in quarters
        ]
        lanes.append({"name": name, "cells": cells, "of": sum(counts[name].values())})
    return {"quarters": quarters, "lanes": lanes}


def got_right(organisation: Organisation, last: int) -> list[dict]:
    """What a batch was flagged for and by now is not. Three queries; over the last cases only."""
    latest = _fakes(organisation).exclude(batch="").order_by("-signed_at")
    told_as = dict(latest.values_list("pk", "batch")[:last])
    if not told_as:
        return []
    whose = SqlCase(
        *[When(case__in=[key for key, one in told_as.items() if one == name], then=Value(name))
          for name in set(told_as.values())],
        output_field=CharField(),
    )  # fmt: skip
    rows = (
        Finding.objects.filter(case__in=list(told_as)).exclude(grade="not_compared")
        .annotate(batch=whose, season=TruncQuarter("case__signed_at"))
        .values("checkpoint", "batch", "season", name=F("checkpoint__name"), release=F("checkpoint__release"))
        .annotate(many=Count("pk"), red=Count("pk", filter=Q(grade__in=RED))).order_by("season")
    )  # fmt: skip
    courses: dict[tuple, list] = defaultdict(list)
    for row in rows:
        courses[row["batch"], row["checkpoint"], row["name"], row["release"]].append(row)
    there = {(one.release_id, one.name): one for one in Batch.objects.filter(release__in={key[3] for key in courses})}
    found = []
    for (batch, check, name, release), course in sorted(courses.items()):
        turn = _turn(course)
        if turn and (release, batch) in there:
            said = f"{name}: right since {turn['since']}."
            known = there[release, batch]
            found.append(
                {"batch": known, "check": check, "name": name, "said": said, "noted": said in known.habits, **turn}
            )
    return found


def _turn(course: list[dict]) -> dict | None:
    """Where it turned from wrong to right, the clearest place."""
    best = None
    for n in range(1, len(course)):
        (red, many), (red_since, many_since) = (
            [sum(row[key] for row in some) for key in ("red", "many")] for some in (course[:n], course[n:])
        )
        gap = wilson(red, many)[0] - wilson(red_since, many_since)[1]
        clear = wilson(red, many)[0] > WAS_WRONG and wilson(red_since, many_since)[1] < IS_RIGHT
        if clear and (best is None or gap > best[0]):
            said = {"since": quarter_of(course[n]["season"]), "before": f"{red} of {many}"}
            best = gap, said | {"after": f"{red_since} of {many_since}"}
    return best[1] if best else None


def would_settle(organisation: Organisation) -> dict:
    """What the plan named when cases were signed undecided, and how often. Two queries."""
    last = Opinion.objects.filter(case=OuterRef("case")).order_by("-pk").values("pk")[:1]
    left = Opinion.objects.filter(
        case__organisation=organisation, case__discarded_at=None, verdict="undecided", pk=Subquery(last)
    )
    sets = list(left.order_by("-pk").values_list("settling", flat=True)[:LAST_UNDECIDED])
    times = Counter(key for one in sets for key in one)
    names = dict(Checkpoint.objects.filter(pk__in=times).values_list("pk", "name"))
    told = [{"pk": key, "name": names[key], "times": many} for key, many in times.most_common(8) if key in names]
    return {"of": len(sets), "nothing": sum(not one for one in sets), "checks": told}
