"""A year of closed cases for the logbook: numbers, no photographs. Invented, for the demo only."""

from datetime import timedelta
from random import Random

from django.db import transaction
from django.utils import timezone

from casework.ledger import note_then
from casework.models import Case, Finding, Opinion, OrganisationPolicy, Outcome
from casework.seal import seal_of
from library.models import Release
from pairs.models import Organisation, Pair, Reading, Standing
from pairs.queries import latest_numbers

CASES, FIRST = 180, 201
# One case in so many was a copy; what the findings then weigh, deciban, by how well the copy is made.
COPIES, ROUGH, GOOD = 0.45, (-38, 9), (-9, 9)
GENUINE, SPREAD = 19, 9
GOOD_SHARE = 0.25
# From here on it is called legit, from there on fake.
LEGIT, FAKE = 13, -20
KNOWN = 0.55
CHECKS = 14
# Of a copy that is told as one of a batch: which, by its number. One of the batches mends one fault half-way.
TOLD_AS = ("Bowline", "Bowline", "Sheepshank", "")
MENDS, MENDED_FROM = ("Bowline", 3), 0.55
NAMED = 3
SAID = {
    "legit": "Agrees with our verified pairs in all that was compared.",
    "fake": "Departs from our verified pairs in several parts.",
    "undecided": "What was here did not settle it.",
}


@transaction.atomic
def load_year(organisation: Organisation, release: Release, people: list, reference: Pair) -> None:
    """Closed cases of the last year, half of them with an outcome; what is there already stays."""
    if Case.objects.filter(organisation=organisation, number=FIRST).exists():
        return
    rng, policy = Random(7), OrganisationPolicy.objects.filter(organisation=organisation).latest("number")  # noqa: S311
    usual = {
        key: row.value for (_, key), row in latest_numbers([reference]).items() if isinstance(row.value, int | float)
    }
    checks = [
        checkpoint for checkpoint in release.checkpoints.filter(measure__gt="").order_by("pk") if checkpoint.pk in usual
    ][:CHECKS]
    told = [(0.1 + 0.8 * rng.random(), 0.01 + 0.04 * rng.random()) for _ in checks]
    others = Random(8)  # noqa: S311
    for n in range(CASES):
        copy, who = rng.random() < COPIES, people[n % len(people)]
        middle, spread = (GOOD if rng.random() < GOOD_SHARE else ROUGH) if copy else (GENUINE, SPREAD)
        weighed = round(rng.gauss(middle, spread), 1)
        verdict = "legit" if weighed >= LEGIT else "fake" if weighed <= FAKE else "undecided"
        day = timezone.now() - timedelta(days=365 * (1 - n / CASES) + 3)
        number = FIRST + n
        batch = others.choice(TOLD_AS) if copy else ""
        pair = Pair.objects.create(
            organisation=organisation, release=release, label=f"S{number:04d}", standing=Standing.SUSPECT, size_us="9",
        )  # fmt: skip
        case = Case.objects.create(
            organisation=organisation, number=number, pair=pair, reference=reference, opened_by=who, source="demo year"
        )
        for place, (check, odds) in enumerate(zip(checks, told, strict=True)):
            departs = rng.random() < odds[not copy]
            if (batch, place) == MENDS:
                departs = others.random() < (0.95 if n < MENDED_FROM * CASES else 0.03)
            value = usual[check.pk] + (3 if departs else 0)
            read = Reading.objects.create(
                checkpoint=check,
                pair=pair,
                value=value,
                unit=check.unit,
                uncertainty=0.1,
                method="demo/1",
                taken_by=who,
            )
            grade, tail = ("departs", 0.001) if departs else ("agrees", 0.5)
            Finding.objects.create(case=case, checkpoint=check, reading=read, grade=grade, tail_probability=tail)
        opinion = Opinion.objects.create(
            case=case,
            checker=who,
            verdict=verdict,
            proposed=verdict,
            words=SAID[verdict],
            policy=policy,
            decibans=weighed,
            batch=batch,
            settling=[one.pk for one in others.sample(checks, NAMED)] if verdict == "undecided" else [],
        )
        opened = day - timedelta(minutes=rng.randrange(6, 40))
        Case.objects.filter(pk=case.pk).update(opened_at=opened, signed_at=day)
        note_then(case, who, "signed", day, verdict=opinion.verdict, proposed=opinion.proposed, sealed=seal_of(case))
        if rng.random() < KNOWN:
            later = min(timezone.localdate(), (day + timedelta(days=rng.randrange(5, 60))).date())
            so = "fake" if copy else "legit"
            how = rng.choice(("maker", "returned", "disputed", "house"))
            Outcome.objects.create(case=case, so=so, how=how, source="demo", learned_on=later, made_by=who)
            note_then(case, who, "outcome_learned", timezone.now(), so=so, how=how)
