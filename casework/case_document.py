"""A case as one JSON document, and its findings as CSV. Enough to recompute every grade with the core alone."""

import csv
import io

from assay.judge.case_io import as_data
from assay.judge.judgement import Kind
from assay.judge.rules import Ultraviolet
from casework.findings import assess, findings_of
from casework.grading import core_policy, is_pending, policy_in_force
from casework.models import Case
from casework.retail import NOT_OF_RETAIL, one_way, prior_of, quantity_of, uncertainty_of
from casework.weighing import open_bounds, plan_of

FORMAT = "wahrheit-case/3"
COLUMNS = (
    "checkpoint",
    "name",
    "group",
    "kind",
    "foot",
    "value",
    "unit",
    "uncertainty",
    "retail",
    "tail_probability",
    "grade",
    "confirmed_by",
    "reason",
    "method",
    "taken_by",
    "taken_at",
)


def case_document(case: Case) -> dict:
    """The whole case, by the shipped schema."""
    findings = findings_of(case, drawn=True)
    stand = assess(case, findings)
    signs = {one.key: as_data(one) for one in [*stand.signs, *stand.unread]}
    made, bounds = plan_of(case, findings, stand), open_bounds(findings)
    policy = policy_in_force(case.organisation)
    opinions = list(case.opinions.select_related("checker", "policy"))
    if opinions:
        policy = opinions[-1].policy
    rules = core_policy(policy)
    return {
        "format": FORMAT,
        "case": {
            "number": case.number,
            "house": case.organisation.name,
            "opened_by": case.opened_by.username,
            "opened_at": case.opened_at.isoformat(),
            "signed_at": case.signed_at.isoformat() if case.signed_at else None,
            "arrival": case.arrival,
            "in_hand": case.in_hand,
            "reference_in_hand": case.reference_in_hand,
            "tools": case.tools,
            "source": case.source,
            "asked_price": None if case.asked_price is None else str(case.asked_price),
        },
        "pair": {
            "label": case.pair.label,
            "maker": case.pair.release.shoe_model.maker.name,
            "model": case.pair.release.shoe_model.name,
            "colourway": case.pair.release.colourway,
            "style_code": case.pair.release.style_code,
            "size_us": case.pair.size_us,
            "region": case.pair.region,
            "condition": case.pair.condition,
            "feet": case.pair.feet,
            "generation": case.pair.generation or case.pair.release.generation,
            "box_size_us": case.pair.box_size_us,
            "bought_on": case.pair.bought_on.isoformat() if case.pair.bought_on else None,
        },
        "reference": case.reference.label,
        "inscriptions": [
            {
                "place": kept.place,
                "text": kept.text,
                "source": kept.source,
                "photo": kept.photo_id,
                "read_by": kept.read_by.username,
                "read_at": kept.read_at.isoformat(),
            }
            for kept in case.pair.inscriptions.select_related("read_by")
        ],
        "photos": [
            {
                "id": photo.pk,
                "view": photo.view,
                "foot": photo.foot,
                "width": photo.width,
                "height": photo.height,
                "sha256": photo.sha256,
                "mm_per_px": photo.mm_per_px,
                "fitness": photo.fitness.to_json(),
                "state": photo.state,
                "set_aside": photo.set_aside,
                "scale": photo.scale.to_json(),
                "light": photo.light.to_json(),
                "lamp": photo.lamp,
                "lamp_mm": photo.lamp_mm,
                "codes": photo.codes,
                "taken_at": photo.taken_at,
                "added_at": photo.added_at.isoformat(),
            }
            for photo in case.pair.photos.all()
        ],
        "policy": {
            "number": policy.number,
            "red_flags": rules.red_flags,
            "coverage": rules.coverage,
            "ultraviolet": policy.ultraviolet,
            "school": rules.decision_rule,
            "legit_from": rules.legit_from,
            "fake_from": rules.fake_from,
            "near_perfect": rules.near_perfect,
        },
        "findings": [_finding(finding, policy.ultraviolet, signs, bounds) for finding in findings],
        "notes": [
            {
                "checkpoint": kept.checkpoint.key,
                "photo": kept.photo_id,
                "tool": kept.tool,
                "points": kept.points,
                "value": kept.value,
                "unit": kept.unit,
                "uncertainty": kept.uncertainty,
                "parts": kept.parts,
                "words": kept.words,
                "made_by": kept.made_by.username,
                "made_at": kept.made_at.isoformat(),
            }
            for kept in case.notes.select_related("checkpoint", "made_by")
        ],
        "seen": [
            {
                "name": sighting.name,
                "words": sighting.words,
                "group": sighting.group,
                "grade": sighting.grade,
                "sure": sighting.sure,
                "like": sighting.like,
                "photo": sighting.photo_id,
                "points": sighting.points,
                "made_by": sighting.made_by.username,
                "made_at": sighting.made_at.isoformat(),
            }
            for sighting in case.sightings.filter(taken_back=False).select_related("made_by")
        ],
        "balance": {"decibans": stand.balance.total, "if_a_copy": dict(stand.balance.batches)},
        "prior_odds": {
            "share_of_copies": stand.prior.share,
            "named": [{"name": name, "decibans": moved} for name, moved in stand.prior.named],
            "decibans": stand.prior.decibans,
        },
        "plan": {
            "next": made.worths[0].key if made.worths else None,
            "bits": made.worths[0].bits if made.worths else 0.0,
            "cannot_turn": made.cannot_turn,
            "chance_to_turn": made.chance,
            "settling": list(made.settling),
            "minutes": made.minutes,
        },
        "house_rule": {
            "verdict": stand.answer.verdict.value,
            "school": rules.decision_rule,
            "reason": stand.answer.reason,
            "flags": list(stand.answer.flags),
            "coverage": round(stand.answer.coverage, 4),
        },
        "opinions": [
            {
                "checker": o.checker.username,
                "verdict": o.verdict,
                "house_rule_said": o.proposed,
                "words": o.words,
                "anyway": o.anyway,
                "against": o.against,
                "policy": o.policy.number,
                "signed_at": o.signed_at.isoformat(),
                "follows": o.follows_id is not None,
            }
            for o in opinions
        ],
        "ledger": [
            {"at": entry.at.isoformat(), "who": entry.actor.username, "deed": entry.action, "details": entry.details}
            for entry in case.ledger.select_related("actor")
        ],
    }


def _finding(finding, ultraviolet: str, signs: dict, bounds: dict) -> dict:
    checkpoint, reading = finding.checkpoint, finding.reading
    strict = ultraviolet == Ultraviolet.DIRTY_IS_FAKE and one_way(checkpoint)
    return {
        "checkpoint": checkpoint.key,
        "name": checkpoint.name,
        "group": checkpoint.group,
        "foot": checkpoint.foot,
        "kind": checkpoint.kind,
        "quantity": checkpoint.quantity,
        "unit": checkpoint.unit,
        "paper": checkpoint.paper,
        "of_shoe": checkpoint.of_shoe,
        "applies_when": checkpoint.applies_when,
        "size_rule": checkpoint.size_rule,
        "decisive": checkpoint.decisive or strict,
        "mandatory": checkpoint.mandatory,
        # Rates of print and packing are in what was read: parts, retail_rate.
        "prior": _prior(checkpoint, strict=strict),
        "possible_answers": [key for key, *_ in checkpoint.answers],
        "retail": _retail(finding),
        "reading": None if reading is None else _reading(finding),
        "compared": finding.compared,
        "weighing": signs.get(checkpoint.key),
        "tail_probability": finding.tail_probability,
        "grade": finding.grade,
        "confirmed_by": finding.confirmed_by.username if finding.confirmed_by else None,
        "pending": is_pending(finding),
        "open_bounds": bounds.get(checkpoint.key),
        "reason": finding.reason,
        "void": finding.void,
    }


def _retail(finding) -> list[dict]:
    """What verified pairs read, with their uncertainties where these are known."""
    unsure = finding.retail_uncertainty or [None] * len(finding.retail)
    return [
        {"pair": pair, "value": value} | ({} if off is None else {"uncertainty": off})
        for (pair, value), off in zip(finding.retail, unsure, strict=True)
    ]


OF_KIND = ("compares", "magnitude", "floor", "typical")
"""What a measure knows of such numbers, whoever wrote the check."""


def _prior(checkpoint, *, strict: bool) -> dict:
    """The check's belief as the core takes it, with what its measure knows of such numbers."""
    known = {name: value for name, value in checkpoint.prior.items() if name not in NOT_OF_RETAIL}
    belief = prior_of(checkpoint)
    known = {name: value for name in OF_KIND if (value := getattr(belief, name))} | known
    known |= {"usual": belief.usual} if belief.usual is not None else {}
    return known | ({"one_way": True} if one_way(checkpoint) and not strict else {})


def _reading(finding) -> dict:
    checkpoint, reading = finding.checkpoint, finding.reading
    return {
        "judged_value": quantity_of(checkpoint, reading, finding.compared),
        "judged_uncertainty": uncertainty_of(checkpoint, reading, finding.compared),
        "value": reading.value,
        "unit": reading.unit,
        "uncertainty": reading.uncertainty,
        "parts": reading.parts,
        "details": reading.details,
        "method": reading.method,
        "doubts": reading.doubts,
        "refusal": reading.refusal,
        "photo": reading.photo_id,
        "marks": reading.marks,
        "overlay": reading.overlay,
        "descriptor": reading.descriptor,
        "corrects_an_earlier_one": reading.corrects_id is not None,
        "taken_by": reading.taken_by.username,
        "taken_at": reading.taken_at.isoformat(),
    }


def findings_csv(case: Case) -> str:
    """One line a finding."""
    target = io.StringIO()
    writer = csv.writer(target)
    writer.writerow(COLUMNS)
    for finding in findings_of(case):
        checkpoint, reading = finding.checkpoint, finding.reading
        writer.writerow(
            [
                _safe(cell)
                for cell in (
                    checkpoint.key,
                    checkpoint.name,
                    checkpoint.group,
                    checkpoint.kind,
                    checkpoint.foot,
                    quantity_of(checkpoint, reading, finding.compared),
                    _unit(checkpoint, reading),
                    uncertainty_of(checkpoint, reading, finding.compared) if reading else "",
                    " ".join(str(v) for _, v in finding.retail),
                    finding.tail_probability,
                    finding.grade,
                    finding.confirmed_by.username if finding.confirmed_by else "",
                    finding.reason,
                    reading.method if reading else "",
                    reading.taken_by.username if reading else "",
                    reading.taken_at.isoformat() if reading else "",
                )
            ]
        )
    return target.getvalue()


def _unit(checkpoint, reading) -> str:
    return checkpoint.unit if checkpoint.kind == Kind.CONTINUOUS else (reading.unit if reading else "")


def _safe(cell):
    """Spreadsheets run what starts like a formula: such text gets an apostrophe."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t" and cell else ("" if cell is None else cell)
