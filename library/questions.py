"""Questions of the core's catalogue as checkpoints of a release."""

from assay.catalogue import Question

WORTH_PAIRS = 2
"""How many pairs the catalogue's belief in its frequencies is worth."""


def fields_of(question: Question) -> dict:
    """A checkpoint's fields, but for release and position."""
    return {
        "key": question.key,
        "name": question.name,
        "section": question.section,
        "group": question.group,
        "instruction": question.instruction,
        "kind": "answer",
        "unit": "answer",
        "minutes": question.minutes,
        "caution": question.caution,
        "of_shoe": question.of_shoe,
        "applies_when": list(question.applies_when),
        "answers": [list(answer) for answer in question.answers],
        "prior": {"pairs": WORTH_PAIRS, "rare": dict(question.retail), "copies": dict(question.copies)},
    }
