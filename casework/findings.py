"""Findings in working order, what is settled of them, and where the case stands: read by bench, verdict and export."""

from dataclasses import dataclass, field, replace

from django.contrib.auth import get_user_model

from assay.judge.assumptions import shares_of_levels
from assay.judge.grade import Grade
from assay.judge.planner import Plan
from assay.judge.prior import PriorOdds, prior_odds
from assay.judge.rules import DECISION_RULES, coverage, flagged_groups
from assay.judge.sensitivity import Range, robust_verdict
from assay.judge.weigh import Balance, weigh
from casework import wording
from casework.agenda import Agenda, agenda_of
from casework.figures import signed
from casework.grading import VOID, core_policy, is_pending, items, policy_in_force, seen_items
from casework.models import Case
from casework.revisions import Kept
from casework.weighing import plan_of, prior_of_case, signs_of
from library.models import Checkpoint, Release
from pairs.models import Photo
from pairs.queries import DRAWN_OF_PHOTO, DRAWN_OF_READING


def mark_of(finding) -> str:
    return "void" if finding.reason == VOID else finding.grade


@dataclass
class Assessment:
    """Where a case stands: what the shop's rule and the decision rules say."""

    answer: object
    words: str
    policy: object
    flags: tuple
    coverage: int
    needed: int
    rules: list = field(default_factory=list)
    segments: list = field(default_factory=list)
    signs: list = field(default_factory=list)
    """What was read, flags that wait for an eye among it."""
    unread: list = field(default_factory=list)
    """What waits to be, as the planner takes it."""
    sheet: list = field(default_factory=list)
    """Every finding as the decision rules take it."""
    prior: PriorOdds = field(default_factory=prior_odds)
    balance: Balance = field(default_factory=lambda: weigh([]))
    if_confirmed: Balance = field(default_factory=lambda: weigh([]))
    """The same if every flag that waits for an eye were confirmed."""
    pieces: dict = field(default_factory=dict)
    """What every finding moves the balance by, by its key; of one that waits for an eye what it would."""
    spread: Range | None = None
    """The total's range under other assumptions, where the verdict rests on it."""


@dataclass(frozen=True, slots=True)
class CaseState:
    """Findings, what they come to and what to do next. Pages share it: it is read and never changed."""

    findings: list
    assessment: Assessment
    plan: Plan | None
    """None once the case is signed; without what would settle it, which only the verdict page asks for."""
    agenda: Agenda
    """What is left to do at the case's level."""


STATES = Kept(most=24)


def state_of(case: Case) -> CaseState:
    """The state as the database has it now; computed where something has changed since. One query, else fourteen."""
    return STATES.of_case(case, lambda: _state(case))


def _state(case: Case) -> CaseState:
    findings = findings_of(case)
    assessment = assess(case, findings)
    plan = None if case.signed_at else plan_of(case, findings, assessment, settle=False)
    return CaseState(findings, assessment, plan, agenda_of(case, findings, assessment, plan))


def assess(case: Case, findings: list) -> Assessment:
    """Verdict so far. One query for the policy."""
    policy = core_policy(policy_in_force(case.organisation))
    known = signs_of(case, findings)
    signs = [one for one in known if one.value is not None]
    waiting = {finding.checkpoint.key for finding in findings if is_pending(finding)}
    counted = [replace(one, value=None) if one.key in waiting else one for one in known]
    levels = shares_of_levels(policy.near_perfect)
    balance = weigh(counted, levels=levels)
    if_confirmed = weigh(known, levels=levels) if waiting else balance
    pieces = {one.key: one for one in (*if_confirmed.pieces, *balance.pieces)}
    sheet = [*items(findings, {key: one.piece for key, one in pieces.items()}), *seen_items(case)]
    answer, spread = robust_verdict(counted, sheet, policy, balance)
    # What they were weighed from is large, and states are kept.
    slim = replace(balance, densities=None)
    if_confirmed = slim if if_confirmed is balance else replace(if_confirmed, densities=None)
    balance = slim
    names = {finding.checkpoint.key: finding.checkpoint.name for finding in findings}
    rules = []
    for rule in DECISION_RULES:
        said = answer if spread and spread.hangs_on and rule.__name__ == answer.rule else rule(sheet, policy)
        name, means = wording.rule_words(said.rule)
        rules.append(
            {
                "name": name,
                "means": means.format(
                    red_flags=policy.red_flags, legit_from=signed(policy.legit_from), fake_from=signed(policy.fake_from)
                ),
                "verdict": said.verdict.value,
                "words": wording.answer_words(said, policy, names, spread),
                "parts": said.verdict is not answer.verdict,
            }
        )
    return Assessment(
        answer=answer,
        words=wording.answer_words(answer, policy, names, spread),
        policy=policy,
        flags=flagged_groups(sheet),
        coverage=round(100 * coverage(sheet)),
        needed=round(100 * policy.coverage),
        rules=rules,
        segments=_segments(findings),
        signs=signs,
        unread=[one for one in known if one.value is None],
        sheet=sheet,
        prior=prior_of_case(case, findings),
        balance=balance,
        if_confirmed=if_confirmed,
        pieces=pieces,
        spread=spread,
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
        }
        for n, (name, group) in enumerate(groups.items())
    ]


def findings_of(case: Case, *, drawn: bool = False) -> list:
    """Findings in working order, with what they rest on; what only the stage draws at once where ``drawn``, else when
    it is asked for.

    Six queries: rows that many findings share, such as the release, are read once and not with each.
    """
    heavy = [] if drawn else [f"reading__{name}" for name in DRAWN_OF_READING]
    found = list(case.findings.select_related("reading").defer(*heavy))
    checkpoints = Checkpoint.objects.in_bulk({one.checkpoint_id for one in found})
    ends = {
        key for checkpoint in checkpoints.values() for key in (checkpoint.left_id, checkpoint.right_id) if key
    } - set(checkpoints)
    checkpoints |= Checkpoint.objects.in_bulk(ends) if ends else {}
    releases = Release.objects.select_related("shoe_model__maker").in_bulk(
        {checkpoint.release_id for checkpoint in checkpoints.values()}
    )
    for checkpoint in checkpoints.values():
        checkpoint.release = releases[checkpoint.release_id]
        checkpoint.left, checkpoint.right = checkpoints.get(checkpoint.left_id), checkpoints.get(checkpoint.right_id)
    readings = [one.reading for one in found if one.reading]
    people = {reading.taken_by_id for reading in readings} | {one.confirmed_by_id for one in found}
    users, photos = get_user_model().objects.in_bulk(people - {None}), _photos_of(readings)
    for finding in found:
        finding.case, finding.checkpoint = case, checkpoints[finding.checkpoint_id]
        finding.confirmed_by = users.get(finding.confirmed_by_id)
        if finding.reading:
            finding.reading.taken_by = users[finding.reading.taken_by_id]
            finding.reading.photo = photos.get(finding.reading.photo_id)
    return sorted(found, key=lambda finding: finding.checkpoint.position)


def _photos_of(readings: list) -> dict[int, Photo]:
    return Photo.objects.defer(*DRAWN_OF_PHOTO).in_bulk({reading.photo_id for reading in readings} - {None})
