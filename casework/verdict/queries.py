"""Reads for the verdict page, in a known number of queries."""

from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.schools import Verdict
from assay.judge.weight import UNKNOWN, telling
from casework import paper_wording, wording
from casework.bench.panel import answer_names, refusal_words, retail_words, shown_value, written
from casework.findings import findings_of, mark_of, standing
from casework.grading import policy_in_force
from casework.models import Case

# Of the drawn balance: width, and how far a group's bar may reach.
WIDE, REACH = 300, 110


def _weighed(balance) -> dict:
    """The balance by group, the weightiest first, as bars from a middle line; known copies by probability."""
    groups: dict[str, float] = {}
    for one in balance.pieces:
        groups[one.group] = groups.get(one.group, 0.0) + one.piece
    most = max((abs(value) for value in groups.values()), default=1.0) or 1.0
    rows = [
        {
            "name": name.replace("-", " "),
            "decibans": value,
            "x": round(WIDE / 2 + min(0.0, value) / most * REACH, 1),
            "width": round(max(abs(value) / most * REACH, 0.5), 1),
        }
        for name, value in sorted(groups.items(), key=lambda one: one[1])
    ]
    batches = [(name, share) for name, share in balance.batches.items() if name != UNKNOWN]
    return {
        "rows": rows,
        "total": balance.total,
        "batches": [
            {"name": name, "percent": f"{100 * share:.0f}", "telling": telling(balance, name)}
            for name, share in sorted(batches, key=lambda one: -one[1])
        ],
    }


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
                "mark": mark_of(finding),
                "value": written(finding.checkpoint, value, names),
                "retail": retail_words(finding, names),
                "words": wording.GRADE_WORDS[finding.grade],
                "why": paper_wording.why_not_compared(finding),
                "slips": paper_wording.slip_words(finding.reading),
                "refusal": refusal_words(finding.reading),
                "by_eye": bool(finding.confirmed_by_id),
            }
        )
    stand = standing(case, findings)
    opinions = list(case.opinions.select_related("checker", "policy"))
    return {
        "case": case,
        "rows": [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED],
        "missing": [row for row in rows if row["finding"].grade == Grade.NOT_COMPARED],
        "standing": stand,
        "weighed": _weighed(stand.balance),
        "seen": list(case.sightings.filter(taken_back=False).select_related("made_by")),
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
