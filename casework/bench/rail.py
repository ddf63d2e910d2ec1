"""The bench's left side, one of three lists: what to do now, which photographs are missing, and every check."""

from assay.judge.judgement import Kind
from assay.judge.levels import next_level
from casework import paper_wording
from casework.agenda import Agenda
from casework.bench.panel import shown_number, shown_value
from casework.findings import CaseState, mark_of
from casework.grading import VOID, is_settled
from casework.photos.queries import place_name
from library.models import Foot
from library.photo_kinds import kinds_by_key

TABS = {"now": "Now", "photographs": "Photographs", "all": "All"}
MOST_NOW = 10


def rail(state: CaseState, current, tab: str) -> dict:
    """The list of one tab, and how many each has. No query."""
    agenda = state.agenda
    missing = _missing(state)
    left = len(agenda.confirm) + len(agenda.steps)
    counts = {"now": left, "photographs": len(missing), "all": ""}
    page = {
        "tab": tab,
        "tabs": [{"key": key, "name": name, "count": counts[key]} for key, name in TABS.items()],
    }
    if tab == "now":
        return page | {"now": _now(state, current), "more": max(0, left - MOST_NOW), "higher": _higher(agenda)}
    if tab == "photographs":
        return page | {"missing": missing}
    return page | {"sections": _sections(state.findings, current)}


def _higher(agenda: Agenda) -> dict | None:
    """The next level and what it adds; None at the last one."""
    level = next_level(agenda.level)
    checks, minutes = agenda.further
    return level and {"level": level.value, "checks": checks, "minutes": f"{minutes:.0f}"}


def _now(state: CaseState, current) -> list[dict]:
    """What to do, the best first: flags that wait for an eye, then what the level asks for. The check on the stage is
    always among them."""
    by_key, agenda = {finding.checkpoint.key: finding for finding in state.findings}, state.agenda
    rows = [(key, "confirm") for key in agenda.confirm]
    rows += [(key, "required" if by_key[key].checkpoint.mandatory else "") for key in agenda.steps]
    shown = rows[:MOST_NOW]
    if current.checkpoint.key not in {key for key, _ in shown}:
        shown = [(current.checkpoint.key, ""), *shown[: MOST_NOW - 1]]
    return [{"checkpoint": by_key[key].checkpoint, "mark": mark_of(by_key[key]), "why": why} for key, why in shown]


def _missing(state: CaseState) -> list[dict]:
    """Photographs that the level's checks wait for, by how many wait."""
    by_key = {finding.checkpoint.key: finding.checkpoint for finding in state.findings}
    waiting: dict[tuple[str, str], list[str]] = {}
    for key in state.agenda.blocked:
        checkpoint = by_key[key]
        if checkpoint.view and not checkpoint.left_id:
            waiting.setdefault((checkpoint.view, checkpoint.foot), []).append(checkpoint.name)
    order = {key: n for n, key in enumerate(kinds_by_key())}
    places = sorted(waiting, key=lambda place: (-len(waiting[place]), order.get(place[0], len(order)), place[1]))
    return [{"name": place_name(*place), "checks": waiting[place]} for place in places]


def _sections(findings: list, current) -> list[dict]:
    """Checks in working order by section; the section that is worked on lies open, the others show their grades."""
    sections: dict[str, dict] = {}
    both = _both_feet(findings)
    for finding in findings:
        section = sections.setdefault(finding.checkpoint.section, {"name": finding.checkpoint.section, "findings": []})
        section["findings"].append(finding)
    for section in sections.values():
        known = section.pop("findings")
        section["open"] = any(one.pk == current.pk for one in known)
        section["seen"] = sum(is_settled(one) for one in known)
        section["of"] = len(known)
        section["go"] = next((one.checkpoint.key for one in known if not is_settled(one)), known[0].checkpoint.key)
        section["void"] = paper_wording.void_words(known[0].void) if all(one.reason == VOID for one in known) else ""
        section["rows"] = [_row(one, both, current) for one in known if one.checkpoint_id not in both["folded"]]
        if not section["open"]:
            section["marks"] = [{"name": one.checkpoint.name, "mark": mark_of(one)} for one in known]
    return list(sections.values())


def _both_feet(findings: list) -> dict:
    """Left, right and their difference by the left one's key, where all three stand in one section; and the keys of the
    other two."""
    by_pk = {finding.checkpoint_id: finding for finding in findings}
    parts, folded = {}, set()
    for finding in findings:
        left, right = by_pk.get(finding.checkpoint.left_id), by_pk.get(finding.checkpoint.right_id)
        if not (left and right):
            continue
        feet = (left.checkpoint.foot, right.checkpoint.foot)
        taken = left.checkpoint_id in parts or {left.checkpoint_id, right.checkpoint_id} & folded
        if (
            feet == (Foot.LEFT, Foot.RIGHT)
            and not taken
            and len({x.checkpoint.section for x in (left, right, finding)}) == 1
        ):
            parts[left.checkpoint_id] = (left, right, finding)
            folded |= {right.checkpoint_id, finding.checkpoint_id}
    return {"parts": parts, "folded": folded}


def _row(finding, both: dict, current) -> dict:
    parts = both["parts"].get(finding.checkpoint_id, (finding,))
    name = finding.checkpoint.name
    return {
        "name": name.replace(", left", "", 1) if len(parts) > 1 else name,
        "on": any(part.pk == current.pk for part in parts),
        "seen": all(is_settled(part) for part in parts),
        "mark": mark_of(finding),
        "checkpoint": finding.checkpoint,
        "value": ("void" if finding.reason == VOID else _short(finding)) if len(parts) == 1 else "",
        "parts": [
            {"letter": letter, "checkpoint": one.checkpoint, "mark": mark_of(one), "on": one.pk == current.pk}
            for letter, one in zip(("L", "R", "±"), parts, strict=False)
        ]
        if len(parts) > 1
        else [],
    }


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
