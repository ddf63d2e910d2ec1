"""How true the shop's own photographs are: what was read beside what was measured by hand, per measure."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from statistics import median

from django.db import transaction

from assay.errors import AssayError
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.measure.registry import MEASURES
from casework.guides.wording import WORDS
from casework.ledger import note_of_organisation
from casework.models import CaliperCheck
from casework.retail import quantity_of, uncertainty_of
from pairs.models import Organisation, Pair, Reading
from pairs.queries import latest_readings

WITHIN = 2.0
LENGTHS = ("mm", "deg")


@dataclass(frozen=True, slots=True)
class Row:
    """One measure's figures."""

    name: str
    unit: str
    many: int
    off: str
    """Median of the differences' sizes; of counts the share that is exact."""
    worst: str
    claim: str
    """Share within twice the claimed uncertainty; of counts wrong but sure, and right but unsure."""


def measured(pair: Pair) -> list[dict]:
    """Lengths, angles and counts read off a pair's photographs, with what was found by hand. Three queries."""
    checks = {checkpoint.pk: checkpoint for checkpoint in pair.release.checkpoints.exclude(measure="")}
    read = latest_readings([pair], checkpoints=checks.values())
    by_hand = dict(CaliperCheck.objects.filter(reading__in=read.values()).values_list("reading", "value"))
    rows = []
    for (_, key), reading in read.items():
        check = checks[key]
        value = quantity_of(check, reading)
        if value is None or not (check.kind == Kind.COUNT or check.unit in LENGTHS) or reading.unit == "px":
            continue
        rows.append(
            {
                "check": check, "reading": reading, "value": value, "by_hand": by_hand.get(reading.pk),
                "off": uncertainty_of(check, reading), "counts": check.kind == Kind.COUNT,
            }
        )  # fmt: skip
    return sorted(rows, key=lambda row: row["check"].position)


@transaction.atomic
def keep(*, organisation: Organisation, user, pair: Pair, given: Mapping[str, str]) -> int:
    """Keep what was typed, by the readings' keys; an empty field takes one back. Returns how many are kept.

    Raises AssayError ``not_a_length``.
    """
    kept = 0
    for row in measured(pair):
        typed = given.get(f"by-hand-{row['reading'].pk}", "").strip().replace(",", ".")
        if not typed:
            CaliperCheck.objects.filter(reading=row["reading"]).delete()
            continue
        try:
            value = float(typed)
        except ValueError:
            value = math.nan
        if not math.isfinite(value) or abs(value) > 10_000 or (row["counts"] and value != round(value)):
            raise AssayError("not_a_length", typed=typed[:20], name=row["check"].name)
        CaliperCheck.objects.update_or_create(reading=row["reading"], defaults={"value": value, "made_by": user})
        kept += 1
    note_of_organisation(organisation, user, "measured_by_hand", pair=pair.label, many=kept)
    return kept


def every(organisation: Organisation) -> list[dict]:
    """Every value by hand of a shop beside its reading. Two queries."""
    known = CaliperCheck.objects.filter(reading__pair__organisation=organisation).select_related(
        "reading__pair", "reading__checkpoint", "reading__photo"
    )
    rows = []
    for one in known.order_by("pk"):
        check, reading = one.reading.checkpoint, one.reading
        value = quantity_of(check, reading)
        if value is not None:
            off = uncertainty_of(check, reading)
            rows.append({"check": check, "reading": reading, "value": value, "by_hand": one.value, "off": off})
    return rows


def table(organisation: Organisation) -> list[Row]:
    """A line a measure and number."""
    groups: dict[tuple[str, str], list[dict]] = {}
    for row in every(organisation):
        groups.setdefault((row["check"].measure, row["check"].quantity), []).append(row)
    return [_row(*key, rows) for key, rows in sorted(groups.items())]


def _row(measure: str, quantity: str, rows: list[dict]) -> Row:
    words = WORDS[measure] if measure in WORDS and measure in MEASURES else None
    name = words.numbers.get(quantity, quantity) if words else measure
    unit, off = rows[0]["check"].unit, [abs(row["value"] - row["by_hand"]) for row in rows]
    if rows[0]["check"].kind == Kind.COUNT:
        right = [row["value"] == row["by_hand"] for row in rows]
        sure = [row["off"] < UNSURE_COUNT for row in rows]
        wrong = sum(s and not r for s, r in zip(sure, right, strict=True))
        unsure = sum(r and not s for s, r in zip(sure, right, strict=True))
        claim = f"{wrong} wrong but sure, {unsure} right but unsure"
        return Row(name, "count", len(rows), f"{100 * sum(right) / len(rows):.0f} % exact", f"{max(off):.0f}", claim)
    within = sum(d <= WITHIN * row["off"] for d, row in zip(off, rows, strict=True))
    said = f"{within} of {len(rows)} within twice what is claimed"
    return Row(name, unit, len(rows), f"{median(off):.2g}", f"{max(off):.2g}", said)


def readings_csv(organisation: Organisation) -> list[list]:
    """The same, row by row, for a spreadsheet."""
    head = ["pair", "check", "measure", "unit", "read", "claimed_uncertainty", "by_hand", "method", "camera_file"]
    lines = [
        [
            row["reading"].pair.label, row["check"].key, row["check"].measure, row["check"].unit, row["value"],
            row["off"], row["by_hand"], row["reading"].method,
            row["reading"].photo.name_given if row["reading"].photo else "",
        ]
        for row in every(organisation)
    ]  # fmt: skip
    return [head, *lines]


def pairs_with_readings(organisation: Organisation) -> list[Pair]:
    """Pairs of which something was read off a photograph. A query."""
    read = Reading.objects.exclude(photo=None).values("pair")
    return list(Pair.objects.filter(organisation=organisation, pk__in=read).select_related("release").order_by("label"))
