"""Reads for the intake page, in a known number of queries."""

from assay.paperwork import sizes
from casework import paper_wording
from casework.findings import state_of
from casework.grading import VOID
from casework.models import Case
from casework.photos.queries import tray
from pairs.print import offered_print
from pairs.queries import retail_pairs


def intake(case: Case) -> dict:
    """The intake page beside its form. About twelve queries."""
    state = state_of(case)
    agenda = state.agenda
    applying = [f for f in state.findings if f.reason != VOID]
    void: dict[str, list[str]] = {}
    for finding in state.findings:
        if finding.reason == VOID:
            void.setdefault(paper_wording.void_words(finding.void), []).append(finding.checkpoint.name)
    return {
        **tray(case),
        "agenda": agenda,
        "left": len(agenda.confirm) + len(agenda.steps),
        "blocked": len(agenda.blocked),
        "applying": applying,
        "required": [f for f in applying if f.checkpoint.mandatory],
        "references": [] if case.signed_at else retail_pairs(case.pair),
        "void": sorted(void.items(), key=lambda one: -len(one[1])),
        "void_count": sum(map(len, void.values())),
        "minutes": f"{agenda.minutes:.0f}",
        "size_read": "" if case.pair.size_us or case.signed_at else _size_read(case),
    }


def _size_read(case: Case) -> str:
    """The US size as the tag's or the label's row was read; empty where it was not."""
    read = offered_print(case.pair)
    for place in ("tag.sizes", "box.sizes"):
        if place in read:
            row = sizes.parse_row(read[place].field.text)
            found = next((size for system, size in row.items() if system is sizes.System.US), None)
            if found is not None:
                return sizes.written(found)
    return ""
