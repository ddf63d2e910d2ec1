"""The ledger: one line for every deed, never changed, each carrying the digest of the one before."""

import hashlib
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from casework.models import Case, LedgerEntry, SignedDocument
from casework.seal import digest, file_digest, seal_of
from pairs.models import House, Photo

FIRST = "0" * 64


def note(case, actor, deed: str, **details) -> None:
    """Write a line about a case."""
    _write(case.house_id, case, actor, deed, details)


def note_of_house(house, user, deed: str, **details) -> None:
    """The same for what concerns no single case."""
    _write(house.pk, None, user, deed, details)


@transaction.atomic
def _write(house_id: int, case: Case | None, actor, deed: str, details: dict) -> None:
    last = LedgerEntry.objects.filter(house=house_id).order_by("-pk").first()
    entry = LedgerEntry(
        house_id=house_id, case=case, actor=actor, deed=deed, details=details, at=timezone.now(),
        previous=last.digest if last else FIRST,
    )  # fmt: skip
    entry.digest = digest(content(entry))
    entry.save()


def content(entry: LedgerEntry) -> dict:
    """What a line's digest is taken of."""
    return {
        "previous": entry.previous,
        "house": entry.house_id,
        "case": entry.case_id,
        "actor": entry.actor_id,
        "deed": entry.deed,
        "details": entry.details,
        "at": entry.at.isoformat(timespec="microseconds"),
    }


@dataclass(frozen=True)
class Fault:
    """Something that is not as it was written."""

    what: str
    where: str


def verify(house: House) -> Iterator[Fault]:
    """Whatever was flipped, removed, put in or swapped: lines against each other, seals of signed cases against what is
    there now, photographs' files against what was received."""
    before = FIRST
    for entry in house.ledger.order_by("pk"):
        where = f"line {entry.pk}, {entry.deed} on {entry.at:%Y-%m-%d %H:%M:%S}"
        if entry.previous != before:
            yield Fault("a line before it is missing, or it was put in", where)
        if entry.digest != digest(content(entry)):
            yield Fault("it was changed", where)
        before = entry.digest
    yield from _seal_faults(house)
    for photo in Photo.objects.filter(pair__house=house).exclude(stored_sha256="").select_related("pair"):
        found = file_digest(photo.full.path)
        if found != photo.stored_sha256:
            what = "its file was changed or swapped" if found else "its file is missing"
            yield Fault(what, f"photograph {photo.pk} of {photo.pair.label}, {Path(photo.full.name).name}")


def _seal_faults(house: House) -> Iterator[Fault]:
    for case in house.cases.exclude(signed_at=None).select_related("pair__release", "house"):
        for n, line in enumerate(case.ledger.filter(deed="signed").order_by("pk"), start=1):
            said = line.details.get("sealed")
            if said and said != seal_of(case, n):
                yield Fault("what was signed is no longer what is there", f"case {case}, signature {n}")
        for kept in SignedDocument.objects.filter(opinion__case=case):
            line = case.ledger.filter(deed="signed", details__document=kept.sha256)
            if not line.exists() or not _unpacks_to(kept):
                yield Fault("the document that was signed was changed", f"case {case}, {kept.opinion.verdict}")


def _unpacks_to(kept: SignedDocument) -> bool:
    try:
        return hashlib.sha256(zlib.decompress(bytes(kept.packed))).hexdigest() == kept.sha256
    except zlib.error:
        return False


def head(house: House) -> str:
    """The last line's digest: whoever has it written down can tell whether the ledger was cut."""
    last = house.ledger.order_by("-pk").first()
    return last.digest if last else FIRST
