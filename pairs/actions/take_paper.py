"""Keep what stands on box, label and tag, and read the checks of print and packing that rest on it."""

from dataclasses import asdict

from assay.errors import AssayError
from assay.paperwork.fields import cleaned
from assay.paperwork.found import Known
from assay.paperwork.papers import PAPERS
from library.models import Checkpoint
from pairs.actions.take_reading import refuse
from pairs.known import known_of
from pairs.models import Inscription, Pair, Photo, Reading
from pairs.queries import inscriptions_of, latest_readings

VERSION = 2


def inscribe(
    *, pair: Pair, places: dict[str, str], by, source: str = Inscription.Source.TYPED, photo: Photo | None = None
) -> None:
    """Keep what was read at some places; nothing is kept where one of them is no such thing. Raises AssayError."""
    known = known_of(pair)
    clean = {place: cleaned(place, text, known) for place, text in places.items()}
    for place, text in clean.items():
        Inscription.objects.create(pair=pair, place=place, text=text, source=source, photo=photo, read_by=by)
    read_papers(pair=pair, by=by, touched=set(clean), known=known)


def read_papers(*, pair: Pair, by, touched: set[str] | None = None, known: Known | None = None) -> None:
    """Read every check of print and packing whose places are known; ``touched``: only those that rest on these."""
    said = {place: kept.text for place, kept in inscriptions_of(pair).items()}
    known = known or known_of(pair)
    resting = {name: set(paper.fields) | set(paper.also) for name, paper in PAPERS.items()}
    told = [name for name, paper in PAPERS.items() if set(paper.fields) <= set(said)]
    due = [name for name in told if touched is None or resting[name] & touched]
    checkpoints = list(pair.release.checkpoints.filter(paper__in=due))
    earlier = latest_readings([pair], drawn=False, checkpoints=checkpoints)
    for checkpoint in checkpoints:
        here = {place: said[place] for place in sorted(resting[checkpoint.paper] & set(said))}
        _read(checkpoint, pair, here, known, by, earlier.get((pair.pk, checkpoint.pk)))


def _read(checkpoint: Checkpoint, pair: Pair, said: dict, known: Known, by, earlier: Reading | None) -> None:
    paper = PAPERS[checkpoint.paper]
    try:
        found = paper.check(said, known)
    except AssayError as refusal:
        refuse(checkpoint=checkpoint, pair=pair, refusal=refusal, by=by)
        return
    rate = found.retail_rate({**paper.rates, **checkpoint.prior.get("rates", {})})
    value = found.parts.get(checkpoint.quantity) if checkpoint.quantity else found.written
    details = {
        "said": said,
        "outcome": found.outcome.value,
        "slips": [{"reason": s.reason, "numbers": dict(s.numbers), "outcome": s.outcome.value} for s in found.slips],
        "lines": [asdict(line) for line in found.lines],
    }
    parts = {**found.parts, **({} if rate is None else {"retail_rate": rate})}
    if earlier and earlier.details == details and earlier.parts == parts:
        return
    Reading.objects.create(
        pair=pair,
        checkpoint=checkpoint,
        corrects=earlier,
        value=value,
        unit="mm" if checkpoint.quantity else "text",
        uncertainty=found.parts.get(f"{checkpoint.quantity}_uncertainty", 0.0),
        method=f"{checkpoint.paper}/{VERSION}",
        parts=parts,
        details=details,
        taken_by=by,
    )
