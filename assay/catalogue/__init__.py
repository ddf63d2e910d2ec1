"""Questions for hands, eyes and nose that ship with the core as data: ``questions.json``, its form in docs/formats.md.

Frequencies are believed, not measured: common practice, no source. They are where a shop starts; its own pairs move
them.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from assay.errors import AssayError

SCHEMA = "wahrheit-questions/1"


class BadQuestion(AssayError):
    """A question that cannot be asked."""


@dataclass(frozen=True, slots=True)
class Question:
    """One closed question."""

    key: str
    name: str
    section: str
    group: str
    """Part or cause: questions of one group raise one flag."""
    instruction: str
    minutes: float
    caution: str
    of_shoe: bool
    applies_when: tuple[dict[str, Any], ...]
    answers: tuple[tuple[str, str, str], ...]
    """(key, sentence, drawing) each."""
    retail: Mapping[str, float]
    """How often retail pairs give the answers that they seldom give."""
    copies: Mapping[str, float]
    """How often copies give each."""


def questions_from(data: dict[str, Any]) -> tuple[Question, ...]:
    """Questions from plain data. Raises BadQuestion ``bad_question`` (key, what)."""
    if data.get("schema") != SCHEMA:
        raise BadQuestion("bad_question", key="", what="schema")
    found = []
    for entry in data["questions"]:
        try:
            answers = tuple(tuple(answer) for answer in entry["answers"])
            one = Question(**{**entry, "answers": answers, "applies_when": tuple(entry["applies_when"])})
        except (KeyError, TypeError) as error:
            raise BadQuestion("bad_question", key=str(entry.get("key", ""))[:40], what=str(error)[:60]) from error
        keys = [key for key, *_ in one.answers]
        if len(keys) < 2 or len(set(keys)) != len(keys):
            raise BadQuestion("bad_question", key=one.key, what="answers")
        if not set(one.retail) < set(keys) or sum(one.retail.values()) >= 1:
            raise BadQuestion("bad_question", key=one.key, what="retail")
        if set(one.copies) != set(keys) or abs(sum(one.copies.values()) - 1) > 1e-6:
            raise BadQuestion("bad_question", key=one.key, what="copies")
        found.append(one)
    if len({one.key for one in found}) != len(found):
        raise BadQuestion("bad_question", key="", what="the same key twice")
    return tuple(found)


@cache
def catalogue() -> tuple[Question, ...]:
    """The questions that ship with the core."""
    return questions_from(json.loads((Path(__file__).parent / "questions.json").read_text()))
