"""What a signature seals: one digest over a case's photographs, readings, findings and opinions."""

import hashlib
import json
from pathlib import Path

from casework.models import Case
from pairs.models import Marking

BY_KEYS = "2:"
PAIR = ("size_us", "region", "condition", "generation", "feet", "box_size_us", "bought_on")
CASE = ("arrival", "in_hand", "reference_in_hand", "tools", "source", "asked_price")

READING = (
    "checkpoint__key",
    "value",
    "unit",
    "uncertainty",
    "parts",
    "details",
    "method",
    "doubts",
    "refusal",
    "marks",
)
FINDING = (
    "checkpoint__key",
    "grade",
    "tail_probability",
    "retail",
    "compared",
    "reason",
    "void",
    "confirmed_by__username",
)
PHOTO = ("sha256", "stored_sha256", "view", "foot")
OPINION = ("checker__username", "verdict", "proposed", "words", "policy__number", "anyway")

NOTE = ("checkpoint", "tool", "points", "value", "unit", "words", "made_by")
SEEN = ("name", "group", "sure", "like", "words", "taken_back", "made_by")
SAID = ("pk", "checker", "verdict", "proposed", "words", "policy", "anyway", "against", "decibans", "batch", "settling")


def canonical(value: object) -> bytes:
    """The same bytes for the same value: sorted keys, no white space, UTF-8."""
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str).encode()


def digest(value: object) -> str:
    """SHA-256 of a value's canonical form."""
    return hashlib.sha256(canonical(value)).hexdigest()


def digest_of_outcome(outcome) -> str:
    """Of what was learned: who said so, and when."""
    return digest([outcome.so, outcome.how, outcome.source, f"{outcome.learned_on:%F}"])


def file_digest(path: str) -> str:
    """SHA-256 of a file; empty where there is none."""
    try:
        return hashlib.sha256(Path(path).read_bytes()).hexdigest()
    except OSError:
        return ""


def sealed(case: Case, opinions: int | None = None) -> dict:
    """Everything that a signature seals, as plain data, people and things by their keys, which no renaming changes; the
    first so many ``opinions`` of it. Nine queries."""
    pair = case.pair
    facts = [getattr(pair, name) for name in PAIR] + [getattr(case, name) for name in CASE]
    of_photos = Marking.objects.filter(photo__pair=pair).order_by("photo", "checkpoint")
    return {
        "case": [case.pk, case.number, case.organisation_id, pair.pk, pair.release_id, *facts],
        "photos": _rows(pair.photos.order_by("pk"), ("pk", *PHOTO)),
        "markings": _rows(of_photos, ("photo", "checkpoint", "points", "origin")),
        "print": _rows(pair.inscriptions.order_by("pk"), ("place", "text", "source", "photo", "read_by")),
        "readings": _rows(pair.readings.order_by("pk"), ("pk", *(_key(name) for name in READING), "taken_by")),
        "findings": _rows(case.findings.order_by("checkpoint"), tuple(_key(name) for name in FINDING)),
        "notes": _rows(case.notes.order_by("pk"), NOTE),
        "seen": _rows(case.sightings.order_by("pk"), SEEN),
        "opinions": _rows(case.opinions.order_by("pk"), SAID)[:opinions],
    }


def sealed_by_names(case: Case, opinions: int | None = None) -> dict:
    """The same as it was sealed before keys took the place of names."""
    pair = case.pair
    return {
        "case": [
            case.number,
            case.organisation.name,
            pair.label,
            pair.release.style_code,
            pair.size_us,
            pair.condition,
        ],
        "photos": _rows(pair.photos.order_by("pk"), PHOTO),
        "readings": _rows(pair.readings.order_by("pk"), READING),
        "findings": _rows(case.findings.order_by("checkpoint__key"), FINDING),
        "opinions": [_opinion(row) for row in case.opinions.order_by("pk").values_list(*OPINION)[:opinions]],
    }


def _rows(found, names: tuple[str, ...]) -> list[list]:
    return [list(row) for row in found.values_list(*names)]


def _key(name: str) -> str:
    return name.partition("__")[0]


def _opinion(row: tuple) -> list:
    """As it is sealed; a reason that was not asked for is left out, as in seals from before there were any."""
    *told, anyway = row
    return [*told, anyway] if anyway else told


def seal_of(case: Case, opinions: int | None = None) -> str:
    """Its digest, with the form it is of."""
    return BY_KEYS + digest(sealed(case, opinions))


def holds(said: str, case: Case, opinions: int) -> bool:
    """Whether a seal is that of what is there, of either form."""
    if said.startswith(BY_KEYS):
        return said == seal_of(case, opinions)
    return said == digest(sealed_by_names(case, opinions))
