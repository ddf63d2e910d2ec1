"""A case as a document: what the weighing needs of each finding, out and in again; see docs/formats.md."""

import json
import math
from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

from assay.errors import AssayError
from assay.judge.assumptions import shares_of_levels
from assay.judge.evidence import EvidenceItem, SharedScale
from assay.judge.grade import Grade
from assay.judge.judgement import Kind, Prior, judge
from assay.judge.planner import plan
from assay.judge.rules import DECISION_RULES, GradedItem, Policy, organisation_verdict
from assay.judge.sensitivity import Range, robust_verdict
from assay.judge.verbal import in_words
from assay.judge.weigh import weigh
from assay.units import must_be_one_unit

FORMATS = ("wahrheit-case/3", "wahrheit-case/2", "wahrheit-case/1")
OLD_FORMAT = FORMATS[-1]
POLICY = {
    "red_flags": "red_flags",
    "coverage": "coverage",
    "school": "decision_rule",
    "legit_from": "legit_from",
    "fake_from": "fake_from",
    "near_perfect": "near_perfect",
}
"""Keys of a document's policy, and what they are called here."""
CLEAN = "clean_says_nothing"
"""The reason of a finding that was looked at, shows nothing, and thereby says nothing."""


def as_data(sign: EvidenceItem) -> dict[str, Any]:
    """What the weighing of a finding needs besides its grade, as plain data."""
    return {
        "uncertainty": sign.uncertainty,
        "retail_uncertainty": list(sign.retail_uncertainty),
        "source": sign.source,
        "made_of": list(sign.made_of),
        "batches": {name: list(values) for name, values in sign.batches.items()},
        "copies": dict(sign.copies),
        "wider": sign.wider,
        "right": sign.right,
        "cap_for": sign.cap_for,
        "cap_against": sign.cap_against,
        "lessened": list(sign.lessened),
        "reading_error": sign.reading_error,
        "scale": asdict(sign.scale) if sign.scale else None,
        "minutes": sign.minutes,
    }


def from_data(finding: Mapping[str, Any]) -> EvidenceItem:
    """A sign from an exported finding, see docs/formats.md."""
    # Cases from before took no length for misread, and every scale for right as far as it claims.
    kept = {"reading_error": 0.0, "scale": None, **finding["weighing"]}
    kept["scale"] = SharedScale(**kept["scale"]) if kept["scale"] else None
    return EvidenceItem(
        key=finding["checkpoint"],
        group=finding["group"],
        kind=Kind(finding["kind"]),
        value=finding["reading"]["judged_value"] if finding["grade"] != "not_compared" else None,
        retail=[one["value"] for one in finding["retail"]],
        prior=Prior(**finding["prior"], possible=tuple(finding["possible_answers"])),
        **{**kept, "lessened": tuple(kept["lessened"]), "made_of": tuple(kept.get("made_of", ()))},
    )


def judge_document(case: dict[str, Any]) -> dict[str, Any]:
    """Grades, weights, verdicts and plan of a case from its document alone, as plain JSON."""
    said = case["policy"]
    rules = Policy(**{name: said[key] for key, name in POLICY.items() if key in said})
    if case["format"] == OLD_FORMAT:
        rules = replace(rules, decision_rule="red_flag_tally")
    rules.checked()
    signs = [from_data(one) for one in case["findings"] if one.get("weighing")]
    waiting = {one["checkpoint"] for one in case["findings"] if one.get("pending")}
    counted = [replace(sign, value=None) if sign.key in waiting else sign for sign in signs]
    balance = weigh(counted, levels=shares_of_levels(rules.near_perfect))
    pieces = {piece.key: piece.piece for piece in balance.pieces}
    findings, items = [], []
    for finding in case["findings"]:
        grade, tail = _graded(finding)
        key = finding["checkpoint"]
        told = {"checkpoint": key, "grade": str(grade), "tail_probability": tail, "decibans": pieces.get(key)}
        findings.append(told)
        items.append(
            GradedItem(
                key,
                finding["group"],
                grade,
                mandatory=finding["mandatory"],
                applies=not finding["void"] and finding["reason"] != CLEAN,
                of_shoe=finding["of_shoe"],
                weight=pieces.get(key, 0.0),
                confirmed=finding["confirmed_by"] is not None,
                pairs=len(finding["retail"]) or None,
                pending=key in waiting,
            )
        )
    for n, one in enumerate(case.get("seen", ())):
        if one["grade"] != Grade.NOT_COMPARED:
            items.append(GradedItem(f"seen-{n}", one["group"], Grade(one["grade"]), of_shoe=False, noted=True))
    prior = case.get("prior_odds", {}).get("decibans", 0.0)
    unread = [sign for sign in signs if sign.value is None]
    decisive = {one["checkpoint"] for one in case["findings"] if one["decisive"]}
    bounds = {one.key: (one.cap_for, one.cap_against) for one in unread}
    bounds |= {one["checkpoint"]: tuple(one["open_bounds"]) for one in case["findings"] if one.get("open_bounds")}
    more = {"prior": prior, "decisive": decisive, "open_bounds": bounds}
    made = plan(unread, items, balance, rules, organisation_verdict, **more)
    answer, spread = robust_verdict(counted, items, rules, balance)
    answers = [answer, *(rule(items, rules) for rule in DECISION_RULES)]
    rule, *others = ({"school": one.rule, **asdict(one)} for one in answers)
    weighed = {
        "decibans": balance.total,
        "range": spread and as_range(spread),
        "if_a_copy": dict(balance.batches),
        "in_words": in_words(balance.total),
    }
    best = made.worths[0] if made.worths else None
    return {
        "findings": findings,
        "balance": weighed,
        "prior_odds": prior,
        "house_rule": rule,
        "schools": others,
        "plan": {
            "next": best and best.key,
            "bits": best.bits if best else 0.0,
            "cannot_turn": made.cannot_turn and not (spread and spread.hangs_on),
            "chance_to_turn": made.chance,
            "settling": list(made.settling),
            "minutes": made.minutes,
        },
    }


def as_range(spread: Range) -> dict[str, Any]:
    """A total's range as plain data."""
    return {
        "low": spread.low,
        "high": spread.high,
        "hangs_on": spread.hangs_on,
        "turns_at": spread.turns_at,
        "otherwise": {
            alternative.key: {"decibans": alternative.total, "verdict": alternative.verdict.value}
            for alternative in spread.alternatives
        },
    }


def read_document(text: str) -> dict[str, Any]:
    """An exported case (JSON). Raises AssayError ``not_finite``, ``unknown_format`` or ``bad_caps``."""

    def refuse(word: str) -> None:
        raise AssayError("not_finite", got=word)

    case = json.loads(text, parse_constant=refuse)
    if not isinstance(case, dict) or case.get("format") not in FORMATS:
        raise AssayError("unknown_format", got=str(case.get("format") if isinstance(case, dict) else "no object")[:40])
    _must_be_finite(case)
    for finding in case["findings"]:
        kept = finding.get("weighing")
        if kept and min(kept["cap_for"], kept["cap_against"]) < 0:
            raise AssayError("bad_caps", check=finding["checkpoint"])
    return case


def _must_be_finite(value: object) -> None:
    """A number too large to be one reads as infinite. Raises AssayError ``not_finite``."""
    if isinstance(value, float) and not math.isfinite(value):
        raise AssayError("not_finite", got=value)
    for one in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        _must_be_finite(one)


def _graded(finding: dict[str, Any]) -> tuple[Grade, float | None]:
    if finding["grade"] == Grade.NOT_COMPARED:
        return Grade.NOT_COMPARED, finding["tail_probability"]
    must_be_one_unit(*_units(finding))
    judged = judge(
        Kind(finding["kind"]),
        [one["value"] for one in finding["retail"]],
        finding["reading"]["judged_value"],
        Prior(**finding["prior"], possible=tuple(finding["possible_answers"])),
        uncertainty=finding["reading"]["judged_uncertainty"],
        retail_uncertainty=[one["uncertainty"] for one in finding["retail"] if "uncertainty" in one],
        decisive=finding["decisive"],
        confirmed=finding["confirmed_by"] is not None,
    )
    return judged.grade, judged.tail_probability


def _units(finding: dict[str, Any]) -> tuple[str, ...]:
    """Of the check and of the value that it judges; parts carry theirs in their names."""
    numbers = finding["kind"] in (Kind.CONTINUOUS, Kind.COUNT) and not finding.get("quantity")
    return (finding.get("unit", ""), finding["reading"]["unit"]) if numbers else ()
