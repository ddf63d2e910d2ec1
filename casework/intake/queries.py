"""Reads for the intake page, in a known number of queries."""

from casework import paper_wording
from casework.findings import state_of
from casework.grading import VOID
from casework.models import Case
from casework.photos.queries import tray
from pairs.queries import retail_pairs


def intake(case: Case) -> dict:
    """The intake page beside its form. About eight queries."""
    findings = state_of(case).findings
    applying = [f for f in findings if f.reason != VOID]
    return {
        **tray(case),
        "applying": applying,
        "references": [] if case.signed_at else retail_pairs(case.pair),
        "void": [
            {"checkpoint": f.checkpoint, "why": paper_wording.void_words(f.void)} for f in findings if f.reason == VOID
        ],
        "minutes": f"{sum(f.checkpoint.minutes for f in applying):.0f}",
    }
