"""Reads for the bench, in a known number of queries."""

from copy import copy

from django.urls import reverse

from casework import wording
from casework.agenda import after
from casework.bench.numbers import numbers
from casework.bench.panel import panel
from casework.bench.papers import paper_page
from casework.bench.plan import agenda_words, lessened_words, plan_words, weight_words
from casework.bench.rail import rail
from casework.bench.stage import sides
from casework.findings import state_of
from casework.grading import is_settled
from casework.models import Case
from casework.photos.queries import belongs_elsewhere
from casework.queue import stalled
from library.photo_kinds import keys_where
from pairs.queries import photos_in_use, retail_pairs


def bench(case: Case, key: str, typed: dict, tab: str) -> dict:
    """Everything the bench shows at one checkpoint. About fifteen queries, whatever the case holds.

    ``tab``: which list the left side shows; ``typed``: what was just sent and refused, so that it is not lost.
    """
    state = state_of(case)
    findings, stand = state.findings, state.assessment
    current = apart(next((finding for finding in findings if finding.checkpoint.key == key), findings[0]))
    keys = [finding.checkpoint.key for finding in findings]
    at = keys.index(current.checkpoint.key)
    follow = next(
        (one for one in findings if one.checkpoint.key == after(state.agenda, findings, current.checkpoint.key)), None
    )
    return {
        "case": case,
        "weighed": stand.pieces.get(current.checkpoint.key),
        "lessened": lessened_words(stand, current.checkpoint.key),
        "plan": plan_words(state, current.checkpoint.key),
        "rail": rail(state, current, tab),
        "finding": current,
        "checkpoint": current.checkpoint,
        "sides": sides(case, current),
        "panel": panel(current) | numbers(case, current),
        "moved": belongs_elsewhere(current.reading.photo) if current.reading and current.reading.photo else "",
        "paper": paper_page(case, current.checkpoint, typed),
        "seen": list(case.sightings.filter(taken_back=False).select_related("made_by")),
        "typed": typed,
        "groups": sorted({finding.checkpoint.group for finding in findings}),
        "uv": ultraviolet_step(case, current),
        "notes": notes_of(case, current.checkpoint),
        "standing": stand,
        "weight_told": weight_words(stand.balance.total),
        "checks": [one.checkpoint for one in findings],
        "bench_url": reverse("bench", args=[case.number]),
        "previous": keys[at - 1],
        "following": keys[(at + 1) % len(keys)],
        "next": follow and follow.checkpoint,
        "agenda": state.agenda,
        "agenda_words": agenda_words(state),
        "settled": sum(is_settled(finding) for finding in findings),
        "total": len(findings),
        "stalled": stalled(case),
    }


def apart(finding):
    """A copy of a shared finding and its reading: what only the stage needs is read for it and not kept with them."""
    mine = copy(finding)
    mine.reading = copy(finding.reading)
    return mine


def ultraviolet_step(case: Case, finding) -> dict | None:
    """At a check under UV: whether there is a control to compare with, and which lamp it was. Few queries."""
    checkpoint = finding.checkpoint
    if checkpoint.view not in keys_where(ultraviolet=True):
        return None
    photo = photos_in_use(case.pair).get((checkpoint.view, checkpoint.foot))
    controls = [photos_in_use(pair).get((checkpoint.view, checkpoint.foot)) for pair in retail_pairs(case.pair)]
    controls = [control for control in controls if control]
    alike = [control for control in controls if photo and photo.lamp and control.lamp == photo.lamp]
    return {
        "photo": photo,
        "control": bool(alike) or (bool(controls) and photo is None),
        "control_words": wording.control_words(len(controls), len(alike), photographed=photo is not None),
        "lamp_words": wording.lamp_words(photo) if photo else "",
        "lamp_known": bool(photo and photo.lamp),
    }


def notes_of(case: Case, checkpoint) -> list[dict]:
    """What was pinned beside a checkpoint. One query."""
    kept = case.notes.filter(checkpoint=checkpoint).select_related("made_by", "photo__pair")
    return [{"note": note, "words": wording.gauged_words(note.tool, note)} for note in kept]
