"""Reads for two people's looks at one pair, side by side."""

from assay.judge.agreement import kappa
from assay.judge.grade import Grade
from casework.bench.panel import answer_names, shown_number
from casework.findings import assess, findings_of
from casework.models import Case, Finding
from casework.weighing import plan_of
from casework.wording import GRADE_WORDS

MOST_WANTED = 6


def both(case: Case) -> tuple[Case, Case] | None:
    """The first and the second look, once both are signed. A query."""
    first = case.second_of if case.second_of_id and not case.round else case
    second = case if first is not case else case.seconds.filter(round=False).exclude(signed_at=None).first()
    return (first, second) if second and second.signed_at and first.signed_at else None


def beside(case: Case) -> dict:
    """Both, check by check; what parts them, and which photographs would help. About twelve queries."""
    looks = both(case)
    if looks is None:
        return {"case": case, "first": case, "rows": [], "wanted": [], "differ": False, "kappas": []}
    first, second = looks
    theirs = {finding.checkpoint_id: finding for finding in findings_of(second)}
    rows = []
    for ours in findings_of(first):
        other = theirs.get(ours.checkpoint_id)
        if other is None or Grade.NOT_COMPARED == ours.grade == other.grade:
            continue
        rows.append(
            {
                "checkpoint": ours.checkpoint,
                "first": _side(ours),
                "second": _side(other),
                "parts": ours.grade != other.grade,
            }
        )
    verdicts = [look.opinions.last().verdict for look in looks]
    return {
        "case": case,
        "first": first,
        "second": second,
        "verdicts": [(look, look.opinions.select_related("checker").last()) for look in looks],
        "differ": verdicts[0] != verdicts[1],
        "rows": sorted(rows, key=lambda row: not row["parts"]),
        "parting": sum(row["parts"] for row in rows),
        "wanted": _wanted(first, rows),
        "kappas": agreement(case.organisation),
        "rounds": list(first.seconds.filter(round=True)),
    }


def _side(finding) -> dict:
    names = answer_names(finding.checkpoint)
    return {
        "grade": finding.grade,
        "words": GRADE_WORDS[finding.grade],
        "value": shown_number(finding, names),
        "by_eye": bool(finding.confirmed_by_id),
    }


def _wanted(first: Case, rows: list) -> list[dict]:
    """Photographs of what parts the two, then of what the plan would look at next: view, foot, why."""
    found: dict[tuple[str, str], str] = {}
    for row in rows:
        check = row["checkpoint"]
        if row["parts"] and check.view:
            found.setdefault((check.view, check.foot), f"Closer, sharp, for: {check.name.lower()}.")
    findings = findings_of(first)
    by_key = {finding.checkpoint.key: finding.checkpoint for finding in findings}
    for worth in plan_of(first, findings, assess(first, findings)).worths:
        check = by_key[worth.key]
        if check.view:
            found.setdefault((check.view, check.foot), f"For: {check.name.lower()}.")
    return [{"view": view, "foot": foot, "why": why} for (view, foot), why in list(found.items())[:MOST_WANTED]]


def agreement(organisation) -> list[dict]:
    """How far two people agree, by kind of check, over every pair that two looked at. Two queries."""
    seconds = (
        Case.objects.filter(organisation=organisation, round=False).exclude(second_of=None).exclude(signed_at=None)
    )
    of = dict(seconds.values_list("pk", "second_of"))
    rows = Finding.objects.filter(case__in=[*of, *of.values()]).exclude(grade=Grade.NOT_COMPARED.value)
    said = {(case, check): (grade, kind) for case, check, grade, kind in
            rows.values_list("case", "checkpoint", "grade", "checkpoint__kind")}  # fmt: skip
    kinds: dict[str, list] = {}
    for (case, check), (grade, kind) in said.items():
        if case in of and (of[case], check) in said:
            kinds.setdefault(kind, []).append((said[of[case], check][0], grade))
    return [{"kind": kind, "kappa": kappa(pairs), "of": len(pairs)} for kind, pairs in sorted(kinds.items())]
