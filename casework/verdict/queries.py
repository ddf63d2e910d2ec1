"""Reads for the verdict page, in a known number of queries."""

from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.schools import Verdict
from casework import paper_wording, wording
from casework.bench.panel import answer_names, refusal_words, retail_words, shown_value, written
from casework.findings import findings_of, mark_of, standing
from casework.grading import policy_in_force
from casework.models import Case


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
    opinions = list(case.opinions.select_related("checker", "policy"))
    return {
        "case": case,
        "rows": [row for row in rows if row["finding"].grade != Grade.NOT_COMPARED],
        "missing": [row for row in rows if row["finding"].grade == Grade.NOT_COMPARED],
        "standing": standing(case, findings),
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
