"""Reads for the bench, in a known number of queries."""

from assay.judge.grade import Grade
from assay.judge.judgement import UNSURE_COUNT, Kind
from casework import paper_wording, wording
from casework.bench.numbers import numbers
from casework.bench.panel import panel, shown_number, shown_value
from casework.bench.papers import paper_page
from casework.bench.plan import lessened_words, plan_words, weight_words
from casework.bench.stage import sides
from casework.findings import assess, findings_of, is_settled, mark_of, next_key
from casework.grading import VOID
from casework.models import Case
from casework.photos.queries import belongs_elsewhere
from casework.queue import stalled
from library.photo_kinds import keys_where
from pairs.queries import photos_in_use, retail_pairs

# Why a check needs the eye, the gravest first; and how many are listed.
URGENT = ("decisive", "departs", "drifts", "count unsure", "in doubt")


MOST_FIRST = 6


def bench(case: Case, key: str, typed: dict) -> dict:
    """Everything the bench shows at one checkpoint. About fifteen queries, whatever the case holds.

    ``typed``: what was just sent and refused, so that it is not lost.
    """
    findings = findings_of(case)
    current = next((finding for finding in findings if finding.checkpoint.key == key), findings[0])
    keys = [finding.checkpoint.key for finding in findings]
    at = keys.index(current.checkpoint.key)
    waiting = next_key(findings, current.checkpoint.key)
    follow = next(finding for finding in findings if finding.checkpoint.key == waiting)
    stand = assess(case, findings)
    return {
        "case": case,
        "weighed": stand.pieces.get(current.checkpoint.key),
        "lessened": lessened_words(stand, current.checkpoint.key),
        "plan": plan_words(case, findings, stand, current.checkpoint.key),
        "rail": _rail(findings, current),
        "first": _first(findings),
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
        "previous": keys[at - 1],
        "following": keys[(at + 1) % len(keys)],
        "next": None if is_settled(follow) else follow.checkpoint,
        "settled": sum(is_settled(finding) for finding in findings),
        "total": len(findings),
        "stalled": stalled(case),
    }


def ultraviolet_step(case: Case, finding) -> dict | None:
    """At a check under UV: whether there is a control to compare with, and which lamp it was. Few queries."""
    checkpoint = finding.checkpoint
    if checkpoint.view not in keys_where(ultraviolet=True):
        return None
    photo = photos_in_use(case.pair).get((checkpoint.view, checkpoint.foot))
    controls = [photos_in_use(pair).get((checkpoint.view, checkpoint.foot)) for pair in retail_pairs(case.pair)]
    controls = [one for one in controls if one]
    alike = [one for one in controls if photo and photo.lamp and one.lamp == photo.lamp]
    return {
        "photo": photo,
        "control": bool(alike) or (bool(controls) and photo is None),
        "control_words": wording.control_words(len(controls), len(alike), photographed=photo is not None),
        "lamp_words": wording.lamp_words(photo) if photo else "",
        "lamp_known": bool(photo and photo.lamp),
    }


def _rail(findings: list, current) -> list[dict]:
    """Checks in working order by section; the section that is worked on lies open, the others show their grades."""
    sections: dict[str, dict] = {}
    for finding in findings:
        section = sections.setdefault(finding.checkpoint.section, {"name": finding.checkpoint.section, "rows": []})
        section["rows"].append(
            {
                "finding": finding,
                "checkpoint": finding.checkpoint,
                "mark": mark_of(finding),
                "seen": is_settled(finding),
                "value": "void" if finding.reason == VOID else _short(finding),
            }
        )
    for section in sections.values():
        rows = section["rows"]
        section["seen"] = sum(row["seen"] for row in rows)
        section["open"] = any(row["finding"] is current for row in rows)
        section["go"] = next((row["checkpoint"].key for row in rows if not row["seen"]), rows[0]["checkpoint"].key)
    return list(sections.values())


def _first(findings: list) -> list[dict]:
    """What needs the eye before the rest, the gravest first: flags, drifts, unsure counts, doubts."""
    waiting = [(_urgency(finding), finding) for finding in findings if not is_settled(finding)]
    waiting = sorted((one for one in waiting if one[0] < len(URGENT)), key=lambda one: one[0])[:MOST_FIRST]
    return [{"checkpoint": f.checkpoint, "mark": mark_of(f), "why": URGENT[rank]} for rank, f in waiting]


def _urgency(finding) -> int:
    """Place in URGENT; behind all of it where nothing is the matter."""
    reading, checkpoint = finding.reading, finding.checkpoint
    if reading is None or reading.value is None or finding.grade == Grade.NOT_COMPARED:
        return len(URGENT)
    alarms = (
        finding.grade == Grade.DEPARTS and checkpoint.decisive,
        finding.grade == Grade.DEPARTS,
        finding.grade == Grade.DRIFTS,
        checkpoint.kind == Kind.COUNT and reading.uncertainty >= UNSURE_COUNT,
        bool(checkpoint.measure and reading.doubts),
    )
    return next((rank for rank, alarm in enumerate(alarms) if alarm), len(URGENT))


def _short(finding) -> str:
    value = shown_value(finding)
    if value is None:
        return "–"
    if finding.checkpoint.kind == Kind.CONTINUOUS:
        return shown_number(finding, {})
    if finding.checkpoint.kind == Kind.COUNT:
        return str(value)
    return (
        "said" if finding.checkpoint.kind == Kind.ANSWER else paper_wording.OUTCOMES[finding.reading.details["outcome"]]
    )


def notes_of(case: Case, checkpoint) -> list[dict]:
    """What was pinned beside a checkpoint. One query."""
    kept = case.notes.filter(checkpoint=checkpoint).select_related("made_by", "photo__pair")
    return [{"note": note, "words": wording.gauged_words(note.tool, note)} for note in kept]
