"""What a signature seals: one digest over a case's photographs, readings, findings and opinions."""

import hashlib
import json
from pathlib import Path

from casework.models import Case

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


def canonical(value: object) -> bytes:
    """The same bytes for the same value: sorted keys, no white space, UTF-8."""
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str).encode()


def digest(value: object) -> str:
    """SHA-256 of a value's canonical form."""
    return hashlib.sha256(canonical(value)).hexdigest()


def file_digest(path: str) -> str:
    """SHA-256 of a file; empty where there is none."""
    try:
        return hashlib.sha256(Path(path).read_bytes()).hexdigest()
    except OSError:
        return ""


def sealed(case: Case, opinions: int | None = None) -> dict:
    """Everything that a signature seals, as plain data; the first so many ``opinions`` of it. Five queries."""
    pair = case.pair
    return {
        "case": [case.number, case.house.name, pair.label, pair.release.style_code, pair.size_us, pair.condition],
        "photos": [
            list(row) for row in pair.photos.order_by("pk").values_list("sha256", "stored_sha256", "view", "foot")
        ],
        "readings": [list(row) for row in pair.readings.order_by("pk").values_list(*READING)],
        "findings": [list(row) for row in case.findings.order_by("checkpoint__key").values_list(*FINDING)],
        "opinions": [_opinion(row) for row in case.opinions.order_by("pk").values_list(*OPINION)[:opinions]],
    }


def _opinion(row: tuple) -> list:
    """As it is sealed; a reason that was not asked for is left out, as in seals from before there were any."""
    *told, anyway = row
    return [*told, anyway] if anyway else told


def seal_of(case: Case, opinions: int | None = None) -> str:
    """Its digest."""
    return digest(sealed(case, opinions))
