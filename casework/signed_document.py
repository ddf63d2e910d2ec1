"""The document that a signature stands under, kept whole; and in what the case as it reads today differs from it."""

import json
import zlib
from collections.abc import Iterator
from hashlib import sha256

from casework import wording
from casework.case_document import case_document
from casework.models import Case, Opinion, SignedDocument
from casework.seal import canonical

# What goes on after a signature, or is only a proposal for what to do next.
GOES_ON = ("opinions", "ledger", "plan", "policy")
# Of a finding: what is worked out anew whenever it is asked for.
WORKED_OUT = ("weighing",)
LEAST_DECIBANS = 0.05
MOST_TOLD = 12


def keep_document(opinion: Opinion) -> SignedDocument:
    """The whole case as it stands under an opinion, with its digest. Within the transaction that signs."""
    data = canonical(case_document(opinion.case))
    return SignedDocument.objects.create(opinion=opinion, packed=zlib.compress(data), sha256=sha256(data).hexdigest())


def signed_bytes(document: SignedDocument) -> bytes:
    """The document as it was signed, UTF-8 JSON."""
    return zlib.decompress(bytes(document.packed))


def last_signed(case: Case) -> SignedDocument | None:
    """The document of the last opinion. A query."""
    return SignedDocument.objects.filter(opinion__case=case).order_by("-opinion").first()


def differences(case: Case) -> list[str]:
    """In what the case reads otherwise today than when it was last signed, a sentence each; empty where in nothing.

    A signed case's own rows never change: what does is what they rest on, such as a check's words, a belief, the known
    copies, the name of a person or shop.
    """
    kept = last_signed(case)
    if kept is None:
        return []
    before, today = json.loads(signed_bytes(kept)), json.loads(canonical(case_document(case)))
    told = [*_told(before, today)]
    return told[:MOST_TOLD] + ([f"And {len(told) - MOST_TOLD} differences more."] if len(told) > MOST_TOLD else [])


def _told(before: dict, today: dict) -> Iterator[str]:
    was, now = before["house_rule"], today["house_rule"]
    if was["verdict"] != now["verdict"]:
        yield f"The shop’s rule would say {now['verdict']} today; it said {was['verdict']}."
    if abs(before["balance"]["decibans"] - today["balance"]["decibans"]) > LEAST_DECIBANS:
        weighed = [f"{one['balance']['decibans']:+.1f}" for one in (today, before)]
        yield f"Weighed {weighed[0]} deciban today, with what was learned since; {weighed[1]} when it was signed."
    checks = [{one["checkpoint"]: one for one in side["findings"]} for side in (before, today)]
    for key in [*checks[0], *(key for key in checks[1] if key not in checks[0])]:
        yield from _of_check(checks[0].get(key), checks[1].get(key))
    for part, value in before.items():
        if part not in (*GOES_ON, "findings", "balance", "house_rule", "prior_odds", "format"):
            yield from _of_part(part, value, today.get(part))


def _of_check(was: dict | None, now: dict | None) -> Iterator[str]:
    if was is None or now is None:
        yield f"“{(was or now)['name']}” {'was not there' if was is None else 'is no longer there'}."
        return
    for field in was:
        if field not in WORKED_OUT and was[field] != now.get(field):
            yield f"“{was['name']}”, {_field_words(field)}: {_short(now.get(field))} today, {_short(was[field])} then."


def _of_part(part: str, was, now) -> Iterator[str]:
    if was == now:
        return
    if isinstance(was, dict) and isinstance(now, dict):
        for field in was:
            if was[field] != now.get(field):
                yield f"{_field_words(field).capitalize()}: {_short(now.get(field))} today, {_short(was[field])} then."
    else:
        yield f"{_field_words(part).capitalize()} read otherwise today."


def _field_words(field: str) -> str:
    return wording.DOCUMENT_FIELDS.get(field, field.replace("_", " "))


def _short(value) -> str:
    said = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return f"“{said[:60]}{'…' if len(said) > 60 else ''}”"
