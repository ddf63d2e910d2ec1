"""Which checkpoints apply to a pair, from facts known before anything is measured.

A condition is data: a list of clauses that must all hold. A clause names a fact and what is asked of it::

    {"fact": "condition", "is": ["deadstock", "tried_on"]}     one of these
    {"fact": "box_size_us", "same_as": "size_us"}              two facts agree
    {"fact": "tools", "has": "uv_lamp"}                        a list holds it
    {"fact": "year", "from": 2022, "to": 2025}                 a number lies within
    {"any": [clause, clause]}                                  one of several clauses

A fact that nobody has said yet voids nothing.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from assay.errors import CannotJudge


class Fact(StrEnum):
    """Facts that a condition may ask for."""

    CONDITION = "condition"
    ARRIVAL = "arrival"
    IN_HAND = "in_hand"
    REFERENCE_IN_HAND = "reference_in_hand"
    REGION = "region"
    GENERATION = "generation"
    RELEASE_GENERATION = "release_generation"
    YEAR = "year"
    SIZE_US = "size_us"
    BOX_SIZE_US = "box_size_us"
    BOX_CLASS = "box_class"
    SIZE_CLASS = "size_class"
    FEET = "feet"
    TOOLS = "tools"


OPERATORS = frozenset({"is", "same_as", "has", "from", "to"})


@dataclass(frozen=True, slots=True)
class Void:
    """The clause that does not hold, and what the fact is instead."""

    fact: str
    asked: str
    """``is``, ``same_as``, ``has`` or ``within``."""
    wanted: object
    got: object


def checked(clauses: object) -> list[dict[str, Any]]:
    """The clauses, if they are a condition. Raises CannotJudge ``bad_condition`` with the clause that is not."""
    if not isinstance(clauses, list):
        raise CannotJudge("bad_condition", clause=str(clauses)[:80])
    for clause in clauses:
        _check(clause)
    return clauses


def why_void(clauses: Sequence[Mapping[str, Any]], facts: Mapping[str, object]) -> Void | None:
    """The first clause that the facts contradict, or None where the checkpoint applies.

    >>> why_void([{"fact": "condition", "is": ["deadstock"]}], {"condition": "worn"})
    Void(fact='condition', asked='is', wanted=['deadstock'], got='worn')
    >>> why_void([{"fact": "condition", "is": ["deadstock"]}], {"condition": ""}) is None
    True
    """
    for clause in clauses:
        found = _contradicted(clause, facts)
        if found:
            return found
    return None


def open_facts(clauses: Sequence[Mapping[str, Any]], facts: Mapping[str, object]) -> list[str]:
    """Facts that the condition asks for and that nobody has said yet."""
    asked = []
    for clause in clauses:
        if "any" in clause:
            asked += open_facts(clause["any"], facts)
        else:
            names = [clause["fact"], *([clause["same_as"]] if "same_as" in clause else [])]
            asked += [name for name in names if unsaid(facts.get(name))]
    return list(dict.fromkeys(asked))


def unsaid(value: object) -> bool:
    """Whether a fact is not known. An empty list is: nothing is on the table."""
    return value is None or value == ""


def _check(clause: object) -> None:
    problem = CannotJudge("bad_condition", clause=str(clause)[:80])
    if not isinstance(clause, dict):
        raise problem
    if set(clause) == {"any"}:
        checked(clause["any"])
        return
    asked = set(clause) - {"fact"}
    known = clause.get("fact") in set(Fact)
    if not known or not asked or not asked <= OPERATORS or (len(asked) > 1 and asked != {"from", "to"}):
        raise problem
    if not isinstance(clause.get("is", []), list) or clause.get("same_as", Fact.YEAR) not in set(Fact):
        raise problem


def _contradicted(clause: Mapping[str, Any], facts: Mapping[str, object]) -> Void | None:
    if "any" in clause:
        found = [_contradicted(one, facts) for one in clause["any"]]
        return next(iter(found), None) if all(found) else None
    name = clause["fact"]
    got = facts.get(name)
    if unsaid(got):
        return None
    if "is" in clause:
        return None if got in clause["is"] else Void(name, "is", clause["is"], got)
    if "has" in clause:
        is_there = isinstance(got, Collection) and clause["has"] in got
        return None if is_there else Void(name, "has", clause["has"], got)
    if "same_as" in clause:
        other = facts.get(clause["same_as"])
        return None if unsaid(other) or other == got else Void(name, "same_as", other, got)
    low, high = clause.get("from", got), clause.get("to", got)
    return None if low <= got <= high else Void(name, "within", [clause.get("from"), clause.get("to")], got)
