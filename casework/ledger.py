"""The ledger: one line for every action, never changed, each carrying the digest of the one before."""

import hashlib
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.db import DEFAULT_DB_ALIAS, transaction
from django.utils import timezone

from casework import triggers
from casework.models import Case, Certificate, LedgerEntry, SignedDocument, SignedHead
from casework.organisation_key import has_key, is_signed, key_of, public_key
from casework.seal import digest, digest_of_outcome, file_digest, holds
from pairs.models import Organisation, Photo

FIRST = "0" * 64
SIGNED_ACTIONS = ("signed", "certificate_issued", "outcome_learned", "policy_set")
"""What is told of in a line that the shop's key signs."""
RULES = ("red_flags", "coverage", "legit_from", "fake_from", "decision_rule", "near_perfect")
"""What a policy's line tells of it."""
WAS_CALLED = {"school": "decision_rule"}
"""Older lines tell it by another key."""


def note(case, actor, action: str, **details) -> None:
    """Write a line about a case."""
    _write(case.organisation_id, case, actor, action, details)


def note_then(case, actor, action: str, at: datetime, **details) -> None:
    """The same of what was done earlier: for what is generated."""
    _write(case.organisation_id, case, actor, action, details, at)


def note_of_organisation(organisation, user, action: str, **details) -> None:
    """The same for what concerns no single case."""
    _write(organisation.pk, None, user, action, details)


@transaction.atomic
def _write(
    organisation_id: int, case: Case | None, actor, action: str, details: dict, at: datetime | None = None
) -> None:
    last = LedgerEntry.objects.filter(organisation=organisation_id).order_by("-pk").first()
    entry = LedgerEntry(
        organisation_id=organisation_id,
        case=case,
        actor=actor,
        action=action,
        details=details,
        at=at or timezone.now(),
        previous=last.digest if last else FIRST,
    )
    entry.digest = digest(content(entry))
    entry.save()
    if action in SIGNED_ACTIONS:
        sign_head(entry)


def sign_head(entry: LedgerEntry) -> SignedHead:
    """A line under the shop's key, and with it everything before it."""
    key = key_of(entry.organisation)
    return SignedHead.objects.create(
        line=entry,
        digest=entry.digest,
        key=public_key(entry.organisation),
        signature=key.sign(signed_text(entry)).hex(),
    )


def signed_text(entry: LedgerEntry) -> bytes:
    """What the shop's key signs of a line: shop, line, digest."""
    return f"ledger {entry.organisation_id} {entry.pk} {entry.digest}".encode()


def content(entry: LedgerEntry) -> dict:
    """What a line's digest is taken of."""
    return {
        "previous": entry.previous,
        "house": entry.organisation_id,
        "case": entry.case_id,
        "actor": entry.actor_id,
        "deed": entry.action,
        "details": entry.details,
        "at": entry.at.isoformat(timespec="microseconds"),
    }


@dataclass(frozen=True)
class Fault:
    """Something that is not as it was written."""

    what: str
    where: str


def verify(organisation: Organisation) -> Iterator[Fault]:
    """Whatever was flipped, removed, put in or swapped: lines against each other and under the shop's key, what lines
    say against what is there and the other way round, seals of signed cases, documents, photographs' files."""
    before = FIRST
    for entry in organisation.ledger.order_by("pk"):
        where = f"line {entry.pk}, {entry.action} on {entry.at:%Y-%m-%d %H:%M:%S}"
        if entry.previous != before:
            yield Fault("a line before it is missing, or it was put in", where)
        if entry.digest != digest(content(entry)):
            yield Fault("it was changed", where)
        before = entry.digest
    if gone := triggers.missing(organisation._state.db or DEFAULT_DB_ALIAS):
        yield Fault("nothing keeps its rows from being changed", f"database: {', '.join(gone)}")
    yield from _head_faults(organisation)
    for case in organisation.cases.select_related("pair__release", "organisation").order_by("pk"):
        yield from _case_faults(case)
    yield from _certificate_faults(organisation)
    yield from _policy_faults(organisation)
    for photo in Photo.objects.filter(pair__organisation=organisation).exclude(stored_sha256="").select_related("pair"):
        found = file_digest(photo.full.path)
        if found != photo.stored_sha256:
            what = "its file was changed or swapped" if found else "its file is missing"
            yield Fault(what, f"photograph {photo.pk} of {photo.pair.label}, {Path(photo.full.name).name}")


def _head_faults(organisation: Organisation) -> Iterator[Fault]:
    """Signed lines against the lines, the shop's key, and what must be signed since the first of them."""
    heads = list(SignedHead.objects.filter(line__organisation=organisation).select_related("line").order_by("line"))
    wanted = organisation.ledger.filter(action__in=SIGNED_ACTIONS)
    if not heads:
        if has_key(organisation) and wanted.exists():
            yield Fault("no line is signed", f"ledger of {organisation}")
        return
    if not has_key(organisation):
        yield Fault("the key that it was signed with is gone: fetch it from a backup", f"ledger of {organisation}")
    # Asked for only where it is there: what is not there would be made.
    own = public_key(organisation) if has_key(organisation) else heads[-1].key
    for one in heads:
        where = f"line {one.line_id}, {one.line.action}"
        if one.key != own:
            yield Fault("it is signed with another key than the shop's", where)
        if one.digest != one.line.digest or not is_signed(signed_text(one.line), one.signature, one.key):
            yield Fault("it, or a line before it, is not what the shop signed", where)
    for line in wanted.filter(pk__gt=heads[0].line_id, head=None):
        yield Fault("it should be signed and is not", f"line {line.pk}, {line.action}")


def _case_faults(case: Case) -> Iterator[Fault]:
    """Opinions and outcomes of a case against the lines that tell of them, its seals and its documents."""
    where, lines = f"case {case}", list(case.ledger.filter(action__in=("signed", "outcome_learned")).order_by("pk"))
    signed = [line for line in lines if line.action == "signed"]
    opinions = list(case.opinions.select_related("document").order_by("pk"))
    if bool(case.signed_at) != bool(opinions):
        yield Fault("it is signed without an opinion, or has one and is not signed", where)
    if len(signed) != len(opinions):
        yield Fault(f"{len(opinions)} opinions, and {len(signed)} lines that tell of one", where)
    for n, (line, opinion) in enumerate(zip(signed, opinions, strict=False), start=1):
        of = f"{where}, signature {n}"
        if (line.actor_id, line.details.get("verdict")) != (opinion.checker_id, opinion.verdict):
            yield Fault("the opinion is not what its line tells", of)
        said = line.details.get("sealed")
        if said and not holds(said, case, n):
            yield Fault("what was signed is no longer what is there", of)
        document, kept = line.details.get("document"), getattr(opinion, "document", None)
        if document and (kept is None or kept.sha256 != document or not _unpacks_to(kept)):
            yield Fault("the document that was signed was changed", of)
    told = [(line.actor_id, line.details.get("so"), line.details.get("how")) for line in lines if line not in signed]
    outcomes = list(case.outcomes.order_by("pk"))
    sealed = [line.details.get("about") for line in lines if line not in signed]
    same = told == [(outcome.made_by_id, outcome.so, outcome.how) for outcome in outcomes]
    # Lines of before hold no digest.
    if not same or any(about and about != digest_of_outcome(one) for about, one in zip(sealed, outcomes, strict=False)):
        yield Fault("what was learned of it later is not what its lines tell", where)


def _certificate_faults(organisation: Organisation) -> Iterator[Fault]:
    issued = organisation.ledger.filter(action="certificate_issued").order_by("pk")
    told = {line.details.get("number"): (line.actor_id, line.details.get("verdict")) for line in issued}
    kept = Certificate.objects.filter(opinion__case__organisation=organisation).select_related(
        "opinion__case__pair__release"
    )
    for one in kept:
        where = f"certificate {one.number}"
        if told.pop(one.number, None) != (one.issued_by_id, one.opinion.verdict):
            yield Fault("no line tells of it, or tells it otherwise", where)
        before = one.opinion.case.opinions.filter(pk__lte=one.opinion_id).count()
        if not holds(one.sealed, one.opinion.case, before):
            yield Fault("what it certifies is no longer what is there", where)
    for number in told:
        yield Fault("it is gone", f"certificate {number}")


def _policy_faults(organisation: Organisation) -> Iterator[Fault]:
    """Each policy is signed under: what it asked must not change afterwards."""
    lines = {line.details.get("number"): line for line in organisation.ledger.filter(action="policy_set")}
    for policy in organisation.policies.order_by("number"):
        line = lines.get(policy.number)
        said = {WAS_CALLED.get(key, key): value for key, value in line.details.items()} if line else {}
        odd = [name for name in RULES if name in said and said[name] != getattr(policy, name)]
        if odd or (line and line.actor_id != policy.made_by_id):
            yield Fault("it asks otherwise than its line tells", f"policy {policy.number}")


def _unpacks_to(document: SignedDocument) -> bool:
    try:
        return hashlib.sha256(zlib.decompress(bytes(document.packed))).hexdigest() == document.sha256
    except zlib.error:
        return False


def head(organisation: Organisation) -> str:
    """The last line's digest: whoever has it written down can tell whether the ledger was cut."""
    last = organisation.ledger.order_by("-pk").first()
    return last.digest if last else FIRST
