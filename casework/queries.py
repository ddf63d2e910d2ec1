"""Reads for the pages, each in a known number of queries."""

from dataclasses import dataclass, field

from assay.contracts import CORRECTED_BY_HAND
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.judge.schools import SCHOOLS, Verdict, coverage, flagged_groups, house_verdict
from casework import paper_wording, wording
from casework.actions.analyse_case import stalled
from casework.grading import VOID, core_policy, items, policy_in_force
from casework.models import Case
from casework.number_queries import numbers
from casework.panel import answer_names, panel, refusal_words, retail_words, shown_value, written
from casework.paper_queries import paper_page
from casework.photo_queries import belongs_elsewhere, tray
from casework.stage_queries import sides
from library.known_views import views
from library.models import Foot

# Why a check needs the eye, the gravest first; and how many are listed.
URGENT = ("decisive", "departs", "drifts", "count unsure", "in doubt")
MOST_FIRST = 6


def counter(house) -> dict:
    """Cases of a house, newest first, with what each waits for. Three queries."""
    cases = Case.objects.filter(house=house).select_related("pair__release__shoe_model__maker", "opened_by")
    cases = list(cases.prefetch_related("findings__checkpoint", "opinions__checker", "pair__photos")[:200])
    rows = [_counter_row(case) for case in cases]
    return {"waiting": [row for row in rows if not row["signed"]], "signed": [row for row in rows if row["signed"]]}


def _counter_row(case: Case) -> dict:
    findings = list(case.findings.all())
    applying = [f for f in findings if f.reason != VOID]
    opinions = list(case.opinions.all())
    photos = list(case.pair.photos.all())
    flags = flagged_groups(items(findings))
    order = {key: n for n, key in enumerate(views())}
    return {
        "case": case,
        "signed": bool(opinions),
        "opinion": opinions[-1] if opinions else None,
        "flags": len(flags),
        "done": sum(f.grade != Grade.NOT_COMPARED for f in applying),
        "of": len(applying),
        "waits": _waits(case, applying, photos),
        "photo": min(
            (p for p in photos if p.preview), key=lambda p: (order.get(p.view, len(order)), p.foot), default=None
        ),
        "strip": [_mark(finding) for finding in sorted(findings, key=lambda f: f.checkpoint.position)],
    }


def _waits(case: Case, applying: list, photos: list) -> str:
    if case.to_analyse:
        return f"measuring {case.analysed} of {case.to_analyse}"
    return _waits_for_facts(case, photos) or _waits_for_eyes(applying)


def _waits_for_facts(case: Case, photos: list) -> str:
    if not case.pair.condition or not case.pair.size_us:
        return "the facts: size and condition"
    if any(photo.state == "read" and not photo.view and not photo.set_aside for photo in photos):
        return "a word on what a photograph shows"
    if not set(Foot.values) <= {photo.foot for photo in photos if not photo.set_aside}:
        return "photographs of both shoes"
    return ""


def _waits_for_eyes(applying: list) -> str:
    unseen = [f for f in applying if Grade(f.grade) in RED_FLAGS and not f.confirmed_by_id]
    if unseen:
        return f"an eye on {unseen[0].checkpoint.name.lower()}"
    asked = [f for f in applying if f.reason == "not_looked_at"]
    if asked:
        return asked[0].checkpoint.name.lower()
    return "a verdict"


def _mark(finding) -> str:
    return "void" if finding.reason == VOID else finding.grade


@dataclass
class Standing:
    """Where a case stands: what the house's rule and the schools say."""

    answer: object
    words: str
    policy: object
    flags: tuple
    coverage: int
    needed: int
    schools: list = field(default_factory=list)
    segments: list = field(default_factory=list)


def standing(case: Case, findings: list) -> Standing:
    """Verdict so far. One query for the policy."""
    policy = core_policy(policy_in_force(case.house))
    sheet = items(findings)
    answer = house_verdict(sheet, policy)
    schools = []
    for school in SCHOOLS:
        said = school(sheet, policy)
        name, rule = wording.SCHOOLS[said.school]
        schools.append(
            {
                "name": name,
                "rule": rule.format(red_flags=policy.red_flags),
                "verdict": said.verdict.value,
                "words": wording.answer_words(said, policy),
                "parts": said.verdict is not answer.verdict,
            }
        )
    return Standing(
        answer=answer,
        words=wording.answer_words(answer, policy),
        policy=policy,
        flags=flagged_groups(sheet),
        coverage=round(100 * coverage(sheet)),
        needed=round(100 * policy.coverage),
        schools=schools,
        segments=_segments(findings),
    )


def _segments(findings: list) -> list[dict]:
    """One piece a group: its worst grade, as wide as it counts."""
    order = [Grade.RULES_OUT, Grade.DEPARTS, Grade.DRIFTS, Grade.AGREES, Grade.NOT_COMPARED]
    groups: dict[str, dict] = {}
    for finding in findings:
        if finding.reason == VOID:
            continue
        group = groups.setdefault(finding.checkpoint.group, {"grades": [], "done": 0, "name": finding.checkpoint.group})
        group["grades"].append(Grade(finding.grade))
        group["done"] += finding.grade != Grade.NOT_COMPARED
    wide = 100 / max(1, len(groups))
    return [
        {
            "name": name.replace("-", " "),
            "grade": min(group["grades"], key=order.index).value,
            "x": round(n * wide, 2),
            "width": round(wide - 0.6, 2),
            "done": group["done"],
            "of": len(group["grades"]),
            "middle": round((n + 0.5) * wide, 2),
        }
        for n, (name, group) in enumerate(groups.items())
    ]


def findings_of(case: Case) -> list:
    """Findings in working order, with what they rest on. One query."""
    found = case.findings.select_related("checkpoint__release", "reading__taken_by", "reading__photo", "confirmed_by")
    return sorted(found, key=lambda finding: finding.checkpoint.position)


def is_settled(finding) -> bool:
    """Whether a person has nothing more to do at this checkpoint."""
    if finding.reason in (VOID, "could_not_tell") or finding.confirmed_by_id:
        return True
    if finding.reading is None or finding.reading.refusal:
        # Left against right follows by itself from what is read on both.
        return bool(finding.checkpoint.left_id)
    if finding.checkpoint.measure:
        return CORRECTED_BY_HAND in finding.reading.doubts and finding.grade == Grade.AGREES
    return not (finding.grade == Grade.DEPARTS and finding.checkpoint.decisive)


def is_done_here(finding) -> bool:
    """Whether the bench may go on by itself: settled, and no flag that its person has not seen and confirmed."""
    return is_settled(finding) and (bool(finding.confirmed_by_id) or Grade(finding.grade) not in RED_FLAGS)


def next_key(findings: list, after: str = "") -> str:
    """Key of the next checkpoint that wants a person, looking on from one and round again."""
    keys = [finding.checkpoint.key for finding in findings]
    start = keys.index(after) + 1 if after in keys else 0
    for finding in [*findings[start:], *findings[:start]]:
        if not is_settled(finding):
            return finding.checkpoint.key
    return keys[min(start, len(keys) - 1)]


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
    return {
        "case": case,
        "rail": _rail(findings, current),
        "first": _first(findings),
        "finding": current,
        "checkpoint": current.checkpoint,
        "sides": sides(case, current),
        "panel": panel(current) | numbers(case, current),
        "moved": belongs_elsewhere(current.reading.photo) if current.reading and current.reading.photo else "",
        "paper": paper_page(case, current.checkpoint, typed),
        "notes": notes_of(case, current.checkpoint),
        "standing": standing(case, findings),
        "previous": keys[at - 1],
        "following": keys[(at + 1) % len(keys)],
        "next": None if is_settled(follow) else follow.checkpoint,
        "settled": sum(is_settled(finding) for finding in findings),
        "total": len(findings),
        "stalled": stalled(case),
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
                "mark": _mark(finding),
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
    return [{"checkpoint": f.checkpoint, "mark": _mark(f), "why": URGENT[rank]} for rank, f in waiting]


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
        return written(finding.checkpoint, value, {})
    if finding.checkpoint.kind == Kind.COUNT:
        return str(value)
    return (
        "said" if finding.checkpoint.kind == Kind.ANSWER else paper_wording.OUTCOMES[finding.reading.details["outcome"]]
    )


def notes_of(case: Case, checkpoint) -> list[dict]:
    """What was pinned beside a checkpoint. One query."""
    kept = case.notes.filter(checkpoint=checkpoint).select_related("made_by", "photo__pair")
    return [{"note": note, "words": wording.gauged_words(note.tool, note)} for note in kept]


def verdict(case: Case) -> dict:
    """The verdict page. About eight queries."""
    findings = findings_of(case)
    rows = []
    for finding in findings:
        names = answer_names(finding.checkpoint)
        value = shown_value(finding)
        rows.append(
            {
                "finding": finding,
                "checkpoint": finding.checkpoint,
                "mark": _mark(finding),
                "value": written(finding.checkpoint, value, names),
                "retail": retail_words(finding, names),
                "words": wording.GRADE_WORDS[finding.grade],
                "why": paper_wording.why_not_compared(finding),
                "slips": paper_wording.slip_words(finding.reading),
                "refusal": refusal_words(finding.reading),
                "by_eye": bool(finding.confirmed_by_id),
            }
        )
    opinions = list(case.opinions.select_related("checker", "policy"))
    return {
        "case": case,
        "rows": [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED],
        "missing": [row for row in rows if row["finding"].grade == Grade.NOT_COMPARED],
        "standing": standing(case, findings),
        "opinions": opinions,
        "last": opinions[-1] if opinions else None,
        "verdicts": [v.value for v in Verdict],
        "policy": policy_in_force(case.house),
        "unconfirmed": [r for r in rows if Grade(r["finding"].grade) in RED_FLAGS and not r["by_eye"]],
        "look_again": [
            r["checkpoint"]
            for r in rows
            if r["finding"].grade == Grade.DEPARTS and not r["by_eye"] and r["checkpoint"].decisive
        ],
        "settle": [r["checkpoint"] for r in rows if r["finding"].grade == Grade.NOT_COMPARED and r["mark"] != "void"],
        "ledger": [
            {"entry": entry, "deed": wording.DEEDS.get(entry.deed, entry.deed)}
            for entry in case.ledger.select_related("actor")
        ],
    }


def intake(case: Case) -> dict:
    """The intake page beside its form. About eight queries."""
    findings = findings_of(case)
    applying = [f for f in findings if f.reason != VOID]
    return {
        **tray(case),
        "applying": applying,
        "void": [
            {"checkpoint": f.checkpoint, "why": paper_wording.void_words(f.void)} for f in findings if f.reason == VOID
        ],
        "minutes": f"{sum(f.checkpoint.minutes for f in applying):.0f}",
    }
