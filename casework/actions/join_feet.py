"""Hold one of a pair's photographs against another by a check of its own, made of two checks of the same number: its
left shoe against its right, one place photographed twice (brushed both ways, pressed and not, the lamp moved), or two
places of one close-up (ends that must be level)."""

from statistics import stdev

from django.db import transaction
from django.db.models import Q

from assay.contracts import OTHER_FOOT
from assay.errors import AssayError
from assay.judge.judgement import Kind
from casework.grading import regrade
from casework.ledger import note
from casework.models import Case
from casework.retail import compares
from library.models import Checkpoint, Relation
from library.photo_kinds import keys_where
from library.writers import must_write
from pairs.actions.compare_feet import compare_feet
from pairs.actions.draw_checkpoint import BELIEVED_PAIRS, RARELY_OFF, free_key, place_in
from pairs.models import Organisation, Pair, Reading, Standing

MINUTES = 0.1
LEAST_SHARE = 0.005
"""Least believed scatter of a share among retail pairs, of its own size."""
FEET = "Left less right. The two shoes of a retail pair differ in their own way, or not at all."
TWICE = "The difference of two checks: one place photographed twice, or two places that keep their distance."


def other_feet(checkpoint: Checkpoint) -> list[Checkpoint]:
    """Checks that read the same number and are not held against this one yet: of the other foot, or of this
    foot's close-ups. Two queries."""
    if not checkpoint.foot or not checkpoint.measure:
        return []
    same = {name: getattr(checkpoint, name) for name in ("release", "measure", "quantity", "unit", "kind")}
    feet = Q(foot=OTHER_FOOT[checkpoint.foot], view=checkpoint.view)
    near = keys_where(close_up=True)
    twice = Q(foot=checkpoint.foot, view__in=near)
    wanted = feet | twice if checkpoint.view in near else feet
    joined = Checkpoint.objects.filter(Q(left=checkpoint) | Q(right=checkpoint)).values_list("left", "right")
    taken = {checkpoint.pk, *(one for both in joined for one in both)}
    return list(Checkpoint.objects.filter(wanted, **same).exclude(pk__in=taken))


@transaction.atomic
def join_feet(*, checkpoint: Checkpoint, other: str, name: str, organisation: Organisation, user) -> Checkpoint:
    """Keep a check of left less right, or of first less second; ``other``: the other check's key; ``name``: what it is
    called.

    Its believed scatter is what the verified pairs' own two differ by. Raises AssayError ``not_allowed``,
    ``no_other_foot`` or ``no_name``.
    """
    must_write(user, checkpoint.release)
    partner = next((one for one in other_feet(checkpoint) if one.key == other), None)
    if partner is None:
        raise AssayError("no_other_foot")
    if not name.strip():
        raise AssayError("no_name")
    feet = sorted((checkpoint, partner), key=lambda one: (one.foot, one.position))
    words = TWICE if checkpoint.foot == partner.foot else FEET
    kept = {"kind": checkpoint.kind, "unit": checkpoint.unit, "instruction": words}
    return _join(checkpoint, feet, name, kept, organisation, user)


def related_checks(checkpoint: Checkpoint) -> list[Checkpoint]:
    """Measured checks of the guide whose number has the same unit. A query."""
    if not checkpoint.measure or checkpoint.kind not in (Kind.CONTINUOUS, Kind.COUNT):
        return []
    numbers = checkpoint.release.checkpoints.exclude(measure="").filter(kind__in=(Kind.CONTINUOUS, Kind.COUNT))
    found = numbers.filter(unit=checkpoint.unit).exclude(pk=checkpoint.pk).order_by("position")
    return [] if compares(checkpoint) else [one for one in found if not compares(one)]


@transaction.atomic
def relate_checks(
    *, checkpoint: Checkpoint, other: Checkpoint, relation: str, name: str, organisation: Organisation, user
) -> Checkpoint:
    """Keep a check of two numbers of one unit, whatever they are of: the first less the second, or as a share of it,
    which needs no scale. Raises AssayError ``not_allowed``, ``not_related`` or ``no_name``."""
    must_write(user, checkpoint.release)
    if other not in related_checks(checkpoint) or relation not in Relation.values:
        raise AssayError("not_related")
    if not name.strip():
        raise AssayError("no_name")
    counts = checkpoint.kind == other.kind == Kind.COUNT and relation == Relation.LESS
    kept = {
        "kind": (Kind.COUNT if counts else Kind.CONTINUOUS).value,
        "unit": "" if relation == Relation.SHARE else checkpoint.unit,
        "relation": relation,
        "instruction": f"{checkpoint.name[:60]} {'less' if relation == Relation.LESS else 'over'} {other.name[:60]}.",
    }
    return _join(checkpoint, [checkpoint, other], name, kept, organisation, user)


def _join(
    checkpoint: Checkpoint, feet: list[Checkpoint], name: str, kept: dict, organisation: Organisation, user
) -> Checkpoint:
    release = checkpoint.release
    made = Checkpoint.objects.create(
        release=release,
        key=free_key(release, name),
        name=name.strip(),
        section=checkpoint.section,
        position=place_in(release, checkpoint.section),
        minutes=MINUTES,
        left=feet[0],
        right=feet[1],
        prior={"pairs": BELIEVED_PAIRS[Kind(kept["kind"])]},
        **kept,
        **{field: getattr(checkpoint, field) for field in ("group", "applies_when", "of_shoe")},
    )
    for pair in Pair.objects.filter(release=release, organisation=organisation, standing=Standing.RETAIL):
        compare_feet(pair=pair)
    made.prior |= _believed(made, feet)
    made.save(update_fields=["prior"])
    for case in Case.objects.filter(organisation=organisation, pair__release__in=release.siblings, signed_at=None):
        regrade(case)
        note(case, user, "joined_feet", check=made.name)
    return made


def _believed(made: Checkpoint, feet: list[Checkpoint]) -> dict:
    """How often a count, or how far a length, is off between a verified pair's own feet."""
    if made.kind == Kind.COUNT:
        return {"off_by_one": max(RARELY_OFF, *(foot.prior.get("off_by_one", 0.0) for foot in feet))}
    read = list(Reading.objects.filter(checkpoint=made).values_list("value", "uncertainty"))
    scatter = max(
        stdev(value for value, _ in read) if len(read) > 1 else 0.0,
        *(() if made.relation else (foot.prior.get("scatter", 0.0) for foot in feet)),
        LEAST_SHARE * max((abs(value) for value, _ in read), default=0.0) if made.relation else 0.0,
    )
    return {"scatter": round(scatter, 5) or 0.001}
