"""What the bench says of the plan: the check that tells most, and when to stop."""

import math

from assay.judge.grade import Grade
from assay.judge.levels import TriageEnd, next_level
from assay.judge.verbal import MOST_TOLD
from casework.figures import signed
from casework.findings import CaseState
from casework.grading import is_settled
from casework.models import Case
from casework.revisions import Kept
from casework.weighing import plan_of

PLANS = Kept(most=24)
"""With what would settle each case."""
LESSENED = {
    "photo_only": "less, off photographs alone",
    "worn": "less, on a worn pair",
    "unsure": "half, for the reading is unsure",
    "unfit_photo": "half, off a photograph to take again",
}


def lessened_words(stand, key: str) -> list[str]:
    """Why a finding may say less than it might."""
    sign = next((one for one in stand.signs if one.key == key), None)
    return [LESSENED[why] for why in sign.lessened] if sign else []


def plan_words(state: CaseState, here: str) -> dict | None:
    """The check that tells most a minute, and whether anything left can turn the verdict; None once it is signed.

    A sure sign that nobody has looked at yet comes before everything: confirmed, it decides.
    """
    findings, made = state.findings, state.plan
    if made is None:
        return None
    # What one assumption turns is not settled, whatever the checks that are left may say.
    hangs = state.assessment.spread and state.assessment.spread.hangs_on
    by_key = {finding.checkpoint.key: finding for finding in findings}
    looked_for = [
        finding.checkpoint
        for finding in findings
        if finding.grade == Grade.DEPARTS and finding.checkpoint.decisive and not is_settled(finding)
    ]
    best = next((worth for worth in made.worths if worth.key != here), None)
    if looked_for:
        best_check, why = looked_for[0], "a sure sign, if you see it too"
    elif best:
        best_check, why = by_key[best.key].checkpoint, f"{_bits(best.bits)} in {_minutes(best.minutes)}"
    else:
        best_check, why = None, ""
    return {
        "best": best_check,
        "why": why,
        "settled": made.settled and not looked_for and not hangs,
        "cannot_turn": made.cannot_turn,
        "chance": f"{made.chance:.1%}" if made.chance >= 0.0005 else "under 0.1 %",
    }


def settling_words(case: Case, state: CaseState) -> dict:
    """The quickest checks that would settle it, and how long they take; none once it is signed."""
    if state.plan is None:
        return {"settling": []}
    by_key = {finding.checkpoint.key: finding for finding in state.findings}
    made = PLANS.of_case(case, lambda: plan_of(case, state.findings, state.assessment))
    return {"settling": [by_key[key].checkpoint for key in made.settling], "minutes": _minutes(made.minutes)}


def agenda_words(state: CaseState) -> dict:
    """What is left at the case's level, in words, and the level that may come next."""
    agenda = state.agenda
    left = len(agenda.confirm) + len(agenda.steps)
    name = agenda.level.capitalize()
    higher = next_level(agenda.level)
    checks, minutes = agenda.further
    if agenda.end is TriageEnd.FAKE:
        words = "Triage ends here: fake"
    elif left:
        words = f"{name}: {left} check{'s' * (left != 1)} left, about {_minutes(agenda.minutes)}"
    elif agenda.blocked:
        words = f"{name}: no further without photographs ({len(agenda.blocked)} checks wait)"
    elif agenda.end is TriageEnd.GO_ON:
        words = f"Triage found nothing: {checks} more check{'s' * (checks != 1)}, {_minutes(minutes)}"
    else:
        words = f"{name}: everything is looked at"
    return {"words": words, "higher": higher.value if higher and not left else "", "left": left}


def decibans_words(decibans: float) -> str:
    """A weight as a number: beyond a million to one nobody knows how much."""
    beyond = abs(decibans) > MOST_TOLD
    return f"beyond {signed(math.copysign(MOST_TOLD, decibans))}" if beyond else signed(decibans)


def weight_words(decibans: float) -> str:
    """The same at a glance."""
    if abs(decibans) > MOST_TOLD:
        return "very strong for " + ("retail" if decibans > 0 else "a copy")
    return signed(decibans)


def _minutes(minutes: float) -> str:
    return f"{minutes:.0f} min" if minutes >= 10 else f"{minutes:.1f} min"


def _bits(bits: float) -> str:
    return f"{bits:.2f} bit" if bits >= 0.005 else "hardly anything"
