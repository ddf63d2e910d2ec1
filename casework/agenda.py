"""What a case's level asks for: what can be done now, in the best order, what waits for photographs, and where triage
stands."""

from collections import Counter
from dataclasses import dataclass

from assay.errors import CannotJudge
from assay.judge.copy_model import by_level, even_shares, telling_batches
from assay.judge.grade import RED_FLAGS, Grade
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.judge.levels import Level, LevelCheck, TriageEnd, checks_of, next_level, ordered, triage_end
from assay.judge.planner import Plan, worth
from assay.judge.rules import Verdict
from casework.grading import VOID, is_pending, is_settled
from casework.models import Case
from casework.revisions import LIBRARY, Kept, revisions_of
from casework.weighing import CLOSED, unread_signs
from library.photo_kinds import keys_where
from pairs.models import Photo

NOT_ASKED = (VOID, *CLOSED)


@dataclass(frozen=True, slots=True)
class Agenda:
    """What is left to do in a case at its level. Keys of checks."""

    level: Level
    asked: frozenset[str]
    """All that the level asks for and that applies."""
    confirm: tuple[str, ...]
    """Flags that wait for an eye, whatever the level: the decisive ones first."""
    steps: tuple[str, ...]
    """What can be done now, in the best order."""
    blocked: tuple[str, ...]
    """What waits for a photograph."""
    minutes: float
    """What the flags and the steps take."""
    end: TriageEnd | None
    """Where triage stands; None at another level."""
    further: tuple[int, float]
    """Checks and minutes that the next level adds."""

    @property
    def next(self) -> str:
        """The best thing to do now; empty where nothing is left."""
        return next(iter((*self.confirm, *self.steps)), "")


CHOSEN = Kept(most=64)


def agenda_of(case: Case, findings: list, assessment, plan: Plan | None) -> Agenda:
    """The agenda of a case. Two queries, five where the library has changed."""
    level = Level(case.level)
    by_key = {finding.checkpoint.key: finding for finding in findings}
    chosen = _chosen(case, findings)
    asked = chosen[level]
    places = set(
        Photo.objects.filter(pair=case.pair_id, state=Photo.State.READ, set_aside=False).values_list("view", "foot")
    )
    confirm = [finding for finding in findings if Grade(finding.grade) in RED_FLAGS and not is_settled(finding)]
    confirm = [one for one in confirm if is_pending(one) or one.checkpoint.decisive]
    confirm.sort(key=lambda one: not one.checkpoint.decisive)
    first = {one.checkpoint.key for one in confirm}
    open_ = [
        finding
        for finding in findings
        if finding.checkpoint.key in asked and finding.checkpoint.key not in first
        if _wants_person(finding) and not is_settled(finding)
    ]
    left = [one for one in open_ if _can_be_done(one, places)]
    bits = {one.key: one.bits for one in plan.worths} if plan else {}
    compared = Counter(finding.checkpoint.group for finding in findings if finding.grade != Grade.NOT_COMPARED)
    steps = ordered(
        [_level_check(one.checkpoint, bits.get(one.checkpoint.key, 0.0)) for one in left],
        compared,
        is_covered=assessment.coverage >= assessment.needed,
    )
    blocked = [one.checkpoint.key for one in open_ if one not in left]
    higher = next_level(level)
    more = [by_key[key] for key in (chosen[higher] - asked if higher else ())]
    more = [one for one in more if _wants_person(one) and not is_settled(one) and _can_be_done(one, places)]
    return Agenda(
        level=level,
        asked=asked,
        confirm=tuple(one.checkpoint.key for one in confirm),
        steps=tuple(steps),
        blocked=tuple(blocked),
        minutes=sum(by_key[key].checkpoint.minutes for key in (*first, *steps)),
        end=triage_end(Verdict(assessment.answer.verdict), (*first, *steps), blocked)
        if level is Level.TRIAGE
        else None,
        further=(len(more), sum(one.checkpoint.minutes for one in more)),
    )


def after(agenda: Agenda, findings: list, here: str) -> str:
    """Key of what to do after a check: the next flag, else what is left of the same section in working order, else the
    best of all; empty where nothing is left."""
    left = [key for key in (*agenda.confirm, *agenda.steps) if key != here]
    if here in agenda.confirm or not left:
        return next(iter(left), "")
    order = [finding.checkpoint.key for finding in findings]
    at = next((n for n, key in enumerate(order) if key == here), 0)
    section = findings[at].checkpoint.section
    same = [n for n, one in enumerate(findings) if one.checkpoint.section == section and order[n] in left]
    return next((order[n] for n in same if n > at), None) or (order[same[0]] if same else left[0])


def _wants_person(finding) -> bool:
    """Whether it is not read yet, is a flag, or is an unsure count: what was measured and agrees wants nobody."""
    if finding.grade == Grade.NOT_COMPARED:
        return finding.reason not in NOT_ASKED
    unsure = finding.checkpoint.kind == Kind.COUNT and finding.reading.uncertainty >= UNSURE_COUNT
    return Grade(finding.grade) in RED_FLAGS or unsure


def _can_be_done(finding, places: set[tuple[str, str]]) -> bool:
    """Whether a person can do it now: no photograph is needed, or it is there and was measured."""
    checkpoint = finding.checkpoint
    if checkpoint.left_id:
        return False
    if not checkpoint.measure:
        return True
    return finding.reading is not None and (checkpoint.view, checkpoint.foot) in places


def _chosen(case: Case, findings: list) -> dict[Level, frozenset[str]]:
    """What each level asks for, of what applies: by what the library knows, not by what was read. No query where it is
    known already."""
    applying = [finding for finding in findings if finding.reason != VOID]
    library = revisions_of([case])[case.pk][0]
    revision = (LIBRARY, library, frozenset(one.checkpoint_id for one in applying))
    known = CHOSEN.get(case.pk, revision)
    if known is not None:
        return known
    signs = unread_signs(case, findings)
    copies, bits = by_level(even_shares(telling_batches(signs))), {}
    for sign in signs:
        try:
            bits[sign.key] = worth(sign, copies, 0.5).bits
        except CannotJudge:
            continue
    checks = [_level_check(one.checkpoint, bits.get(one.checkpoint.key, 0.0)) for one in applying]
    return CHOSEN.put(case.pk, revision, {level: checks_of(checks, level) for level in Level})


def _level_check(checkpoint, bits: float) -> LevelCheck:
    return LevelCheck(
        key=checkpoint.key,
        group=checkpoint.group,
        section=checkpoint.section,
        bits=bits,
        minutes=checkpoint.minutes,
        is_decisive=checkpoint.decisive,
        is_required=checkpoint.mandatory,
        needs_tool=checkpoint.view in keys_where(ultraviolet=True),
        pinned=checkpoint.level,
    )
